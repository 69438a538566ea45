"""SVG drawings: paths and shapes with their transforms and units, read with svgelements.

Circular arcs stay arcs, ellipses and Bézier curves are taken as they are. An SVG's y runs down
and its own unit is 1/96 inch (CSS pixel); the drawing is turned upright and brought to mm.
"""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import svgelements

from slow_ribbon.core.kernel import Point3, Refused
from slow_ribbon.core.lines import CurveLeg
from slow_ribbon.imports.conics import conic
from slow_ribbon.imports.drawing import Drawing
from slow_ribbon.imports.edges import Edges, reason
from slow_ribbon.imports.options import UNIT_NAMES, UNITS, Options
from slow_ribbon.imports.svg.svg_tree import plain_tree

#: Millimetres in a CSS pixel.
PIXEL = 25.4 / 96


def read_svg(path: Path, options: Options) -> Drawing:
    """Return the edges of an SVG file, in mm. Raises ``Refused`` if it is not one, is damaged or unfolds without end."""
    tree = plain_tree(path.read_bytes())
    edges = Edges()
    edges.unread.update(tree.unread)
    if tree.symbols:
        edges.notes.append(f"Nothing is drawn in it but symbols for other drawings: {tree.symbols}, each a layer, side by side.")
    # A file without units is in pixels. Where a unit is said its numbers, as they are written, are taken as that.
    unit, scale = PIXEL, tree.scale
    if options.unit is not None:
        unit, scale = UNITS[options.unit], (1.0, tree.scale[1] / tree.scale[0])
    try:
        plain = io.BytesIO(ElementTree.tostring(tree.root))
        drawing = svgelements.SVG.parse(plain, reify=False, ppi=96.0)
        _take(drawing, "drawing", edges, (scale[0] * unit, scale[1] * unit))
    except Refused:
        raise
    except RecursionError as error:
        raise Refused("The SVG's groups are nested too deeply, or refer to themselves.", "file", "damaged") from error
    except Exception as error:  # svgelements meets damage with whatever its parsers raise
        raise Refused(f"The SVG is damaged inside ({reason(error)}).", "file", "damaged") from error
    if options.unit is not None:
        return edges.drawing(UNIT_NAMES[options.unit], True)
    return edges.drawing("its own units" if tree.known else "1/96 inch (pixels)", tree.known)


def _take(element: object, layer: str, edges: Edges, scale: tuple[float, float]) -> None:
    # What is used again is read as often as it is used.
    if isinstance(element, svgelements.Group | svgelements.Use):
        for child in element:
            inner = layer
            if isinstance(child, svgelements.Group):
                values = child.values.get("attributes", {})
                inner = str(values.get("{http://www.inkscape.org/namespaces/inkscape}label") or child.id or layer)
            _take(child, inner, edges, scale)
    elif isinstance(element, svgelements.Shape):
        if str(element.values.get("display", "")) == "none" or str(element.values.get("visibility", "")) == "hidden":
            edges.hidden.add(layer)
        stroke = element.stroke
        if stroke is not None and stroke.value is not None and layer not in edges.colours:
            edges.colours[layer] = str(stroke.hexrgb)
        # Arcs are taken where they are round or straight up, and carried over here: skewed, they are no arcs any more.
        path = svgelements.Path(element)
        _smooth(path)
        for segment in path:
            _segment(segment, path.transform, layer, edges, scale)
    elif isinstance(element, svgelements.SVGText):
        edges.unread["texts"] += 1
    elif isinstance(element, svgelements.SVGImage):
        edges.unread["images"] += 1


def _smooth(path: svgelements.Path) -> None:
    """Let smooth curves go on from curves of their own kind alone: after another, their first handle lies on their beginning.

    The library reflects the handle of whatever curve came before (SVG 2, sections 9.3.6 and 9.3.7, say otherwise).
    """
    before: Any = None
    for segment in path:
        if isinstance(segment, svgelements.CubicBezier):
            if segment.smooth and isinstance(before, svgelements.QuadraticBezier):
                segment.control1 = segment.start
        elif isinstance(segment, svgelements.QuadraticBezier) and segment.smooth:
            if isinstance(before, svgelements.CubicBezier):
                segment.control = segment.start
            elif isinstance(before, svgelements.QuadraticBezier):
                # What came before may itself have been put right.
                segment.control = before.control.reflected_across(segment.start)
        before = segment


def _segment(segment: Any, matrix: svgelements.Matrix, layer: str, edges: Edges, scale: tuple[float, float]) -> None:
    def point(at: svgelements.Point) -> Point3:
        value = matrix.point_in_matrix_space(at)
        return float(value.x) * scale[0], -float(value.y) * scale[1], 0.0

    if isinstance(segment, svgelements.Move) or segment.start is None or segment.end is None:
        return
    begin, end = point(segment.start), point(segment.end)
    if isinstance(segment, svgelements.Arc):
        centre, u, v = point(segment.center), point(segment.prx), point(segment.pry)
        along = tuple(a - b for a, b in zip(u, centre, strict=True))
        across = tuple(a - b for a, b in zip(v, centre, strict=True))
        first = float(segment.get_start_t())
        at, legs = conic(centre, along, across, first, first + float(segment.sweep))
        for leg in legs:
            edges.curve(at, leg, layer)
            at = leg.to
    elif isinstance(segment, svgelements.CubicBezier):
        edges.curve(begin, CurveLeg(to=end, controls=(point(segment.control1), point(segment.control2))), layer)
    elif isinstance(segment, svgelements.QuadraticBezier):
        edges.curve(begin, CurveLeg(to=end, controls=(point(segment.control),)), layer)
    elif begin != end:
        edges.straight(begin, end, layer)
