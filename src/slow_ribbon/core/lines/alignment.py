"""Lines resolved into courses: where their corners are, and which frames their sections stand in (``course``)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Final

import numpy as np

from slow_ribbon.core.geometry.curves import Curve
from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.geometry.frames import UPRIGHT_LIMIT, Rule, angle, angle_between, carried, carry, first_right, upright
from slow_ribbon.core.geometry.joined_spans import add_span
from slow_ribbon.core.kernel.arrays import Array, Flags, Indices
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.tolerances import NO_LEAN, SAME_SHARE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.fillets import LinePart, line_parts, only_straight
from slow_ribbon.core.lines.model import Line

#: Tangents that differ by less than this, in radians, make no corner.
STRAIGHT: Final = math.radians(0.01)
#: A corner that turns more than this, in radians, goes back on itself and has no mitre.
FOLD: Final = math.radians(179.9)


def frame_rule(line: Line, tangents: Array) -> tuple[Rule, str]:
    """Return the frame rule a line uses, and why, in words; ``tangents`` are the directions it takes."""
    steep = bool(np.any(np.hypot(tangents[:, 0], tangents[:, 1]) < math.sin(UPRIGHT_LIMIT)))
    if line.frame == "carried":
        return "carried", "chosen for this line"
    if line.frame == "upright" and not steep:
        return "upright", "chosen for this line"
    if line.frame == "upright":
        raise Refused(
            f"{line.name} has a leg within 1° of vertical, where upright has no meaning: use carried frames.", "frame", "frame-vertical"
        )
    if steep:
        return "carried", "a leg is within 1° of vertical"
    return "upright", "no leg is near vertical"


@kept_with
def course_of(line: Line) -> Course:
    """Return the line resolved into pieces between corners, with their frames.

    Points on a straight make no piece, wherever a closed line happens to start.

    >>> from slow_ribbon.core.lines.model import line_body, with_id
    >>> course = course_of(with_id(line_body([(0, 0, 0), (1000, 0, 0), (3000, 0, 0), (3000, 4000, 0)], False, "Line"), "L1"))
    >>> course.count, course.lengths.tolist(), course.rights[1].tolist()
    (2, [3000.0, 4000.0], [1.0, -0.0, 0.0])
    """
    return _straight_course(line) if only_straight(line) and not line.spread else _bent_course(line)


def _straight_course(line: Line) -> Course:
    points = line.points()
    corners, chainages, length = _corners(points, line.closed)
    vertices = points[corners]
    if line.closed:
        starts, ends = vertices, np.concatenate([vertices[1:], vertices[:1]])
        begins = chainages
    else:
        starts, ends = vertices[:-1], vertices[1:]
        begins = chainages[:-1]
    spans = ends - starts
    lengths = np.sqrt(np.einsum("ij,ij->i", spans, spans))
    # A closed line of one corner has a piece of no length.
    tangents = spans / np.where(lengths > 0, lengths, 1.0)[:, None]
    before = np.concatenate([tangents[-1:], tangents[:-1]])
    turns = angle_between(before, tangents)
    free = np.zeros(len(turns), dtype=bool)
    if not line.closed:
        turns[0] = 0.0
        free[0] = True
    rule, why = frame_rule(line, tangents)
    rights, ups, leftover = carried(tangents, line.closed) if rule == "carried" else (*upright(tangents), 0.0)
    if rule == "carried" and line.right is not None:
        # The piece that holds the line's start; before its first corner a closed line is on its last.
        at = len(lengths) - 1 if line.closed and begins[0] > WELD else 0
        angle_off = _angle_to(line.right, rights[at], ups[at])
        rights, ups = rights * math.cos(angle_off) + ups * math.sin(angle_off), ups * math.cos(angle_off) - rights * math.sin(angle_off)
    return Course(
        closed=line.closed,
        starts=starts,
        ends=ends,
        tangents=tangents,
        rights=rights,
        ups=ups,
        tangents_end=tangents,
        rights_end=rights,
        ups_end=ups,
        lengths=lengths,
        begins=begins,
        turns=turns,
        free=free,
        rule=rule,
        why=why,
        leftover=leftover,
        length=length,
    )


def _angle_to(wanted: Sequence[float], right: Array, up: Array) -> float:
    """Return the angle, from right toward up, at which a direction lies as seen along travel; zero where it lies along travel."""
    x, y = float(np.dot(wanted, right)), float(np.dot(wanted, up))
    return math.atan2(y, x) if math.hypot(x, y) > SAME_SHARE * (float(np.linalg.norm(wanted)) or 1.0) else 0.0


def _bent_course(line: Line) -> Course:
    groups, chainages, length = _pieces(line_parts(line), line.closed)
    count = len(groups)
    tangents, tangents_end, starts, ends = (np.empty((count, 3)) for _ in range(4))
    steep: list[Array] = []
    for i, spans in enumerate(groups):
        drawn = [span.drawn(1e9) for span in spans]
        _, points, along = drawn[0]
        starts[i], tangents[i] = points[0], along[0]
        _, points, along = drawn[-1]
        ends[i], tangents_end[i] = points[-1], along[-1]
        steep.extend(along for _, _, along in drawn)
    rule, why = frame_rule(line, np.concatenate(steep))
    turns = angle_between(np.roll(tangents_end, 1, axis=0), tangents)
    # Round a loop without a corner there is nothing to mitre.
    turns[turns <= STRAIGHT] = 0.0
    free = np.zeros(count, dtype=bool)
    if not line.closed:
        turns[0] = 0.0
        free[0] = True
    lengths = np.array([sum(span.length for span in spans) for spans in groups])

    def framed(first: Array, spread: float) -> Course:
        return _framed(
            line.closed, groups, starts, ends, tangents, tangents_end, lengths, chainages, turns, free, rule, why, length, spread, first
        )

    if rule == "upright":
        return framed(np.zeros(3), 0.0)
    first = first_right(_turning(groups, tangents))
    course = framed(first, 0.0)
    spread = course.leftover if line.spread else 0.0
    course = framed(first, spread) if spread else course
    if line.right is not None:
        here = course.at(np.zeros(1))
        angle_off = _angle_to(line.right, here.rights[0], here.ups[0])
        up = np.cross(first, tangents[0])
        course = framed(first * math.cos(angle_off) + up * math.sin(angle_off), spread)
    return course


def _framed(
    closed: bool, groups: list[list[Curve]], starts: Array, ends: Array, tangents: Array, tangents_end: Array, lengths: Array,
    begins: Array, turns: Array, free: Flags, rule: Rule, why: str, length: float, spread: float, first: Array,
) -> Course:  # fmt: skip
    """Return the course with frames; ``spread`` is the left-over twist to turn back evenly along the length, ``first`` the first right."""
    count = len(groups)
    paths: dict[int, Path] = {}
    rights, rights_end, ups, ups_end = (np.empty((count, 3)) for _ in range(4))
    right = first
    spin, walked = spread / length, 0.0
    if rule == "upright":
        (rights, ups), (rights_end, ups_end) = upright(tangents), upright(tangents_end)
    for i, spans in enumerate(groups):
        if rule == "upright":
            right = rights[i]
        elif i:
            right = carry(right, tangents_end[i - 1], tangents[i])
        bent = spread != 0 or any(not span.straight for span in spans)
        if bent:
            paths[i] = path = Path(tuple(spans), rule, right, float(lengths[i]), spin=spin, spun=spin * walked)
        if bent and rule != "upright":
            both = path.at(np.array([0.0, lengths[i]]))
            rights[i], rights_end[i] = both.rights
            ups[i], ups_end[i] = both.ups
            # The next piece starts from the untwisted frame; the spin is counted from the start.
            right = replace(path, spin=0.0, spun=0.0).at(np.array([lengths[i]])).rights[0] if spread else rights_end[i]
        elif rule != "upright":
            rights[i] = rights_end[i] = right
            ups[i] = ups_end[i] = np.cross(right, tangents[i])
        walked += float(lengths[i])
    if closed and count == 1 and 0 in paths and not turns[0] and _goes_round(paths[0]):
        paths[0] = replace(paths[0], ring=True)
    leftover = 0.0
    if closed and rule == "carried" and not spread:
        home = carry(right, tangents_end[-1], tangents[0])
        leftover = math.atan2(float(np.cross(rights[0], home) @ tangents[0]), float(rights[0] @ home))
        leftover = 0.0 if abs(leftover) < NO_LEAN else leftover
    return Course(
        closed=closed,
        starts=starts,
        ends=ends,
        tangents=tangents,
        rights=rights,
        ups=ups,
        tangents_end=tangents_end,
        rights_end=rights_end,
        ups_end=ups_end,
        lengths=lengths,
        begins=begins,
        turns=turns,
        free=free,
        rule=rule,
        why=why,
        leftover=leftover,
        length=length,
        paths=paths,
    )


def _goes_round(path: Path) -> bool:
    """Return whether a path ends as it begins, with its frame."""
    here = path.at(np.array([0.0, path.length]))
    return all(float(np.abs(one[0] - one[1]).max()) < WELD for one in (here.points, here.tangents, here.rights))


def _turning(groups: list[list[Curve]], tangents: Array) -> Array:
    """Return the directions a line takes one after another, from the first, for finding the plane it begins in."""
    found = [tangents[:1]]
    for spans in groups[:8]:
        found.extend(span.at(np.linspace(0, span.length, 9))[1] for span in spans[:8])
    return np.concatenate(found)


def _pieces(parts: Sequence[LinePart], closed: bool) -> tuple[list[list[Curve]], Array, float]:
    """Return the spans of each piece, the chainages where pieces begin, and the line's length.

    Straights that go on in one direction are one span, and so are parts of one curve. Directions of straights are compared
    with that of the first straight after a corner, so that a slow turn is not lost.
    """
    chainage, marks = 0.0, []
    first_way, last_way = (np.array([part.span.direction(end) for part in parts]) for end in (False, True))
    corner = angle_between(np.roll(last_way, 1, axis=0), first_way) > STRAIGHT
    corner[0] &= closed
    direction = None
    for i, part in enumerate(parts):
        marks.append(chainage)
        chainage += part.span.length
        if i and direction is not None and not corner[i]:
            corner[i] = angle(direction, first_way[i]) > STRAIGHT
        if not part.span.straight:
            direction = None
        elif direction is None or corner[i]:
            direction = first_way[i]
    first = int(np.argmax(corner)) if closed and corner.any() else 0
    groups: list[list[Curve]] = []
    begins = []
    for step in range(len(parts)):
        i = (first + step) % len(parts)
        span = parts[i].span
        if step == 0 or corner[i]:
            groups.append([span])
            begins.append(marks[i])
            continue
        add_span(groups[-1], span)
    order = sorted(range(len(begins)), key=begins.__getitem__)
    return [groups[i] for i in order], np.array([begins[i] for i in order]), chainage


def _corners(points: Array, closed: bool) -> tuple[Indices, Array, float]:
    """Return the indices of the corner points, their chainages, and the line's length.

    Directions are compared with that of the last leg after a corner, not of the last leg, so
    that a slow turn by many small angles is not lost.
    """
    path = np.vstack([points, points[:1]]) if closed else points
    spans = np.diff(path, axis=0)
    lengths = np.sqrt(np.einsum("ij,ij->i", spans, spans))
    chainages = np.concatenate([[0.0], np.cumsum(lengths)])
    tangents = spans / lengths[:, None]
    turned = angle_between(np.concatenate([tangents[-1:], tangents[:-1]]), tangents) > STRAIGHT
    if not closed:
        turned[0] = False
    first = int(np.argmax(turned)) if closed and turned.any() else 0
    kept = [first]
    # Only at points that are straight within the limit can the slow turn build up.
    doubtful = not bool(np.all(turned[1:] if not closed else turned))
    direction = tangents[first]
    order = [(first + i) % len(tangents) for i in range(1, len(tangents))]
    for index in order:
        if turned[index] or (doubtful and angle(direction, tangents[index]) > STRAIGHT):
            kept.append(index)
            direction = tangents[index]
    if closed:
        kept.sort()
    else:
        kept.append(len(points) - 1)
    indices = np.array(kept, dtype=np.int64)
    return indices, chainages[indices], float(chainages[-1])
