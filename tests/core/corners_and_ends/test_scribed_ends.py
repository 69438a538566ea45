"""Ends shaped to another run, rounded, and let into posts: against solids cut by manifold3d, shapely and arithmetic."""

from __future__ import annotations

import math
from typing import Any

import manifold3d
import numpy as np
import pytest
import shapely
from examples import examples
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from making import line
from pydantic import TypeAdapter

from slow_ribbon.core.cutting import cutting_list, patterns_of, schedule
from slow_ribbon.core.geometry.bodies import body_of
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.apply import AppliedAll, apply_all
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.job.job_file import job_from_text, job_to_text
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.model import Line, line_body
from slow_ribbon.core.runs.end_surfaces.planes import Scribed
from slow_ribbon.core.runs.end_surfaces.scribe_model import Neighbours
from slow_ribbon.core.runs.pieces.solids import piece_solid
from slow_ribbon.core.runs.treatments.ends import ScribedTo
from slow_ribbon.core.sections.document.section import Section, SectionBody, section_shape
from slow_ribbon.core.sections.library import from_library, rectangle
from slow_ribbon.core.solve.results import SolvedRun
from slow_ribbon.core.solve.solver import solve

read = TypeAdapter(AnyEdit).validate_python
FINE, FAR = 0.02, 4000.0
KEYS = ("skirting-chamfered", "skirting-torus", "dado-rail", "architrave-torus", "handrail-moulded", "picture-rail")
BOARD = Section(id="S1", name="Board", outline=rectangle(20, 100), width=20, height=100)


def section_of(key: str, id: str) -> Section:
    body = from_library(key)
    return Section.model_validate({**SectionBody.model_validate(body.model_dump()).model_dump(), "id": id})


def job_of(mine: Line, other: Line, first: Section, second: Section, reverse: bool = False, **more: Any) -> Job:
    """Two runs, the first of which ends where the second stands."""
    lines = (mine.model_copy(update={"id": "L1"}), other.model_copy(update={"id": "L2"}))
    sections = (first.model_copy(update={"id": "S1"}), second.model_copy(update={"id": "S2"}))
    job = Job(name="Job", lines=lines, sections=sections, last_number=2)
    edits: list[Any] = [
        {"kind": "add_runs", "section": "S2", "lines": ["L2"], "placing": {"facing": {"kind": "left"}}},
        {"kind": "add_runs", "section": "S1", "lines": ["L1"], "last_end": {"kind": "scribed", "to": "R3"}, **more},
    ]
    edits += [{"kind": "reverse_lines", "lines": ["L1"]}] if reverse else []
    return apply_all(job, [read(edit) for edit in edits]).job


def edited(job: Job, *edits: Any) -> AppliedAll:
    return apply_all(job, [read(edit) for edit in edits])


def moved_by(id: str, x: float, y: float) -> list[Any]:
    """An upright line 3 m from the beginning of the rail, moved."""
    return [{"kind": "move_vertex", "line": id, "point": index, "to": [3000 + x, y, None]} for index in (0, 1)]


def run_of(job: Job, id: str = "R4") -> SolvedRun:
    return solve(job).runs[id]


def ring_of(run: SolvedRun) -> Array:
    flat = run.cuts.placed.shape.flat(FINE)
    return run.cuts.placed.points(flat.points[: flat.loop_sizes[0]])


def swept(run: SolvedRun, outline: shapely.Geometry, low: float, high: float) -> manifold3d.Manifold:
    """An outline in a run's (right, up) frame along its one straight leg, from ``low`` to ``high`` along travel."""
    course = run.cuts.plain
    parts = [shapely.get_coordinates(one.exterior)[:-1] for one in shapely.get_parts(shapely.orient_polygons(outline))]
    solid = manifold3d.Manifold.extrude(manifold3d.CrossSection(parts), high - low)
    return solid.transform(
        np.column_stack([course.rights[0], course.ups[0], course.tangents[0], course.starts[0] + low * course.tangents[0]])
    )


