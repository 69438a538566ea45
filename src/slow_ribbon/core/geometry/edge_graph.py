"""Loose edges as a net: where their ends meet, and which gaps between free ends are closed.

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

Only free ends are joined over a gap, each to its nearest partner, so that a wide tolerance
closes gaps without swallowing details smaller than itself.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from slow_ribbon.core.geometry.overlaps import mixed, without_overlaps
from slow_ribbon.core.kernel.arrays import Array, Flags, Indices
from slow_ribbon.core.kernel.tolerances import FLAT, ROUNDING, TINIEST
from slow_ribbon.core.kernel.units import WELD


@dataclass(frozen=True)
class Loose:
    """Loose edges, mm: ``begins`` and ``ends`` (n, 3).

    ``bent`` (n,) says which are no straights; ``leaving`` (n, 2, 3) then holds the directions in
    which edges leave their beginning and their end, and ``middles`` (n, 3) a point half way along.
    """

    begins: Array
    ends: Array
    bent: Flags | None = None
    leaving: Array | None = None
    middles: Array | None = None

    def taken(self, which: Indices) -> Loose:
        """Return some of the edges."""
        return Loose(
            self.begins[which],
            self.ends[which],
            None if self.bent is None else self.bent[which],
            None if self.leaving is None else self.leaving[which],
            None if self.middles is None else self.middles[which],
        )


@dataclass
class Net:
    """Edges between nodes while they are joined. ``numbers`` are the edges' numbers as given, ``middles`` (n, 3) points on them.

    ``cut`` (n,): which are parts of straights that lay over one another.
    """

    first: Indices
    second: Indices
    places: Array
    numbers: Indices
    bent: Flags
    leaving: Array
    middles: Array
    cut: Flags
    degree: Indices = field(default_factory=lambda: np.zeros(0, dtype=np.int64))


def net_of(loose: Loose) -> tuple[Net, int, int, int]:
    """Return the edges between welded nodes, and how many were doubled, had no length, lay over others."""
    count = len(loose.begins)
    bent = np.zeros(count, dtype=bool) if loose.bent is None else loose.bent
    begins, ends, numbers, overlaps, parts = without_overlaps(loose.begins, loose.ends, ~bent)
    bent = bent[numbers]
    cut = np.arange(len(numbers)) >= len(numbers) - parts
    along = ends - begins
    sizes = np.sqrt(np.einsum("ij,ij->i", along, along))
    unit = along / np.maximum(sizes, TINIEST)[:, None]
    leaving = np.stack([unit, -unit], axis=1)
    if loose.leaving is not None:
        leaving = np.where(bent[:, None, None], loose.leaving[numbers], leaving)
    node_of, places = _weld(np.concatenate([begins, ends]))
    size = len(begins)
    first, second = node_of[:size], node_of[size:]
    kept = np.flatnonzero(first != second)
    tiny = size - len(kept)
    low, high = np.minimum(first, second)[kept], np.maximum(first, second)[kept]
    middles = (begins + ends) / 2
    if loose.middles is not None:
        middles = np.where(bent[:, None], loose.middles[numbers], middles)
    # Two curves between the same ends are the same where they pass the same middle.
    passed = np.where(bent[:, None], np.round(middles * 100), 0.0).astype(np.int64)
    keys = (low, high, *passed[kept].T)
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
        Net(
            first=first[unique],
            second=second[unique],
            places=places,
            numbers=numbers[unique],
            bent=bent[unique],
            leaving=leaving[unique],
            middles=middles[unique],
            cut=cut[unique],
        ),
        doubled,
        tiny,
        overlaps,
    )


def _weld(points: Array) -> tuple[Indices, Array]:
    """Return the node of every point and the places of the nodes."""
    # Equal points first, so that a thousand edges meeting in one do not make a million pairs.
    inverse, unique = _distinct(points)
    close = np.flatnonzero(may_be_near(unique, WELD))
    pairs = cKDTree(unique[close], balanced_tree=False, compact_nodes=False).query_pairs(WELD, output_type="ndarray")
    if len(pairs) == 0:
        return inverse, unique
    pairs = close[pairs]
    size = len(unique)
    graph = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(size, size))
    number, label = connected_components(graph, directed=False)
    firsts = np.full(number, size)
    np.minimum.at(firsts, label, np.arange(size))
    return label[inverse].astype(np.int64), unique[firsts]


def _distinct(points: Array) -> tuple[Indices, Array]:
    """Return the number of every point among those that are distinct, and these (u, 3)."""
    # One number for three: equal points have equal ones. Minus zero is zero.
    order = np.argsort(mixed((points + 0.0).view(np.int64)))
    ordered = points[order]
    other = np.zeros(len(points), dtype=bool)
    for column in ordered.T:
        other[1:] |= column[1:] != column[:-1]
    other[:1] = True
    inverse = np.empty(len(points), dtype=np.int64)
    # Were two points to have the same number by chance, some might count twice: they are welded below.
    inverse[order] = np.cumsum(other) - 1
    return inverse, ordered[other]


def may_be_near(points: Array, reach: float) -> Flags:
    """Return a mask of distinct points (n, 3) that may have another within ``reach``: those in a cell with another, or near its border.

    Looking for neighbours among these alone finds the same, and they are mostly few.
    """
    # Coordinates are mostly whole: borders of cells lie where none are.
    cell, found = 100 * reach, np.zeros(len(points), dtype=bool)
    cells = np.empty(points.shape, dtype=np.int64)
    for axis in range(3):
        at = points[:, axis] / cell + 0.38196601125
        whole = np.floor(at)
        share = at - whole
        # A little more than the reach, for rounding far from zero.
        found |= (share < 0.0101) | (share > 0.9899)
        cells[:, axis] = whole
    number = mixed(cells)
    order = np.argsort(number)
    same = number[order][1:] == number[order][:-1]
    found[order[1:][same]] = found[order[:-1][same]] = True
    return found


def _left(net: Net, kept: Indices) -> None:
    """Leave only some of a net's edges in it."""
    for name in ("first", "second", "numbers", "bent", "leaving", "middles", "cut"):
        setattr(net, name, getattr(net, name)[kept])


