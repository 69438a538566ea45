"""The narrowest place of a section: the shortest straight through it between two faces that look away from one another.

It is looked for by rays inward from many places on the outline, and the shortest are made exact on the edges themselves,
going downhill from there. Faces that meet at a corner are no narrow place of it, unless the corner is so
sharp that they look nearly away from one another: a feather edge is zero wide.
"""

from __future__ import annotations

import math
from typing import Final

import numpy as np
import shapely

from slow_ribbon.core.geometry.polylines import nearest_on
from slow_ribbon.core.kernel.arrays import Array, Flags, Indices
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.sections.outline.edge_arrays import EdgeChords, Together
from slow_ribbon.core.sections.outline.profile import Shape

#: Places on an edge from which rays are sent, at most and at least, and about how many in all.
_MOST: Final = 13
_LEAST: Final = 2
_RAYS: Final = 500
#: How much less than a half turn there may be between the faces, radians.
_FACING: Final = math.radians(30)
#: Pairs of edges whose shortest rays are made exact.
_TRIED: Final = 12
#: Shares of an edge that differ by less are the same: distances are then the same to rounding.
_TELLS: Final = 1e-5
#: How many places on an edge are looked at together.
_PLACES: Final = 17
#: The search ends when a step brings two places nearer by a smaller share than this.
_NEARER: Final = 1e-3
#: Chords that rays meet stray from their edges by no more than this, as a share of the section's size.
CHORDS: Final = 1e-4
#: Where rays begin inside, mm.
_INSIDE: Final = 1e-5