@settings(max_examples=examples(120), deadline=None)
@given(
    st.sampled_from(KEYS), st.sampled_from(KEYS), st.floats(-180, 180), st.floats(-75, 75), st.floats(-30, 60), st.floats(-15, 15),
    st.booleans(), st.floats(-3, 3),
)  # fmt: skip
def test_a_scribed_end_is_the_section_less_what_stands_before_it(
    mine: str, theirs: str, heading: float, pitch: float, ahead: float, aside: float, reverse: bool, past: float
) -> None:
    # A little askew, so that no two faces lie in one plane: there solids cut by solids come out one way or the other.
    turn, lean, ahead = math.radians(heading + 0.123), math.radians(pitch + 0.0456), ahead + 0.0789
    way = np.array([math.cos(turn) * math.cos(lean), math.sin(turn) * math.cos(lean), math.sin(lean)])
    if abs(way[0]) > math.cos(math.radians(25)):
        return
    middle = np.array([ahead, aside, 0.0])
    path, across = line([(-2000, 0, 0), (0, 0, 0)]), line([middle - 1500 * way, middle + 1500 * way])
    job = job_of(path, across, section_of(mine, "S1"), section_of(theirs, "S2"), reverse, first_end={"kind": "square", "past": 0})
    run, other = run_of(job), run_of(job, "R3")
    end = (0, not reverse)
    if end not in run.cuts.shaped:
        # Nothing of it goes where the other is: looked for again by shapely.
        assert any(check.kind == "unfinished" for check in run.checks)
        return
    outward = np.array([1.0, 0.0, 0.0])
    course, ring = other.cuts.plain, ring_of(other)
    flat = np.array([outward @ course.rights[0], outward @ course.ups[0]])
    size = float(np.linalg.norm(flat))
    flat = flat / size
    # All that lies in the other, or behind it as one comes: its outline swept that way.
    edges = zip(ring, np.roll(ring, -1, axis=0), strict=True)
    swept_edges = [shapely.Polygon([a, b, b + FAR * flat, a + FAR * flat]).buffer(0) for a, b in edges]
    shadow = shapely.union_all([shapely.Polygon(ring), *swept_edges])
    # What goes by it ends in the plane through the end of the line, square to that way.
    normal = flat[0] * course.rights[0] + flat[1] * course.ups[0]
    at = flat @ np.array([course.rights[0], course.ups[0]]) @ (np.zeros(3) - course.starts[0])
    side = np.array([-flat[1], flat[0]])
    heights = ring @ side
    low, high = heights.min(), heights.max()
    # Where both are of one width within a hair, rounding decides whether a splinter remains.
    surface = run.cuts.shaped[end]
    assert isinstance(surface, Scribed)
    own = run.cuts.placed.framed.flat(0.001).points @ surface.along
    assume(min(abs(own.min() - surface.face.heights[0]), abs(own.max() - surface.face.heights[-1])) > 0.05)
    by = [[(at, h0), (FAR, h0), (FAR, h1), (at, h1)] for h0, h1 in ((-FAR, low), (high, FAR))]
    beyond = [shapely.Polygon([flat * a + side * h for a, h in corners]) for corners in by]
    assert normal @ outward == pytest.approx(size)
    # Slivers thinner than a hair's breadth of rounding are none.
    taken = swept(other, shapely.set_precision(shadow, 1e-6), -FAR, FAR)
    for one in beyond:
        taken += swept(other, one, -FAR, FAR)
    sense = -1.0 if reverse else 1.0
    # A little longer than the piece, so that what lies beyond the other, where that hardly parts it, is left out.
    long = float(run.cuts.long_points[0]) + 5
    stick = swept(run, shapely.Polygon(ring_of(run)), *((0.0, long) if not reverse else (2000 - long, 2000.0)))
    truth = max((stick - taken).decompose(), key=lambda part: part.volume())
    found = piece_solid(run.cuts, 0, chord_height=FINE)
    piece = body_of(found.vertices, found.faces)
    assert piece.status() == manifold3d.Error.NoError
    assert sense * run.cuts.plain.tangents[0, 0] == pytest.approx(1.0)
    assert piece.volume() == pytest.approx(truth.volume(), rel=1e-4)
    assert (piece - truth).volume() < 1e-4 * truth.volume()
    assert run.cuts.volumes[0] == pytest.approx(truth.volume(), rel=1e-4)
    # The long point is the longest fibre, true to more than the flattened solid.
    assert run.cuts.long_points[0] == pytest.approx(np.ptp(found.vertices[:, 0]), abs=0.6)
    # Let past, it is all this much longer.
    moved = edited(job, {"kind": "set_run", "run": "R4", "changes": {"first_end" if reverse else "last_end": {"past": past}}}).job
    assert run_of(moved).cuts.long_points[0] == pytest.approx(run.cuts.long_points[0] + past)


