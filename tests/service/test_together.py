"""Several at once: windows that edit one job together, servers that start together."""

from __future__ import annotations

import threading
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from fastapi.testclient import TestClient
from sqlalchemy import text

from slow_ribbon.core.job import Job
from slow_ribbon.store.database import connect, migrate
from slow_ribbon.store.jobs import Jobs


def test_of_many_edits_of_one_revision_exactly_one_is_saved(client: TestClient) -> None:
    id = client.post("/api/jobs", json={"name": "Busy"}).json()["id"]
    start = threading.Barrier(6)

    def edit(number: int) -> Any:
        start.wait()
        edits = [{"kind": "rename_job", "name": f"Name {number}"}]
        return client.post(f"/api/jobs/{id}/edits", json={"base": 1, "edits": edits})

    with ThreadPoolExecutor(6) as pool:
        answers = list(pool.map(edit, range(6)))
    assert sorted(answer.status_code for answer in answers) == [200, 409, 409, 409, 409, 409]
    won = next(answer.json() for answer in answers if answer.status_code == 200)
    assert client.get(f"/api/jobs/{id}").json()["job"]["name"] == won["job"]["name"]
    for answer in answers:
        if answer.status_code == 409:
            assert answer.json()["changes"] == [f"renamed the job {won['job']['name']}"]


def test_windows_that_repeat_their_edit_on_top_all_get_through(client: TestClient) -> None:
    id = client.post("/api/jobs", json={"name": "Busy"}).json()["id"]

    def window(number: int) -> None:
        base = 1
        line = {"name": f"Line {number}", "start": [0, number * 100, 0], "legs": [{"kind": "straight", "to": [1000, number * 100, 0]}]}
        for _ in range(60):
            answer = client.post(f"/api/jobs/{id}/edits", json={"base": base, "edits": [{"kind": "add_lines", "lines": [line]}]})
            if answer.status_code == 200:
                return
            base = answer.json()["current"]
        raise AssertionError("an edit never got through")

    with ThreadPoolExecutor(5) as pool:
        list(pool.map(window, range(5)))
    shown = client.get(f"/api/jobs/{id}").json()
    assert sorted(line["name"] for line in shown["job"]["lines"]) == [f"Line {number}" for number in range(5)]
    assert len({line["id"] for line in shown["job"]["lines"]}) == 5
    assert shown["revision"] == 6


def test_servers_that_start_together_migrate_once(database: str) -> None:
    engine = connect(database)
    with engine.begin() as connection:
        for table in ("revisions", "jobs", "originals", "alembic_version"):
            connection.execute(text(f"DROP TABLE {table}"))
    with ThreadPoolExecutor(4) as pool:
        list(pool.map(lambda _: migrate(engine), range(4)))
    jobs = Jobs(engine)
    id = jobs.add(Job(name="After"), "started")
    assert jobs.open(id).job == Job(name="After")
    engine.dispose()
