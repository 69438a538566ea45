"""Outlines: closed plane figures of straights, arcs and curves, as they stand in a document.

Terms
-----
outline
    a start point and edges, each going on from where the one before ends; the last ends
    where the first began.
straight, arc, curve
    an edge to a point; an arc also passes through a point *via* on its way, a curve leaves and arrives along its two handles.

An outline is looked at along the direction of travel: x to the right, y up, in mm.
What can be asked of an outline (area, extremes, flattening) is in ``profile``.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated

from pydantic import Field

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Model, Point2
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.sections.edges import OutlineEdge
from slow_ribbon.core.sections.edges.arc import ArcEdge
from slow_ribbon.core.sections.edges.curve import CurveEdge
from slow_ribbon.core.sections.edges.straight import StraightEdge


class Outline(Model):
    """A closed outline as drawn; closedness is checked by ``check_closed``, not assumed."""

    start: Point2
    edges: Annotated[tuple[OutlineEdge, ...], Field(min_length=1, max_length=2000, fail_fast=True)]

    def corners(self) -> list[Point2]:
        """Return the start of every edge, in order."""
        return [self.start, *(edge.to for edge in self.edges[:-1])]


def check_closed(outline: Outline, where: str = "outline") -> None:
    """Raise ``Refused`` where an outline is open or has an edge of no length; the place is reported."""
    check_edges(outline, where)
    points = [outline.start, *(edge.to for edge in outline.edges)]
    gap = math.dist(points[0], points[-1])
    if gap > WELD:
        raise Refused(
            f"The outline is open: a gap of {gap:.3g} mm between its end at {_at(points[-1])} and its start at {_at(points[0])}. "
            "Let the last edge end at the start.",
            f"{where}.edges.{len(outline.edges) - 1}.to",
            "outline-open",
        )


def check_edges(outline: Outline, where: str = "outline") -> None:
    """Raise ``Refused``, with the place, where an outline has an edge of no length or an arc through points on a straight."""
    points = [outline.start, *(edge.to for edge in outline.edges)]
    for index, edge in enumerate(outline.edges):
        if math.dist(points[index], points[index + 1]) <= WELD:
            at = _at(points[index])
            raise Refused(f"Edge {index + 1} of the outline, at {at}, has no length: remove it.", f"{where}.edges.{index}", "outline-edge")
        if edge.flaw(points[index]) is not None:
            raise Refused(
                f"Arc {index + 1} of the outline, at {_at(points[index])}, passes through three points on one straight: "
                "make it a straight or move its middle point.",
                f"{where}.edges.{index}.via",
                "outline-arc",
            )


def _at(point: Sequence[float]) -> str:
    return f"({point[0]:g}, {point[1]:g})"


class OutlinePen:
    """Draws an ``Outline`` edge by edge: the way the library's and the tests' outlines are written."""

    def __init__(self, x: float, y: float) -> None:
        self._start: Point2 = (x, y)
        self._at: Point2 = (x, y)
        self._edges: list[OutlineEdge] = []

    @property
    def at(self) -> Point2:
        """Where the pen is."""
        return self._at

    def line(self, x: float, y: float) -> OutlinePen:
        """Go straight to (x, y)."""
        self._edges.append(StraightEdge(to=(x, y)))
        self._at = (x, y)
        return self

    def arc(self, x: float, y: float, bulge: float) -> OutlinePen:
        """Go to (x, y) by an arc whose tangent of a quarter of its angle is ``bulge``.

        Positive turns anticlockwise (so the arc lies right of the chord), as in DXF polylines;
        0.41421356 (tan 22.5°) is a quarter circle.
        """
        (x0, y0) = self._at
        middle = ((x0 + x) / 2 + bulge * (y - y0) / 2, (y0 + y) / 2 - bulge * (x - x0) / 2)
        self._edges.append(ArcEdge(to=(x, y), via=middle))
        self._at = (x, y)
        return self

    def curve(self, first: Point2, second: Point2, x: float, y: float) -> OutlinePen:
        """Go to (x, y) by a Bézier curve of third degree whose handles end at two points."""
        self._edges.append(CurveEdge(to=(x, y), controls=(first, second)))
        self._at = (x, y)
        return self

    def close(self) -> Outline:
        """Return the outline, with a straight back to the start if it is not there yet."""
        if math.dist(self._at, self._start) > WELD:
            self.line(*self._start)
        last = self._edges[-1]
        self._edges[-1] = last.model_copy(update={"to": self._start})
        return Outline(start=self._start, edges=tuple(self._edges))


def outline_by_points(points: Sequence[Point2]) -> Outline:
    """Return a polygon through points, the first of which closes it."""
    pen = OutlinePen(*points[0])
    for x, y in points[1:]:
        pen.line(x, y)
    return pen.close()


def circle(radius: float) -> Outline:
    """Return a whole circle about the origin, as two half circles."""
    return OutlinePen(radius, 0).arc(-radius, 0, 1).arc(radius, 0, 1).close()
