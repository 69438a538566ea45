"""Edits of the points of a line: moved, inserted, removed; corners rounded; the line closed or opened."""

from __future__ import annotations

import math
from typing import Annotated, Final, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.named_places import NamedPlace
from slow_ribbon.core.job.edits.base import LineEdit, shape_of_leg
from slow_ribbon.core.job.edits.changes import PointChange, merged_point
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Index, Point3
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.fillets import line_parts
from slow_ribbon.core.lines.legs import AnyLeg, RadiusOfArc, StraightLeg, place
from slow_ribbon.core.lines.model import Line, leg_begins
from slow_ribbon.core.lines.point_ids import index_of_point, next_point, point_count, point_ids, with_point_ids
from slow_ribbon.core.lines.split_join import halves
from slow_ribbon.core.lines.transform import moved_point

#: An open line whose ends are nearer than this, mm, and than a tenth of its length, is closed by moving its end.
NEARLY: Final = 50.0


def point_words(line: Line, id: int) -> str:
    """Return a point of a line in words, as it is counted now."""
    return f"point {index_of_point(line, id, 'point') + 1} of {line.name}"


class MoveVertex(LineEdit):
    """Move a point of a line. Curves beside it follow in proportion."""

    kind: Literal["move_vertex"] = "move_vertex"
    point: Index
    to: PointChange

    def reshape(self, line: Line) -> Line:
        index = index_of_point(line, self.point, "point")
        old = line.legs[index - 1].to if index else line.start
        return moved_point(line, index, place(merged_point(old, self.to)))

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return (NamedPlace(self.line, "point", self.point),)

    def says(self, job: Job) -> set[str]:
        line = job.line(self.line)
        index = index_of_point(line, self.point, "point")
        axes = {f"{self.line}.points.{self.point}.{axis}" for axis, value in enumerate(self.to) if value is not None}
        # Curves beside it follow, as they are.
        beside = {(index - 1) % len(line.legs) if line.closed else index - 1, index} & set(range(len(line.legs)))
        return axes | {path for leg in beside for path in shape_of_leg(line, leg)}

    def describe(self, job: Job) -> str:
        return f"moved {point_words(job.line(self.line), self.point)}"


class InsertVertex(LineEdit):
    """Put a new point into the leg that begins at a point, ``after``; after the last of an open line it makes the line longer."""

    kind: Literal["insert_vertex"] = "insert_vertex"
    after: Index
    at: Point3

    def reshape(self, line: Line) -> Line:
        leg, ids = index_of_point(line, self.after, "after"), point_ids(line)
        longer = self._with_point(line, leg)
        more = len(longer.legs) - len(line.legs)
        # A curve may have come apart at places of its own too.
        return with_point_ids(longer, [*ids[: leg + 1], None, *ids[leg + 1 :]], next_point(line)) if more == 1 else longer

    def _with_point(self, line: Line, leg: int) -> Line:
        legs = list(line.legs)
        if leg == len(legs):
            return line.model_copy(update={"legs": (*legs, StraightLeg(to=self.at))})
        old = legs[leg]
        if old.straight:
            legs[leg : leg + 1] = [StraightLeg(to=self.at), old]
            return line.model_copy(update={"legs": tuple(legs)})
        # A curve is cut where it comes nearest to the place, and keeps its shape; then the new point is moved there.
        plain = line.model_copy(update={"openings": (), "marks": ()})
        chainage = _nearest_on_leg(plain, leg, self.at)
        parted = halves(plain, chainage)
        cut = line.model_copy(update={"legs": (*parted.before, *parted.after)})
        return moved_point(cut, len(parted.before), self.at) if math.dist(parted.point, self.at) > WELD else cut

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        line = job.line(self.line)
        at_end = not line.closed and self.after == point_ids(line)[-1]
        return (NamedPlace(self.line, "last") if at_end else NamedPlace(self.line, "leg", self.after),)

    def describe(self, job: Job) -> str:
        return f"inserted a point in {self.name(job)}"


def _nearest_on_leg(line: Line, leg: int, place_near: Point3) -> float:
    at, best = 0.0, (math.inf, 0.0)
    for part in line_parts(line):
        if part.leg == leg and not part.rounding:
            places = np.linspace(0, part.span.length, 2001)[1:-1]
            away = np.linalg.norm(part.span.at(places)[0] - np.array(place_near), axis=1)
            nearest = int(np.argmin(away))
            best = min(best, (float(away[nearest]), at + float(places[nearest])))
        at += part.span.length
    return best[1]


