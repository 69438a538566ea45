"""Curves: smooth parts of a line, evaluated exactly.

Terms
-----
span
    a leg, or a part of one, that can be asked where it is at a distance ``s`` from its
    beginning. A span is smooth: a corner only lies between two spans.
curvature
    the vector dt/ds in 1/mm; its length is one over the radius, and it points to the centre.

Every span is a ``Curve``. What a kind of curve knows better than it can be found from its
points (a straight that it is straight, an arc its radius) it says itself, so that nobody
need ask which kind it is. A span runs on beyond its ends, when it is asked for places there,
with the curvature it ends with: that is how a mitre cut reaches past the end of a curved leg.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING, ClassVar, Final

import numpy as np

from slow_ribbon.core.geometry.frames import angle_between, level_rights
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import NEARLY_WHOLE, NO_LEAN, ROUNDING
from slow_ribbon.core.kernel.units import WELD

#: No step of a flattened span turns more than this, so that small curves look round too.
STEP: Final = math.radians(6)
#: No span is flattened, or measured, in more parts than this, whatever its figures: it is then as fine as can be of use.
MOST_PARTS: Final = 20_000
#: A curve that ends with a smaller radius than this, mm, runs on beyond its end as it bends over its last ``_LAST`` mm.
_HOOK: Final = 1.0
_LAST: Final = 0.1
#: Directions along a curve from which it is summed how far it turns.
_DIRECTIONS: Final = 129
_FEW_NODES, _FEW_WEIGHTS = np.polynomial.legendre.leggauss(8)

Evaluation = Callable[[Array], tuple[Array, Array, Array]]


@dataclass(frozen=True)
class Chords:
    """A curve in chords: distances (n,), points and unit tangents (n, 3) where they meet; whether ``MOST_PARTS`` of them were enough."""

    distances: Array
    points: Array
    directions: Array
    whole: bool


class Curve(ABC):
    """A smooth part of a line. ``kind`` is what it is called in a document, ``length`` is in mm."""

    if TYPE_CHECKING:

        @property
        def kind(self) -> str: ...

        @property
        def length(self) -> float: ...

    #: Whether it has no bend anywhere.
    straight: ClassVar[bool] = False
    #: Whether it bends to one side only, wherever it bends.
    one_sided: ClassVar[bool] = False

    @abstractmethod
    def at(self, s: Array) -> tuple[Array, Array, Array]:
        """Return points, unit tangents and curvatures, (n, 3) each, at distances ``s`` (n,) within the span."""

    @abstractmethod
    def breaks(self) -> Array:
        """Return distances, both ends included, between which the curvature changes smoothly."""

    def part(self, low: float, high: float) -> Curve:
        """Return the part between two distances along it."""
        return self if low == 0.0 and high == self.length else PartSpan(self, low, high)

    def direction(self, last: bool) -> Array:
        """Return the unit tangent (3,) at the beginning, or at the end."""
        return np.asarray(self.at(np.array([self.length if last else 0.0]))[1][0])

    @property
    def radius_of_arc(self) -> float | None:
        """The radius where it is a circular arc, in a plane."""
        return None

    @property
    def winding(self) -> tuple[float, float] | None:
        """The radius and the turn, in radians, where it winds evenly about an axis."""
        return None

    @property
    def rise(self) -> float:
        """How much higher its end lies than its beginning, mm."""
        ends = self.at(np.array([0.0, self.length]))[0]
        return float(ends[1, 2] - ends[0, 2])

    def turned(self, low: float, high: float) -> float:
        """Return by how much it turns, in radians, between two distances."""
        directions = self.at(np.linspace(low, high, _DIRECTIONS))[1]
        return float(angle_between(directions[:-1], directions[1:]).sum())

    def beside(self, distance: float) -> Curve | None:
        """Return the same kind of curve at a distance to the right on plan where there is one, exactly. Raises ``Vanishes``."""
        return None

    def rotating(self) -> Array | None:
        """Return thirteen numbers where it is p(s) = base + along·s + u·cos(rate·s) + v·sin(rate·s): three each, and the rate."""
        return None

    #: Whether those numbers hold beyond its ends too.
    rotates_on: bool = True
    #: Whether it stands still, and its curvature grows without bound, toward an end.
    halts: bool = False

    def looked_at(self) -> tuple[Evaluation, Array, Callable[[Array], Array]]:
        """Return the parameter by which the curve is searched where distances cost much, its breaks, and how these become distances."""
        return self.at, self.breaks(), np.asarray

    def weighted(self, low: float, high: float) -> tuple[Array, Array]:
        """Return distances along it and weights, in mm, that sum what is asked there over the stretch from ``low`` to ``high``.

        Gauss–Legendre with 8 points on parts of 6° at most.
        """
        bounds = flattening(self, 1e9)
        return gauss(np.concatenate([[low], bounds[(bounds > low) & (bounds < high)], [high]]))

    def flattened(self, chord_height: float, reach: float) -> tuple[Array, bool]:
        """Return ``flattening``, and whether ``MOST_PARTS`` parts were enough."""
        chords = self.chords(chord_height, reach)
        return chords.distances, chords.whole

    def drawn(self, chord_height: float) -> tuple[Array, Array, Array]:
        """Return ``flattening``, with the points and unit tangents (n, 3) there."""
        distances = self.flattened(chord_height, 0.0)[0]
        points, directions, _ = self.at(distances)
        return distances, points, directions

    def chords(self, chord_height: float, reach: float) -> Chords:
        """Return the chords that ``flattening`` finds, halved until they are near enough."""
        look, bounds, distances = self.looked_at()
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
            radii = sizes / np.maximum(turns, ROUNDING)
            heights = (radii + reach) * (1 - np.cos(np.minimum(turns, math.pi) / 2))
            rough = ((turns > STEP) | (heights > chord_height)) & (sizes > WELD)
            split = which[rough]
            bounds = np.insert(bounds, split + 1, middles[rough])
            directions = np.insert(directions, split + 1, between[rough], axis=0)
            places = np.insert(places, split + 1, met[rough], axis=0)
            active = np.zeros(len(bounds) - 1, dtype=bool)
            moved = split + np.arange(len(split))
            active[moved] = active[moved + 1] = True
        return Chords(distances(bounds), places, directions, whole)


class Vanishes(Exception):
    """A curve has nothing left of it at a distance: its ``radius``, mm, is used up."""

    def __init__(self, radius: float) -> None:
        super().__init__(f"a radius of {radius} mm is used up")
        self.radius = radius


def gauss(bounds: Array) -> tuple[Array, Array]:
    """Return places and weights of Gauss–Legendre quadrature with 8 points between every two of some bounds (n,)."""
    half = np.diff(bounds)[:, None] / 2
    return ((bounds[:-1, None] + half) + half * _FEW_NODES).ravel(), (half * _FEW_WEIGHTS).ravel()


@dataclass(frozen=True)
class StraightSpan(Curve):
    """A straight from ``begin`` along the unit vector ``tangent``."""

    begin: Array
    tangent: Array
    length: float
    kind: str = "straight"

    straight = one_sided = True

    def at(self, s: Array) -> tuple[Array, Array, Array]:
        shape = (len(s), 3)
        return self.begin + np.outer(s, self.tangent), np.broadcast_to(self.tangent, shape), np.zeros(shape)

    def breaks(self) -> Array:
        return np.array([0.0, self.length])

    def part(self, low: float, high: float) -> Curve:
        if low == 0.0 and high == self.length:
            return self
        return StraightSpan(self.begin + self.tangent * low, self.tangent, high - low)

    def direction(self, last: bool) -> Array:
        return self.tangent

    @property
    def rise(self) -> float:
        return float(self.tangent[2]) * self.length

    def turned(self, low: float, high: float) -> float:
        return 0.0

    def beside(self, distance: float) -> Curve:
        return StraightSpan(self.begin + level_rights(self.tangent) * distance, self.tangent, self.length)

    def rotating(self) -> Array:
        return np.concatenate([self.begin, self.tangent, np.zeros(7)])

    def flattened(self, chord_height: float, reach: float) -> tuple[Array, bool]:
        return self.breaks(), True


@dataclass(frozen=True)
class ScrewSpan(Curve):
    """An arc, or with a rise a helix: p(φ) = centre + radius·(u cos φ + v sin φ) + axis·climb·φ/turn, φ from 0 to ``turn`` > 0.

    Length Rφ for an arc; √((2πR)² + H²) a turn for a helix that rises H a turn.
    """

    centre: Array
    u: Array
    v: Array
    axis: Array
    radius: float
    turn: float
    climb: float
    kind: str = "arc"

    one_sided = True

    @cached_property
    def length(self) -> float:
        return math.hypot(self.radius * self.turn, self.climb)

    def at(self, s: Array) -> tuple[Array, Array, Array]:
        rate = self.turn / self.length
        angles = np.asarray(s, dtype=float) * rate
        cosine, sine = np.cos(angles)[:, None], np.sin(angles)[:, None]
        out = self.u * cosine + self.v * sine
        climb = self.climb / self.length
        points = self.centre + self.radius * out + self.axis * (climb * np.asarray(s))[:, None]
        tangents = self.radius * rate * (self.v * cosine - self.u * sine) + self.axis * climb
        return points, tangents, -self.radius * rate**2 * out

    def breaks(self) -> Array:
        return np.array([0.0, self.length])

    def part(self, low: float, high: float) -> Curve:
        if low == 0.0 and high == self.length:
            return self
        rate = self.turn / self.length
        turn = (high - low) * rate
        return replace(self.begun(low * rate), turn=turn, climb=self.climb * turn / self.turn)

    def begun(self, turned: float) -> ScrewSpan:
        """Return the same arc or helix as it begins where it has turned by this much, radians."""
        cosine, sine = math.cos(turned), math.sin(turned)
        centre = self.centre + self.axis * (self.climb * turned / self.turn)
        return replace(self, centre=centre, u=self.u * cosine + self.v * sine, v=self.v * cosine - self.u * sine)

    @property
    def radius_of_arc(self) -> float | None:
        return self.radius if self.climb == 0 else None

    @property
    def winding(self) -> tuple[float, float]:
        return self.radius, self.turn

    def turned(self, low: float, high: float) -> float:
        return (high - low) * self.radius * self.turn**2 / self.length**2

    def beside(self, distance: float) -> Curve | None:
        axis = float(np.cross(self.u, self.v)[2])
        if self.climb != 0 or abs(abs(axis) - 1) >= ROUNDING:
            return None
        # The right of travel is outward where the arc turns left.
        radius = self.radius + distance * (1 if axis > 0 else -1)
        if radius <= WELD:
            raise Vanishes(self.radius)
        return ScrewSpan(centre=self.centre, u=self.u, v=self.v, axis=self.axis, radius=radius, turn=self.turn, climb=0.0)

    def rotating(self) -> Array:
        u, v = self.radius * self.u, self.radius * self.v
        return np.concatenate([self.centre, self.axis * (self.climb / self.length), u, v, [self.turn / self.length]])

    @property
    def rotates_on(self) -> bool:  # type: ignore[override]  # of most curves it is a fact, of this one it follows
        # A helix runs on as an arc, with the curvature it ends with.
        return self.climb == 0

    def flattened(self, chord_height: float, reach: float) -> tuple[Array, bool]:
        bend = self.radius * (self.turn / self.length) ** 2
        count = _chords(self.length * bend, 1 / bend, chord_height, reach)
        return np.linspace(0.0, self.length, count + 1), count < MOST_PARTS


@dataclass(frozen=True)
class PartSpan(Curve):
    """A part of a span, from ``low`` to ``high`` along it."""

    whole: Curve
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

    @property
    def one_sided(self) -> bool:  # type: ignore[override]  # as of the whole
        return self.whole.one_sided

    def weighted(self, low: float, high: float) -> tuple[Array, Array]:
        places, weights = self.whole.weighted(low + self.low, high + self.low)
        return places - self.low, weights


def run_on(span: Curve, s: Array) -> tuple[Array, Array, Array]:
    """Return ``span.at`` for places beyond the ends too: there the span keeps the curvature it ends with."""
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
    # sin(κδ)/κ and (1 − cos κδ)/κ, which go to δ and zero for a straight.
    forth = over[:, None] * np.sinc(angle / np.pi)[:, None]
    aside = (over * np.sin(angle / 2) * np.sinc(angle / (2 * np.pi)))[:, None]
    return (
        points + tangents * forth + normal * aside,
        tangents * cosine + normal * sine,
        size[:, None] * (normal * cosine - tangents * sine),
    )


def _calm(span: Curve, over: Array, tangents: Array, curvatures: Array) -> Array:
    """Return curvatures; beyond the ends (``over`` not zero) those of the last bit of a span that ends in a hook."""
    hooked = (over != 0) & (np.einsum("ij,ij->i", curvatures, curvatures) > 1 / _HOOK**2)
    still = span.halts
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


def flattening(span: Curve, chord_height: float, reach: float = 0.0) -> Array:
    """Return distances, both ends included, whose chords stay within ``chord_height`` of the span and turn by 6° at most.

    ``reach`` is how far outside the line something lies that is flattened with it. Parts are
    halved until that holds, or until they are points, and never into more than ``MOST_PARTS``.
    """
    return span.flattened(chord_height, reach)[0]


def _chords(turn: float, radius: float, chord_height: float, reach: float) -> int:
    """Return the number of chords that an arc of a turn needs: sagitta R(1 − cos(φ/2)) at its radius plus the reach outside it."""
    angle = 2 * math.acos(max(-1.0, 1 - chord_height / (radius + reach))) if chord_height < radius + reach else STEP
    return min(MOST_PARTS, max(1, math.ceil(turn / max(min(angle, STEP), NO_LEAN) - NEARLY_WHOLE)))
