"""The edges of a shape: straights, arcs of circles and ellipses, cubic curves, and what can be asked of each.

A circular arc scaled apart in width and height becomes elliptical; so an arc is the affine image of one of a circle,

    p(φ) = centre + u·cos φ + v·sin φ,   φ from ``first`` to ``last`` (radians, either way round),

and a curve a Bézier curve of third degree, which every affine map leaves one. Area and extremes of all three have closed
forms. What else is asked of a region (moments) is summed along its edges by Green's theorem, at the places of ``quadrature``.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Final, Protocol

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import NEARLY_WHOLE, NO_LENGTH, TINIEST

#: No flattened edge turns more than this in one step, so that small mouldings look round too.
_STEP: Final = math.radians(18)
#: A curve's length is true to this share.
_LENGTH_SHARE: Final = 1e-12
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(24)


class Edge(Protocol):
    """An edge of a loop, from ``begin`` to ``end``, (2,) each."""

    @property
    def begin(self) -> Array: ...
    @property
    def end(self) -> Array: ...
    def area(self) -> float:
        """Return ½∮(x dy − y dx) along the edge."""

    def quadrature(self) -> tuple[Array, Array]:
        """Return places (n, 2) along the edge and p′ there times their weights (n, 2), exact for moments up to the third degree."""

    def length(self) -> float:
        """Return the length of the edge, mm."""

    def at_shares(self, shares: Array) -> Array:
        """Return the points (n, 2) at shares of the edge from 0 to 1."""

    def furthest(self, directions: Array) -> Array:
        """Return max p·d over the edge for directions (k, 2); shape (k,)."""

    def flattened(self, chord_height: float) -> tuple[Array, Array]:
        """Return points (n + 1, 2) from begin to end, no chord further than ``chord_height`` from the edge, and unit tangents there."""

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

    def area(self) -> float:
        """Return ½∮(x dy − y dx) along the edge."""
        return 0.5 * float(self.begin[0] * self.end[1] - self.begin[1] * self.end[0])

    def quadrature(self) -> tuple[Array, Array]:
        shares = (1 + _NODES) / 2
        return self.at_shares(shares), np.outer(_WEIGHTS / 2, self.end - self.begin)

    def length(self) -> float:
        return float(np.hypot(*(self.end - self.begin)))

    def at_shares(self, shares: Array) -> Array:
        """Return the points (n, 2) at shares of the edge from 0 to 1."""
        return np.asarray(self.begin + np.outer(shares, self.end - self.begin))

    def furthest(self, directions: Array) -> Array:
        """Return max p·d over the edge's end for directions (k, 2); shape (k,)."""
        return np.asarray(directions @ self.end)

    def flattened(self, chord_height: float) -> tuple[Array, Array]:
        """Return points (n + 1, 2) from begin to end and unit tangents there."""
        along = (self.end - self.begin) / self.length()
        return np.array([self.begin, self.end]), np.array([along, along])

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

    def rates(self, angles: Array) -> Array:
        """Return dp/dφ, shape (n, 2)."""
        return np.asarray(np.outer(-np.sin(angles), self.u) + np.outer(np.cos(angles), self.v))

    @cached_property
    def begin(self) -> Array:
        return np.asarray(self.at(np.array([self.first]))[0])

    @cached_property
    def end(self) -> Array:
        return np.asarray(self.at(np.array([self.last]))[0])

    def area(self) -> float:
        """Return ½∮(x dy − y dx): ½[c × (p₁ − p₀) + (u × v)(φ₁ − φ₀)]."""
        chord = self.end - self.begin
        swept = float(self.u[0] * self.v[1] - self.u[1] * self.v[0]) * (self.last - self.first)
        return 0.5 * (float(self.centre[0] * chord[1] - self.centre[1] * chord[0]) + swept)

    def _quadrature(self) -> tuple[Array, Array]:
        # 24 Gauss points on at most a quarter turn are exact to rounding for these integrands.
        parts = max(1, math.ceil(abs(self.last - self.first) / (math.pi / 2)))
        bounds = np.linspace(self.first, self.last, parts + 1)
        half = np.diff(bounds) / 2
        angles = (bounds[:-1] + half)[:, None] + half[:, None] * _NODES
        return angles.ravel(), (half[:, None] * _WEIGHTS).ravel()

    def quadrature(self) -> tuple[Array, Array]:
        angles, weights = self._quadrature()
        return self.at(angles), self.rates(angles) * weights[:, None]

    def furthest(self, directions: Array) -> Array:
        return Arcs.of([self]).furthest(directions)

    def length(self) -> float:
        angles, weights = self._quadrature()
        return abs(float(weights @ np.hypot(*self.rates(angles).T)))

    def flattened(self, chord_height: float) -> tuple[Array, Array]:
        """Return points from begin to end no further than ``chord_height`` from the arc, and unit tangents."""
        radius = max(float(np.hypot(*self.u)), float(np.hypot(*self.v)))
        step = 2 * math.acos(max(-1.0, 1 - chord_height / radius)) if chord_height < radius else math.pi / 2
        count = max(2, math.ceil(abs(self.last - self.first) / min(step, _STEP) - NEARLY_WHOLE))
        angles = np.linspace(self.first, self.last, count + 1)
        rates = self.rates(angles) * math.copysign(1, self.last - self.first)
        return self.at(angles), rates / np.hypot(*rates.T)[:, None]

    def mapped(self, matrix: Array, shift: Array) -> Arc:
        return Arc(matrix @ self.centre + shift, matrix @ self.u, matrix @ self.v, self.first, self.last)

    def reversed(self) -> Arc:
        return Arc(self.centre, self.u, self.v, self.last, self.first)


