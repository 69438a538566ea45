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

from slow_ribbon.core.geometry.frames import angle_between
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.units import WELD

#: No step of a flattened span turns more than this, so that small curves look round too.
STEP: Final = math.radians(6)
#: No span is flattened, or measured, in more parts than this, whatever its figures: it is then as fine as can be of use.
MOST_PARTS: Final = 20_000
#: A curve that ends with a smaller radius than this, mm, runs on beyond its end as it bends over its last ``_LAST`` mm.
_HOOK: Final = 1.0
_LAST: Final = 0.1
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(16)
_FEW_NODES, _FEW_WEIGHTS = np.polynomial.legendre.leggauss(8)


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
    a fourth coordinate. ``directions`` are its tangents at both ends, for a curve that stands
    still there; only there may it, and its curvature then grows without bound toward that end.
    """

    curve: Derivatives
    knots: Array
    spline: BSpline
    kind: str = "curve"
    directions: tuple[Array, Array] | None = None

    @cached_property
    def _table(self) -> tuple[Array, Array]:
        """Return parameters and the distances there, fine enough for quadrature between neighbours."""
        bounds = self.knots
        sizes = self._lengths(bounds[:-1], bounds[1:])
        for _ in range(16):
            middle = (bounds[:-1] + bounds[1:]) / 2
            first, second = self._lengths(bounds[:-1], middle), self._lengths(middle, bounds[1:])
            rough = np.abs(first + second - sizes) > max(1e-9, 1e-13 * float(sizes.sum()))
            if not rough.any() or len(bounds) + int(rough.sum()) > MOST_PARTS + len(self.knots):
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
        low, high = begin.copy(), end.copy()
        for _ in range(100):
            off = self._lengths(begin, found) - left
            low, high = np.where(off <= 0, found, low), np.where(off >= 0, found, high)
            rates = self.curve(found)[1]
            step = found - off / np.maximum(np.sqrt(np.einsum("ij,ij->i", rates, rates)), 1e-300)
            # Where the curve stands still Newton's step leads astray; halving does not.
            found = np.where((step >= low) & (step <= high), step, (low + high) / 2)
            if np.abs(off).max(initial=0.0) < 1e-10 * max(1.0, float(places[-1])):
                break
        return np.asarray(found)

    def distances(self, parameters: Array) -> Array:
        """Return the distances along the curve of parameters (n,)."""
        bounds, places = self._table
        part = np.clip(np.searchsorted(bounds, parameters, side="right") - 1, 0, len(bounds) - 2)
        return np.asarray(places[part] + self._lengths(bounds[part], parameters))

    def at(self, s: Array) -> tuple[Array, Array, Array]:
        return self.at_parameters(self.parameters(s))

    def at_parameters(self, parameters: Array) -> tuple[Array, Array, Array]:
        """Return what ``at`` does, at parameters (n,) of the curve."""
        points, first, second = self.curve(parameters)
        speed = np.sqrt(np.einsum("ij,ij->i", first, first))[:, None]
        still = None
        if self.directions is not None:
            still = speed[:, 0] <= 1e-9 * self._pace
            speed[still] = 1.0
        tangents = first / speed
        along = np.einsum("ij,ij->i", second, tangents)[:, None]
        curvatures = (second - tangents * along) / speed**2
        if still is not None and self.directions is not None and still.any():
            nearer_begin = parameters[still] < (self.knots[0] + self.knots[-1]) / 2
            tangents[still] = np.where(nearer_begin[:, None], self.directions[0], self.directions[1])
            curvatures[still] = 0.0
        return points, tangents, curvatures

    @cached_property
    def _pace(self) -> float:
        """The mean speed, mm for each unit of the parameter."""
        return self.length / float(self.knots[-1] - self.knots[0])

    def breaks(self) -> Array:
        return self._table[1]

    @property
    def bounds(self) -> Array:
        """The parameters at the distances that ``breaks`` returns."""
        return self._table[0]


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
    curvatures = _calm(span, over, tangents, curvatures)
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


def _calm(span: Span, over: Array, tangents: Array, curvatures: Array) -> Array:
    """Return curvatures; beyond the ends (``over`` not nought) those of the last bit of a span that ends in a hook."""
    hooked = (over != 0) & (np.einsum("ij,ij->i", curvatures, curvatures) > 1 / _HOOK**2)
    still = isinstance(span, CurveSpan) and span.directions is not None
    for before, at in ((over < 0, 0.0), (over > 0, span.length)):
        ends = before & (hooked | (still & ~curvatures.any(axis=1)))
        if ends.any():
            size = min(_LAST, span.length / 2)
            near = span.at(np.array([size if at == 0 else span.length - size]))[1][0]
            tangent = tangents[ends][0]
            turned = (near - tangent if at == 0 else tangent - near) / size
            curvatures = curvatures.copy()
            curvatures[ends] = turned - tangent * float(turned @ tangent)
    return curvatures


def quadrature(span: Span, low: float, high: float) -> tuple[Array, Array]:
    """Return distances along a span and weights, in mm, that sum what is asked there over the stretch from ``low`` to ``high``.

    Gauss–Legendre with 8 points on parts of 6° at most. Of a curve it goes by the curve's own
    parameter, in which what grows without bound where the curve stands still is smooth.
    """
    if isinstance(span, PartSpan):
        places, weights = quadrature(span.whole, low + span.low, high + span.low)
        return places - span.low, weights
    bounds = flattening(span, 1e9)
    bounds = np.concatenate([[low], bounds[(bounds > low) & (bounds < high)], [high]])
    if isinstance(span, CurveSpan):
        bounds = span.parameters(bounds)
    half = np.diff(bounds)[:, None] / 2
    places = ((bounds[:-1, None] + half) + half * _FEW_NODES).ravel()
    weights = (half * _FEW_WEIGHTS).ravel()
    if isinstance(span, CurveSpan):
        rates = span.curve(places)[1]
        return span.distances(places), weights * np.sqrt(np.einsum("ij,ij->i", rates, rates))
    return places, weights


def flattening(span: Span, chord_height: float, reach: float = 0.0) -> Array:
    """Return distances, both ends included, whose chords stay within ``chord_height`` of the span and turn by 6° at most.

    ``reach`` is how far outside the line something lies that is flattened with it. Parts are
    halved until that holds, or until they are points, and never into more than ``MOST_PARTS``.
    """
    return _flattened(span, chord_height, reach)[0]


def can_be_flattened(span: Span, chord_height: float) -> bool:
    """Tell whether a span can be flattened within a chord height by ``MOST_PARTS`` parts."""
    return _flattened(span, chord_height, 0.0)[1]


def _flattened(span: Span, chord_height: float, reach: float) -> tuple[Array, bool]:
    bounds = np.asarray(span.breaks(), dtype=float)
    if isinstance(span, StraightSpan):
        return bounds, True
    if isinstance(span, ScrewSpan):
        bend = span.radius * (span.turn / span.length) ** 2
        count = _chords(span.length * bend, 1 / bend, chord_height, reach)
        return np.linspace(0.0, span.length, count + 1), count < MOST_PARTS
    # A curve is halved by its parameter, which is at hand, and told in distances in the end.
    curve = span if isinstance(span, CurveSpan) else None
    look = curve.at_parameters if curve is not None else span.at
    bounds = curve.bounds if curve is not None else bounds
    places, directions, _ = look(bounds)
    active = np.ones(len(bounds) - 1, dtype=bool)
    whole = True
    for _ in range(48):
        look_up(9 * len(bounds))
        which = np.flatnonzero(active)
        whole = not len(which)
        if whole or len(bounds) + len(which) > MOST_PARTS:
            break
        middles = (bounds[which] + bounds[which + 1]) / 2
        met, between, _ = look(middles)
        turns = angle_between(directions[which], between) + angle_between(between, directions[which + 1])
        halves = (met - places[which], places[which + 1] - met)
        sizes = sum((np.sqrt(np.einsum("ij,ij->i", half, half)) for half in halves), np.zeros(len(which)))
        radii = sizes / np.maximum(turns, 1e-12)
        heights = (radii + reach) * (1 - np.cos(np.minimum(turns, math.pi) / 2))
        rough = ((turns > STEP) | (heights > chord_height)) & (sizes > WELD)
        split = which[rough]
        bounds = np.insert(bounds, split + 1, middles[rough])
        directions = np.insert(directions, split + 1, between[rough], axis=0)
        places = np.insert(places, split + 1, met[rough], axis=0)
        active = np.zeros(len(bounds) - 1, dtype=bool)
        moved = split + np.arange(len(split))
        active[moved] = active[moved + 1] = True
    return (bounds if curve is None else curve.distances(bounds)), whole


def _chords(turn: float, radius: float, chord_height: float, reach: float) -> int:
    """Return how many chords an arc of a turn needs: sagitta R(1 − cos(φ/2)) at its radius and what lies outside it."""
    angle = 2 * math.acos(max(-1.0, 1 - chord_height / (radius + reach))) if chord_height < radius + reach else STEP
    return min(MOST_PARTS, max(1, math.ceil(turn / max(min(angle, STEP), 1e-9) - 1e-9)))
