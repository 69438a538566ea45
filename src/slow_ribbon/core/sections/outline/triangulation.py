"""Flattened shapes: polygons with the triangles that fill them, for drawing and for solids."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
import shapely
from scipy.spatial import cKDTree

from slow_ribbon.core.geometry.polylines import nearest_on
from slow_ribbon.core.kernel.arrays import Array, Flags, Indices, Result
from slow_ribbon.core.kernel.tolerances import SAME_PLACE

#: Sides are looked at so far along them, as shares, and are halved this often at most.
_QUARTERS: Final = np.array([0.25, 0.5, 0.75])
_MOST_HALVINGS: Final = 16


@dataclass(frozen=True)
class FlatShape(Result):
    """A flattened shape for drawing.

    ``points`` (n, 2) are the polygon's vertices, loop after loop (``loop_sizes``), and after them any that lie inside; ``skin`` holds
    (m, 3) rows of (point index, normal x, normal y) as used for shading, and ``segments`` (s, 2)
    pairs of skin rows: neighbours share a row where the outline is smooth, not at an arris.
    ``triangles`` (t, 3) fill the shape, anticlockwise, using the points.
    """

    points: Array
    loop_sizes: tuple[int, ...]
    skin_points: Indices
    skin_normals: Array
    segments: Indices
    triangles: Indices

    @property
    def rim(self) -> int:
        """How many of the points lie on the outline."""
        return sum(self.loop_sizes)

    def finer(self, halves: Callable[[Array], Flags] | None = None) -> FlatShape:
        """Return the same shape with sides of its triangles halved, which puts points on its outline and inside it.

        ``halves`` says which of some sides (e, 2, 2) are; all of them where it is left out. Returns itself where none is.
        """
        rim = self.rim
        after = np.arange(1, rim + 1)
        ends = np.cumsum(self.loop_sizes)
        after[ends - 1] = ends - self.loop_sizes
        sides = np.stack([self.triangles[:, [0, 1]], self.triangles[:, [1, 2]], self.triangles[:, [2, 0]]], axis=1)
        # A side is given by one number, which is sorted faster than two.
        message, edge_of = np.unique(sides.min(axis=2) * len(self.points) + sides.max(axis=2), return_inverse=True)
        edges = np.column_stack(np.divmod(message, len(self.points)))
        halved = np.ones(len(edges), dtype=bool) if halves is None else halves(self.points[edges])
        if not halved.any():
            return self
        # Which edges are sides of the outline, and from which of its points they go.
        first, second = edges[:, 0], edges[:, 1]
        on_rim = second < rim
        forward = on_rim & (after[np.minimum(first, rim - 1)] == second)
        backward = on_rim & ~forward & (after[np.minimum(second, rim - 1)] == first)
        outer, inner = (forward | backward) & halved, ~(forward | backward) & halved
        # The index of each point of the rim and of each middle.
        parted = np.zeros(rim, dtype=bool)
        parted[np.where(forward, first, second)[outer]] = True
        before = np.concatenate([[0], np.cumsum(parted)])
        new_rim = rim + int(before[-1])
        numbers = np.arange(len(self.points))
        old = np.where(numbers < rim, numbers + before[np.minimum(numbers, rim)], numbers + int(before[-1]))
        middle = np.full(len(edges), -1)
        middle[outer] = old[np.where(forward, first, second)[outer]] + 1
        middle[inner] = new_rim + (len(self.points) - rim) + np.arange(int(inner.sum()))
        points = np.empty((len(self.points) + int(halved.sum()), 2))
        points[old] = self.points
        points[middle[halved]] = self.points[edges[halved]].mean(axis=1)
        from_rows, to_rows = self.segments.T
        cut = parted[self.skin_points[from_rows]]
        cut_from, cut_to = from_rows[cut], to_rows[cut]
        between = len(self.skin_points) + np.arange(len(cut_from))
        normals = self.skin_normals[cut_from] + self.skin_normals[cut_to]
        sizes = np.diff(np.concatenate([[0], before[ends]]))
        return FlatShape(
            points=points,
            loop_sizes=tuple((np.array(self.loop_sizes) + sizes).tolist()),
            skin_points=np.concatenate([old[self.skin_points], old[self.skin_points[cut_from]] + 1]),
            skin_normals=np.concatenate([self.skin_normals, normals / np.hypot(*normals.T)[:, None]]),
            segments=np.concatenate([self.segments[~cut], np.stack([cut_from, between], axis=1), np.stack([between, cut_to], axis=1)]),
            triangles=_parted(old[self.triangles], middle[edge_of.reshape(-1, 3)]),
        )

    def fitted(self, reach: Callable[[Array], Array], within: float, least: float, most: float) -> FlatShape:
        """Return the shape divided until the surface that ``reach`` gives at points (k, 2) is flat ``within`` a distance.

        Sides that are shorter than ``least`` are left as they are, where it steps; none is longer than ``most``. All in mm.
        """
        settled = np.zeros(0, dtype=complex)

        def halves(sides: Array) -> Flags:
            nonlocal settled
            lengths = np.linalg.norm(sides[:, 1] - sides[:, 0], axis=1)
            found = np.asarray(lengths > most)
            # A side is given by its middle: one that was flat stays so.
            middles = sides.mean(axis=1).round(9) @ (1, 1j)
            looked = np.flatnonzero(~found & (lengths > least) & ~np.isin(middles, settled))
            begins, ends = sides[looked, 0], sides[looked, 1]
            corners, which = one_of_each(np.concatenate([begins, ends]))
            between = begins + _QUARTERS[:, None, None] * (ends - begins)
            # At the corners and between them, all at once: asking costs more than the places do.
            reached = reach(np.concatenate([corners, between.reshape(-1, 2)]))
            first, last = reached[: len(corners)][which].reshape(2, -1)
            off = reached[len(corners) :].reshape(len(_QUARTERS), -1) - first - _QUARTERS[:, None] * (last - first)
            # Square to the surface, which rises by this much from end to end.
            long = lengths[looked]
            rough = np.abs(off).max(axis=0) * long > within * np.hypot(long, last - first)
            settled = np.concatenate([settled, middles[looked][~rough]])
            found[looked[rough]] = True
            return found

        flat = self
        for _ in range(_MOST_HALVINGS):
            finer = flat.finer(halves)
            if finer is flat:
                break
            flat = finer
        return flat


def one_of_each(points: Array) -> tuple[Array, Indices]:
    """Return points (k, 2) each once, and which of these each is."""
    # As complex numbers they are sorted faster than as pairs.
    found, which = np.unique(np.ascontiguousarray(points, dtype=float).view(complex).ravel(), return_inverse=True)
    return found.view(float).reshape(-1, 2), which


def _parted(triangles: Indices, middles: Indices) -> Indices:
    """Return triangles (t, 3) parted at the middles of their sides (t, 3): those from their first corner on, −1 where a side is whole."""
    found = []
    counts = (middles >= 0).sum(axis=1)
    found.append(triangles[counts == 0])
    for turn in range(3):
        # One side: turned so that it is the first. Two: that the last is the one that is whole.
        (a, b, c), (ab, bc, _) = np.roll(triangles, -turn, axis=1).T, np.roll(middles, -turn, axis=1).T
        one = (counts == 1) & (ab >= 0)
        found.extend(np.stack(corners, axis=1)[one] for corners in ((a, ab, c), (ab, b, c)))
        two = (counts == 2) & (ab >= 0) & (bc >= 0)
        found.extend(np.stack(corners, axis=1)[two] for corners in ((ab, b, bc), (a, ab, bc), (a, bc, c)))
    (a, b, c), (ab, bc, ca) = triangles.T, middles.T
    found.extend(np.stack(corners, axis=1)[counts == 3] for corners in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca)))
    return np.concatenate(found)


def levelled(flat: FlatShape, ways: Sequence[tuple[Array, Array]]) -> FlatShape:
    """Return a flattened shape with points put in where its sides are at heights (h,) along units (2,), no triangle across one."""
    for up, heights in ways:
        flat = _with_points(flat, up, heights)
    points, triangles = _between(flat.points, flat.loop_sizes, ways)
    return replace(flat, points=points, triangles=triangles)


def _with_points(flat: FlatShape, up: Array, heights: Array) -> FlatShape:
    """Return a flattened shape with points put in where its sides are at heights (h,) along a unit ``up`` (2,), and no triangles."""
    turn = np.array([[up[1], up[0]], [-up[0], up[1]]])  # to the right of up, and up, in columns
    places = flat.points[: flat.rim] @ turn
    after = np.arange(1, flat.rim + 1)
    ends = np.cumsum(flat.loop_sizes)
    after[ends - 1] = ends - flat.loop_sizes
    low, high = places[:, 1], places[after, 1]
    # On every side those heights that lie between its ends, in the order in which they are met.
    above, below = np.minimum(low, high)[:, None] + SAME_PLACE, np.maximum(low, high)[:, None] - SAME_PLACE
    side, level = np.nonzero((heights > above) & (heights < below))
    share = (heights[level] - low[side]) / (high[side] - low[side])
    order = np.lexsort((share, side))
    side, level, share = side[order], level[order], share[order]
    # The index of each point, and of each that is inserted, round the rim.
    before = np.searchsorted(side, np.arange(flat.rim + 1))
    old = np.arange(flat.rim) + before[:-1]
    new = np.arange(len(side)) + side + 1
    points = np.empty((flat.rim + len(side), 2))
    points[old] = places
    points[new] = places[side] + share[:, None] * (places[after[side]] - places[side])
    points[new, 1] = heights[level]
    sizes = np.diff(np.append(old[np.concatenate([[0], ends[:-1]])], len(points)))
    rows, normals, segments = [old[flat.skin_points]], [flat.skin_normals], []
    last = len(flat.skin_points)
    for a, b in flat.segments.tolist():
        number = flat.skin_points[a]
        some = slice(before[number], before[number + 1])
        count = some.stop - some.start
        rows.append(new[some])
        mixed = flat.skin_normals[a] + share[some, None] * (flat.skin_normals[b] - flat.skin_normals[a])
        normals.append(mixed / np.hypot(*mixed.T)[:, None])
        chain = np.concatenate([[a], np.arange(last, last + count), [b]])
        segments.append(np.column_stack([chain[:-1], chain[1:]]))
        last += count
    return FlatShape(
        points=points @ turn.T,
        loop_sizes=tuple(sizes.tolist()),
        skin_points=np.concatenate(rows),
        skin_normals=np.concatenate(normals),
        segments=np.concatenate(segments),
        triangles=np.zeros((0, 3), dtype=np.int64),
    )


def _between(points: Array, sizes: Sequence[int], ways: Sequence[tuple[Array, Array]]) -> tuple[Array, Indices]:
    """Return triangles (t, 3) that fill rings and lie between heights along units, and the points (n, 2) that they use.

    These are the rings' points, and after them those inside where heights along one unit cross those along another.
    """
    ends = np.cumsum(sizes)
    after = np.arange(1, ends[-1] + 1)
    after[ends - 1] = ends - sizes
    rings = [points[end - size : end] for size, end in zip(sizes, ends, strict=True)]
    parts = np.array([shapely.Polygon(rings[0], rings[1:])])
    for up, heights in ways:
        turn = np.array([[up[1], up[0]], [-up[0], up[1]]])
        (left, low), (right, high) = (points @ turn).min(axis=0), (points @ turn).max(axis=0)
        inside = np.sort(heights[(heights > low + SAME_PLACE) & (heights < high - SAME_PLACE)])
        bounds = np.concatenate([[low - 1], inside, [high + 1]])
        strips = shapely.polygons(
            np.stack([np.column_stack([x, y]) for x, y in (
                (np.full(len(bounds) - 1, left - 1), bounds[:-1]), (np.full(len(bounds) - 1, right + 1), bounds[:-1]),
                (np.full(len(bounds) - 1, right + 1), bounds[1:]), (np.full(len(bounds) - 1, left - 1), bounds[1:]),
            )], axis=1) @ turn.T
        )  # fmt: skip
        parts = shapely.get_parts(shapely.intersection(parts[:, None], strips[None]).ravel())
        parts = parts[(shapely.get_dimensions(parts) == 2) & (shapely.area(parts) > 0)]
    filled = shapely.constrained_delaunay_triangles(parts)
    corners = shapely.get_coordinates(filled).reshape(-1, 4, 2)[:, :3]
    away, nearest = cKDTree(points).query(corners)
    triangles = np.asarray(nearest)
    far = np.flatnonzero(np.ravel(away) >= SAME_PLACE)
    if len(far):
        spots, which = np.unique(np.round(corners.reshape(-1, 2)[far] / SAME_PLACE), axis=0, return_inverse=True)
        numbers = len(points) + np.arange(len(spots))
        # A side that is nearly level is cut some way along it by a height that one of its ends is at: there it has no point but its ends.
        for k, spot in enumerate(spots * SAME_PLACE):
            shares, from_sides = nearest_on(spot, points[: ends[-1]], points[after])
            off = np.abs(from_sides).max(axis=1)
            side = int(np.argmin(off))
            if off[side] < 2 * SAME_PLACE:
                numbers[k] = side if shares[side] < 0.5 else after[side]
        triangles.reshape(-1)[far] = numbers[which.ravel()]
        points = np.concatenate([points, spots * SAME_PLACE])
    a, b, c = (points[triangles[:, i]] for i in range(3))
    turns = (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]
    triangles[turns < 0] = triangles[turns < 0][:, ::-1]
    return points, np.asarray(triangles[turns != 0])


def triangulated(points: Array, sizes: Sequence[int]) -> Indices:
    """Return triangles (t, 3) that fill the rings, using their vertices and no others."""
    ends = np.cumsum(sizes)
    rings = [points[end - size : end] for size, end in zip(sizes, ends, strict=True)]
    filled = shapely.constrained_delaunay_triangles(shapely.Polygon(rings[0], rings[1:]))
    corners = shapely.get_coordinates(filled).reshape(-1, 4, 2)[:, :3]
    # Corners of triangles are points as they were given: found by sorting them as complex numbers.
    given = points[:, 0] + 1j * points[:, 1]
    order = np.argsort(given)
    triangles = order[np.searchsorted(given[order], corners[..., 0] + 1j * corners[..., 1])]
    a, b, c = (points[triangles[:, i]] for i in range(3))
    clockwise = (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0] < 0
    triangles[clockwise] = triangles[clockwise][:, ::-1]
    return triangles
