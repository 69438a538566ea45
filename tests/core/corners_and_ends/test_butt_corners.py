"""Butted corners: one piece runs through, the other stops on its face; nothing overlaps and nothing is left open."""

from __future__ import annotations

import math
from typing import Any, Literal

import numpy as np
import pytest
import shapely
from examples import examples
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from making import bent_line, bent_lines, line, mesh, placings, polygons, sections
from shapely.geometry.base import BaseGeometry

from slow_ribbon.core.geometry.frames import angle_between
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import ArcLeg, StraightLeg
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.pieces.congruence import equal_pieces
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.saw_angles import saw_settings
from slow_ribbon.core.runs.pieces.solids import piece_solid, run_solid, run_surface
from slow_ribbon.core.runs.pieces.trim_pieces import cut
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.placing import FacingSide, Placing
from slow_ribbon.core.runs.treatments.corners import Butt
from slow_ribbon.core.runs.treatments.corners.butt import LEAST
from slow_ribbon.core.sections.document.section import NamedDatum, Section
from slow_ribbon.core.sections.library import rectangle

Through = Literal["before", "after"]
ROOM = [(0, 0), (4000, 0), (4000, 3000), (0, 3000)]
SKIRTING = Section(id="S1", name="Skirting", outline=rectangle(18, 120), width=18, height=120, datum=NamedDatum(name="back-foot"))


def butted(path: Line, section: Section, placing: Placing | None = None, through: Through = "before") -> Cuts:
    course = course_of(path)
    return cut(course, Placed(section, placing or Placing(), course), Butt(through=through))


@pytest.mark.parametrize("through", ["before", "after"])
@pytest.mark.parametrize(("side", "more"), [("left", -18), ("right", 18)])
def test_skirting_18_round_a_room_of_4000_by_3000(through: Through, side: Any, more: int) -> None:
    """Arithmetic: within the room each piece runs to one wall and stops 18 short of the other; outside each passes one corner by 18."""
    cuts = butted(line(ROOM, True), SKIRTING, Placing(facing=FacingSide(kind=side)), through)
    assert cuts.long_points == pytest.approx(np.array([4000, 3000, 4000, 3000]) + more)
    assert cuts.short_points == pytest.approx(cuts.long_points)
    assert cuts.line_lengths == pytest.approx(cuts.long_points)
    mitres, bevels = saw_settings(cuts)
    assert np.abs(mitres).max() == pytest.approx(0, abs=1e-9)
    assert np.abs(bevels).max() == pytest.approx(0, abs=1e-9)
    assert equal_pieces(cuts) == [[0, 2], [1, 3]]


def plan_of(cuts: Cuts, index: int) -> BaseGeometry:
    return shapely.convex_hull(shapely.MultiPoint(piece_solid(cuts, index).vertices[:, :2]))


@settings(max_examples=examples(60))
@given(polygons(3, 8), st.booleans(), st.sampled_from(["before", "after"]), st.floats(10, 60), st.floats(-40, 40))
def test_boards_on_plan_lie_side_by_side_and_close_every_corner(
    points: Any, closed: bool, through: Through, thick: float, aside: float
) -> None:
    board = Section(id="S1", name="Board", outline=rectangle(thick, 90), width=thick, height=90, datum=NamedDatum(name="back-foot"))
    cuts = butted(line(points, closed), board, Placing(stand_off=aside), through)
    assume(cuts.short_points.min() > 0)
    plans = [plan_of(cuts, index) for index in range(cuts.course.count)]
    for index, turn in enumerate(cuts.course.turns):
        if not cuts.butted_begin[index]:
            assert turn == 0 or turn <= LEAST or turn >= math.pi - LEAST
            continue
        one, other = plans[index - 1], plans[index]
        assert one.intersection(other).area == pytest.approx(0, abs=1e-4)
        # They touch along the whole width of the one that stops.
        stopped = other if through == "before" else one
        runs = one if through == "before" else other
        assert stopped.boundary.intersection(runs.buffer(1e-6)).length == pytest.approx(thick / math.sin(turn), rel=1e-3)
        # The one that runs through ends in line with the far face of the other: together they make a corner without a notch.
        assert shapely.union(one.buffer(1e-6), other.buffer(1e-6)).convex_hull.area > 0
        far = stopped.buffer(1e-6).boundary.intersection(runs.buffer(2e-6)).length
        assert far >= thick / math.sin(turn) * (1 - 1e-3)