def test_it_follows_what_it_is_shaped_to_and_ends_square_when_that_is_gone() -> None:
    """A rail along a wall stops at an upright board beside a door: arithmetic."""
    rail, upright = line([(0, 0, 0), (3000, 0, 0)]), line([(3000, 0, -500), (3000, 0, 1500)])
    job = job_of(rail, upright, BOARD, BOARD)
    other = run_of(job, "R3")
    face = float(other.solid().vertices[:, 0].min() + other.origin[0])
    run = run_of(job)
    assert run.cuts.long_points[0] == pytest.approx(face) == pytest.approx(run.cuts.short_points[0])
    row = next(row for row in cutting_list(solve(job)) if row.run == "R4")
    assert row.end.shaped == "scribed"
    # The board is moved, made wider, turned round; each time the rail stops on it.
    moved = edited(job, *moved_by("L2", -40, 0))
    assert run_of(moved.job).cuts.long_points[0] == pytest.approx(face - 40)
    turned = edited(moved.job, {"kind": "reverse_lines", "lines": ["L1"]}, {"kind": "reverse_lines", "lines": ["L2"]})
    assert run_of(turned.job).cuts.long_points[0] == pytest.approx(face - 40)
    assert turned.job.run("R4").first_end.kind == "scribed"
    # One field at a time, by two hands: what only follows is no conflict.
    gone = edited(job, {"kind": "remove", "ids": ["R3"]})
    assert gone.job.run("R4").last_end.kind == "square"
    assert not gone.job.run("R4").near.met
    assert "the run it was shaped to was removed" in " ".join(gone.notices)
    for end, code in (({"kind": "scribed", "to": "R99"}, "unknown-id"), ({"kind": "scribed", "to": "R4"}, "to-itself")):
        with pytest.raises(Refused) as refused:
            edited(job, {"kind": "set_run", "run": "R4", "changes": {"last_end": end}})
        assert refused.value.code == code
    # Where nothing stands in its way it is reported, and cut square.
    away = run_of(edited(job, *moved_by("L2", 0, 900)).job)
    assert away.cuts.long_points[0] == pytest.approx(3000)
    assert [check.kind for check in away.checks] == ["unfinished"]
    # Nor is it made longer by metres to come to what is somewhere else.
    ahead = run_of(edited(job, *moved_by("L2", 1500, 0)).job)
    assert ahead.cuts.long_points[0] == pytest.approx(3000)
    assert [check.kind for check in ahead.checks] == ["unfinished"]
    # A file written by hand that says nothing of what stands there is as good as one of ours; one of what is not there is refused.
    bare = job.put(job.run("R4").model_copy(update={"near": Neighbours()}))
    assert job_from_text(job_to_text(bare)).run("R4").near == job.run("R4").near
    with pytest.raises(Refused, match="no run R77"):
        job_from_text(job_to_text(job).replace('"to": "R3"', '"to": "R77"').replace('"to":"R3"', '"to":"R77"'))
    # Round again from nothing it is the same.
    assert solve(job_from_text(job_to_text(job))).runs["R4"].cuts.long_points[0] == pytest.approx(face)


def test_what_stands_in_several_places_is_not_shaped_to_what_stands_in_one() -> None:
    job = job_of(line([(0, 0, 0), (3000, 0, 0)]), line([(3000, 0, -500), (3000, 0, 1500)]), BOARD, BOARD)
    typical = {"name": "Rails", "here": "A", "places": [{"at": [0, 5000, 0], "name": "B"}]}
    with pytest.raises(Refused) as refused:
        edited(job, {"kind": "add_typical", "typical": {**typical, "lines": ["L1"]}})
    assert refused.value.code == "other-places"
    both = edited(job, {"kind": "add_typical", "typical": {**typical, "lines": ["L1", "L2"]}}).job
    assert {row.quantity for row in cutting_list(solve(both))} == {2}
    # Cut loose, the one that stands there is shaped to the other that does.
    loose = edited(both, {"kind": "cut_loose", "typical": both.typicals[0].id, "places": [both.typicals[0].places[0].id]}).job
    rails = [run for run in loose.runs if run.line != "L1" and isinstance(run.last_end, ScribedTo)]
    (end,) = [run.last_end for run in rails if isinstance(run.last_end, ScribedTo)]
    assert loose.run(end.to).line not in ("L1", "L2")
    assert run_of(loose, rails[0].id).cuts.long_points == pytest.approx(run_of(loose).cuts.long_points)


