"""Working on lines: split, join, reverse, another start.

All are exact: an arc stays an arc, a part of a B-spline is a B-spline.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from slow_ribbon.core.geometry.curves import Curve
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import ROUNDING
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.fillets import line_parts
from slow_ribbon.core.lines.legs import AnyLeg, leg_of, place
from slow_ribbon.core.lines.model import Line, Mark, Opening, leg_begins
from slow_ribbon.core.lines.point_ids import next_point, point_ids, points_inherited, with_point_ids
from slow_ribbon.core.lines.transform import Motion, carried_over, moved_point


@dataclass(frozen=True)
class Halves:
    """A line's legs before and after a place on it."""

    before: tuple[AnyLeg, ...]
    point: Point3
    after: tuple[AnyLeg, ...]


def halves(line: Line, chainage: float) -> Halves:
    """Return a line's legs before and after a chainage. A rounding that is cut through becomes a leg of its own."""
    at = 0.0
    parts = line_parts(line)
    for number, part in enumerate(parts):
        if chainage <= at + part.span.length or number == len(parts) - 1:
            break
        at += part.span.length
    distance = min(max(chainage - at, 0.0), part.span.length)
    if part.rounding and WELD < distance < part.span.length - WELD:
        return halves(unrounded(line, part.leg), chainage)
    legs, begins = list(line.legs), leg_begins(line)
    if part.rounding:
        # At the end of a rounding: on the leg before or after it.
        i = part.leg if distance <= WELD else (part.leg + 1) % len(legs)
        near = part.span.at(np.array([distance]))[0][0]
        span = legs[i].spans(begins[i])[-1 if distance <= WELD else 0]
        order = len(legs[i].spans(begins[i])) - 1 if distance <= WELD else 0
        distance = _distance_on(span, near)
    else:
        i, order, distance = part.leg, part.order, distance + part.low
        span = legs[i].spans(begins[i])[order]
    whole = legs[i].spans(begins[i])
    first, second = _leg_halves(legs[i], whole, order, distance)
    point = place(span.at(np.array([distance]))[0][0])
    if first:
        first[-1] = first[-1].model_copy(update={"to": point})
    if second:
        second[-1] = second[-1].model_copy(update={"to": legs[i].to, "round": legs[i].round})
    elif first:
        point = legs[i].to
        first[-1] = first[-1].model_copy(update={"to": point})
    else:
        point = begins[i]
    return Halves((*legs[:i], *first), point, (*second, *legs[i + 1 :]))


def _distance_on(span: Curve, near: Array) -> float:
    low, high = 0.0, span.length
    for _ in range(100):
        a, b = low + (high - low) / 3, high - (high - low) / 3
        p, q = span.at(np.array([a, b]))[0]
        low, high = (low, b) if np.linalg.norm(p - near) < np.linalg.norm(q - near) else (a, high)
    return (low + high) / 2


def _leg_halves(leg: AnyLeg, spans: Sequence[Curve], order: int, distance: float) -> tuple[list[AnyLeg], list[AnyLeg]]:
    """Return a leg cut at a distance on one of its spans; a whole leg where the cut lies at its end."""
    if order == 0 and distance <= WELD:
        return [], [leg]
    if order == len(spans) - 1 and distance >= spans[-1].length - WELD:
        return [leg.model_copy(update={"round": None})], []
    first: list[AnyLeg] = [leg_of(span, 0.0, span.length) for span in spans[:order]]
    second: list[AnyLeg] = [leg_of(span, 0.0, span.length) for span in spans[order + 1 :]]
    here = spans[order]
    if distance > WELD:
        first.append(leg_of(here, 0.0, distance))
    if here.length - distance > WELD:
        second.insert(0, leg_of(here, distance, here.length))
    return first, second


