"""The outlines of pieces on plan."""

from __future__ import annotations

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import CHORD_HEIGHT, Array
from slow_ribbon.core.kernel.tolerances import NO_LEAN
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.drawn_pieces import carried


def footprints(cuts: Cuts) -> tuple[tuple[Array, ...], ...]:
    """Return each piece's outline on plan: the quadrilateral of its widest reach; a hull where it rises; a strip where it bends."""
    course, placed = cuts.course, cuts.placed
    reach = placed.furthest(np.array([[-1.0, 0], [0, -1], [1, 0], [0, 1]])) * (-1, -1, 1, 1)
    left, low, right, high = (float(value) for value in reach)
    box = np.array([[left, low], [right, low], [right, high], [left, high]])
    straight = cuts.straight
    begin, end = cuts.fibres(box, straight)
    base = course.rights[straight, None, :] * box[:, :1] + course.ups[straight, None, :] * box[:, 1:] + course.starts[straight, None, :]
    near, far = np.empty((2, course.count, 4, 3))
    near[straight] = base + course.tangents[straight, None, :] * begin[:, :, None]
    far[straight] = base + course.tangents[straight, None, :] * end[:, :, None]
    level = (np.abs(course.tangents[:, 2]) < NO_LEAN) & (course.rule == "upright")
    found: list[tuple[Array, ...]] = []
    for i in range(course.count):
        if i in course.paths:
            found.append(_strip(cuts, i, box))
        elif level[i] and abs(cuts.slopes_begin[i, 1]) + abs(cuts.slopes_end[i, 1]) < NO_LEAN:
            found.append((np.array([near[i, 0], far[i, 0], far[i, 1], near[i, 1]])[:, :2],))
        else:
            found.append((_hull(np.concatenate([near[i], far[i]])[:, :2]),))
    return tuple(found)


def _strip(cuts: Cuts, index: int, box: Array) -> tuple[Array, ...]:
    """Return the outline on plan of a piece that bends: along its left edge and back along its right."""
    path = cuts.course.paths[index]
    shares = path.flattened(CHORD_HEIGHT, float(np.abs(box).max())) / path.length
    here = carried(cuts, index, box, shares)
    points, along = here.points[..., :2], here.tangents[..., :2].mean(axis=1)
    # Seen from above a rising piece is as wide as its section's corners lie apart across travel.
    across = np.einsum("rkj,rj->rk", points, np.stack([along[:, 1], -along[:, 0]], axis=1))
    rows = np.arange(len(shares))
    rights, lefts = points[rows, across.argmax(axis=1)], points[rows, across.argmin(axis=1)]
    if cuts.course.count == 1 and not cuts.open_begin()[0]:
        return lefts[:-1], rights[:-1][::-1]
    return (np.concatenate([lefts, rights[::-1]]),)


def _hull(points: Array) -> Array:
    hull = shapely.convex_hull(shapely.multipoints(points))
    return np.asarray(shapely.get_coordinates(hull))
