"""The line midway between two others."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import AnyLeg, PassPoint, StraightLeg, ThroughLeg, place
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.split_join import reverse


def _legs_halfway(first: Line, second: Line, half: Callable[[Point3, Point3], Point3]) -> tuple[AnyLeg, ...] | None:
    """Return the legs midway between those of two lines; None where they are not of the same kinds, or their kind has no such leg."""
    if len(first.legs) != len(second.legs):
        return None
    legs: list[AnyLeg] = []
    for leg, other in zip(first.legs, second.legs, strict=True):
        changes = leg.halfway(other, half)
        if changes is None:
            return None
        if leg.round and other.round:
            changes = {**changes, "round": (leg.round + other.round) / 2}
        legs.append(leg.model_copy(update={"to": half(leg.to, other.to), **changes}))
    return tuple(legs)


def midway(first: Line, second: Line) -> tuple[Point3, tuple[AnyLeg, ...], bool]:
    """Return the start and legs of the line midway between two, and whether it is closed.

    Two lines of the same legs are halved point by point, so that arcs stay arcs; others are
    halved at equal shares of their length, every corner of either being one.
    """
    if first.closed != second.closed:
        raise Refused(f"{first.name} and {second.name} must both be open or both closed.", "lines", "midway")
    a, b = np.array(first.start), np.array(first.legs[-1].to)
    c, d = np.array(second.start), np.array(second.legs[-1].to)
    if not first.closed and np.linalg.norm(a - d) + np.linalg.norm(b - c) < np.linalg.norm(a - c) + np.linalg.norm(b - d):
        second = reverse(second)

    def half(p: Point3, q: Point3) -> Point3:
        return place((np.array(p) + np.array(q)) / 2)

    legs = _legs_halfway(first, second, half)
    if legs is not None:
        return half(first.start, second.start), legs, first.closed
    one_course, other_course = course_of(first), course_of(second)
    sharp = {0.0, 1.0}
    shares = set(np.linspace(0, 1, 65).tolist()) if one_course.paths or other_course.paths else set()
    for course in (one_course, other_course):
        sharp |= {round(float(s) / course.length, 12) for s in course.begins}
    ordered = sorted(shares | sharp)
    places = (
        one_course.points_at(np.array(ordered) * one_course.length) + other_course.points_at(np.array(ordered) * other_course.length)
    ) / 2
    if first.closed:
        places[-1] = places[0]
    through = [PassPoint(at=place(point), sharp=share in sharp) for share, point in zip(ordered[1:-1], places[1:-1], strict=True)]
    if not shares:
        return place(places[0]), tuple(StraightLeg(to=place(point)) for point in places[1:]), first.closed
    return place(places[0]), (ThroughLeg(to=place(places[-1]), points=tuple(through)),), first.closed
