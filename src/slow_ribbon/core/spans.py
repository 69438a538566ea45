"""What legs measure: exact lengths, points, tangents and curvatures along them.

Terms
-----
span
    a leg, or a part of one, that can be asked where it is at a distance ``s`` from its
    beginning. A span is smooth: a corner only lies between two spans.
curvature
    the vector dt/ds in 1/mm; its length is one over the radius, and it points to the centre.

A span runs on beyond its ends, when it is asked for places there, with the curvature it ends
with: that is how a mitre cut reaches past the end of a curved leg.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Final, Protocol

import numpy as np
from scipy.interpolate import BSpline

from slow_ribbon.core.shape import Array
from slow_ribbon.core.units import WELD

#: No step of a flattened span turns more than this, so that small curves look round too.
STEP: Final = math.radians(6)
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(16)


class Span(Protocol):
    """A smooth part of a line. ``length`` is in mm."""

    @property
    def kind(self) -> str: ...

    @property
    def length(self) -> float: ...

    def at(self, s: Array) -> tuple[Array, Array, Array]:
        """Return points, unit tangents and curvatures, (n, 3) each, at distances ``s`` (n,) within the span."""
        ...

    def breaks(self) -> Array:
        """Return distances, both ends included, between which the curvature changes smoothly."""
        ...


@dataclass(frozen=True)
class StraightSpan:
    """A straight from ``begin`` along the unit vector ``tangent``."""

    begin: Array
    tangent: Array
    length: float
    kind: str = "straight"

    def at(self, s: Array) -> tuple[Array, Array, Array]:
        shape = (len(s), 3)
        return self.begin + np.outer(s, self.tangent), np.broadcast_to(self.tangent, shape), np.zeros(shape)

    def breaks(self) -> Array:
        return np.array([0.0, self.length])


@dataclass(frozen=True)
class ScrewSpan:
    """An arc, or with a rise a helix: p(φ) = centre + radius·(u cos φ + v sin φ) + axis·rise·φ/turn, φ from 0 to ``turn`` > 0.

    Length Rφ for an arc; √((2πR)² + H²) a turn for a helix that rises H a turn.
    """

    centre: Array
    u: Array
    v: Array
    axis: Array
    radius: float
    turn: float
    rise: float
    kind: str = "arc"

    @cached_property
    def length(self) -> float:
        return math.hypot(self.radius * self.turn, self.rise)

    def at(self, s: Array) -> tuple[Array, Array, Array]:
        rate = self.turn / self.length
        angles = np.asarray(s, dtype=float) * rate
        cosine, sine = np.cos(angles)[:, None], np.sin(angles)[:, None]
        out = self.u * cosine + self.v * sine
        climb = self.rise / self.length
        points = self.centre + self.radius * out + self.axis * (climb * np.asarray(s))[:, None]
        tangents = self.radius * rate * (self.v * cosine - self.u * sine) + self.axis * climb
        return points, tangents, -self.radius * rate**2 * out

    def breaks(self) -> Array:
        return np.array([0.0, self.length])


@dataclass(frozen=True)
class CordSpan:
    """A hanging cord, a catenary: in its upright plane z = low + a·(cosh((x − x₀)/a) − 1), x along ``level``.

    Distance along it from its lowest point is a·sinh((x − x₀)/a), which is inverted in closed form.
    """

    begin: Array
    level: Array
    parameter: float
    lowest: float
    length: float
    kind: str = "cord"

    def at(self, s: Array) -> tuple[Array, Array, Array]:
        a = self.parameter
        first = a * math.sinh(-self.lowest / a)
        along = (first + np.asarray(s, dtype=float)) / a
        x = a * np.arcsinh(along) + self.lowest
        root = np.sqrt(1 + along**2)
        z = a * (root - math.cosh(-self.lowest / a))
        up = np.array([0.0, 0.0, 1.0])
        points = self.begin + np.outer(x, self.level) + np.outer(z, up)
        tangents = np.outer(1 / root, self.level) + np.outer(along / root, up)
        size = 1 / (a * root**2)
        return points, tangents, np.outer(-along / root * size, self.level) + np.outer(size / root, up)

    def breaks(self) -> Array:
        # A cord that hangs steeply is bent almost only near its lowest point.
        a = self.parameter
        first = a * math.sinh(-self.lowest / a)
        places = a * np.sinh(np.linspace(-8, 8, 33)) - first
        inside = places[(places > 0) & (places < self.length)]
        return np.concatenate([[0.0], inside, [self.length]])


Derivatives = Callable[[Array], tuple[Array, Array, Array]]


@dataclass(frozen=True)
class CurveSpan:
    """A curve given by a parameter: ``curve`` returns points and first and second derivatives, (n, 3) each.

    Arc length is Gauss–Legendre quadrature of |p'| with 16 points on parts small enough that
    halving them changes it by less than 1e-9 mm; the parameter at a distance is found
    by Newton's method on that quadrature. ``spline`` is the curve itself, rational where it has
    a fourth coordinate.
    """

    curve: Derivatives
    knots: Array
    spline: BSpline
    kind: str = "curve"

    @cached_property
    def _table(self) -> tuple[Array, Array]:
        """Return parameters and the distances there, fine enough for quadrature between neighbours."""
        bounds = self.knots
        sizes = self._lengths(bounds[:-1], bounds[1:])
        for _ in range(16):
            middle = (bounds[:-1] + bounds[1:]) / 2
            first, second = self._lengths(bounds[:-1], middle), self._lengths(middle, bounds[1:])
            rough = np.abs(first + second - sizes) > max(1e-9, 1e-13 * float(sizes.sum()))
            if not rough.any():
                break
            parts = [[a, m] if bad else [a] for a, m, bad in zip(bounds[:-1].tolist(), middle.tolist(), rough.tolist(), strict=True)]
            bounds = np.array([value for part in parts for value in part] + [float(bounds[-1])])
            sizes = self._lengths(bounds[:-1], bounds[1:])
        return bounds, np.concatenate([[0.0], np.cumsum(sizes)])

    def _lengths(self, begin: Array, end: Array) -> Array:
        half = (end - begin) / 2
        places = (begin + half)[:, None] + half[:, None] * _NODES
        rates = self.curve(places.ravel())[1]
        speeds = np.sqrt(np.einsum("ij,ij->i", rates, rates)).reshape(places.shape)
        return np.asarray(half * (speeds @ _WEIGHTS))

    @cached_property
    def length(self) -> float:
        return float(self._table[1][-1])

    def parameters(self, s: Array) -> Array:
        """Return the curve's parameters at distances ``s`` (n,)."""
        bounds, places = self._table
        s = np.clip(np.asarray(s, dtype=float), 0.0, places[-1])
        part = np.clip(np.searchsorted(places, s, side="right") - 1, 0, len(places) - 2)
        begin, end = bounds[part], bounds[part + 1]
        left, wide = s - places[part], places[part + 1] - places[part]
        found = begin + (end - begin) * left / np.where(wide > 0, wide, 1.0)
        for _ in range(12):
            off = self._lengths(begin, found) - left
            rates = self.curve(found)[1]
            step = off / np.maximum(np.sqrt(np.einsum("ij,ij->i", rates, rates)), 1e-300)
            found = np.clip(found - step, begin, end)
            if np.abs(off).max(initial=0.0) < 1e-10 * max(1.0, float(places[-1])):
                break
        return np.asarray(found)

    def at(self, s: Array) -> tuple[Array, Array, Array]:
        points, first, second = self.curve(self.parameters(s))
        speed = np.sqrt(np.einsum("ij,ij->i", first, first))[:, None]
        tangents = first / speed
        along = np.einsum("ij,ij->i", second, tangents)[:, None]
        return points, tangents, (second - tangents * along) / speed**2

    def breaks(self) -> Array:
        return self._table[1]


