"""Heavy work of one user: done apart with limits, to the same figures, while others go on."""

from __future__ import annotations

import dataclasses
import math
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import httpx
import psutil
import pytest
from fastapi.testclient import TestClient
from opening import opened
from served import served

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.runs import SetRun
from slow_ribbon.core.job.job_file import job_to_text
from slow_ribbon.core.kernel.patience import TooLong, look_up, patience
from slow_ribbon.core.sections.outline.outline import OutlinePen
from slow_ribbon.demo.ferry_house import ferry_house
from slow_ribbon.sandbox import Report, Stopped, work_apart
from slow_ribbon.service.work import heavy
from slow_ribbon.service.work.tasks import Task
from slow_ribbon.service.work.turns import TURN

#: A curve of degree 13 that folds back on itself many times.
FOLDS = [[1000 * i / 13, 900 * (-1) ** i, 100 * (i % 3)] for i in range(1, 13)]


def star(points: int) -> dict[str, Any]:
    """An outline of many short edges."""
    angles = [2 * math.pi * i / points for i in range(points)]
    places = [(30 + 30 * (1 + i % 2 / 10) * math.cos(a), 30 + 30 * (1 + i % 2 / 10) * math.sin(a)) for i, a in enumerate(angles)]
    pen = OutlinePen(*places[0])
    for x, y in places[1:]:
        pen = pen.line(x, y)
    return pen.close().model_dump(mode="json")


def work_for(seconds: float) -> None:
    begin = time.thread_time()
    while time.thread_time() - begin < seconds:
        look_up()


def folding(curves: int) -> dict[str, Any]:
    legs = [{"kind": "curve", "to": [1000 * (n + 1), 0, 0], "controls": [[x + 1000 * n, y, z] for x, y, z in FOLDS]} for n in range(curves)]
    return {"name": "Folds", "start": [0, 0, 0], "legs": legs}


def zigzag(corners: int) -> dict[str, Any]:
    legs = [{"kind": "straight", "to": [1000 * (n + 1), n % 2 * 500, 0]} for n in range(corners)]
    return {"name": "Zigzag", "start": [0, 0, 0], "legs": legs}


def edit(client: httpx.Client, id: str, base: int, *edits: dict[str, Any]) -> httpx.Response:
    return client.post(f"/api/jobs/{id}/edits", json={"base": base, "edits": list(edits)}, timeout=120)


def job_with(client: httpx.Client, line: dict[str, Any], edges: int) -> tuple[str, dict[str, Any]]:
    """Return the id of a job with a line and a section, and an edit that makes a run of them."""
    id = client.post("/api/jobs", json={"name": "Heavy"}).json()["id"]
    section = {"name": "Star", "outline": star(edges), "width": 60, "height": 60}
    made = edit(client, id, 1, {"kind": "add_lines", "lines": [line]}, {"kind": "add_section", "section": section})
    assert made.status_code == 200, made.text
    return id, {"kind": "add_runs", "lines": ["L1"], "section": "S2", "placing": {"facing": {"kind": "right"}}}


def test_patience_ends_what_takes_too_long_and_nothing_else() -> None:
    look_up(10**12)
    with patience(0.02):
        with pytest.raises(TooLong):
            look_up(10**9)
        # An inner patience is no longer than the outer.
        with patience(60), pytest.raises(TooLong):
            work_for(5)
    look_up()


