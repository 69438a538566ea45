"""A section's outline at 1:1, as DXF and as SVG: every edge as what it is, an arc of an ellipse and a Bézier curve too."""

from __future__ import annotations

import io
import math
from typing import TYPE_CHECKING
from xml.sax.saxutils import escape

import numpy as np

from slow_ribbon.core.sections import Arc, BezierEdge, SectionBody, section_shape

if TYPE_CHECKING:
    from ezdxf.layouts import Modelspace

#: Room left around the outline in SVG, mm.
_MARGIN = 5.0


def section_dxf(section: SectionBody) -> bytes:
    """Return a section at its size as DXF R2010 in mm, its back foot at the origin: lines, arcs, ellipses and splines end to end."""
    # As heavy as a twelfth of a server at rest: read in when a drawing is asked for.
    import ezdxf
    from ezdxf.enums import InsertUnits

    document = ezdxf.new("R2010", units=InsertUnits.Millimeters)
    space = document.modelspace()
    for number, loop in enumerate(section_shape(section).loops):
        layer = {"layer": "OUTLINE" if number == 0 else "HOLES"}
        for edge in loop:
            if isinstance(edge, BezierEdge):
                spline = space.add_spline(degree=3, dxfattribs=layer)
                spline.control_points = [(x, y, 0.0) for x, y in edge.points.tolist()]
                spline.knots = [0.0] * 4 + [1.0] * 4
            elif isinstance(edge, Arc):
                _dxf_arc(space, edge, layer)
            else:
                space.add_line(edge.begin.tolist(), edge.end.tolist(), dxfattribs=layer)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode("utf-8")


def _axes(arc: Arc) -> tuple[np.ndarray, float, float, float]:
    """Return the major axis (2,) of an arc's ellipse, how long the minor one is beside it, and the parameters of its ends from there on.

    The parameters run anticlockwise, the first the lesser. By the singular values of (u v): an ellipse's axes are those directions.
    """
    matrix = np.column_stack([arc.u, arc.v])
    turn, sizes, inner = np.linalg.svd(matrix)
    major, minor = turn[:, 0] * sizes[0], turn[:, 1] * sizes[1]
    # The place at angle φ of the arc is at φ − shift of the axes, or mirrored.
    sense = 1.0 if np.linalg.det(inner) > 0 else -1.0
    shift = math.atan2(inner[0, 1], inner[0, 0])
    ends = [sense * (angle - shift) for angle in (arc.first, arc.last)]
    if float(major[0] * minor[1] - major[1] * minor[0]) < 0:
        ends = [-end for end in ends]
    return major, float(sizes[1] / sizes[0]), min(ends), max(ends)


def _dxf_arc(space: Modelspace, arc: Arc, layer: dict[str, str]) -> None:
    major, ratio, first, last = _axes(arc)
    centre = (float(arc.centre[0]), float(arc.centre[1]))
    if abs(ratio - 1) < 1e-12:
        turn = math.atan2(major[1], major[0])
        begin, end = math.degrees(turn + first), math.degrees(turn + last)
        if last - first >= 2 * math.pi - 1e-12:
            space.add_circle(centre, float(np.hypot(*major)), dxfattribs=layer)
        else:
            space.add_arc(centre, float(np.hypot(*major)), begin, end, dxfattribs=layer)
        return
    space.add_ellipse(
        (*centre, 0.0), (float(major[0]), float(major[1]), 0.0), ratio=ratio, start_param=first, end_param=last, dxfattribs=layer
    )


def section_svg(section: SectionBody) -> bytes:
    """Return a section at its size as SVG at 1:1: printed without scaling, a millimetre is a millimetre. The drawing's y runs up."""
    width, height = section.width + 2 * _MARGIN, section.height + 2 * _MARGIN
    parts = []
    for loop in section_shape(section).loops:
        x, y = loop[0].begin
        parts.append(f"M{_mm(x)} {_mm(-y)}")
        for edge in loop:
            if isinstance(edge, BezierEdge):
                parts.append("C" + " ".join(f"{_mm(x)} {_mm(-y)}" for x, y in edge.points[1:].tolist()))
            elif isinstance(edge, Arc):
                parts.append(_svg_arc(edge))
            else:
                parts.append(f"L{_mm(edge.end[0])} {_mm(-edge.end[1])}")
        parts.append("Z")
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_mm(width)}mm" height="{_mm(height)}mm" '
        f'viewBox="{_mm(-_MARGIN)} {_mm(-section.height - _MARGIN)} {_mm(width)} {_mm(height)}">\n'
        f"<title>{escape(section.name)}</title>\n"
        f'<path d="{"".join(parts)}" fill="#ecdcbf" fill-rule="evenodd" stroke="#22302e" stroke-width="0.2"/>\n</svg>\n'
    ).encode()


def _svg_arc(arc: Arc) -> str:
    major, ratio, *_ = _axes(arc)
    size, turn = float(np.hypot(*major)), -math.degrees(math.atan2(major[1], major[0]))
    anticlockwise = (float(arc.u[0] * arc.v[1] - arc.u[1] * arc.v[0]) > 0) == (arc.last > arc.first)
    # In two parts: a whole circle has no one arc, and half of one no one side. With y down an arc to the left has its sweep off.
    return "".join(
        f"A{_mm(size)} {_mm(size * ratio)} {_mm(turn)} {int(abs(arc.last - arc.first) / 2 > math.pi)} {int(not anticlockwise)} "
        f"{_mm(x)} {_mm(-y)}"
        for x, y in arc.at_shares(np.array([0.5, 1.0])).tolist()
    )


def _mm(value: float) -> str:
    return f"{value:.9f}".rstrip("0").rstrip(".").replace("-0", "0") if abs(value) < 5e-10 else f"{value:.9f}".rstrip("0").rstrip(".")
