"""Job files of earlier versions, kept as they were written, come out as they did then."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest

from slow_ribbon.core.job.document.document import check_job
from slow_ribbon.core.job.job_file import job_from_data, job_from_text, job_to_text
from slow_ribbon.core.kernel.arrays import CHORD_HEIGHT
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.solve.solver import solve

KEPT = Path(__file__).parent / "kept"
#: Runs round a closed line without a corner, from door to door: they were cut square where the line starts, which was a fault.
CUT_AT_THE_START = {("lamp-mast-1", "R5")}


@pytest.mark.parametrize(
    "name",
    [
        "ferry-house-1",
        "net-loft-1",
        "lamp-mast-1",
        "ferry-house-3",
        "waiting-hall-3",
        "every-kind-3",
        "ferry-house-3-derived",
        "net-store-3",
    ],
)
def test_a_job_file_of_another_day_comes_out_as_it_did_then(name: str) -> None:
    """The figures beside each file were worked out by the program that wrote it: volumes, boxes and places, rolled runs included."""
    job = job_from_text((KEPT / f"{name}.ribbon.json").read_text())
    assert job.version == 4
    check_job(job)
    figures = json.loads((KEPT / f"{name}.figures.json").read_text())
    solved = solve(job)
    assert set(solved.runs) == set(figures["volumes"])
    for id, run in solved.runs.items():
        cut = (name, id) in CUT_AT_THE_START
        then = [sum(figures["volumes"][id])] if cut else figures["volumes"][id]
        assert run.cuts.volumes == pytest.approx(np.array(then), rel=1e-6)
        corners = run.solid().vertices + run.origin
        assert np.array([corners.min(axis=0), corners.max(axis=0)]) == pytest.approx(
            np.array(figures["boxes"][id]), abs=CHORD_HEIGHT if cut else 2e-3
        )
    for id, row in solved.rows.items():
        assert row.out.positions == pytest.approx(np.array(figures["items"][id]), abs=1e-3)
    # Written again it is of this version, and reads back the same.
    assert job_from_text(job_to_text(job)) == job


def test_what_was_named_and_numbered_has_ids() -> None:
    job = job_from_text((KEPT / "net-loft-1.ribbon.json").read_text())
    doors = {opening.name: opening.id for opening in job.line("L1").openings}
    marks = {mark.name: mark.id for mark in job.line("L2").marks}
    (cleats,) = job.rows
    assert (cleats.from_mark, cleats.to_mark) == (marks["Bollard"], marks["Ladder"])
    left, toward, _ = job.runs
    assert left.stretches is not None
    assert [(one.after, one.before) for one in left.stretches] == [(doors["Loft door"], doors["Stair"])]
    assert toward.stretches is not None
    assert len(toward.stretches) == 2
    assert {formula.field for formula in job.formulas} == {f"openings.{doors['Hatch']}.width", f"marks.{marks['Ladder']}.at"}
    # Roll follows the hand now: a section that is seen mirrored tilts mirrored.
    assert (left.placing.roll, toward.placing.roll) == (-12, 7.5)


@pytest.mark.parametrize(
    ("version", "words"),
    [(5, "reads up to version 4"), (0, "which does not exist"), ("1", "which does not exist"), (True, "does not exist")],
)
def test_other_versions_are_refused_in_words(version: object, words: str) -> None:
    with pytest.raises(Refused, match=words) as caught:
        job_from_data({"format": "slow-ribbon-job", "version": version, "name": "x"})
    assert caught.value.where == "version"


def test_a_damaged_file_of_version_1_is_refused_at_its_place() -> None:
    data = json.loads((KEPT / "net-loft-1.ribbon.json").read_text())
    for change, where in (
        ({"lines": 5}, "lines"),
        ({"lines": [{"id": "L1", "name": "x"}]}, "start"),
        ({"rows": [{**data["rows"][0], "from_mark": "Nowhere"}]}, "rows.0.from_mark"),
    ):
        with pytest.raises(Refused) as caught:
            job_from_data(data | change)
        assert caught.value.where == where
