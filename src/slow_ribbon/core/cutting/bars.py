"""How many bars pieces are sawn from: a first count, without a plan of which piece comes from which bar."""

from __future__ import annotations

from bisect import bisect_left, insort
from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from operator import itemgetter

from slow_ribbon.core.kernel.tolerances import SAME_PLACE


@dataclass(frozen=True)
class BarCount:
    """Bars by their length, mm, the longest first: how many of each; ``too_long``: pieces that no bar is long enough for."""

    bars: Mapping[float, int]
    too_long: int = 0


def bars_needed(sawn: Iterable[tuple[float, int]], bars: Iterable[float], kerf: float = 0.0) -> BarCount:
    """Return how many bars pieces are sawn from, each piece from the fullest bar that has room for it, the longest first.

    Bars are opened at the greatest length, and each is then given the shortest that holds its pieces. It is a first count: no more than
    11/9 of the least number, and 6/9, where bars are of one length (best-fit decreasing has the bound of first-fit decreasing: D. S.
    Johnson and others, SIAM Journal on Computing 3, 1974; G. Dósa, ESCAPE 2007).

    Parameters
    ----------
    sawn
        Lengths that pieces are sawn to, mm, each with the number of pieces.
    bars
        Lengths of bars that there are, mm.
    kerf
        What a saw cut takes between two pieces, mm.

    >>> bars_needed([(2100, 3), (900, 1)], [4200, 3000])
    BarCount(bars={4200: 1, 3000: 1}, too_long=0)
    """
    lengths = sorted(set(bars))
    longest, too_long = lengths[-1], 0
    #: What is left of each open bar after a cut, the least first.
    left: list[float] = []
    for length, number in sorted(sawn, key=itemgetter(0), reverse=True):
        if length > longest + SAME_PLACE:
            too_long += number
            continue
        for _ in range(number):
            at = bisect_left(left, length - SAME_PLACE)
            insort(left, (left.pop(at) if at < len(left) else longest) - length - kerf)
    counted: Counter[float] = Counter()
    for room in left:
        # The last piece may end where the bar does: no cut is made after it.
        holds = longest - room - kerf
        counted[next(bar for bar in lengths if bar >= holds - SAME_PLACE * 10)] += 1
    return BarCount({bar: counted[bar] for bar in reversed(lengths) if counted[bar]}, too_long)
