"""Polylines: where on straights points come nearest, and points that lie on the straight between others dropped."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import TINIEST


def straightened(points: Array, closed: bool, limit: float) -> Array:
    """Return the points without those that stray no more than ``limit`` mm from the straight between their neighbours.

    Every dropped point stays within ``limit`` of the result (the rule of Ramer, 1972, and of
    Douglas and Peucker, 1973, applied between points that are surely corners).
    """
    count = len(points)
    if count < (4 if closed else 3):
        return points
    before, after = np.roll(points, 1, axis=0), np.roll(points, -1, axis=0)
    doubtful = stray(points, before, after) <= limit
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
        away = stray(points[a + 1 : b], points[a], points[b])
        worst = int(np.argmax(away))
        if away[worst] > limit:
            middle = a + 1 + worst
            keep[middle] = True
            stack.extend(part for part in ((a, middle), (middle, b)) if part[1] - part[0] > 1)
    kept = np.flatnonzero(keep)
    if closed:
        kept = kept[:-1]
    return points[kept] if len(kept) >= (3 if closed else 2) else points[: count if closed else None]


def nearest_on(points: Array, begins: Array, ends: Array) -> tuple[Array, Array]:
    """Return where on straight pieces points come nearest, as a share from 0 to 1, (...), and the ways from there to them, (..., d).

    Points, begins and ends are (..., d) and broadcast against one another. On a piece of no length it is its begin.

    >>> shares, ways = nearest_on(np.array([3.0, 4.0]), np.array([[0.0, 0.0], [0.0, 4.0]]), np.array([[6.0, 0.0], [1.0, 4.0]]))
    >>> shares.tolist(), ways.tolist()
    ([0.5, 1.0], [[0.0, 4.0], [2.0, 0.0]])
    """
    along = ends - begins
    square = np.maximum(np.einsum("...j,...j->...", along, along), TINIEST)
    from_begin = points - begins
    shares = np.clip(np.einsum("...j,...j->...", from_begin, along) / square, 0, 1)
    return shares, np.asarray(from_begin - along * shares[..., None])


def stray(points: Array, begins: Array, ends: Array) -> Array:
    """Return the distance of points from the straight pieces begins–ends, as ``nearest_on``.

    >>> stray(np.array([3.0, 4.0]), np.array([0.0, 0.0]), np.array([6.0, 0.0])).item()
    4.0
    """
    _, ways = nearest_on(points, begins, ends)
    return np.asarray(np.sqrt(np.einsum("...j,...j->...", ways, ways)))


def nearest_chainage(chainages: Array, points: Array, place: Array) -> tuple[float, float]:
    """Return the chainage at which a polyline through points (n, d) comes nearest to a place (d,), and how far it is from there, mm.

    >>> nearest_chainage(np.array([100.0, 106.0]), np.array([[0.0, 0.0], [6.0, 0.0]]), np.array([3.0, 4.0]))
    (103.0, 4.0)
    """
    shares, ways = nearest_on(place, points[:-1], points[1:])
    away = np.linalg.norm(ways, axis=1)
    best = int(np.argmin(away))
    return float(chainages[best] + (chainages[best + 1] - chainages[best]) * shares[best]), float(away[best])