def test_what_is_worked_out_apart_is_the_same(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    text = job_to_text(ferry_house())
    rail = next(run for run in ferry_house().runs if "tube" in run.name.lower() or "rail" in run.name.lower())
    changes: list[dict[str, Any]] = [
        {"kind": "set_placing", "runs": [rail.id], "changes": {"stand_off": 12}},
        {"kind": "copy_lines", "lines": [rail.line], "by": [100, 200, 300], "times": 2, "copies": True},
    ]

    def all_of_it(apart: bool) -> list[Any]:
        monkeypatch.setattr(heavy, "AT_HAND", -1.0 if apart else 1e9)
        id = client.post("/api/jobs/file", content=text, headers={"Content-Type": "application/json"}).json()["id"]
        received = opened(client, id)
        edited = edit(client, id, 1, *changes)
        assert edited.status_code == 200, edited.text
        keys = [run["key"] for run in edited.json()["runs"]]
        meshes = [client.get(f"/api/jobs/{id}/meshes/{key}.glb").content for key in keys]
        handed = [client.get(f"/api/jobs/{id}/{name}") for name in ("cutting-list.csv", "model.glb")]
        assert all(one.status_code == 200 for one in handed)
        strays = client.post(f"/api/jobs/{id}/simpler", json={"lines": [rail.line], "tolerance": 5}).json()
        plain = [{name: value for name, value in one.items() if name != "id"} for one in (received, edited.json())]
        return [*plain, meshes, [one.content for one in handed], strays]

    made: list[Any] = []

    def counted(*args: Any) -> Any:
        made.append(args[0])
        return work_apart(*args)

    monkeypatch.setattr(heavy, "work_apart", counted)
    at_hand = all_of_it(False)
    assert not made
    apart = all_of_it(True)
    assert len(made) > 20
    assert apart == at_hand


def test_heavy_work_is_refused_within_limits_while_others_go_on(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    id, run = job_with(client, folding(10), 200)
    monkeypatch.setattr(heavy, "BOUNDS", dataclasses.replace(heavy.BOUNDS, seconds=4))
    other = client.post("/api/jobs", json={"name": "Light"}).json()["id"]
    with ThreadPoolExecutor(1) as pool:
        refused = pool.submit(edit, client, id, 2, run)
        made = 0
        while not refused.done():
            line = {"name": "Light", "start": [0, 0, 0], "legs": [{"kind": "straight", "to": [1000, 0, 0]}]}
            answer = edit(client, other, made + 1, {"kind": "add_lines", "lines": [line]})
            assert answer.status_code == 200
            made += 1
    # It had its turn at hand, and was then away for four seconds of processor time.
    assert made > 20
    answer = refused.result()
    assert (answer.status_code, answer.json()["code"]) == (422, "too-heavy"), answer.text
    assert "longer than 4 s" in answer.json()["detail"]
    assert "nothing was changed" in answer.json()["detail"]
    assert client.get(f"/api/jobs/{id}").json()["revision"] == 2
    # The next edit of the same job is made.
    monkeypatch.undo()
    lighter = edit(client, id, 2, {"kind": "set_leg", "line": "L1", "leg": 0, "changes": {"kind": "straight"}})
    assert lighter.status_code == 200


def test_few_wait_for_heavy_work_and_the_rest_are_asked_to_come_again(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    id, run = job_with(client, folding(10), 200)
    monkeypatch.setattr(heavy, "BOUNDS", dataclasses.replace(heavy.BOUNDS, seconds=3))
    # On a busy machine the first are done before the last have come: of twelve some always come in between.
    with ThreadPoolExecutor(12) as pool:
        answers = [one.result() for one in [pool.submit(edit, client, id, 2, run) for _ in range(12)]]
    assert sorted({answer.status_code for answer in answers}) == [422, 503]
    turned_away = [answer for answer in answers if answer.status_code == 503]
    assert len(turned_away) >= 3
    assert all("Retry-After" in answer.headers for answer in turned_away)
    with TURN:
        assert not TURN._waiting


def test_a_mesh_of_millions_of_triangles_takes_the_server_no_memory(database: str) -> None:
    with served(database) as (address, process), httpx.Client(base_url=address, timeout=120) as client:
        while client.get("/api/health").status_code != 200:
            time.sleep(0.1)
        id, run = job_with(client, zigzag(2000), 2000)
        made = edit(client, id, 2, run)
        assert made.status_code == 200, made.text
        key = made.json()["runs"][0]["key"]
        server, most, watching = psutil.Process(process.pid), 0, threading.Event()

        def watch() -> None:
            nonlocal most
            while not watching.wait(0.02):
                most = max(most, server.memory_info().rss)

        watcher = threading.Thread(target=watch)
        before = server.memory_info().rss
        watcher.start()
        answers = [client.get(f"/api/jobs/{id}/{name}") for name in (f"meshes/{key}.glb", "model.glb", "cutting-list.csv")]
        watching.set()
        watcher.join()
        assert [answer.status_code for answer in answers[:2]] == [422, 422], [answer.text[:200] for answer in answers]
        assert answers[0].json()["code"] in ("mesh-too-large", "too-heavy")
        assert answers[2].status_code == 200
        assert most - before < 250e6


def thirds(seconds: float, report: Report) -> str:
    """Work that reports each third of it."""
    for third in (1, 2, 3):
        work_for(seconds / 3)
        report(third / 3)
    return "done"


@pytest.mark.parametrize("seconds", [0.01, 1.0])
def test_watched_work_reports_its_progress_at_hand_and_apart(seconds: float, monkeypatch: pytest.MonkeyPatch) -> None:
    shares: list[float | None] = []
    monkeypatch.setattr(Task, "tell", lambda _, share: shares.append(share))
    assert heavy.watched(Task(), thirds, seconds) == "done"
    # What was begun at hand and given up is begun again.
    assert shares[-3:] == [1 / 3, 2 / 3, 1]


def test_watched_work_that_is_stopped_ends_at_once() -> None:
    task = Task()
    threading.Timer(0.6, lambda: setattr(task, "stopped", True)).start()
    begin = time.monotonic()
    with pytest.raises(Stopped):
        heavy.watched(task, thirds, 20.0)
    assert time.monotonic() - begin < 8


def test_a_job_stays_whole_when_edits_come_back_from_elsewhere(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    """What an edit leaves as it was is the same object afterwards, though it was made in another process."""
    job: Job = ferry_house()
    monkeypatch.setattr(heavy, "AT_HAND", -1.0)
    made = heavy.applied(job, [SetRun.model_validate({"kind": "set_run", "run": job.runs[0].id, "changes": {"name": "Renamed"}})])
    assert [a is b for a, b in zip(made.job.runs, job.runs, strict=True)] == [False] + [True] * (len(job.runs) - 1)
    assert made.job.lines is job.lines
    assert made.job.sections is job.sections
