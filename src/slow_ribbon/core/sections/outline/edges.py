"""The edges of a shape: straights, arcs of circles and ellipses, cubic curves.

A circular arc scaled apart in width and height becomes elliptical; so an arc is the affine image of one of a circle,

    p(φ) = centre + u·cos φ + v·sin φ,   φ from ``first`` to ``last`` (radians, either way round),

and a curve a Bézier curve of third degree, which every affine map leaves one. What is asked of many edges (chords, lengths,
areas, moments) is answered for all at once, in ``together``.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np

from slow_ribbon.core.kernel.arrays import Array


class Edge(Protocol):
    """An edge of a loop, from ``begin`` to ``end``, (2,) each."""

    @property
    def begin(self) -> Array: ...
    @property
    def end(self) -> Array: ...
    def at_shares(self, shares: Array) -> Array:
        """Return the points (n, 2) at shares of the edge from 0 to 1."""

    def furthest(self, directions: Array) -> Array:
        """Return max p·d over the edge for directions (k, 2); shape (k,)."""

    def mapped(self, matrix: Array, shift: Array) -> Edge:
        """Return the edge under p → matrix·p + shift."""

    def reversed(self) -> Edge:
        """Return the edge gone the other way."""


Loop = tuple[Edge, ...]


@dataclass(frozen=True)
class Straight:
    """A straight edge from ``begin`` to ``end``, each (2,)."""

    begin: Array
    end: Array

    def at_shares(self, shares: Array) -> Array:
        """Return the points (n, 2) at shares of the edge from 0 to 1."""
        return np.asarray(self.begin + np.outer(shares, self.end - self.begin))

    def furthest(self, directions: Array) -> Array:
        """Return max p·d over the edge's end for directions (k, 2); shape (k,)."""
        return np.asarray(directions @ self.end)

    def mapped(self, matrix: Array, shift: Array) -> Straight:
        return Straight(matrix @ self.begin + shift, matrix @ self.end + shift)

    def reversed(self) -> Straight:
        return Straight(self.end, self.begin)


@dataclass(frozen=True)
class Arc:
    """An arc of a circle or, scaled apart, of an ellipse."""

    centre: Array
    u: Array
    v: Array
    first: float
    last: float

    def at(self, angles: Array) -> Array:
        return np.asarray(self.centre + np.outer(np.cos(angles), self.u) + np.outer(np.sin(angles), self.v))

    def at_shares(self, shares: Array) -> Array:
        """Return the points (n, 2) at shares of the edge from 0 to 1."""
        return self.at(self.first + (self.last - self.first) * np.asarray(shares))

    @cached_property
    def begin(self) -> Array:
        return self._at(self.first)

    @cached_property
    def end(self) -> Array:
        return self._at(self.last)

    def _at(self, angle: float) -> Array:
        return np.asarray(self.centre + math.cos(angle) * self.u + math.sin(angle) * self.v)

    def furthest(self, directions: Array) -> Array:
        return Arcs.of([self]).furthest(directions)

    def mapped(self, matrix: Array, shift: Array) -> Arc:
        return Arc(matrix @ self.centre + shift, matrix @ self.u, matrix @ self.v, self.first, self.last)

    def reversed(self) -> Arc:
        return Arc(self.centre, self.u, self.v, self.last, self.first)


@dataclass(frozen=True)
class BezierEdge:
    """A Bézier curve of third degree by its four points, (4, 2): its ends, and between them the ends of its two handles."""

    points: Array

    @property
    def begin(self) -> Array:
        return np.asarray(self.points[0])

    @property
    def end(self) -> Array:
        return np.asarray(self.points[3])

    @cached_property
    def powers(self) -> Array:
        """The curve as a polynomial of its share: rows for 1, t, t² and t³."""
        p0, p1, p2, p3 = self.points
        return np.array([p0, 3 * (p1 - p0), 3 * (p0 - 2 * p1 + p2), p3 - p0 + 3 * (p1 - p2)])

    def at_shares(self, shares: Array) -> Array:
        t = np.asarray(shares, dtype=float)[:, None]
        a, b, c, d = self.powers
        return np.asarray(a + t * (b + t * (c + t * d)))

    def furthest(self, directions: Array) -> Array:
        return furthest_of(self.powers[:, None], directions)

    def mapped(self, matrix: Array, shift: Array) -> BezierEdge:
        return BezierEdge(self.points @ matrix.T + shift)

    def reversed(self) -> BezierEdge:
        return BezierEdge(self.points[::-1])


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