@dataclass(frozen=True)
class PartSpan:
    """A part of a span, from ``low`` to ``high`` along it."""

    whole: Span
    low: float
    high: float

    @property
    def kind(self) -> str:
        return self.whole.kind

    @property
    def length(self) -> float:
        return self.high - self.low

    def at(self, s: Array) -> tuple[Array, Array, Array]:
        return self.whole.at(np.asarray(s) + self.low)

    def breaks(self) -> Array:
        whole = self.whole.breaks()
        inside = whole[(whole > self.low + WELD) & (whole < self.high - WELD)]
        return np.concatenate([[0.0], inside - self.low, [self.length]])


def part_of(span: Span, low: float, high: float) -> Span:
    """Return the part of a span between two distances along it."""
    if low == 0.0 and high == span.length:
        return span
    if isinstance(span, StraightSpan):
        return StraightSpan(span.begin + span.tangent * low, span.tangent, high - low)
    return PartSpan(span, low, high)


def run_on(span: Span, s: Array) -> tuple[Array, Array, Array]:
    """Return what ``span.at`` does, for places beyond the ends too: there the span keeps the curvature it ends with."""
    s = np.asarray(s, dtype=float)
    inside = np.clip(s, 0.0, span.length)
    points, tangents, curvatures = span.at(inside)
    over = s - inside
    if not over.any():
        return points, tangents, curvatures
    size = np.sqrt(np.einsum("ij,ij->i", curvatures, curvatures))
    angle = size * over
    safe = np.where(size > 0, size, 1.0)[:, None]
    normal = curvatures / safe
    cosine, sine = np.cos(angle)[:, None], np.sin(angle)[:, None]
    # sin(κδ)/κ and (1 − cos κδ)/κ, which go to δ and nought for a straight.
    forth = over[:, None] * np.sinc(angle / np.pi)[:, None]
    aside = (over * np.sin(angle / 2) * np.sinc(angle / (2 * np.pi)))[:, None]
    return (
        points + tangents * forth + normal * aside,
        tangents * cosine + normal * sine,
        size[:, None] * (normal * cosine - tangents * sine),
    )


def flattening(span: Span, chord_height: float, reach: float = 0.0) -> Array:
    """Return distances, both ends included, whose chords stay within ``chord_height`` of the span.

    ``reach`` is how far outside the line something lies that is flattened with it.
    """
    bounds = span.breaks()
    found = [np.zeros(1)]
    for low, high in zip(bounds[:-1].tolist(), bounds[1:].tolist(), strict=True):
        probe = np.linspace(low, high, 9)
        bend = np.linalg.norm(span.at(probe)[2], axis=1)
        most = float(bend.max())
        if most < 1e-12:
            found.append(np.array([high]))
            continue
        # Sagitta R(1 − cos(φ/2)) at the radius and what lies outside it.
        radius = 1 / most
        angle = 2 * math.acos(max(-1.0, 1 - chord_height / (radius + reach))) if chord_height < radius + reach else STEP
        count = max(1, math.ceil((high - low) * float(bend.mean() + most) / 2 / min(angle, STEP) - 1e-9))
        found.append(np.linspace(low, high, count + 1)[1:])
    return np.concatenate(found)
