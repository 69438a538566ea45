"""Properties of solids and pieces on random lines and outlines."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from making import line, mesh, placings, polygons, run_cuts, sections

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.runs.pieces.congruence import forms
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.solids import piece_solid, run_solid, run_surface
from slow_ribbon.core.runs.placement.placing import Placing
from slow_ribbon.core.sections.document.section import Section
from slow_ribbon.core.sections.library import Entry, library
from slow_ribbon.core.sections.outline.outline import OutlinePen


def usable(cuts: Cuts) -> None:
    assume(bool((cuts.short_points > 1).all()) and bool((np.degrees(cuts.course.turns) < 150).all()))


def numbers(cuts: Cuts) -> Array:
    """What each piece is made of, (m, k): its length, then slopes and bends."""
    return np.array([[float(form.lengths.sum()), *form.numbers()] for form in forms(cuts)])


@given(polygons(), sections(), placings(), st.booleans())
def test_runs_are_watertight_and_pieces_fill_them(points: Array, section: Section, placing: Placing, closed: bool) -> None:
    cuts = run_cuts(line(points, closed), section, placing)
    usable(cuts)
    whole = mesh(run_solid(cuts))
    assert whole.is_watertight
    assert whole.is_winding_consistent
    pieces = [mesh(piece_solid(cuts, index)) for index in range(cuts.course.count)]
    assert all(piece.is_watertight for piece in pieces)
    # Area × the fibre at the centroid, Pappus–Guldin extended to mitred prisms.
    assert [piece.volume for piece in pieces] == pytest.approx(cuts.volumes.tolist(), rel=1e-9)
    assert whole.volume == pytest.approx(cuts.volumes.sum(), rel=1e-9)


@given(polygons(), sections(), st.integers(0, 8), st.floats(0.1, 0.9))
def test_a_closed_loop_has_no_seam(points: Array, section: Section, start: int, share: float) -> None:
    """Starting at another corner, or in the middle of a leg, gives the same solid."""
    cuts = run_cuts(line(points, True), section)
    usable(cuts)
    moved = np.roll(points, -(start % len(points)), axis=0)
    inside = moved[0] + (moved[1] - moved[0]) * share
    for other in (moved, np.vstack([inside, moved[1:], moved[:1]])):
        again = run_cuts(line(other, True), section)
        assert again.course.count == cuts.course.count
        ours, theirs = (np.sort(np.round(run_solid(c).vertices, 4) + 0.0, axis=0) for c in (cuts, again))
        assert ours == pytest.approx(theirs, abs=2e-4)
        assert np.sort(again.long_points) == pytest.approx(np.sort(cuts.long_points), abs=1e-6)


@given(polygons(), sections(), st.floats(-40, 40), st.booleans())
def test_the_way_a_line_was_drawn_does_not_matter(points: Array, section: Section, stand_off: float, closed: bool) -> None:
    """With the facing turned over, a line drawn backwards gives the same pieces."""
    right = Placing.model_validate({"facing": {"kind": "right"}, "stand_off": stand_off})
    left = right.model_copy(update={"facing": Placing.model_validate({"facing": {"kind": "left"}}).facing})
    cuts, back = run_cuts(line(points, closed), section, right), run_cuts(line(points[::-1], closed), section, left)
    usable(cuts)
    ours, theirs = (np.array(sorted(np.round(numbers(c), 5).tolist())) for c in (cuts, back))
    assert ours == pytest.approx(theirs, abs=1e-4)
    assert mesh(run_solid(back)).volume == pytest.approx(mesh(run_solid(cuts)).volume, rel=1e-9)


@given(polygons(), sections(), placings())
def test_no_section_is_inside_out(points: Array, section: Section, placing: Placing) -> None:
    """One whose outline is drawn the other way round is the same section, and makes the same solid with its faces outward."""
    pen = OutlinePen(*section.outline.start)
    for x, y in section.outline.corners()[:0:-1]:
        pen.line(x, y)
    turned = section.model_copy(update={"outline": pen.close()})
    cuts, other = (run_cuts(line(points), one, placing) for one in (section, turned))
    usable(cuts)
    assert mesh(run_solid(other)).volume == pytest.approx(mesh(run_solid(cuts)).volume)
    assert mesh(run_solid(other)).volume > 0
    assert other.long_points == pytest.approx(cuts.long_points)


@given(polygons(), sections(), placings())
def test_mirror_images_give_mirrored_pieces(points: Array, section: Section, placing: Placing) -> None:
    mirrored = points * (-1, 1)
    other = "left" if placing.facing.kind == "right" else "right"
    turned = Placing.model_validate(placing.model_dump() | {"facing": {"kind": other}})
    cuts, image = run_cuts(line(points, True), section, placing), run_cuts(line(mirrored, True), section, turned)
    usable(cuts)
    assert image.long_points == pytest.approx(cuts.long_points, rel=1e-9)
    assert image.short_points == pytest.approx(cuts.short_points, rel=1e-9)
    ours, theirs = mesh(run_solid(cuts)), mesh(run_solid(image))
    assert theirs.volume == pytest.approx(ours.volume, rel=1e-9)
    assert theirs.bounds[:, 0] == pytest.approx(-ours.bounds[::-1, 0], abs=1e-6)


@given(polygons(), sections(), placings(), st.floats(0, 360), st.tuples(*[st.floats(-1e6, 1e6)] * 3))
def test_moving_and_turning_the_whole_changes_nothing(
    points: Array, section: Section, placing: Placing, degrees: float, shift: tuple[float, float, float]
) -> None:
    angle = math.radians(degrees)
    turn = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])
    moved = np.column_stack([points @ turn.T, np.zeros(len(points))]) + shift
    cuts, again = run_cuts(line(points), section, placing), run_cuts(line(moved), section, placing)
    assert numbers(again) == pytest.approx(numbers(cuts), abs=1e-6)
    assert again.volumes == pytest.approx(cuts.volumes, rel=1e-7)


@given(st.lists(st.tuples(*[st.floats(-1, 1)] * 3), min_size=3, max_size=7), sections())
def test_carried_frames_meet_at_every_corner_in_space(directions: list[tuple[float, float, float]], section: Section) -> None:
    steps = np.array(directions)
    lengths = np.linalg.norm(steps, axis=1)
    assume(bool((lengths > 0.2).all()))
    points = np.vstack([np.zeros(3), np.cumsum(steps / lengths[:, None] * 2000, axis=0)])
    path = line(points).model_copy(update={"frame": "carried"})
    cuts = run_cuts(path, section)
    assume(bool((np.degrees(cuts.course.turns) < 140).all()))
    assume(bool((cuts.short_points > 1).all()))
    assert cuts.mismatches.max() < 1e-8
    whole = mesh(run_solid(cuts))
    assert whole.is_watertight
    assert whole.volume == pytest.approx(cuts.volumes.sum(), rel=1e-9)


@pytest.mark.parametrize("entry", library(), ids=lambda entry: entry.key)
def test_every_library_section_makes_a_sound_run(entry: Entry) -> None:
    section = Section(id="S1", **{name: getattr(entry.section, name) for name in type(entry.section).model_fields})
    cuts = run_cuts(line([(0, 0), (4000, 0), (4000, 3000), (2000, 3900), (0, 3000)], True), section)
    solid = mesh(run_solid(cuts))
    assert solid.is_watertight
    # The drawing copy of a curved outline is finer than one part in two hundred of its area.
    assert solid.volume == pytest.approx(cuts.volumes.sum(), rel=0.02)
    surface = run_surface(cuts)
    face_normals = mesh(type(run_solid(cuts))(surface.vertices, surface.faces)).face_normals
    for corner in range(3):
        assert (np.einsum("ij,ij->i", face_normals, surface.normals[surface.faces[:, corner]]) > 0.8).all()
    assert surface.pieces[-1] == len(surface.faces)