def drop_slivers(net: Net, tolerance: float) -> None:
    """Drop what a straight drawn again reaches further than the other: no longer than the tolerance, beyond what meets it there."""
    if not net.cut.any():
        return
    degree = np.bincount(np.concatenate([net.first, net.second]), minlength=len(net.places))
    along = net.places[net.second] - net.places[net.first]
    short = np.einsum("ij,ij->i", along, along) <= tolerance**2
    ends = np.sort(np.stack([degree[net.first], degree[net.second]], axis=1), axis=1)
    # At its other end there are the rest of the straight and at least one other edge.
    sliver = net.cut & short & (ends[:, 0] == 1) & (ends[:, 1] > 2)
    if sliver.any():
        _left(net, np.flatnonzero(~sliver))


def drop_drawn_again(net: Net, tolerance: float) -> int:
    """Drop edges that lie within the tolerance of others, end by end, and meet nothing but such edges; return how many.

    They are what is drawn twice, a hair aside: edges by themselves, or some that meet one another. What other edges meet, a
    thin plate say, stays as it is.
    """
    if len(net.first) < 2:
        return 0
    beside = _beside(net, tolerance)
    if not len(beside):
        return 0
    # Edges that meet are one part. A part goes where each of its edges lies beside one of another part, which stays.
    size, nodes = len(net.first), len(net.places)
    numbers = np.arange(size)
    meets = coo_array(
        (np.ones(2 * size, dtype=bool), (np.tile(numbers, 2), size + np.concatenate([net.first, net.second]))),
        shape=(size + nodes, size + nodes),
    )
    part = connected_components(meets, directed=False)[1][:size]
    beside = beside[part[beside[:, 0]] != part[beside[:, 1]]]
    covered = np.zeros(size, dtype=bool)
    covered[beside[:, 0]] = True
    whole = np.ones(int(part.max()) + 1, dtype=bool)
    whole[part[~covered]] = False
    if not whole.any():
        return 0
    partners: dict[int, list[int]] = {}
    members: dict[int, set[int]] = {}
    for edge, other in beside[whole[part[beside[:, 0]]]].tolist():
        partners.setdefault(edge, []).append(other)
        members.setdefault(int(part[edge]), set()).add(edge)
    gone: set[int] = set()
    # The smallest first; of two that are alike the one that was given last.
    for edges in sorted(members.values(), key=lambda edges: (len(edges), -min(int(net.numbers[edge]) for edge in edges))):
        if all(any(other not in gone for other in partners[edge]) for edge in edges):
            gone |= edges
    if gone:
        _left(net, np.array(sorted(set(range(size)) - gone), dtype=np.int64))
    return len(gone)


