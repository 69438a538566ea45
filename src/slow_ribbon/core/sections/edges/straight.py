"""Straight edges."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, Literal

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Point2
from slow_ribbon.core.kernel.tolerances import SAME_SHARE
from slow_ribbon.core.sections.edges.base import Edge, EdgeColumns, EdgePen, OutlineEdgeModel


class StraightEdge(OutlineEdgeModel):
    """A straight edge."""

    straight: ClassVar = True

    kind: Literal["straight"] = "straight"

    def edge(self, begin: Point2) -> Straight:
        return Straight(np.array(begin, dtype=float), np.array(self.to, dtype=float))

    @classmethod
    def by_numbers(cls, begin: Point2, to: Point2, numbers: Sequence[float]) -> StraightEdge:
        return StraightEdge(to=to)


@dataclass(frozen=True)
class Straight(Edge):
    """A straight edge from ``begin`` to ``end``, each (2,)."""

    kind: ClassVar = "straight"
    straight: ClassVar = True

    begin: Array
    end: Array

    @property
    def handles(self) -> Array:
        return self.at_shares(np.array([0, 1 / 3, 2 / 3, 1]))

    def at_shares(self, shares: Array) -> Array:
        return np.asarray(self.begin + np.outer(shares, self.end - self.begin))

    def furthest(self, directions: Array) -> Array:
        return np.asarray(directions @ self.end)

    def mapped(self, matrix: Array, shift: Array) -> Straight:
        return Straight(matrix @ self.begin + shift, matrix @ self.end + shift)

    def reversed(self) -> Straight:
        return Straight(self.end, self.begin)

    def part(self, first: float, last: float) -> Straight:
        begin, end = self.at_shares(np.array([first, last]))
        return Straight(begin if first else self.begin, self.end if last == 1 else end)

    def outline_edges(self, to: Point2) -> list[OutlineEdgeModel]:
        return [StraightEdge(to=to)]

    def numbers(self) -> tuple[float, ...]:
        return ()

    def draw(self, pen: EdgePen) -> None:
        pen.straight_to(self.end)

    def beside(self, away: float, deviation: float) -> Sequence[Straight]:
        along = (self.end - self.begin) / float(np.hypot(*(self.end - self.begin)))
        shift = away * np.array([-along[1], along[0]])
        return [Straight(self.begin + shift, self.end + shift)]

    @staticmethod
    def columns(edges: Sequence[Straight]) -> EdgeColumns:
        begins, ends = np.array([(edge.begin, edge.end) for edge in edges]).transpose(1, 0, 2)
        return EdgeColumns(np.stack([begins, ends - begins, np.zeros_like(begins), np.zeros_like(begins)]))

    def continues(self, before: Edge) -> bool:
        if not before.straight:
            return False
        a, b = before.end - before.begin, self.end - self.begin
        return abs(float(a[0] * b[1] - a[1] * b[0])) < SAME_SHARE * float(np.hypot(*a) * np.hypot(*b)) and float(a @ b) > 0