@settings(max_examples=examples(30), deadline=None)
@given(st.sampled_from(["sides", "front", "back", "both", "top", "bottom"]), st.floats(1, 10), st.booleans(), st.floats(-30, 30))
def test_a_rounded_end_lacks_what_lies_outside_its_rounds(edges: str, radius: float, right: bool, past: float) -> None:
    end = {"kind": "rounded", "radius": radius, "edges": edges, "past": past}
    edit = {
        "kind": "add_runs",
        "section": "S1",
        "lines": ["L1"],
        "placing": {"facing": {"kind": "right" if right else "left"}},
        "last_end": end,
    }
    job = edited(Job(name="Job", lines=(line([(0, 0, 0), (1000, 0, 0)]),), sections=(BOARD,), last_number=1), edit).job
    run = run_of(job, "R2")
    high = 100 if edges in ("sides", "front", "back") else 20
    rounds = 2 if edges in ("sides", "both") else 1
    # A square of the radius less a quarter of a circle, along the edge.
    lost = rounds * (1 - math.pi / 4) * radius**2 * high
    assert run.cuts.volumes[0] == pytest.approx(2000 * (1000 + past) - lost, rel=1e-6)
    assert run.cuts.long_points[0] == pytest.approx(1000 + past)
    assert run.cuts.short_points[0] == pytest.approx(1000 + past - radius)
    # The rounded edges are where they are said to be.
    found = run.solid()
    tip = found.vertices[found.vertices[:, 0] > found.vertices[:, 0].max() - 1e-6]
    front = -1.0 if right else 1.0
    reach = {"front": (tip[:, 1] * front).max(), "back": (-tip[:, 1] * front).max(), "top": tip[:, 2].max(), "bottom": -tip[:, 2].min()}
    whole = {"front": 20.0, "back": 0.0, "top": 100.0, "bottom": 0.0}
    for name in whole:
        rounded = edges in (name, "sides" if name in ("front", "back") else "both")
        assert reach[name] == pytest.approx(whole[name] - (radius if rounded else 0), abs=1e-6)
    (pattern,) = patterns_of(solve(job))
    assert pattern.seen == ("above" if high == 100 else "the face")
    assert np.ptp(pattern.face[:, 0]) == pytest.approx(radius, abs=0.03)
    assert pattern.height == pytest.approx(20 if high == 100 else 100)


def test_a_round_that_has_no_room_is_reported() -> None:
    for edges, most in (("sides", 10), ("front", 20), ("both", 50)):
        end = {"kind": "rounded", "radius": 60, "edges": edges}
        edit = {"kind": "add_runs", "section": "S1", "lines": ["L1"], "last_end": end}
        job = edited(Job(name="Job", lines=(line([(0, 0, 0), (1000, 0, 0)]),), sections=(BOARD,), last_number=1), edit).job
        run = run_of(job, "R2")
        assert not run.cuts.shaped
        (check,) = run.checks
        assert check.kind == "unfinished"
        assert f"{most}" in check.what


@given(st.floats(-60, 60), st.floats(20, 200), st.floats(0, 40))
def test_a_rail_into_a_post_ends_plumb_at_its_face(pitch: float, size: float, let_in: float) -> None:
    rise = math.tan(math.radians(pitch))
    path = line_body([(0, 0, 0), (3000, 0, 3000 * rise)], False, "Rail")
    end = {"kind": "posted", "size": size, "let_in": let_in, "name": "Newel"}
    job = Job(name="Job", sections=(BOARD,), last_number=1)
    edits = [
        {"kind": "add_lines", "lines": [path]},
        {"kind": "add_runs", "section": "S1", "lines": ["L2"], "first_end": end, "last_end": {**end, "counted": False}},
    ]
    solved = solve(edited(job, *edits).job)
    run = solved.runs["R3"]
    assert run.cuts.line_lengths[0] == pytest.approx((3000 - size + 2 * let_in) / math.cos(math.radians(pitch)))
    found = run.solid().vertices + run.origin
    assert found[:, 0].min() == pytest.approx(size / 2 - let_in)
    assert found[:, 0].max() == pytest.approx(3000 - size / 2 + let_in)
    # One is counted, the other by another run.
    assert schedule(solved).fittings == {"Newel": 1}
    assert section_shape(BOARD).area * run.cuts.line_lengths[0] == pytest.approx(run.cuts.volumes[0])