def _beside(net: Net, tolerance: float) -> Indices:
    """Return pairs (k, 2) of edges of which the first lies within the tolerance of the second, end by end, and is no detail."""
    places, first, second = net.places, net.first, net.second
    nothing = np.zeros((0, 2), dtype=np.int64)
    chord = places[second] - places[first]
    long = np.flatnonzero(np.einsum("ij,ij->i", chord, chord) > (4 * tolerance) ** 2)
    # Middles may coincide, which those that are distinguished by where they lie must not.
    inverse, middles = _distinct(net.middles)
    crowded = may_be_near(middles, tolerance) | (np.bincount(inverse, minlength=len(middles)) > 1)
    close = np.flatnonzero(crowded[inverse])
    some = np.intersect1d(long, close)
    if not len(some):
        return nothing
    tree = cKDTree(net.middles[close], balanced_tree=False, compact_nodes=False)
    near = tree.query(net.middles[some], k=min(4, len(close)), distance_upper_bound=tolerance)
    found: Indices = np.append(close, len(first))[np.asarray(near[1]).reshape(len(some), -1)]
    row, column = np.nonzero(found < len(first))
    edge, other = some[row], found[row, column]
    fits = (edge != other) & (net.bent[edge] == net.bent[other])
    edge, other = edge[fits], other[fits]
    ends = places[np.stack([first[edge], second[edge]], axis=1)]
    there = places[np.stack([first[other], second[other]], axis=1)]
    apart = np.minimum(np.abs(ends - there).max(axis=(1, 2)), np.abs(ends - there[:, ::-1]).max(axis=(1, 2))) if len(edge) else np.zeros(0)
    kept = apart <= tolerance
    return np.stack([edge[kept], other[kept]], axis=1)


def drop_made_nothing(net: Net, tolerance: float) -> tuple[int, int]:
    """Drop what closing gaps made the same as another edge, or nothing; return how many of each."""
    loops = net.first == net.second
    kept = np.flatnonzero(~loops)
    low, high = np.minimum(net.first, net.second)[kept], np.maximum(net.first, net.second)[kept]
    order = np.lexsort((net.numbers[kept], high, low))
    gone: set[int] = set()
    same = (low[order][1:] == low[order][:-1]) & (high[order][1:] == high[order][:-1])
    for at in (np.flatnonzero(same) + 1).tolist():
        edge = int(kept[order[at]])
        before = at - 1
        # All that run between the same nodes, of which none, some or all may be the same.
        while before >= 0 and low[order[before]] == low[order[at]] and high[order[before]] == high[order[at]]:
            other = int(kept[order[before]])
            alike = not net.bent[edge] or float(np.abs(net.middles[edge] - net.middles[other]).max()) <= tolerance
            if other not in gone and net.bent[edge] == net.bent[other] and alike:
                gone.add(edge)
                break
            before -= 1
    if loops.any() or gone:
        _left(net, np.setdiff1d(kept, np.array(sorted(gone), dtype=np.int64)))
        net.degree = np.bincount(np.concatenate([net.first, net.second]), minlength=len(net.places))
    return len(gone), int(loops.sum())


def close_gaps(net: Net, tolerance: float) -> tuple[Array, Array]:
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
    close = may_be_near(places, tolerance * (1 + ROUNDING))
    used, free = used[close[used]], free[close[free]]
    if not len(free):
        return nothing
    tree = cKDTree(places[used], balanced_tree=False, compact_nodes=False)
    near = min(4, len(used))
    distances, found = tree.query(places[free], k=near, distance_upper_bound=tolerance * (1 + ROUNDING))
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


def ends_apart(net: Net, tolerance: float) -> int:
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
    crossing = down > FLAT * uu * vv
    safe = np.where(crossing, down, 1.0)
    s, t = (wu * vv - wv * uv) / safe, (wu * uv - wv * uu) / safe
    on_a, on_b = a + s[:, None] * u, b + t[:, None] * v
    near = np.maximum(np.abs(s) * np.sqrt(uu), np.abs(t) * np.sqrt(vv)) <= 2 * tolerance
    meets = crossing & near & (np.abs(on_a - on_b).max(axis=1, initial=0.0) < WELD)
    return np.asarray(np.where(meets[:, None], (on_a + on_b) / 2, (a + b) / 2))
