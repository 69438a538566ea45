"""Windows on one job: what each is sent adds up to what a fresh one sees; crowds; several processes; edits that come twice."""

from __future__ import annotations

import json
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import httpx
from examples import examples
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from opening import merged, opened
from served import load_demo, served
from test_random_edits import edits

from slow_ribbon.core.job.job_file import job_to_text
from slow_ribbon.demo import ferry_house

JSON = {"Content-Type": "application/json"}


def copy_of_demo(client: Any) -> str:
    return str(client.post("/api/jobs/file", content=job_to_text(ferry_house()), headers=JSON).json()["id"])


@settings(max_examples=examples(25), suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
@given(sequence=st.lists(st.one_of(edits, st.sampled_from(["undo", "redo", "preview"])), min_size=1, max_size=8))
def test_what_a_window_is_reported_adds_up_to_what_a_fresh_one_sees(client: TestClient, sequence: list[Any]) -> None:
    id = copy_of_demo(client)
    mine = theirs = opened(client, id)
    for step in sequence:
        body: dict[str, Any] = {"base": mine["revision"]}
        if step in ("undo", "redo"):
            answer = client.post(f"/api/jobs/{id}/{step}", json=body)
        else:
            plain = step if isinstance(step, dict) else {"kind": "set_placing", "runs": ["R12"], "changes": {"lift": 3}}
            answer = client.post(f"/api/jobs/{id}/{'edits' if isinstance(step, dict) else 'preview'}", json={**body, "edits": [plain]})
        assert answer.status_code in (200, 404, 422), answer.text
        if answer.status_code == 200 and step != "preview":
            mine = merged(mine, answer.json())
    fresh = opened(client, id)
    assert mine == fresh
    # A window that slept through all of it, and a server that has forgotten all of it.
    app: Any = client.app
    app.state.bench.desks.forget()
    change = client.get(f"/api/jobs/{id}/changes", params={"since": theirs["revision"]}).json()
    assert merged(theirs, change) == fresh


def test_an_edit_that_is_sent_again_is_made_once(client: TestClient) -> None:
    id = copy_of_demo(client)
    edit = {"kind": "copy_lines", "lines": ["L6"], "by": [0, 500, 0], "copies": True}
    body = {"base": 1, "edits": [edit], "request": "request-0001"}
    first = client.post(f"/api/jobs/{id}/edits", json=body).json()
    again = client.post(f"/api/jobs/{id}/edits", json=body).json()
    assert (first["revision"], again["revision"], again["made"]) == (2, 2, first["made"])
    # Even when it was undone in between, and by whichever base it comes.
    client.post(f"/api/jobs/{id}/undo", json={"base": 2})
    for base in (1, 2):
        assert client.post(f"/api/jobs/{id}/edits", json={**body, "base": base}).json()["revision"] == 1
    assert len(client.get(f"/api/jobs/{id}/history").json()) == 2


def test_an_edit_that_is_sent_again_after_others_changed_the_same_is_made_once(client: TestClient) -> None:
    id = copy_of_demo(client)

    def renamed(name: str, base: int, request: str) -> Any:
        body = {"base": base, "edits": [{"kind": "rename_job", "name": name}], "request": request}
        return client.post(f"/api/jobs/{id}/edits", json=body)

    assert renamed("Mine", 1, "mine-0001").json()["revision"] == 2
    assert renamed("Theirs", 2, "theirs-0001").json()["revision"] == 3
    again = renamed("Mine", 1, "mine-0001").json()
    assert (again["revision"], again["job"]["name"]) == (3, "Theirs")
    assert renamed("Late", 1, "late-00001").status_code == 409
    # What can no longer be made, though it was.
    removal = {"base": 3, "edits": [{"kind": "remove", "ids": ["R12"]}], "request": "removal-01"}
    assert client.post(f"/api/jobs/{id}/edits", json=removal).json()["revision"] == 4
    assert client.post(f"/api/jobs/{id}/edits", json=removal).json()["revision"] == 4


def test_edits_of_different_fields_of_twenty_windows_at_once_are_all_made(client: TestClient) -> None:
    id = copy_of_demo(client)
    start = threading.Barrier(20)
    runs = [run.id for run in ferry_house().runs]
    wanted = [(run, field) for run in runs for field in ("lift", "stand_off")][:20]

    def edit(number: int) -> Any:
        run, field = wanted[number]
        start.wait()
        edits = [{"kind": "set_placing", "runs": [run], "changes": {field: number + 1}}]
        return client.post(f"/api/jobs/{id}/edits", json={"base": 1, "edits": edits})

    with ThreadPoolExecutor(20) as pool:
        answers = list(pool.map(edit, range(20)))
    assert [answer.status_code for answer in answers] == [200] * 20
    job = client.get(f"/api/jobs/{id}").json()["job"]
    placings = {run["id"]: run["placing"] for run in job["runs"]}
    assert [placings[run][field] for run, field in wanted] == list(range(1, 21))


def test_fifteen_edits_at_once_of_cold_jobs_do_not_lock_each_other_out(client: TestClient) -> None:
    ids = [copy_of_demo(client) for _ in range(15)]
    app: Any = client.app
    documents = app.state.bench.jobs.documents
    start = threading.Barrier(15)

    def edit(id: str) -> int:
        start.wait()
        return int(client.post(f"/api/jobs/{id}/edits", json={"base": 1, "edits": [{"kind": "rename_job", "name": "X"}]}).status_code)

    # Nothing in memory: each has to read its document while it holds a connection.
    app.state.bench.jobs.documents = type(documents)()
    with ThreadPoolExecutor(15) as pool:
        assert list(pool.map(edit, ids)) == [200] * 15
    steps = [client.post(f"/api/jobs/{id}/undo", json={"base": 2}).status_code for id in ids]
    assert steps == [200] * 15


class Listener:
    """Hears the events of a job in a thread of its own."""

    def __init__(self, address: str, job: str) -> None:
        self.heard: list[dict[str, Any]] = []
        self._thread = threading.Thread(target=self._listen, args=(f"{address}/api/jobs/{job}/events",), daemon=True)
        self._thread.start()

    def _listen(self, url: str) -> None:
        try:
            with httpx.stream("GET", url, timeout=60) as stream:
                for line in stream.iter_lines():
                    if line.startswith("data: "):
                        self.heard.append(json.loads(line[6:]))
        except httpx.TransportError:
            return

    def until(self, revision: int) -> None:
        until = time.monotonic() + 30
        while not any(event["revision"] == revision for event in self.heard):
            assert time.monotonic() < until, self.heard
            time.sleep(0.02)


def test_several_processes_serve_one_database_as_one(database: str) -> None:
    load_demo(database)
    with served(database, "--processes", "2") as (address, process):
        with httpx.Client(base_url=address, timeout=60) as client:
            while client.get("/api/health").status_code != 200:
                time.sleep(0.1)
        # A connection each, so that several processes answer; each hears what the others save.
        listeners = [Listener(address, "kestrel-slip") for _ in range(6)]
        for listener in listeners:
            listener.until(1)
        base = 1
        for number in range(1, 16):
            headers = {"Connection": "close", "X-Window": "writer"}
            edits = [{"kind": "set_placing", "runs": ["R12"], "changes": {"lift": number}}]
            answer = httpx.post(f"{address}/api/jobs/kestrel-slip/edits", json={"base": base, "edits": edits}, headers=headers, timeout=60)
            assert answer.status_code == 200
            assert answer.json()["since"] == base
            base = answer.json()["revision"]
            key = answer.json()["runs"][0]["key"]
            # A mesh is found by whichever process is asked.
            assert httpx.get(f"{address}/api/jobs/kestrel-slip/meshes/{key}.glb", timeout=60).content[:4] == b"glTF"
        assert base == 16
        for listener in listeners:
            listener.until(16)
            assert [event["by"] for event in listener.heard[1:]] == ["writer"] * (len(listener.heard) - 1)
        process.terminate()
        process.wait(20)


def test_what_the_service_tells_of_itself(client: TestClient) -> None:
    id = copy_of_demo(client)
    received = client.get("/api/health").json()
    assert (received["status"], received["writable"], received["migration"]) == ("well", True, received["migration_wanted"])
    assert received["room"] > 0

    def metric(name: str) -> float:
        found = [line for line in client.get("/metrics").text.splitlines() if line.startswith(name)]
        return float(found[0].split()[-1]) if found else 0.0

    before = metric('slow_ribbon_edits_total{kind="set_placing"}')
    edit = {"kind": "set_placing", "runs": ["R12"], "changes": {"lift": 4}}
    client.post(f"/api/jobs/{id}/edits", json={"base": 1, "edits": [edit]})
    assert metric('slow_ribbon_edits_total{kind="set_placing"}') == before + 1
    assert metric("slow_ribbon_solve_seconds_count") > 0
    assert metric('slow_ribbon_requests_total{method="POST",path="/jobs/{id}/edits",status="200"}') > 0
    assert metric("process_resident_memory_bytes") > 0
    assert metric('slow_ribbon_database_connections{state="in use"}') == 0
