"""Single corners made in ways of their own, gaps and blocks; and that they stay at their points, whatever is done to their lines."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.core.cutting import schedule
from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, AddSection, PlacingChanges, RunChanges, SetPlacing, SetRun, apply_all
from slow_ribbon.core.job.edits.construction import SetLineOut
from slow_ribbon.core.job.edits.corners import SetCorners
from slow_ribbon.core.job.edits.points import InsertVertex, MoveVertex, RemoveVertex
from slow_ribbon.core.job.edits.split_join import JoinLines, ReverseLines, SplitLine, StartLineAt
from slow_ribbon.core.job.edits.transform import CopyLines, MirrorLines
from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.kernel.figures import text_parts
from slow_ribbon.core.lines import line_body
from slow_ribbon.core.runs import FacingSide, Placing
from slow_ribbon.core.sections import SectionBody
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.solve import solve

#: In and out by turns, no two legs alike.
POINTS = [(0, 0, 0), (3000, 0, 0), (3000, 1000, 0), (5000, 1000, 0), (5000, -700, 0), (8100, -700, 0), (8100, 2600, 0)]
BATTEN = SectionBody(name="Batten", outline=rectangle(20, 100), width=20, height=100)


def made(closed: bool, side: Any = "right", *edits: Any) -> Job:
    adding = (
        AddLines(lines=(line_body(POINTS, closed, "Course"),)),
        AddSection(section=BATTEN),
        AddRuns(section="S2", lines=("L1",), placing=Placing(facing=FacingSide(kind=side)), corners={"kind": "mitre"}),
    )
    return apply_all(Job(name="Corners"), [*adding, *edits]).job


def ways(job: Job) -> dict[tuple[float, ...], str]:
    """How each corner of all runs is made that is no mitre, by its place."""
    found: dict[tuple[float, ...], str] = {}
    for run in solve(job).runs.values():
        found |= {tuple(np.round(corner.point, 6).tolist()): corner.made for corner in run.corners if corner.made != "mitred"}
    return found


CORNERS: list[dict[str, Any]] = [
    {"kind": kind, field: piece}
    for kind, field in (("butt", "through"), ("cope", "coped"))
    for piece in ("before", "after", "left", "right")
]


@given(
    st.booleans(), st.sampled_from(["left", "right"]), st.sampled_from(CORNERS), st.sampled_from(CORNERS), st.sampled_from(CORNERS),
    st.floats(0, 180),
)  # fmt: skip
def test_mirrored_in_place_every_piece_is_the_mirror_image(
    closed: bool, side: str, inside: Any, outside: Any, own: Any, way: float
) -> None:
    changes = RunChanges.model_validate({"corners": inside, "external": outside})
    job = made(closed, side, SetRun(run="R3", changes=changes), SetCorners(run="R3", points=(3,), changes=own))
    axis = (math.cos(math.radians(way)), math.sin(math.radians(way)), 0.0)
    mirrored = apply_all(job, [MirrorLines(lines=("L1",), a=(0, 0, 0), b=axis, copies=False)]).job
    before, after = (solve(one).runs["R3"].cuts for one in (job, mirrored))
    assert after.long_points == pytest.approx(before.long_points)
    assert after.short_points == pytest.approx(before.short_points)
    assert after.volumes == pytest.approx(before.volumes)


@given(st.booleans(), st.sampled_from(["left", "right"]), st.sets(st.integers(1, 5), min_size=1), st.data())
def test_corners_stay_at_their_places_whatever_becomes_of_the_line(closed: bool, side: str, points: set[int], data: st.DataObject) -> None:
    changes = {"kind": "gap", "gap": 6.0}
    job = made(closed, side, SetCorners(run="R3", points=tuple(points), changes=changes))
    before = {tuple(map(float, POINTS[point])): "cut back" for point in points}
    assert ways(job) == before
    # What moves no corner leaves every one made as it was.
    still: list[Any] = [
        InsertVertex(line="L1", after=data.draw(st.integers(0, 5)), at=(-300, -300, 0)) if not closed else None,
        ReverseLines(lines=("L1",)),
        StartLineAt(line="L1", at=data.draw(st.floats(10, 9000))) if closed else SplitLine(line="L1", at=data.draw(st.floats(10, 2900))),
    ]
    for edit in (edit for edit in still if edit is not None):
        job = apply_all(job, [edit]).job
        there = ways(job)
        assert {place: way for place, way in there.items() if way == "cut back"} == before, edit
    # Moved, they go along.
    job = made(closed, side, SetCorners(run="R3", points=tuple(points), changes=changes))
    carried = apply_all(job, [CopyLines(lines=("L1",), by=(2000, 0, 0), copies=False)]).job
    assert ways(carried) == {(x + 2000, y, z): way for (x, y, z), way in before.items()}
    mirrored = apply_all(job, [MirrorLines(lines=("L1",), a=(0, 0, 0), b=(0, 1, 0), copies=False)]).job
    assert {(-x, y, z): way for (x, y, z), way in ways(mirrored).items()} == before
    some = min(points)
    moved = apply_all(job, [MoveVertex(line="L1", point=some, to=(POINTS[some][0] + 40, POINTS[some][1] + 30, 0))]).job
    assert len(ways(moved)) == len(before)
    gone = apply_all(job, [RemoveVertex(line="L1", point=some)])
    assert ways(gone.job) == {place: way for place, way in before.items() if place != tuple(map(float, POINTS[some]))}
    assert any("went with the point" in notice for notice in gone.notices)
    back = apply_all(job, [SetCorners(run="R3", points=tuple(points))]).job
    assert (back.run("R3").own_corners, ways(back)) == ((), {})


def test_a_run_keeps_its_corners_on_a_line_set_out_for_it_whatever_their_numbers_are() -> None:
    job = made(False, "right", SetPlacing(runs=("R3",), changes=PlacingChanges(stand_off=30)))
    # Without its second point no number is a place any more.
    job = apply_all(job, [RemoveVertex(line="L1", point=1), SetCorners(run="R3", points=(4,), changes={"kind": "gap", "gap": 6.0})]).job
    before = solve(job).runs["R3"]
    out = apply_all(job, [SetLineOut(run="R3")])
    after = solve(out.job).runs["R3"]
    assert not any("went with the point" in notice for notice in out.notices)
    assert [corner.made for corner in after.corners] == [corner.made for corner in before.corners]
    assert [corner.made for corner in after.corners].count("cut back") == 1
    assert sorted(after.cuts.long_points.tolist()) == pytest.approx(sorted(before.cuts.long_points.tolist()))


def test_two_lines_joined_keep_their_corners_and_a_butt_is_turned_about() -> None:
    job = made(False, "right", SetCorners(run="R3", points=(2,), changes={"kind": "butt", "through": "after"}))
    lengths = sorted(solve(job).runs["R3"].cuts.long_points.tolist())
    turned = apply_all(job, [ReverseLines(lines=("L1",))]).job
    assert [(one.point, one.made.model_dump()) for one in turned.run("R3").own_corners] == [(2, {"kind": "butt", "through": "before"})]
    assert sorted(solve(turned).runs["R3"].cuts.long_points.tolist()) == pytest.approx(lengths)
    # Split in the middle, each part with corners of its own, an end square and one returned; one turned about; and joined again.
    job = apply_all(job, [SetCorners(run="R3", points=(4, 5), changes={"kind": "gap"})]).job
    job = apply_all(
        job, [SetRun(run="R3", changes=RunChanges.model_validate({"first_end": {"kind": "returned"}, "last_end": {"kind": "plumb"}}))]
    ).job
    parts = apply_all(job, [SplitLine(line="L1", at=4500)]).job
    assert ways(parts) == ways(job)
    for turned_too in ((), (parts.lines[1].id,)):
        ready = apply_all(parts, [ReverseLines(lines=turned_too)]).job if turned_too else parts
        whole = apply_all(ready, [JoinLines(lines=tuple(line.id for line in ready.lines))]).job
        (run,) = whole.runs
        assert ways(whole) == ways(job)
        assert len(run.own_corners) == 3
        assert (run.first_end.kind, run.last_end.kind) == ("returned", "plumb")
        assert solve(whole).runs["R3"].cuts.long_points.sum() == pytest.approx(solve(job).runs["R3"].cuts.long_points.sum())


@given(st.sampled_from(["left", "right"]), st.floats(0, 60), st.floats(20, 400))
def test_gaps_and_blocks_take_from_both_pieces_what_they_say(side: str, gap: float, size: float) -> None:
    """Both by plain geometry: planes so far apart, and pieces that stop half a block before the corner on the line."""
    job = made(False, side, SetCorners(run="R3", points=(1, 4), changes={"kind": "gap", "gap": gap}))
    job = apply_all(job, [SetCorners(run="R3", points=(3,), changes={"kind": "block", "size": size, "proud": 7.0, "name": "Plinth"})]).job
    cuts = solve(job).runs["R3"].cuts
    for point in (1, 4):
        place = np.array(POINTS[point], dtype=float)
        square = np.array([[0.0, 0.0], [0, 100], [20, 100]]) * (1 if side == "right" else -1, 1)
        before, after = cuts.images(point - 1, square, end=True), cuts.images(point, square, end=False)
        assert np.ptp((before - place) @ cuts.planes_begin[point]) == pytest.approx(0, abs=1e-9)
        assert ((after - before) @ cuts.planes_begin[point]) == pytest.approx(gap)
    plain = [float(np.linalg.norm(np.subtract(b, a))) for a, b in pairwise(POINTS)]
    assert cuts.line_lengths[[2, 3]] == pytest.approx([plain[2] - size / 2, plain[3] - size / 2 - gap / 2 / math.cos(math.pi / 4)])
    # Square at the block: every fibre ends there alike.
    assert (cuts.slopes_end[2].tolist(), cuts.slopes_begin[3].tolist()) == ([0, 0], [0, 0])
    ((name, count),) = schedule(solve(job)).fittings.items()
    assert count == 1
    assert name.startswith("Plinth, ")
    assert [round(one.mm, 6) for one in text_parts(name) if not isinstance(one, str)] == pytest.approx([size, size, 114], abs=0.06)
    # It is drawn about the corner, whole, after all pieces, which are picked as they were.
    run = solve(job).runs["R3"]
    surface = run.surface()
    block = trimesh.Trimesh(surface.vertices + run.origin, surface.faces[surface.pieces[-1] :])
    block.merge_vertices(merge_norm=True)
    assert block.is_watertight
    assert block.volume == pytest.approx(size * size * 114)
    assert block.bounds.ravel() == pytest.approx([5000 - size / 2, 1000 - size / 2, -7, 5000 + size / 2, 1000 + size / 2, 107])
    along = np.einsum("ij,ij->i", surface.normals, surface.vertices + run.origin - (5000, 1000, 50))[surface.faces[surface.pieces[-1] :]]
    assert (along > 0).all()
    large = apply_all(job, [SetCorners(run="R3", points=(1, 2), changes={"kind": "block", "size": 2500.0})]).job
    assert "swallowed" in {check.kind for check in solve(large).runs["R3"].checks}


def test_a_corner_that_is_not_there_is_refused() -> None:
    with pytest.raises(Refused, match="no such point any more"):
        made(False, "right", SetCorners(run="R3", points=(7,), changes={"kind": "gap"}))
