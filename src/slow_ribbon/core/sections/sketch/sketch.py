"""Sketches: outlines with their holes at their size, and the constraints that hold in them.

Everything is done to a ``Sketch``, a section's outlines at the size that it is made at, with what is held true of them;
``drawing_of`` takes it from a section and ``redrawn`` puts it back.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Final, TypeVar

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import FLAT
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.sections.document.constraints import Apart, Constraint, CornerAngle, Radius, Symmetric
from slow_ribbon.core.sections.document.section import EdgeBed, PointDatum, SectionBody, scaling_of, section_shape
from slow_ribbon.core.sections.edges import EDGE_OF, EdgeKind
from slow_ribbon.core.sections.edges.base import Edge
from slow_ribbon.core.sections.outline.edge_arrays import Together, flattened
from slow_ribbon.core.sections.outline.outline import Outline
from slow_ribbon.core.sections.outline.profile import loop_of, outline_shape, shape_of
from slow_ribbon.core.sections.sketch.constraint_solver import measured, settled
from slow_ribbon.core.sections.sketch.sketch_variables import SketchVariables

_S = TypeVar("_S", bound=SectionBody)
#: Decimals that are kept of a drawing's numbers: what lies beyond is the solver's rounding.
_PLACES: Final = 12
#: The largest section, mm, as ``Size`` says.
_LARGEST: Final = 1e6


@dataclass(frozen=True)
class EdgeDrawn:
    """An edge by its kind and its numbers (``SketchVariables``)."""

    kind: EdgeKind
    numbers: tuple[float, ...] = ()


@dataclass(frozen=True)
class Sketch:
    """Outlines at their size, the outline and its holes, with what is held true of them."""

    drawn: SketchVariables
    held: tuple[Constraint, ...] = ()

    def points(self, loop: int) -> list[Array]:
        """Return the points (2,) of a loop."""
        return [self.drawn.point(loop, i) for i in range(self.drawn.count(loop))]

    def edges(self, loop: int) -> list[EdgeDrawn]:
        """Return the edges of a loop."""
        found = []
        for i, kind in enumerate(self.drawn.loops[loop]):
            at = self.drawn.number_of_edge(loop, i)
            found.append(EdgeDrawn(kind, tuple(self.drawn.x[at : at + EDGE_OF[kind].number_count].tolist())))
        return found

    def with_loop(self, loop: int, points: Sequence[Array], edges: Sequence[EdgeDrawn]) -> Sketch:
        """Return the drawing with another loop; what is held stays as it is said."""
        return replace(
            self,
            drawn=_built([(points, edges) if i == loop else (self.points(i), self.edges(i)) for i in range(len(self.drawn.loops))]),
        )

    def settled(self, wanted: dict[int, float] | None = None, pinned: Sequence[int] = ()) -> Sketch:
        """Return the drawing with all that is held true (``held.settled``)."""
        return replace(self, drawn=settled(self.drawn, self.held, wanted, pinned))

    def check(self, loop: int, index: int, what: str) -> None:
        """Raise ``Refused`` where a loop has no such point or edge."""
        if loop >= len(self.drawn.loops):
            raise Refused(f"The section has no hole {loop}.", "loop", "unknown-loop")
        if index >= self.drawn.count(loop):
            raise Refused(f"The outline has no {what} {index + 1}: it has {self.drawn.count(loop)}.", what, f"unknown-{what}")

    @property
    def symmetric(self) -> Symmetric | None:
        """What is held of the whole, where it is held symmetric."""
        return next((one for one in self.held if isinstance(one, Symmetric)), None)


def _built(loops: Sequence[tuple[Sequence[Array], Sequence[EdgeDrawn]]]) -> SketchVariables:
    numbers = [
        number
        for points, edges in loops
        for part in (*(point.tolist() for point in points), *(edge.numbers for edge in edges))
        for number in part
    ]
    return SketchVariables(tuple(tuple(edge.kind for edge in edges) for _, edges in loops), np.array(numbers, dtype=float))


def drawing_of(section: SectionBody) -> Sketch:
    """Return a section's outlines as they are at its size; arcs that it makes parts of ellipses become curves.

    Lengths and radii that are held are what they are at that size.
    """
    if section.wall is not None:
        # The hole follows the wall and is drawn from the shape.
        loops = section_shape(section).loops
        hole = tuple(edge.reversed() for edge in reversed(loops[1]))
        return Sketch(SketchVariables.of((outline_of_loop(loops[0]), outline_of_loop(hole))), section.held)
    drawn = SketchVariables.of((section.outline, *section.holes))
    scaling = scaling_of(section)
    if scaling.changes_nothing:
        return Sketch(drawn, section.held)
    outlines = tuple(outline_of_loop(scaling.edges(loop_of(one))) for one in (section.outline, *section.holes))
    now = SketchVariables.of(outlines)
    if now.loops != drawn.loops:
        # Edges have become several: nothing that was said of them by their number holds.
        return Sketch(now)
    return Sketch(now, tuple(new for one in section.held for new in _figured_anew(now, one)))


def _figured_anew(drawn: SketchVariables, held: Any) -> list[Any]:
    if not isinstance(held, Apart | Radius | CornerAngle):
        return [held]
    try:
        return [held.model_copy(update={"value": measured(drawn, held)})]
    except Refused:
        # It is said of what is not there, as a file may: there is nothing to hold.
        return []


def outline_of_loop(loop: tuple[Edge, ...]) -> Outline:
    """Return the outline of a loop; arcs of ellipses become curves."""
    points: list[Array] = []
    edges: list[EdgeDrawn] = []
    for edge in loop:
        for part in edge.sketchable():
            points.append(part.begin)
            edges.append(edge_drawn(part))
    return _built([(points, edges)]).outline(0)


def edge_drawn(edge: Edge) -> EdgeDrawn:
    """Return an edge as it is drawn: by its kind and its numbers."""
    return EdgeDrawn(edge.kind, edge.numbers())


def redrawn(section: _S, drawing: Sketch) -> _S:
    """Return a section with another drawing: its size is what that takes up, its datum stays where it was on it.

    Raises ``Refused`` as ``shape_of`` does, with the place, where the outline has become none.
    """
    drawn = drawing.drawn.with_numbers(np.round(drawing.drawn.x, _PLACES))
    outline, *holes = drawn.outlines()
    box = (shape_of(outline, holes) if holes else outline_shape(outline)).box
    if not max(box[2] - box[0], box[3] - box[1]) <= _LARGEST:
        raise Refused(f"A section is at most {figure(_LARGEST)} across.", "outline", "outline-far")
    before = drawing_box(section)
    changes: dict[str, Any] = {
        "outline": outline,
        "holes": tuple(holes),
        "held": drawing.held,
        "width": box[2] - box[0],
        "height": box[3] - box[1],
        "wall": None,
    }
    if isinstance(section.bed, EdgeBed) and len(outline.edges) != len(section.outline.edges):
        changes["bed"] = EdgeBed(edge=_same_edge(drawing_of(section), section.bed.edge, drawing))
    if isinstance(section.datum, PointDatum):
        changes["datum"] = section.datum.model_copy(
            update={"x": section.datum.x + before[0] - box[0], "y": section.datum.y + before[1] - box[1]}
        )
    return section.model_copy(update=changes)


def _same_edge(before: Sketch, edge: int, after: Sketch) -> int:
    """Return the number of the straight edge on which the middle of another lay before."""
    middle = (before.drawn.point(0, edge) + before.drawn.point(0, edge + 1)) / 2

    def away(number: int) -> float:
        a, b = after.drawn.point(0, number), after.drawn.point(0, number + 1)
        along = b - a
        share = min(1.0, max(0.0, float((middle - a) @ along) / float(along @ along)))
        return math.dist(a + share * along, middle)

    return min((i for i in range(after.drawn.count(0)) if after.drawn.kind(0, i) == "straight"), key=away, default=edge)


def is_smooth(drawing: Sketch, loop: int, point: int) -> bool:
    """Return whether the edges at a point go on into one another."""
    into, out = directions(drawing, loop, point)
    return float(np.hypot(*(into - out))) < FLAT


def edge_of(drawing: Sketch, loop: int, edge: int) -> Edge:
    """Return an edge of a loop, counted round."""
    return loop_of(drawing.drawn.outline(loop))[edge % drawing.drawn.count(loop)]


def directions(drawing: Sketch, loop: int, point: int) -> tuple[Array, Array]:
    """Return unit directions into and out of a point, (2,) each."""
    return flattened(edge_of(drawing, loop, point - 1), WELD)[1][-1], flattened(edge_of(drawing, loop, point), WELD)[1][0]


@dataclass(frozen=True)
class PointFigures:
    """A point, the angle inside its corner in degrees, and whether its edges go on into one another."""

    at: tuple[float, float]
    angle: float
    smooth: bool


@dataclass(frozen=True)
class EdgeFigures:
    """An edge: where an arc passes or the ends of a curve's handles, its length, an arc's radius, and its middle, mm."""

    kind: EdgeKind
    by: tuple[tuple[float, float], ...]
    length: float
    radius: float | None
    middle: tuple[float, float]


def point_figures(drawing: Sketch, loop: int) -> tuple[list[PointFigures], list[EdgeFigures]]:
    """Return the figures of the points and the edges of a loop that can be typed."""
    outline = drawing.drawn.outline(loop)
    edges, sense, count = loop_of(outline), drawing.drawn.sense(loop), drawing.drawn.count(loop)
    together, numbers = Together.of(edges), np.arange(count)
    leaving, coming = together.tangents(numbers, np.zeros(count)), together.tangents(numbers, np.ones(count))
    middles = together.at(numbers, np.full(count, 0.5)).tolist()
    points = []
    for i, at in enumerate(outline.corners()):
        into, out = coming[i - 1], leaving[i]
        turn = math.degrees(math.atan2(float(into[0] * out[1] - into[1] * out[0]), float(into @ out))) * sense
        points.append(PointFigures(at, 180 - turn, float(np.hypot(*(into - out))) < FLAT))
    figures = []
    for i, edge in enumerate(outline.edges):
        radius = measured(drawing.drawn, Radius(edge=(loop, i), value=1)) if edge.round else None
        figures.append(EdgeFigures(edge.kind, edge.shape_points(), float(together.lengths[i]), radius, (middles[i][0], middles[i][1])))
    return points, figures


def drawing_box(section: SectionBody) -> tuple[float, float, float, float]:
    """Return the box of a section's drawing, in the drawing's own places."""
    if section.wall is not None:
        return (0.0, 0.0, section.width, section.height)
    return scaling_of(section).box
