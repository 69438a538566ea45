"""A database in trouble: read-only, locked, slow, full, frozen, killed. Each is reported as what it is, and nothing is lost."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx
import pytest
from fastapi.testclient import TestClient
from served import ROOT, load_demo_by_command, served
from sqlalchemy import create_engine, event, text
from sqlalchemy.engine import make_url
from sqlalchemy.exc import OperationalError

from slow_ribbon.store import database as store_database

SCRIPT = str(ROOT / "script" / "database")
RENAME = [{"kind": "rename_job", "name": "Renamed"}]


def admin(database: str) -> Any:
    return create_engine(make_url(database).set(drivername="postgresql+psycopg"), isolation_level="AUTOCOMMIT")


def edit(client: Any, id: str, base: int = 1) -> Any:
    return client.post(f"/api/jobs/{id}/edits", json={"base": base, "edits": RENAME, "request": "renamed-once"})


def assert_problem(answer: Any, status: int, code: str) -> None:
    assert (answer.status_code, answer.json()["code"]) == (status, code), answer.text
    assert int(answer.headers["retry-after"]) > 0
    assert "safe" in answer.json()["detail"]


def test_a_database_that_can_only_be_read_is_read(client: TestClient, database: str) -> None:
    id = client.post("/api/jobs", json={"name": "Job"}).json()["id"]
    engine = admin(database)
    name = make_url(database).database
    with engine.connect() as connection:
        connection.execute(text(f"ALTER DATABASE {name} SET default_transaction_read_only = on"))
        app: Any = client.app
        app.state.engine.dispose()
        assert_problem(edit(client, id), 503, "database-read-only")
        assert client.get(f"/api/jobs/{id}").json()["job"]["name"] == "Job"
        health = client.get("/api/health")
        assert (health.status_code, health.json()["status"], health.json()["writable"]) == (503, "unwell", False)
        connection.execute(text(f"ALTER DATABASE {name} RESET default_transaction_read_only"))
    app.state.engine.dispose()
    assert edit(client, id).status_code == 200
    assert client.get("/api/health").json()["status"] == "well"
    engine.dispose()


def test_a_lock_held_elsewhere_is_reported_and_holds_up_no_reading(
    client: TestClient, database: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    id = client.post("/api/jobs", json={"name": "Job"}).json()["id"]
    engine = admin(database)
    with engine.connect().execution_options(isolation_level="READ COMMITTED") as connection, connection.begin():
        connection.execute(text("SELECT * FROM jobs WHERE id = :id FOR UPDATE"), {"id": id})
        begin = time.monotonic()
        assert_problem(edit(client, id), 503, "database-locked")
        assert time.monotonic() - begin < store_database.LOCK + 10
        assert client.get(f"/api/jobs/{id}").status_code == 200
    assert edit(client, id).status_code == 200
    engine.dispose()


@pytest.mark.parametrize(
    ("state", "status", "code"),
    [("53100", 507, "database-full"), ("57014", 503, "database-slow"), ("53300", 503, "database-busy"), ("58030", 503, "database")],
)
def test_other_troubles_are_reported_by_what_they_are(client: TestClient, state: str, status: int, code: str) -> None:
    id = client.post("/api/jobs", json={"name": "Job"}).json()["id"]
    app: Any = client.app

    class Trouble(Exception):
        sqlstate = state

    def fail(connection: Any, cursor: Any, statement: str, *_: Any) -> None:
        if "INSERT INTO revisions" in statement:
            raise OperationalError(statement, {}, Trouble("could not extend file"))

    event.listen(app.state.engine, "before_cursor_execute", fail)
    assert_problem(edit(client, id), status, code)
    event.remove(app.state.engine, "before_cursor_execute", fail)
    assert client.get(f"/api/jobs/{id}").json()["revision"] == 1
    assert edit(client, id).status_code == 200


@contextmanager
def cluster_of_its_own(name: str) -> Iterator[str]:
    """Start a cluster, yield its address, and remove it."""
    name = f"{name}-{os.getpid()}"
    started = subprocess.run([SCRIPT, "start", name], check=True, capture_output=True, text=True).stdout.strip()
    try:
        yield started
    finally:
        subprocess.run([SCRIPT, "remove", name, "--yes"], check=True)


def postmaster(address: str) -> int:
    """Return the process that listens at a database's port."""
    engine = admin(address)
    with engine.connect() as connection:
        folder = connection.execute(text("SHOW data_directory")).scalar()
    engine.dispose()
    return int(Path(f"{folder}/postmaster.pid").read_text().splitlines()[0])


