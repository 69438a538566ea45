"""Sections made of closed lines: what was imported or traced keeps its straights, arcs and curves."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from making import check_refusal

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, apply, apply_all
from slow_ribbon.core.job.edits.sections import SectionOfLines, SectionOfRegion
from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.kernel.figures import plain
from slow_ribbon.core.lines import ArcLeg, LineBody, StraightLeg, line_body
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import CurveLeg
from slow_ribbon.core.lines.outline_of_line import DEVIATION
from slow_ribbon.core.sections.document.section import section_shape
from slow_ribbon.core.sections.edges.arc import Arc
from slow_ribbon.core.sections.edges.curve import BezierEdge
from slow_ribbon.core.sections.edges.straight import Straight


def made(*bodies: LineBody) -> Job:
    ids = tuple(f"L{i + 1}" for i in range(len(bodies)))
    return apply_all(Job(name="Job"), [AddLines(lines=bodies), SectionOfLines(lines=ids, name="Traced")]).job


def test_straights_and_arcs_stay_what_they_are_and_inner_lines_are_holes() -> None:
    # A bar of 60 × 40 with a rounded head, far from the origin, and a round hole in it.
    legs = (
        StraightLeg(to=(9060, 500, 0)),
        StraightLeg(to=(9060, 520, 0)),
        ArcLeg(via=(9030, 550, 0), to=(9000, 520, 0)),
        StraightLeg(to=(9000, 500, 0)),
    )
    outer = LineBody(name="Bar", start=(9000, 500, 0), legs=legs, closed=True)
    half = (ArcLeg(via=(9030, 530, 0), to=(9020, 520, 0)), ArcLeg(via=(9030, 510, 0), to=(9040, 520, 0)))
    hole = LineBody(name="Hole", start=(9040, 520, 0), legs=half, closed=True)
    for bodies in ((outer, hole), (hole, outer)):
        section = made(*bodies).sections[0]
        shape = section_shape(section)
        assert (section.width, section.height) == pytest.approx((60, 50))
        assert [type(edge) for edge in shape.loops[0]].count(Arc) == 1
        assert shape.area == pytest.approx(60 * 20 + math.pi * 30**2 / 2 - math.pi * 10**2, rel=1e-12)


def test_curves_become_curves_that_stray_no_further_than_is_said() -> None:
    knots = (0.0, 0.0, 0.0, 0.0, 0.5, 1.0, 1.0, 1.0, 1.0)
    spline = CurveLeg(to=(0, 40, 0), controls=((30, 12, 0), (-14, 25, 0), (22, 36, 0)), degree=3, knots=knots)
    weighted = CurveLeg(to=(0, 0, 0), controls=((-30, 20, 0),), degree=2, weights=(1.0, 3.0, 1.0))
    body = LineBody(name="Ogee", start=(0, 0, 0), legs=(spline, weighted), closed=True)
    job = made(body)
    shape = section_shape(job.sections[0])
    assert all(isinstance(edge, BezierEdge) for edge in shape.loops[0])
    course = course_of(job.lines[0])
    places = course.at(np.linspace(0, course.length, 4001)).points[:, :2]
    ring = shapely.LinearRing(shape.rings(0.0005)[0])
    # The section begins at its box, the line where it was drawn.
    off = places - places.min(axis=0)
    assert max(shapely.distance(ring, shapely.points(off))) < 3 * DEVIATION


def test_a_region_pointed_at_is_a_section_with_its_holes() -> None:
    """Four loose lines that run past their corners, with a round hole and a square one in what they enclose; the hole is a region too."""
    sides = [((-5, 0), (75, 0)), ((60, -9), (60, 48)), ((70, 40), (-3, 40)), ((0, 44), (0, -6))]
    loose = [line_body([(*a, 0), (*b, 0)], False, f"Side {i}") for i, (a, b) in enumerate(sides)]
    half = (ArcLeg(via=(20, 28, 0), to=(12, 20, 0)), ArcLeg(via=(20, 12, 0), to=(28, 20, 0)))
    hole = LineBody(name="Hole", start=(28, 20, 0), legs=half, closed=True)
    slot = line_body([(40, 10, 0), (50, 10, 0), (50, 30, 0), (40, 30, 0)], True, "Slot")
    job = apply(Job(name="Job"), AddLines(lines=(*loose, hole, slot)))
    plate = apply(job, SectionOfRegion(name="Plate", point=(5, 5)))
    shape = section_shape(plate.sections[0])
    assert shape.box == pytest.approx((0, 0, 60, 40), abs=1e-6)
    assert len(shape.loops) == 3
    assert shape.area == pytest.approx(60 * 40 - math.pi * 64 - 200, rel=1e-9)
    round_hole = next(loop for loop in shape.loops[1:] if len(loop) <= 3)
    assert all(isinstance(edge, Arc) and float(np.hypot(*edge.u)) == pytest.approx(8) for edge in round_hole)
    bar = apply(job, SectionOfRegion(name="Bar", point=(20, 20), lines=("L5",)))
    assert section_shape(bar.sections[0]).area == pytest.approx(math.pi * 64, rel=1e-9)
    with pytest.raises(Refused, match="No lines enclose"):
        apply(job, SectionOfRegion(name="None", point=(200, 5)))


@given(st.lists(st.floats(5, 60), min_size=3, max_size=12))
def test_any_star_of_straights_encloses_what_shapely_says(reaches: list[float]) -> None:
    angles = np.linspace(0, 2 * np.pi, len(reaches), endpoint=False)
    points = np.column_stack([np.cos(angles), np.sin(angles), 0 * angles]) * np.array(reaches)[:, None]
    shape = section_shape(made(line_body(points.tolist(), True, "Star")).sections[0])
    assert all(isinstance(edge, Straight) for edge in shape.loops[0])
    assert shape.area == pytest.approx(shapely.Polygon(points[:, :2]).area, rel=1e-9)


def saw(teeth: int) -> list[tuple[float, float]]:
    """Angles and distances of a rugged round."""
    return [(2 * math.pi * i / teeth, 60.0 + 2 * (i % 2)) for i in range(teeth)]


def test_ten_thousand_edges_are_made_fewer_within_what_is_reported() -> None:
    """A round of 10,000 chords, as drawings hold: of what is left the area and every place are those of the circle to what is reported."""
    points = [(50 * math.cos(t), 50 * math.sin(t), 0.0) for t in np.linspace(0, 2 * math.pi, 10_000, endpoint=False)]
    job = Job(name="Job")
    job = apply(job, AddLines(lines=(line_body(points, True, "Round"),)))
    done = apply_all(job, [SectionOfLines(lines=("L1",), name="Bar")])
    (answer,) = done.notices
    assert "10,000 edges" in answer
    shape = section_shape(done.job.sections[0])
    assert len(shape.loops[0]) <= 2000
    ring = shapely.LinearRing(shape.rings(0.001)[0])
    away = shapely.distance(ring, shapely.points(np.array(points)[:, :2] - np.array(points)[:, :2].min(axis=0)))
    assert float(away.max()) <= 0.005 + 1e-6
    assert plain(answer).endswith(f"{float(away.max()):.3f} mm at most.")
    # Two thousand and fewer stay as they are.
    few = apply(Job(name="Job"), AddLines(lines=(line_body(points[::5], True, "Round"),)))
    exact = apply_all(few, [SectionOfLines(lines=("L1",), name="Bar")])
    assert exact.notices == ()
    assert len(section_shape(exact.job.sections[0]).loops[0]) == 2000


@pytest.mark.parametrize(
    ("body", "code"),
    [
        (line_body([(0, 0, 0), (10, 0, 0), (10, 10, 0)], False, "Open"), "outline-open"),
        (line_body([(0, 0, 0), (9000, 0, 0), (9000, 8000, 0)], True, "Room"), "outline-far"),
        (line_body([(t * math.cos(a), t * math.sin(a), 0) for a, t in saw(3000)], True, "Rugged"), "outline-edges"),
        (line_body([(0, 0, 0), (10, 10, 0), (10, 0, 0), (0, 10, 0)], True, "Crossed"), "outline-crosses"),
    ],
)
def test_what_makes_no_section_is_reported_with_what_to_do(body: LineBody, code: str) -> None:
    with pytest.raises(Refused) as refused:
        made(body)
    assert refused.value.code == code
    check_refusal(refused.value)
