"""Joining loose edges end to end into lines.

Terms
-----
junction
    a node where three or more edges meet. An edge goes on there into the one that goes on
    straightest, if any goes on within 30°; of what is left, two level edges go on into one
    another where the others rise. Else lines end there. Another way can be chosen.
chain
    edges joined end to end; or a loop.

Edges, nodes, free ends and gaps are those of ``net``.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from slow_ribbon.core.faults import Refused
from slow_ribbon.core.net import Loose, Net, close_gaps, drop_drawn_again, drop_made_nothing, ends_apart, net_of
from slow_ribbon.core.shape import Array
from slow_ribbon.core.simpler import straightened, stray
from slow_ribbon.core.told import figure

#: Points of a drawing that stray less than this from a straight, mm, are its drafting noise.
NOISE = 0.1
#: An edge goes on at a junction into one that turns less than this, radians.
GOES_ON = math.radians(30)
#: A direction that rises by less than this for each mm is level.
LEVEL = 1e-3
#: More ways than this from one junction are a star, where nothing goes on.
MOST_WAYS = 12

Report = Callable[[float], None]


@dataclass(frozen=True)
class Chain:
    """A line found: the edges it was made from, in order, and which of them are gone forward.

    ``points`` (n, 3) are its corners, without points on straights, where all its edges are
    straight; where some are bent, the nodes it goes through.
    """

    points: Array
    closed: bool
    edges: tuple[int, ...]
    forward: tuple[bool, ...]
    bent: bool


@dataclass(frozen=True)
class Junction:
    """A place where three or more edges meet: the directions ``ways`` (w, 3) leave in, and which go on into which."""

    place: Array
    ways: Array
    edges: tuple[int, ...]
    pairs: tuple[tuple[int, int], ...]


@dataclass(frozen=True)
class Joined:
    """What joining found. ``gaps`` (g,) are the gaps closed, mm, at ``gap_places`` (g, 3).

    ``overlaps`` counts edges that lay partly over others, ``apart`` free ends that meet another
    on plan but lie at another height.
    """

    chains: tuple[Chain, ...]
    doubled: int
    tiny: int
    dropped_points: int
    junctions: tuple[Junction, ...]
    gaps: Array
    gap_places: Array
    overlaps: int = 0
    apart: int = 0


def join(
    loose: Loose,
    tolerance: float = 1.0,
    ways: Mapping[int, Sequence[tuple[int, int]]] | None = None,
    report: Report | None = None,
) -> Joined:
    """Return the lines that loose edges make.

    tolerance: the widest gap to close, 0.01 to 50 mm. ways: for junctions by number, which ways
    go on into which; the straightest otherwise. report: is told the share done, and may raise to
    stop. Doubled edges, whichever way round, count once, and so do stretches of straights that
    lie over one another. Points on straights are dropped. Time grows as n log n. Raises
    ``Refused`` for a tolerance out of range or points that are not numbers.
    """
    if not 0.01 <= tolerance <= 50:
        raise Refused(
            f"The join tolerance is {figure(tolerance, 3)}; it must be from {figure(0.01, 2)} to {figure(50)}.", "tolerance", "tolerance"
        )
    if not (np.isfinite(loose.begins).all() and np.isfinite(loose.ends).all()):
        raise Refused("Some edges have coordinates that are not numbers.", "edges", "not-finite")
    tell = report or (lambda share: None)
    if len(loose.begins) == 0:
        return Joined((), 0, 0, 0, (), np.zeros(0), np.zeros((0, 3)))
    tell(0.0)
    net, doubled, tiny, overlaps = net_of(loose)
    tell(0.25)
    doubled += drop_drawn_again(net, tolerance)
    gaps, gap_places = close_gaps(net, tolerance)
    again, nothing = drop_made_nothing(net, tolerance)
    doubled, tiny = doubled + again, tiny + nothing
    apart = ends_apart(net, tolerance)
    tell(0.5)
    links, junctions = _links(net, ways or {})
    chains, dropped = _chains(net, links, min(tolerance, NOISE), tell)
    return Joined(tuple(chains), doubled, tiny, dropped, tuple(junctions), gaps, gap_places, overlaps, apart)


def _links(net: Net, ways: Mapping[int, Sequence[tuple[int, int]]]) -> tuple[list[int], list[Junction]]:
    """Return for every edge end (begin i, end n + i) the edge end it goes on into, or −1; and the junctions."""
    count = len(net.first)
    nodes = np.concatenate([net.first, net.second])
    order = np.argsort(nodes, kind="stable")
    sizes = net.degree[net.degree > 0]
    low = np.concatenate([[0], np.cumsum(sizes)[:-1]]).astype(np.int64)
    links = np.full(2 * count, -1, dtype=np.int64)
    two = low[sizes == 2]
    links[order[two]], links[order[two + 1]] = order[two + 1], order[two]
    junctions: list[Junction] = []
    for begin, size in zip(low[sizes > 2].tolist(), sizes[sizes > 2].tolist(), strict=True):
        ends = order[begin : begin + size]
        directions = net.leaving[ends % count, ends // count]
        chosen = ways.get(len(junctions))
        pairs = _straightest(directions) if chosen is None else [pair for pair in chosen if max(pair) < size and pair[0] != pair[1]]
        for i, j in pairs:
            links[ends[i]], links[ends[j]] = ends[j], ends[i]
        edges = tuple(int(net.numbers[end % count]) for end in ends)
        junctions.append(Junction(net.places[nodes[ends[0]]], directions, edges, tuple(pairs)))
    return links.tolist(), junctions


def _straightest(directions: Array) -> list[tuple[int, int]]:
    """Return which ways at a junction go on into which: the straightest first, none that turn more than 30°."""
    count = len(directions)
    if count > MOST_WAYS:
        return []
    along = directions @ directions.T
    pairs = sorted((float(along[i, j]), i, j) for i in range(count) for j in range(i))
    taken: set[int] = set()
    found = []
    for cosine, i, j in pairs:
        if cosine > -math.cos(GOES_ON):
            break
        if not taken & {i, j}:
            taken |= {i, j}
            found.append((j, i))
    # Round the rim of a solid the level edges go on into one another, and the upright one ends there.
    left = [i for i in range(count) if i not in taken]
    level = [i for i in left if abs(float(directions[i, 2])) < LEVEL]
    if len(level) == 2 and len(left) > 2:
        found.append((level[0], level[1]))
    return found


def _chains(net: Net, links: list[int], limit: float, tell: Report) -> tuple[list[Chain], int]:
    """Return the chains, in order of their first edges, and how many points on straights were dropped."""
    count = len(net.first)
    first, second = net.first.tolist(), net.second.tolist()
    ends = first + second
    used = [False] * count

    def follow(end: int) -> tuple[list[int], bool]:
        """Return the edge ends left by, going on from an edge end until nothing goes on; and whether that was all the way round."""
        met: list[int] = []
        start = end
        while True:
            on = links[end]
            if on < 0:
                return met, False
            if used[on % count]:
                return met, on % count == start % count or (bool(met) and on % count == met[0] % count)
            used[on % count] = True
            end = on + count if on < count else on - count
            met.append(end)

    walks: list[tuple[list[int], list[int], bool]] = []
    step = max(1, count // 20)
    for edge in range(count):
        if edge % step == 0:
            tell(0.5 + 0.35 * edge / count)
        if used[edge]:
            continue
        used[edge] = True
        ahead, around = follow(edge + count)
        if around:
            walk = [edge + count, *ahead]
            nodes = [first[edge], *(ends[end] for end in walk[:-1])]
            walks.append((nodes, walk, True))
            continue
        back, _ = follow(edge)
        # Gone the other way, an edge is left by its other end.
        walk = [*(end + count if end < count else end - count for end in reversed(back)), edge + count, *ahead]
        nodes = [ends[back[-1]] if back else first[edge], *(ends[end] for end in walk)]
        # A chain from a junction back to the same junction is a loop too.
        if nodes[0] == nodes[-1] and len(walk) > 1:
            walks.append((nodes[:-1], walk, True))
        else:
            walks.append((nodes, walk, False))
    tell(0.85)
    chains = _tidied(net, walks, limit, count)
    tell(0.98)
    dropped = sum(len(nodes) for nodes, _, _ in walks) - sum(len(chain.points) for chain in chains)
    chains.sort(key=lambda chain: min(chain.edges))
    return chains, dropped


def _tidied(net: Net, walks: list[tuple[list[int], list[int], bool]], limit: float, count: int) -> list[Chain]:
    """Return chains of walks, without points on straights."""
    sizes = np.array([len(nodes) for nodes, _, _ in walks])
    low = np.concatenate([[0], np.cumsum(sizes)])
    points = net.places[np.array([node for nodes, _, _ in walks for node in nodes], dtype=np.int64)]
    before, after = np.arange(len(points)) - 1, np.arange(len(points)) + 1
    before[low[:-1]], after[low[1:] - 1] = low[1:] - 1, low[:-1]
    doubtful = stray(points, points[before], points[after]) <= limit
    open_ends = np.array([not closed for _, _, closed in walks])
    doubtful[low[:-1][open_ends]] = doubtful[low[1:][open_ends] - 1] = False
    some = np.add.reduceat(doubtful, low[:-1]) > 0 if len(walks) else np.zeros(0, dtype=bool)
    bends = net.bent.any()
    bent_list, numbers = net.bent.tolist(), net.numbers.tolist()
    found = []
    for index, (_, walk, closed) in enumerate(walks):
        own = points[low[index] : low[index + 1]]
        bent = bool(bends) and any(bent_list[end % count] for end in walk)
        if not bent:
            if closed and len(own) < 3:
                own, closed = np.vstack([own, own[:1]])[: max(2, len(own))], False
            if some[index]:
                own = straightened(own, closed, limit)
        edges = tuple(numbers[end % count] for end in walk)
        # Left by its end, an edge is gone forward.
        found.append(Chain(own, closed, edges, tuple(end >= count for end in walk), bent))
    return found