@dataclass(frozen=True)
class Curve:
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

    def _rates(self, shares: Array) -> Array:
        t = np.asarray(shares, dtype=float)[:, None]
        _, b, c, d = self.powers
        return np.asarray(b + t * (2 * c + t * 3 * d))

    def quadrature(self) -> tuple[Array, Array]:
        # Moments of the third degree are polynomials of degree 11 in the share; 24 nodes are exact to degree 47.
        shares = (1 + _NODES) / 2
        return self.at_shares(shares), self._rates(shares) * (_WEIGHTS / 2)[:, None]

    def area(self) -> float:
        """Return ½∮(x dy − y dx): the cross products of its points, weighed by what Bernstein's polynomials give."""
        (ax, ay), (bx, by), (cx, cy), (dx, dy) = self.points.tolist()
        ab, ac, ad, bc, bd, cd = (
            ax * by - ay * bx, ax * cy - ay * cx, ax * dy - ay * dx, bx * cy - by * cx, bx * dy - by * dx, cx * dy - cy * dx
        )  # fmt: skip
        return float((6 * (ab + cd) + 3 * (ac + bc + bd) + ad) / 20)

    def length(self) -> float:
        """Return the length: by quadrature over ever smaller parts, where the curve nearly halts too."""
        before, parts = math.nan, 2
        while True:
            bounds = np.linspace(0.0, 1.0, parts + 1)
            half = 0.5 / parts
            shares = ((bounds[:-1] + half)[:, None] + half * _NODES).ravel()
            length = float(np.tile(_WEIGHTS * half, parts) @ np.hypot(*self._rates(shares).T))
            if abs(length - before) <= _LENGTH_SHARE * length or parts >= 4096:
                return length
            before, parts = length, 2 * parts

    def furthest(self, directions: Array) -> Array:
        return furthest_of([self], directions)

    def flattened(self, chord_height: float) -> tuple[Array, Array]:
        # A chord over a step h strays by no more than max|p″|·h²/8; p″ is greatest at an end.
        bend = 2 * max(float(np.hypot(*self.powers[2])), float(np.hypot(*(self.powers[2] + 3 * self.powers[3]))))
        count = max(2, math.ceil(math.sqrt(bend / (8 * chord_height)) - NEARLY_WHOLE))
        for _ in range(6):
            shares = np.linspace(0.0, 1.0, count + 1)
            tangents = self._tangents(shares)
            turns = np.arccos(np.clip(np.einsum("ij,ij->i", tangents[:-1], tangents[1:]), -1, 1))
            if turns.max() <= _STEP:
                break
            count *= 2
        points = self.at_shares(shares)
        points[0], points[-1] = self.points[0], self.points[3]
        return points, tangents

    def _tangents(self, shares: Array) -> Array:
        rates = self._rates(shares)
        sizes = np.hypot(*rates.T)
        # A handle of no length leaves the direction to the next point: p′ is nought there and p″, or p‴, tells it.
        for index in np.flatnonzero(sizes <= NO_LENGTH * float(sizes.max(initial=0.0))).tolist():
            near = np.clip(shares[index] + (1e-6 if shares[index] < 0.5 else -1e-6), 0, 1)
            rates[index] = self._rates(np.array([near]))[0]
            sizes[index] = np.hypot(*rates[index])
        return np.asarray(rates / np.maximum(sizes, TINIEST)[:, None])

    def mapped(self, matrix: Array, shift: Array) -> Curve:
        return Curve(self.points @ matrix.T + shift)

    def reversed(self) -> Curve:
        return Curve(self.points[::-1])


def furthest_of(curves: Sequence[Curve], directions: Array) -> Array:
    """Return max p·d over some curves together for directions (k, 2); shape (k,)."""
    # (4, n, 2) by (k, 2): each power of the share, of each curve in each direction.
    powers = np.stack([curve.powers for curve in curves], axis=1)
    a, b, c, d = powers @ directions.T
    best = np.maximum(a, a + b + c + d)
    # p′·d is of second degree: where it is nought inside the curve there may be an extreme.
    for share in _roots(3 * d, 2 * c, b):
        t = np.where((share > 0) & (share < 1), share, 0.0)
        best = np.maximum(best, a + t * (b + t * (c + t * d)))
    return np.asarray(best.max(axis=0))


def _roots(a: Array, b: Array, c: Array) -> tuple[Array, Array]:
    """Return where a·t² + b·t + c is nought, like them each, nan where it is nowhere; without losing digits where a is small."""
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