def test_a_frozen_database_is_given_up_and_found_again(monkeypatch: pytest.MonkeyPatch) -> None:
    from slow_ribbon.service.app import create_app

    monkeypatch.setattr(store_database, "SILENCE", 2)
    with cluster_of_its_own("frozen") as address:
        engine = admin(address)
        store_database.migrate(store_database.connect(address))
        with TestClient(create_app(address), "http://127.0.0.1", raise_server_exceptions=False) as client:
            id = client.post("/api/jobs", json={"name": "Job"}).json()["id"]
            with engine.connect() as connection:
                servers = [row[0] for row in connection.execute(text("SELECT pid FROM pg_stat_activity WHERE pid IS NOT NULL"))]
            stopped = [postmaster(address), *servers]
            for pid in stopped:
                os.kill(pid, signal.SIGSTOP)
            try:
                begin = time.monotonic()
                assert_problem(edit(client, id), 503, "database")
                assert time.monotonic() - begin < 20
            finally:
                for pid in stopped:
                    os.kill(pid, signal.SIGCONT)
            for _ in range(50):
                if (answer := edit(client, id)).status_code == 200:
                    break
                time.sleep(0.2)
            assert answer.status_code == 200
            # Once, though the database may have made it when it thawed, and have been asked again.
            assert client.get(f"/api/jobs/{id}").json()["revision"] == 2
        engine.dispose()


def test_no_acknowledged_edit_is_lost_when_the_database_is_killed_in_a_stream_of_them() -> None:
    with cluster_of_its_own("killed") as address:
        load_demo_by_command(address)
        with served(address) as (url, _), httpx.Client(base_url=url, timeout=60) as client:
            saved: list[tuple[int, float]] = []
            ended = threading.Event()

            def stream() -> None:
                base, number = 1, 0
                while not ended.is_set():
                    number += 1
                    edits = [{"kind": "set_placing", "runs": ["R12"], "changes": {"lift": number}}]
                    request = f"stream-{number:06d}"
                    # Sent until it is answered, as a window does; made once however often.
                    while not ended.is_set():
                        answer = client.post("/api/jobs/kestrel-slip/edits", json={"base": base, "edits": edits, "request": request})
                        if answer.status_code == 200:
                            break
                        assert answer.status_code == 503, answer.text
                        time.sleep(0.1)
                    else:
                        return
                    base = answer.json()["revision"]
                    saved.append((base, number))

            writer = threading.Thread(target=stream)
            writer.start()
            for _ in range(2):
                known = len(saved)
                while len(saved) < known + 15:
                    time.sleep(0.02)
                    assert writer.is_alive()
                os.kill(postmaster(address), signal.SIGKILL)
                # The same port, so that the server finds it again by itself.
                again = subprocess.run([SCRIPT, "start", f"killed-{os.getpid()}"], check=True, capture_output=True, text=True)
                assert again.stdout.strip() == address
            known = len(saved)
            while len(saved) < known + 5:
                time.sleep(0.02)
                assert writer.is_alive()
            ended.set()
            writer.join(60)
            history = client.get("/api/jobs/kestrel-slip/history").json()
            now = client.get("/api/jobs/kestrel-slip").json()
    assert [revision for revision, _ in saved] == list(range(2, len(saved) + 2))
    assert [past["number"] for past in history] == list(range(now["revision"], 0, -1))
    assert now["revision"] - saved[-1][0] in (0, 1)


def test_starting_a_database_never_removes_its_data() -> None:
    with cluster_of_its_own("kept") as address:
        engine = admin(address)
        with engine.connect() as connection:
            connection.execute(text("CREATE TABLE worth (keeping int); INSERT INTO worth VALUES (7)"))
        engine.dispose()
        name = f"kept-{os.getpid()}"
        secret = ROOT / ".local" / f"database-{name}"
        for lose in (lambda: secret.unlink(), lambda: secret.write_text(""), lambda: secret.write_text("0" * 48)):
            lose()
            done = subprocess.run([SCRIPT, "start", name], check=True, capture_output=True, text=True)
            assert "a new one is set" in done.stderr
            engine = admin(done.stdout.strip())
            with engine.connect() as connection:
                assert connection.execute(text("SELECT keeping FROM worth")).scalar() == 7
            engine.dispose()
            assert make_url(done.stdout.strip()).port == make_url(address).port
        refused = subprocess.run([SCRIPT, "remove", name], capture_output=True, text=True, check=False, stdin=subprocess.DEVNULL)
        assert refused.returncode == 2
        assert "--yes" in refused.stderr
        listed = subprocess.run(["ps", "-eo", "args"], check=True, capture_output=True, text=True).stdout
        assert not re.search(secret.read_text(), listed)
