"""Validation of lines: legs, closing, openings and marks."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from typing import Final

import numpy as np

from slow_ribbon.core.geometry.cubics import surely_smooth
from slow_ribbon.core.geometry.curves import MOST_PARTS, STEP
from slow_ribbon.core.geometry.frames import angle_between
from slow_ribbon.core.kernel.arrays import CHORD_HEIGHT
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import STRAIGHT, course_of
from slow_ribbon.core.lines.fillets import line_parts, only_straight
from slow_ribbon.core.lines.legs.curve import CurveLeg, plain_controls
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.point_ids import point_count

#: The sine squared of the least turn that is surely a corner: a fold back on itself is left to be looked at closely.
_CORNER: Final = (2 * STRAIGHT) ** 2
#: Parts that all legs of a line together may take to be drawn.
MOST_OF_LINE: Final = 200_000


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
    if not _numbered_once(line):
        raise Refused(
            f"The points of {line.name} are not numbered once each, below the next number: leave out point_ids and next_point.",
            "point_ids",
            "line-points",
        )
    before = line.start
    for index, leg in enumerate(line.legs):
        if leg.straight and math.dist(before, leg.to) <= WELD:
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
        _check_parts(line)
    course = course_of(line)
    if line.closed and straight and course.count < 3:
        raise Refused(f"{line.name} goes there and back without enclosing anything: move one of its corners.", "legs", "line-closed")
    _check_openings(line, course.length)
    _check_marks(line, course.length)


def surely_sound(lines: Sequence[Line]) -> set[str]:
    """Return the ids of lines in which ``check_line`` would find nothing wrong: of many plain ones, all at once."""
    bare = [line for line in lines if line.frame != "upright" and not (line.openings or line.marks) and _numbered_once(line)]
    plain = [line for line in bare if only_straight(line)]
    bent = {line.id for line in bare if not only_straight(line) and _surely_sound_bent(line)}
    return bent | _surely_sound_straight(plain) if plain else bent


def _numbered_once(line: Line) -> bool:
    ids = line.point_ids
    return not ids or (len(ids) == point_count(line) and len(set(ids)) == len(ids) and max(ids) < line.next_point)


def _surely_sound_bent(line: Line) -> bool:
    """Return whether ``check_line`` would surely find nothing wrong in a line of cubic Bézier curves and straights with sharp corners."""
    if any(leg.round is not None or not (leg.straight or (isinstance(leg, CurveLeg) and leg.plain)) for leg in line.legs):
        return False
    if line.closed and math.dist(line.legs[-1].to, line.start) > WELD / 2:
        return False
    begins = [line.start, *(leg.to for leg in line.legs)]
    if any(leg.straight and math.dist(begin, leg.to) <= 2 * WELD for begin, leg in zip(begins, line.legs, strict=False)):
        return False
    controls = plain_controls(line.start, line.legs)[1]
    if not surely_smooth(controls).all():
        return False
    # A curve turns by no more than its controls do and is no longer. Of the parts that halving leaves at a time no more turn by more than
    # ``STEP``, nor are size · turn more than 8 · chord height, than that allows for; and it halves them 16 times at most.
    sides = np.diff(controls, axis=1)
    sizes = np.sqrt(np.einsum("nij,nij->ni", sides, sides))
    ways = sides / sizes[:, :, None]
    turns = angle_between(ways[:, :2].reshape(-1, 3), ways[:, 1:].reshape(-1, 3)).reshape(-1, 2).sum(axis=1)
    parts = 17 * (1 + turns / STEP + np.sqrt(turns * sizes.sum(axis=1) / (8 * CHORD_HEIGHT)))
    return bool(parts.max() < MOST_PARTS and parts.sum() + len(line.legs) < MOST_OF_LINE)


def _surely_sound_straight(plain: Sequence[Line]) -> set[str]:
    """Return the ids of lines of straights in which ``check_line`` would find nothing wrong, all at once."""
    points = np.array([point for line in plain for point in (line.start, *(leg.to for leg in line.legs))], dtype=float)
    sizes = np.array([len(line.legs) for line in plain])
    closed = np.array([line.closed for line in plain])
    first = np.concatenate([[0], np.cumsum(sizes + 1)[:-1]])
    legs = np.delete(np.diff(points, axis=0), first[1:] - 1, axis=0)
    low = np.concatenate([[0], np.cumsum(sizes)[:-1]])
    squares = np.einsum("ij,ij->i", legs, legs)
    no_length = np.logical_or.reduceat(squares <= (2 * WELD) ** 2, low)
    gap = points[first + sizes] - points[first]
    open_still = closed & (np.einsum("ij,ij->i", gap, gap) > (WELD / 2) ** 2)
    # The leg before each; before the first of a line, its last.
    before = np.arange(len(legs)) - 1
    before[low] = low + sizes - 1
    cross = np.cross(legs[before], legs)
    # Beyond rounding, |a × b|² = |a|²|b|² sin².
    corners = np.einsum("ij,ij->i", cross, cross) > _CORNER * squares[before] * squares
    flat = closed & (np.add.reduceat(corners.astype(np.int64), low) < 3)
    return {line.id for line, wrong in zip(plain, (no_length | open_still | flat).tolist(), strict=True) if not wrong}


def _check_parts(line: Line) -> None:
    """Raise ``Refused`` where a curve could only be drawn with more parts than any that can be made."""
    total = 0
    for part in line_parts(line):
        places, whole = part.span.flattened(CHORD_HEIGHT, 0.0)
        total += len(places) - 1
        alone = not whole
        if alone or total > MOST_OF_LINE:
            raise Refused(
                f"Leg {part.leg + 1} of {line.name} turns so often, or reaches so far, that drawing it to {figure(CHORD_HEIGHT)} takes "
                f"more than {MOST_PARTS if alone else MOST_OF_LINE:,} parts: bring its points nearer together, or split it.",
                f"legs.{part.leg}",
                "curve-too-fine",
            )


def _of_leg(line: Line, refused: Refused) -> Refused:
    """Return a leg's refusal with the leg named in it."""
    place = refused.where.split(".")
    if refused.code == "round-large" or len(place) < 2 or not place[1].isdigit():
        return refused
    return Refused(f"Leg {int(place[1]) + 1} of {line.name}: {refused.what}", refused.where, refused.code)


def _check_openings(line: Line, length: float) -> None:
    taken: list[tuple[float, float, int]] = []
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
        taken.extend((low, high, index) for low, high in parts)
    taken.sort()
    reach = (-math.inf, 0)
    for low, high, index in taken:
        if low < reach[0] - WELD and high > low + WELD:
            first, second = sorted((reach[1], index))
            raise Refused(
                f"Openings {line.openings[first].name} and {line.openings[second].name} of {line.name} lie over one another, "
                f"between {figure(low)} and {figure(min(high, reach[0]))}: move one of them.",
                f"openings.{second}",
                "openings-meet",
            )
        reach = max(reach, (high, index))
    names = Counter(opening.name for opening in line.openings)
    if len(names) != len(line.openings):
        twice = next(name for name, count in names.items() if count > 1)
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
