"""Runs: a section along a line, and how it is placed there.

Terms
-----
facing
    the side the section's front looks to: left or right of travel, or toward a point.
hand
    right is the section as drawn; left is the section mirrored before it is faced, for an
    outline that was drawn looking the other way.
roll, stand-off, lift
    turn about the line, anticlockwise as seen along travel; distance to the right; distance up.

The section point q goes to the frame of the line by: subtract the datum, mirror, rotate by
roll, add (stand-off, lift). Stand-off is measured toward the side faced, so that several
stretches of one room stand off alike whichever way each was drawn.
"""

from __future__ import annotations

import math
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.line import Course
from slow_ribbon.core.model import Angle, Coordinate, Id, Model, Name, Point3, Tag
from slow_ribbon.core.section import Datum, Section, datum_point, section_shape
from slow_ribbon.core.shape import Array, Shape

Hand = Literal["right", "left"]


class FacingSide(Model):
    """The front looks to one side of travel."""

    kind: Literal["left", "right"]


class FacingPoint(Model):
    """The front looks to the side a point is on, found for every line by itself."""

    kind: Literal["toward"] = "toward"
    point: Point3


Facing = Annotated[FacingSide | FacingPoint, Field(discriminator="kind")]


class Placing(Model):
    """How a run's section is placed on its line. ``datum`` left out is the section's own."""

    datum: Datum | None = None
    hand: Hand = "right"
    facing: Facing = FacingSide(kind="right")
    roll: Angle = 0.0
    stand_off: Coordinate = 0.0
    lift: Coordinate = 0.0


class Run(Model):
    """A section along a line. ``tag`` begins the tags of its pieces."""

    id: Id
    name: Name
    tag: Tag
    line: Id
    section: Id
    placing: Placing = Placing()


def faces_right(course: Course, facing: FacingSide | FacingPoint) -> bool:
    """Tell whether a facing is to the right of travel.

    A point's side is that of the nearest place on the line; at a corner the frames of both
    legs decide together, which is right for points beyond any sharp corner too.
    """
    if isinstance(facing, FacingSide):
        return facing.kind == "right"
    point = np.array(facing.point, dtype=float)
    starts, tangents = course.starts, course.tangents
    if course.rule == "upright":
        point = point * (1, 1, 0)
        starts = starts * (1, 1, 0)
        flat = np.hypot(tangents[:, 0], tangents[:, 1])
        lengths = course.lengths * flat
        tangents = tangents * (1, 1, 0) / flat[:, None]
    else:
        lengths = course.lengths
    along = np.clip(np.einsum("ij,ij->i", point - starts, tangents), 0, lengths)
    away = point - (starts + tangents * along[:, None])
    distances = np.einsum("ij,ij->i", away, away)
    least = distances.min()
    nearest = np.flatnonzero(distances <= least + 1e-9 * max(1.0, float(least)))
    return float(np.sum(np.einsum("ij,ij->i", course.rights[nearest], away[nearest]))) >= 0


class Placed:
    """A section placed on a line: its shape in the line's (right, up) frame.

    ``matrix`` (2, 2) and ``shift`` (2,) take the section's own points there; ``mirrored`` tells
    whether the section is seen mirrored along travel, ``right`` whether it faces right.
    """

    def __init__(self, section: Section, placing: Placing, course: Course) -> None:
        self.shape: Shape = section_shape(section)
        self.right = faces_right(course, placing.facing)
        self.mirrored = (not self.right) != (placing.hand == "left")
        datum = datum_point(self.shape, placing.datum or section.datum)
        roll = math.radians(placing.roll)
        turn = np.array([[math.cos(roll), -math.sin(roll)], [math.sin(roll), math.cos(roll)]])
        self.matrix: Array = turn @ np.diag([-1.0 if self.mirrored else 1.0, 1.0])
        off = placing.stand_off if self.right else -placing.stand_off
        self.shift: Array = np.array([off, placing.lift]) - self.matrix @ datum

    def points(self, points: Array) -> Array:
        """Return section points (n, 2) in the line's frame."""
        return np.asarray(points @ self.matrix.T + self.shift)

    def furthest(self, slopes: Array) -> Array:
        """Return max slope·p over the placed section for slopes (k, 2); shape (k,)."""
        return np.asarray(self.shape.furthest(slopes @ self.matrix) + slopes @ self.shift)

    @property
    def centroid(self) -> Array:
        """Return the centroid in the line's frame, (2,)."""
        return np.asarray(self.matrix @ self.shape.centroid + self.shift)
