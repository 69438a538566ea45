"""Pieces that end on a block or an upright piece too small for their section: found, and no others, against solids (manifold3d)."""

from __future__ import annotations

import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from making import mesh

from slow_ribbon.core.geometry.bodies import body_of
from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, AddSection, RunChanges, SetRun, apply_all
from slow_ribbon.core.lines import line_body
from slow_ribbon.core.runs.pieces.solids import piece_solid
from slow_ribbon.core.sections import SectionBody
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.solve import SolvedRun, solve


def corner(turn: float, deep: float, made: dict[str, object], facing: str, rise: float = 0.0) -> SolvedRun:
    angle = math.radians(turn)
    line = line_body([(0, 0, 0), (3000, 0, 0), (3000 + 3000 * math.cos(angle), 3000 * math.sin(angle), rise)], False, "Wall")
    section = SectionBody(name="Plinth", outline=rectangle(deep, 90), width=deep, height=90)
    changes = RunChanges.model_validate({"corners": made, "external": made})
    placing = {"facing": {"kind": facing}}
    runs = AddRuns.model_validate({"section": "S2", "lines": ["L1"], "placing": placing})
    edits = [AddLines(lines=(line,)), AddSection(section=section), runs, SetRun(run="R3", changes=changes)]
    return solve(apply_all(Job(name="Hall"), edits).job).runs["R3"]


def shared(run: SolvedRun) -> float:
    bodies = []
    for piece in (0, 1):
        body = mesh(piece_solid(run.cuts, piece, run.origin))
        bodies.append(body_of(body.vertices, body.faces))
    return float((bodies[0] ^ bodies[1]).volume())


def test_a_block_smaller_than_its_section_is_reported() -> None:
    run = corner(90, 80, {"kind": "block", "size": 100}, "left")
    assert shared(run) == pytest.approx(30 * 30 * 90)
    (check,) = run.checks
    assert (check.kind, check.severity, check.point) == ("small-block", "fault", (3000, 0, 0))
    assert "at least" in check.remedy
    assert not corner(90, 80, {"kind": "block", "size": 160}, "left").checks
    # On the outside nothing reaches past it.
    assert not corner(90, 80, {"kind": "block", "size": 100}, "right").checks


@given(
    st.floats(-150, 150), st.floats(10, 200), st.floats(20, 400), st.sampled_from(["block", "transition"]),
    st.sampled_from(["left", "right"]), st.sampled_from([0.0, 0.0, 700.0]),
)  # fmt: skip
def test_pieces_that_share_room_are_reported_and_no_others(
    turn: float, deep: float, size: float, kind: str, facing: str, rise: float
) -> None:
    assume(abs(turn) > 1)
    run = corner(turn, deep, {"kind": kind, "size": size}, facing, rise)
    common = shared(run)
    answer = any(check.kind == "small-block" for check in run.checks)
    # What only touches, or shares a sliver, may be reported either way.
    assume(not 0 < common < 500)
    assert answer == (common > 0)
