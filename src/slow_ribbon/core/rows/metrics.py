"""How distance along a stretch is measured: along the line, on plan, or straight from item to item.

Terms
-----
stretch
    a length along a line that items are set out on: a whole line, or a line from corner to corner.
place
    a distance along the line from the beginning of a stretch, mm, however distance is measured.
size
    a distance measured as the metric measures.
bays
    how many sizes a stretch holds, the last of them in part: a real number that falls as the size grows.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Callable
from functools import cached_property
from typing import ClassVar, Final

import numpy as np
from scipy.optimize import brentq

from slow_ribbon.core.geometry.curves import gauss
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import Course

#: Lets 2400 / 600 be four bays although it is 4.0000000000000001 in floating point.
NUDGE: Final = 1e-9
#: Lengths that differ by less, mm, are the same.
SHORT: Final = 1e-6
#: Nodes of a line that a chord is looked for among at a time.
_BLOCK: Final = 256


class Metric(ABC):
    """A stretch from chainage ``begin`` on, ``length`` mm along the line, as a way of measuring sees it."""

    kind: ClassVar[str]
    words: ClassVar[str]

    def __init__(self, length: float, course: Course | None = None, begin: float = 0.0) -> None:
        self.length = length
        self.course = course
        self.begin = begin

    def part(self, low: float, high: float) -> Metric:
        """Return the part of the stretch between two places."""
        return type(self)(max(0.0, high - low), self.course, self.begin + low)

    @property
    @abstractmethod
    def size(self) -> float:
        """How long the stretch is, measured so."""

    @abstractmethod
    def bays(self, size: float) -> float:
        """Return how many bays of a size the stretch holds, the last in part."""

    def at_most(self, size: float) -> float:
        """Return a number of bays that the stretch surely does not exceed, at no cost."""
        return self.length / size

    @abstractmethod
    def evenly(self, bays: int) -> float:
        """Return the size of a number of equal bays that fill the stretch."""

    @abstractmethod
    def laid(self, first: float, size: float, count: int) -> Array:
        """Return places (count,): the first at a distance from the beginning, each other a size further on."""

    @abstractmethod
    def laid_back(self, first: float, size: float, count: int) -> Array:
        """Return places (count,), in order: the last at a distance from the end, each other a size nearer the beginning."""

    @abstractmethod
    def apart(self, low: float, high: float) -> float:
        """Return the distance from one place to another, further on; with a minus where it lies back."""

    def forth(self, size: float) -> Array:
        """Return places a size apart from the beginning on, as many as there is room for."""
        return self.laid(0.0, size, math.floor(self.bays(size) + NUDGE) + 1)

    def back(self, size: float) -> Array:
        """Return places, in order, a size apart from the end back, as many as there is room for."""
        return self.laid_back(0.0, size, math.floor(self.bays(size) + NUDGE) + 1)

    def centred(self, size: float) -> Array:
        """Return places a size apart, as many as there is room for, with as much left over at both ends."""
        bays = self.bays(size)
        count = math.floor(bays + NUDGE) + 1
        return self.laid(max(0.0, (bays - (count - 1)) * size / 2), size, count)

    def settled(self, off: Callable[[float], float], guess: float) -> float:
        """Return where ``off`` is nought, from a guess that is right wherever distances add up."""
        here = off(guess)
        if abs(here) < NUDGE:
            return guess
        step = max(abs(here), 1e-3)
        for _ in range(60):
            other = guess + step if off(guess + step) * here <= 0 else guess - step
            if off(other) * here <= 0:
                return float(brentq(off, min(guess, other), max(guess, other), xtol=1e-9))
            step *= 2
        return guess


class AlongLine(Metric):
    """Along the line, round its corners and curves."""

    kind = "along"
    words = "along the line"

    @property
    def size(self) -> float:
        return self.length

    def bays(self, size: float) -> float:
        return self.length / size

    def evenly(self, bays: int) -> float:
        return self.length / bays

    def laid(self, first: float, size: float, count: int) -> Array:
        return first + np.arange(count, dtype=np.float64) * size

    def laid_back(self, first: float, size: float, count: int) -> Array:
        return self.length - first - np.arange(count, dtype=np.float64)[::-1] * size

    def apart(self, low: float, high: float) -> float:
        return high - low


class OnPlan(Metric):
    """On plan: as a tape held level, or a drawing, shows it."""

    kind = "plan"
    words = "on plan"

    @cached_property
    def _table(self) -> tuple[Array, Array]:
        """Return nodes of the line, as places, and their distances on plan from the beginning."""
        nodes = _nodes(self)
        sizes = self._between(nodes[:-1], nodes[1:])
        distances = np.concatenate([[0.0], np.cumsum(sizes)])
        if distances[-1] <= WELD < self.length:
            what = "The line is upright here: it has no length on plan to set items out by. Measure along the line instead."
            raise Refused(what, "spacing.measured", "upright")
        return nodes, distances

    def _between(self, low: Array, high: Array) -> Array:
        """Return the lengths on plan (n,) between places near one another: the integral of the tangent's level part."""
        look_up(9 * len(low))
        shares, weights = gauss(np.array([0.0, 1.0]))
        sizes = high - low
        level = self._level((low[:, None] + sizes[:, None] * shares).ravel())
        return np.asarray(sizes * (level.reshape(len(low), -1) @ weights))

    def _level(self, places: Array) -> Array:
        """Return the level parts of the unit tangents at places (n,)."""
        assert self.course is not None  # only a stretch of a line is measured on plan
        tangents = self.course.at(self.begin + places).tangents
        return np.asarray(np.hypot(tangents[:, 0], tangents[:, 1]))

    def _places(self, distances: Array) -> Array:
        """Return the places at distances on plan (n,) from the beginning."""
        nodes, known = self._table
        part = np.clip(np.searchsorted(known, distances, side="right") - 1, 0, len(nodes) - 2)
        wide = known[part + 1] - known[part]
        share = np.where(wide > 0, (distances - known[part]) / np.where(wide > 0, wide, 1.0), 0.0)
        places = nodes[part] + share * (nodes[part + 1] - nodes[part])
        if self.course is not None and self.course.paths:
            # Where the pitch changes along a curve, Newton's method on the same quadrature.
            for _ in range(20):
                off = self._between(nodes[part], places) - (distances - known[part])
                places = places - off / np.maximum(self._level(places), 1e-6)
                if np.abs(off).max(initial=0.0) < 1e-10:
                    break
        return places

    @property
    def size(self) -> float:
        return float(self._table[1][-1])

    def bays(self, size: float) -> float:
        return self.size / size

    def evenly(self, bays: int) -> float:
        return self.size / bays

    def laid(self, first: float, size: float, count: int) -> Array:
        return self._places(first + np.arange(count, dtype=np.float64) * size)

    def laid_back(self, first: float, size: float, count: int) -> Array:
        return self._places(self.size - first - np.arange(count, dtype=np.float64)[::-1] * size)

    def apart(self, low: float, high: float) -> float:
        nodes, known = self._table
        ends = []
        for place in (low, high):
            i = int(np.clip(np.searchsorted(nodes, place, side="right") - 1, 0, len(nodes) - 2))
            ends.append(float(known[i]) + float(self._between(nodes[i : i + 1], np.array([place]))[0]))
        return ends[1] - ends[0]


