"""A line traced by polynomials, to be stepped along place by place.

Asking a line for one point costs as much as asking it for hundreds at once. Where each place
hangs on the one before, the line is therefore sampled once and traced by polynomials of degree
five, halved until they lie within ``CLOSE`` of it.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Callable
from typing import Final

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.patience import look_up

#: How closely polynomials approximate the line, mm.
CLOSE: Final = 1e-8
#: Halvings at most; after this many, only a line that is not smooth there is further from its polynomial.
_HALVINGS: Final = 10
#: Chebyshev-Lobatto places on [0, 1], the degree of whose polynomial is one less, and shares between them where it is compared.
_SAMPLES: Final = (1 - np.cos(np.pi * np.arange(6) / 5)) / 2
_BETWEEN: Final = np.array([0.2, 0.5, 0.8])
_TO_POWERS: Final = np.linalg.inv(np.vander(_SAMPLES, increasing=True))
#: Nodes looked at one by one before they are looked at in blocks.
_FEW: Final = 12
_BLOCK: Final = 512


class Trace:
    """Points of a line between nodes (n,), places along it where it may turn a corner, given by ``points_at``: (m,) to (m, 3), mm."""

    def __init__(self, points_at: Callable[[Array], Array], nodes: Array) -> None:
        low, high = nodes[:-1], nodes[1:]
        begins, powers = [], []
        for halving in range(_HALVINGS + 1):
            look_up(9 * len(low))
            wide = (high - low)[:, None]
            places = np.concatenate([low[:, None] + wide * _SAMPLES, low[:, None] + wide * _BETWEEN], axis=1)
            points = points_at(places.ravel()).reshape(len(low), -1, 3)
            # From where each begins, so that its own figures are small, however far from the origin it lies.
            begin = points[:, :1]
            size = float(np.abs(points).max(initial=0.0))
            points = points - begin
            fitted = np.einsum("ij,njk->nik", _TO_POWERS, points[:, : len(_SAMPLES)])
            off = np.einsum("ij,njk->nik", np.vander(_BETWEEN, len(_SAMPLES), increasing=True), fitted) - points[:, len(_SAMPLES) :]
            # Far from the origin figures themselves are no finer than this: halving would bring nothing.
            close = max(CLOSE, 1e-14 * size)
            fitted[:, :1] += begin
            fits = (np.abs(off).max(axis=(1, 2)) < close) | (halving == _HALVINGS)
            begins.append(low[fits])
            powers.append(fitted[fits])
            middle = (low + high)[~fits] / 2
            low, high = np.concatenate([low[~fits], middle]), np.concatenate([middle, high[~fits]])
            if not len(low):
                break
        starts = np.concatenate(begins)
        order = np.argsort(starts)
        coefficients = np.concatenate(powers)[order]
        self._places = np.append(starts[order], nodes[-1])
        self._points = np.concatenate([coefficients[:, 0], coefficients[-1:].sum(axis=1)])
        # Numbers of Python are read one by one far faster than those of an array.
        self._nodes: list[float] = self._places.tolist()
        self._ends: list[tuple[float, float, float]] = [tuple(point) for point in self._points.tolist()]
        self._powers: list[list[float]] = coefficients.transpose(0, 2, 1).reshape(len(order), -1).tolist()

    def first_beyond(self, place: float, size: float, short: float) -> float | None:
        """Return the first place beyond one where the line is ``size`` away from it, straight; one ``short`` of it counts as there.

        Nothing where the line ends before.
        """
        nodes, ends = self._nodes, self._ends
        here = x, y, z = self._at(self._part(place), place)[:3]
        enough = (size - short) ** 2
        # Nothing is further away straight than along the line.
        part = self._part(place + size - short)
        for after in range(part + 1, min(part + 1 + _FEW, len(nodes))):
            there = ends[after]
            if (there[0] - x) ** 2 + (there[1] - y) ** 2 + (there[2] - z) ** 2 >= enough:
                return self._crossing(after - 1, place, here, size)
        for begin in range(part + 1 + _FEW, len(nodes), _BLOCK):
            away = self._points[begin : begin + _BLOCK] - np.array(here)
            far = np.flatnonzero(np.einsum("ij,ij->i", away, away) >= enough)
            if len(far):
                return self._crossing(begin + int(far[0]) - 1, place, here, size)
        return None

    def _part(self, place: float) -> int:
        return min(max(bisect_right(self._nodes, place) - 1, 0), len(self._powers) - 1)

    def _at(self, part: int, place: float) -> tuple[float, float, float, float, float, float]:
        """Return the point at a place and how it changes there."""
        low = self._nodes[part]
        wide = self._nodes[part + 1] - low
        u = (place - low) / wide
        a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q, r = self._powers[part]
        return (
            a + u * (b + u * (c + u * (d + u * (e + u * f)))),
            g + u * (h + u * (i + u * (j + u * (k + u * l)))),
            m + u * (n + u * (o + u * (p + u * (q + u * r)))),
            (b + u * (2 * c + u * (3 * d + u * (4 * e + u * 5 * f)))) / wide,
            (h + u * (2 * i + u * (3 * j + u * (4 * k + u * 5 * l)))) / wide,
            (n + u * (2 * o + u * (3 * p + u * (4 * q + u * 5 * r)))) / wide,
        )

    def _crossing(self, part: int, before: float, here: tuple[float, float, float], size: float) -> float:
        """Return the place at a distance ``size`` from the point at the place ``before``, by Newton's method kept in bounds."""
        low, high = max(before, self._nodes[part]), self._nodes[part + 1]
        x, y, z = here
        if math.dist(here, self._ends[part + 1]) <= size:
            return high
        # Along a gentle curve it is little further than straight.
        place = min(max(low, before + size), high)
        for _ in range(100):
            px, py, pz, vx, vy, vz = self._at(part, place)
            dx, dy, dz = px - x, py - y, pz - z
            away = math.sqrt(dx * dx + dy * dy + dz * dz)
            missing = away - size
            if missing > 0:
                high = place
            else:
                low = place
            slope = dx * vx + dy * vy + dz * vz
            # Where it comes nearer again at first, as just round a sharp corner, the slope leads away from where it is looked for.
            further = place - missing * away / slope if slope > 0 else math.inf
            if abs(further - place) < 1e-11 * max(1.0, place) or high - low < 1e-11 * max(1.0, place):
                return min(max(further, low), high)
            place = further if low < further < high else (low + high) / 2
        return place
