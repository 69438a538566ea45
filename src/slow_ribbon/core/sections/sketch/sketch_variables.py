"""The variables of a sketch: an outline with its holes as numbers that the solver moves.

A loop has as many edges as points, edge i from point i to the next. The numbers of a loop are its points (x, y) one after
another, then those of its edges: nothing for a straight, for an arc its bulge (the tangent of a quarter of its angle,
positive where it turns anticlockwise), for a curve its two handles, each from the point it hangs on. So an arc keeps its
angle and a handle its way when a point is moved.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import accumulate

import numpy as np
from pydantic import ValidationError

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.sections.edges import EDGE_OF, EdgeKind, OutlineEdge
from slow_ribbon.core.sections.outline.edge_arrays import Together
from slow_ribbon.core.sections.outline.outline import Outline, check_closed
from slow_ribbon.core.sections.outline.profile import loop_of
from slow_ribbon.core.sections.outline.stretch import Scaling


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
                numbers.extend(edge.numbers(corners[i]))
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
                own = self.numbers_of_edge(loop, i)
                middle = (points[i] + points[(i + 1) % len(kinds)]) / 2
                times = np.array([scaling.rate(axis, float(middle[axis]))[0] for axis in (0, 1)])
                x[own] = EDGE_OF[kind].scaled_numbers(x[own], times)
        return SketchVariables(self.loops, x)

    def count(self, loop: int) -> int:
        """Return how many points, and edges, a loop has."""
        return len(self.loops[loop])

    def kind(self, loop: int, edge: int) -> EdgeKind:
        """Return the kind of an edge."""
        return self.loops[loop][edge]

    @cached_property
    def _firsts(self) -> list[int]:
        sizes = (2 * len(kinds) + sum(EDGE_OF[kind].number_count for kind in kinds) for kinds in self.loops)
        return [0, *accumulate(sizes)]

    @cached_property
    def _edges(self) -> list[list[int]]:
        return [
            list(accumulate((EDGE_OF[kind].number_count for kind in kinds), initial=first + 2 * len(kinds)))
            for kinds, first in zip(self.loops, self._firsts, strict=False)
        ]

    def number_of_point(self, loop: int, point: int) -> int:
        """Return which number a point's x is; its y is the next."""
        return self._firsts[loop] + 2 * point

    def number_of_edge(self, loop: int, edge: int) -> int:
        """Return which number is the first of an arc or a curve."""
        return self._edges[loop][edge]

    def numbers_of_edge(self, loop: int, edge: int) -> slice:
        """Return which numbers an edge's own are."""
        begin = self.number_of_edge(loop, edge)
        return slice(begin, begin + EDGE_OF[self.kind(loop, edge)].number_count)

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
            begin, to = points[i], points[(i + 1) % len(points)]
            edges.append(EDGE_OF[kind].by_numbers(begin, to, self.x[self.numbers_of_edge(loop, i)].tolist()))
        return Outline(start=points[0], edges=tuple(edges))

    def outlines(self) -> tuple[Outline, ...]:
        """Return all loops as outlines: the outline, then its holes."""
        return tuple(self.outline(loop) for loop in range(len(self.loops)))
