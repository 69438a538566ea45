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
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from slow_ribbon.core.geometry.edge_graph import (
    Loose,
    Net,
    close_gaps,
    drop_drawn_again,
    drop_made_nothing,
    drop_slivers,
    ends_apart,
    net_of,
)
from slow_ribbon.core.geometry.polylines import straightened, stray
from slow_ribbon.core.kernel.arrays import Array, Flags, Indices
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import figure

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
class JoinedEdges:
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
) -> JoinedEdges:
    """Return the lines that loose edges make.

    tolerance: the widest gap to close, 0.01 to 50 mm. ways: for junctions by number, which ways
    go on into which; the straightest otherwise. report: is given the share done, and may raise to
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
        return JoinedEdges(chains=(), doubled=0, tiny=0, dropped_points=0, junctions=(), gaps=np.zeros(0), gap_places=np.zeros((0, 3)))
    tell(0.0)
    net, doubled, tiny, overlaps = net_of(loose)
    tell(0.25)
    drop_slivers(net, tolerance)
    doubled += drop_drawn_again(net, tolerance)
    gaps, gap_places = close_gaps(net, tolerance)
    again, nothing = drop_made_nothing(net, tolerance)
    doubled, tiny = doubled + again, tiny + nothing
    apart = ends_apart(net, tolerance)
    tell(0.5)
    links, junctions = _links(net, ways or {})
    chains, dropped = _chains(net, links, min(tolerance, NOISE), tell)
    return JoinedEdges(
        chains=tuple(chains),
        doubled=doubled,
        tiny=tiny,
        dropped_points=dropped,
        junctions=tuple(junctions),
        gaps=gaps,
        gap_places=gap_places,
        overlaps=overlaps,
        apart=apart,
    )


def _links(net: Net, ways: Mapping[int, Sequence[tuple[int, int]]]) -> tuple[Indices, list[Junction]]:
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
    # Junctions are numbered from west to east.
    many = np.flatnonzero(sizes > 2)
    many = many[np.lexsort(net.places[nodes[order[low[many]]]].T[::-1])]
    for begin, size in zip(low[many].tolist(), sizes[many].tolist(), strict=True):
        ends = order[begin : begin + size]
        directions = net.leaving[ends % count, ends // count]
        chosen = ways.get(len(junctions))
        pairs = _straightest(directions) if chosen is None else _once(chosen, size)
        for i, j in pairs:
            links[ends[i]], links[ends[j]] = ends[j], ends[i]
        edges = tuple(int(net.numbers[end % count]) for end in ends)
        junctions.append(Junction(net.places[nodes[ends[0]]], directions, edges, tuple(pairs)))
    return links, junctions


def _once(chosen: Sequence[tuple[int, int]], size: int) -> list[tuple[int, int]]:
    """Return the ways chosen at a junction of ``size``, each of which goes on into one other at most."""
    taken: set[int] = set()
    found = []
    for i, j in chosen:
        if max(i, j) < size and i != j and not taken & {i, j}:
            taken |= {i, j}
            found.append((i, j))
    return found


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


@dataclass(frozen=True)
class _Walks:
    """Chains as they are gone, one after another.

    ends (e,): the edge ends left by, those of chain i from ``low[i]`` to ``low[i + 1]``; ``nodes`` are those gone
    through, from ``at[i]`` to ``at[i + 1]``; ``closed`` (c,) says which come back to their beginning.
    """

    ends: Indices
    low: Indices
    nodes: Indices
    at: Indices
    closed: Flags


def _walks(net: Net, links: Indices) -> _Walks:
    """Return the chains that links make, each so that its edge with the least number is gone forward.

    All at once: an edge that is left by one of its ends is followed by at most one other, so that edge ends
    make paths and loops, each twice, there and back.
    """
    count = len(net.first)
    if not count:
        nothing = np.zeros(0, dtype=np.int64)
        return _Walks(nothing, np.zeros(1, dtype=np.int64), nothing, np.zeros(1, dtype=np.int64), np.zeros(0, dtype=bool))
    goes_on = np.flatnonzero(links >= 0)
    # An edge entered by one end is left by the other.
    after = np.full(2 * count, -1, dtype=np.int64)
    after[goes_on] = (links[goes_on] + count) % (2 * count)
    graph = coo_array((np.ones(len(goes_on), dtype=bool), (goes_on, after[goes_on])), shape=(2 * count, 2 * count))
    number, orbit = connected_components(graph, directed=False)
    edge = np.arange(2 * count) % count
    least = np.full(number, count)
    np.minimum.at(least, orbit, edge)
    # Of there and back the one is gone on which the least edge is left by its end.
    starts = np.flatnonzero(least[orbit[count:]] == np.arange(count)) + count
    chain_of = np.full(number, -1, dtype=np.int64)
    chain_of[orbit[starts]] = np.arange(len(starts))
    gone = np.flatnonzero(chain_of[orbit] >= 0)
    place = np.full(2 * count, -1, dtype=np.int64)
    place[gone] = np.arange(len(gone))
    before = np.full(len(gone), -1, dtype=np.int64)
    has_after = np.flatnonzero(after[gone] >= 0)
    before[place[after[gone[has_after]]]] = has_after
    chain = chain_of[orbit[gone]]
    heads = before < 0
    round_about = np.ones(len(starts), dtype=bool)
    round_about[chain[heads]] = False
    # A loop begins with its least edge.
    before[place[starts[round_about]]] = -1
    rank = _ranks(before)
    order = np.lexsort((rank, chain))
    ends, sizes = gone[order], np.bincount(chain, minlength=len(starts))
    low = np.concatenate([[0], np.cumsum(sizes)])
    both = np.concatenate([net.first, net.second])
    last = both[ends[low[1:] - 1]]
    begin = both[(ends[low[:-1]] + count) % (2 * count)]
    # A chain from a junction back to the same junction is a loop too.
    closed = round_about | ((begin == last) & (sizes > 1))
    at = np.concatenate([[0], np.cumsum(sizes + ~closed)])
    nodes = np.empty(int(at[-1]), dtype=np.int64)
    nodes[at[:-1]] = begin
    inner = np.ones(len(ends), dtype=bool)
    inner[low[1:][closed] - 1] = False
    # What comes after the first node of each chain, in the order in which it is gone.
    fill = np.ones(len(nodes), dtype=bool)
    fill[at[:-1]] = False
    nodes[fill] = both[ends[inner]]
    return _Walks(ends, low, nodes, at, closed)


def _ranks(before: Indices) -> Indices:
    """Return how many come before each, where ``before`` is the one that does, or −1: by doubling the stride (Wyllie, 1979)."""
    jump = np.where(before >= 0, before, np.arange(len(before)))
    rank = (before >= 0).astype(np.int64)
    while True:
        on = jump[jump]
        if np.array_equal(on, jump):
            return rank
        rank += rank[jump]
        jump = on


def _chains(net: Net, links: Indices, limit: float, tell: Report) -> tuple[list[Chain], int]:
    """Return the chains, in order of their first edges, and how many points on straights were dropped."""
    walks = _walks(net, links)
    tell(0.8)
    chains = _tidied(net, walks, limit)
    tell(0.98)
    dropped = len(walks.nodes) - sum(len(chain.points) for chain in chains)
    return chains, dropped


def _tidied(net: Net, walks: _Walks, limit: float) -> list[Chain]:
    """Return chains of walks, without points on straights."""
    if not len(walks.closed):
        return []
    count, at = len(net.first), walks.at
    points = net.places[walks.nodes]
    before, after = np.arange(len(points)) - 1, np.arange(len(points)) + 1
    before[at[:-1]], after[at[1:] - 1] = at[1:] - 1, at[:-1]
    doubtful = stray(points, points[before], points[after]) <= limit
    doubtful[at[:-1][~walks.closed]] = doubtful[at[1:][~walks.closed] - 1] = False
    some = (np.add.reduceat(doubtful, at[:-1]) > 0).tolist()
    edge = walks.ends % count
    numbers = net.numbers[edge]
    bent = np.logical_or.reduceat(net.bent[edge], walks.low[:-1]).tolist()
    # Left by its end, an edge is gone forward.
    all_numbers, all_forward = tuple(numbers.tolist()), tuple((walks.ends >= count).tolist())
    low, from_node, all_closed = walks.low.tolist(), at.tolist(), walks.closed.tolist()
    found = []
    for index in np.argsort(np.minimum.reduceat(numbers, walks.low[:-1]), kind="stable").tolist():
        own, closed = points[from_node[index] : from_node[index + 1]], all_closed[index]
        if not bent[index]:
            if closed and len(own) < 3:
                own, closed = np.vstack([own, own[:1]])[: max(2, len(own))], False
            if some[index]:
                own = straightened(own, closed, limit)
        part = slice(low[index], low[index + 1])
        found.append(Chain(own, closed, all_numbers[part], all_forward[part], bent[index]))
    return found
