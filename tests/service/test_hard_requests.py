"""Requests that nobody sends in good faith, or that break off: answered in words, and nobody else waits."""

from __future__ import annotations

import io
import json
import threading
import time
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from PIL import Image

from slow_ribbon.core.job import Job
from slow_ribbon.core.kernel import Refused
from slow_ribbon.exports.points import points_csv
from slow_ribbon.imports.pictures import read_picture
from slow_ribbon.service.app import create_app
from slow_ribbon.store.database import ADDRESS_FILE, connect
from slow_ribbon.store.jobs import Jobs
from slow_ribbon.store.records import Changed


@pytest.fixture
def served(database: str, tmp_path: Path) -> Any:
    (tmp_path / "index.html").write_text("<p>Slow Ribbon")
    with TestClient(create_app(database, tmp_path), base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
        yield client


def test_addresses_that_name_no_file_are_not_here(served: TestClient) -> None:
    for path in ("/a%00b", "/assets/%00", f"/{'a' * 300}", "/api/jobs/%00", f"/api/jobs/{'a' * 300}"):
        assert served.get(path).status_code in (200, 404), path
    assert served.get("/a%00b").status_code == 404
    assert served.head("/").status_code == 200


def test_a_job_file_with_half_a_character_is_refused(served: TestClient) -> None:
    plain = json.loads(Job(name="Quay").model_dump_json())
    odd = (
        {"files": {"0" * 64: "\ud800"}},
        {"files": {"\ud800": "AAAA"}},
        {"\ud800": 1},
        {"measures": [{"\ud800": 1}]},
        {"\ud800": "x" * 600_000},
    )
    for more in odd:
        body = json.dumps({**plain, **more})
        answer = served.post("/api/jobs/file", content=body, headers={"Content-Type": "application/json"})
        assert 400 <= answer.status_code < 500, (more, answer.text)


def test_a_request_that_is_no_file_is_small(served: TestClient) -> None:
    id = served.post("/api/jobs", json={"name": "Quay"}).json()["id"]
    body = {"base": 1, "edits": [{"kind": "add_lines", "lines": [{}] * 400_000}]}
    answer = served.post(f"/api/jobs/{id}/edits", json=body)
    assert (answer.status_code, answer.json()["code"]) == (413, "too-large")
    assert "in parts" in answer.json()["detail"]


def test_another_scheme_is_another_origin(served: TestClient) -> None:
    assert served.post("/api/jobs", json={"name": "A"}, headers={"Origin": "http://127.0.0.1"}).status_code == 201
    assert served.post("/api/jobs", json={"name": "A"}, headers={"Origin": "https://127.0.0.1"}).status_code == 403


def test_figures_are_documented_as_what_they_are(served: TestClient) -> None:
    received = served.get("/api/openapi.json").json()["paths"]["/api/jobs/{id}/figures"]["get"]["responses"]["200"]["content"]
    assert list(received) == ["application/x-ndjson"]


def test_a_small_picture_that_unfolds_to_a_large_one_is_refused_before_it_is_unfolded(tmp_path: Path) -> None:
    out = io.BytesIO()
    Image.new("1", (12_000, 12_000)).save(out, "PNG")
    path = tmp_path / "empty.png"
    path.write_bytes(out.getvalue())
    assert path.stat().st_size < 40_000
    with pytest.raises(Refused, match=r"unfolds from \d+ kB to 12000 × 12000 pixels"):
        read_picture(path, 0)


def test_names_of_places_run_nothing_in_a_list_of_points(served: TestClient) -> None:
    from slow_ribbon.core.job.edits import AddLines, AddTypical, NewPlace, NewTypical, apply_all
    from slow_ribbon.core.lines import line_body
    from slow_ribbon.core.solve import solve

    typical = NewTypical(name="Bay", lines=("L1",), places=(NewPlace(name="=1+1", at=(0, 5000, 0)),))
    lines = AddLines(lines=(line_body([(0, 0, 0), (1000, 0, 0)], False, "Wall"),))
    received = points_csv(solve(apply_all(Job(name="Quay"), [lines, AddTypical(typical=typical)]).job)).decode()
    assert "'=1+1 L1.1" in received
    assert "\n=1+1" not in received


def test_a_costly_change_gets_its_turn_while_others_are_made_without_pause(database: str) -> None:
    jobs = Jobs(connect(database))
    from slow_ribbon.store.database import migrate

    engine = connect(database)
    migrate(engine)
    id = jobs.add(Job(name="Quay"), "started")
    over = threading.Event()
    made = 0

    def quick() -> None:
        nonlocal made
        while not over.is_set():
            jobs.change(
                id, jobs.current(id), lambda job, _: Changed(job.model_copy(update={"notes": f"{time.monotonic()}"}), [], ["typed"])
            )
            made += 1

    def costly(job: Job, _: Job | None) -> Changed:
        time.sleep(0.4)
        return Changed(job.model_copy(update={"name": "Quay, done"}), [], ["renamed"])

    typing = threading.Thread(target=quick)
    typing.start()
    try:
        begun = time.monotonic()
        jobs.change(id, jobs.current(id), costly)
        took = time.monotonic() - begun
    finally:
        over.set()
        typing.join()
    assert jobs.open(id).job.name == "Quay, done"
    assert made > 3
    # It loses twice, and is then made alone; without that it never is.
    assert took < 20


def test_a_database_that_comes_back_elsewhere_is_found_by_the_file_that_says_where(
    database: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    file = tmp_path / "address"
    file.write_text("postgresql://nobody:x@127.0.0.1:1/postgres")
    monkeypatch.setenv(ADDRESS_FILE, str(file))
    engine = connect(database)
    with pytest.raises(Exception, match="refused"):
        engine.connect()
    file.write_text(database + "\n")
    with engine.connect() as connection:
        assert connection.exec_driver_sql("SELECT 1").scalar() == 1