@settings(max_examples=examples(40))
@given(polygons(3, 7), st.booleans(), st.sampled_from(["before", "after"]), sections(), placings())
def test_butted_runs_of_any_section_are_watertight_and_as_large_as_their_pieces(
    points: Any, closed: bool, through: Through, section: Section, placing: Placing
) -> None:
    cuts = butted(line(points, closed), section, placing, through)
    assume(cuts.short_points.min() > 0)
    whole, pieces = mesh(run_solid(cuts)), [mesh(piece_solid(cuts, index)) for index in range(cuts.course.count)]
    assert whole.is_watertight
    assert whole.volume == pytest.approx(float(cuts.volumes.sum()), rel=1e-6)
    assert [piece.volume for piece in pieces] == pytest.approx(cuts.volumes, rel=1e-6)
    for index in np.flatnonzero(cuts.butted_begin).tolist():
        # The face of the one that runs through parts them: no point of either lies beyond it.
        normal = cuts.planes_begin[index] if through == "before" else cuts.planes_end[index - 1]
        one, other = (np.asarray(pieces[i].vertices) @ normal for i in (index - 1, index))
        corner = float(cuts.course.starts[index] @ normal)
        near = 3 * (section.width + section.height + abs(placing.stand_off) + abs(placing.lift))
        assert one[np.abs(one - corner) < near].max() <= other[np.abs(other - corner) < near].min() + 1e-6
    surface = run_surface(cuts)
    assert np.isfinite(surface.vertices).all()


@settings(max_examples=examples(30))
@given(bent_lines(level=True), st.sampled_from(["before", "after"]))
def test_corners_where_a_piece_bends_are_mitred(path: Line, through: Through) -> None:
    cuts = butted(path, SKIRTING, None, through)
    for index in np.flatnonzero(cuts.course.turns > 0).tolist():
        bends = any(
            i in cuts.course.paths and cuts.course.paths[i].straights[end] == 0
            for i, end in (((index - 1) % cuts.course.count, True), (index, False))
        )
        assert not (bends and cuts.butted_begin[index])


def test_a_piece_that_ends_straight_after_its_bend_is_butted_there() -> None:
    legs = [
        StraightLeg(to=(1000, 0, 0)),
        ArcLeg(to=(1500, 500, 0), via=(1000 + 500 * math.sin(math.pi / 4), 500 - 500 * math.cos(math.pi / 4), 0)),
    ]
    path = bent_line((0.0, 0.0, 0.0), [*legs, StraightLeg(to=(1500, 1500, 0)), StraightLeg(to=(500, 1500, 0))])
    cuts = butted(path, SKIRTING, Placing(facing=FacingSide(kind="left")))
    assert cuts.butted_begin.tolist() == [False, True]
    bent = 1000 + 500 * math.pi / 2 + 1000
    # The corner is internal: the bent piece runs to the wall, the other stops 18 short of it.
    assert cuts.line_lengths == pytest.approx([bent, 1000 - 18])
    area = 18 * 120
    assert cuts.volumes[0] == pytest.approx(area * (bent - 9 * math.pi / 2), rel=1e-9)
    assert mesh(piece_solid(cuts, 0)).is_watertight
    assert angle_between(cuts.planes_end[:1], cuts.course.tangents_end[:1])[0] == pytest.approx(0, abs=1e-9)
