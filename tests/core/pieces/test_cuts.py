"""Cuts held against other ways of finding the same thing: brute force over meshes, planes from saw settings, rotations."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from making import line, mesh, placings, polygons, run_cuts, sections
from scipy.spatial.transform import Rotation

from slow_ribbon.core.geometry.frames import carry
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.figures import plain
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.saw_angles import saw_settings
from slow_ribbon.core.runs.pieces.solids import piece_solid
from slow_ribbon.core.runs.placement.placing import Placing
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.sections.document.section import Section, SideBed, bed_up
from slow_ribbon.core.sections.library import Entry, library
from slow_ribbon.core.solve.solve_kinds import solve_run


def sound(cuts: Cuts) -> Cuts:
    assume(bool((cuts.short_points > 1).all()) and bool((np.degrees(cuts.course.turns) < 150).all()))
    return cuts


@given(polygons(), sections(), placings(), st.booleans())
def test_long_and_short_points_are_those_of_the_solid_itself(points: Array, section: Section, placing: Placing, closed: bool) -> None:
    cuts = sound(run_cuts(line(points, closed), section, placing))
    for index in range(cuts.course.count):
        rings = piece_solid(cuts, index).vertices.reshape(2, -1, 3)
        edges = np.linalg.norm(rings[1] - rings[0], axis=1)
        assert edges.max() == pytest.approx(cuts.long_points[index], abs=1e-6)
        assert edges.min() == pytest.approx(cuts.short_points[index], abs=1e-6)
        # Every edge of a piece runs along its leg.
        directions = (rings[1] - rings[0]) / edges[:, None]
        assert directions == pytest.approx(np.broadcast_to(cuts.course.tangents[index], directions.shape), abs=1e-7)


@given(polygons(), sections(), placings())
def test_the_two_pieces_of_a_corner_share_its_plane(points: Array, section: Section, placing: Placing) -> None:
    cuts = sound(run_cuts(line(points, True), section, placing))
    course = cuts.course
    for index in range(course.count):
        end = piece_solid(cuts, index - 1).vertices.reshape(2, -1, 3)[1]
        begin = piece_solid(cuts, index).vertices.reshape(2, -1, 3)[0]
        assert end == pytest.approx(begin, abs=1e-6)
        assert (begin - course.starts[index]) @ cuts.planes_begin[index] == pytest.approx(np.zeros(len(begin)), abs=1e-6)


@given(polygons(), sections(), placings(), st.sampled_from(["back", "foot", "front", "head"]))
def test_saw_settings_make_the_plane_of_the_cut_again(points: Array, section: Section, placing: Placing, side: str) -> None:
    """A table turned by μ and a blade tilted by β cut square to cos β·cos μ·t + cos β·sin μ·c + sin β·up."""
    bedded = section.model_copy(update={"bed": SideBed.model_validate({"side": side})})
    cuts = sound(run_cuts(line(points, True), bedded, placing))
    course = cuts.course
    turned = cuts.placed.matrix @ bed_up(bedded)
    up = course.rights * turned[0] + course.ups * turned[1]
    across = np.cross(up, course.tangents)
    mitres, bevels = (np.radians(angles) for angles in saw_settings(cuts))
    for which, planes in ((0, cuts.planes_begin), (1, cuts.planes_end)):
        mitre, bevel = mitres[:, which, None], bevels[:, which, None]
        again = np.cos(bevel) * np.cos(mitre) * course.tangents + np.cos(bevel) * np.sin(mitre) * across + np.sin(bevel) * up
        assert again == pytest.approx(planes, abs=1e-9)


@given(st.lists(st.tuples(*[st.floats(-1, 1)] * 3), min_size=2, max_size=6), st.sampled_from(["upright", "carried"]))
def test_frames_are_square_and_right_handed(directions: list[tuple[float, float, float]], rule: str) -> None:
    steps = np.array(directions)
    assume(bool((np.linalg.norm(steps, axis=1) > 0.1).all()) and bool((np.hypot(steps[:, 0], steps[:, 1]) > 0.05).all()))
    points = np.vstack([np.zeros(3), np.cumsum(steps * 1000, axis=0)])
    course = course_of(line(points).model_copy(update={"frame": rule}))
    frames = np.stack([course.rights, course.ups, course.tangents], axis=1)
    assert frames @ frames.transpose(0, 2, 1) == pytest.approx(np.broadcast_to(np.eye(3), frames.shape), abs=1e-9)
    # Seen looking along travel: right × up points back at the eye.
    assert np.cross(course.rights, course.ups) == pytest.approx(-course.tangents, abs=1e-9)
    if rule == "upright":
        assert course.rights[:, 2] == pytest.approx(np.zeros(course.count), abs=1e-12)
        assert (course.ups[:, 2] > 0).all()


@given(st.tuples(*[st.floats(-1, 1)] * 3), st.tuples(*[st.floats(-1, 1)] * 3))
def test_carrying_is_the_smallest_rotation(first: tuple[float, float, float], second: tuple[float, float, float]) -> None:
    """Against scipy's rotation about the axis of both tangents."""
    a, b = np.array(first), np.array(second)
    assume(min(float(np.linalg.norm(a)), float(np.linalg.norm(b))) > 0.2)
    a, b = a / np.linalg.norm(a), b / np.linalg.norm(b)
    axis = np.cross(a, b)
    assume(float(np.linalg.norm(axis)) > 1e-3)
    right = np.cross(a, np.eye(3)[int(np.argmin(np.abs(a)))])
    right /= np.linalg.norm(right)
    angle = math.atan2(float(np.linalg.norm(axis)), float(a @ b))
    expected = Rotation.from_rotvec(axis / np.linalg.norm(axis) * angle).apply(right)
    assert carry(right, a, b) == pytest.approx(expected, abs=1e-8)


