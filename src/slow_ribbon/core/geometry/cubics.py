"""Cubic Bézier curves, measured and drawn many at a time: nearly all curves of drawings are such, and a drawing has thousands."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Final

import numpy as np
from scipy.interpolate import BSpline

from slow_ribbon.core.geometry.curves import MOST_PARTS, STEP, Chords, Evaluation
from slow_ribbon.core.geometry.frames import angle_between
from slow_ribbon.core.geometry.parametric import ParametricSpan
from slow_ribbon.core.kernel.arrays import CHORD_HEIGHT, Array, Flags, Indices
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import ROUNDING, SAME_SHARE
from slow_ribbon.core.kernel.units import WELD

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(16)
_KNOTS: Final = np.array([0.0] * 4 + [1.0] * 4)
_ENDS: Final = np.array([0.0, 1.0])
#: Stretches that are measured at once: what they need is a few megabytes.
_AT_ONCE: Final = 8192
#: Chord heights whose chords are kept.
_HEIGHTS: Final = 4
#: The shortest side of the controls of a curve that is surely smooth is no smaller share of its longest.
_SIDES: Final = 1e-3
#: The cosine of the widest angle at which one of them goes the way of the chord.
_FORWARD: Final = 0.01


def surely_smooth(controls: Array) -> Flags:
    """Return a mask of curves with controls (n, 4, 3) whose speed is surely zero nowhere: those whose sides all go the way of their chord.

    The velocity of a Bézier curve lies in the hull of three times the sides of its controls (Farin, Curves and Surfaces for CAGD, ch. 5).
    """
    sides = np.diff(controls, axis=1)
    sizes = np.sqrt(np.einsum("nij,nij->ni", sides, sides))
    chords = controls[:, 3] - controls[:, 0]
    along = np.einsum("nij,nj->ni", sides, chords)
    forward = along > _FORWARD * sizes * np.sqrt(np.einsum("nj,nj->n", chords, chords))[:, None]
    return np.asarray(forward.all(axis=1) & (sizes.min(axis=1) > np.maximum(WELD, _SIDES * sizes.max(axis=1))))


class CubicsTogether:
    """Cubic Bézier curves that stand still nowhere but at ends. What is asked about one is worked out for all of them.

    ``controls`` (n, 4, 3), ``directions`` (n, 2, 3): their unit tangents at both ends.
    """

    def __init__(self, controls: Array, directions: Array) -> None:
        self.controls = controls
        self.directions = directions
        self.sides = 3 * np.diff(controls, axis=1)
        self._chords: dict[float, list[Chords]] = {}

    def places(self, which: Indices, t: Array) -> Array:
        """Return points (n, 3) of the curves numbered ``which`` at parameters."""
        u = 1 - t
        shares = np.stack([u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t], axis=1)
        return np.asarray(np.einsum("ni,nij->nj", shares, self.controls[which]))

    def rates(self, which: Indices, t: Array) -> Array:
        """Return derivatives (n, 3) of the curves numbered ``which`` at parameters."""
        u = 1 - t
        shares = np.stack([u * u, 2 * u * t, t * t], axis=1)
        return np.asarray(np.einsum("ni,nij->nj", shares, self.sides[which]))

    def ways(self, which: Indices, t: Array) -> Array:
        """Return unit tangents (n, 3) of the curves numbered ``which`` at parameters."""
        rates = self.rates(which, t)
        speeds = np.sqrt(np.einsum("ij,ij->i", rates, rates))
        still = speeds <= SAME_SHARE * self.totals[which]
        ways = rates / np.where(still, 1.0, speeds)[:, None]
        ways[still] = self.directions[which[still], (t[still] >= 0.5).astype(np.int64)]
        return np.asarray(ways)

    def lengths(self, which: Indices, begin: Array, end: Array) -> Array:
        """Return the lengths, mm, of the curves numbered ``which`` between two parameters each, as ``ParametricSpan`` measures them."""
        found = np.empty(len(which))
        for low in range(0, len(which), _AT_ONCE):
            here = slice(low, low + _AT_ONCE)
            look_up(16 * len(which[here]))
            half = (end[here] - begin[here]) / 2
            places = (begin[here] + half)[:, None] + half[:, None] * _NODES
            rates = self.rates(np.repeat(which[here], 16), places.ravel())
            found[here] = half * (np.sqrt(np.einsum("ij,ij->i", rates, rates)).reshape(places.shape) @ _WEIGHTS)
        return found

    @cached_property
    def tables(self) -> list[tuple[Array, Array]]:
        """Parameters of each curve and the distances there, fine enough for quadrature between neighbours."""
        count = len(self.controls)
        which, begin, end = np.arange(count), np.zeros(count), np.ones(count)
        sizes = self.lengths(which, begin, end)
        done: list[tuple[Indices, Array, Array]] = []
        total = sizes.copy()
        for level in range(17):
            middle = (begin + end) / 2
            first, second = self.lengths(which, begin, middle), self.lengths(which, middle, end)
            rough = np.abs(first + second - sizes) > np.maximum(1e-9, 1e-13 * total[which])
            rough &= level < 16
            done.append((which[~rough], begin[~rough], sizes[~rough]))
            if not rough.any():
                break
            which = np.tile(which[rough], 2)
            begin, end = np.concatenate([begin[rough], middle[rough]]), np.concatenate([middle[rough], end[rough]])
            sizes = np.concatenate([first[rough], second[rough]])
        which, begin, sizes = (np.concatenate(part) for part in zip(*done, strict=True))
        order = np.lexsort((begin, which))
        cuts = np.cumsum(np.bincount(which, minlength=count))[:-1]
        parts = zip(np.split(begin[order], cuts), np.split(sizes[order], cuts), strict=True)
        return [(np.append(bounds, 1.0), np.concatenate([[0.0], np.cumsum(size)])) for bounds, size in parts]

    @cached_property
    def totals(self) -> Array:
        """The lengths of all curves (n,), mm."""
        return np.array([places[-1] for _, places in self.tables])

    def chords(self, chord_height: float) -> list[Chords]:
        """Return for each curve what ``Curve.chords`` does, with nothing outside it.

        Those for drawing serve for all that may be coarser: of thousands of curves they are found once.
        """
        chord_height = min(chord_height, CHORD_HEIGHT)
        found = self._chords.get(chord_height)
        if found is None:
            if len(self._chords) == _HEIGHTS:
                self._chords.clear()
            found = self._chords[chord_height] = self._drawn(chord_height)
        return found

    def _drawn(self, chord_height: float) -> list[Chords]:
        count = len(self.controls)
        starts = [bounds[:-1] for bounds, _ in self.tables]
        which = np.repeat(np.arange(count), [len(one) for one in starts])
        begin, end = np.concatenate(starts), np.concatenate([bounds[1:] for bounds, _ in self.tables])
        parts: tuple[Any, ...] = (
            which,
            begin,
            end,
            self.places(which, begin),
            self.places(which, end),
            self.ways(which, begin),
            self.ways(which, end),
        )
        every = np.arange(count)
        # Where each curve ends, and then where each of its chords begins.
        last = np.ones(count)
        kept: list[tuple[Any, ...]] = [(every, last, self.places(every, last), self.ways(every, last))]
        number = np.bincount(which, minlength=count)
        whole = np.ones(count, dtype=bool)
        while True:
            which, begin, end, place, place_end, way, way_end = parts
            look_up(9 * len(which))
            middle = (begin + end) / 2
            met, between = self.places(which, middle), self.ways(which, middle)
            turns = angle_between(way, between) + angle_between(between, way_end)
            sizes = sum((np.sqrt(np.einsum("ij,ij->i", half, half)) for half in (met - place, place_end - met)), np.zeros(len(which)))
            heights = sizes / np.maximum(turns, ROUNDING) * (1 - np.cos(np.minimum(turns, math.pi) / 2))
            rough = ((turns > STEP) | (heights > chord_height)) & (sizes > WELD)
            more = np.bincount(which[rough], minlength=count)
            whole &= number + more <= MOST_PARTS
            rough &= whole[which]
            number += np.where(whole, more, 0)
            kept.append((which[~rough], begin[~rough], place[~rough], way[~rough]))
            if not rough.any():
                break
            parts = tuple(
                np.concatenate([first[rough], second[rough]])
                for first, second in (
                    (which, which), (begin, middle), (middle, end), (place, met), (met, place_end), (way, between), (between, way_end)
                )
            )  # fmt: skip
        which, begin, place, way = (np.concatenate(part) for part in zip(*kept, strict=True))
        order = np.lexsort((begin, which))
        which, begin, place, way = which[order], begin[order], place[order], way[order]
        cuts = np.cumsum(np.bincount(which, minlength=count))[:-1]
        distances = self._distances(which, begin)
        split = (np.split(part, cuts) for part in (distances, place, way))
        found = zip(*split, whole.tolist(), strict=True)
        return [Chords(along, points, directions, enough) for along, points, directions, enough in found]

    def _distances(self, which: Indices, t: Array) -> Array:
        """Return how far along the curves numbered ``which`` parameters are, mm."""
        counts = np.array([len(known) for known, _ in self.tables])
        known, places = (np.concatenate(part) for part in zip(*self.tables, strict=True))
        # All at once: parameters go from 0 to 1, so that those of one curve lie apart from those of the next.
        part = np.searchsorted(known + 2 * np.repeat(np.arange(len(counts)), counts), t + 2 * which, side="right") - 1
        last = np.cumsum(counts) - 2
        part = np.minimum(part, last[which])
        return np.asarray(places[part] + self.lengths(which, known[part], t))


@dataclass(frozen=True, kw_only=True)
class CubicSpan(ParametricSpan):
    """One of many cubic Bézier curves; what is the dearest to find of it is found for all of them at once."""

    together: CubicsTogether
    number: int

    @cached_property
    def _table(self) -> tuple[Array, Array]:
        return self.together.tables[self.number]

    @property
    def rise(self) -> float:
        controls = self.together.controls[self.number]
        return float(controls[3, 2] - controls[0, 2])

    def direction(self, last: bool) -> Array:
        return np.asarray(self.together.directions[self.number, 1 if last else 0])

    def chords(self, chord_height: float, reach: float) -> Chords:
        return super().chords(chord_height, reach) if reach else self.together.chords(chord_height)[self.number]


def cubic_spans(controls: Array, directions: Array) -> list[CubicSpan]:
    """Return the spans of cubic Bézier curves that stand still nowhere but at ends.

    Parameters
    ----------
    controls
        (n, 4, 3), mm.
    directions
        Their unit tangents at both ends, (n, 2, 3).
    """
    together = CubicsTogether(controls, directions)
    return [
        CubicSpan(_cubic(own), _ENDS, BSpline.construct_fast(_KNOTS, own, 3), directions=(way[0], way[1]), together=together, number=number)
        for number, (own, way) in enumerate(zip(controls, directions, strict=True))
    ]


def _cubic(controls: Array) -> Evaluation:
    sides = 3 * (controls[1:] - controls[:-1])
    bends = 2 * (sides[1:] - sides[:-1])

    def look(t: Array) -> tuple[Array, Array, Array]:
        look_up(9 * len(t))
        u = 1 - t
        uu, ut, tt = u * u, 2 * u * t, t * t
        points = np.array([uu * u, 1.5 * ut * u, 1.5 * ut * t, tt * t]).T @ controls
        return points, np.array([uu, ut, tt]).T @ sides, np.array([u, t]).T @ bends

    return look
