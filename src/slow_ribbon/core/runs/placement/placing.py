"""How a section is placed on a line, and which side of it the section faces.

Terms
-----
facing
    the side the section's front looks to: left or right of travel, or toward a point.
hand
    right is the section as drawn; left is the section mirrored before it is faced, for an
    outline that was drawn looking the other way.
roll, stand-off, lift
    turn about the line, anticlockwise as drawn; distance toward the side faced; distance up.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from typing import Annotated, ClassVar, Literal, cast

import numpy as np
from pydantic import Field

from slow_ribbon.core.geometry.polylines import nearest_on
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Angle, Coordinate, Id, Model, Point3
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.tolerances import SAME_SHARE
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.sections.document.section import Across, Datum, Up

Hand = Literal["right", "left"]
#: The side of a line, looking along it, on which a room lies.
RoomSide = Literal["left", "right"]


class FacingWay(Model, ABC):
    """To which side the front of a run looks."""

    #: Whether it looks into a room, whose side is looked for and remembered (``Run.room_side``).
    into_room: ClassVar[bool] = False

    @property
    def bounding(self) -> tuple[str, ...]:
        """The ids of the lines that say where it looks, besides the run's own."""
        return ()

    @abstractmethod
    def side_on(self, line: Line, room: RoomSide | None) -> AnyFacing:
        """Return the side or the point that it means for a line; ``room`` is on which side of it the room is. Raises ``Refused``."""

    def is_right(self, course: Course) -> bool:
        """Return whether it is to the right of travel, once it is a side or a point (``side_on``)."""
        raise AssertionError("side_on says on which side of the line a room or a wall is")

    def other_side(self) -> AnyFacing:
        """Return the facing that looks where this one did, once the line goes the other way or was mirrored."""
        return cast("AnyFacing", self)

    def moved(self, move: Callable[[Point3], Point3]) -> AnyFacing:
        """Return the facing once all was moved."""
        return cast("AnyFacing", self)


class FacingSide(FacingWay):
    """The front looks to one side of travel."""

    kind: Literal["left", "right"]

    def side_on(self, line: Line, room: RoomSide | None) -> FacingSide:
        return self

    def is_right(self, course: Course) -> bool:
        return self.kind == "right"

    def other_side(self) -> FacingSide:
        return FacingSide(kind="left" if self.kind == "right" else "right")


class FacingPoint(FacingWay):
    """The front looks to the side a point is on, found for every line by itself."""

    kind: Literal["toward"] = "toward"
    point: Point3

    def side_on(self, line: Line, room: RoomSide | None) -> FacingPoint:
        return self

    def is_right(self, course: Course) -> bool:
        """Return whether the nearest place on the line has the point to its right.

        At a corner the frames of both legs decide together, which is right for points beyond any sharp corner too.
        """
        point = np.array(self.point, dtype=float)
        starts, ends, rights = _chords(course)
        if course.rule == "upright":
            point, starts, ends = point * (1, 1, 0), starts * (1, 1, 0), ends * (1, 1, 0)
        _, away = nearest_on(point, starts, ends)
        distances = np.einsum("ij,ij->i", away, away)
        least = distances.min()
        nearest = np.flatnonzero(distances <= least + SAME_SHARE * max(1.0, float(least)))
        return float(np.sum(np.einsum("ij,ij->i", rights[nearest], away[nearest]))) >= 0

    def moved(self, move: Callable[[Point3], Point3]) -> FacingPoint:
        return FacingPoint(point=move(self.point))


class FacingRoom(FacingWay):
    """The front looks into the room that the line bounds, by itself or with other ``lines``."""

    into_room: ClassVar = True

    kind: Literal["room"] = "room"
    lines: Annotated[tuple[Id, ...], Field(max_length=1000, fail_fast=True)] = ()

    @property
    def bounding(self) -> tuple[str, ...]:
        return self.lines

    def side_on(self, line: Line, room: RoomSide | None) -> FacingSide:
        return FacingSide(kind=room or "right")


class FacingWall(FacingWay):
    """The front looks away from the wall behind the line."""

    kind: Literal["wall"] = "wall"

    def side_on(self, line: Line, room: RoomSide | None) -> FacingSide:
        if line.wall is None:
            raise Refused(f"{line.name} has no wall behind it to face away from: add one, or choose a side.", "facing", "no-wall")
        return FacingSide(kind="left" if line.wall.side == "right" else "right")


AnyFacing = FacingSide | FacingPoint | FacingRoom | FacingWall
Facing = Annotated[AnyFacing, Field(discriminator="kind")]


class Placing(Model):
    """How a run's section is placed on its line. ``datum`` left out is the section's own.

    ``stand_off`` and ``lift`` are how far the datum lies from the line, or what else of the section they are said ``of``: a side
    of its box as it is placed, so that the line can be where a face of the run is to be, and the face stays there whatever
    section it is of.
    """

    datum: Datum | None = None
    hand: Hand = "right"
    facing: Facing = FacingSide(kind="right")
    roll: Angle = 0.0
    stand_off: Coordinate = 0.0
    lift: Coordinate = 0.0
    stand_off_of: Across = "datum"
    lift_of: Up = "datum"


@kept_with
def _chords(course: Course) -> tuple[Array, Array, Array]:
    """Return the course as straights: their beginnings, ends and rights, (k, 3) each."""
    if not course.paths:
        return course.starts, course.ends, course.rights
    starts, ends, rights = [], [], []
    for i in range(course.count):
        path = course.paths.get(i)
        if path is None:
            starts.append(course.starts[i : i + 1])
            ends.append(course.ends[i : i + 1])
            rights.append(course.rights[i : i + 1])
        else:
            places = path.flattened(1.0)
            points = path.at(places).points
            starts.append(points[:-1])
            ends.append(points[1:])
            rights.append(path.at((places[:-1] + places[1:]) / 2).rights)
    return np.concatenate(starts), np.concatenate(ends), np.concatenate(rights)
