"""Numbers by which the points of a line are referred to, and which stay theirs while the line is worked on.

A line that was never worked on numbers its points from 0 at its start. A new point gets a number that the line has not had yet, so
that what refers to a point that was removed refers to none. A leg is referred to by the point at which it begins.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from scipy.spatial import cKDTree

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.lines.model import Line


def point_count(line: Line) -> int:
    """Return how many points a line has; a closed line's start counts once."""
    return len(line.legs) + (0 if line.closed else 1)


def point_ids(line: Line) -> tuple[int, ...]:
    """Return the numbers of a line's points, in order along it."""
    return line.point_ids or tuple(range(point_count(line)))


def next_point(line: Line) -> int:
    """Return the number that the next new point of a line gets."""
    return line.next_point or point_count(line)


def with_point_ids(line: Line, ids: Sequence[int | None], following: int) -> Line:
    """Return a line whose points have these numbers, those of None new ones from ``following`` on."""
    given = []
    for id in ids:
        given.append(following if id is None else id)
        following += id is None
    return line.model_copy(update={"point_ids": tuple(given), "next_point": following})


def index_of_point(line: Line, id: int, where: str) -> int:
    """Return which point of a line, counted from 0, has a number. Raises ``Refused`` where none has."""
    ids = point_ids(line)
    # Of most lines they are the places themselves.
    if id < len(ids) and ids[id] == id:
        return id
    if id not in ids:
        raise Refused(f"{line.name} has no such point any more: pick the point again.", where, "unknown-point")
    return ids.index(id)


def index_of_leg(line: Line, id: int, where: str = "leg") -> int:
    """Return which leg of a line, counted from 0, begins at the point of a number. Raises ``Refused`` where none does."""
    if not line.closed and id == point_ids(line)[-1]:
        raise Refused(f"No leg of {line.name} begins at its last point: pick the leg again.", where, "unknown-leg")
    return index_of_point(line, id, where)


def points_inherited(was: Line, now: Line) -> Line:
    """Return a line with the numbers that its points have, where it was made of another state of it that may not say which they are.

    A point is the one in the same place; where as many points were moved, the one at the same place in the order.
    """
    count = point_count(now)
    if now.point_ids and now.point_ids != was.point_ids and len(now.point_ids) == count:
        return now
    numbers = {"point_ids": was.point_ids, "next_point": was.next_point}
    kept = now if (now.point_ids, now.next_point) == (was.point_ids, was.next_point) else now.model_copy(update=numbers)
    old, new = was.points(), now.points()
    if len(old) == len(new) and (np.abs(old - new).max() <= SAME_PLACE or not _all_there(old, new)):
        return kept
    ids, free = point_ids(was), set(range(len(old)))
    found: list[int | None] = []
    near_each: Any = cKDTree(old).query_ball_point(new, SAME_PLACE)
    for near in near_each:
        # Points in one place keep their order.
        index = min((index for index in near if index in free), default=None)
        free.discard(-1 if index is None else index)
        found.append(None if index is None else ids[index])
    return kept if tuple(found) == ids else with_point_ids(kept, found, next_point(was))


def _all_there(old: Array, new: Array) -> bool:
    away, _ = cKDTree(old).query(new)
    return bool(np.asarray(away).max() <= SAME_PLACE)
