"""Joining loose edges end to end into lines.

Terms
-----
edge
    a straight piece of a drawing between two points; its direction does not matter.
node
    a place where edge ends meet. Ends nearer than the weld distance are one node.
free end
    a node with a single edge.
gap
    the distance between a free end and the node it is joined to, at most the join tolerance.
chain
    edges joined end to end between nodes where not exactly two edges meet; or a loop.
junction
    a node where three or more edges meet; chains end there.

Only free ends are joined over a gap, each to its nearest partner, so that a wide tolerance
closes gaps without swallowing details smaller than itself.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from slow_ribbon.core.faults import Refused
from slow_ribbon.core.shape import Array, Indices
from slow_ribbon.core.units import WELD

#: Points of a drawing that stray less than this from a straight, mm, are its drafting noise.
NOISE = 0.1


@dataclass(frozen=True)
class Chain:
    """A line found: its corner points (n, 3) and the edges (by number) it was made from."""

    points: Array
    closed: bool
    edges: tuple[int, ...]


@dataclass(frozen=True)
class Joined:
    """What joining found. ``gaps`` (g,) are the gaps closed, mm, at ``gap_places`` (g, 3)."""

    chains: tuple[Chain, ...]
    doubled: int
    tiny: int
    dropped_points: int
    junctions: Array
    gaps: Array
    gap_places: Array


def join(begins: Array, ends: Array, tolerance: float = 1.0) -> Joined:
    """Return the lines that loose edges make.

    begins, ends: (n, 3) in mm. tolerance: the widest gap to close, 0.01 to 50 mm. Doubled
    edges, whichever way round, count once. Points on straights are dropped. Time grows as
    n log n. Raises ``Refused`` for a tolerance out of range or points that are not numbers.
    """
    if not 0.01 <= tolerance <= 50:
        raise Refused(f"The join tolerance is {tolerance:g} mm; it must be from 0.01 to 50 mm.", "tolerance", "tolerance")
    if not (np.isfinite(begins).all() and np.isfinite(ends).all()):
        raise Refused("Some edges have coordinates that are not numbers.", "edges", "not-finite")
    count = len(begins)
    if count == 0:
        return Joined((), 0, 0, 0, np.zeros((0, 3)), np.zeros(0), np.zeros((0, 3)))
    node_of, places = _weld(np.concatenate([begins, ends]))
    first, second = node_of[:count], node_of[count:]
    numbers = np.flatnonzero(first != second)
    tiny = count - len(numbers)
    pairs = np.sort(np.stack([first[numbers], second[numbers]], axis=1), axis=1)
    _, kept = np.unique(pairs, axis=0, return_index=True)
    doubled = len(numbers) - len(kept)
    numbers = numbers[np.sort(kept)]
    first, second = first[numbers], second[numbers]
    first, second, places, gaps, gap_places = _close_gaps(first, second, places, tolerance)
    degree = np.bincount(np.concatenate([first, second]), minlength=len(places))
    walks = _walks(first, second, degree)
    chains: list[Chain] = []
    dropped = 0
    limit = min(tolerance, NOISE)
    for nodes, edges, closed in walks:
        points = places[nodes]
        if closed and len(points) < 3:
            points, closed = np.vstack([points, points[:1]])[: max(2, len(points))], False
        tidy = straightened(points, closed, limit)
        dropped += len(points) - len(tidy)
        chains.append(Chain(tidy, closed, tuple(int(numbers[edge]) for edge in edges)))
    chains.sort(key=lambda chain: min(chain.edges))
    return Joined(tuple(chains), doubled, tiny, dropped, places[degree > 2], gaps, gap_places)


def _weld(points: Array) -> tuple[Indices, Array]:
    """Return the node of every point and the places of the nodes."""
    # Equal points first, so that a thousand edges meeting in one do not make a million pairs.
    unique, inverse = np.unique(points, axis=0, return_inverse=True)
    inverse = inverse.reshape(-1)
    pairs = cKDTree(unique).query_pairs(WELD, output_type="ndarray")
    if len(pairs) == 0:
        return inverse.astype(np.int64), unique
    size = len(unique)
    graph = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(size, size))
    number, label = connected_components(graph, directed=False)
    firsts = np.full(number, size)
    np.minimum.at(firsts, label, np.arange(size))
    return label[inverse].astype(np.int64), unique[firsts]


def _close_gaps(first: Indices, second: Indices, places: Array, tolerance: float) -> tuple[Indices, Indices, Array, Array, Array]:
    """Join each free end to the nearest node within the tolerance; free ends prefer one another."""
    degree = np.bincount(np.concatenate([first, second]), minlength=len(places))
    free = np.flatnonzero(degree == 1)
    nothing = (first, second, places, np.zeros(0), np.zeros((0, 3)))
    if len(free) < 1:
        return nothing
    used = np.flatnonzero(degree > 0)
    neighbour = np.full(len(places), -1, dtype=np.int64)
    neighbour[first], neighbour[second] = second, first
    tree = cKDTree(places[used])
    near = min(4, len(used))
    distances, found = tree.query(places[free], k=near, distance_upper_bound=tolerance * (1 + 1e-12))
    candidates: list[tuple[float, bool, int, int]] = []
    for node, row, indices in zip(free.tolist(), np.atleast_2d(distances).tolist(), np.atleast_2d(found).tolist(), strict=True):
        for distance, index in zip(row, indices, strict=True):
            if index < len(used):
                other = int(used[index])
                if other != node and int(neighbour[node]) != other:
                    candidates.append((distance, degree[other] != 1, node, other))
    candidates.sort(key=lambda c: (c[1], c[0]))
    taken: set[int] = set()
    joins: list[tuple[float, bool, int, int]] = []
    for candidate in candidates:
        _, settled, node, other = candidate
        if node in taken or other in taken:
            continue
        taken.add(node)
        if not settled:
            taken.add(other)
        joins.append(candidate)
    if not joins:
        return nothing
    both_free = np.array([not settled for _, settled, _, _ in joins])
    nodes = np.array([node for _, _, node, _ in joins], dtype=np.int64)
    others = np.array([other for _, _, _, other in joins], dtype=np.int64)
    places = places.copy()
    a, b = nodes[both_free], others[both_free]
    places[b] = _meetings(places[a], places[neighbour[a]], places[b], places[neighbour[b]], tolerance)
    goes_to = np.arange(len(places))
    goes_to[nodes] = others
    # A free end joined to a node that itself moved on follows it.
    goes_to = goes_to[goes_to]
    return goes_to[first], goes_to[second], places, np.array([distance for distance, *_ in joins]), places[others]


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


def _walks(first: Indices, second: Indices, degree: NDArray[np.int64]) -> list[tuple[list[int], list[int], bool]]:
    """Return (nodes, edges, closed) of every chain, each in the direction of its first edge."""
    at: list[list[int]] = [[] for _ in range(len(degree))]
    begins, ends = first.tolist(), second.tolist()
    for edge, (a, b) in enumerate(zip(begins, ends, strict=True)):
        at[a].append(edge)
        at[b].append(edge)
    used = [False] * len(begins)

    def follow(edge: int, node: int) -> tuple[list[int], list[int]]:
        """Walk from ``edge`` on through ``node``; return the nodes and edges met after it."""
        nodes, edges = [node], []
        while len(at[node]) == 2:
            one, other = at[node]
            edge = other if one == edge else one
            if used[edge]:
                break
            used[edge] = True
            node = ends[edge] if begins[edge] == node else begins[edge]
            nodes.append(node)
            edges.append(edge)
        return nodes, edges

    found = []
    for edge in range(len(begins)):
        if used[edge]:
            continue
        used[edge] = True
        ahead_nodes, ahead_edges = follow(edge, ends[edge])
        if ahead_nodes[-1] == begins[edge]:
            nodes = [begins[edge], *ahead_nodes[:-1]]
            found.append((nodes, [edge, *ahead_edges], True))
            continue
        back_nodes, back_edges = follow(edge, begins[edge])
        nodes = [*reversed(back_nodes), *ahead_nodes]
        edges = [*reversed(back_edges), edge, *ahead_edges]
        # A chain from a junction back to the same junction is a loop too.
        if nodes[0] == nodes[-1]:
            found.append((nodes[:-1], edges, True))
        else:
            found.append((nodes, edges, False))
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
