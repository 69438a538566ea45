"""Coped corners: the second piece fits the face of the first exactly, checked by solids cut with solids (manifold3d)."""

from __future__ import annotations

import math

import manifold3d
import numpy as np
import pytest
import shapely
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st
from making import line, mesh

from slow_ribbon.core.cutting import cutting_list, describe_cut, patterns_of
from slow_ribbon.core.geometry.bodies import body_of
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.split_join import reverse
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.solids import Solid, piece_solid, run_solid
from slow_ribbon.core.runs.pieces.trim_pieces import cut
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.run import Run, run_course
from slow_ribbon.core.runs.treatments.corners import Cope
from slow_ribbon.core.sections.document.section import Section, SectionBody, section_shape
from slow_ribbon.core.sections.library import from_library, rectangle
from slow_ribbon.core.solve.solver import solve

#: How finely solids are made here, mm.
FINE = 0.02
#: Mouldings whose face looks to one side, and boards.
KEYS = (
    "skirting-chamfered",
    "skirting-torus",
    "skirting-ogee",
    "dado-rail",
    "architrave-torus",
    "cornice-stepped",
    "cove-solid",
    "quadrant",
)


def section_of(key: str) -> Section:
    body = from_library(key)
    return Section(id="S1", **{name: getattr(body, name) for name in SectionBody.model_fields})


def corner(angle: float, right: bool) -> Line:
    """A line with one corner of the wall of this many degrees, internal for what faces to that side."""
    turn = math.radians(180 - angle) * (-1 if right else 1)
    return line([(0, 0, 0), (2000, 0, 0), (2000 + 2000 * math.cos(turn), 2000 * math.sin(turn), 0)])


def coped(path: Line, section: Section, way: str, right: bool = True, **placing: object) -> Cuts:
    run = Run.model_validate(
        {"id": "R1", "name": "r", "tag": "R", "line": "L1", "section": "S1",
         "placing": {"facing": {"kind": "right" if right else "left"}, **placing}}
    )  # fmt: skip
    course = run_course(run, path)
    return cut(course, Placed(section, run.placing, course), Cope.model_validate({"coped": way}))


def solid(of: Solid) -> manifold3d.Manifold:
    return body_of(of.vertices, of.faces)


def swept(cuts: Cuts, piece: int, low: float, high: float) -> manifold3d.Manifold:
    """The placed section along the straight that a piece lies on, ``low`` to ``high`` from its beginning."""
    course, flat = cuts.course, cuts.flat(FINE)
    outline = manifold3d.CrossSection([anticlockwise(cuts.placed.points(flat.points[: flat.loop_sizes[0]]))])
    right, up, along = course.rights[piece], course.ups[piece], course.tangents[piece]
    return manifold3d.Manifold.extrude(outline, high - low).transform(
        np.column_stack([right, up, along, course.starts[piece] + low * along])
    )


def anticlockwise(points: Array) -> Array:
    area = float(np.dot(points[:, 0], np.roll(points[:, 1], -1)) - np.dot(points[:, 1], np.roll(points[:, 0], -1)))
    return points if area > 0 else points[::-1]


@settings(max_examples=examples(25), deadline=None)
@given(st.sampled_from(KEYS), st.floats(60, 150), st.booleans(), st.sampled_from(["before", "after"]), st.floats(-40, 900))
def test_what_is_coped_is_the_section_less_the_piece_it_meets(key: str, angle: float, right: bool, way: str, lift: float) -> None:
    cuts = coped(corner(angle, right), section_of(key), way, right, lift=lift)
    assert not cuts.refused
    through, fitted = (0, 1) if way == "after" else (1, 0)
    first, second = (solid(piece_solid(cuts, piece, chord_height=FINE)) for piece in (through, fitted))
    assert all(mesh(piece_solid(cuts, piece)).is_watertight for piece in (0, 1))
    assert mesh(run_solid(cuts)).is_watertight
    assert (first ^ second).volume() < 1e-5 * second.volume()
    # The same by solids alone: the second's section runs on past the corner; what lies in the first, or behind its back, is taken away.
    course, sense = cuts.course, 1.0 if right else -1.0
    outward = course.rights[through] * sense
    behind = -float(cuts.placed.furthest(np.array([[-sense, 0.0]]))[0]) + float(outward @ course.starts[1])
    whole = swept(cuts, 1, -900, 2000) if fitted else swept(cuts, 0, 0, 2900)
    rest = whole.trim_by_plane(outward.tolist(), behind) - swept(cuts, through, -1500, 3500)
    truth = max(rest.decompose(), key=lambda part: part.volume())
    assert truth.volume() == pytest.approx(second.volume(), rel=1e-4)
    assert (second - truth).volume() < 1e-5 * second.volume()
    # No gap wider than 0.05 mm along the joint: what is left between the two is thinner than that over the face's area.
    assert (truth - second).volume() < 0.05 * section_shape(cuts.placed.section).perimeter * cuts.placed.section.width
    # The fibres say the same.
    assert cuts.volumes[fitted] == pytest.approx(second.volume(), rel=2e-4)


