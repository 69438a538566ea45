"""The lines of a job on plan, as SVG (W3C SVG 2): to scale, in mm, north up.

Straights and level arcs are written as they are; other curves as polylines within 0.05 mm.
"""

from __future__ import annotations

from typing import Final
from xml.sax.saxutils import quoteattr

import numpy as np

from slow_ribbon.core.geometry import Curve, flattening
from slow_ribbon.core.kernel import NO_LENGTH, Array, look_up
from slow_ribbon.core.lines import Line, line_parts
from slow_ribbon.core.solve import Solved

#: How far a curve that SVG has no shape for may stray from its polyline, mm.
FINE: Final = 0.05
#: Room left around the lines, mm.
_MARGIN: Final = 100.0


def lines_svg(solved: Solved) -> bytes:
    """Return the lines of a job as an SVG document, a path for each, in the colours of a print; site coordinates lie in ``data-origin``."""
    job = solved.job
    paths, corners = [], [np.zeros((1, 2))] if not job.lines else []
    for line in job.lines:
        look_up()
        path, points = _path(line)
        corners.append(points)
        paths.append(f'  <path id={quoteattr(line.id)} d="{path}"><title>{_text(line.name)}</title></path>')
    every = np.concatenate(corners)
    low, high = every.min(axis=0) - _MARGIN, every.max(axis=0) + _MARGIN
    wide, tall = high - low
    east, north, height = job.origin
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_mm(wide)}mm" height="{_mm(tall)}mm" '
        f'viewBox="{_mm(low[0])} {_mm(-high[1])} {_mm(wide)} {_mm(tall)}" data-origin="{_mm(east)} {_mm(north)} {_mm(height)}">'
    )
    group = f'<g fill="none" stroke="#22302e" stroke-width="{_mm(max(wide, tall) / 1500)}" stroke-linejoin="round">'
    return "\n".join([head, f" <title>{_text(job.name)}</title>", f" {group}", *paths, " </g>", "</svg>", ""]).encode()


def _path(line: Line) -> tuple[str, Array]:
    """Return a line as path data, y down, and points (n, 2) that it stays within, y up."""
    parts = line_parts(line)
    start = parts[0].span.at(np.zeros(1))[0][0, :2]
    written, points = [f"M{_mm(start[0])} {_mm(-start[1])}"], [start[None]]
    for part in parts:
        message, passed = _drawn(part.span)
        written.append(message)
        points.append(passed)
    if line.closed:
        written.append("Z")
    return "".join(written), np.concatenate(points)


def _drawn(span: Curve) -> tuple[str, Array]:
    """Return the path commands of a span from its beginning on, and points on it."""
    places = flattening(span, FINE) if not span.straight else np.array([0.0, span.length])
    points, tangents, bends = span.at(places)
    plan = points[:, :2]
    radius = span.radius_of_arc
    if span.straight or radius is None or np.ptp(points[:, 2]) > NO_LENGTH:
        return "".join(f"L{_mm(x)} {_mm(-y)}" for x, y in plan[1:]), plan
    left = float(tangents[0, 0] * bends[0, 1] - tangents[0, 1] * bends[0, 0]) > 0
    middle = span.at(np.array([span.length / 2]))[0][0, :2]
    # In two parts: a whole circle has no one arc. With y down an arc to the left is drawn with the sweep off.
    arcs = (f"A{_mm(radius)} {_mm(radius)} 0 0 {int(not left)} {_mm(x)} {_mm(-y)}" for x, y in (middle, plan[-1]))
    return "".join(arcs), plan


def _mm(value: float) -> str:
    written = f"{value:.6f}".rstrip("0").rstrip(".")
    return "0" if written == "-0" else written


def _text(value: str) -> str:
    return quoteattr(value)[1:-1].replace("&quot;", '"')
