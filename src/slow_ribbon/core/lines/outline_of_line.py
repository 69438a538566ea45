"""The outline that a closed line encloses on plan, for a section that was drawn, traced or imported as lines.

East is to the right and north up. Straights, arcs and curves by control points up to the third degree stay what they are; other
curves become Bézier curves of third degree.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Final

import numpy as np

from slow_ribbon.core.geometry.curves import Curve
from slow_ribbon.core.geometry.parametric import ParametricSpan
from slow_ribbon.core.geometry.splines import sub_spline
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import NO_LENGTH
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.fillets import line_parts
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.simplify import simplified
from slow_ribbon.core.sections.document.section import SectionBody
from slow_ribbon.core.sections.edges import OutlineEdge
from slow_ribbon.core.sections.edges.arc import ArcEdge
from slow_ribbon.core.sections.edges.curve import CurveEdge
from slow_ribbon.core.sections.edges.straight import StraightEdge
from slow_ribbon.core.sections.outline.outline import Outline
from slow_ribbon.core.sections.outline.profile import outline_shape

#: How far a Bézier curve may stray from the curve that it stands for, mm: a tenth of what any saw or screen shows …
DEVIATION: Final = 0.005
#: … and of an ellipse, which few of them come as near to as rounding does.
CONIC_DEVIATION: Final = 5e-7
#: The most edges that an outline has.
MOST_EDGES: Final = 2000
#: A line of more legs is simplified within the least of these that brings it down to an outline, mm.
_SIMPLER: Final = (0.005, 0.01, 0.02, 0.05, 0.1)
#: A section that is larger, mm, is rather a room.
_LARGEST: Final = 5000.0
_BETWEEN: Final = np.array([0.21, 0.5, 0.79])


def section_of(lines: Sequence[Line], name: str) -> SectionBody:
    """Return the section that closed lines enclose: the one round all others is its outline, the others its holes.

    Raises ``Refused`` where a line is open, too large, has too many edges, or they do not lie within one.
    """
    outlines = [_outline(fewer(line)[0]) for line in lines]
    boxes = [outline_shape(outline).box for outline in outlines]
    sizes = [(box[2] - box[0]) * (box[3] - box[1]) for box in boxes]
    outer = int(np.argmax(sizes))
    left, low, right, high = boxes[outer]
    if max(right - left, high - low) > _LARGEST:
        raise Refused(
            f"{lines[outer].name} is {figure(max(right - left, high - low))} across: a section is at most {figure(_LARGEST)}. "
            "Is it drawn to another scale?",
            "lines",
            "outline-far",
        )
    moved = [_moved(outline, -left, -low) for outline in outlines]
    holes = tuple(outline for index, outline in enumerate(moved) if index != outer)
    return SectionBody(name=name, outline=moved[outer], holes=holes, width=right - left, height=high - low)


def fewer(line: Line) -> tuple[Line, float]:
    """Return a line with no more legs than an outline has edges, and how far it strays from what it was, mm: zero where it was so."""
    found, strayed = line, 0.0
    for within in _SIMPLER:
        if len(found.legs) <= MOST_EDGES:
            break
        found, strayed = simplified(line, within)
    return found, strayed


def _outline(line: Line) -> Outline:
    parts = line_parts(line)
    begin, end = parts[0].span.at(np.zeros(1))[0][0, :2], parts[-1].span.at(np.array([parts[-1].span.length]))[0][0, :2]
    gap = float(np.hypot(*(end - begin)))
    if gap > WELD:
        raise Refused(
            f"{line.name} is open: a gap of {figure(gap, 3)} between its ends. Close it on its card first, or import it with a wider join "
            "tolerance.",
            "lines",
            "outline-open",
        )
    edges: list[OutlineEdge] = []
    for part in parts:
        edges.extend(_edges(part.span))
    if len(edges) > MOST_EDGES:
        raise Refused(
            f"{line.name} has {len(edges):,} edges even where it strays by {figure(_SIMPLER[-1], 3)}, and an outline at most "
            f"{MOST_EDGES:,}: simplify it on its card first, within a deviation that you choose.",
            "lines",
            "outline-edges",
        )
    start = (float(begin[0]), float(begin[1]))
    edges[-1] = edges[-1].model_copy(update={"to": start})
    return Outline(start=start, edges=tuple(edges))


def _edges(span: Curve) -> list[OutlineEdge]:
    if span.straight:
        return [StraightEdge(to=_place(span, span.length))]
    places = span.at(np.array([0.0, span.length / 2, span.length]))[0]
    if span.radius_of_arc is not None and float(np.ptp(places[:, 2])) <= NO_LENGTH:
        # In two parts where it goes round so far that three points on it would lie too near to one another.
        count = 2 if float(np.hypot(*(places[2] - places[0])[:2])) < span.radius_of_arc / 10 else 1
        bounds = np.linspace(0.0, span.length, count + 1)
        return [ArcEdge(to=_place(span, float(high)), via=_place(span, float(low + high) / 2)) for low, high in pairwise(bounds)]
    deviation = DEVIATION
    if isinstance(span, ParametricSpan):
        if span.spline.k <= 3 and span.spline.c.shape[1] == 3:
            return _polynomial(span)
        deviation = CONIC_DEVIATION
    count = 1
    while True:
        found, off = _curves(span, count)
        if off <= deviation or count >= MOST_EDGES:
            return found
        count *= 2


def _polynomial(span: ParametricSpan) -> list[OutlineEdge]:
    """Return a B-spline of no more than the third degree as the Bézier curves that it is, exactly."""
    first, last = (float(value) for value in span.parameters(np.array([0.0, span.length])))
    spline = sub_spline(span.spline, first, last)
    found: list[OutlineEdge] = []
    for low, high in pairwise(np.unique(spline.t).tolist()):
        controls = sub_spline(spline, low, high).c[:, :2]
        while len(controls) < 4:
            # The same curve by one control more (Piegl and Tiller, The NURBS Book, section 5.5).
            count = len(controls)
            shares = np.arange(1, count)[:, None] / count
            controls = np.vstack([controls[:1], shares * controls[:-1] + (1 - shares) * controls[1:], controls[-1:]])
        found.append(CurveEdge(to=_flat(controls[3]), controls=(_flat(controls[1]), _flat(controls[2]))))
    return found


def _curves(span: Curve, count: int) -> tuple[list[OutlineEdge], float]:
    """Return a span as this many Bézier curves, by its places and directions at their ends, and how far they stray, mm."""
    bounds = np.linspace(0.0, span.length, count + 1)
    points, tangents, _ = span.at(bounds)
    plan, ways = points[:, :2], tangents[:, :2]
    # Along the line, p′ is the unit tangent: handles of a third of the length meet it in place and direction (Hermite).
    reach = span.length / count / 3
    controls = np.stack([plan[:-1], plan[:-1] + ways[:-1] * reach, plan[1:] - ways[1:] * reach, plan[1:]], axis=1)
    t = _BETWEEN
    weights = np.column_stack([(1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3])
    made = np.einsum("st,ctk->csk", weights, controls)
    true = span.at((bounds[:-1, None] + t * span.length / count).ravel())[0][:, :2].reshape(made.shape)
    edges: list[OutlineEdge] = [CurveEdge(to=_flat(four[3]), controls=(_flat(four[1]), _flat(four[2]))) for four in controls]
    return edges, float(np.abs(made - true).max())


def _place(span: Curve, at: float) -> tuple[float, float]:
    return _flat(span.at(np.array([at]))[0][0, :2])


def _flat(point: Array) -> tuple[float, float]:
    return float(point[0]), float(point[1])


def _moved(outline: Outline, east: float, north: float) -> Outline:
    def move(point: tuple[float, float]) -> tuple[float, float]:
        return point[0] + east, point[1] + north

    return Outline(start=move(outline.start), edges=tuple(edge.moved(move) for edge in outline.edges))
