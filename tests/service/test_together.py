"""Several at once: windows that edit one job together, servers that start together."""

from __future__ import annotations

import threading
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from fastapi.testclient import TestClient
from sqlalchemy import text

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.job_file import job_from_data, job_to_text
from slow_ribbon.demo import ferry_house
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


def test_edits_of_different_fields_from_one_old_revision_are_all_saved(client: TestClient) -> None:
    """Every window has seen revision 1 only; each says one field of its own, all at once, and every one of them stands."""
    made = client.post("/api/jobs/file", content=job_to_text(ferry_house()), headers={"Content-Type": "application/json"})
    id = made.json()["id"]
    edits: list[dict[str, Any]] = [
        {"kind": "set_row", "row": "I20", "changes": {"spacing": {"inset_start": 100}}},
        {"kind": "set_row", "row": "I20", "changes": {"spacing": {"inset_end": 50}}},
        {"kind": "set_row", "row": "I20", "changes": {"spacing": {"rule": {"centres": 2500}}}},
        {"kind": "move_vertex", "line": "L4", "point": 0, "to": [-5000, None, None]},
        {"kind": "move_vertex", "line": "L4", "point": 0, "to": [None, -7000, None]},
        {"kind": "set_placing", "runs": ["R12"], "changes": {"facing": {"point": [6000, None, None]}}},
        {"kind": "set_opening", "line": "L3", "opening": "O34", "changes": {"width": 1700}},
        {"kind": "add_lines", "lines": [{"name": "new", "start": [0, 0, 0], "legs": [{"kind": "straight", "to": [5, 0, 0]}]}]},
    ]
    start = threading.Barrier(len(edits))

    def send(edit: dict[str, Any]) -> Any:
        start.wait()
        return client.post(f"/api/jobs/{id}/edits", json={"base": 1, "edits": [edit]})

    with ThreadPoolExecutor(len(edits)) as pool:
        answers = list(pool.map(send, edits))
    assert [answer.status_code for answer in answers] == [200] * len(edits), [answer.text[:200] for answer in answers]
    job = job_from_data(client.get(f"/api/jobs/{id}").json()["job"])
    row = job.row("I20")
    assert (row.spacing.inset_start, row.spacing.inset_end) == (100, 50)
    assert getattr(row.spacing.rule, "centres", None) == 2500
    assert job.line("L4").start[:2] == (-5000, -7000)
    assert job.line("L3").openings[0].width == 1700
    assert answers[-1].json()["made"] == [job.lines[-1].id]
    # Of the same field the one that comes later is refused, and what both touch in part too.
    for late in (edits[0], {"kind": "remove", "ids": ["I20"]}):
        assert client.post(f"/api/jobs/{id}/edits", json={"base": 1, "edits": [late]}).status_code == 409


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
        for table in ("revisions", "jobs", "originals", "shop_versions", "shop_sections", "supplier_answers", "alembic_version"):
            connection.execute(text(f"DROP TABLE {table}"))
    with ThreadPoolExecutor(4) as pool:
        list(pool.map(lambda _: migrate(engine), range(4)))
    jobs = Jobs(engine)
    id = jobs.add(Job(name="After"), "started")
    assert jobs.open(id).job == Job(name="After")
    engine.dispose()


def test_a_point_that_another_window_put_in_makes_no_other_of_those_after_it(client: TestClient) -> None:
    made = client.post("/api/jobs/file", content=job_to_text(ferry_house()), headers={"Content-Type": "application/json"})
    id = made.json()["id"]
    before = ferry_house().line("L4").points().tolist()
    for edit in (
        {"kind": "insert_vertex", "line": "L4", "after": 0, "at": [-1300, -8050, 0]},
        {"kind": "move_vertex", "line": "L4", "point": 2, "to": [None, None, 25]},
    ):
        answer = client.post(f"/api/jobs/{id}/edits", json={"base": 1, "edits": [edit]})
        assert answer.status_code == 200, answer.text
    after = job_from_data(client.get(f"/api/jobs/{id}").json()["job"]).line("L4").points().tolist()
    assert after == [before[0], [-1300, -8050, 0], before[1], [*before[2][:2], 25], before[3]]
