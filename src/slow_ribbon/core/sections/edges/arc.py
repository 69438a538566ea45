"""Arcs of circles, and of the ellipses that they become where a section is scaled apart in width and height.

An arc is the affine image of one of a circle,

    p(φ) = centre + u·cos φ + v·sin φ,   φ from ``first`` to ``last`` (radians, either way round).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from typing import ClassVar, Final, Literal

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Point2
from slow_ribbon.core.kernel.tolerances import FLAT, NO_LENGTH, SAME_PLACE, SAME_SHARE, TINIEST
from slow_ribbon.core.sections.edges.base import Edge, EdgeColumns, EdgePen, OutlineEdgeModel, TooTight, Vector, as_point, cubic_through
from slow_ribbon.core.sections.edges.curve import BezierEdge

#: A part of an ellipse is drawn as curves in parts of no more than this, each true to 1e-8 of its radius.
_PART: Final = math.pi / 8


class ArcEdge(OutlineEdgeModel):
    """A circular arc that passes through ``via``."""

    round: ClassVar = True
    number_count: ClassVar = 1
    shape_count: ClassVar = 1

    kind: Literal["arc"] = "arc"
    via: Point2

    def shape_points(self) -> tuple[Point2, ...]:
        return (self.via,)

    def moved(self, move: Callable[[Point2], Point2]) -> ArcEdge:
        return ArcEdge(to=move(self.to), via=move(self.via))

    def edge(self, begin: Point2) -> Arc:
        return _arc(begin, self.via, self.to)

    def flaw(self, begin: Point2) -> Point2 | None:
        return self.via if circle_through(begin, self.via, self.to) is None else None

    @classmethod
    def numbers_through(cls, begin: Point2, to: Point2, shape: Sequence[Sequence[float]]) -> tuple[float, ...]:
        return (bulge_of(begin, shape[0], to),)

    @classmethod
    def by_numbers(cls, begin: Point2, to: Point2, numbers: Sequence[float]) -> ArcEdge:
        return ArcEdge(to=to, via=via_of(begin, to, float(numbers[0])))

    @classmethod
    def direction(cls, numbers: Array, sense: int) -> Callable[[Vector], Vector]:
        """The chord turned by half the arc's angle."""

        def turned(x: Vector) -> Vector:
            chord, bulge = x[2:4] - x[:2], x[4]
            cosine, sine = (1 - bulge * bulge) / (1 + bulge * bulge), sense * 2 * bulge / (1 + bulge * bulge)
            return np.array([chord[0] * cosine - chord[1] * sine, chord[0] * sine + chord[1] * cosine])

        return turned

    @classmethod
    def mirror_pairs(cls, across: int, along: int) -> Sequence[tuple[int, int, int]]:
        return ((0, 0, 1),)


