"""The narrowest place of a section: the shortest straight through it between two faces that look away from one another.

It is looked for by rays inward from many places on the outline, and the shortest are made exact on the edges themselves, going
to and fro between the nearest places of the two. Faces that meet at a corner are no narrow place of it, unless the corner is so
sharp that they look nearly away from one another: a feather edge is nought wide.
"""

from __future__ import annotations

import math
from typing import Final

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import Array, Indices
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.sections.edges import Edge
from slow_ribbon.core.sections.profile import Shape

#: Places on an edge from which rays are sent, at most and at least, and about how many in all.
_MOST: Final = 13
_LEAST: Final = 2
_RAYS: Final = 500
#: How much less than a half turn there may be between the faces, radians.
_FACING: Final = math.radians(30)
#: Pairs of edges whose shortest rays are made exact; none whose ray is longer by more than this than the best.
_TRIED: Final = 12
_ENOUGH: Final = 1.2
#: Chords that rays meet stray from their edges by no more than this, as a share of the section's size.
_FINE: Final = 2e-4
#: Where rays begin inside, mm.
_INSIDE: Final = 1e-5


def narrowest_of(shape: Shape) -> tuple[float, tuple[float, float], tuple[float, float]]:
    """Return how wide a shape is at its narrowest, mm, and the two places (2,) that it is between."""
    edges = [edge for loop in shape.loops for edge in loop]
    size = max(shape.box[2] - shape.box[0], shape.box[3] - shape.box[1])
    flat = [edge.flattened(_FINE * size) for edge in edges]
    begins, ends = np.concatenate([points[:-1] for points, _ in flat]), np.concatenate([points[1:] for points, _ in flat])
    number = np.concatenate([np.full(len(points) - 1, i) for i, (points, _) in enumerate(flat)])
    rays = np.linspace(0.02, 0.98, max(_LEAST, min(_MOST, _RAYS // len(edges))))
    from_edge = np.repeat(np.arange(len(edges)), len(rays))
    places = np.concatenate([edge.at_shares(rays) for edge in edges])
    along = np.concatenate([edge.at_shares(rays + 1e-6) - edge.at_shares(rays - 1e-6) for edge in edges])
    along /= np.hypot(along[:, 0], along[:, 1])[:, None]
    # Loops run with their area on the left.
    inward = np.column_stack([-along[:, 1], along[:, 0]])
    away, hit = _rays(places + _INSIDE * inward, inward, begins, ends)
    other = ends[hit] - begins[hit]
    other /= np.hypot(other[:, 0], other[:, 1])[:, None]
    outward = np.column_stack([other[:, 1], -other[:, 0]])
    looks = np.einsum("ij,ij->i", inward, outward)
    order = np.flatnonzero((looks >= math.cos(_FACING)) & np.isfinite(away))
    order = order[np.argsort(away[order])]
    if not len(order):
        # Nothing faces anything, as in a triangle: its least width then, across its hull.
        return _hull_width(shapely.get_coordinates(shape.polygon(1e-4 * size).convex_hull)[:-1])
    inside = shape.polygon(1e-5 * size).buffer(SAME_PLACE)
    best: tuple[float, Array, Array] | None = None
    met: set[tuple[int, int]] = set()
    for ray in order.tolist():
        if len(met) >= _TRIED or (best is not None and away[ray] > _ENOUGH * best[0]):
            break
        pair = (int(from_edge[ray]), int(number[hit[ray]]))
        if pair in met or pair[::-1] in met:
            continue
        met.add(pair)
        one, other_edge = edges[pair[0]], edges[pair[1]]
        a, b = _nearest(one, other_edge, places[ray], places[ray] + inward[ray] * away[ray])
        wide = float(np.hypot(*(b - a)))
        # Going to and fro may lead to where the faces look away from one another no more, into a corner where they meet say, or
        # out of the section.
        narrow = _face(one, other_edge, a, b) and (wide <= SAME_PLACE or inside.contains(shapely.Point((a + b) / 2)))
        if narrow and (best is None or wide < best[0]):
            best = wide, a, b
    if best is None:
        # It is nowhere narrower than beside it, as a round: where its faces look most away from one another.
        ray = int(order[np.argmax(looks[order] - 1e-9 * away[order])])
        # Where the ray meets a chord, the edge itself is nearest by.
        there = _closest(edges[int(number[hit[ray]])], places[ray] + inward[ray] * away[ray])[1]
        best = math.dist(places[ray], there), places[ray], there
    return best[0], (float(best[1][0]), float(best[1][1])), (float(best[2][0]), float(best[2][1]))


def _rays(places: Array, ways: Array, begins: Array, ends: Array) -> tuple[Array, Indices]:
    """Return how far rays (n, 2) go until they meet one of straights (m, 2), and which that is, (n,) each."""
    far, which = np.full(len(places), np.inf), np.zeros(len(places), dtype=np.int64)
    along = ends - begins
    # Some at a time: many rays and many straights are many numbers.
    for some in range(0, len(places), 256):
        part = slice(some, some + 256)
        p, d = places[part, None], ways[part, None]
        cross = d[..., 0] * along[:, 1] - d[..., 1] * along[:, 0]
        off = begins - p
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            t = (off[..., 0] * along[:, 1] - off[..., 1] * along[:, 0]) / cross
            u = (off[..., 0] * d[..., 1] - off[..., 1] * d[..., 0]) / cross
        t = np.where((u >= 0) & (u <= 1) & (t > 0), t, np.inf)
        which[part] = np.argmin(t, axis=1)
        far[part] = np.take_along_axis(t, which[part, None], axis=1)[:, 0]
    return far + _INSIDE, which


def _nearest(one: Edge, other: Edge, a: Array, b: Array) -> tuple[Array, Array]:
    """Return the places of two edges nearest to one another, from two of them on, by going to and fro."""
    for _ in range(20):
        after_b = _closest(other, a)[1]
        after_a = _closest(one, after_b)[1]
        moved = float(max(np.abs(after_a - a).max(), np.abs(after_b - b).max()))
        a, b = after_a, after_b
        if moved < 1e-8:
            break
    return a, b


def _closest(edge: Edge, place: Array) -> tuple[float, Array]:
    """Return the share of an edge that is nearest to a place, and where that is."""
    low, high = 0.0, 1.0
    for _ in range(9):
        shares = np.linspace(low, high, 17)
        at = int(np.argmin(np.hypot(*(edge.at_shares(shares) - place).T)))
        low, high = float(shares[max(at - 1, 0)]), float(shares[min(at + 1, 16)])
    # At an end of the edge the search closes in on it from one side.
    share = float(shares[at])
    return share, np.asarray(edge.at_shares(np.array([share]))[0])


def _face(one: Edge, other: Edge, a: Array, b: Array) -> bool:
    """Tell whether two edges look nearly away from one another along the straight between two places of theirs."""
    first, second = _inward(one, a), _inward(other, b)
    wide = float(np.hypot(*(b - a)))
    if wide <= SAME_PLACE:
        return float(first @ -second) >= math.cos(_FACING)
    way = (b - a) / wide
    return min(float(first @ way), float(second @ -way)) >= math.cos(_FACING) - SAME_PLACE


def _inward(edge: Edge, place: Array) -> Array:
    """Return the unit into the section from an edge, whose area lies on its left, at a place of it."""
    share = min(max(_closest(edge, place)[0], 1e-6), 1 - 1e-6)
    before, after = edge.at_shares(np.array([share - 1e-6, share + 1e-6]))
    along = (after - before) / float(np.hypot(*(after - before)))
    return np.array([-along[1], along[0]])


def _hull_width(hull: Array) -> tuple[float, tuple[float, float], tuple[float, float]]:
    """Return the least width of a convex polygon (n, 2) and the places it is between: on a side, and at the corner furthest from it."""
    along = np.roll(hull, -1, axis=0) - hull
    normals = np.column_stack([along[:, 1], -along[:, 0]]) / np.hypot(along[:, 0], along[:, 1])[:, None]
    reach = np.abs(np.einsum("jk,ijk->ij", normals, hull[:, None] - hull[None]))
    side = int(np.argmin(reach.max(axis=0)))
    corner = int(np.argmax(reach[:, side]))
    wide = float(reach[corner, side])
    sign = math.copysign(1.0, float(normals[side] @ (hull[side] - hull[corner])))
    foot = hull[corner] + sign * wide * normals[side]
    return wide, (float(hull[corner][0]), float(hull[corner][1])), (float(foot[0]), float(foot[1]))
