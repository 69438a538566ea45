"""Which side of a line a room lies on that the line bounds together with others."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import combinations, permutations, product
from typing import Final

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.model import Line

#: How finely lines are looked at, mm.
_FINE: Final = 50.0
#: A boundary whose area is a smaller share of its length squared encloses no room.
_FLAT_ROOM: Final = 1e-3
#: So many lines are put together in all ways there are.
_FEW: Final = 6

#: Lines put end to end: which, and whether as it runs.
Boundary = list[tuple[int, bool]]


def room_is_right(line: Line, others: Sequence[Line]) -> bool:
    """Return whether the room that a line bounds lies to the right of its travel, on plan.

    A closed line bounds a room by itself. Open ones are put end to end whatever way each runs, over doors and other gaps
    between them: in that way with the least gaps in which the boundary does not cross itself. Raises
    ``Refused`` where that encloses no room, or always crosses itself.
    """
    if line.closed:
        return not _anticlockwise(_on_plan(line), line.name)
    ways = [_on_plan(one) for one in (line, *others)]
    loops = _all_ways(ways) if len(ways) <= _FEW else [_nearest_first(ways)]
    for loop in loops:
        boundary = np.concatenate([ways[i] if forward else ways[i][::-1] for i, forward in loop])
        if shapely.LinearRing(boundary).is_simple if len(boundary) > 2 else False:
            break
    else:
        loop = loops[0]
        boundary = np.concatenate([ways[i] if forward else ways[i][::-1] for i, forward in loop])
    return _anticlockwise(boundary, line.name) != dict(loop)[0]


def _all_ways(ways: Sequence[Array]) -> list[Boundary]:
    """Return all ways of putting lines (n, 2) end to end and round again, beginning with the first as it runs; least gaps first."""
    loops: list[Boundary] = [
        [(0, True), *zip(order, forwards, strict=True)]
        for order in permutations(range(1, len(ways)))
        for forwards in product((True, False), repeat=len(ways) - 1)
    ]

    def gaps(loop: Boundary) -> float:
        ends = [(ways[i][0], ways[i][-1]) if forward else (ways[i][-1], ways[i][0]) for i, forward in loop]
        return sum(math.dist(ends[k - 1][1], ends[k][0]) for k in range(len(ends)))

    return sorted(loops, key=gaps)


def _nearest_first(ways: Sequence[Array]) -> Boundary:
    """Return many lines put end to end: always the two ends next that are nearest to one another."""
    chains: list[Boundary] = [[(i, True)] for i in range(len(ways))]
    ends = {(i, last): way[-1 if last else 0] for i, way in enumerate(ways) for last in (False, True)}
    for a, b in sorted(combinations(ends, 2), key=lambda pair: math.dist(ends[pair[0]], ends[pair[1]])):
        first, second = (next((chain for chain in chains if end in (_arrives(chain), _leaves(chain))), None) for end in (a, b))
        if first is None or second is None or first is second:
            continue
        chains.remove(first)
        chains.remove(second)
        # The first goes to where they meet, the second from there.
        head = first if _leaves(first) == a else _turned(first)
        tail = second if _arrives(second) == b else _turned(second)
        chains.append([*head, *tail])
    return chains[0]


def _on_plan(line: Line) -> Array:
    course = course_of(line)
    parts = [course.starts[:1]]
    for i in range(course.count):
        path = course.paths.get(i)
        parts.append(course.ends[i : i + 1] if path is None else path.at(path.flattened(_FINE)).points[1:])
    return np.asarray(np.concatenate(parts)[:, :2])


def _arrives(chain: Boundary) -> tuple[int, bool]:
    """Return the end (line, whether its last) that a chain begins at."""
    i, forward = chain[0]
    return i, not forward


def _leaves(chain: Boundary) -> tuple[int, bool]:
    """Return the end that a chain ends at."""
    i, forward = chain[-1]
    return i, forward


def _turned(chain: Boundary) -> Boundary:
    return [(i, not forward) for i, forward in reversed(chain)]


def _anticlockwise(boundary: Array, name: str) -> bool:
    ring = shapely.LinearRing(boundary) if len(boundary) > 2 else None
    if ring is None or shapely.Polygon(ring).area < _FLAT_ROOM * ring.length**2:
        raise Refused(
            f"{name} does not enclose a room by itself: select the other lines of its room too, or choose a side.", "facing", "no-room"
        )
    if not ring.is_simple:
        raise Refused(
            f"{name} and the lines selected with it do not enclose one room: put end to end they cross one another. "
            "Select fewer, or choose a side.",
            "facing",
            "no-room",
        )
    return bool(ring.is_ccw)
