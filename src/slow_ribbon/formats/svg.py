"""SVG drawings: paths and shapes with their transforms and units, read with svgelements.

Circular arcs stay arcs, ellipses and Bézier curves are taken as they are. An SVG's y runs down
and its own unit is 1/96 inch (CSS pixel); the drawing is turned upright and brought to mm.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import defusedxml.ElementTree
import svgelements
from defusedxml.common import DefusedXmlException

from slow_ribbon.core.faults import Refused
from slow_ribbon.core.legs import CurveLeg
from slow_ribbon.core.model import Point3
from slow_ribbon.formats.conics import conic
from slow_ribbon.formats.drawing import Drawing, Edges
from slow_ribbon.formats.options import UNIT_NAMES, UNITS, Options

#: Millimetres in a CSS pixel.
PIXEL = 25.4 / 96


def read_svg(path: Path, options: Options) -> Drawing:
    """Return the edges of an SVG file, in mm. Raises ``Refused`` where it is none, is damaged or holds entities."""
    try:
        root = defusedxml.ElementTree.parse(path).getroot()
    except DefusedXmlException as error:
        raise Refused(
            "The SVG defines entities or refers to other files, which no drawing needs and which can unfold without end: "
            "save it again as plain SVG.",
            "file",
            "xml-entities",
        ) from error
    except Exception as error:  # whatever an XML parser meets damage with
        raise Refused(f"This is not an SVG file, or it is cut off ({error}).", "file", "damaged") from error
    if not str(root.tag).endswith("svg"):
        raise Refused("This is not an SVG file: its outermost element is not svg.", "file", "not-an-svg")
    try:
        drawing = svgelements.SVG.parse(str(path), reify=False, ppi=96.0)
        edges = Edges()
        known = any(str(root.get(name, "")).strip()[-2:] in ("mm", "cm", "in", "pt", "pc") for name in ("width", "height"))
        # A file without units is in pixels; told a unit, its numbers are taken as that.
        factor = UNITS[options.unit] if options.unit and not known else PIXEL
        _take(drawing, "drawing", edges, factor)
    except Refused:
        raise
    except RecursionError as error:
        raise Refused("The SVG's groups are nested too deeply, or refer to themselves.", "file", "damaged") from error
    except Exception as error:  # svgelements meets damage with whatever its parsers raise
        raise Refused(f"The SVG is damaged inside ({type(error).__name__}: {error}).", "file", "damaged") from error
    unit = "1/96 inch (pixels)" if not known and not options.unit else UNIT_NAMES[options.unit or "mm"]
    return edges.drawing(unit if not known else "its own units", known)


def _take(element: object, layer: str, edges: Edges, factor: float) -> None:
    if isinstance(element, svgelements.Group):
        for child in element:
            inner = layer
            if isinstance(child, svgelements.Group):
                values = child.values.get("attributes", {})
                inner = str(values.get("{http://www.inkscape.org/namespaces/inkscape}label") or child.id or layer)
            _take(child, inner, edges, factor)
    elif isinstance(element, svgelements.Shape):
        if str(element.values.get("display", "")) == "none" or str(element.values.get("visibility", "")) == "hidden":
            edges.hidden.add(layer)
        stroke = element.stroke
        if stroke is not None and stroke.value is not None and layer not in edges.colours:
            edges.colours[layer] = str(stroke.hexrgb)
        # Arcs are taken where they are round or straight up, and carried over here: skewed, they are no arcs any more.
        path = svgelements.Path(element)
        for segment in path:
            _segment(segment, path.transform, layer, edges, factor)
    elif isinstance(element, svgelements.SVGText):
        edges.unread["texts"] += 1
    elif isinstance(element, svgelements.SVGImage):
        edges.unread["images"] += 1


def _segment(segment: Any, matrix: svgelements.Matrix, layer: str, edges: Edges, factor: float) -> None:
    def point(at: svgelements.Point) -> Point3:
        value = matrix.point_in_matrix_space(at)
        return float(value.x) * factor, -float(value.y) * factor, 0.0

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
