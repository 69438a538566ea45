"""Curves given by a parameter: B-splines, plain or rational, and splines through points."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.interpolate import BSpline

from slow_ribbon.core.geometry.curves import MOST_PARTS, Curve, Evaluation, flattening, gauss
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import SAME_SHARE, TINIEST

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(16)


@dataclass(frozen=True)
class ParametricSpan(Curve):
    """A curve given by a parameter: ``curve`` returns points and first and second derivatives, (n, 3) each.

    Arc length is Gauss–Legendre quadrature of |p'| with 16 points on parts small enough that
    halving them changes it by less than 1e-9 mm; the parameter at a distance is found
    by Newton's method on that quadrature. ``spline`` is the curve itself, rational where it has
    a fourth coordinate. ``directions`` are its tangents at both ends, for a curve that stands
    still there; only there may it, and its curvature then grows without bound toward that end.
    """

    curve: Evaluation
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
        if ((s == 0.0) | (s == places[-1])).all():
            return np.asarray(np.where(s == 0.0, bounds[0], bounds[-1]))
        part = np.clip(np.searchsorted(places, s, side="right") - 1, 0, len(places) - 2)
        begin, end = bounds[part], bounds[part + 1]
        left, wide = s - places[part], places[part + 1] - places[part]
        found = begin + (end - begin) * left / np.where(wide > 0, wide, 1.0)
        low, high = begin.copy(), end.copy()
        near = 1e-10 * max(1.0, float(places[-1]))
        for _ in range(100):
            off = self._lengths(begin, found) - left
            there = np.abs(off) < near
            if there.all():
                break
            low, high = np.where(off <= 0, found, low), np.where(off >= 0, found, high)
            rates = self.curve(found)[1]
            step = found - off / np.maximum(np.sqrt(np.einsum("ij,ij->i", rates, rates)), TINIEST)
            # Where the curve stands still Newton's step leads astray; halving does not. What is there stays: from where the curve
            # stands still no step leads back.
            found = np.where(there, found, np.where((step >= low) & (step <= high), step, (low + high) / 2))
        return np.asarray(found)

    def distances(self, parameters: Array) -> Array:
        """Return the distances along the curve of parameters (n,)."""
        bounds, places = self._table
        part = np.clip(np.searchsorted(bounds, parameters, side="right") - 1, 0, len(bounds) - 2)
        return np.asarray(places[part] + self._lengths(bounds[part], parameters))

    def at(self, s: Array) -> tuple[Array, Array, Array]:
        return self.at_parameters(self.parameters(s))

    def at_parameters(self, parameters: Array) -> tuple[Array, Array, Array]:
        """Return ``at`` by parameters (n,) of the curve."""
        points, first, second = self.curve(parameters)
        speed = np.sqrt(np.einsum("ij,ij->i", first, first))[:, None]
        still = None
        if self.directions is not None:
            still = speed[:, 0] <= SAME_SHARE * self._pace
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

    @property
    def halts(self) -> bool:  # type: ignore[override]  # of most curves it is a fact, of this one it follows
        return self.directions is not None

    def direction(self, last: bool) -> Array:
        # By its parameter, for which no distance has to be found.
        return np.asarray(self.at_parameters(self.knots[-1:] if last else self.knots[:1])[1][0])

    def drawn(self, chord_height: float) -> tuple[Array, Array, Array]:
        chords = self.chords(chord_height, 0.0)
        return chords.distances, chords.points, chords.directions

    def looked_at(self) -> tuple[Evaluation, Array, Callable[[Array], Array]]:
        # It is halved by its parameter, which is at hand, and converted to distances in the end.
        return self.at_parameters, self.bounds, self.distances

    def weighted(self, low: float, high: float) -> tuple[Array, Array]:
        """Return ``Curve.weighted`` by its own parameter, in which quantities that are infinite where the speed is zero are smooth."""
        bounds = flattening(self, 1e9)
        bounds = np.concatenate([[low], bounds[(bounds > low) & (bounds < high)], [high]])
        places, weights = gauss(self.parameters(bounds))
        rates = self.curve(places)[1]
        return self.distances(places), weights * np.sqrt(np.einsum("ij,ij->i", rates, rates))