def unrounded(line: Line, leg: int) -> Line:
    """Return a line whose rounding after leg ``leg`` is an arc leg of its own; the line does not move."""
    parts = line_parts(line)
    number = next(i for i, part in enumerate(parts) if part.rounding and part.leg == leg)
    span = parts[number].span
    ends = span.at(np.array([0.0, span.length]))[0]
    legs, begins = list(line.legs), leg_begins(line)
    after = (leg + 1) % len(legs)
    first = _leg_halves(legs[leg], legs[leg].spans(begins[leg]), _last_order(line, leg), _cut(line, leg, ends[0]))[0]
    second = _leg_halves(legs[after], legs[after].spans(begins[after]), 0, _cut(line, after, ends[1], first=True))[1]
    arc = leg_of(span, 0.0, span.length)
    second[-1] = second[-1].model_copy(update={"to": legs[after].to, "round": legs[after].round}) if second else arc
    middle = [*first, arc, *second]
    if after == 0:
        ring = (arc, *second, *legs[1:leg], *first) if line.rounding_at_start == "first" else (*second, *legs[1:leg], *first, arc)
        begin = ends[0 if line.rounding_at_start == "first" else 1]
        return line.model_copy(update={"start": place(begin), "legs": ring, "rounding_at_start": "last"})
    return line.model_copy(update={"legs": (*legs[:leg], *middle, *legs[after + 1 :])})


def _last_order(line: Line, leg: int) -> int:
    return len(line.legs[leg].spans(leg_begins(line)[leg])) - 1


def _cut(line: Line, leg: int, near: Array, first: bool = False) -> float:
    spans = line.legs[leg].spans(leg_begins(line)[leg])
    return _distance_on(spans[0] if first else spans[-1], near)


def right_at(line: Line, chainage: float, right: Array) -> Line:
    """Return a line whose carried frames stand so that right lies along ``right`` (3,) at a chainage."""
    plain = line.model_copy(update={"right": None})
    course = course_of(plain)
    if course.rule != "carried":
        return plain
    here, start = course.at(np.array([chainage])), course.at(np.zeros(1))
    off = math.atan2(float(right @ here.ups[0]), float(right @ here.rights[0]))
    if abs(off) < ROUNDING:
        return plain
    return line.model_copy(update={"right": place(start.rights[0] * math.cos(off) + start.ups[0] * math.sin(off))})


def sides_over(line: Line) -> dict[str, Any]:
    """Return what a line has to its sides, its wall and its strip, on the other side each."""
    wall, strip = line.wall, line.strip
    return {
        "wall": wall and wall.model_copy(update={"side": "left" if wall.side == "right" else "right"}),
        "strip": strip and strip.model_copy(update={"left": strip.right, "right": strip.left}),
    }


def moved_by(line: Line, motion: Motion) -> Line:
    """Return a line moved, turned or mirrored as it is, its carried frames with it."""
    found = carried_over(line, motion)
    course = course_of(line)
    if course.rule == "upright":
        return found
    right = np.array(motion.direct(course.at(np.zeros(1)).rights[0]))
    return right_at(found, 0.0, -right if motion.over else right)


def reverse(line: Line) -> Line:
    """Return a line gone the other way; openings, marks, wall and carried frames stay where they are on it."""
    course = course_of(line)
    length = course.length
    begins = leg_begins(line)
    legs = [leg.reversed(begin) for leg, begin in zip(line.legs, begins, strict=True)][::-1]
    # The radius at the end of a leg belongs to the corner there.
    radii = [line.legs[i - 1].round for i in range(len(line.legs) - 1, 0, -1)] + [line.legs[-1].round if line.closed else None]
    legs = [leg.model_copy(update={"round": radius}) for leg, radius in zip(legs, radii, strict=True)]
    openings = []
    for opening in reversed(line.openings):
        at = length - opening.at - opening.width
        openings.append(opening.model_copy(update={"at": at % length if line.closed else max(0.0, at)}))
    marks = []
    for mark in reversed(line.marks):
        at = length - mark.at
        marks.append(mark.model_copy(update={"at": at % length if line.closed else max(0.0, at)}))
    update: dict[str, Any] = {
        "start": line.legs[-1].to,
        "legs": tuple(legs),
        "openings": tuple(openings),
        "marks": tuple(marks),
        **sides_over(line),
    }
    # Chainage 0 stays where it is: a rounding that came last along the line comes first.
    update["rounding_at_start"] = (
        "first" if line.closed and line.legs[-1].round is not None and line.rounding_at_start == "last" else "last"
    )
    ids = point_ids(line)
    turned = (ids[0], *ids[:0:-1]) if line.closed else ids[::-1]
    found = with_point_ids(line.model_copy(update=update), turned, next_point(line))
    if course.rule == "upright":
        return found.model_copy(update={"right": None}) if line.right is not None else found
    return right_at(found, 0.0, -course.just_before(length).rights[0])


