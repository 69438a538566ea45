"""Curves: Bézier curves of third degree, which every affine map leaves such curves."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar, Final, Literal

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Point2
from slow_ribbon.core.kernel.tolerances import FLAT, NO_LENGTH, SAME_PLACE, TINIEST
from slow_ribbon.core.sections.edges.base import Edge, EdgeColumns, EdgePen, OutlineEdgeModel, TooTight, Vector, as_point

#: The offset of a curve is at most this many curves.
_MOST_CURVES: Final = 256
#: Shares of a curve at which its offset is compared.
_BETWEEN: Final = np.array([0.21, 0.5, 0.79])


class CurveEdge(OutlineEdgeModel):
    """A Bézier curve of third degree; ``controls`` are the ends of its two handles, of which one may be drawn back to its point."""

    number_count: ClassVar = 4
    shape_count: ClassVar = 2

    kind: Literal["curve"] = "curve"
    controls: tuple[Point2, Point2]

    def shape_points(self) -> tuple[Point2, ...]:
        return self.controls

    def moved(self, move: Callable[[Point2], Point2]) -> CurveEdge:
        return CurveEdge(to=move(self.to), controls=(move(self.controls[0]), move(self.controls[1])))

    def edge(self, begin: Point2) -> BezierEdge:
        return BezierEdge(np.array([begin, *self.controls, self.to], dtype=float))

    @classmethod
    def numbers_through(cls, begin: Point2, to: Point2, shape: Sequence[Sequence[float]]) -> tuple[float, ...]:
        first, second = shape
        return first[0] - begin[0], first[1] - begin[1], second[0] - to[0], second[1] - to[1]

    @classmethod
    def by_numbers(cls, begin: Point2, to: Point2, numbers: Sequence[float]) -> CurveEdge:
        h = [float(number) for number in numbers]
        return CurveEdge(to=to, controls=((begin[0] + h[0], begin[1] + h[1]), (to[0] + h[2], to[1] + h[3])))

    @classmethod
    def scaled_numbers(cls, numbers: Array, times: Array) -> Array:
        return np.asarray(numbers * np.tile(times, 2))

    @classmethod
    def direction(cls, numbers: Array, sense: int) -> Callable[[Vector], Vector]:
        """Along the handle; where that is drawn back, to the other one."""
        begin, end = numbers[:2], numbers[2:]
        if sense < 0:
            back = float(np.hypot(*begin)) <= SAME_PLACE
            return lambda x: (x[2:4] + x[6:8] - x[:2]) if back else x[4:6]
        back = float(np.hypot(*end)) <= SAME_PLACE
        return lambda x: (x[2:4] - x[:2] - x[4:6]) if back else -x[6:8]

    @classmethod
    def mirror_pairs(cls, across: int, along: int) -> Sequence[tuple[int, int, int]]:
        # The first handle of the one is the second of the other.
        return tuple((i + axis, j + axis, sign) for i, j in ((0, 2), (2, 0)) for axis, sign in ((across, -1), (along, 1)))


@dataclass(frozen=True)
class BezierEdge(Edge):
    """A Bézier curve of third degree by its four points, (4, 2): its ends, and between them the ends of its two handles."""

    kind: ClassVar = "curve"
    extends: ClassVar = False

    points: Array

    @property
    def begin(self) -> Array:
        return np.asarray(self.points[0])

    @property
    def end(self) -> Array:
        return np.asarray(self.points[3])

    @property
    def handles(self) -> Array:
        return self.points

    @cached_property
    def powers(self) -> Array:
        """The curve as a polynomial of its share: rows for 1, t, t² and t³."""
        return _powers(self.points)

    def at_shares(self, shares: Array) -> Array:
        t = np.asarray(shares, dtype=float)[:, None]
        a, b, c, d = self.powers
        return np.asarray(a + t * (b + t * (c + t * d)))

    def rates(self, shares: Array) -> Array:
        """Return dp/dt (n, 2), t the share, at shares (n,)."""
        t = np.asarray(shares, dtype=float)[:, None]
        _, b, c, d = self.powers
        return np.asarray(b + t * (2 * c + t * 3 * d))

    def furthest(self, directions: Array) -> Array:
        return furthest_of(self.powers[:, None], directions)

    def mapped(self, matrix: Array, shift: Array) -> BezierEdge:
        return BezierEdge(self.points @ matrix.T + shift)

    def reversed(self) -> BezierEdge:
        return BezierEdge(self.points[::-1])

    def part(self, first: float, last: float) -> BezierEdge:
        """By the curve's blossom."""

        def blossom(a: float, b: float, c: float) -> Array:
            points = self.points
            for t in (a, b, c):
                points = (1 - t) * points[:-1] + t * points[1:]
            return np.asarray(points[0])

        return BezierEdge(
            np.array([blossom(first, first, first), blossom(first, first, last), blossom(first, last, last), blossom(last, last, last)])
        )

    def outline_edges(self, to: Point2) -> list[OutlineEdgeModel]:
        return [CurveEdge(to=to, controls=(as_point(self.points[1]), as_point(self.points[2])))]

    def numbers(self) -> tuple[float, ...]:
        return (*(self.points[1] - self.points[0]).tolist(), *(self.points[2] - self.points[3]).tolist())

    def draw(self, pen: EdgePen) -> None:
        pen.curve_by(self.points)

    def beside(self, away: float, deviation: float) -> Sequence[BezierEdge]:
        """In as many curves as it takes, by their places and directions at their ends (Hermite)."""
        count = 1
        while True:
            curves, off = self._curves_beside(away, count)
            if off <= deviation or count >= _MOST_CURVES:
                return curves
            count *= 2

    def _curves_beside(self, away: float, count: int) -> tuple[list[BezierEdge], float]:
        """Return this many curves that lie beside this one, and how far they stray, mm."""
        bounds = np.linspace(0.0, 1.0, count + 1)
        points, rates = self._beside(bounds, away)
        reach = rates / (3 * count)
        controls = np.stack([points[:-1], points[:-1] + reach[:-1], points[1:] - reach[1:], points[1:]], axis=1)
        t = _BETWEEN
        weights = np.column_stack([(1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3])
        made = np.einsum("st,ctk->csk", weights, controls)
        true = self._beside((bounds[:-1, None] + t / count).ravel(), away)[0].reshape(made.shape)
        return [BezierEdge(four) for four in controls], float(np.abs(made - true).max())

    def _beside(self, shares: Array, away: float) -> tuple[Array, Array]:
        """Return the places beside the curve at shares of it, and their rates: p′·(1 − κ·away), κ its curvature (positive to the left)."""
        # Where a handle is drawn back to its point the curve halts: its bend is that just beside.
        near = np.clip(shares, 1e-6, 1 - 1e-6)
        _, _, c, d = self.powers
        rates, bends = self.rates(near), 2 * c + 6 * near[:, None] * d
        size = np.hypot(*rates.T)
        spin, halts = rates[:, 0] * bends[:, 1] - rates[:, 1] * bends[:, 0], size <= NO_LENGTH * float(size.max())
        # Where it halts on its way it turns on the spot.
        radius = np.where(halts, 0.0, size**3) / np.maximum(np.abs(spin), TINIEST)
        left = np.where(radius > 0, 1 - np.sign(spin) * away / np.maximum(radius, TINIEST), -1.0)
        if left.min() <= FLAT:
            tightest = int(np.argmin(left))
            raise TooTight(self.at_shares(shares[tightest : tightest + 1])[0], float(radius[tightest]))
        true = self.rates(shares)
        along = np.where(np.hypot(*true.T)[:, None] <= NO_LENGTH * float(size.max()), rates, true)
        along = along / np.hypot(*along.T)[:, None]
        places = self.at_shares(shares) + away * np.column_stack([-along[:, 1], along[:, 0]])
        return places, true * left[:, None]

    @staticmethod
    def columns(edges: Sequence[BezierEdge]) -> EdgeColumns:
        return EdgeColumns(_powers(np.array([edge.points for edge in edges]).transpose(1, 0, 2)))

    def features(self) -> Sequence[Array]:
        """Return its middle."""
        return [self.at_shares(np.array([0.5]))[0]]


def _powers(points: Array) -> Array:
    p0, p1, p2, p3 = points
    return np.array([p0, 3 * (p1 - p0), 3 * (p0 - 2 * p1 + p2), p3 - p0 + 3 * (p1 - p2)])


def furthest_of(powers: Array, directions: Array) -> Array:
    """Return max p·d over curves together, by their powers (4, n, 2), for directions (k, 2); shape (k,)."""
    # Each power of the share, of each curve in each direction.
    a, b, c, d = powers @ directions.T
    best = np.maximum(a, a + b + c + d)
    # p′·d is of second degree: where it is zero inside the curve there may be an extreme.
    for share in _roots(3 * d, 2 * c, b):
        t = np.where((share > 0) & (share < 1), share, 0.0)
        best = np.maximum(best, a + t * (b + t * (c + t * d)))
    return np.asarray(best.max(axis=0))


def _roots(a: Array, b: Array, c: Array) -> tuple[Array, Array]:
    """Return where a·t² + b·t + c is zero, like them each, nan where it is nowhere; without losing digits where a is small."""
    with np.errstate(divide="ignore", invalid="ignore"):
        q = -0.5 * (b + np.copysign(np.sqrt(b * b - 4 * a * c), b))
        return q / a, c / q