@dataclass(frozen=True)
class Arc(Edge):
    """An arc of a circle or, scaled apart, of an ellipse."""

    kind: ClassVar = "arc"

    centre: Array
    u: Array
    v: Array
    first: float
    last: float

    def at(self, angles: Array) -> Array:
        return np.asarray(self.centre + np.outer(np.cos(angles), self.u) + np.outer(np.sin(angles), self.v))

    def rates(self, angles: Array) -> Array:
        """Return dp/dφ (n, 2) at angles (n,)."""
        return np.asarray(np.outer(np.cos(angles), self.v) - np.outer(np.sin(angles), self.u))

    def at_shares(self, shares: Array) -> Array:
        return self.at(self.first + (self.last - self.first) * np.asarray(shares))

    @cached_property
    def begin(self) -> Array:
        return self._at(self.first)

    @cached_property
    def end(self) -> Array:
        return self._at(self.last)

    def _at(self, angle: float) -> Array:
        return np.asarray(self.centre + math.cos(angle) * self.u + math.sin(angle) * self.v)

    @property
    def handles(self) -> Array:
        angles = np.array([self.first, self.last])
        return cubic_through(self.at(angles), self.rates(angles) * (self.last - self.first))

    def furthest(self, directions: Array) -> Array:
        return Arcs.of([self]).furthest(directions)

    def mapped(self, matrix: Array, shift: Array) -> Arc:
        return Arc(matrix @ self.centre + shift, matrix @ self.u, matrix @ self.v, self.first, self.last)

    def reversed(self) -> Arc:
        return Arc(self.centre, self.u, self.v, self.last, self.first)

    def part(self, first: float, last: float) -> Arc:
        turn = self.last - self.first
        return replace(self, first=self.first + first * turn, last=self.first + last * turn)

    def outline_edges(self, to: Point2) -> list[OutlineEdgeModel]:
        # In parts of no more than half a turn, so that three places say which arc each is.
        count = max(1, math.ceil(abs(self.last - self.first) / math.pi - 1e-9))
        places = self.at_shares(np.linspace(0.0, 1.0, 2 * count + 1))
        ends = [*(as_point(place) for place in places[2:-1:2]), to]
        return [ArcEdge(to=end, via=as_point(via)) for end, via in zip(ends, places[1::2], strict=True)]

    def numbers(self) -> tuple[float, ...]:
        return (bulge_of(self.begin.tolist(), self.at_shares(np.array([0.5]))[0].tolist(), self.end.tolist()),)

    def draw(self, pen: EdgePen) -> None:
        pen.arc_along(self.centre, self.u, self.v, self.first, self.last)

    def beside(self, away: float, deviation: float) -> Sequence[Arc]:
        radius = float(np.hypot(*self.u))
        wanted = radius - math.copysign(away, (self.last - self.first) * away)
        if wanted <= SAME_PLACE:
            raise TooTight(self.at_shares(np.array([0.5]))[0], radius)
        return [Arc(self.centre, self.u * wanted / radius, self.v * wanted / radius, self.first, self.last)]

    @staticmethod
    def columns(edges: Sequence[Arc]) -> EdgeColumns:
        centres, u, v = np.array([(arc.centre, arc.u, arc.v) for arc in edges]).transpose(1, 0, 2)
        first, span = np.array([(arc.first, arc.last - arc.first) for arc in edges]).T
        return EdgeColumns(np.stack([centres, *np.zeros((3, len(edges), 2))]), (u, v, first, span))

    def circle(self) -> tuple[Array, float] | None:
        radius, other = float(np.hypot(*self.u)), float(np.hypot(*self.v))
        is_round = abs(radius - other) <= FLAT * max(radius, other) and abs(float(self.u @ self.v)) <= FLAT * radius * other
        return (self.centre, radius) if is_round else None

    def sketchable(self) -> Sequence[Edge]:
        """Of a circle, handles of 4/3·tan(angle/4) radii, and every affine image likewise."""
        if self.circle() is not None:
            return (self,)
        count = max(1, math.ceil(abs(self.last - self.first) / _PART - NO_LENGTH))
        angles = np.linspace(self.first, self.last, count + 1)
        points, rates = self.at(angles), self.rates(angles) * 4 * math.tan((self.last - self.first) / count / 4)
        return [BezierEdge(cubic_through(points[i : i + 2], rates[i : i + 2])) for i in range(count)]

    def features(self) -> Sequence[Array]:
        """Return the ends of the ellipse's longer axis; the centre of a circle, of which any axes are."""
        left, sizes, _ = np.linalg.svd(np.column_stack([self.u, self.v]))
        if sizes[0] - sizes[1] > 1e-6 * sizes[0]:
            return [self.centre + left[:, 0] * sizes[0], self.centre - left[:, 0] * sizes[0]]
        return [self.centre]

    def continues(self, before: Edge) -> bool:
        if not isinstance(before, Arc):
            return False
        same = np.abs(before.centre - self.centre).max() < SAME_PLACE
        return bool(same) and abs(float(np.hypot(*before.u)) - float(np.hypot(*self.u))) < SAME_PLACE