@given(polygons(), st.booleans(), st.lists(st.floats(0, 1), min_size=1, max_size=8))
def test_chainages_and_places_belong_together(points: Array, closed: bool, shares: list[float]) -> None:
    course = course_of(line(points, closed))
    chainages = np.array(shares) * course.length * 0.999
    index, along = course.leg_at(chainages)
    assert ((along >= -1e-9) & (along <= course.lengths[index] + 1e-9)).all()
    back = course.begins[index] + along
    assert np.mod(back, course.length) == pytest.approx(np.mod(chainages, course.length), abs=1e-6)
    assert course.points_at(np.array([0.0]))[0] == pytest.approx([*points[0], 0], abs=1e-9)


@pytest.mark.parametrize("entry", library(), ids=lambda entry: entry.key)
@pytest.mark.parametrize("facing", ["left", "right"])
def test_nine_datums_put_nine_points_of_the_box_on_the_line(entry: Entry, facing: str) -> None:
    body = entry.section
    section = Section(id="S1", **{name: getattr(body, name) for name in type(body).model_fields})
    path = line([(0, 0), (3000, 0)])
    for across, x in (("back", 0.0), ("middle", 0.5), ("front", 1.0)):
        for up, y in (("foot", 0.0), ("middle", 0.5), ("head", 1.0)):
            name = "middle" if across == up else f"{across}-{up}"
            placing = Placing.model_validate({"datum": {"kind": "named", "name": name}, "facing": {"kind": facing}})
            bounds = mesh(piece_solid(run_cuts(path, section, placing), 0)).bounds
            # Travel is east: right of travel is south. The front looks to the side faced.
            toward = -1 if facing == "right" else 1
            front, back = toward * (1 - x) * section.width, -toward * x * section.width
            assert sorted(bounds[:, 1]) == pytest.approx(sorted([front, back]), abs=0.35)
            assert bounds[:, 2] == pytest.approx([-y * section.height, (1 - y) * section.height], abs=0.35)


def test_a_needle_mitre_is_a_warning_that_tells_how_long_its_point_is(skirting: Section) -> None:
    angle = math.radians(160)
    path = line([(0, 0), (3000, 0), (3000 + 3000 * math.cos(angle), 3000 * math.sin(angle))])
    run = Run.model_validate({"id": "R1", "name": "Run", "tag": "R", "line": "L1", "section": "S1"})
    (check,) = solve_run(run, path, skirting).checks
    assert (check.kind, check.severity, check.chainage) == ("needle", "warning", 3000)
    assert f"{18 * math.tan(angle / 2):.0f} mm" in plain(check.what)
    assert check.point == pytest.approx((3000, 0, 0))
