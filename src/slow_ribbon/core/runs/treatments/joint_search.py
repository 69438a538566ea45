"""A search for the best places of joints that must lie over supports or keep off from other joints.

Of all ways to go from the beginning of a piece to its end over places where a joint may be, by parts that are no longer than the longest
bar and no shorter than the least there may be, those of fewest parts are taken; of these the one with parts as equal as can be, or whose
first parts are as long as can be; or, of however many parts, the one that leaves the least of its bars. It is a shortest path through
places in order (dynamic programming: Bellman, 1957).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Final, Literal

import numpy as np

from slow_ribbon.core.kernel.arrays import Array, Indices
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import ROUNDING, SAME_PLACE

#: No more places are looked at where joints may come anywhere that is off from others.
_MOST: Final = 1500
#: A part counts for this much, mm, when it is asked which parts leave the least: of ways that leave as much that of fewest parts is taken.
_A_PART: Final = 1e-3


@dataclass(frozen=True, kw_only=True)
class Parts:
    """What parts of a piece may be: from which ``bars``, no shorter than ``least``, mm, and how joints are ``placed``.

    ``length`` is that on the line, between whose ends joints come; the first part begins ``before`` that and the last ends ``after`` it.
    The part before a joint is sawn ``here`` longer than to it, the one after it ``there``.
    """

    length: float
    before: float
    after: float
    here: float
    there: float
    bars: tuple[float, ...]
    least: float
    placed: Literal["equal", "full", "waste"]

    def sawn(self, begins: Array, ends: Array) -> Array:
        """Return how long parts are sawn from joints to joints (k,) each: zero and ``length`` for the ends of the piece."""
        first, last = begins <= 0, ends >= self.length
        return np.asarray(ends - begins + np.where(first, self.before, self.there) + np.where(last, self.after, self.here))


def chosen(parts: Parts, places: Sequence[float]) -> list[float] | None:
    """Return the best of some places, between zero and the length, for the joints of a piece; None where there is no way.

    >>> whole = Parts(length=9000, before=0, after=0, here=0, there=0, bars=(4200,), least=0, placed="full")
    >>> chosen(whole, [1000, 2500, 4000, 5500, 7000])
    [4000.0, 7000.0]
    """
    at = np.concatenate([[0.0], np.unique(np.asarray(places, dtype=float)), [parts.length]])
    begins, ends, sawn = _edges(parts, at)
    count = len(at)
    first = np.searchsorted(begins, np.arange(count + 1))
    far = np.iinfo(np.int64).max // 2
    left = np.full(count, far)
    left[-1] = 0
    for i in range(count - 2, -1, -1):
        if first[i] < first[i + 1]:
            left[i] = 1 + left[ends[first[i] : first[i + 1]]].min()
    if left[0] >= far:
        return None
    if parts.placed == "full":
        return _furthest(at, ends, first, left)
    fewest = int(left[0])
    if parts.placed == "equal":
        mean = (parts.length + parts.before + parts.after + (parts.here + parts.there) * (fewest - 1)) / fewest
        costs = (sawn - mean) ** 2
        # On a way of fewest parts each step comes one part nearer.
        good = left[begins] == left[ends] + 1
    else:
        bars = np.sort(parts.bars)
        costs = bars[np.minimum(np.searchsorted(bars, sawn - SAME_PLACE), len(bars) - 1)] - sawn + _A_PART
        good = left[ends] < far
    best, way = np.full(count, np.inf), np.zeros(count, dtype=np.int64)
    best[0] = 0.0
    for i in range(count - 1):
        look_up()
        if not np.isfinite(best[i]):
            continue
        some = np.flatnonzero(good[first[i] : first[i + 1]]) + first[i]
        over = best[i] + costs[some]
        better = some[over < best[ends[some]] - ROUNDING]
        best[ends[better]], way[ends[better]] = best[i] + costs[better], i
    found, node = [], count - 1
    while (node := int(way[node])) > 0:
        found.append(float(at[node]))
    return found[::-1]


def _edges(parts: Parts, at: Array) -> tuple[Indices, Indices, Array]:
    """Return the parts there may be between places (k,), in order: from which to which, and how long each is sawn."""
    longest, nodes = max(parts.bars), np.arange(len(at))
    # No part is sawn shorter than it is on the line by more than what its ends lack of that.
    reached = at + longest + SAME_PLACE - 2 * min(0.0, parts.before, parts.after)
    counts = np.maximum(np.searchsorted(at, reached, side="right") - nodes - 1, 0)
    begins = np.repeat(nodes, counts)
    ends = begins + 1 + np.arange(len(begins)) - np.repeat(np.cumsum(counts) - counts, counts)
    sawn = parts.sawn(at[begins], at[ends])
    good = (sawn <= longest + SAME_PLACE) & (sawn >= parts.least - SAME_PLACE) & (sawn > 0)
    return begins[good], ends[good], sawn[good]


def _furthest(at: Array, ends: Indices, first: Indices, left: Indices) -> list[float]:
    """Return the way whose parts, one after another, are as long as can be with no more of them than are needed."""
    found, node = list[float](), 0
    while left[node] > 1:
        some = ends[first[node] : first[node + 1]]
        node = int(some[left[some] == left[node] - 1].max())
        found.append(float(at[node]))
    return found


def anywhere(parts: Parts, usual: Sequence[float], off: Sequence[float], apart: float, clear: float) -> list[float]:
    """Return places where joints may come that are ``apart`` from others (``off``) and ``clear`` of the ends, mm: enough to choose from.

    They are the ``usual`` ones and those of some more equal parts, the nearest to either side of the others, and what is reached from all
    these by whole bars.
    """

    def free(place: float) -> bool:
        within = clear - SAME_PLACE <= place <= parts.length - clear + SAME_PLACE
        return within and all(abs(place - other) >= apart - SAME_PLACE for other in off)

    found: dict[float, None] = {}

    def take(places: Iterator[float]) -> list[float]:
        new = []
        for place in places:
            at = round(place, 9)
            if len(found) < _MOST and at not in found and 0 < at < parts.length:
                found[at] = None
                new.append(at)
        return new

    total = parts.length + parts.before + parts.after
    joint = parts.here + parts.there
    least = len(usual) + 1
    equal = (
        k * (total + joint * (n - 1)) / n - parts.before - parts.here - joint * (k - 1)
        for n in range(least, least + 4)
        for k in range(1, n)
    )
    beside = (other + side * apart for other in off for side in (-1.0, 1.0))
    ends = (place for bar in parts.bars for place in (bar - parts.before - parts.here, parts.length + parts.after + parts.there - bar))
    new = take(iter([*usual, *equal, *beside, *ends, clear, parts.length - clear]))
    while new:
        look_up()
        steps = [bar - joint for bar in parts.bars if bar > joint]
        new = take(place + side * step for place in new if free(place) for step in steps for side in (1.0, -1.0))
    return sorted(place for place in found if free(place))
