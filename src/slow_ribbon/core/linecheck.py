"""Whether a line holds together: its legs, closing, openings and marks."""

from __future__ import annotations

import math

from slow_ribbon.core.course import course_of
from slow_ribbon.core.faults import Refused
from slow_ribbon.core.legs import StraightLeg
from slow_ribbon.core.line import Line
from slow_ribbon.core.parts import line_parts, only_straight
from slow_ribbon.core.told import figure
from slow_ribbon.core.units import WELD


def check_line(line: Line) -> None:
    """Raise ``Refused``, with the place in the line, where it does not hold together.

    A leg of no length or that cannot be, a radius that does not fit, closed without coming
    back or without an inside, an opening past the end or over another one, two marks of one name.
    """
    if line.closed and math.dist(line.legs[-1].to, line.start) > WELD:
        gap = math.dist(line.legs[-1].to, line.start)
        raise Refused(
            f"{line.name} is marked closed but ends {gap:.3g} mm from its start: end the last leg at the start.",
            f"legs.{len(line.legs) - 1}.to",
            "line-open",
        )
    before = line.start
    for index, leg in enumerate(line.legs):
        if isinstance(leg, StraightLeg) and math.dist(before, leg.to) <= WELD:
            raise Refused(
                f"Leg {index + 1} of {line.name} has no length: both its ends are at "
                f"({figure(leg.to[0])}, {figure(leg.to[1])}, {figure(leg.to[2])}). Remove one of them or move it.",
                f"legs.{index}.to",
                "leg-zero",
            )
        before = leg.to
    straight = only_straight(line)
    if line.closed and straight and len(line.legs) < 3:
        raise Refused(f"{line.name} needs at least three corners to be closed: it has {len(line.legs)}.", "closed", "line-closed")
    if not straight:
        try:
            line_parts(line)
        except Refused as refused:
            raise _of_leg(line, refused) from refused
    course = course_of(line)
    if line.closed and straight and course.count < 3:
        raise Refused(f"{line.name} goes there and back without enclosing anything: move one of its corners.", "legs", "line-closed")
    _check_openings(line, course.length)
    _check_marks(line, course.length)


def _of_leg(line: Line, refused: Refused) -> Refused:
    """Return a leg's refusal with the leg named in it."""
    place = refused.where.split(".")
    if refused.code == "round-large" or len(place) < 2 or not place[1].isdigit():
        return refused
    return Refused(f"Leg {int(place[1]) + 1} of {line.name}: {refused.what}", refused.where, refused.code)


def _check_openings(line: Line, length: float) -> None:
    taken: list[tuple[float, float, str]] = []
    for index, opening in enumerate(line.openings):
        where = f"openings.{index}"
        end = opening.at + opening.width
        if opening.at > length + WELD or (not line.closed and end > length + WELD):
            raise Refused(
                f"Opening {opening.name} goes from {figure(opening.at)} to {figure(end)}, past the end of {line.name} at {figure(length)}: "
                "move it back or make it narrower.",
                where,
                "opening-past",
            )
        if opening.width > length - WELD:
            raise Refused(f"Opening {opening.name} takes all of {line.name}: make it narrower.", where, "opening-past")
        parts = [(opening.at, min(end, length))] + ([(0.0, end - length)] if end > length else [])
        for low, high in parts:
            for other_low, other_high, name in taken:
                if low < other_high - WELD and other_low < high - WELD:
                    raise Refused(
                        f"Openings {name} and {opening.name} of {line.name} lie over one another, "
                        f"between {figure(max(low, other_low))} and {figure(min(high, other_high))}: move one of them.",
                        where,
                        "openings-meet",
                    )
        taken.extend((low, high, opening.name) for low, high in parts)
    names = [opening.name for opening in line.openings]
    if len(set(names)) != len(names):
        twice = next(name for name in names if names.count(name) > 1)
        raise Refused(f"Two openings of {line.name} are named {twice}: give each its own name.", "openings", "name-twice")


def _check_marks(line: Line, length: float) -> None:
    seen: set[str] = set()
    for index, mark in enumerate(line.marks):
        if mark.at > length + WELD:
            what = f"Mark {mark.name} at {figure(mark.at)} lies past the end of {line.name} at {figure(length)}."
            raise Refused(what, f"marks.{index}.at", "mark-past")
        if mark.name in seen:
            raise Refused(f"Two marks of {line.name} are named {mark.name}: give each its own name.", f"marks.{index}.name", "name-twice")
        seen.add(mark.name)
