"""Joining loose edges end to end into lines.

Terms
-----
edge
    a piece of a drawing between two points, straight or bent; its direction does not matter.
node
    a place where edge ends meet. Ends nearer than the weld distance are one node.
free end
    a node with a single edge.
gap
    the distance between a free end and the node it is joined to, at most the join tolerance.
junction
    a node where three or more edges meet. An edge goes on there into the one that goes on
    straightest, if any goes on within 30°; of what is left, two level edges go on into one
    another where the others rise. Else lines end there. Another way can be chosen.
chain
    edges joined end to end; or a loop.

Only free ends are joined over a gap, each to its nearest partner, so that a wide tolerance
closes gaps without swallowing details smaller than itself.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from slow_ribbon.core.faults import Refused
from slow_ribbon.core.overlaps import without_overlaps
from slow_ribbon.core.shape import Array, Indices
from slow_ribbon.core.units import WELD

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
class Loose:
    """Loose edges, mm: ``begins`` and ``ends`` (n, 3).

    ``bent`` (n,) tells which are no straights; ``leaving`` (n, 2, 3) then holds the directions in
    which edges leave their beginning and their end, and ``middles`` (n, 3) a point half way along.
    """

    begins: Array
    ends: Array
    bent: np.ndarray[tuple[int, ...], np.dtype[np.bool_]] | None = None
    leaving: Array | None = None
    middles: Array | None = None

    def taken(self, which: Indices) -> Loose:
        """Return some of the edges."""
        some = [None if values is None else values[which] for values in (self.bent, self.leaving, self.middles)]
        return Loose(self.begins[which], self.ends[which], *some)  # type: ignore[arg-type]


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


@dataclass
class _Net:
    """Edges between nodes while they are joined. ``numbers`` are the edges' numbers as given."""

    first: Indices
    second: Indices
    places: Array
    numbers: Indices
    bent: np.ndarray[tuple[int, ...], np.dtype[np.bool_]]
    leaving: Array
    degree: Indices = field(default_factory=lambda: np.zeros(0, dtype=np.int64))


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
        raise Refused(f"The join tolerance is {tolerance:g} mm; it must be from 0.01 to 50 mm.", "tolerance", "tolerance")
    if not (np.isfinite(loose.begins).all() and np.isfinite(loose.ends).all()):
        raise Refused("Some edges have coordinates that are not numbers.", "edges", "not-finite")
    tell = report or (lambda share: None)
    if len(loose.begins) == 0:
        return Joined((), 0, 0, 0, (), np.zeros(0), np.zeros((0, 3)))
    tell(0.0)
    net, doubled, tiny, overlaps = _net(loose)
    tell(0.25)
    gaps, gap_places = _close_gaps(net, tolerance)
    apart = _apart(net, tolerance)
    tell(0.5)
    links, junctions = _links(net, ways or {})
    chains, dropped = _chains(net, links, min(tolerance, NOISE), tell)
    return Joined(tuple(chains), doubled, tiny, dropped, tuple(junctions), gaps, gap_places, overlaps, apart)


def _net(loose: Loose) -> tuple[_Net, int, int, int]:
    """Return the edges between welded nodes, and how many were doubled, had no length, lay over others."""
    count = len(loose.begins)
    bent = np.zeros(count, dtype=bool) if loose.bent is None else loose.bent
    begins, ends, numbers, overlaps = without_overlaps(loose.begins, loose.ends, ~bent)
    bent = bent[numbers]
    along = ends - begins
    sizes = np.sqrt(np.einsum("ij,ij->i", along, along))
    unit = along / np.maximum(sizes, 1e-300)[:, None]
    leaving = np.stack([unit, -unit], axis=1)
    if loose.leaving is not None:
        leaving = np.where(bent[:, None, None], loose.leaving[numbers], leaving)
    node_of, places = _weld(np.concatenate([begins, ends]))
    size = len(begins)
    first, second = node_of[:size], node_of[size:]
    kept = np.flatnonzero(first != second)
    tiny = size - len(kept)
    low, high = np.minimum(first, second)[kept], np.maximum(first, second)[kept]
    middles = np.zeros((size, 3), dtype=np.int64)
    if loose.middles is not None:
        # Two curves between the same ends are the same where they pass the same middle.
        middles = np.where(bent[:, None], np.round(loose.middles[numbers] * 100).astype(np.int64), middles)
    keys = (low, high, *middles[kept].T)
    order = np.lexsort(keys[::-1])
    same = np.ones(len(kept), dtype=bool)
    if len(kept) > 1:
        same[1:] = False
        for key in keys:
            same[1:] |= key[order][1:] != key[order][:-1]
    # Of doubled edges the first as given stays.
    group = np.cumsum(same) - 1
    firsts = np.full(int(group[-1]) + 1 if len(group) else 0, size, dtype=np.int64)
    np.minimum.at(firsts, group, kept[order])
    unique = np.sort(firsts)
    doubled = len(kept) - len(unique)
    return (
        _Net(first[unique], second[unique], places, numbers[unique], bent[unique], leaving[unique]),
        doubled,
        tiny,
        overlaps,
    )