def start_at(line: Line, chainage: float) -> Line:
    """Return a closed line that starts at another place; openings and marks stay where they are. Raises ``Refused`` for an open one."""
    if not line.closed:
        raise Refused(f"{line.name} is open: it starts where it starts. Reverse it to go the other way.", "line", "line-open")
    course = course_of(line)
    length = course.length
    parted = halves(line, chainage % length)
    ids = _ids_of_halves(line, parted)
    found = line if ids is None else with_point_ids(line, [*ids[1][:-1], *ids[0][:-1]], next_point(line))
    found = found.model_copy(
        update={
            "start": parted.point,
            "legs": (*parted.after, *parted.before),
            "rounding_at_start": "last",
            "openings": tuple(opening.model_copy(update={"at": (opening.at - chainage) % length}) for opening in line.openings),
            "marks": tuple(mark.model_copy(update={"at": (mark.at - chainage) % length}) for mark in line.marks),
        }
    )
    return right_at(found, 0.0, course.at(np.array([chainage % length])).rights[0]) if course.rule == "carried" else found


def split(line: Line, chainage: float) -> tuple[Line, Line | None]:
    """Return the two lines that a line makes when split at a chainage; a closed one opens there and stays one.

    Raises ``Refused`` at an end, or inside an opening.
    """
    course = course_of(line)
    length = course.length
    for opening in line.openings:
        if opening.at + WELD < chainage < opening.at + opening.width - WELD:
            raise Refused(f"Opening {opening.name} lies there: split beside it.", "at", "opening")
    if line.closed:
        opened = start_at(line, chainage)
        last = opened.legs[-1].model_copy(update={"round": None})
        opened = points_inherited(line, opened)
        numbered = with_point_ids(opened, [*point_ids(opened), None], next_point(opened))
        return numbered.model_copy(update={"legs": (*opened.legs[:-1], last), "closed": False}), None
    if not WELD < chainage < length - WELD:
        raise Refused(
            f"There is nothing to split off at {figure(chainage)}: choose a place between the ends of {line.name}.", "at", "split"
        )
    parted = halves(line, chainage)
    before = (*parted.before[:-1], parted.before[-1].model_copy(update={"round": None}))
    first = line.model_copy(
        update={
            "legs": before,
            "openings": tuple(opening for opening in line.openings if opening.at < chainage - WELD),
            "marks": tuple(mark for mark in line.marks if mark.at <= chainage),
        }
    )
    second = line.model_copy(
        update={
            "start": parted.point,
            "legs": parted.after,
            "openings": tuple(_moved(opening, -chainage) for opening in line.openings if opening.at >= chainage - WELD),
            "marks": tuple(_moved(mark, -chainage) for mark in line.marks if mark.at > chainage),
        }
    )
    ids = _ids_of_halves(line, parted)
    if ids is None:
        first, second = points_inherited(line, first), points_inherited(line, second)
    else:
        first, second = (with_point_ids(part, some, next_point(line)) for part, some in zip((first, second), ids, strict=True))
    if course.rule == "carried":
        return right_at(first, 0.0, course.at(np.zeros(1)).rights[0]), right_at(second, 0.0, course.at(np.array([chainage])).rights[0])
    return first, second


def _ids_of_halves(line: Line, parted: Halves) -> tuple[list[int | None], list[int | None]] | None:
    """Return the numbers of the points of both halves of a line, None for a new one; None where parting it made others besides."""
    ids = [*point_ids(line), *(point_ids(line)[:1] if line.closed else ())]
    at = len(parted.before)
    more = at + len(parted.after) - len(line.legs)
    if more == 0:
        return [*ids[: at + 1]], [*ids[at:]]
    return ([*ids[:at], None], [None, *ids[at:]]) if more == 1 else None


