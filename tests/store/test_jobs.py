"""The repository of jobs: revisions, undo and redo, conflicts."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Literal

import pytest
from alembic.config import Config
from alembic.script import ScriptDirectory
from examples import examples
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from slow_ribbon import store
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.demo import ferry_house
from slow_ribbon.store.database import connect, migrations, newest_migration
from slow_ribbon.store.jobs import Jobs
from slow_ribbon.store.records import Change, Changed, Conflict, Unknown


@pytest.fixture
def jobs(database: str) -> Iterator[Jobs]:
    engine = connect(database)
    yield Jobs(engine)
    engine.dispose()


def rename(name: str) -> Change:
    return lambda job, was: None if was else Changed(job.model_copy(update={"name": name}), [], [f"named it {name}"])


def test_a_job_comes_back_as_it_was_kept(jobs: Jobs, database: str) -> None:
    id = jobs.add(ferry_house(), "loaded")
    engine = connect(database)
    assert Jobs(engine).open(id).job == ferry_house()
    engine.dispose()


def test_undo_and_redo_move_a_pointer_and_lose_nothing(jobs: Jobs) -> None:
    id = jobs.add(Job(name="A"), "started")
    for name in "BC":
        jobs.change(id, jobs.current(id), rename(name))
    undone = jobs.step(id, 3, "undo")
    assert (undone.job.name, undone.undo, undone.redo) == ("B", "named it B", "named it C")
    assert jobs.summaries()[0].name == "B"
    # A new edit after an undo starts a new way; the old one stays in the history.
    jobs.change(id, 2, rename("D"))
    assert jobs.open(id).redo is None
    assert [(past.said, past.undone) for past in jobs.history(id)] == [
        ("named it D", False), ("named it C", True), ("named it B", False), ("started", False),
    ]  # fmt: skip
    with pytest.raises(Refused, match="nothing to redo"):
        jobs.step(id, 4, "redo")


def test_an_edit_of_an_old_revision_is_reported_what_changed(jobs: Jobs) -> None:
    id = jobs.add(Job(name="A"), "started")
    jobs.change(id, 1, rename("B"))
    with pytest.raises(Conflict) as caught:
        jobs.change(id, 1, rename("C"))
    assert (caught.value.current, caught.value.changes) == (2, ["named it B"])
    jobs.step(id, 2, "undo")
    with pytest.raises(Conflict) as caught:
        jobs.change(id, 2, rename("C"))
    assert caught.value.changes == ["undone: named it B"]
    assert jobs.open(id).job.name == "A"


def test_a_change_that_fails_saves_nothing(jobs: Jobs) -> None:
    id = jobs.add(Job(name="A"), "started")

    def fail(_: Job, was: Job | None) -> Changed:
        raise Refused("no")

    with pytest.raises(Refused):
        jobs.change(id, 1, fail)
    assert (jobs.current(id), len(jobs.history(id))) == (1, 1)


def test_what_is_not_there_is_unknown(jobs: Jobs) -> None:
    for act in (
        lambda: jobs.open("none"),
        lambda: jobs.change("none", 1, rename("B")),
        lambda: jobs.set_put_away("none", True),
        lambda: jobs.originals.get("0"),
    ):
        with pytest.raises(Unknown):
            act()


@settings(max_examples=examples(15), suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
@given(steps=st.lists(st.sampled_from(["edit", "undo", "redo"]), max_size=14))
def test_undo_and_redo_are_a_list_with_a_finger_on_it(jobs: Jobs, steps: list[Literal["edit", "undo", "redo"]]) -> None:
    id = jobs.add(Job(name="0"), "started")
    names, at, count = ["0"], 0, 0
    for step in steps:
        base = jobs.current(id)
        if step == "edit":
            count += 1
            names = [*names[: at + 1], str(count)]
            at += 1
            jobs.change(id, base, rename(str(count)))
        elif (step == "undo" and at == 0) or (step == "redo" and at == len(names) - 1):
            with pytest.raises(Refused):
                jobs.step(id, base, step)
        else:
            at += 1 if step == "redo" else -1
            jobs.step(id, base, step)
        assert jobs.open(id).job.name == names[at]


def test_the_newest_step_is_that_of_the_migrations() -> None:
    config = Config()
    config.set_main_option("script_location", str(Path(store.__path__[0]) / "migrations").replace("%", "%%"))
    steps = [script.revision for script in ScriptDirectory.from_config(config).walk_revisions()]
    assert migrations() == steps[::-1]
    assert newest_migration() == ScriptDirectory.from_config(config).get_current_head()
