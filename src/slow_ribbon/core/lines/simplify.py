"""Fewer points: points on straights dropped, within a tolerance, and how far the result strays."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np

from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.lines.legs import AnyLeg, StraightLeg, place
from slow_ribbon.core.lines.model import Line, leg_begins
from slow_ribbon.core.sections.profile import Array


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


def simplified(line: Line, tolerance: float) -> tuple[Line, float]:
    """Return a line without the points of its straights that stray no more than ``tolerance`` mm, and how far it strays at most.

    Curves, rounded corners and the ends stay as they are.
    """
    begins = leg_begins(line)
    runs: list[list[Point3]] = []
    out: list[AnyLeg] = []
    strayed = 0.0
    run: list[Point3] = []

    def settle() -> None:
        nonlocal strayed, run
        if not run:
            return
        points = np.array(run)
        whole = line.closed and len(run) == len(line.legs) + 1
        tidy = straightened(points[:-1] if whole else points, whole, tolerance)
        if whole:
            # A closed line keeps its own start unless that lies on a straight.
            runs.append([place(point) for point in tidy])
            tidy = np.vstack([tidy, tidy[:1]])
        strayed = max(strayed, _deviation(points, tidy))
        out.extend(StraightLeg(to=place(point)) for point in tidy[1:])
        run = []

    for leg, begin in zip(line.legs, begins, strict=True):
        if not isinstance(leg, StraightLeg):
            settle()
            out.append(leg)
            continue
        run = [*(run or [begin]), leg.to]
        if leg.round is not None:
            settle()
            out[-1] = out[-1].model_copy(update={"round": leg.round})
    settle()
    start = runs[0][0] if runs else line.start
    return line.model_copy(update={"start": start, "legs": tuple(out)}), strayed


def _deviation(points: Array, tidy: Array) -> float:
    most = 0.0
    for point in points:
        look_up(3 * len(tidy))
        along = tidy[1:] - tidy[:-1]
        square = np.maximum(np.einsum("ij,ij->i", along, along), 1e-300)
        share = np.clip(np.einsum("ij,ij->i", point - tidy[:-1], along) / square, 0, 1)
        away = point - tidy[:-1] - along * share[:, None]
        most = max(most, math.sqrt(float(np.einsum("ij,ij->i", away, away).min())))
    return most