def test_skirting_round_a_room_is_as_long_as_a_joiner_would_cut_it() -> None:
    """Arithmetic: each piece runs to one wall, and stops on the face of the other, 18 mm from the next; at the top zero from it."""
    room = line([(0, 0, 0), (0, 3000, 0), (4000, 3000, 0), (4000, 0, 0)], True)
    square = Section(id="S1", name="Board", outline=rectangle(18, 120), width=18, height=120)
    cuts = coped(room, square, "after")
    assert cuts.long_points == pytest.approx([2982, 3982, 2982, 3982])
    # Where the face falls back to the top, the fibre there is longer by as much.
    chamfered = coped(room, section_of("skirting-chamfered"), "after")
    ring = section_shape(chamfered.placed.section).rings(0.1)[0]
    top = ring[ring[:, 1] > ring[:, 1].max() - 1e-6, 0].max()
    assert chamfered.long_points == pytest.approx([3000 - top, 4000 - top, 3000 - top, 4000 - top])


@pytest.mark.parametrize("right", [False, True])
def test_the_piece_on_the_left_is_the_same_whichever_way_the_line_runs(right: bool) -> None:
    """As one looks at the face, travel goes to the right where a run faces right of it."""
    clockwise, other = [(0, 0, 0), (0, 3000, 0), (4000, 3000, 0), (4000, 0, 0)], [(0, 0, 0), (4000, 0, 0), (4000, 3000, 0), (0, 3000, 0)]
    board, room = section_of("skirting-chamfered"), line(clockwise if right else other, True)
    left, as_ordered = (coped(room, board, way, right) for way in ("left", "before" if right else "after"))
    assert left.long_points == pytest.approx(as_ordered.long_points)
    assert set(left.shaped) == set(as_ordered.shaped)
    back = coped(reverse(room), board, "left", not right)
    assert sorted(back.long_points) == pytest.approx(sorted(left.long_points))
    assert {int(i) for i, end in left.shaped if end == right} == {index for index, _ in left.shaped}
    assert Cope(coped="left").reversed() == Cope(coped="left")


def test_ends_that_cannot_be_coped_are_mitred_and_it_is_reported_why() -> None:
    board = section_of("skirting-chamfered")
    for path, right, section, why in (
        (corner(90, True), False, board, "external corner"),
        (corner(175, True), True, board, "no face"),
        (corner(90, True), True, section_of("picture-rail"), "is undercut"),
        (line([(0, 0, 0), (2000, 0, 0), (2000, -2000, 500)]), True, board, "pitches"),
    ):
        cuts = coped(path, section, "after", right)
        assert why in cuts.refused[1]
        assert not cuts.shaped
        plain = coped(path, section, "before", right)
        assert cuts.long_points == pytest.approx(plain.long_points)


def job_of(path: Line, section: Section, way: str) -> Job:
    ways = {"corners": {"kind": "cope", "coped": way}, "external": {"kind": "mitre"}}
    run = Run.model_validate({"id": "R1", "name": "Skirting", "tag": "S", "line": "L1", "section": "S1", **ways})
    return Job(name="Room", lines=(path,), sections=(section,), runs=(run,), last_number=1)


@pytest.mark.parametrize("key", KEYS)
def test_the_pattern_of_a_square_corner_is_the_section_itself(key: str) -> None:
    """Common practice, no source: at a square corner the line of a cope is the section's own face, drawn on the other piece."""
    section = section_of(key)
    (pattern,) = patterns_of(solve(job_of(corner(90, True), section, "after")))
    assert pattern.back is None
    assert pattern.tags == ("S2",)
    polygon = shapely.Polygon(section_shape(section).rings(0.001)[0])
    depth = polygon.bounds[2]
    for across, height in pattern.face[:: max(1, len(pattern.face) // 25)].tolist():
        if 0.01 < height < section.height - 0.01:
            # Between a hair below and a hair above: a ledge lies at one height.
            levels = [shapely.LineString([(-1e4, at), (1e4, at)]) for at in (height - 0.005, height + 0.005)]
            least = min(shapely.intersection(polygon, level).bounds[2] for level in levels)
            most = shapely.intersection(polygon, shapely.box(-1e4, height - 0.005, 1e4, height + 0.005)).bounds[2]
            assert least - 0.05 <= across + depth - pattern.face[:, 0].max() <= most + 0.05


def test_a_coped_piece_is_listed_with_what_is_done_to_it() -> None:
    solved = solve(job_of(corner(120, True), section_of("skirting-torus"), "after"))
    first, second = cutting_list(solved)
    # 90° − 120°/2 would be the mitre; a cope leans by as much as the corner is off square.
    assert describe_cut(second.begin) == "square, then coped, undercut 30.0°"
    assert "coped" not in describe_cut(first.end)
    (found,) = solved.runs["R1"].corners
    assert found.made == "coped"
