"""Ends of runs against solids cut by manifold3d: at an angle, plumb, level, returned, capped."""

from __future__ import annotations

import math
from typing import Any

import manifold3d
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.core.cutting import cutting_list, describe_cut, schedule
from slow_ribbon.core.geometry.bodies import body_of
from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddOpenings, AddRuns, AddSection, RunChanges, SetRun, apply_all
from slow_ribbon.core.job.edits.split_join import ReverseLines, SplitLine
from slow_ribbon.core.lines import ArcLeg, LineBody, Opening, StraightLeg, line_body
from slow_ribbon.core.runs import FacingSide, Placing
from slow_ribbon.core.runs.treatments.ends import Angled, Capped, Finish, LevelEnd, Plumb, Returned
from slow_ribbon.core.sections import SectionBody
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.solve import SolvedRun, solve

DEEP, HIGH = 20.0, 60.0
BATTEN = SectionBody(name="Batten", outline=rectangle(DEEP, HIGH), width=DEEP, height=HIGH)
CORNER = line_body([(0, 0, 0), (3000, 0, 0), (3000, -2000, 0)], False, "Wall")
#: Farther than any end of a stick.
FAR = 1e4


def made(body: LineBody, side: Any = "right", *edits: Any, **run: Any) -> Job:
    placing = Placing(facing=FacingSide(kind=side))
    adding = (AddLines(lines=(body,)), AddSection(section=BATTEN), AddRuns(section="S2", lines=("L1",), placing=placing, **run))
    return apply_all(Job(name="Ends"), [*adding, *edits]).job


def solid(run: SolvedRun) -> manifold3d.Manifold:
    found = run.solid()
    whole = body_of(found.vertices + run.origin, found.faces)
    assert whole.status() == manifold3d.Error.NoError
    return whole


def stick(pitch: float, side: str) -> manifold3d.Manifold:
    """The batten along +x and rising, far beyond both its ends: its back on the line and its foot, its front to the right (−y)."""
    low = 0.0 if side == "left" else -DEEP
    box = manifold3d.Manifold.cube((4 * FAR, DEEP, HIGH)).translate((-2 * FAR, low, 0.0))
    return box.rotate((0.0, -pitch, 0.0))


def behind(point: Any, outward: Any) -> manifold3d.Manifold:
    """What lies behind a plane."""
    way = np.array(outward, dtype=float) / np.linalg.norm(outward)
    across = np.cross(way, [0.3, 0.5, 0.8])
    across /= np.linalg.norm(across)
    turn = np.column_stack([across, np.cross(way, across), way])
    block = manifold3d.Manifold.cube((8 * FAR, 8 * FAR, 8 * FAR)).translate((-4 * FAR, -4 * FAR, -8 * FAR))
    return block.transform(np.column_stack([turn, np.array(point, dtype=float)]))


def same(one: manifold3d.Manifold, other: manifold3d.Manifold) -> None:
    assert one.volume() == pytest.approx(other.volume(), rel=1e-6)
    assert (one - other).volume() < 1e-6 * other.volume() + 1e-3


@given(
    st.sampled_from(["left", "right"]), st.floats(-40, 40), st.floats(-75, 75), st.floats(-60, 60), st.floats(-200, 200),
    st.floats(-75, 75), st.floats(-60, 60), st.floats(-200, 200),
)  # fmt: skip
def test_ends_at_angles(side: str, pitch: float, turn: float, lean: float, past: float, turn2: float, lean2: float, past2: float) -> None:
    """What is reported of the front and the top is so on the solid, whichever side the run faces and at whatever pitch."""
    up = np.array([-math.sin(math.radians(pitch)), 0, math.cos(math.radians(pitch))])
    along = np.array([math.cos(math.radians(pitch)), 0, math.sin(math.radians(pitch))])
    front = np.array([0.0, 1.0 if side == "left" else -1.0, 0.0])
    ends: dict[str, Finish] = {"first_end": Angled(turn=turn, lean=lean, past=past), "last_end": Angled(turn=turn2, lean=lean2, past=past2)}
    job = made(line_body([(0, 0, 0), (along * 3000).tolist()], False, "Slope"), side, **ends)
    run = solve(job).runs["R3"]
    bar = stick(pitch, side)
    for outward, place, (a, b) in ((-along, -along * past, (turn, lean)), (along, along * (3000 + past2), (turn2, lean2))):
        # In the plane a step to the front is this much further out, and one up too.
        step_front = front + outward * math.tan(math.radians(a))
        step_up = up + outward * math.tan(math.radians(b))
        normal = np.cross(step_front, step_up)
        bar ^= behind(place, normal * np.sign(normal @ outward))
    same(solid(run), bar)
    assert run.cuts.volumes.sum() == pytest.approx(bar.volume(), rel=1e-6)
    # Reversed, the same pieces with their ends changed about.
    turned = apply_all(job, [ReverseLines(lines=("L1",))]).job
    (before,), (after,) = cutting_list(solve(job)), cutting_list(solve(turned))
    assert (after.long_point, after.short_point, after.line_length) == pytest.approx(
        (before.long_point, before.short_point, before.line_length)
    )
    same(solid(solve(turned).runs["R3"]), bar)


