"""Lines imported again: each takes the shape the drawing now gives it, and all that stands on it stays."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Final

import numpy as np

from slow_ribbon.core.geometry.polylines import nearest_chainage
from slow_ribbon.core.job.attachments import identified
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.labels import tagged_things
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Id, Model
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import ROUNDING, SAME_PLACE
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line, LineBody, Mark, Opening, Source, with_id
from slow_ribbon.core.lines.split_join import reverse, start_at

#: An opening or a mark that would move further than this, mm, is not known to belong there.
UNSURE: Final = 500.0
#: Nor is one where the line now runs in another direction, by more than this (cosine of 15°).
_TURNED: Final = 0.966


class RenewedLine(Model):
    """A line that a drawing has again: where it now comes from, and its new shape where it takes one."""

    line: Id
    source: Source
    body: LineBody | None = None


def renewed(job: Job, file: str, again: Sequence[RenewedLine], gone: Sequence[str]) -> Job:
    """Return the job after a file was imported again: lines that it has again, and those that are gone from it."""
    lines = {line.id: line for line in job.lines}
    in_use = {id for id, names in stood_on(job).items() if names}
    for index, one in enumerate(again):
        look_up()
        line = _known(lines, one.line, f"renewed.{index}.line")
        if one.body is not None:
            line = laid(line, one.body)
        lines[line.id] = line.model_copy(update={"source": one.source, "undrawn": ""})
    for index, id in enumerate(gone):
        line = _known(lines, id, f"gone.{index}")
        if id in in_use:
            lines[id] = line.model_copy(update={"undrawn": file})
        else:
            del lines[id]
    # Openings that came with a line and are new have no ids yet.
    found, number = identified(job, lines.values())
    return job.model_copy(update={"lines": tuple(found), "last_number": number})


def _known(lines: Mapping[str, Line], id: str, where: str) -> Line:
    if id not in lines:
        raise Refused(f"There is no line {id} in this job: it may have been removed.", where, "unknown-id")
    return lines[id]


def stood_on(job: Job) -> dict[str, list[str]]:
    """Return for each line the names of what stands on it or is made from it."""
    names: dict[str, list[str]] = {}
    for thing in tagged_things(job):
        names.setdefault(thing.line, []).append(thing.name)
    for line in job.lines:
        for other in line.made.stands_on() if line.made is not None else ():
            names.setdefault(other, []).append(line.name)
    return names


def laid(line: Line, body: LineBody) -> Line:
    """Return a line with the shape of another, gone the same way from the same place; openings and marks stay where they are on it.

    What can no longer be placed is put where it lies nearest, and *unsettled*.
    """
    shape = _same_way(line, with_id(body.model_copy(update={"openings": (), "marks": ()}), line.id))
    laid = line.model_copy(update={"start": shape.start, "legs": shape.legs, "closed": shape.closed, "made": None})
    before, after = course_of(line), course_of(laid)
    known = {opening.name: opening for opening in line.openings}
    openings: list[Opening] = []
    for opening in sorted(line.openings, key=lambda one: one.at):
        at, sure = _carried(before, after, opening.at + opening.width / 2)
        at -= opening.width / 2
        if after.closed:
            at %= after.length
        fits = (after.closed and opening.width < after.length) or (at >= -SAME_PLACE and at + opening.width <= after.length + SAME_PLACE)
        if not fits:
            at = min(max(0.0, at), max(0.0, after.length - opening.width))
        unsettled = opening.unsettled or not (sure and fits)
        changes = {"at": max(0.0, at), "width": min(opening.width, after.length), "unsettled": unsettled}
        openings.append(opening.model_copy(update=changes))
    # What the file itself says of openings, a model's doors say, is where it says.
    message = _openings_of_file(body, laid)
    openings = [_as_shown(opening, message.get(opening.name)) for opening in openings]
    openings += [opening for name, opening in message.items() if name not in known and _free(opening, openings)]
    if not after.closed:
        openings = _beside(openings, after.length)
    marks: list[Mark] = []
    for mark in line.marks:
        at, sure = _carried(before, after, mark.at)
        marks.append(mark.model_copy(update={"at": max(0.0, at), "unsettled": mark.unsettled or not sure}))
    return laid.model_copy(update={"openings": tuple(openings), "marks": tuple(marks)})


def _beside(openings: Sequence[Opening], length: float) -> list[Opening]:
    """Return the openings of an open line with none over another: those a shorter line has no room for are moved back, unsettled."""
    found: list[Opening] = []
    limit = length
    # Those at one place stay in the order they had.
    for opening in sorted(openings, key=lambda one: one.at)[::-1]:
        at = min(opening.at, limit - opening.width)
        # Where there is no room at all, checking the line says so, and nothing is changed.
        found.append(opening if at > opening.at - SAME_PLACE or at < 0 else opening.model_copy(update={"at": at, "unsettled": True}))
        limit = found[-1].at
    return found[::-1]


def _same_way(line: Line, shape: Line) -> Line:
    """Return a line's new shape gone the way that the line goes, a closed one from about where it starts."""
    old = course_of(line)
    if shape.closed and line.closed:
        around = _turning(old) * _turning(course_of(shape))
        if around < 0:
            shape = reverse(shape)
        course = course_of(shape)
        ends = np.array([shape.start, *(leg.to for leg in shape.legs[:-1])])
        nearest = int(np.argmin(np.linalg.norm(ends - np.array(line.start), axis=1)))
        if nearest:
            at = nearest_chainage(*course.flattened(0.5), ends[nearest])[0]
            shape = start_at(shape, at)
        return shape
    ends = np.array([shape.start, shape.legs[-1].to])
    own = np.array([line.start, line.legs[-1].to])
    straight, turned = np.linalg.norm(ends - own, axis=1).sum(), np.linalg.norm(ends[::-1] - own, axis=1).sum()
    return reverse(shape) if turned < straight and not shape.closed else shape


