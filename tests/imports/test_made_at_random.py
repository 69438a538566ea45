"""Files of every kind written at random, with what real ones have, against what another library or the maker says of them.

Lists of points and maps are written at random in ``test_points`` and ``test_geojson``.
"""

from __future__ import annotations

import io
import math
from collections.abc import Callable
from typing import Any

import ezdxf
import ezdxf.path
import ifcopenshell
import ifcopenshell.api.aggregate
import ifcopenshell.api.context
import ifcopenshell.api.geometry
import ifcopenshell.api.project
import ifcopenshell.api.root
import ifcopenshell.api.unit
import numpy as np
import pytest
import shapely
import svgpathtools
import trimesh
from examples import examples
from ezdxf.disassemble import recursive_decompose
from ezdxf.entities import Spline
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from scipy.spatial import ConvexHull

from slow_ribbon.core.lines.legs import place
from slow_ribbon.imports.drawing import Drawing
from slow_ribbon.imports.options import Options
from slow_ribbon.imports.registry import READER_OF
from slow_ribbon.sandbox import in_memory

MANY = settings(max_examples=examples(60), deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.function_scoped_fixture])
#: What $INSUNITS means (DXF reference, HEADER), and its mm.
INSUNITS = {0: 1.0, 1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0}
NAMES = ["WALLS", "Mauer außen", "壁", "0", "a b"]


def read(data: bytes, ending: str, **options: Any) -> Drawing:
    with in_memory(data) as path:
        return READER_OF[ending].read(path, ending, Options(**options))


def by_layer(drawing: Drawing) -> dict[str, float]:
    """Return the length of all edges on each layer, curves by their own measure."""
    found = dict.fromkeys(drawing.layers, 0.0)
    for number, layer in enumerate(drawing.layer.tolist()):
        leg = drawing.curves.get(number)
        begin = place(drawing.begins[number])
        length = math.dist(begin, drawing.ends[number]) if leg is None else sum(span.length for span in leg.spans(begin))
        found[drawing.layers[layer]] += length
    return found


figure = st.integers(-2000, 2000).map(lambda whole: whole / 4)
point = st.tuples(figure, figure)
size = st.integers(4, 4000).map(lambda whole: whole / 4)
angle = st.integers(0, 359)


