"""Outlines drawn by hand: what is done to them leaves what it should, what is held stays true, and figures are what was typed.

The truth is found in other ways than the drawing's own: distances and angles by ``math``, areas of what is cut off by closed
forms, circles through three points, shapely at fine chords.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
from examples import examples
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import apply
from slow_ribbon.core.job.edits.measures import Bind, SetMeasures
from slow_ribbon.core.job.edits.outlines import CutOutlineCorner, LetGo, MoveOutlinePoint, SetOutlineFigure, ShapeOutlineEdge
from slow_ribbon.core.job.edits.sections import AddSection, SectionChanges, SetSection
from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.kernel.measures import Formula, MeasureChange
from slow_ribbon.core.sections.document.constraints import (
    Apart,
    CornerAngle,
    Equal,
    Halfway,
    Level,
    Parallel,
    Radius,
    Square,
    Symmetric,
    Upright,
)
from slow_ribbon.core.sections.document.section import PointDatum, SectionBody, section_shape
from slow_ribbon.core.sections.edges import EdgeKind
from slow_ribbon.core.sections.edges.arc import ArcEdge, circle_through
from slow_ribbon.core.sections.library import from_library, library, rectangle
from slow_ribbon.core.sections.outline.outline import OutlinePen
from slow_ribbon.core.sections.outline.profile import shape_of
from slow_ribbon.core.sections.sketch.infer_constraints import figure_typed, held_true, mirror_found
from slow_ribbon.core.sections.sketch.outline_edits import (
    corner_cut,
    edge_shaped,
    point_moved,
    point_pulled_out,
    point_put_in,
    point_taken_out,
)
from slow_ribbon.core.sections.sketch.sketch import Sketch, drawing_of, is_smooth, redrawn
from slow_ribbon.core.sections.sketch.sketch_variables import SketchVariables
from slow_ribbon.service.views.desk import section_drawn

keys = st.sampled_from([entry.key for entry in library()])


@st.composite
def drawings(draw: st.DrawFn) -> Sketch:
    """A star-shaped outline of straights, arcs and curves."""
    count = draw(st.integers(3, 9))
    reaches = draw(st.lists(st.floats(30, 60), min_size=count, max_size=count))
    angles = [2 * math.pi * (i + draw(st.floats(0, 0.4))) / count for i in range(count)]
    points = [(r * math.cos(a), r * math.sin(a)) for r, a in zip(reaches, angles, strict=True)]
    pen = OutlinePen(*points[0])
    for i in range(count):
        (x0, y0), (x, y) = points[i], points[(i + 1) % count]
        kind = draw(st.sampled_from(["line", "arc", "curve"]))
        if kind == "line":
            pen.line(x, y)
        elif kind == "arc":
            pen.arc(x, y, draw(st.floats(0.05, 0.3)))
        else:
            out = draw(st.floats(0.02, 0.15))
            dx, dy = x - x0, y - y0
            pen.curve((x0 + dx / 3 + out * dy, y0 + dy / 3 - out * dx), (x - dx / 3 + out * dy, y - dy / 3 - out * dx), x, y)
    return Sketch(SketchVariables.of((pen.close(),)))


def area_of(drawing: Sketch) -> float:
    outline, *holes = drawing.drawn.outlines()
    return shape_of(outline, holes).area


def at(drawing: Sketch, point: int) -> Any:
    return drawing.drawn.point(0, point)


@given(drawings(), st.data())
def test_a_point_put_in_changes_nothing_and_taken_out_again_nothing_either(drawing: Sketch, data: st.DataObject) -> None:
    edge = data.draw(st.integers(0, drawing.drawn.count(0) - 1))
    share = data.draw(st.floats(0.1, 0.9))
    outline = drawing.drawn.outline(0)
    before = shape_of(outline)
    where = before.loops[0][edge].at_shares(np.array([share]))[0] if area_of(drawing) > 0 else outline.start
    put = point_put_in(drawing, 0, edge, where)
    assert put.drawn.count(0) == drawing.drawn.count(0) + 1
    after = shape_of(put.drawn.outline(0))
    assert after.area == pytest.approx(before.area, rel=1e-9)
    assert after.perimeter == pytest.approx(before.perimeter, rel=1e-9)
    again = point_taken_out(put, 0, edge + 1)
    assert again.drawn.loops == drawing.drawn.loops
    assert again.drawn.x == pytest.approx(drawing.drawn.x, abs=1e-6)


@given(keys, st.floats(0.5, 3), st.floats(0.5, 3))
def test_a_section_at_any_size_is_drawn_as_it_is(key: str, across: float, up: float) -> None:
    section = from_library(key)
    section = section.model_copy(update={"width": section.width * across, "height": section.height * up})
    now = redrawn(section, drawing_of(section))
    assert section_shape(now).area == pytest.approx(section_shape(section).area, rel=1e-6)
    assert section_shape(now).box == pytest.approx(section_shape(section).box, abs=1e-5)
    # Drawn once it is at its size, and is drawn no other way again.
    assert redrawn(now, drawing_of(now)).outline == now.outline


@given(st.floats(40, 160), st.floats(1, 9))
def test_a_rounded_corner_takes_away_what_it_should(angle: float, radius: float) -> None:
    """Two tangents less the sector: r²·(cot(α/2) − (π − α)/2)."""
    turn = math.radians(angle)
    a, b = (60.0, 0.0), (60 * math.cos(turn), 60 * math.sin(turn))
    drawing = Sketch(SketchVariables.of((OutlinePen(0, 0).line(*a).line(*b).close(),)))
    assume(radius / math.tan(turn / 2) < 55)
    rounded = corner_cut(drawing, 0, 0, "round", radius)
    gone = radius**2 * (1 / math.tan(turn / 2) - (math.pi - turn) / 2)
    assert area_of(drawing) - area_of(rounded) == pytest.approx(gone, rel=1e-6, abs=1e-6)
    assert is_smooth(rounded, 0, 0)
    assert is_smooth(rounded, 0, 1)
    edge = rounded.drawn.outline(0).edges[0]
    assert isinstance(edge, ArcEdge)
    found = circle_through(rounded.drawn.outline(0).start, edge.via, edge.to)
    assert found is not None
    assert found[2] == pytest.approx(radius, rel=1e-9)
    # It stays one, of its radius, wherever its neighbours go.
    moved = point_moved(rounded, 0, 2, (70, 5))
    assert is_smooth(moved, 0, 0)
    assert is_smooth(moved, 0, 1)
    chamfered = corner_cut(drawing, 0, 0, "chamfer", radius)
    assert math.dist(at(chamfered, 0), (0, 0)) == pytest.approx(radius)
    assert math.dist(at(chamfered, 1), (0, 0)) == pytest.approx(radius)


@given(drawings(), st.data())
def test_corners_of_any_edges_are_rounded_tangent(drawing: Sketch, data: st.DataObject) -> None:
    point = data.draw(st.integers(0, drawing.drawn.count(0) - 1))
    assume(not is_smooth(drawing, 0, point))
    rounded = corner_cut(drawing, 0, point, "round", 0.5)
    assert is_smooth(rounded, 0, point)
    assert is_smooth(rounded, 0, (point + 1) % rounded.drawn.count(0))


@given(
    st.floats(12, 40),
    st.floats(60, 160),
    st.floats(4, 10),
    st.lists(st.tuples(st.integers(0, 5), st.floats(-6, 6), st.floats(-6, 6)), max_size=4),
)
def test_what_is_held_stays_true_whatever_is_dragged(
    width: float, height: float, step: float, drags: list[tuple[int, float, float]]
) -> None:
    """A rebated board: level and upright edges, two equal, one point midway, a length held."""
    pen = OutlinePen(0, 0).line(width, 0).line(width, height / 2).line(width - step, height / 2).line(width - step, height).line(0, height)
    drawing = Sketch(SketchVariables.of((pen.close(),)))
    for held in (
        Level(a=(0, 0), b=(0, 1)),
        Upright(a=(0, 5), b=(0, 0)),
        Parallel(a=(0, 1), b=(0, 5)),
        Square(a=(0, 1), b=(0, 2)),
        Equal(a=(0, 1), b=(0, 3)),
        Halfway(point=(0, 4), a=(0, 3), b=(0, 5)),
        Apart(a=(0, 0), b=(0, 1), value=width),
    ):
        drawing = held_true(drawing, held)
    for point, dx, dy in drags:
        x, y = at(drawing, point)
        drawing = point_moved(drawing, 0, point, (x + dx, y + dy))
        p = [at(drawing, i) for i in range(6)]
        assert p[0][1] == pytest.approx(p[1][1], abs=1e-7)
        assert p[5][0] == pytest.approx(p[0][0], abs=1e-7)
        assert p[1][0] == pytest.approx(p[2][0], abs=1e-6)
        assert float((p[2] - p[1]) @ (p[3] - p[2])) == pytest.approx(0, abs=1e-5)
        assert math.dist(p[1], p[2]) == pytest.approx(math.dist(p[3], p[4]), abs=1e-7)
        assert (p[3] + p[5]) / 2 == pytest.approx(p[4], abs=1e-7)
        assert math.dist(p[0], p[1]) == pytest.approx(width, abs=1e-7)


def test_a_drag_goes_where_the_hand_goes_and_moves_only_what_is_free() -> None:
    drawing = Sketch(SketchVariables.of((rectangle(20, 100),)))
    for i in range(4):
        kind = Level if i % 2 == 0 else Upright
        drawing = held_true(drawing, kind(a=(0, i), b=(0, (i + 1) % 4)))
    moved = point_moved(drawing, 0, 2, (31, 104))
    assert [tuple(at(moved, i)) for i in range(4)] == [pytest.approx(p, abs=1e-6) for p in ((0, 0), (31, 0), (31, 104), (0, 104))]
    fixed = held_true(moved, Apart(a=(0, 0), b=(0, 1), value=31))
    again = point_moved(fixed, 0, 2, (50, 120))
    assert math.dist(at(again, 0), at(again, 1)) == pytest.approx(31)
    assert at(again, 2)[1] == pytest.approx(120)


def test_what_contradicts_is_refused_by_name_and_leaves_the_outline() -> None:
    drawing = figure_typed(Sketch(SketchVariables.of((rectangle(20, 100),))), Apart(a=(0, 0), b=(0, 1), value=20), hold=True)
    drawing = held_true(held_true(drawing, Upright(a=(0, 1), b=(0, 2))), Upright(a=(0, 3), b=(0, 0)))
    drawing = held_true(drawing, Level(a=(0, 0), b=(0, 1)))
    drawing = held_true(drawing, Level(a=(0, 2), b=(0, 3)))
    with pytest.raises(Refused, match=r"20 mm from point 1 to point 2; .*25 mm from point 3 to point 4") as error:
        held_true(drawing, Apart(a=(0, 2), b=(0, 3), value=25))
    assert error.value.code == "held-contradiction"
    with pytest.raises(Refused, match="held already"):
        held_true(drawing, Level(a=(0, 2), b=(0, 3)))
    with pytest.raises(Refused, match="not straight"):
        held_true(drawing_of(from_library("skirting-bullnosed")), Square(a=(0, 1), b=(0, 2)))


@settings(max_examples=examples(30))
@given(st.floats(20, 170))
def test_an_angle_typed_is_that_angle_whichever_way_the_outline_goes(angle: float) -> None:
    for outline in (rectangle(40, 60), OutlinePen(0, 0).line(0, 60).line(40, 60).line(40, 0).close()):
        typed = figure_typed(Sketch(SketchVariables.of((outline,))), CornerAngle(point=(0, 2), value=angle), hold=False)
        a, b, c = (at(typed, i) for i in (1, 2, 3))
        seen = math.degrees(math.acos(float((a - b) @ (c - b)) / (math.dist(a, b) * math.dist(c, b))))
        assert seen == pytest.approx(angle, abs=1e-6)
        assert typed.held == ()


def test_a_length_typed_keeps_what_is_level_and_upright() -> None:
    section = from_library("skirting-bullnosed")
    typed = figure_typed(drawing_of(section), Apart(a=(0, 0), b=(0, 1), value=19), hold=False)
    now = redrawn(section, typed)
    assert (now.width, now.height) == pytest.approx((19, 100), abs=1e-3)
    p = [at(typed, i) for i in range(5)]
    assert p[0][1] == pytest.approx(p[1][1], abs=1e-7)
    assert p[1][0] == pytest.approx(p[2][0], abs=1e-7)
    assert is_smooth(typed, 0, 2)
    radius = figure_typed(typed, Radius(edge=(0, 2), value=9), hold=True)
    edge = radius.drawn.outline(0).edges[2]
    assert isinstance(edge, ArcEdge)
    found = circle_through(tuple(at(radius, 2)), edge.via, edge.to)
    assert found is not None
    assert found[2] == pytest.approx(9)
    # Typed again it is held still, and there is one of it.
    assert [one.kind for one in figure_typed(radius, Radius(edge=(0, 2), value=8), hold=False).held] == ["radius"]


@pytest.mark.parametrize("key", ["handrail-moulded", "coping-weathered", "tube-square"])
def test_what_is_symmetric_stays_so(key: str) -> None:
    section = from_library(key)
    drawing = drawing_of(section)
    drawing = held_true(drawing, mirror_found(drawing, "upright"))

    def is_mirrored(now: Sketch) -> bool:
        outline, *holes = now.drawn.outlines()
        polygon = shape_of(outline, holes).polygon(1e-4)
        middle = (polygon.bounds[0] + polygon.bounds[2]) / 2
        mirrored = shapely.transform(polygon, lambda points: points * [-1, 1] + [2 * middle, 0])
        return bool(polygon.symmetric_difference(mirrored).area < 1e-3 * polygon.area)

    for now in (
        drawing,
        point_moved(drawing, 0, 0, at(drawing, 0) - [0.4, 0.7]),
        point_put_in(drawing, 0, 1, at(drawing, 1) * 0.4 + at(drawing, 2) * 0.6),
        *([] if section.holes else [point_taken_out(drawing, 0, 1)]),
        point_moved(
            point_put_in(drawing, 0, 0, (at(drawing, 0) + at(drawing, 1)) / 2), 0, 1, (at(drawing, 0) + at(drawing, 1)) / 2 + [0.3, -0.5]
        ),
    ):
        assert is_mirrored(now)
        assert now.symmetric is not None
    # Pulled out of the later of two mirrored edges, it is the new point that goes to the hand.
    for edge, there in ((1, (31.0, 20.0)), (3, (-6.0, 30.0))):
        board = drawing_of(from_library("batten"))
        board = held_true(board, mirror_found(board, "upright"))
        pulled = point_pulled_out(board, 0, edge, (25.0 if edge == 1 else 0.0, there[1]), there)
        assert is_mirrored(pulled)
        assert min(math.dist(point, there) for point in pulled.points(0)) < 1e-3
        assert pulled.drawn.count(0) == 6
    # An edge that is shaped takes its mirror image along.
    board = drawing_of(from_library("batten"))
    board = held_true(board, mirror_found(board, "upright"))
    shapes: tuple[tuple[EdgeKind, list[tuple[float, float]]], ...] = (
        ("arc", [(26, 20)]),
        ("curve", [(30, 10), (22, 40)]),
        ("straight", []),
    )
    for kind, by in shapes:
        board = edge_shaped(board, 0, 1, kind, by)
        assert board.drawn.loops == (("straight", kind, "straight", kind),)
        assert is_mirrored(board)
        assert at(board, 1) == pytest.approx((25, 0), abs=1e-6)
    cut = corner_cut(
        held_true(drawing_of(from_library("batten")), mirror_found(drawing_of(from_library("batten")), "upright")), 0, 2, "round", 5
    )
    assert cut.drawn.loops[0].count("arc") == 2
    assert is_mirrored(cut)
    with pytest.raises(Refused, match="unlike|not alike"):
        mirror_found(drawing_of(from_library("skirting-ogee")), "level")


def test_a_handle_turns_its_neighbours_with_it_unless_it_is_parted() -> None:
    pen = OutlinePen(0, 0).line(60, 0).curve((60, 20), (50, 30), 30, 30).curve((10, 30), (0, 20), 0, 0)
    drawing = Sketch(SketchVariables.of((pen.close(),)))
    assert is_smooth(drawing, 0, 2)
    by = [(60, 20), (50, 36)]
    turned = edge_shaped(drawing, 0, 1, "curve", by)
    assert is_smooth(turned, 0, 2)
    assert at(turned, 2) == pytest.approx(at(drawing, 2), abs=1e-3)
    parted = edge_shaped(drawing, 0, 1, "curve", by, parted=True)
    assert not is_smooth(parted, 0, 2)
    assert parted.drawn.outline(0).edges[2] == drawing.drawn.outline(0).edges[2]
    # One handle drawn back to its point: that side leaves straight for the other.
    back = edge_shaped(drawing, 0, 1, "curve", [(60, 0), (50, 30)], parted=True)
    assert area_of(back) < area_of(drawing)
    with pytest.raises(Refused, match="on its chord"):
        edge_shaped(drawing, 0, 0, "arc", [(30, 0)])


def test_the_size_of_a_section_that_is_held_follows_what_is() -> None:
    job = apply(Job(name="x"), AddSection(section=from_library("skirting-bullnosed")))
    job = apply(job, CutOutlineCorner(section="S1", point=1, how="round", size=3))
    wider = apply(job, SetSection(section="S1", changes=SectionChanges(width=22))).section("S1")
    assert (wider.width, wider.height) == pytest.approx((22, 100), abs=1e-6)
    arcs = [i for i, edge in enumerate(wider.outline.edges) if isinstance(edge, ArcEdge)]
    edge = wider.outline.edges[arcs[0]]
    assert isinstance(edge, ArcEdge)
    found = circle_through(wider.outline.corners()[arcs[0]], edge.via, edge.to)
    assert found is not None
    # A size that is scaled would have made an ellipse of it.
    assert found[2] == pytest.approx(3, abs=1e-6)
    figure = Apart(a=(0, 0), b=(0, 1), value=math.dist(job.section("S1").outline.start, job.section("S1").outline.edges[0].to))
    fixed = apply(job, SetOutlineFigure(section="S1", figure=figure, hold=True))
    with pytest.raises(Refused, match="What is held keeps it from 40 mm"):
        apply(fixed, SetSection(section="S1", changes=SectionChanges(width=40)))


@given(keys, st.lists(st.tuples(st.integers(0, 30), st.integers(0, 5), st.floats(-9, 9), st.floats(-9, 9)), min_size=1, max_size=5))
def test_no_edits_make_an_outline_that_is_none_without_a_report(key: str, acts: list[tuple[int, int, float, float]]) -> None:
    job = apply(Job(name="x"), AddSection(section=from_library(key)))
    datum = PointDatum(x=3, y=4)
    job = job.put(job.section("S1").model_copy(update={"datum": datum}))
    for number, act, dx, dy in acts:
        section = job.section("S1")
        drawing = drawing_of(section)
        point = number % drawing.drawn.count(0)
        x, y = drawing.drawn.point(0, point).tolist()
        edit = [
            MoveOutlinePoint(section="S1", point=point, to=(x + dx, y + dy)),
            ShapeOutlineEdge(section="S1", edge=point, shape="arc", by=((x + dx, y + dy),)),
            ShapeOutlineEdge(section="S1", edge=point, shape="curve", by=((x + dx, y + dy), (x - dy, y + dx))),
            ShapeOutlineEdge(section="S1", edge=point, shape="straight"),
            CutOutlineCorner(section="S1", point=point, how="round", size=abs(dx) + 0.1),
            CutOutlineCorner(section="S1", point=point, how="chamfer", size=abs(dx) + 0.1),
        ][act]
        try:
            after = apply(job, edit)
        except Refused:
            continue
        now = after.section("S1")
        shape = section_shape(now)
        assert shape.area > 0
        assert shape.box == pytest.approx((0, 0, now.width, now.height), abs=1e-9 * (now.width + now.height))
        # The datum has stayed on the same spot of the drawing.
        assert isinstance(now.datum, PointDatum)
        old_box, new_box = shape_of(drawing.drawn.outline(0)).box, shape_of(now.outline).box
        old = section.datum
        assert isinstance(old, PointDatum)
        assert now.datum.x + new_box[0] == pytest.approx(old.x + old_box[0], abs=1e-6)
        job = after


def test_what_is_asked_of_points_that_are_not_there_is_refused() -> None:
    body: SectionBody = from_library("batten")
    drawing = drawing_of(body)
    with pytest.raises(Refused, match="no point 9"):
        point_moved(drawing, 0, 8, (0, 0))
    with pytest.raises(Refused, match="no hole 1"):
        point_moved(drawing, 1, 0, (0, 0))
    with pytest.raises(Refused, match="three at least"):
        point_taken_out(point_taken_out(drawing, 0, 0), 0, 0)
    with pytest.raises(Refused, match="no corner to cut"):
        corner_cut(point_put_in(drawing, 0, 0, (10, 0)), 0, 1, "round", 2)
    with pytest.raises(Refused, match="no room"):
        corner_cut(drawing, 0, 0, "round", 40)


def test_a_width_that_follows_a_measure_keeps_to_what_is_held() -> None:
    job = apply(Job(name="x"), AddSection(section=from_library("skirting-bullnosed")))
    job = apply(job, CutOutlineCorner(section="S1", point=1, how="round", size=3))
    job = apply(job, SetMeasures(measures=(MeasureChange(name="board", text="18"),)))
    job = apply(job, Bind(formula=Formula(thing="S1", field="width", text="board")))
    for board in (18, 24):
        job = apply(job, SetMeasures(measures=(MeasureChange(name="board", text=str(board)),)))
        section = job.section("S1")
        assert section.width == pytest.approx(board, abs=1e-6)
        radius = next(one.value for one in drawing_of(section).held if isinstance(one, Radius))
        assert radius == 3
        assert [one.kind for one in section.outline.edges].count("arc") == 2
    assert len(job.formulas) == 1


def test_what_a_file_holds_of_nothing_is_refused_when_it_is_drawn_and_stops_nothing_else() -> None:
    body = from_library("tube-square")
    nothing = (
        Radius(edge=(0, 90), value=3),
        Equal(a=(0, 70), b=(4, 1)),
        Level(a=(9, 0), b=(0, 1)),
        Symmetric(axis="upright", through=(1,)),
    )
    for held in nothing:
        section = body.model_copy(update={"held": (held,), "width": 60.0, "height": 60.0})
        drawn = section_drawn(section)
        assert len(drawn["loops"]) == 2
        job = apply(Job(name="x"), AddSection(section=body))
        job = job.put(job.section("S1").model_copy(update={"held": (held,)}))
        with pytest.raises(Refused):
            apply(job, MoveOutlinePoint(section="S1", point=0, to=(1, 1)))
        let = apply(job, LetGo(section="S1", number=0))
        assert let.section("S1").held == ()
    far = apply(Job(name="x"), AddSection(section=from_library("batten")))
    with pytest.raises(Refused, match="at most|further"):
        apply(far, MoveOutlinePoint(section="S1", point=2, to=(3e6, 50)))
