"""Backing up and restoring, and databases that earlier and later versions of the program wrote."""

from __future__ import annotations

import datetime
import os
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest
from fresh import fresh_database
from sqlalchemy import create_engine, text
from sqlalchemy.engine import make_url

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.solve.solver import solve
from slow_ribbon.demo import ferry_house
from slow_ribbon.store.backup import DAYS, Nightly, back_up, restore
from slow_ribbon.store.database import connect, migrate
from slow_ribbon.store.jobs import Jobs
from slow_ribbon.store.records import Change, Changed

ROOT = Path(__file__).parents[2]
KEPT = sorted((Path(__file__).parent / "kept").glob("*.backup"))


@pytest.fixture
def empty(cluster: str) -> Iterator[str]:
    """The address of a database with nothing in it."""
    with fresh_database(cluster, tables=False) as address:
        yield address


@pytest.mark.parametrize("file", KEPT, ids=lambda path: path.stem)
def test_a_database_of_an_earlier_version_is_brought_up_to_date_and_loses_nothing(file: Path, empty: str) -> None:
    restore(empty, file)
    engine = connect(empty)
    jobs = Jobs(engine)
    opened = jobs.open("kestrel-slip")
    assert (opened.revision, opened.job.name, opened.undo, opened.redo) == (3, "Third", "renamed the job Third", "renamed the job Fourth")
    assert len(solve(opened.job).runs) == len(opened.job.runs) > 0
    assert [(past.number, past.undone) for past in jobs.history("kestrel-slip")] == [(4, True), (3, False), (2, False), (1, False)]
    listed = {summary.name: summary for summary in jobs.summaries()}
    assert listed["Put away"].put_away
    assert (listed["Third"].lines, listed["Third"].runs) == (len(opened.job.lines), len(opened.job.runs))
    assert jobs.originals.get("0" * 64) == ("note.txt", b"kept")
    # And goes on from there: a revision of a document of an old version is followed by a whole one.
    after = jobs.change("kestrel-slip", 3, naming("Fifth"))
    engine.dispose()
    engine = connect(empty)
    assert Jobs(engine).open("kestrel-slip") == after.__class__(**{**vars(after), "made": None})
    engine.dispose()


def test_there_are_dumps_of_three_versions() -> None:
    assert len(KEPT) == 3


def naming(name: str) -> Change:
    return lambda job, _: Changed(job.model_copy(update={"name": name}), [], [f"named {name}"])


def test_a_backup_is_restored_into_a_fresh_cluster(database: str, tmp_path: Path) -> None:
    engine = connect(database)
    jobs = Jobs(engine)
    id = jobs.add(ferry_house(), "loaded")
    for number in range(70):
        jobs.change(id, number + 1, naming(f"Name {number}"))
    jobs.originals.keep("1" * 64, "drawing.dxf", bytes(range(256)) * 100)
    file = tmp_path / "all.backup"
    back_up(database, file)
    assert file.stat().st_mode & 0o077 == 0
    with pytest.raises(Refused, match="there already"):
        back_up(database, file)
    with pytest.raises(Refused, match="not empty"):
        restore(database, file)
    script, name = str(ROOT / "script" / "database"), f"restored-{os.getpid()}"
    fresh = subprocess.run([script, "start", name], check=True, capture_output=True, text=True).stdout.strip()
    try:
        restore(fresh, file)
        other = connect(fresh)
        there = Jobs(other)
        assert there.history(id) == jobs.history(id)
        for revision in (1, 2, 63, 64, 65, 71):
            assert there.at(id, revision) == jobs.at(id, revision)
        assert there.originals.get("1" * 64) == ("drawing.dxf", bytes(range(256)) * 100)
        other.dispose()
    finally:
        subprocess.run([script, "remove", name, "--yes"], check=True)
    engine.dispose()


def test_what_is_no_backup_or_of_a_newer_version_is_refused_and_fills_nothing(empty: str, tmp_path: Path, cluster: str) -> None:
    (tmp_path / "wrong").write_bytes(b"PGDMP nothing")
    with pytest.raises(Refused, match="failed"):
        restore(empty, tmp_path / "wrong")
    with fresh_database(cluster) as newer:
        engine = create_engine(make_url(newer).set(drivername="postgresql+psycopg"))
        with engine.begin() as connection:
            connection.execute(text("UPDATE alembic_version SET version_num = '9999'"))
        back_up(newer, tmp_path / "newer")
        with pytest.raises(Refused, match="newer version") as caught:
            migrate(engine)
        assert caught.value.code == "database-newer"
        engine.dispose()
    with pytest.raises(Refused, match="newer version"):
        restore(empty, tmp_path / "newer")
    restore(empty, KEPT[0])


def test_a_nightly_backup_is_made_once_a_night_and_kept_for_fourteen_days(database: str, tmp_path: Path) -> None:
    engine = connect(database)
    nightly = Nightly(engine, tmp_path / "backups")
    night = datetime.datetime.now().replace(hour=2, minute=10)
    # The first at once, the next at its hour.
    assert nightly.look(night.replace(hour=15)) is not None
    assert nightly.look(night.replace(hour=16)) is None
    made = [nightly.look(night + datetime.timedelta(days=day)) for day in range(1, DAYS + 4)]
    assert all(made)
    left = sorted(path.name for path in (tmp_path / "backups").iterdir())
    assert left == sorted(path.name for path in made[-DAYS - 1 :] if path)
    engine.dispose()


def test_a_minute_without_a_database_ends_no_nightly_backup(database: str, tmp_path: Path) -> None:
    away, engine = connect("postgresql://nobody@127.0.0.1:1/nothing"), connect(database)
    nightly = Nightly(away, tmp_path)
    made: list[int] = []

    class Minutes:
        """Three minutes, in the first of which the database is away."""

        def wait(self, _: float) -> bool:
            made.append(len(list(tmp_path.glob("*.backup"))))
            if len(made) == 2:
                nightly._engine = engine
            return len(made) == 3

    nightly._ended = Minutes()  # type: ignore[assignment]  # as much of an event as is used
    nightly._work()
    assert made == [0, 0, 1]
    for one in (away, engine):
        one.dispose()
