"""Outlines: what can be asked of them, and what is refused."""

from __future__ import annotations

import math

import numpy as np
import pytest
from fontTools.pens.recordingPen import RecordingPen
from fontTools.pens.statisticsPen import StatisticsPen
from hypothesis import given
from hypothesis import strategies as st
from making import outlines

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.sections.document.section import EdgeBed, Section, SectionBody, bed_up, section_shape
from slow_ribbon.core.sections.edges.arc import ArcEdge
from slow_ribbon.core.sections.edges.straight import StraightEdge
from slow_ribbon.core.sections.library import Entry, from_library, library, rectangle
from slow_ribbon.core.sections.outline.outline import Outline, OutlinePen, circle
from slow_ribbon.core.sections.outline.profile import shape_of


@given(outlines())
def test_polygons_agree_with_shapely_and_font_tools(outline: Outline) -> None:
    shape, polygon = shape_of(outline), shape_of(outline).polygon()
    assert shape.area == pytest.approx(polygon.area, rel=1e-12)
    assert shape.centroid == pytest.approx([polygon.centroid.x, polygon.centroid.y], abs=1e-8)
    assert shape.perimeter == pytest.approx(polygon.exterior.length, rel=1e-12)
    assert shape.box == pytest.approx(polygon.bounds)
    pen = StatisticsPen()
    draw = RecordingPen()
    points = list(polygon.exterior.coords)
    draw.moveTo(points[0])
    for point in points[1:]:
        draw.lineTo(point)
    draw.closePath()
    draw.replay(pen)
    assert abs(pen.area) == pytest.approx(shape.area)
    assert shape.centroid == pytest.approx([pen.meanX, pen.meanY], abs=1e-6)


@given(st.floats(5, 500), st.floats(5, 500), st.floats(0, 2 * math.pi))
def test_a_circle_scaled_apart_is_an_ellipse_in_every_figure(width: float, height: float, angle: float) -> None:
    section = SectionBody(name="Oval", outline=circle(10), width=width, height=height)
    shape = section_shape(section)
    assert shape.area == pytest.approx(math.pi * width * height / 4)
    assert shape.centroid == pytest.approx([width / 2, height / 2])
    direction = np.array([[math.cos(angle), math.sin(angle)]])
    reach = math.hypot(width / 2 * math.cos(angle), height / 2 * math.sin(angle))
    assert shape.furthest(direction)[0] == pytest.approx(reach + direction[0] @ [width / 2, height / 2])


@pytest.mark.parametrize("entry", library(), ids=lambda entry: entry.key)
def test_the_library_is_sound_and_its_figures_are_those_of_a_fine_polygon(entry: Entry) -> None:
    section: SectionBody = entry.section
    shape = section_shape(section)
    fine = shape.polygon(1e-6)
    assert fine.is_valid
    assert shape.area == pytest.approx(fine.area, rel=1e-4)
    assert shape.centroid == pytest.approx([fine.centroid.x, fine.centroid.y], abs=2e-3)
    assert shape.box == pytest.approx((0, 0, section.width, section.height), abs=1e-9)
    for degrees in range(0, 360, 15):
        direction = np.array([[math.cos(math.radians(degrees)), math.sin(math.radians(degrees))]])
        points = np.array(fine.exterior.coords)
        assert shape.furthest(direction)[0] == pytest.approx((points @ direction[0]).max(), abs=1e-3)
    flat = shape.flat()
    corners = flat.points[flat.triangles]
    sides = corners[:, 1:] - corners[:, :1]
    areas = np.linalg.det(sides)
    assert (areas > 0).all()
    assert areas.sum() / 2 == pytest.approx(shape.polygon().area)


def test_the_library_has_what_the_trade_asks_for_and_a_tube_keeps_its_wall() -> None:
    assert len(library()) >= 12
    tube = section_shape(from_library("tube-round").model_copy(update={"width": 60.3, "height": 60.3}))
    assert tube.area == pytest.approx(math.pi * 3.2 * (60.3 - 3.2))


def refused(outline: Outline, *holes: Outline) -> Refused:
    with pytest.raises(Refused) as caught:
        shape_of(outline, holes)
    return caught.value


def test_bad_outlines_are_refused_with_their_place() -> None:
    open_ended = Outline(start=(0, 0), edges=(StraightEdge(to=(50, 0)), StraightEdge(to=(50, 40)), StraightEdge(to=(0, 2))))
    answer = refused(open_ended)
    assert (answer.code, answer.where) == ("outline-open", "outline.edges.2.to")
    assert "gap of 2 mm" in answer.what
    bow = OutlinePen(0, 0).line(40, 40).line(40, 0).line(0, 40).close()
    assert "(20.0, 20.0)" in refused(bow).what
    stuck = Outline(start=(0, 0), edges=(StraightEdge(to=(0, 0)), StraightEdge(to=(9, 0)), StraightEdge(to=(0, 0))))
    assert refused(stuck).code == "outline-edge"
    straight = Outline(start=(0, 0), edges=(ArcEdge(to=(10, 0), via=(5, 0)), StraightEdge(to=(0, 0))))
    assert refused(straight).code == "outline-arc"
    flat = Outline(start=(0, 0), edges=(StraightEdge(to=(10, 0)), StraightEdge(to=(0, 0))))
    assert refused(flat).code in ("outline-flat", "outline-crosses")
    assert refused(rectangle(10, 10), circle(20)).code == "hole-outside"
    inside = OutlinePen(2, 2).line(6, 2).line(6, 6).close()
    assert refused(rectangle(10, 10), inside, inside).code == "holes-meet"


def test_a_section_lies_steadily_on_its_bed() -> None:
    cornice = from_library("cornice-sprung")
    up = bed_up(cornice)
    assert math.degrees(math.atan2(-up[1], up[0])) == pytest.approx(38)
    for edge in (4, 3):
        with pytest.raises(Refused):
            bed_up(cornice.model_copy(update={"bed": EdgeBed(edge=edge)}))


def test_sizes_and_walls_that_cannot_be_are_refused() -> None:
    with pytest.raises(Refused, match="leaves no hole"):
        section_shape(from_library("tube-round").model_copy(update={"wall": 30.0}))
    for size in (0, -5, math.nan, math.inf):
        with pytest.raises(ValueError, match="width"):
            Section(id="S1", name="Bad", outline=rectangle(1, 1), width=size, height=10)