def _weld(points: Array) -> tuple[Indices, Array]:
    """Return the node of every point and the places of the nodes."""
    # Equal points first, so that a thousand edges meeting in one do not make a million pairs.
    order = np.lexsort(points.T[::-1])
    ordered = points[order]
    fresh = np.ones(len(points), dtype=bool)
    fresh[1:] = (ordered[1:] != ordered[:-1]).any(axis=1)
    inverse = np.empty(len(points), dtype=np.int64)
    inverse[order] = np.cumsum(fresh) - 1
    unique = ordered[fresh]
    pairs = cKDTree(unique, balanced_tree=False, compact_nodes=False).query_pairs(WELD, output_type="ndarray")
    if len(pairs) == 0:
        return inverse, unique
    size = len(unique)
    graph = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(size, size))
    number, label = connected_components(graph, directed=False)
    firsts = np.full(number, size)
    np.minimum.at(firsts, label, np.arange(size))
    return label[inverse].astype(np.int64), unique[firsts]


def _close_gaps(net: _Net, tolerance: float) -> tuple[Array, Array]:
    """Join each free end to the nearest node within the tolerance; free ends prefer one another. Return gaps and places."""
    nothing = np.zeros(0), np.zeros((0, 3))
    places = net.places
    degree = np.bincount(np.concatenate([net.first, net.second]), minlength=len(places))
    net.degree = degree
    free = np.flatnonzero(degree == 1)
    if len(free) < 1:
        return nothing
    used = np.flatnonzero(degree > 0)
    neighbour, edge_at = np.full(len(places), -1, dtype=np.int64), np.full(len(places), -1, dtype=np.int64)
    neighbour[net.first], neighbour[net.second] = net.second, net.first
    edge_at[net.first], edge_at[net.second] = np.arange(len(net.first)), np.arange(len(net.first))
    tree = cKDTree(places[used], balanced_tree=False, compact_nodes=False)
    near = min(4, len(used))
    distances, found = tree.query(places[free], k=near, distance_upper_bound=tolerance * (1 + 1e-12))
    distances, found = np.reshape(distances, (len(free), -1)), np.reshape(found, (len(free), -1))
    row, column = np.nonzero(found < len(used))
    nodes, others, sizes = free[row], used[found[row, column]], distances[row, column]
    fits = (others != nodes) & (neighbour[nodes] != others)
    nodes, others, sizes = nodes[fits], others[fits], sizes[fits]
    settled = degree[others] != 1
    order = np.lexsort((sizes, settled))
    taken = np.zeros(len(places), dtype=bool).tolist()
    joins = []
    for index, node, other, is_settled in zip(
        order.tolist(), nodes[order].tolist(), others[order].tolist(), settled[order].tolist(), strict=True
    ):
        if taken[node] or taken[other]:
            continue
        taken[node] = True
        if not is_settled:
            taken[other] = True
        joins.append(index)
    if not joins:
        return nothing
    chosen = np.array(joins, dtype=np.int64)
    nodes, others, sizes, both_free = nodes[chosen], others[chosen], sizes[chosen], ~settled[chosen]
    places = places.copy()
    a, b = nodes[both_free], others[both_free]
    middles = _meetings(places[a], places[neighbour[a]], places[b], places[neighbour[b]], tolerance)
    curved = net.bent[edge_at[a]] | net.bent[edge_at[b]]
    places[b] = np.where(curved[:, None], (places[a] + places[b]) / 2, middles)
    goes_to = np.arange(len(places))
    goes_to[nodes] = others
    # A free end joined to a node that itself moved on follows it.
    goes_to = goes_to[goes_to]
    net.first, net.second, net.places = goes_to[net.first], goes_to[net.second], places
    net.degree = np.bincount(np.concatenate([net.first, net.second]), minlength=len(places))
    return sizes, places[others]


def _apart(net: _Net, tolerance: float) -> int:
    """Return how many free ends lie over another node on plan, but at another height."""
    if np.ptp(net.places[:, 2]) < WELD:
        return 0
    free = np.flatnonzero(net.degree == 1)
    used = np.flatnonzero(net.degree > 0)
    if not len(free):
        return 0
    # Upright edges join heights themselves and are met at both.
    level = np.abs(net.leaving[:, 0, 2]) < 0.999
    ends = np.unique(np.concatenate([net.first[level], net.second[level]]))
    free = np.intersect1d(free, ends)
    pairs = cKDTree(net.places[free][:, :2]).query_ball_tree(cKDTree(net.places[used][:, :2]), tolerance) if len(free) < 20_000 else []
    return sum(any(abs(net.places[used[j], 2] - net.places[free[i], 2]) > tolerance for j in near) for i, near in enumerate(pairs))