def _moved(thing: Any, by: float) -> Any:
    return thing.model_copy(update={"at": max(0.0, thing.at + by)})


@dataclass(frozen=True)
class JoinedLines:
    """Lines laid end to end: the line they make, their ids in order along it, and those that had to be reversed.

    ``shifts``: by how much the numbers of each one's points are higher on the line they make.
    """

    line: Line
    order: tuple[str, ...]
    reversed: frozenset[str]
    shifts: Mapping[str, int]


def join_lines(lines: Sequence[Line], tolerance: float) -> JoinedLines:
    """Return several open lines laid end to end, from the first; those that lie the wrong way round are reversed.

    Gaps up to ``tolerance`` mm are closed half way. Raises ``Refused`` where a line is closed or too far off.
    """
    order, turned_round, shifts = [lines[0].id], set(), {lines[0].id: 0}
    for line in lines:
        look_up()
        if line.closed:
            raise Refused(f"{line.name} is closed: only open lines can be joined.", "lines", "line-closed")
    chain, rest = lines[0], list(lines[1:])
    while rest:
        ways = []
        for index, line in enumerate(rest):
            for at_end in (True, False):
                for turned in (False, True):
                    other = (line.legs[-1].to if turned else line.start) if at_end else (line.start if turned else line.legs[-1].to)
                    own = chain.legs[-1].to if at_end else chain.start
                    ways.append((math.dist(own, other), index, at_end, turned))
        gap, index, at_end, turned = min(ways)
        line = rest.pop(index)
        if gap > tolerance:
            raise Refused(
                f"{line.name} ends {figure(gap)} from {lines[0].name}, more than the {figure(tolerance, 3)} that is closed: "
                "move it nearer.",
                "lines",
                "gap",
            )
        if turned:
            turned_round.add(line.id)
            line = reverse(line)
        order.insert(len(order) if at_end else 0, line.id)
        shifts[line.id] = next_point(chain)
        chain = _chained(chain, line) if at_end else _chained(line, chain, chain)
    if math.dist(chain.start, chain.legs[-1].to) <= tolerance and len(chain.legs) > 1:
        numbered = with_point_ids(chain, point_ids(chain)[:-1], next_point(chain))
        chain = moved_point(numbered, len(chain.legs), chain.start).model_copy(update={"closed": True})
    return JoinedLines(chain, tuple(order), frozenset(turned_round), shifts)


def _chained(first: Line, second: Line, keeps: Line | None = None) -> Line:
    middle = place((np.array(first.legs[-1].to) + np.array(second.start)) / 2)
    if math.dist(first.legs[-1].to, second.start) > 0:
        first = moved_point(first, len(first.legs), middle)
        second = moved_point(second, 0, middle)
    length = course_of(first).length
    names = {opening.name for opening in first.openings}
    openings = [*first.openings, *(_unique(_moved(opening, length), names) for opening in second.openings)]
    names = {mark.name for mark in first.marks}
    marks = [*first.marks, *(_unique(_moved(mark, length), names) for mark in second.marks)]
    other = first if keeps else second
    own, shift = point_ids(keeps or first), next_point(keeps or first)
    others = [id + shift for id in point_ids(other)]
    numbered = with_point_ids(keeps or first, [*others[:-1], *own] if keeps else [*own, *others[1:]], shift + next_point(other))
    found = numbered.model_copy(
        update={"start": first.start, "legs": (*first.legs, *second.legs), "openings": tuple(openings), "marks": tuple(marks)}
    )
    # Carried frames stand as they did on the line that keeps its name.
    kept = course_of(second if keeps else first)
    return right_at(found, length if keeps else 0.0, kept.at(np.zeros(1)).rights[0])


def _unique(thing: Opening | Mark, names: set[str]) -> Any:
    name, number = thing.name, 2
    while name in names:
        name, number = f"{thing.name} {number}", number + 1
    return thing.model_copy(update={"name": name})
