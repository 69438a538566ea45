"""Lines: corners, frames, facing, and what is refused."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from making import line, polygons, run_cuts
from shapely.geometry import Point, Polygon

from slow_ribbon.core.geometry.frames import carry
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.validate import check_line
from slow_ribbon.core.runs.pieces.trim_pieces import corner_kinds
from slow_ribbon.core.runs.placement.placing import FacingPoint
from slow_ribbon.core.sections.document.section import Section


@given(polygons(), st.lists(st.integers(5, 95).map(lambda part: part / 100), min_size=1, max_size=4), st.booleans())
def test_points_on_straights_make_no_piece(points: Array, shares: list[float], closed: bool) -> None:
    finer: list[Array] = []
    for a, b in zip(points, np.roll(points, -1, axis=0), strict=True):
        finer.extend([a, *(a + (b - a) * share for share in sorted(set(shares)))])
    if not closed:
        finer = finer[: len(finer) - len(set(shares))]
    plain, fine = course_of(line(points, closed)), course_of(line(finer, closed))
    assert fine.count == plain.count
    assert fine.length == pytest.approx(plain.length)
    assert fine.starts == pytest.approx(plain.starts)


def test_a_slow_turn_by_many_small_angles_is_not_lost() -> None:
    angles = np.radians(np.arange(200) * 0.009)
    points = np.cumsum(np.column_stack([np.cos(angles), np.sin(angles)]) * 100, axis=0)
    course = course_of(line(points))
    assert 80 <= course.count <= 200
    assert np.degrees(course.turns).sum() == pytest.approx(199 * 0.009, abs=0.03)


@given(polygons(), st.tuples(st.floats(-7000, 7000), st.floats(-7000, 7000)), st.booleans())
def test_facing_a_point_is_being_on_its_side(points: Array, place: tuple[float, float], backwards: bool) -> None:
    """For a closed line the side is the inside or the outside, as shapely gives it, whichever way it was drawn."""
    assume(Polygon(points).exterior.distance(Point(place)) > 1e-3)
    inside = Polygon(points).contains(Point(place))
    path = line(points[::-1] if backwards else points, True)
    right = FacingPoint(point=(*place, 0.0)).is_right(course_of(path))
    assert right == (inside == backwards)


def test_corners_are_internal_or_external_as_seen_from_the_face() -> None:
    course = course_of(line([(0, 0), (4000, 0), (4000, 2000), (6000, 2000)]))
    assert corner_kinds(course, right=False) == ["end", "internal", "external"]
    assert corner_kinds(course, right=True) == ["end", "external", "internal"]
    ramp = course_of(line([(0, 0, 0), (1000, 0, 0), (2000, 0, 500), (3000, 0, 500)]))
    assert corner_kinds(ramp, right=True) == ["end", "rising", "falling"]


def test_a_goal_post_chooses_carried_frames_and_says_why(skirting: Section) -> None:
    path = line([(0, 0, 0), (0, 0, 2100), (900, 0, 2100), (900, 0, 0)])
    course = course_of(path)
    assert (course.rule, course.why) == ("carried", "a leg is within 1° of vertical")
    assert run_cuts(path, skirting).mismatches.max() < 1e-9
    # In a plane, carried frames do not twist: the up of the section stays square to the plane.
    assert np.abs(course.ups[:, 1]) == pytest.approx(1)
    with pytest.raises(Refused, match="vertical"):
        course_of(path.model_copy(update={"frame": "upright"}))


def test_a_twisted_loop_tells_the_angle_it_comes_back_with(skirting: Section) -> None:
    loop = line([(0, 0, 0), (1000, 0, 0), (1000, 1000, 800), (0, 900, -300)], True).model_copy(update={"frame": "carried"})
    course = course_of(loop)
    assert abs(course.leftover) > 0.01
    # Carried on once round, the frame differs from the first by just that angle about the first tangent.
    home = carry(course.rights[-1], course.tangents[-1], course.tangents[0])
    assert home @ course.rights[0] == pytest.approx(math.cos(course.leftover))
    assert np.cross(course.rights[0], home) @ course.tangents[0] == pytest.approx(math.sin(course.leftover))
    # So the sections miss each other at the start, and only there.
    mismatches = run_cuts(loop, skirting).mismatches
    assert mismatches[0] > 1
    assert mismatches[1:].max() < 1e-9


@pytest.mark.parametrize(
    ("points", "closed", "code"),
    [
        ([(0, 0), (0, 0), (5, 5)], False, "leg-zero"),
        ([(0, 0), (10, 0)], True, "line-closed"),
        ([(0, 0), (500, 0), (1000, 0)], True, "line-closed"),
    ],
)
def test_lines_that_cannot_be_are_refused(points: list[tuple[float, float]], closed: bool, code: str) -> None:
    with pytest.raises(Refused) as refused:
        check_line(line(points, closed))
    assert refused.value.code == code


def test_folded_and_needle_corners_are_reported_and_folds_cut_square(skirting: Section) -> None:
    fold = run_cuts(line([(0, 0), (2000, 0), (500, 0)]), skirting)
    assert fold.square_begin.tolist() == [False, True]
    assert fold.long_points == pytest.approx([2000, 1500])
    assert np.isfinite(fold.volumes).all()