def _meetings(a: Array, a_from: Array, b: Array, b_from: Array, tolerance: float) -> Array:
    """Return where pairs of edges with gaps between their ends a and b should meet, (k, 3).

    Where their straights cross near by, there: the edges then keep their directions. Else half way.
    """
    u, v, w = a - a_from, b - b_from, b - a
    uu, vv, uv, wu, wv = (np.einsum("ij,ij->i", x, y) for x, y in ((u, u), (v, v), (u, v), (w, u), (w, v)))
    down = uu * vv - uv * uv
    crossing = down > 1e-6 * uu * vv
    safe = np.where(crossing, down, 1.0)
    s, t = (wu * vv - wv * uv) / safe, (wu * uv - wv * uu) / safe
    on_a, on_b = a + s[:, None] * u, b + t[:, None] * v
    near = np.maximum(np.abs(s) * np.sqrt(uu), np.abs(t) * np.sqrt(vv)) <= 2 * tolerance
    meets = crossing & near & (np.abs(on_a - on_b).max(axis=1, initial=0.0) < WELD)
    return np.asarray(np.where(meets[:, None], (on_a + on_b) / 2, (a + b) / 2))


def _links(net: _Net, ways: Mapping[int, Sequence[tuple[int, int]]]) -> tuple[list[int], list[Junction]]:
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


def _chains(net: _Net, links: list[int], limit: float, tell: Report) -> tuple[list[Chain], int]:
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


def _tidied(net: _Net, walks: list[tuple[list[int], list[int], bool]], limit: float, count: int) -> list[Chain]:
    """Return chains of walks, without points on straights."""
    sizes = np.array([len(nodes) for nodes, _, _ in walks])
    low = np.concatenate([[0], np.cumsum(sizes)])
    points = net.places[np.array([node for nodes, _, _ in walks for node in nodes], dtype=np.int64)]
    before, after = np.arange(len(points)) - 1, np.arange(len(points)) + 1
    before[low[:-1]], after[low[1:] - 1] = low[1:] - 1, low[:-1]
    doubtful = _stray(points, points[before], points[after]) <= limit
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


def straightened(points: Array, closed: bool, limit: float) -> Array:
    """Return the points without those that stray no more than ``limit`` mm from the straight between their neighbours.

    Every dropped point stays within ``limit`` of the result (the rule of Ramer, 1972, and of
    Douglas and Peucker, 1973, applied between points that are surely corners).
    """
    count = len(points)
    if count < (4 if closed else 3):
        return points
    before, after = np.roll(points, 1, axis=0), np.roll(points, -1, axis=0)
    stray = _stray(points, before, after)
    doubtful = stray <= limit
    if not closed:
        doubtful[0] = doubtful[-1] = False
    if not doubtful.any():
        return points
    sure = np.flatnonzero(~doubtful)
    if len(sure) < 2:
        # A fine polygon with no sure corner: hold its two most distant points.
        far = int(np.argmax(np.linalg.norm(points - points[0], axis=1)))
        sure = np.array(sorted({0, far}))
    if closed:
        points, sure = np.roll(points, -sure[0], axis=0), sure - sure[0]
        points = np.vstack([points, points[:1]])
        sure = np.append(sure, count)
    keep = np.zeros(len(points), dtype=bool)
    keep[sure] = True
    stack = [(a, b) for a, b in pairwise(sure.tolist()) if b - a > 1]
    while stack:
        a, b = stack.pop()
        away = _stray(points[a + 1 : b], points[a], points[b])
        worst = int(np.argmax(away))
        if away[worst] > limit:
            middle = a + 1 + worst
            keep[middle] = True
            stack.extend(part for part in ((a, middle), (middle, b)) if part[1] - part[0] > 1)
    kept = np.flatnonzero(keep)
    if closed:
        kept = kept[:-1]
    return points[kept] if len(kept) >= (3 if closed else 2) else points[: count if closed else None]


def _stray(points: Array, begins: Array, ends: Array) -> Array:
    """Return the distance of points from the straight pieces begins–ends, (n,)."""
    along = ends - begins
    square = np.maximum(np.sum(along * along, axis=-1), 1e-300)
    share = np.clip(np.sum((points - begins) * along, axis=-1) / square, 0, 1)
    away = points - begins - along * share[..., None]
    return np.asarray(np.sqrt(np.sum(away * away, axis=-1)))