@st.composite
def entities(draw: st.DrawFn) -> Callable[[Any, dict[str, Any]], None]:
    """Something that draws an entity into a layout."""
    kind = draw(st.sampled_from(["line", "arc", "circle", "ellipse", "polyline", "bspline", "3d"]))
    a, b, radius, begin, turn = draw(point), draw(point), draw(size), draw(angle), draw(st.integers(5, 355))
    extrusion = draw(st.sampled_from([(0, 0, 1), (0, 0, -1), (1, 0, 0), (0.6, 0, 0.8)]))
    if kind == "line":
        return lambda space, how: space.add_line((*a, 7), (*b, 0), dxfattribs=how) if a != b else None
    if kind == "arc":
        return lambda space, how: space.add_arc((*a, 5), radius, begin, begin + turn, dxfattribs={**how, "extrusion": extrusion})
    if kind == "circle":
        return lambda space, how: space.add_circle((*a, 5), radius, dxfattribs={**how, "extrusion": extrusion})
    if kind == "ellipse":
        ratio, first = draw(st.sampled_from([1.0, 0.5, 0.1, 0.999999])), math.radians(begin)
        return lambda space, how: space.add_ellipse(a, (radius, 1.0), ratio, first, first + math.radians(turn), dxfattribs=how)
    count = draw(st.integers(3, 7))
    points = draw(st.lists(point, min_size=count, max_size=count, unique=True))
    if kind == "polyline":
        bulges = draw(st.lists(st.sampled_from([0, 0, 1, -1, 0.4142135623730951, -0.1, 5, 1e-9]), min_size=count, max_size=count))
        rows = [(x, y, 0, 0, bulge) for (x, y), bulge in zip(points, bulges, strict=True)]
        closed = draw(st.booleans())
        return lambda space, how: space.add_lwpolyline(rows, close=closed, dxfattribs={**how, "extrusion": extrusion})
    if kind == "bspline":
        # An end drawn twice, as a handle that lies on it.
        double = draw(st.sampled_from([0, 1, 2]))
        controls = [points[0]] * (double > 0) + points + [points[-1]] * (double > 1)
        if draw(st.booleans()) and len(controls) >= 4:
            # Bézier curves joined into one: every inner knot as often as the degree.
            controls = (controls * 2)[: 3 * ((len(controls) - 1) // 3) + 1]
            pieces = (len(controls) - 1) // 3
            knots = [0.0] * 4 + [float(k) for k in range(1, pieces) for _ in range(3)] + [float(pieces)] * 4
            return lambda space, how: space.add_open_spline(controls, degree=3, knots=knots, dxfattribs=how)
        return lambda space, how: space.add_open_spline(controls, degree=min(3, len(controls) - 1), dxfattribs=how)
    return lambda space, how: space.add_polyline3d([(x, y, x / 3) for x, y in points], dxfattribs=how)


@MANY
@given(
    st.lists(st.tuples(entities(), st.sampled_from(NAMES), st.booleans()), min_size=1, max_size=6),
    st.sampled_from(["R2000", "R2007", "R2018"]),
    st.sampled_from(sorted(INSUNITS)),
    st.tuples(st.sampled_from([1.0, -1.0, 2.5]), angle, point),
    st.booleans(),
)
def test_drawings_are_as_long_as_ezdxf_draws_them(
    drawn: list[tuple[Callable[[Any, dict[str, Any]], None], str, bool]],
    version: str,
    unit: int,
    insert: tuple[float, int, tuple[float, float]],
    binary: bool,
) -> None:
    document = ezdxf.new(version)
    document.header["$INSUNITS"] = unit
    space, block = document.modelspace(), document.blocks.new("inside")
    for draw, layer, inside in drawn:
        draw(block if inside else space, {"layer": layer})
    if len(block):
        scale, turn, at = insert
        space.add_blockref("inside", at, dxfattribs={"xscale": scale, "yscale": abs(scale), "zscale": abs(scale), "rotation": turn})
    out: io.BytesIO | io.StringIO = io.BytesIO() if binary else io.StringIO()
    document.write(out, fmt="bin" if binary else "asc")
    data = out.getvalue()
    drawing = read(data if isinstance(data, bytes) else data.encode("utf-8" if version > "R2004" else "cp1252", "dxfreplace"), "dxf")
    assert drawing.unread == {}
    theirs: dict[str, float] = {}
    for entity in recursive_decompose(space):
        if isinstance(entity, Spline):
            curve = entity.construction_tool()
            knots = curve.knots()
            along = np.linspace(knots[curve.degree], knots[-curve.degree - 1] - 1e-12, 4001)
            flat = np.array([one.xyz for one in curve.points(along)])
        else:
            flat = np.array([one.xyz for one in ezdxf.path.make_path(entity).flattening(1e-4, segments=64)])
        length = float(np.linalg.norm(np.diff(flat, axis=0), axis=1).sum())
        if length > 1e-9:
            theirs[entity.dxf.layer] = theirs.get(entity.dxf.layer, 0.0) + length * INSUNITS[unit]
    # It draws arcs and ellipses as Bézier curves, 3 in 10,000 too long.
    assert by_layer(drawing) == pytest.approx(theirs, rel=4e-4), drawing.layers


number = st.integers(-400, 400).map(lambda whole: whole / 8)


@st.composite
def paths(draw: st.DrawFn) -> str:
    """The data of an SVG path, with handles that may lie on the ends."""
    answer = [f"M{draw(number)},{draw(number)}"]
    for _ in range(draw(st.integers(1, 6))):
        letter = draw(st.sampled_from("LlHhVvCcSsQqTtAaZ"))
        many = {"L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "Z": 0}.get(letter.upper(), 0)
        values = [draw(number) for _ in range(many)]
        if letter.upper() == "C" and draw(st.booleans()):
            values[2:4] = values[4:6]
        if letter == "c" and draw(st.booleans()):
            values[0:2] = [0.0, 0.0]
        if letter in "Aa":
            flags = [draw(st.integers(0, 1)), draw(st.integers(0, 1))]
            values = [abs(draw(number)) + 1, abs(draw(number)) + 1, draw(angle), *flags, draw(number), draw(number)]
        answer.append(letter + " ".join(f"{value:g}" for value in values))
    return "".join(answer)


transforms = st.sampled_from(
    ["", "translate(10,-4)", "rotate(33)", "rotate(90 5 5)", "scale(2)", "scale(-1,3)", "skewX(20)", "matrix(.5 .2 -.3 1.5 7 8)"]
)


@MANY
@given(st.lists(st.tuples(paths(), transforms), min_size=1, max_size=4), transforms, st.sampled_from(["mm", "cm", "in", "px", ""]))
def test_paths_are_as_long_as_svgpathtools_says_however_they_are_carried(drawn: list[tuple[str, str]], outer: str, unit: str) -> None:
    inside = "".join(f'<path d="{answer}" transform="{moved}"/>' for answer, moved in drawn)
    head = f'width="300{unit}" height="300{unit}" viewBox="0 0 300 300"'
    data = f'<svg xmlns="http://www.w3.org/2000/svg" {head}><g transform="{outer}">{inside}</g></svg>'
    mm = {"mm": 1.0, "cm": 10.0, "in": 25.4, "px": 25.4 / 96, "": 25.4 / 96}[unit]
    theirs = 0.0
    for answer, moved in drawn:
        try:
            segments = svgpathtools.parse_path(answer)
        except AssertionError:
            return  # it does not take arcs of no length
        whole = svgpathtools.parser.parse_transform(outer) @ svgpathtools.parser.parse_transform(moved)
        for segment in segments:
            at = np.array([segment.point(t) for t in np.linspace(0, 1, 2 if isinstance(segment, svgpathtools.Line) else 3001)])
            flat = np.column_stack([at.real, at.imag]) @ whole[:2, :2].T
            theirs += float(np.linalg.norm(np.diff(flat, axis=0), axis=1).sum()) * mm
    drawing = read(data.encode(), "svg")
    assert set(drawing.unread) <= {"curves of no length"}
    assert sum(by_layer(drawing).values()) == pytest.approx(theirs, rel=1e-5, abs=1e-3 * mm)


@MANY
@given(
    st.lists(st.tuples(*[st.integers(-9, 9)] * 3), min_size=6, max_size=30, unique=True),
    st.sampled_from(["obj", "ply", "stl", "glb"]),
    st.sampled_from([5, 30, 60]),
    st.sampled_from(["mm", "m", "ft"]),
)
def test_edges_of_solids_are_those_of_their_hull(points: list[tuple[int, int, int]], ending: str, sharp: int, unit: Any) -> None:
    corners = np.array(points, dtype=float)
    if np.linalg.matrix_rank(corners - corners[0]) < 3:
        return
    hull = ConvexHull(corners)
    theirs = 0.0
    for one, neighbours in enumerate(hull.neighbors):
        for other in neighbours:
            bend = math.degrees(math.acos(np.clip(hull.equations[one, :3] @ hull.equations[other, :3], -1, 1)))
            if one < other and abs(bend - sharp) < 0.01:
                return  # on the limit, where rounding decides
            shared = np.intersect1d(hull.simplices[one], hull.simplices[other])
            if one < other and bend > sharp and len(shared) == 2:
                theirs += math.dist(*corners[shared])
    # Its corners are reported this way and that way round, as in many a file.
    solid = trimesh.Trimesh(hull.points, hull.simplices)
    out = io.BytesIO()
    solid.export(out, file_type=ending) if ending != "obj" else out.write(str(solid.export(file_type="obj")).encode())
    drawing = read(out.getvalue(), ending, sharp=sharp, unit=unit, upright="z")
    factor = {"mm": 1.0, "m": 1000.0, "ft": 304.8}[unit]
    assert by_layer(drawing).get(f"sharper than {sharp}°", 0.0) == pytest.approx(theirs * factor, rel=1e-5)
    assert drawing.faces is not None
    assert drawing.faces.areas.sum() == pytest.approx(hull.area * factor**2, rel=1e-4)


@settings(max_examples=examples(15), deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(
    st.lists(st.tuples(st.integers(0, 3), st.integers(20, 90)), min_size=1, max_size=4),
    st.sampled_from([("METERS", 1000.0), ("MILLIMETERS", 1.0)]),
    st.integers(0, 359),
    st.sampled_from(["floor", "ceiling"]),
)
def test_rooms_of_a_model_have_the_perimeter_they_were_made_with(
    rooms: list[tuple[int, int]], unit: tuple[str, float], turn: int, level: str
) -> None:
    raw, mm = unit
    api = ifcopenshell.api
    file = api.project.create_file()
    api.root.create_entity(file, ifc_class="IfcProject", name="Slip")
    api.unit.assign_unit(file, length={"is_metric": True, "raw": raw})
    model = api.context.add_context(file, context_type="Model")
    body = api.context.add_context(file, "Model", "Body", "MODEL_VIEW", parent=model)
    theirs = {}
    for number, (kind, wide) in enumerate(rooms):
        # An L, a U, a triangle or a rectangle, turned; in the file's own unit.
        shapes = [
            [(0, 0), (8, 0), (8, 3), (3, 3), (3, 6), (0, 6)],
            [(0, 0), (9, 0), (9, 5), (6, 5), (6, 2), (3, 2), (3, 5), (0, 5)],
            [(0, 0), (7, 0), (2, 5)],
            [(0, 0), (4, 0), (4, 3), (0, 3)],
        ]
        cosine, sine = math.cos(math.radians(turn)), math.sin(math.radians(turn))
        scale = wide / 30 * 1000 / mm
        outline = [((x * cosine - y * sine) * scale, (x * sine + y * cosine) * scale) for x, y in shapes[kind]]
        corners = [file.createIfcCartesianPoint(one) for one in [*outline, outline[0]]]
        profile = file.createIfcArbitraryClosedProfileDef("AREA", None, file.createIfcPolyline(corners))
        place3 = file.createIfcAxis2Placement3D(file.createIfcCartesianPoint((0.0, 0.0, 2.0 * scale)))
        solid = file.createIfcExtrudedAreaSolid(profile, place3, file.createIfcDirection((0.0, 0.0, 1.0)), 3.0 * scale)
        shape = file.createIfcShapeRepresentation(body, "Body", "SweptSolid", [solid])
        room = api.root.create_entity(file, ifc_class="IfcSpace", name=f"Room {number + 1}")
        api.geometry.assign_representation(file, product=room, representation=shape)
        api.geometry.edit_object_placement(file, product=room)
        height = (2.0 if level == "floor" else 5.0) * scale * mm
        theirs[f"space Room {number + 1}"] = (shapely.Polygon(outline).length * mm, height)
    drawing = read(file.to_string().encode(), "ifc", storey=level)
    found = by_layer(drawing)
    assert found == pytest.approx({layer: length for layer, (length, _) in theirs.items()}, rel=1e-6)
    for number, layer in enumerate(drawing.layer.tolist()):
        assert drawing.begins[number, 2] == pytest.approx(theirs[drawing.layers[layer]][1], abs=1e-3)