@given(st.sampled_from(["left", "right"]), st.floats(12, 75), st.booleans(), st.floats(-50, 50))
def test_plumb_and_level_on_a_slope(side: str, pitch: float, falling: bool, past: float) -> None:
    pitch = -pitch if falling else pitch
    along = np.array([math.cos(math.radians(pitch)), 0, math.sin(math.radians(pitch))])
    run = solve(
        made(
            line_body([(0, 0, 0), (along * 3000).tolist()], False, "Slope"),
            side,
            first_end=LevelEnd(past=past),
            last_end=Plumb(past=past),
        )
    ).runs["R3"]
    bar = stick(pitch, side) ^ behind(along * (3000 + past), (1, 0, 0)) ^ behind(-along * past, (0, 0, 1 if falling else -1))
    same(solid(run), bar)
    # Laid on its back a plumb cut is the pitch as a mitre, a level one the rest to a right angle.
    assert np.abs([run.mitres[0, 1], run.mitres[0, 0]]) == pytest.approx([abs(pitch), 90 - abs(pitch)])


@given(st.sampled_from(["left", "right"]), st.floats(0, 300), st.floats(0, 300), st.floats(-100, 100), st.sampled_from(["mitre", "butt"]))
def test_returns_are_pieces_mitred_to_the_run(side: str, deep: float, deep2: float, past: float, corners: str) -> None:
    """Seen on plan: the run's strip with a return at both ends, worked out as polygons raised to the batten's height."""
    ends: dict[str, Finish] = {"first_end": Returned(deep=deep), "last_end": Returned(deep=deep2, past=past)}
    job = made(CORNER, side, **ends, corners={"kind": corners})
    run = solve(job).runs["R3"]
    pieces = [list(row.pieces) for row in cutting_list(solve(job)) if row.part == "return"]
    assert sorted(pieces) == [[0], [3]] or pieces == [[0, 3]]
    assert [corner.made for corner in run.corners][::2] == ["returned", "returned"]
    # On plan: the back from the wall out, along, round the corner, along, and to the wall again; and the face beside it.
    sense, far = (1.0 if side == "right" else -1.0), -2000 - past
    back = [(0, sense * deep), (0, 0), (3000, 0), (3000, far), (3000 + sense * deep2, far)]
    face = [(-DEEP, sense * deep), (-DEEP, -sense * DEEP), (3000 - sense * DEEP, -sense * DEEP), (3000 - sense * DEEP, far - DEEP)]
    plan = shapely.Polygon([*back, (3000 + sense * deep2, far - DEEP), *face[::-1]])
    assert solid(run).volume() == pytest.approx(plan.area * HIGH, rel=1e-9)
    assert run.cuts.volumes.sum() == pytest.approx(plan.area * HIGH, rel=1e-9)
    assert run.cuts.volumes[[0, 3]] == pytest.approx([HIGH * (DEEP * deep + DEEP**2 / 2), HIGH * (DEEP * deep2 + DEEP**2 / 2)])
    assert run.cuts.long_points[[0, 3]] == pytest.approx([deep + DEEP, deep2 + DEEP])
    assert not run.checks
    turned = apply_all(job, [ReverseLines(lines=("L1",))]).job
    same(solid(solve(turned).runs["R3"]), solid(run))


def test_a_bent_run_is_returned_and_lists_its_caps() -> None:
    legs = (
        StraightLeg(to=(2000, 0, 0)),
        ArcLeg(to=(3000, -1000, 0), via=(2000 + 1000 * math.sin(math.pi / 4), -1000 + 1000 * math.cos(math.pi / 4), 0)),
    )
    body = LineBody(name="Bent", start=(0, 0, 0), legs=legs)
    job = made(
        body, "right", AddOpenings(line="L1", openings=(Opening(name="Door", at=600, width=900),)), first_end=Capped(cap="Brass stop")
    )
    changes = RunChanges(last_end=Returned(deep=40, past=30), opening_ends=Capped(cap="Brass stop", past=-5))
    job = apply_all(job, [SetRun(run="R3", changes=changes)]).job
    run = solve(job).runs["R3"]
    assert schedule(solve(job)).fittings == {"Brass stop": 3}
    assert run.cuts.line_lengths[:2] == pytest.approx([595, 500 + 1000 * math.pi / 2 - 5 + 0])
    assert [describe_cut(row.begin) for row in cutting_list(solve(job))] == ["square, then capped", "square, then capped", "bevel 45.0°"]
    # A flat cut joins a curve to a straight on the line only.
    assert [check.kind for check in run.checks] == ["unfinished", "mismatch"]
    assert solid(run).volume() == pytest.approx(run.cuts.volumes.sum(), rel=2e-4)
    # Split, both parts keep their own ends and are square where they part.
    parts = apply_all(job, [SplitLine(line="L1", at=2200)]).job
    (first, second) = parts.runs
    assert (first.first_end.kind, first.last_end.kind, second.first_end.kind, second.last_end.kind) == (
        "capped",
        "square",
        "square",
        "returned",
    )


def test_what_cannot_be_cut_so_is_cut_square_and_says_why() -> None:
    job = made(CORNER, "right", first_end=LevelEnd(), last_end=Plumb())
    run = solve(job).runs["R3"]
    assert [(check.kind, check.piece) for check in run.checks] == [("unfinished", 0)]
    assert "too flat there for a level cut" in run.checks[0].what
    assert run.cuts.long_points[0] == pytest.approx(3000)
    # A rail held off the wall has nothing to be returned by on its line, and is swallowed there.
    off = apply_all(made(CORNER, "right", last_end=Returned()), []).job
    far = off.put(off.run("R3").model_copy(update={"placing": Placing(facing=FacingSide(kind="right"), stand_off=-5)}))
    assert [check.kind for check in solve(far).runs["R3"].checks] == ["swallowed"]
