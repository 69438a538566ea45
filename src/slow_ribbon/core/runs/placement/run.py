"""Runs: a section along a line, as a document says it, and the course that it follows."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from slow_ribbon.core.kernel.fields import UNKNOWN, Follows, GroupName, Id, Index, Model, Name, Tag
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.end_surfaces.scribe_model import Neighbours
from slow_ribbon.core.runs.placement.placing import (
    Placing,
    RoomSide,
)
from slow_ribbon.core.runs.placement.stretches import Stretches, extent
from slow_ribbon.core.runs.treatments.corners import CornersMade, Mitre
from slow_ribbon.core.runs.treatments.curves import Bent, CurvesMade
from slow_ribbon.core.runs.treatments.ends import Finished, SquareEnd
from slow_ribbon.core.runs.treatments.joints import Joints


class OwnCorner(Model):
    """How one corner of a run is made, whatever is said of the others: that at the ``point`` of its line that has this number."""

    point: Index
    made: CornersMade

    @property
    def id(self) -> int:
        """What it is known by among the others."""
        return self.point


class Second(Model):
    """A second section that members with a run's own where it rises as it turns, and by which matrix, row after row, it is its image."""

    section: Id
    matrix: tuple[float, float, float, float]


class Note(Model):
    """What the workshop is to know of a piece, given by the ``number`` in its tag."""

    number: Annotated[int, Field(ge=1)]
    text: Name


class Run(Model):
    """A section along a line. ``tag`` begins the tags of its pieces; ``size`` is the row of the section's range that it is made in.

    ``openings``: the run *breaks* at the line's openings, or *passes* over them, as a cornice does over a door. ``rule`` is the rule
    that made it, if any. ``stretches`` keeps it to some of the stretches between openings; all where left out. ``corners``: how they
    are made; ``external`` how those that turn away from the face on plan are, like the others where left out; ``own_corners``: those
    made in ways of their own. ``room_side``: on which side of its line the room lies that it faces, as it was found last. ``joints``:
    how pieces longer than a bar are made; in one length where left out. ``first_end`` and ``last_end``: how it is finished where its
    line begins and ends, ``opening_ends`` where it stops at openings. ``curves``: how they are made. ``seconds``: the second sections
    that its pieces are of, found whenever it changes. ``near``: what it takes from other things of the job, found likewise.
    ``numbers``: those in the tags of its pieces, in order of travel, counted from 1 where left out; ``numbered`` the highest that was
    ever used, where that is another. ``notes``: what is noted of single pieces.
    """

    following: ClassVar = {
        "section": Follows("rule", blank=UNKNOWN),
        **{name: Follows("rule") for name in ("size", "placing", "openings", "corners", "external")},
        **{name: Follows(remembered=True) for name in ("room_side", "numbers", "numbered")},
        "seconds": Follows(),
        "near": Follows(),
    }

    id: Id
    name: Name
    tag: Tag
    line: Id
    section: Id
    size: Name | None = None
    placing: Placing = Placing()
    room_side: RoomSide | None = None
    openings: Literal["break", "pass"] = "break"
    stretches: Stretches | None = None
    corners: CornersMade = Mitre()
    external: CornersMade = Mitre()
    joints: Joints | None = None
    own_corners: Annotated[tuple[OwnCorner, ...], Field(max_length=10_000, fail_fast=True)] = ()
    first_end: Finished = SquareEnd()
    last_end: Finished = SquareEnd()
    opening_ends: Finished = SquareEnd()
    curves: CurvesMade = Bent()
    seconds: Annotated[tuple[Second, ...], Field(max_length=1000, fail_fast=True)] = ()
    near: Annotated[Neighbours, Field(exclude=True)] = Neighbours()
    numbers: Annotated[tuple[Annotated[int, Field(ge=1)], ...], Field(max_length=1_000_000, fail_fast=True)] = ()
    numbered: Annotated[int, Field(ge=0)] = 0
    notes: Annotated[tuple[Note, ...], Field(max_length=100_000, fail_fast=True)] = ()
    rule: Id | None = None
    group: GroupName = ""

    @model_validator(mode="before")
    @classmethod
    def _alike(cls, data: Any) -> Any:
        return external_like(data)

    def number_of(self, index: int) -> int:
        """Return the number in the tag of a piece, given by its place in order of travel."""
        if index < len(self.numbers):
            return self.numbers[index]
        # Pieces that only a place of a typical has, by a measure of its own, come after all others.
        return index + 1 if not self.numbers else max(self.numbered, *self.numbers) + index - len(self.numbers) + 1

    def tag_of(self, index: int) -> str:
        """Return the tag of a piece, given by its place in order of travel."""
        return f"{self.tag}{self.number_of(index)}"


def external_like(data: Any) -> Any:
    """Return the data of a run with its external corners made like the others where they are not given."""
    if isinstance(data, Mapping) and "corners" in data and "external" not in data:
        return {**data, "external": data["corners"]}
    return data


def placing_on(run: Run, line: Line) -> Placing:
    """Return how a run is placed on its line, with the side it faces. Raises ``Refused`` as ``FacingWay.side_on``."""
    facing = run.placing.facing.side_on(line, run.room_side)
    return run.placing if facing is run.placing.facing else run.placing.model_copy(update={"facing": facing})


def run_course(run: Run, line: Line) -> Course:
    """Return the course a run follows: its line's, broken at openings, kept to its stretches, and in facets where its curves are made so.

    Raises ``Refused`` where a stretch is asked for that the line does not have, and as ``faceted``.
    """
    course = course_of(line)
    gaps = [(opening.at, opening.width) for opening in line.openings] if run.openings == "break" else []
    if run.stretches is not None:
        gaps = [*_left_out(run, line, course.length), *gaps]
    course = course.broken(gaps)
    # A ring that is jointed begins at the joint where its line starts; any other nowhere within a curve.
    if run.joints is None or run.curves.in_facets or run.curves.parts_curves:
        course = course.begun_at_a_curve()
    return run.curves.course_of(course)


def _left_out(run: Run, line: Line, length: float) -> list[tuple[float, float]]:
    """Return the parts of a line, (begin chainage, length), outside the stretches that a run is kept to."""
    kept = []
    continued = {between.after for between in run.stretches or ()} - {None}
    widths = {opening.id: opening.width for opening in line.openings}
    for between in run.stretches or ():
        begin, size = extent(line, between, length)
        if run.openings == "pass" and between.before in continued and size < length:
            # What passes over the opening goes on into the next stretch.
            size = min(length, size + widths[between.before])
        kept.append((begin, begin + size))
    kept.sort()
    gaps = []
    reached = kept[-1][1] - length if line.closed else 0.0
    for begin, end in kept:
        if begin - reached > WELD:
            gaps.append((reached, begin - reached))
        reached = max(reached, end)
    if not line.closed and length - reached > WELD:
        gaps.append((reached, length - reached))
    return gaps