class RemoveVertex(LineEdit):
    """Take a point out of a line; where curves met there, one straight leg takes their place."""

    kind: Literal["remove_vertex"] = "remove_vertex"
    point: Index

    def reshape(self, line: Line) -> Line:
        index, ids = index_of_point(line, self.point, "point"), point_ids(line)
        least = 2 if not line.closed else 3 if all(leg.straight for leg in line.legs) else 2
        if point_count(line) <= least:
            kind = "A closed" if line.closed else "An open"
            raise Refused(f"{kind} line keeps at least {least} points; remove the whole line instead.", "point", "line-short")
        legs = list(line.legs)
        line = with_point_ids(line, [*ids[:index], *ids[index + 1 :]], next_point(line))
        if index == 0:
            if line.closed:
                legs[-1] = StraightLeg(to=legs[0].to, round=legs[0].round)
            return line.model_copy(update={"start": legs[0].to, "legs": tuple(legs[1:])})
        if index == len(legs):
            legs.pop()
            legs[-1] = legs[-1].model_copy(update={"round": None})
            return line.model_copy(update={"legs": tuple(legs)})
        before, after = legs[index - 1], legs[index]
        legs[index - 1 : index + 1] = [_one_leg(line, before, after, index)]
        return line.model_copy(update={"legs": tuple(legs)})

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return (NamedPlace(self.line, "point", self.point),)

    def describe(self, job: Job) -> str:
        return f"removed {point_words(job.line(self.line), self.point)}"


def _one_leg(line: Line, before: AnyLeg, after: AnyLeg, index: int) -> AnyLeg:
    """Return the leg that takes the place of two: what they make together, or the straight."""
    return before.and_next(leg_begins(line)[index - 1], after) or StraightLeg(to=after.to, round=after.round)


class SetClosed(LineEdit):
    """Close a line by a leg back to its start, or open it there; a nearly closed line's last point goes to the start."""

    kind: Literal["set_closed"] = "set_closed"
    closed: bool

    def reshape(self, line: Line) -> Line:
        if line.closed == self.closed:
            return line
        if not self.closed:
            last = line.legs[-1].model_copy(update={"round": None})
            line = with_point_ids(line, [*point_ids(line), None], next_point(line))
            return line.model_copy(update={"closed": False, "legs": (*line.legs[:-1], last)})
        gap = math.dist(line.start, line.legs[-1].to)
        if gap <= min(NEARLY, course_of(line).length / 10) and len(line.legs) > 1:
            numbered = with_point_ids(line, point_ids(line)[:-1], next_point(line))
            return moved_point(numbered, len(line.legs), line.start).model_copy(update={"closed": True})
        return line.model_copy(update={"closed": True, "legs": (*line.legs, StraightLeg(to=line.start))})

    def describe(self, job: Job) -> str:
        return f"{'closed' if self.closed else 'opened'} {self.name(job)}"


class RoundCorners(LineEdit):
    """Round corners of a line to a radius, or make them sharp again; ``points`` left out are all corners."""

    kind: Literal["round_corners"] = "round_corners"
    points: Annotated[tuple[Index, ...], Field(max_length=200_000, fail_fast=True)] | None = None
    radius: RadiusOfArc | None = None

    def reshape(self, line: Line) -> Line:
        wanted = (
            range(0 if line.closed else 1, len(line.legs))
            if self.points is None
            else [index_of_point(line, point, "points") for point in self.points]
        )
        legs = list(line.legs)
        for point in wanted:
            if not line.closed and point in (0, len(legs)):
                raise Refused(f"Point {point + 1} of {line.name} is an end, not a corner: it has no radius.", "points", "round")
            index = point - 1 if point else len(legs) - 1
            if self.points is None and self.radius is not None and not _is_corner(line, point):
                continue
            legs[index] = legs[index].model_copy(update={"round": self.radius})
        return line.model_copy(update={"legs": tuple(legs)})

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return tuple(NamedPlace(self.line, "point", point) for point in self.points or ())

    def describe(self, job: Job) -> str:
        what = "all corners" if self.points is None else "a corner" if len(self.points) == 1 else f"{len(self.points)} corners"
        name = self.name(job)
        return f"made {what} of {name} sharp" if self.radius is None else f"rounded {what} of {name}"


def _is_corner(line: Line, point: int) -> bool:
    begins = leg_begins(line)
    before = line.legs[point - 1].spans(begins[point - 1])[-1]
    after = line.legs[point].spans(begins[point])[0]
    t1, t2 = before.at(np.array([before.length]))[1][0], after.at(np.zeros(1))[1][0]
    return float(np.linalg.norm(t1 - t2)) > math.radians(0.01)
