"""Setting-out lines as plain data: where they start, their legs, openings and marks.

Terms
-----
line
    a start point and legs; open or closed. The last leg of a closed line ends at its start.
opening
    a stretch of a line left free (a door, a gate), from a chainage on.
mark
    a chainage with a name.

Openings and marks have ids of their own, so that what refers to a part of a line (a run kept to
a stretch, a row between two marks, a formula) still means it after the line was worked on.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Sequence
from typing import Annotated, Any, ClassVar, Final, Literal, Self

import numpy as np
from pydantic import Field, TypeAdapter

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import LENGTH, Distance, Follows, GroupName, Id, Index, Model, Name, Point3, Sha256, Size
from slow_ribbon.core.lines.construction import Made
from slow_ribbon.core.lines.legs import Direction, Leg, StraightLeg

FrameRule = Literal["auto", "upright", "carried"]


class Source(Model):
    """Where a line came from: the file's name, the hash of its contents, and the layer in it.

    ``also`` are other layers that its edges lie on. ``keys`` name the edges it was made of where the file does (the first in order, as
    ``again.keys_kept``), ``shape`` is a hash of what it came as (``again.shape_of``): by these it is
    found again when the file is imported again.
    """

    file: Annotated[str, Field(max_length=255)]
    content: Sha256
    layer: Annotated[str, Field(max_length=255)] = ""
    also: Annotated[tuple[Annotated[str, Field(max_length=255)], ...], Field(max_length=16)] = ()
    keys: Annotated[tuple[Annotated[str, Field(max_length=64)], ...], Field(max_length=64)] = ()
    shape: Annotated[str, Field(pattern=r"^([0-9a-f]{16})?$")] = ""


class Wall(Model):
    """A wall shown behind a line in the drawing, so that a room reads as a room; it is never listed or cut."""

    height: Annotated[Size, Field(le=100_000)]
    thickness: Annotated[Size, Field(le=10_000)]
    side: Literal["left", "right"]


class Strip(Model):
    """A path or a bed along a line, mm to the left and to the right of it; ``joints``: no wider apart than this across it, if any."""

    left: Distance
    right: Distance
    joints: Size | None = None


class Pane(Model):
    """What fills a closed line, ``thickness`` mm thick and in its plane: glass, mesh, or boards.

    Boards lie ``way`` side by side, each ``board`` wide, with a ``gap`` between them.
    """

    of: Literal["glass", "mesh", "boards"] = "glass"
    thickness: Size = 8.0
    board: Annotated[float, Field(ge=5, le=10_000, allow_inf_nan=False), LENGTH] = 120.0
    gap: Distance = 5.0
    way: Literal["upright", "level"] = "upright"


class Opening(Model):
    """A stretch of a line left free, from chainage ``at`` on, mm. Its id is given when it comes into a job.

    ``unsettled``: the line was drawn otherwise when it was imported again, and nobody has said since that it is right there.
    """

    id: Id | None = None
    name: Name
    at: Distance
    width: Annotated[Distance, Field(gt=0, le=1e9)]
    unsettled: bool = False


class Mark(Model):
    """A named chainage, mm. Its id is given when it comes into a job; ``unsettled`` as for openings.

    ``holds`` where it is there only for an item of a row that somebody holds in its place.
    """

    id: Id | None = None
    name: Name
    at: Distance
    unsettled: bool = False
    holds: bool = False


class LineBody(Model):
    """What a line is, before it has an id.

    ``spread`` turns what carried frames of a closed line are left twisted back evenly along it.
    ``right`` is which way right is at the start where frames are carried; level where left out.
    ``undrawn`` names the file that no longer has the line, where its drawing was imported again. ``rounding_at_start``: whether the
    rounding of a closed line's start corner comes ``last`` along it, chainage 0 at its end, or ``first``, chainage 0 at its beginning.
    ``point_ids`` are the numbers by which its points are referred to, in order, and ``next_point`` the next to be given
    (``lines.point_ids``); where left out they are counted from 0.
    """

    name: Name
    start: Point3
    legs: Annotated[tuple[Leg, ...], Field(min_length=1, max_length=200_000, fail_fast=True)]
    closed: bool = False
    frame: FrameRule = "auto"
    spread: bool = False
    right: Direction | None = None
    openings: Annotated[tuple[Opening, ...], Field(max_length=10_000, fail_fast=True)] = ()
    marks: Annotated[tuple[Mark, ...], Field(max_length=10_000, fail_fast=True)] = ()
    wall: Wall | None = None
    strip: Strip | None = None
    pane: Pane | None = None
    source: Source | None = None
    undrawn: Annotated[str, Field(max_length=255)] = ""
    rounding_at_start: Literal["last", "first"] = "last"
    group: GroupName = ""
    made: Made | None = None
    point_ids: Annotated[tuple[Index, ...], Field(max_length=200_001, fail_fast=True)] = ()
    next_point: Index = 0


class Line(LineBody):
    """A setting-out line of a job."""

    following: ClassVar = {
        "start": Follows("made", blank=(0, 0, 0)),
        "legs": Follows("made", blank=({"kind": "straight", "to": (1, 0, 0)},)),
        "closed": Follows("made"),
        "rounding_at_start": Follows("made", remembered=True),
        "point_ids": Follows(remembered=True),
        "next_point": Follows(remembered=True),
    }

    id: Id

    @property
    def named_marks(self) -> tuple[Mark, ...]:
        """Its marks without those that are there only for items that are held."""
        return tuple(mark for mark in self.marks if not mark.holds)

    def without_holds(self, marks: Collection[str]) -> Self:
        """Return the line without those of some marks, given by their ids, that are there only for items that are held."""
        return self.model_copy(update={"marks": tuple(mark for mark in self.marks if not (mark.holds and mark.id in marks))})

    def points(self) -> Array:
        """Return the line's points, (n, 3): the start and the end of each leg, a closed line's start once."""
        ends = self.legs[:-1] if self.closed else self.legs
        return np.array([self.start, *(leg.to for leg in ends)], dtype=float)


#: No more lines than this are added in one edit.
MOST_LINES: Final = 50_000
_STRAIGHTS: Final = TypeAdapter(tuple[StraightLeg, ...])


def leg_begins(line: LineBody) -> list[Point3]:
    """Return where each leg of a line begins."""
    return [line.start, *(leg.to for leg in line.legs[:-1])]


def line_body(points: Iterable[Sequence[float]], closed: bool, name: str, **more: Any) -> LineBody:
    """Return a line through points (n, 3), each met once; a closed line goes back to the first."""
    places = np.array(points if isinstance(points, np.ndarray) else list(points), dtype=float).tolist()
    ends = [*places[1:], places[0]] if closed else places[1:]
    # All at once: there may be very many.
    legs = _STRAIGHTS.validate_python([{"to": end} for end in ends])
    return LineBody(name=name, start=places[0], legs=legs, closed=closed, **more)


def with_id(body: LineBody, id: str) -> Line:
    """Return a line with its id."""
    return Line(id=id, **{name: getattr(body, name) for name in LineBody.model_fields})


def with_ids(bodies: Iterable[LineBody], first: int) -> Iterator[Line]:
    """Yield lines with ids numbered from ``first`` on: of bodies that were checked when they were made, and are not again."""
    for number, body in enumerate(bodies, start=first):
        yield Line.model_construct(_fields_set={*body.model_fields_set, "id"}, id=f"L{number}", **vars(body))
