"""The list of jobs: the last change of each and who made it, its faults, and a small plan."""

from __future__ import annotations

import re
from typing import Any
from urllib.parse import quote
from xml.etree import ElementTree

import numpy as np
import pytest
from fastapi.testclient import TestClient
from opening import opened

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.job_file import job_to_text
from slow_ribbon.core.lines.legs import ArcLeg
from slow_ribbon.core.lines.model import Line, line_body, with_id
from slow_ribbon.demo import ferry_house
from slow_ribbon.service.views.small_plan import HIGH, WIDE, small_plan

ANN = {"X-Author": quote("Änn  O’Weir\u0007")}
LIFT = {"kind": "set_placing", "runs": ["R12"], "changes": {"lift": 12}}


@pytest.fixture
def demo(client: TestClient) -> str:
    made = client.post("/api/jobs/file", content=job_to_text(ferry_house()), headers={"Content-Type": "application/json"})
    return str(made.json()["id"])


def listed(client: TestClient) -> Any:
    (job,) = client.get("/api/jobs").json()
    return job


def test_each_job_tells_its_last_change_and_who_made_it(client: TestClient, demo: str) -> None:
    assert (listed(client)["said"], listed(client)["author"]) == ("opened from a job file", None)
    client.post(f"/api/jobs/{demo}/edits", json={"base": 1, "edits": [LIFT]}, headers=ANN)
    client.post(f"/api/jobs/{demo}/edits", json={"base": 2, "edits": [{"kind": "rename_job", "name": "Slip"}]}, headers={"X-Author": "%07"})
    assert (listed(client)["said"], listed(client)["author"], listed(client)["revision"]) == ("renamed the job Slip", None, 3)
    client.post(f"/api/jobs/{demo}/undo", json={"base": 3})
    assert (listed(client)["said"], listed(client)["author"]) == ("changed lift of Skirting, door to door", "Änn O’Weir")
    history = client.get(f"/api/jobs/{demo}/history").json()
    assert [past["author"] for past in history] == [None, "Änn O’Weir", None]


def test_faults_are_those_of_the_revision_a_job_stands_on(client: TestClient, demo: str) -> None:
    assert listed(client)["faults"] is None
    known = sum(check["severity"] == "fault" for checks in opened(client, demo)["checks"].values() for check in checks)
    assert listed(client)["faults"] == known == 1
    # The handrail's section turned at its corner misses in another way, or no longer: the list reports what opening the job reports.
    roll = {"kind": "set_placing", "runs": ["R18"], "changes": {"roll": 77}}
    assert client.post(f"/api/jobs/{demo}/edits", json={"base": 1, "edits": [roll]}).status_code == 200
    severities = [check["severity"] for checks in opened(client, demo)["checks"].values() for check in checks]
    assert (listed(client)["faults"], listed(client)["warnings"]) == (severities.count("fault"), severities.count("warning"))
    assert severities
    client.post(f"/api/jobs/{demo}/undo", json={"base": 2})
    assert listed(client)["faults"] == 1


def test_the_small_plan_is_kept_for_ever_and_unknown_revisions_are_reported(client: TestClient, demo: str) -> None:
    answer = client.get(f"/api/jobs/{demo}/plan.svg?revision=1")
    assert answer.headers["content-type"].startswith("image/svg+xml")
    assert "immutable" in answer.headers["cache-control"]
    # Runs or rows stand on all its lines but one, from which another is set out.
    assert len(ElementTree.fromstring(answer.content)) == 2
    assert client.get(f"/api/jobs/{demo}/plan.svg?revision=9").status_code == 404


def numbers(svg: str) -> np.ndarray[Any, Any]:
    """Return the points of all paths of a plan, (n, 2)."""
    return np.array([pair.split() for d in re.findall(r' d="([^"]+)"', svg) for pair in re.split("[ML]", d) if pair], dtype=float)


def lines_of(*shapes: list[tuple[float, float, float]]) -> tuple[Line, ...]:
    return tuple(with_id(line_body(points, False, f"Line {number}"), f"L{number}") for number, points in enumerate(shapes, 1))


def test_a_small_plan_fills_its_room_and_stays_within_it() -> None:
    half = with_id(line_body([(1000, 0, 0), (-1000, 0, 0)], False, "Half"), "L1")
    half = half.model_copy(update={"legs": (ArcLeg(via=(0, 1000, 0), to=(-1000, 0, 0)),)})
    points = numbers(small_plan(Job(name="Half", lines=(half,), last_number=1)))
    # Twice as wide as high: it takes the whole width, in the middle of the height, and hangs from its arc.
    assert np.ptp(points, axis=0) == pytest.approx([WIDE - 8, (WIDE - 8) / 2], abs=0.11)
    assert points.mean(axis=0)[0] == pytest.approx(WIDE / 2, abs=0.5)
    radii = np.hypot(points[:, 0] - WIDE / 2, points[:, 1] - (HIGH + (WIDE - 8) / 2) / 2)
    assert radii == pytest.approx((WIDE - 8) / 2, abs=0.15)
    for shapes in ([[(0.0, 0.0, 0.0), (0.0, 0.0, 900.0)]], [[(0.0, 0.0, 0.0), (5.0, 0.0, 0.0)], [(1e7, 1e7, 0.0), (1e7, 2e7, 0.0)]]):
        found = numbers(small_plan(Job(name="Odd", lines=lines_of(*shapes), last_number=2)))
        assert np.all((found >= 0) & (found <= [WIDE, HIGH]))
    assert numbers(small_plan(Job(name="Nothing"))).size == 0
    many = [[(100.0 * i, 0.0, 0.0), (100.0 * i, 50.0 + i, 0.0)] for i in range(4000)]
    assert len(small_plan(Job(name="Many", lines=lines_of(*many), last_number=4000))) < 60_000