@dataclass(frozen=True)
class Arcs:
    """Arcs looked at together: both axes, their centres and ends, (2, n) each; where they begin and how far they go round, (n,)."""

    u: Array
    v: Array
    centres: Array
    begins: Array
    ends: Array
    lows: Array
    spans: Array

    @staticmethod
    def of(arcs: Sequence[Arc]) -> Arcs:
        u, v, centres, begins, ends = (
            np.array(ones).T for ones in zip(*((arc.u, arc.v, arc.centre, arc.begin, arc.end) for arc in arcs), strict=True)
        )
        around = np.array([(min(arc.first, arc.last), abs(arc.last - arc.first)) for arc in arcs])
        return Arcs(u, v, centres, begins, ends, around[:, 0], around[:, 1])

    def furthest(self, directions: Array) -> Array:
        """Return max p·d over all the arcs for directions (k, 2), the true extreme; shape (k,)."""
        along_u, along_v = directions @ self.u, directions @ self.v
        best = np.maximum(directions @ self.begins, directions @ self.ends)
        inside = np.mod(np.arctan2(along_v, along_u) - self.lows, 2 * math.pi) <= self.spans
        tops = np.where(inside, directions @ self.centres + np.hypot(along_u, along_v), best)
        return np.asarray(np.maximum(best, tops).max(axis=1))


@lru_cache(4096)
def circle_through(first: Point2, second: Point2, third: Point2) -> tuple[float, float, float] | None:
    """Return centre x, centre y and radius of the circle through three points, or ``None`` if they are in line."""
    ax, ay = second[0] - first[0], second[1] - first[1]
    bx, by = third[0] - first[0], third[1] - first[1]
    cross = ax * by - ay * bx
    if abs(cross) <= SAME_SHARE * (math.hypot(ax, ay) * math.hypot(bx, by) + TINIEST):
        return None
    a2, b2 = ax * ax + ay * ay, bx * bx + by * by
    ux, uy = (by * a2 - ay * b2) / (2 * cross), (ax * b2 - bx * a2) / (2 * cross)
    return first[0] + ux, first[1] + uy, math.hypot(ux, uy)


@lru_cache(4096)
def _arc(begin: Point2, via: Point2, end: Point2) -> Arc:
    """Return an arc through three points; remembered, for an edit leaves most of an outline as it was."""
    circle = circle_through(begin, via, end)
    assert circle is not None  # check_closed has looked
    x, y, radius = circle
    first, middle, last = (math.atan2(p[1] - y, p[0] - x) for p in (begin, via, end))
    turn = (last - first) % (2 * math.pi)
    if (middle - first) % (2 * math.pi) > turn:
        turn -= 2 * math.pi
    return Arc(np.array([x, y]), np.array([radius, 0.0]), np.array([0.0, radius]), first, first + turn)


def bulge_of(begin: Sequence[float], via: Sequence[float], end: Sequence[float]) -> float:
    """Return the bulge of the arc from ``begin`` through ``via`` to ``end``: by the angle under which its chord is seen from ``via``."""
    ax, ay, bx, by = begin[0] - via[0], begin[1] - via[1], end[0] - via[0], end[1] - via[1]
    # That angle is half of what the arc leaves of a whole turn.
    seen = math.atan2(ax * by - ay * bx, ax * bx + ay * by)
    return math.copysign(math.tan((math.pi - abs(seen)) / 2), -seen)


def via_of(begin: Sequence[float], end: Sequence[float], bulge: float) -> Point2:
    """Return the middle of an arc."""
    return (
        (begin[0] + end[0]) / 2 + bulge * (end[1] - begin[1]) / 2,
        (begin[1] + end[1]) / 2 - bulge * (end[0] - begin[0]) / 2,
    )
