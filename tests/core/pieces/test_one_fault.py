"""A fault at one run is a fault at that run: the list of the others is as it is."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.core.cutting import cutting_list
from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, AddSection, RunChanges, SetRun, apply_all
from slow_ribbon.core.lines import line_body
from slow_ribbon.core.runs.end_surfaces.planes import Nosed
from slow_ribbon.core.runs.pieces import solids
from slow_ribbon.core.runs.pieces.footprints import footprints as footprints_of
from slow_ribbon.core.sections import SectionBody
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.solve import solve, solve_kinds


def job(radius: float) -> Job:
    lines = tuple(line_body([(0, y, 0), (3000, y, 0)], False, name) for y, name in ((0, "One"), (2000, "Two")))
    section = SectionBody(name="Rail", outline=rectangle(40, 120), width=40, height=120)
    end = RunChanges.model_validate({"first_end": {"kind": "rounded", "radius": radius}})
    edits = [AddLines(lines=lines), AddSection(section=section), AddRuns(section="S3", lines=("L1", "L2")), SetRun(run="R4", changes=end)]
    return apply_all(Job(name="Quay"), edits).job


@given(st.one_of(st.floats(0.01, 20), st.floats(0.01, 20).map(lambda radius: math.nextafter(radius, 0)), st.just(2.182175598855425)))
def test_a_rounded_end_of_any_radius_takes_off_what_a_quarter_round_leaves(radius: float) -> None:
    run = solve(job(radius)).runs["R4"]
    assert not run.checks
    # Two quarter rounds, as high as the rail.
    assert float(run.cuts.volumes[0]) == pytest.approx(40 * 120 * 3000 - 2 * (1 - math.pi / 4) * radius**2 * 120, rel=1e-5)


def _broken(*_: Any) -> Any:
    raise IndexError("index 7 is out of bounds")


@pytest.mark.parametrize("where", ["pieces", "figures"])
def test_a_fault_of_one_run_leaves_the_others(where: str, monkeypatch: pytest.MonkeyPatch) -> None:
    whole = cutting_list(solve(job(5)))
    if where == "pieces":
        monkeypatch.setattr(Nosed, "reach", _broken)
    else:
        made = footprints_of

        def broken(cuts: Any) -> Any:
            return _broken() if cuts.shaped else made(cuts)

        monkeypatch.setattr(solve_kinds, "footprints", broken)
    solved = solve(job(5))
    (check,) = solved.runs["R4"].checks
    assert (check.kind, check.severity, check.thing) == ("unsolved", "fault", "R4")
    assert "IndexError" in check.what
    assert [row.long_point for row in cutting_list(solved)] == [row.long_point for row in whole]
    assert not solved.runs["R5"].checks
    assert len(solids.run_solid(solved.runs["R4"].cuts).vertices)
