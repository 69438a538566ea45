"""True mitres beside curves: on plan where lines meet circles and circles meet circles, by the formulas of these; solids by trimesh."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from examples import examples
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from making import mesh
from pydantic import TypeAdapter

from slow_ribbon.core.cutting import cutting_list, describe_cut, patterns_of
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.apply import apply_all
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.lines.legs import ArcLeg, StraightLeg
from slow_ribbon.core.lines.model import LineBody
from slow_ribbon.core.runs.pieces.solids import piece_solid, run_solid, run_surface
from slow_ribbon.core.sections.document.section import Section, SectionBody
from slow_ribbon.core.sections.library import from_library, rectangle
from slow_ribbon.core.solve.results import SolvedRun
from slow_ribbon.core.solve.solver import solve

read = TypeAdapter(AnyEdit).validate_python
TRUE = {"kind": "mitre", "beside_curves": "true"}
BOARD = SectionBody(name="Board", outline=rectangle(40, 100), width=40, height=100)


def arc(centre: Array, radius: float, begin: float, turn: float) -> tuple[Array, ArcLeg]:
    """An arc on plan about a centre: where it begins, and the leg; angles in radians."""
    start, via, end = (
        centre + radius * np.array([math.cos(at), math.sin(at), 0.0]) for at in (begin, begin + turn / 2, begin + turn)
    )  # fmt: skip
    return start, ArcLeg(via=tuple(via.tolist()), to=tuple(end.tolist()))


def job_of(body: LineBody, side: str, section: SectionBody = BOARD, **run: Any) -> Job:
    made = {"corners": TRUE, "external": TRUE, "placing": {"facing": {"kind": side}}, **run}
    edits = [
        {"kind": "add_lines", "lines": [body]},
        {"kind": "add_section", "section": section},
        {"kind": "add_runs", "section": "S2", "lines": ["L1"], **made},
    ]
    return apply_all(Job(name="Job"), [read(edit) for edit in edits]).job


def run_of(job: Job) -> SolvedRun:
    (run,) = solve(job).runs.values()
    return run


@settings(max_examples=examples(60), deadline=None)
@given(st.floats(400, 4000), st.floats(0.3, 2.2), st.floats(-2.0, 2.0), st.booleans(), st.sampled_from(["left", "right"]))
def test_a_straight_and_an_arc_meet_where_a_line_meets_a_circle(radius: float, turn: float, corner: float, left: bool, side: str) -> None:
    """Each fibre ends where the parallel of the straight at its distance meets the circle at its radius."""
    assume(abs(corner) > 0.1)
    # The straight comes along +x to zero; the arc goes off at an angle of the corner, bending to the left or to the right.
    heading = corner
    out = heading + (math.pi / 2 if left else -math.pi / 2)
    centre = radius * np.array([math.cos(out), math.sin(out), 0.0])
    start, leg = arc(centre, radius, out + math.pi, turn if left else -turn)
    assert start == pytest.approx(np.zeros(3), abs=1e-9)
    body = LineBody(name="Line", start=(-3000, 0, 0), legs=(StraightLeg(to=(0, 0, 0)), leg))
    run = run_of(job_of(body, side))
    cuts = run.cuts
    if cuts.refused:
        # Then the parallel and the circle have no point in common, or it is so far round that it is another.
        assert any(check.kind == "uncoped" for check in run.checks)
        return
    points = cuts.placed.points(cuts.placed.shape.flat().points)
    for x, y in points.tolist():
        image, other = (cuts.images(piece, np.array([[x, y]]), end)[0] for piece, end in ((0, True), (1, False)))
        assert image == pytest.approx(other, abs=1e-6)
        # To the right of the straight is −y; of an arc to the left, away from its centre.
        assert image[1] == pytest.approx(-x, abs=1e-6)
        assert math.hypot(*(image - centre)[:2]) == pytest.approx(radius + (x if left else -x), abs=1e-6)
        assert image[2] == pytest.approx(y)
    assert cuts.mismatches.max() < 1e-6
    assert not [check for check in run.checks if check.kind == "mismatch"]
    assert cuts.line_lengths == pytest.approx([3000, radius * turn])
    if not any(check.kind in ("swallowed", "pinched") for check in run.checks):
        whole, parts = mesh(run_solid(cuts, None, 0.02)), [mesh(piece_solid(cuts, piece, None, 0.02)) for piece in (0, 1)]
        assert whole.is_watertight
        assert all(part.is_watertight for part in parts)
        assert sum(part.volume for part in parts) == pytest.approx(whole.volume, rel=1e-9)
        assert whole.volume == pytest.approx(cuts.volumes.sum(), rel=2e-4)
        assert len(run_surface(cuts).pieces) == 3


@settings(max_examples=examples(30), deadline=None)
@given(st.floats(500, 3000), st.floats(500, 3000), st.floats(0.2, 1.2), st.sampled_from(["left", "right"]), st.booleans())
def test_two_arcs_meet_where_circles_meet_and_gone_the_other_way_they_are_the_same(
    first: float, second: float, corner: float, side: str, same_side: bool
) -> None:
    """Two arcs about centres of their own; the same cut whichever way the line runs."""
    one = first * np.array([0.0, 1.0, 0.0])
    out = corner + (math.pi / 2 if same_side else -math.pi / 2)
    other = second * np.array([math.cos(out), math.sin(out), 0.0])
    start, leg = arc(one, first, -math.pi / 2 - 0.9, 0.9)
    _, leg2 = arc(other, second, out + math.pi, 0.9 if same_side else -0.9)
    job = job_of(LineBody(name="Line", start=tuple(start.tolist()), legs=(leg, leg2)), side)
    run = run_of(job)
    if run.cuts.refused:
        return
    cuts = run.cuts
    points = cuts.placed.points(cuts.placed.shape.flat().points)
    for x, y in points.tolist():
        image = cuts.images(0, np.array([[x, y]]), True)[0]
        assert math.hypot(*(image - one)[:2]) == pytest.approx(first + x, abs=1e-6)
        assert math.hypot(*(image - other)[:2]) == pytest.approx(second + (x if same_side else -x), abs=1e-6)
    assert cuts.mismatches.max() < 1e-6
    back = run_of(apply_all(job, [read({"kind": "reverse_lines", "lines": ["L1"]})]).job)
    assert back.cuts.long_points[::-1] == pytest.approx(cuts.long_points, abs=1e-6)
    assert back.cuts.short_points[::-1] == pytest.approx(cuts.short_points, abs=1e-6)
    assert back.cuts.volumes[::-1] == pytest.approx(cuts.volumes, rel=1e-6)


def bay(made: Any, section: SectionBody = BOARD) -> Job:
    """A straight that comes to a quarter of a circle 1 m in radius, 45° to it: the corner of a bay."""
    _, leg = arc(np.array([-math.sqrt(0.5), math.sqrt(0.5), 0.0]) * 1000, 1000.0, -math.pi / 4, math.pi / 2)
    body = LineBody(name="Bay", start=(-2000, 0, 0), legs=(StraightLeg(to=(0, 0, 0)), leg))
    return job_of(body, "left", section, corners=made, external=made)


def test_a_flat_mitre_tells_by_how_much_and_the_true_one_has_patterns() -> None:
    flat = run_of(bay({"kind": "mitre"}))
    (check,) = (one for one in flat.checks if one.kind == "mismatch")
    assert check.mends == ("curved",)
    job = bay(TRUE)
    run = run_of(job)
    assert not run.checks
    # Between them is what the flat one is off: the curve bows from its chord by less than the two miss each other.
    assert 0.1 < flat.cuts.mismatches.max() < 5
    straight, bent = sorted(patterns_of(solve(job)), key=lambda pattern: not pattern.end)
    assert straight.seen == bent.seen == "above"
    assert straight.words == "along a curve"
    # Both are the same curve, from the same two points of the line's sides.
    chords = [np.hypot(*(pattern.face[-1] - pattern.face[0])) for pattern in (straight, bent)]
    assert chords[0] == pytest.approx(chords[1], abs=1e-3)
    bows = [bow(pattern.face) for pattern in (straight, bent)]
    assert bows[0] == pytest.approx(bows[1], abs=0.02)
    assert bows[0] > 0.03
    # The sides of the bent one are arcs of the radii of its faces.
    assert bent.edges is not None
    radii = sorted(radius_of(edge) for edge in bent.edges)
    assert radii == pytest.approx([960, 1000], abs=0.5)
    (row, _) = cutting_list(solve(job))
    assert describe_cut(row.end) == "square, then along a curve"
    # A moulded one is as well made.
    moulded = run_of(bay(TRUE, SectionBody.model_validate(from_library("skirting-ogee").model_dump())))
    assert moulded.cuts.mismatches.max() < 1e-6
    assert mesh(run_solid(moulded.cuts)).is_watertight


def bow(points: Array) -> float:
    chord = points[-1] - points[0]
    away = (points - points[0]) @ np.array([-chord[1], chord[0]]) / np.hypot(*chord)
    return float(np.abs(away).max())


def radius_of(points: Array) -> float:
    """The radius of the circle through the first, the middle and the last of some points."""
    a, b, c = points[0], points[len(points) // 2], points[-1]
    sides = [float(np.hypot(*(p - q))) for p, q in ((a, b), (b, c), (c, a))]
    (u, v), (p, q) = b - a, c - a
    area = abs(float(u * q - v * p)) / 2
    return math.prod(sides) / (4 * area)


def test_where_the_curve_does_not_come_it_is_flat_and_reported() -> None:
    """The straight turns left, and on from there goes a bow to the right: a parallel of it

    60 to the right is 60 from the middle of a circle of 20.
    """
    _, leg = arc(np.array([80.0, 0.0, 0.0]), 80.0, math.pi, -1.0)
    turned = LineBody(name="Line", start=(-900, 0, 0), legs=(StraightLeg(to=(0, 0, 0)), leg))
    wide = SectionBody(name="Wide", outline=rectangle(60, 20), width=60, height=20)
    run = run_of(job_of(turned, "right", wide))
    assert not run.cuts.shaped
    assert any(check.kind == "folded" and "There is no mitre here" in check.what for check in run.checks)
    # A narrower one comes round.
    narrow = run_of(job_of(turned, "right", SectionBody(name="Narrow", outline=rectangle(15, 20), width=15, height=20)))
    assert set(narrow.cuts.shaped) == {(0, True), (1, False)}
    # Where the curve leaves the level of the straight fibres pass one another: flat, and reported with how far they miss.
    rising = ArcLeg(via=(500, 700, 250), to=(300, 1500, 600))
    out = run_of(job_of(LineBody(name="Line", start=(-900, 0, 0), legs=(StraightLeg(to=(0, 0, 0)), rising)), "right"))
    assert not out.cuts.shaped
    assert {"uncoped", "mismatch"} <= {check.kind for check in out.checks}
    assert any("No true mitre here, but a flat one" in check.what for check in out.checks)


def test_a_closed_run_of_straights_and_arcs() -> None:
    """A D on plan: a half circle and its diameter, mitred at both corners; sums by Pappus and Guldin."""
    _, leg = arc(np.zeros(3), 1200.0, -math.pi / 2, math.pi)
    body = LineBody(name="D", start=(0, -1200, 0), legs=(leg, StraightLeg(to=(0, -1200, 0))), closed=True)
    section = Section(id="S1", **BOARD.model_dump())
    for side, sense in (("left", -1), ("right", 1)):
        run = run_of(job_of(body, side))
        assert run.cuts.mismatches.max() < 1e-6
        assert mesh(run_solid(run.cuts)).is_watertight
        outer, inner = (1200 + 40, 1200) if sense > 0 else (1200, 1200 - 40)
        # The area between the D and its parallel, whose corners are where the parallel meets the larger circle.
        big, small = (segment(radius, 40 if radius != 1200 else 0, sense) for radius in (outer, inner))
        assert run.cuts.volumes.sum() == pytest.approx(abs(big - small) * section.height, rel=1e-6)


def segment(radius: float, beyond: float, sense: int) -> float:
    """The part of a circle on the far side of a chord, so far before (outward) or behind the middle."""
    at = -beyond * sense
    return radius**2 * math.acos(at / radius) - at * math.sqrt(radius**2 - at**2)
