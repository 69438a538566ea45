"""Facts of sections against steel tables, closed forms, fontTools' pens and fine polygons."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
from fontTools.pens.boundsPen import BoundsPen
from fontTools.pens.momentsPen import MomentsPen
from fontTools.pens.perimeterPen import PerimeterPen
from hypothesis import given, reject
from hypothesis import strategies as st

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddSection, HoldOutline, PutOutlinePoint, SectionChanges, SetSection, apply
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.sections.document.constraints import Hidden
from slow_ribbon.core.sections.document.section import NamedDatum, SectionBody, section_shape
from slow_ribbon.core.sections.edges.curve import CurveEdge
from slow_ribbon.core.sections.library import from_library, library, rectangle
from slow_ribbon.core.sections.outline.minimum_thickness import narrowest_of
from slow_ribbon.core.sections.outline.outline import Outline, OutlinePen, circle, outline_by_points
from slow_ribbon.core.sections.outline.profile import loop_of, shape_of
from slow_ribbon.core.sections.section_properties import Facts, facts_of


def body(outline: Outline, *holes: Outline, **more: Any) -> SectionBody:
    left, low, right, high = shape_of(outline).box
    return SectionBody(name="Section", outline=outline, holes=holes, width=right - left, height=high - low, **more)


@pytest.mark.parametrize(
    ("key", "area", "second", "modulus", "torsion", "weight"),
    [("tube-round", 4.53, 11.6, 4.80, 23.2, 3.56), ("tube-square", 4.21, 9.32, 4.66, 15.8, 3.30)],
)
def test_tubes_have_the_properties_of_the_standards_tables(
    key: str, area: float, second: float, modulus: float, torsion: float, weight: float
) -> None:
    """48.3 × 3.2 and 40 × 40 × 3.0: EN 10219-2, tables of properties (memory), in cm², cm⁴, cm³ and kg/m; to their last digit."""
    facts = facts_of(from_library(key))
    assert facts.torsion is not None
    found = (facts.area / 1e2, facts.ix / 1e4, facts.modulus_x / 1e3, facts.torsion / 1e4, facts.weight)
    for value, answer in zip(found, (area, second, modulus, torsion, weight), strict=True):
        digit = 0.1 if answer >= 10 else 0.01
        assert value == pytest.approx(answer, abs=0.51 * digit)


def test_closed_forms() -> None:
    """Rectangle, circle, half circle and right triangle: any text on strength of materials."""
    flat = facts_of(body(rectangle(30, 60)))
    assert (flat.ix, flat.iy, flat.ixy) == pytest.approx((30 * 60**3 / 12, 60 * 30**3 / 12, 0), abs=1e-6)
    assert flat.modulus_x == pytest.approx(30 * 60**2 / 6)
    assert flat.circle[2] == pytest.approx(15, abs=1e-4)
    assert flat.rectangle[:2] == pytest.approx((60, 30))
    rod = facts_of(body(circle(20), datum=NamedDatum(name="middle")))
    assert (rod.ix, rod.iy, rod.torsion) == pytest.approx((math.pi * 20**4 / 4, math.pi * 20**4 / 4, math.pi * 20**4 / 2))
    assert (rod.bend_left, rod.bend_right) == pytest.approx((20, 20))
    half = facts_of(body(OutlinePen(20, 0).arc(-20, 0, 1).close()))
    assert half.ix == pytest.approx((math.pi / 8 - 8 / (9 * math.pi)) * 20**4)
    assert half.iy == pytest.approx(math.pi / 8 * 20**4)
    assert half.circle[2] == pytest.approx(10, abs=1e-3)
    triangle = facts_of(body(OutlinePen(0, 0).line(30, 0).line(0, 60).close()))
    assert (triangle.ix, triangle.iy, triangle.ixy) == pytest.approx((30 * 60**3 / 36, 60 * 30**3 / 36, -(30**2) * 60**2 / 72))
    # The circle in a right triangle: (a + b − c) / 2.
    assert triangle.circle[2] == pytest.approx((90 - math.hypot(30, 60)) / 2, abs=1e-3)


def test_principal_axes_turn_with_the_section() -> None:
    """An oblong turned by 25°: its long side is the axis about which the second moment is greatest."""
    turn = math.radians(25)
    along, across = np.array([math.cos(turn), math.sin(turn)]) * 60, np.array([-math.sin(turn), math.cos(turn)]) * 200
    pen = OutlinePen(0, 0).line(*along).line(*(along + across)).line(*across)
    facts = facts_of(body(pen.close()))
    assert (facts.greatest, facts.least) == pytest.approx((60 * 200**3 / 12, 200 * 60**3 / 12))
    assert facts.principal_angle == pytest.approx(25)
    assert facts.rectangle == pytest.approx((200, 60, -65))


@st.composite
def curved(draw: st.DrawFn) -> Outline:
    """An outline of curves round a point, with handles that may be parted, long, or drawn back."""
    count = draw(st.integers(3, 7))
    radii = draw(st.lists(st.floats(20, 60), min_size=count, max_size=count))
    points = [np.array([math.cos(a), math.sin(a)]) * r for a, r in zip(np.arange(count) * 2 * math.pi / count, radii, strict=True)]
    pen = OutlinePen(*points[0])
    for index, begin in enumerate(points):
        end = points[(index + 1) % count]
        shares = [draw(st.floats(0, 0.45)) for _ in range(2)]
        aside = [draw(st.floats(-0.15, 0.15)) for _ in range(2)]
        chord = end - begin
        normal = np.array([chord[1], -chord[0]])
        first = begin + chord * shares[0] + normal * aside[0] * (shares[0] > 0)
        second = end - chord * shares[1] + normal * aside[1] * (shares[1] > 0)
        pen.curve((float(first[0]), float(first[1])), (float(second[0]), float(second[1])), float(end[0]), float(end[1]))
    outline = pen.close()
    try:
        shape_of(outline)
    except Refused as refused:
        if refused.code != "outline-crosses":
            raise
        reject()
    return outline


def drawn(outline: Outline, pen: Any) -> Any:
    pen.moveTo(outline.start)
    for edge in outline.edges:
        assert isinstance(edge, CurveEdge)
        pen.curveTo(*edge.controls, edge.to)
    pen.closePath()
    return pen


@given(curved())
def test_curves_against_font_tools_pens(outline: Outline) -> None:
    """Area and moments by Green's theorem in closed form (MomentsPen), extremes (BoundsPen) and length (PerimeterPen)."""
    shape = shape_of(outline)
    moments = drawn(outline, MomentsPen())
    sense = math.copysign(1, moments.area)
    assert shape.area == pytest.approx(sense * moments.area)
    assert shape.centroid == pytest.approx((moments.momentX / moments.area, moments.momentY / moments.area), abs=1e-9)
    assert shape.box == pytest.approx(drawn(outline, BoundsPen(None)).bounds, abs=1e-9)
    assert shape.perimeter == pytest.approx(drawn(outline, PerimeterPen(tolerance=1e-6)).value, rel=1e-6)
    facts = facts_of(body(outline))
    ix = sense * moments.momentYY - shape.area * shape.centroid[1] ** 2
    iy = sense * moments.momentXX - shape.area * shape.centroid[0] ** 2
    ixy = sense * moments.momentXY - shape.area * shape.centroid[0] * shape.centroid[1]
    assert (facts.ix, facts.iy, facts.ixy) == pytest.approx((ix, iy, ixy), rel=1e-9, abs=1e-6 * ix)
    assert facts.greatest + facts.least == pytest.approx(facts.ix + facts.iy)
    assert facts.greatest * facts.least == pytest.approx(facts.ix * facts.iy - facts.ixy**2)


