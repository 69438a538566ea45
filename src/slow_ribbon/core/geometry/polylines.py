"""Polylines: points that lie on the straight between others dropped, and how far points lie from straights."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from slow_ribbon.core.kernel.arrays import Array


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


def stray(points: Array, begins: Array, ends: Array) -> Array:
    """Return the distance of points from the straight pieces begins–ends, (n,)."""
    along = ends - begins
    square = np.maximum(np.sum(along * along, axis=-1), 1e-300)
    share = np.clip(np.sum((points - begins) * along, axis=-1) / square, 0, 1)
    away = points - begins - along * share[..., None]
    return np.asarray(np.sqrt(np.sum(away * away, axis=-1)))