class Chord(Metric):
    """Straight from item to item: each next stands where a sphere about the last first meets the line again."""

    kind = "chord"
    words = "straight from item to item"

    #: What was stepped last, which is asked again when the places are laid.
    _known: tuple[tuple[float, float], Array] | None = None

    @cached_property
    def _nodes(self) -> tuple[Array, Array]:
        nodes = _nodes(self)
        return nodes, self._points(nodes)

    def _points(self, places: Array) -> Array:
        assert self.course is not None  # only a stretch of a line has chords
        return self.course.points_at(self.begin + self._turned(places))

    def _turned(self, places: Array) -> Array:
        """Return places as they are told to the line; a stretch gone backward counts from its end. Its very end is still its own."""
        return np.asarray(np.clip(places, 0.0, self.length))

    @cached_property
    def backward(self) -> Chord:
        """The same stretch gone the other way."""
        return _Backward(self.length, self.course, self.begin)

    def next_place(self, place: float, size: float) -> float | None:
        """Return the first place beyond one that lies a size away from it, straight; nothing where none does."""
        nodes, points = self._nodes
        here = self._points(np.array([place]))[0]
        at = int(np.searchsorted(nodes, place + SHORT * 1e-3, side="right"))
        while at < len(nodes):
            block = points[at : at + _BLOCK] - here
            far = np.flatnonzero(np.einsum("ij,ij->i", block, block) >= (size - SHORT * 1e-3) ** 2)
            if len(far):
                number = at + int(far[0])
                return self._crossing(max(place, float(nodes[number - 1])), float(nodes[number]), here, size)
            at += _BLOCK
        return None

    def _crossing(self, low: float, high: float, here: Array, size: float) -> float:
        def off(place: float) -> float:
            away = self._points(np.array([place]))[0] - here
            return math.sqrt(float(away @ away)) - size

        if off(high) <= 0:
            return high
        return float(brentq(off, low, high, xtol=1e-10))

    def _stepped(self, first: float, size: float, most: int | None = None) -> Array:
        """Return places a size apart from the one at a distance ``first`` from the beginning on, until the end or ``most`` of them."""
        key = (first, size)
        if most is None and self._known is not None and key == self._known[0]:
            return self._known[1]
        begin = 0.0 if first <= 0 else self.next_place(0.0, first)
        if begin is None:
            return np.zeros(0)
        found, place = [begin], begin
        while most is None or len(found) < most:
            look_up(40)
            after = self._many(place, size, found, most)
            if after is None:
                break
            place = after
        places = np.array(found)
        if most is None:
            self._known = (key, places)
        return places

    def _many(self, place: float, size: float, found: list[float], most: int | None) -> float | None:
        """Add the next place to those found, or all those on the same straight at once; return the last."""
        nodes, points = self._nodes
        at = min(int(np.searchsorted(nodes, place + SHORT, side="right")), len(nodes) - 1)
        here = self._points(np.array([place]))[0]
        straight = float(nodes[at]) - place
        if straight > size and abs(float(np.linalg.norm(points[at] - here)) - straight) < 1e-9 * max(1.0, straight):
            count = int(straight / size)
            if most is not None:
                count = min(count, most - len(found))
            found.extend((place + size * np.arange(1, count + 1)).tolist())
            return found[-1]
        after = self.next_place(place, size)
        if after is not None:
            found.append(after)
        return after

    @property
    def size(self) -> float:
        """The length along the line: chords of no particular size have no length of their own."""
        return self.length

    def bays(self, size: float) -> float:
        places = self._stepped(0.0, size)
        return len(places) - 1 + self.apart(float(places[-1]), self.length) / size

    def evenly(self, bays: int) -> float:
        high = self.length / bays
        low = high / 2
        while self.bays(low) < bays:
            low /= 2
        if self.bays(high) >= bays - NUDGE:
            return high
        return float(brentq(lambda size: self.bays(size) - bays, low, high, xtol=1e-11, rtol=1e-14))

    def laid(self, first: float, size: float, count: int) -> Array:
        places = self._stepped(first, size, count)
        # Those that the stretch has no room for lie beyond its end, as far as they would along a straight.
        return np.append(places, self.length + size * np.arange(1, count - len(places) + 1))

    def laid_back(self, first: float, size: float, count: int) -> Array:
        return self.length - self.backward.laid(first, size, count)[::-1]

    def apart(self, low: float, high: float) -> float:
        if low > self.length:
            return high - low
        ends = self._points(np.array([low, high]))
        return float(np.linalg.norm(ends[1] - ends[0])) * (1 if high >= low else -1)

    def forth(self, size: float) -> Array:
        places = self._stepped(0.0, size)
        # A last bay that lacks only the rounding of a size is a whole one.
        whole = self.apart(float(places[-1]), self.length) >= size * (1 - NUDGE)
        return np.append(places, self.length) if whole else places

    def back(self, size: float) -> Array:
        # Gone the other way round corners there may be room for one more, or for one fewer.
        return self.length - self.backward.forth(size)[::-1]

    def centred(self, size: float) -> Array:
        """Return places a size apart with as much left over at both ends; where corners allow no such, with as even ends as can be."""

        def off(begin: float) -> float:
            places = self._stepped(begin, size)
            return self.apart(float(places[-1]), self.length) - begin if len(places) else -begin

        high = next((share * size for share in np.linspace(0, 1, 33)[1:].tolist() if off(share * size) < 0), size)
        low = 0.0
        for _ in range(60):
            middle = (low + high) / 2
            low, high = (low, middle) if off(middle) < 0 else (middle, high)
        return self._stepped(low, size)


class _Backward(Chord):
    """A stretch gone from its end to its beginning."""

    @cached_property
    def _nodes(self) -> tuple[Array, Array]:
        nodes = self.length - _nodes(self)[::-1]
        return nodes, self._points(nodes)

    def _turned(self, places: Array) -> Array:
        return np.asarray(self.length - np.clip(places, 0.0, self.length))


def _nodes(stretch: Metric) -> Array:
    """Return places, both ends of a stretch included, between which its line is straight or nearly so."""
    course = stretch.course
    assert course is not None  # only a stretch of a line has nodes
    chainages = course.flattened(0.05)[0]
    turns = (-course.length, 0.0, course.length) if course.closed else (0.0,)
    places = np.concatenate([chainages + turn - stretch.begin for turn in turns])
    inside = places[(places > SHORT) & (places < stretch.length - SHORT)]
    nodes = np.unique(np.concatenate([[0.0], inside, [stretch.length]]))
    return np.asarray(nodes[np.concatenate([[True], np.diff(nodes) > SHORT * 1e-3])])


#: Every way of measuring, by its kind.
METRICS: Final[dict[str, type[Metric]]] = {metric.kind: metric for metric in (AlongLine, OnPlan, Chord)}
