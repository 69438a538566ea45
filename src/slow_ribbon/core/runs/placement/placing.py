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

from typing import Annotated, Literal

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


class FacingSide(Model):
    """The front looks to one side of travel."""

    kind: Literal["left", "right"]


class FacingPoint(Model):
    """The front looks to the side a point is on, found for every line by itself."""

    kind: Literal["toward"] = "toward"
    point: Point3


class FacingRoom(Model):
    """The front looks into the room that the line bounds, by itself or with other ``lines``."""

    kind: Literal["room"] = "room"
    lines: Annotated[tuple[Id, ...], Field(max_length=1000, fail_fast=True)] = ()


class FacingWall(Model):
    """The front looks away from the wall behind the line."""

    kind: Literal["wall"] = "wall"


AnyFacing = FacingSide | FacingPoint | FacingRoom | FacingWall


Facing = Annotated[FacingSide | FacingPoint | FacingRoom | FacingWall, Field(discriminator="kind")]


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


def facing_on(line: Line, facing: AnyFacing, room: RoomSide | None = None) -> AnyFacing:
    """Return a facing with the side that it is for a line, where that depends on the line, or on which side of it its ``room`` is.

    Raises ``Refused`` where the line has none.
    """
    if isinstance(facing, FacingRoom):
        return FacingSide(kind=room or "right")
    if not isinstance(facing, FacingWall):
        return facing
    if line.wall is None:
        raise Refused(f"{line.name} has no wall behind it to face away from: add one, or choose a side.", "facing", "no-wall")
    return FacingSide(kind="left" if line.wall.side == "right" else "right")


def faces_right(course: Course, facing: AnyFacing) -> bool:
    """Return whether a facing is to the right of travel.

    A point's side is that of the nearest place on the line; at a corner the frames of both
    legs decide together, which is right for points beyond any sharp corner too.
    """
    if isinstance(facing, FacingSide):
        return facing.kind == "right"
    if isinstance(facing, FacingRoom | FacingWall):
        raise AssertionError("facing_on says on which side of the line a room or a wall is")
    point = np.array(facing.point, dtype=float)
    starts, ends, rights = _chords(course)
    if course.rule == "upright":
        point, starts, ends = point * (1, 1, 0), starts * (1, 1, 0), ends * (1, 1, 0)
    _, away = nearest_on(point, starts, ends)
    distances = np.einsum("ij,ij->i", away, away)
    least = distances.min()
    nearest = np.flatnonzero(distances <= least + SAME_SHARE * max(1.0, float(least)))
    return float(np.sum(np.einsum("ij,ij->i", rights[nearest], away[nearest]))) >= 0


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
