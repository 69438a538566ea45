"""The variables of a sketch: an outline with its holes as numbers that the solver moves.

A loop has as many edges as points, edge i from point i to the next. The numbers of a loop are its points (x, y) one after
another, then those of its edges: nothing for a straight, for an arc its bulge (the tangent of a quarter of its angle,
positive where it turns anticlockwise), for a curve its two handles, each from the point it hangs on. So an arc keeps its
angle and a handle its way when a point is moved.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import accumulate
from typing import Literal

import numpy as np
from pydantic import ValidationError

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.sections.outline.edge_arrays import Together
from slow_ribbon.core.sections.outline.outline import ArcEdge, CurveEdge, Outline, OutlineEdge, StraightEdge, check_closed
from slow_ribbon.core.sections.outline.profile import loop_of
from slow_ribbon.core.sections.outline.stretch import Scaling

EdgeKind = Literal["straight", "arc", "curve"]
_NUMBERS: dict[EdgeKind, int] = {"straight": 0, "arc": 1, "curve": 4}


@dataclass(frozen=True)
class SketchVariables:
    """Loops by the kinds of their edges, and all their numbers ``x`` one after another."""

    loops: tuple[tuple[EdgeKind, ...], ...]
    x: Array

    @staticmethod
    def of(outlines: Sequence[Outline]) -> SketchVariables:
        """Return outlines, the first with its holes, as numbers. Raises ``Refused`` where one is open."""
        numbers: list[float] = []
        for index, outline in enumerate(outlines):
            check_closed(outline, "outline" if index == 0 else f"holes.{index - 1}")
            corners = outline.corners()
            for corner in corners:
                numbers.extend(corner)
            for i, edge in enumerate(outline.edges):
                begin, end = corners[i], corners[(i + 1) % len(corners)]
                if isinstance(edge, ArcEdge):
                    numbers.append(bulge_of(begin, edge.via, end))
                elif isinstance(edge, CurveEdge):
                    first, second = edge.controls
                    numbers.extend((first[0] - begin[0], first[1] - begin[1], second[0] - end[0], second[1] - end[1]))
        return SketchVariables(tuple(tuple(edge.kind for edge in outline.edges) for outline in outlines), np.array(numbers))

    def with_numbers(self, x: Array) -> SketchVariables:
        """Return a drawing of the same edges with other numbers."""
        return SketchVariables(self.loops, x)

    def scaled(self, scaling: Scaling) -> SketchVariables:
        """Return the drawing with its points and handles at another size; arcs keep their angles, and are arcs still."""
        x = self.x.copy()
        for loop, kinds in enumerate(self.loops):
            begin = self.number_of_point(loop, 0)
            points = self.x[begin : begin + 2 * len(kinds)].reshape(-1, 2)
            x[begin : begin + 2 * len(kinds)] = scaling.points(points).ravel()
            for i, kind in enumerate(kinds):
                if kind == "curve":
                    at = self.number_of_edge(loop, i)
                    middle = (points[i] + points[(i + 1) % len(kinds)]) / 2
                    x[at : at + 4] *= np.tile([scaling.rate(axis, float(middle[axis]))[0] for axis in (0, 1)], 2)
        return SketchVariables(self.loops, x)

    def count(self, loop: int) -> int:
        """Return how many points, and edges, a loop has."""
        return len(self.loops[loop])

    def kind(self, loop: int, edge: int) -> EdgeKind:
        """Return the kind of an edge."""
        return self.loops[loop][edge]

    @cached_property
    def _firsts(self) -> list[int]:
        sizes = (2 * len(kinds) + sum(_NUMBERS[kind] for kind in kinds) for kinds in self.loops)
        return [0, *accumulate(sizes)]

    @cached_property
    def _edges(self) -> list[list[int]]:
        return [
            list(accumulate((_NUMBERS[kind] for kind in kinds), initial=first + 2 * len(kinds)))
            for kinds, first in zip(self.loops, self._firsts, strict=False)
        ]

    def number_of_point(self, loop: int, point: int) -> int:
        """Return which number a point's x is; its y is the next."""
        return self._firsts[loop] + 2 * point

    def number_of_edge(self, loop: int, edge: int) -> int:
        """Return which number is the first of an arc or a curve."""
        return self._edges[loop][edge]

    def point(self, loop: int, point: int) -> Array:
        """Return a point (2,)."""
        at = self.number_of_point(loop, point % self.count(loop))
        return self.x[at : at + 2]

    def sense(self, loop: int) -> int:
        """Return 1 where the section lies left of a loop as it is drawn, −1 where it lies right."""
        area = float(Together.of(loop_of(self.outline(loop))).areas.sum())
        return 1 if (area > 0) == (loop == 0) else -1

    def outline(self, loop: int) -> Outline:
        """Return a loop as an outline of a document. Raises ``Refused`` where that could not hold it."""
        try:
            return self._outline(loop)
        except ValidationError:
            message = "The outline would reach further than can be drawn, or have more edges than an outline can."
            raise Refused(message, "outline", "outline-far") from None

    def _outline(self, loop: int) -> Outline:
        kinds = self.loops[loop]
        points = [(float(p[0]), float(p[1])) for p in (self.point(loop, i) for i in range(len(kinds)))]
        edges: list[OutlineEdge] = []
        for i, kind in enumerate(kinds):
            begin, to, at = points[i], points[(i + 1) % len(points)], self.number_of_edge(loop, i)
            if kind == "arc":
                edges.append(ArcEdge(to=to, via=via_of(begin, to, float(self.x[at]))))
            elif kind == "curve":
                h = self.x[at : at + 4].tolist()
                edges.append(CurveEdge(to=to, controls=((begin[0] + h[0], begin[1] + h[1]), (to[0] + h[2], to[1] + h[3]))))
            else:
                edges.append(StraightEdge(to=to))
        return Outline(start=points[0], edges=tuple(edges))

    def outlines(self) -> tuple[Outline, ...]:
        """Return all loops as outlines: the outline, then its holes."""
        return tuple(self.outline(loop) for loop in range(len(self.loops)))


def bulge_of(begin: Sequence[float], via: Sequence[float], end: Sequence[float]) -> float:
    """Return the bulge of the arc from ``begin`` through ``via`` to ``end``: by the angle under which its chord is seen from ``via``."""
    ax, ay, bx, by = begin[0] - via[0], begin[1] - via[1], end[0] - via[0], end[1] - via[1]
    # That angle is half of what the arc leaves of a whole turn.
    seen = math.atan2(ax * by - ay * bx, ax * bx + ay * by)
    return math.copysign(math.tan((math.pi - abs(seen)) / 2), -seen)


def via_of(begin: Sequence[float], end: Sequence[float], bulge: float) -> tuple[float, float]:
    """Return the middle of an arc."""
    return (
        (begin[0] + end[0]) / 2 + bulge * (end[1] - begin[1]) / 2,
        (begin[1] + end[1]) / 2 - bulge * (end[0] - begin[0]) / 2,
    )
