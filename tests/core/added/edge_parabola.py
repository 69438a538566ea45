"""An added kind of section edge: a parabola by the point in which the tangents at its ends meet."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import ClassVar, Literal

import numpy as np

from slow_ribbon.core.kernel.fields import Point2
from slow_ribbon.core.sections.edges.base import OutlineEdgeModel
from slow_ribbon.core.sections.edges.curve import BezierEdge


class ParabolaEdge(OutlineEdgeModel):
    """A parabola to a point; the straights from its ends to ``meeting`` touch it there."""

    number_count: ClassVar = 2
    shape_count: ClassVar = 1

    kind: Literal["parabola"] = "parabola"
    meeting: Point2

    def shape_points(self) -> tuple[Point2, ...]:
        return (self.meeting,)

    def moved(self, move: Callable[[Point2], Point2]) -> ParabolaEdge:
        return ParabolaEdge(to=move(self.to), meeting=move(self.meeting))

    def edge(self, begin: Point2) -> BezierEdge:
        # The same curve by a polynomial of third degree.
        a, b, c = np.array([begin, self.meeting, self.to], dtype=float)
        return BezierEdge(np.array([a, (a + 2 * b) / 3, (c + 2 * b) / 3, c]))

    @classmethod
    def numbers_through(cls, begin: Point2, to: Point2, shape: Sequence[Sequence[float]]) -> tuple[float, ...]:
        return shape[0][0] - begin[0], shape[0][1] - begin[1]

    @classmethod
    def by_numbers(cls, begin: Point2, to: Point2, numbers: Sequence[float]) -> ParabolaEdge:
        return ParabolaEdge(to=to, meeting=(begin[0] + numbers[0], begin[1] + numbers[1]))