@given(curved())
def test_curves_are_no_further_from_their_chords_than_asked(outline: Outline) -> None:
    shape = shape_of(outline)
    fine = shapely.LineString(np.concatenate([edge.at_shares(np.linspace(0, 1, 401)) for edge in shape.loops[0]]))
    for chord_height in (0.5, 0.02):
        assert shapely.hausdorff_distance(shape.polygon(chord_height).boundary, fine) <= chord_height + 5e-3


def by_polygon(shape: shapely.Polygon) -> tuple[float, float, float]:
    """Second moments of a polygon about its centroid, ring by ring (the shoelace formula's sisters)."""
    centre = shapely.get_coordinates(shape.centroid)[0]
    total = np.zeros(3)
    for ring, sense in ((shape.exterior, 1), *((hole, -1) for hole in shape.interiors)):
        x, y = (shapely.get_coordinates(ring) - centre).T
        cross = x[:-1] * y[1:] - x[1:] * y[:-1]
        sums = [
            cross @ (y[:-1] ** 2 + y[:-1] * y[1:] + y[1:] ** 2) / 12,
            cross @ (x[:-1] ** 2 + x[:-1] * x[1:] + x[1:] ** 2) / 12,
            cross @ (x[:-1] * y[1:] + 2 * x[:-1] * y[:-1] + 2 * x[1:] * y[1:] + x[1:] * y[:-1]) / 24,
        ]
        total += np.array(sums) * sense * math.copysign(1, cross.sum())
    return float(total[0]), float(total[1]), float(total[2])