def narrowest_of(shape: Shape) -> tuple[float, tuple[float, float], tuple[float, float]]:
    """Return how wide a shape is at its narrowest, mm, and the two places (2,) that it is between."""
    edges = shape.together
    count = int(shape.starts[-1])
    size = max(shape.box[2] - shape.box[0], shape.box[3] - shape.box[1])
    chords = shape.chords(CHORDS * size)
    begins, ends, number, bounds = chords.straights
    rays = np.linspace(0.02, 0.98, max(_LEAST, min(_MOST, _RAYS // count)))
    from_edge = np.repeat(np.arange(count), len(rays))
    shares = np.tile(rays, count)
    places, inward = edges.at(from_edge, shares), _inward(edges, from_edge, shares)
    away, hit = _rays(places + _INSIDE * inward, inward, chords)
    other = ends[hit] - begins[hit]
    other /= np.hypot(other[:, 0], other[:, 1])[:, None]
    outward = np.column_stack([other[:, 1], -other[:, 0]])
    looks = np.einsum("ij,ij->i", inward, outward)
    order = np.flatnonzero((looks >= math.cos(_FACING)) & np.isfinite(away))
    order = order[np.argsort(away[order])]
    if not len(order):
        # Nothing faces anything, as in a triangle: its least width then, across its hull.
        return _hull_width(shapely.get_coordinates(shape.polygon(CHORDS * size).convex_hull)[:-1])
    met = np.column_stack([from_edge[order], number[hit[order]]])
    _, firsts = np.unique(np.sort(met, axis=1), axis=0, return_index=True)
    firsts = np.sort(firsts)[:_TRIED]
    rays_tried, (one, other_edge) = order[firsts], met[firsts].T
    there, chord = places[rays_tried] + inward[rays_tried] * away[rays_tried, None], hit[rays_tried]
    along, _ = nearest_on(there, begins[chord], ends[chord])
    met_at = bounds[chord, 0] + along * (bounds[chord, 1] - bounds[chord, 0])
    s, t = _nearest(edges, one, other_edge, shares[rays_tried], met_at)
    a, b = edges.at(one, s), edges.at(other_edge, t)
    wide = np.hypot(*(b - a).T)
    # Downhill may lead to where the faces look away from one another no more, into a corner where they meet say, or
    # out of the section.
    narrow = _face(_inward(edges, one, s), _inward(edges, other_edge, t), a, b)
    if narrow.any():
        # Edges stray from chords by no more than that: what lies on them counts as inside.
        within = shape.polygon(CHORDS * size).buffer(CHORDS * size)
        shapely.prepare(within)
        narrow &= (wide <= SAME_PLACE) | shapely.contains_xy(within, (a + b) / 2)
    if narrow.any():
        at = int(np.argmin(np.where(narrow, wide, np.inf)))
        best = float(wide[at]), a[at], b[at]
    else:
        # It is nowhere narrower than beside it, as a round: where its faces look most away from one another.
        ray = int(order[np.argmax(looks[order] - 1e-9 * away[order])])
        # Where the ray meets a chord, the edge itself is nearest by.
        there = edges.nearest(number[hit[[ray]]], (places[ray] + inward[ray] * away[ray])[None])[1][0]
        best = math.dist(places[ray], there), places[ray], there
    return best[0], (float(best[1][0]), float(best[1][1])), (float(best[2][0]), float(best[2][1]))


def _inward(edges: Together, number: Indices, shares: Array) -> Array:
    """Return the units (k, 2) into the section from edges, whose area lies on their left, at shares (k,) of them."""
    along = edges.tangents(number, shares)
    return np.column_stack([-along[:, 1], along[:, 0]])


def _rays(places: Array, ways: Array, chords: EdgeChords) -> tuple[Array, Indices]:
    """Return how far rays (n, 2) go until they meet one of chords, and which straight that is, (n,) each; endless where none."""
    # On which side of each ray's straight every point lies; the ends of few chords lie on different ones.
    across = np.column_stack([-ways[:, 1], ways[:, 0]])
    sides = np.column_stack([across, -np.einsum("ij,ij->i", across, places)])
    beyond = np.signbit(sides @ np.concatenate([chords.points.T, np.ones((1, len(chords.points)))]))
    inner = np.flatnonzero(chords.edge[1:] == chords.edge[:-1])
    begins = chords.points.take(inner, axis=0)
    alongs = chords.points.take(inner + 1, axis=0) - begins
    straight = np.cumsum(chords.edge[1:] == chords.edge[:-1]) - 1
    ray, point = np.divmod(np.flatnonzero(beyond[:, 1:] != beyond[:, :-1]), len(chords.points) - 1)
    # From the last point of an edge to the first of the next is no chord.
    chord = chords.edge[point + 1] == chords.edge[point]
    ray, met = ray[chord], straight[point[chord]]
    along_x, along_y = alongs.T.take(met, axis=1)
    off_x, off_y = begins.T.take(met, axis=1) - places.T.take(ray, axis=1)
    way_x, way_y = ways.T.take(ray, axis=1)
    cross = way_x * along_y - way_y * along_x
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (off_x * along_y - off_y * along_x) / cross
    # Only where they leave the section: a ray from an edge enters by the edge's own chord, a little inside it.
    good = np.isfinite(t) & (t > 0) & (cross > 0)
    ray, met, t = ray[good], met[good], t[good]
    order = np.lexsort((t, ray))
    which, first = np.unique(ray[order], return_index=True)
    far, hit = np.full(len(places), np.inf), np.zeros(len(places), dtype=np.int64)
    far[which], hit[which] = t[order][first], met[order][first]
    return far + _INSIDE, hit


def _nearest(edges: Together, one: Indices, other: Indices, s: Array, t: Array) -> tuple[Array, Array]:
    """Return the shares (k,) of pairs of edges where they are nearest to one another, from shares of them downhill.

    By pattern search: of some places on each about where it stands the nearest two, and the places nearer together where those are
    no further away.
    """
    s, t, wide, best = s.copy(), t.copy(), np.full(len(one), 1 / 8), np.full(len(one), np.inf)
    steps, rows, both = np.linspace(-1.0, 1.0, _PLACES), np.arange(len(one)), np.repeat(np.concatenate([one, other]), _PLACES)
    for _ in range(40):
        shares = np.clip(np.stack([s, t])[:, :, None] + wide[:, None] * steps, 0, 1)
        p, q = edges.at(both, shares.ravel()).reshape(2, -1, _PLACES, 2)
        x, y = p[:, :, None, 0] - q[:, None, :, 0], p[:, :, None, 1] - q[:, None, :, 1]
        away = (x * x + y * y).reshape(len(one), -1)
        found = np.argmin(away, axis=1)
        i, j = np.divmod(found, _PLACES)
        # Along faces that are parallel there is always another place as near: no reason to go on as far.
        before, best = best, np.sqrt(away[rows, found])
        went = np.maximum(np.abs(shares[0][rows, i] - s), np.abs(shares[1][rows, j] - t))
        s, t = shares[0][rows, i], shares[1][rows, j]
        wide = np.where((went > wide / 2) & (best < (1 - _NEARER) * before), wide, wide / ((_PLACES - 1) / 2))
        if wide.max() < _TELLS:
            break
    return s, t


def _face(first: Array, second: Array, a: Array, b: Array) -> Flags:
    """Return which pairs of faces, by their units inward (k, 2), look nearly away from one another between places a and b (k, 2)."""
    wide = np.hypot(*(b - a).T)
    touch = wide <= SAME_PLACE
    way = (b - a) / np.where(touch, 1.0, wide)[:, None]
    apart = np.einsum("ij,ij->i", first, -second) >= math.cos(_FACING)
    across = np.minimum(np.einsum("ij,ij->i", first, way), np.einsum("ij,ij->i", second, -way))
    return np.asarray(np.where(touch, apart, across >= math.cos(_FACING) - SAME_PLACE))


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
