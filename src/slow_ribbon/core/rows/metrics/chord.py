"""Distance straight from item to item."""

from __future__ import annotations

from bisect import bisect_right
from functools import cached_property

import numpy as np
from scipy.optimize import brentq

from slow_ribbon.core.geometry.trace import Trace
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import NEARLY_WHOLE, NO_LENGTH, SAME_PLACE, SAME_SHARE
from slow_ribbon.core.rows.metrics.base import Metric, nodes_of


class Chord(Metric):
    """Straight from item to item: each next stands where a sphere about the last first meets the line again."""

    kind = "chord"
    words = "straight from item to item"

    #: What was stepped last, which is asked again when the places are laid.
    _known: tuple[tuple[float, float], Array] | None = None

    @cached_property
    def _nodes(self) -> Array:
        return nodes_of(self)

    @cached_property
    def _stops(self) -> list[float]:
        stops: list[float] = self._nodes.tolist()
        return stops

    @cached_property
    def _straights(self) -> list[bool]:
        """Tell of the parts between nodes which are straight."""
        lengths = np.diff(self._nodes)
        chords = np.linalg.norm(np.diff(self._points(self._nodes), axis=0), axis=1)
        straights: list[bool] = (np.abs(chords - lengths) < SAME_SHARE * np.maximum(1.0, lengths)).tolist()
        return straights

    @cached_property
    def _trace(self) -> Trace:
        return Trace(self._points, self._nodes)

    def _points(self, places: Array) -> Array:
        assert self.course is not None  # only a stretch of a line has chords
        return self.course.points_at(self.begin + self._turned(places))

    def _turned(self, places: Array) -> Array:
        """Return places as they are given to the line; a stretch gone backward counts from its end. Its very end is still its own."""
        return np.asarray(np.clip(places, 0.0, self.length))

    @cached_property
    def backward(self) -> Chord:
        """The same stretch gone the other way."""
        return _Backward(self.length, self.course, self.begin)

    def next_place(self, place: float, size: float) -> float | None:
        """Return the first place beyond one that lies a size away from it, straight; None where none does."""
        return self._trace.first_beyond(place, size, SAME_PLACE * 1e-3)

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
            look_up(4)
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
        at = min(bisect_right(self._stops, place + SAME_PLACE), len(self._stops) - 1)
        straight = self._stops[at] - place
        if straight > size and self._straights[at - 1]:
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
        if self.bays(high) >= bays - NEARLY_WHOLE:
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
        whole = self.apart(float(places[-1]), self.length) >= size * (1 - NEARLY_WHOLE)
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
        return self._stepped(float(brentq(off, 0.0, high, xtol=NO_LENGTH)) if off(high) < 0 < off(0.0) else 0.0, size)


class _Backward(Chord):
    """A stretch gone from its end to its beginning."""

    @cached_property
    def _nodes(self) -> Array:
        return np.asarray(self.length - nodes_of(self)[::-1])

    def _turned(self, places: Array) -> Array:
        return np.asarray(self.length - np.clip(places, 0.0, self.length))