@pytest.mark.parametrize("entry", library(), ids=lambda entry: entry.key)
def test_the_library_against_fine_polygons(entry: Any) -> None:
    facts, shape = facts_of(entry.section), section_shape(entry.section)
    polygon = shape.polygon(1e-5)
    assert (facts.ix, facts.iy, facts.ixy) == pytest.approx(by_polygon(polygon), rel=1e-5, abs=1e-5 * facts.ix)
    # The circle lies in the section, and no other does that is larger by a hair: looked for by shapely.
    x, y, radius = facts.circle
    size = max(entry.section.width, entry.section.height)
    # It is found to a millionth of the section's size.
    assert polygon.boundary.distance(shapely.Point(x, y)) == pytest.approx(radius, abs=max(2e-4, 1e-6 * size))
    assert radius >= shapely.maximum_inscribed_circle(shape.polygon(1e-3 * size), 1e-3 * size).length - 2e-3 * size
    _rectangle_holds(facts, polygon)


def _rectangle_holds(facts: Facts, polygon: shapely.Polygon) -> None:
    long, short, _ = facts.rectangle
    assert long * short == pytest.approx(shapely.oriented_envelope(polygon).area, rel=1e-4)


@given(st.floats(0, 360), st.floats(0.5, 9.5), st.floats(15, 60))
def test_the_narrowest_place_is_that_of_a_neck_however_it_is_turned(degrees: float, neck: float, length: float) -> None:
    # Two squares of 40 joined by a neck: it is as wide as the neck.
    a, b = 20 - neck / 2, 20 + neck / 2
    places = [(0, 0), (40, 0), (40, a), (40 + length, a), (40 + length, 0), (80 + length, 0), (80 + length, 40), (40 + length, 40)]
    places += [(40 + length, b), (40, b), (40, 40), (0, 40)]
    turn = math.radians(degrees)
    matrix = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    points = [tuple(point) for point in (np.array(places, dtype=float) @ matrix.T).tolist()]
    wide, one, other = narrowest_of(shape_of(outline_by_points(points)))
    assert wide == pytest.approx(neck, abs=1e-6)
    assert math.dist(one, other) == pytest.approx(wide)


@pytest.mark.parametrize(
    ("key", "wide"),
    [
        # By the sizes in their names and drawings: walls, legs, boards, diameters.
        ("tube-round", 3.2), ("tube-square", 3.0), ("angle-50-50-5", 5.0), ("channel-80-50-4", 4.0), ("flat-bar-40-8", 8.0),
        ("skirting-square", 15.0), ("architrave", 14.0), ("post-square", 90.0), ("handrail-round", 44.0), ("half-round", 12.0),
    ],
)  # fmt: skip
def test_the_narrowest_place_of_known_sections(key: str, wide: float) -> None:
    assert facts_of(from_library(key)).narrowest[0] == pytest.approx(wide, rel=1e-5)


def test_hidden_edges_are_not_painted_and_follow_the_outline() -> None:
    job = apply(Job(name="Job"), AddSection(section=from_library("skirting-chamfered")))
    painted = facts_of(job.section("S1")).painted
    back = next(i for i, edge in enumerate(loop_of(job.section("S1").outline)) if abs(float(edge.begin[0]) + float(edge.end[0])) < 1e-9)
    job = apply(job, HoldOutline(section="S1", held=Hidden(edge=(0, back))))
    assert facts_of(job.section("S1")).painted == pytest.approx(painted - 0.145)
    # A point put in before it, and another height: it is the back that is hidden still.
    job = apply(job, PutOutlinePoint(section="S1", edge=(back + 1) % 5, at=(9, 0)))
    job = apply(job, SetSection(section="S1", changes=SectionChanges(height=200)))
    section = job.section("S1")
    assert section.height == 200
    assert facts_of(section).perimeter * 1e-3 - facts_of(section).painted == pytest.approx(0.2)


@given(st.lists(st.tuples(st.floats(0.5, 1.5), st.floats(8, 60)), min_size=3, max_size=14))
def test_no_circle_is_larger_anywhere_in_a_star(rays: list[tuple[float, float]]) -> None:
    """Against shapely's search, a hundred times as fine: of places that are nearly alike the larger one is found."""
    angles = np.cumsum([step for step, _ in rays]) * 2 * math.pi / sum(step for step, _ in rays)
    radii = np.array([radius for _, radius in rays])
    points = np.column_stack([radii * np.cos(angles), radii * np.sin(angles)])
    facts = facts_of(body(outline_by_points(points.tolist()))).circle[2]
    size = float(np.ptp(points, axis=0).max())
    assert facts == pytest.approx(shapely.maximum_inscribed_circle(shapely.Polygon(points), 1e-6 * size).length, rel=3e-5)
