"""A section's outline at 1:1, as DXF and as SVG: every edge as what it is, an arc of an ellipse and a Bézier curve too."""

from __future__ import annotations

import io
import math
from typing import TYPE_CHECKING
from xml.sax.saxutils import escape

import numpy as np

from slow_ribbon.core.kernel import Array
from slow_ribbon.core.sections import SectionBody, section_shape

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
        pen = _DxfPen(space, layer, loop[0].begin)
        for edge in loop:
            edge.draw(pen)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode("utf-8")


def _axes(u: Array, v: Array, *angles: float) -> tuple[Array, float, list[float]]:
    """Return the major axis (2,) of an ellipse u·cos φ + v·sin φ, how long the minor one is beside it, and angles φ from there on.

    The angles run anticlockwise. By the singular values of (u v): an ellipse's axes are those directions.
    """
    matrix = np.column_stack([u, v])
    turn, sizes, inner = np.linalg.svd(matrix)
    major, minor = turn[:, 0] * sizes[0], turn[:, 1] * sizes[1]
    # The place at angle φ of the arc is at φ − shift of the axes, or mirrored.
    sense = 1.0 if np.linalg.det(inner) > 0 else -1.0
    shift = math.atan2(inner[0, 1], inner[0, 0])
    turned = [sense * (angle - shift) for angle in angles]
    if float(major[0] * minor[1] - major[1] * minor[0]) < 0:
        turned = [-angle for angle in turned]
    return major, float(sizes[1] / sizes[0]), turned


class _DxfPen:
    """Draws edges as lines, arcs, ellipses and splines of a model space."""

    def __init__(self, space: Modelspace, layer: dict[str, str], begin: Array) -> None:
        self._space, self._layer, self._at = space, layer, begin

    def straight_to(self, end: Array) -> None:
        self._space.add_line(self._at.tolist(), end.tolist(), dxfattribs=self._layer)
        self._at = end

    def arc_along(self, centre: Array, u: Array, v: Array, first: float, last: float) -> None:
        major, ratio, ends = _axes(u, v, first, last)
        low, high = sorted(ends)
        middle, radius = (float(centre[0]), float(centre[1])), float(np.hypot(*major))
        if abs(ratio - 1) >= 1e-12:
            axis = (float(major[0]), float(major[1]), 0.0)
            self._space.add_ellipse((*middle, 0.0), axis, ratio=ratio, start_param=low, end_param=high, dxfattribs=self._layer)
        elif high - low >= 2 * math.pi - 1e-12:
            self._space.add_circle(middle, radius, dxfattribs=self._layer)
        else:
            turn = math.atan2(major[1], major[0])
            self._space.add_arc(middle, radius, math.degrees(turn + low), math.degrees(turn + high), dxfattribs=self._layer)
        self._at = centre + math.cos(last) * u + math.sin(last) * v

    def curve_by(self, points: Array) -> None:
        spline = self._space.add_spline(degree=3, dxfattribs=self._layer)
        spline.control_points = [(x, y, 0.0) for x, y in points.tolist()]
        spline.knots = [0.0] * 4 + [1.0] * 4
        self._at = points[3]


def section_svg(section: SectionBody) -> bytes:
    """Return a section at its size as SVG at 1:1: printed without scaling, a millimetre is a millimetre. The drawing's y runs up."""
    width, height = section.width + 2 * _MARGIN, section.height + 2 * _MARGIN
    parts = []
    for loop in section_shape(section).loops:
        pen = _SvgPen(loop[0].begin)
        for edge in loop:
            edge.draw(pen)
        parts.append(f"{pen.path}Z")
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_mm(width)}mm" height="{_mm(height)}mm" '
        f'viewBox="{_mm(-_MARGIN)} {_mm(-section.height - _MARGIN)} {_mm(width)} {_mm(height)}">\n'
        f"<title>{escape(section.name)}</title>\n"
        f'<path d="{"".join(parts)}" fill="#ecdcbf" fill-rule="evenodd" stroke="#22302e" stroke-width="0.2"/>\n</svg>\n'
    ).encode()


class _SvgPen:
    """Draws edges as the ``d`` of an SVG path, its y down."""

    def __init__(self, begin: Array) -> None:
        self.path = f"M{_place(begin)}"

    def straight_to(self, end: Array) -> None:
        self.path += f"L{_place(end)}"

    def arc_along(self, centre: Array, u: Array, v: Array, first: float, last: float) -> None:
        major, ratio, _ = _axes(u, v)
        size, turn = float(np.hypot(*major)), -math.degrees(math.atan2(major[1], major[0]))
        anticlockwise = (float(u[0] * v[1] - u[1] * v[0]) > 0) == (last > first)
        # In two parts: a whole circle has no one arc, and half of one no one side. With y down an arc to the left has its sweep off.
        for angle in ((first + last) / 2, last):
            place = centre + math.cos(angle) * u + math.sin(angle) * v
            self.path += f"A{_mm(size)} {_mm(size * ratio)} {_mm(turn)} {int(abs(last - first) / 2 > math.pi)} {int(not anticlockwise)} "
            self.path += _place(place)

    def curve_by(self, points: Array) -> None:
        self.path += "C" + " ".join(_place(point) for point in points[1:])


def _place(point: Array) -> str:
    return f"{_mm(point[0])} {_mm(-point[1])}"


def _mm(value: float) -> str:
    return f"{value:.9f}".rstrip("0").rstrip(".").replace("-0", "0") if abs(value) < 5e-10 else f"{value:.9f}".rstrip("0").rstrip(".")
