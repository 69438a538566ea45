"""Places on lines that an edit names by position, side or direction; and whether they are still those when the line was remade since.

Terms
-----
way
    which way a line goes and where it starts: it says which end is the first, and what lies to the left.
named place
    a point by its number, a leg by that of the point where it begins, a place by its chainage, or a side or end by the way of the line.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Final, Literal

import numpy as np

from slow_ribbon.core.geometry.polylines import nearest_on
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.point_ids import point_ids

#: Shares of a line at which it is looked where it goes.
_SHARES: Final = np.linspace(0.0, 1.0, 33)


@dataclass(frozen=True)
class NamedPlace:
    """A place on a ``line`` (its id), named by its number (``point``, ``leg``), its chainage, mm, as an end, by the way of the
    line, by the ``order`` of its points, or the ``whole`` of it with its openings and marks."""

    line: str
    by: Literal["whole", "way", "order", "first", "last", "point", "leg", "chainage"]
    at: float = 0.0


def both_ends(line: str) -> tuple[NamedPlace, ...]:
    """Return the places that something names that goes along the whole of a line."""
    return NamedPlace(line, "way"), NamedPlace(line, "first"), NamedPlace(line, "last")


def remade(was: Job, now: Job, places: Iterable[NamedPlace]) -> list[str]:
    """Return the ids of the lines on which places named in one state of a job are other places in a later one."""
    before = {line.id: line for line in was.lines}
    after = {line.id: line for line in now.lines}
    return [
        place.line
        for place in places
        if (line := before.get(place.line)) is not None
        and (other := after.get(place.line)) is not None
        and not (line == other if place.by == "whole" else _geometry(line) == _geometry(other) or _still(line, other, place))
    ]


def _geometry(line: Line) -> tuple[object, ...]:
    return line.start, line.legs, line.closed, line.rounding_at_start, line.point_ids


def _still(was: Line, now: Line, place: NamedPlace) -> bool:
    before, after = course_of(was), course_of(now)
    if place.by == "way":
        return same_way(before, after)
    if place.by == "chainage":
        return _same_chainage(before, after, place.at)
    if place.by in ("first", "last"):
        return _same_end(before, after, len(was.legs) == len(now.legs), place.by == "last")
    if _turned(_looked(before), _looked(after)):
        # Where it is to be now, by coordinates or by a side, was said of the line as it lay.
        return False
    old, new = point_ids(was), point_ids(now)
    if place.by == "order":
        kept = set(old) & set(new)
        return [id for id in old if id in kept] == [id for id in new if id in kept]
    if place.by == "leg":
        id = int(place.at)
        return id in old and id in new and _after(old, id, was.closed) == _after(new, id, now.closed)
    return int(place.at) in new


def _after(ids: Sequence[int], id: int, closed: bool) -> int | None:
    """Return the number of the point after one; None after the last of an open line."""
    index = ids.index(id) + 1
    return ids[index % len(ids)] if closed or index < len(ids) else None


def _same_end(before: Course, after: Course, alike: bool, last: bool) -> bool:
    """Return whether a line still begins, or ends, where it did, or was moved there; not where it was split off or made longer."""
    if before.closed or after.closed or not same_way(before, after):
        return before.closed and after.closed and same_way(before, after)
    old, new = _looked(before), _looked(after)
    end, there = (old[-1], new[-1]) if last else (old[0], new[0])
    if float(np.linalg.norm(end - there)) <= WELD:
        return True
    return alike and not _lies_on(end, new) and not _lies_on(there, old)


def _same_chainage(before: Course, after: Course, chainage: float) -> bool:
    """Return whether a chainage is the same place of two lines; where the whole line was moved, it goes along."""
    if chainage > after.length + WELD:
        return False
    (here,), (there,) = (course.points_at(np.array([min(chainage, course.length)])) for course in (before, after))
    away, begun = there - here, after.points_at(np.zeros(1))[0] - before.points_at(np.zeros(1))[0]
    if float(np.abs(away).max()) <= WELD:
        # A line gone the other way may have its middle in the same place.
        tangents = (course.at(np.array([min(chainage, course.length)])).tangents[0] for course in (before, after))
        return float(np.dot(*tangents)) > 0 and same_way(before, after)
    return abs(before.length - after.length) <= WELD and float(np.abs(away - begun).max()) <= WELD and same_way(before, after)


def same_way(before: Course, after: Course) -> bool:
    """Return whether two states of a line go the same way from the same start: nearer so than turned or started elsewhere."""
    old, new = (_looked(course) for course in (before, after))
    if _turned(old, new):
        # What lay to its left on plan may lie to its right: where it was turned or mirrored as a whole nobody can say which was meant.
        return False
    if before.closed and after.closed:
        start = after.points_at(np.zeros(1))[0]
        if float(np.linalg.norm(start - old[0])) > WELD and _lies_on(old[0], new):
            # The place where it started is still on it, and no longer its start.
            return False
        shifts = [np.roll(new[:-1], k, axis=0) for k in range(len(new) - 1)]
        others = [*shifts[1:], *(shift[::-1] for shift in shifts)]
        return _apart(old[:-1], new[:-1]) <= min(_apart(old[:-1], other) for other in others)
    return _apart(old, new) <= _apart(old, new[::-1])


def _turned(old: Array, new: Array) -> bool:
    """Return whether a line was turned or mirrored as a whole, and not only moved along."""
    first, second = (np.linalg.norm(one[:, None] - one[None], axis=2) for one in (old, new))
    away = new - old
    return float(np.abs(first - second).max()) <= WELD and float(np.abs(away - away[0]).max()) > WELD


def _looked(course: Course) -> Array:
    places = _SHARES * course.length
    # The end of a closed line is its start.
    return course.points_at(places % course.length if course.closed else places)


def _apart(one: Array, other: Array) -> float:
    away = other - one
    return min(float(np.linalg.norm(away, axis=1).sum()), float(np.linalg.norm(away - away.mean(axis=0), axis=1).sum()) + WELD)


def _lies_on(point: Array, places: Array) -> bool:
    _, away = nearest_on(point, places[:-1], places[1:])
    return float(np.sqrt(np.einsum("ij,ij->i", away, away)).min()) <= WELD