def _turning(course: Course) -> float:
    """Return the area that a closed line goes round on plan, anticlockwise positive, mm²."""
    points = course.flattened(1.0)[1]
    x, y = points[:, 0], points[:, 1]
    return float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)) / 2) or 1.0


def _carried(before: Course, after: Course, chainage: float) -> tuple[float, bool]:
    """Return the chainage on a new shape of what lay at a chainage of the old, and whether it surely belongs there."""
    inside = chainage % before.length if before.closed else min(max(0.0, chainage), before.length)
    was = before.at(np.array([inside]))
    chainages, points = after.flattened(0.5)
    at, away = nearest_chainage(chainages, points, was.points[0])
    now = after.at(np.array([min(max(0.0, at), after.length * (1 - ROUNDING))]))
    turned = abs(float(now.tangents[0] @ was.tangents[0]))
    return at, away <= UNSURE and turned >= _TURNED


def _openings_of_file(body: LineBody, laid: Line) -> dict[str, Opening]:
    """Return the openings that came with a new shape, by name, at their chainages on the line as it is laid."""
    if not body.openings:
        return {}
    came, after = course_of(with_id(body, "L1")), course_of(laid)
    chainages, points = after.flattened(0.5)
    found = {}
    for opening in body.openings:
        ends = came.points_at(np.array([opening.at, opening.at + opening.width]) % came.length)
        low, high = sorted(nearest_chainage(chainages, points, end)[0] for end in ends)
        if after.closed and high - low > after.length / 2:
            low, high = high, low + after.length
        found[opening.name] = opening.model_copy(update={"at": low, "width": max(1.0, high - low)})
    return found


def _as_shown(opening: Opening, message: Opening | None) -> Opening:
    return opening if message is None else opening.model_copy(update={"at": message.at, "width": message.width, "unsettled": False})


def _free(opening: Opening, others: Sequence[Opening]) -> bool:
    return all(opening.at >= other.at + other.width - SAME_PLACE or opening.at + opening.width <= other.at + SAME_PLACE for other in others)
