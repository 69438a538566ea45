"""Runs: a section along a line, and how it is placed there.

Terms
-----
facing
    the side the section's front looks to: left or right of travel, or toward a point.
hand
    right is the section as drawn; left is the section mirrored before it is faced, for an
    outline that was drawn looking the other way.
roll, stand-off, lift
    turn about the line, anticlockwise as drawn; distance toward the side faced; distance up.
stretch
    a part of a line between two of its openings, or between one and an end of the line.

The section point q goes to the frame of the line by: subtract the datum, rotate by roll,
mirror, add (stand-off, lift). So roll follows the hand, and stand-off the side faced: several
stretches of one room tilt and stand off alike whichever way each was drawn.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from copy import copy
from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated, Any, Final, Literal

import numpy as np
from pydantic import Field, model_validator

from slow_ribbon.core.geometry.polylines import nearest_on
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Angle, Coordinate, GroupName, Id, Model, Name, Point3, Tag
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.tolerances import SAME_SHARE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.end_surfaces.scribe_model import Neighbours
from slow_ribbon.core.runs.treatments.corners import CornersMade, Mitre
from slow_ribbon.core.runs.treatments.curves import Bent, CurvesMade, Faceted, Sawn
from slow_ribbon.core.runs.treatments.ends import Finished, Square
from slow_ribbon.core.runs.treatments.faceting import faceted
from slow_ribbon.core.runs.treatments.joints import Joints
from slow_ribbon.core.sections.document.section import Across, Datum, Section, Up, bed_up, datum_point, section_shape
from slow_ribbon.core.sections.law import Constant, SectionLaw
from slow_ribbon.core.sections.operations.affine_member import member_of
from slow_ribbon.core.sections.outline.profile import Shape

Hand = Literal["right", "left"]
#: How far from the least to the greatest, of what lies between, each is.
_SHARES: Final = {"back": 0.0, "bottom": 0.0, "middle": 0.5, "front": 1.0, "top": 1.0}


class FacingSide(Model):
    """The front looks to one side of travel."""

    kind: Literal["left", "right"]


class FacingPoint(Model):
    """The front looks to the side a point is on, found for every line by itself."""

    kind: Literal["toward"] = "toward"
    point: Point3


class FacingRoom(Model):
    """The front looks into the room that the line bounds, by itself or with other ``lines``; ``right`` is where that is, as found."""

    kind: Literal["room"] = "room"
    lines: Annotated[tuple[Id, ...], Field(max_length=1000, fail_fast=True)] = ()
    right: bool = True


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


class Between(Model):
    """A stretch by what bounds it: the opening it comes after and the one before which it ends; an end of the line where left out.

    So it stays the same stretch when the line is worked on, and both parts of it when an
    opening is put into it.
    """

    after: Id | None = None
    before: Id | None = None


Stretches = Annotated[tuple[Between, ...], Field(min_length=1, max_length=10_000, fail_fast=True)]


class OwnCorner(Model):
    """How one corner of a run is made, whatever is said of the others: that at a point of its line, counted from 0 at the start."""

    point: Annotated[int, Field(ge=0, le=10**6)]
    made: CornersMade


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

    ``openings``: the run *breaks* at the line's openings, or *passes* over them, as a cornice does over a door. ``rule`` is the rule that
    made it, if any. ``stretches`` keeps it to some of the stretches between openings; all where left out. ``corners``: how they are made;
    ``external`` how those that turn away from the face on plan are, like the others where left out; ``own_corners``: those made in ways of
    their own. ``joints``: how pieces longer than a bar are made; in one length where left out. ``first_end`` and ``last_end``: how it is
    finished where its line begins and ends, ``opening_ends`` where it stops at openings. ``curves``: how they are made. ``seconds``: the
    second sections that its pieces are of, found whenever it changes. ``near``: what it takes from other things of the job, found likewise.
    ``numbers``: those in the tags of its pieces, in order of travel, counted from 1 where left out; ``numbered`` the highest that was ever
    used, where that is another. ``notes``: what is noted of single pieces.
    """

    id: Id
    name: Name
    tag: Tag
    line: Id
    section: Id
    size: Name | None = None
    placing: Placing = Placing()
    openings: Literal["break", "pass"] = "break"
    stretches: Stretches | None = None
    corners: CornersMade = Mitre()
    external: CornersMade = Mitre()
    joints: Joints | None = None
    own_corners: Annotated[tuple[OwnCorner, ...], Field(max_length=10_000, fail_fast=True)] = ()
    first_end: Finished = Square()
    last_end: Finished = Square()
    opening_ends: Finished = Square()
    curves: CurvesMade = Bent()
    seconds: Annotated[tuple[Second, ...], Field(max_length=1000, fail_fast=True)] = ()
    near: Neighbours = Neighbours()
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
    """Return what is said of a run, its external corners made like the others where nothing is said of them."""
    if isinstance(data, Mapping) and "corners" in data and "external" not in data:
        return {**data, "external": data["corners"]}
    return data


def facing_on(line: Line, facing: AnyFacing) -> AnyFacing:
    """Return a facing with the side that it is for a line, where that hangs on the line. Raises ``Refused`` where it has none."""
    if not isinstance(facing, FacingWall):
        return facing
    if line.wall is None:
        raise Refused(f"{line.name} has no wall behind it to face away from: add one, or choose a side.", "facing", "no-wall")
    return FacingSide(kind="left" if line.wall.side == "right" else "right")


def placing_on(run: Run, line: Line) -> Placing:
    """Return how a run is placed on its line, with the side it faces. Raises ``Refused`` as ``facing_on``."""
    facing = facing_on(line, run.placing.facing)
    return run.placing if facing is run.placing.facing else run.placing.model_copy(update={"facing": facing})


def faces_right(course: Course, facing: AnyFacing) -> bool:
    """Return whether a facing is to the right of travel.

    A point's side is that of the nearest place on the line; at a corner the frames of both
    legs decide together, which is right for points beyond any sharp corner too.
    """
    if isinstance(facing, FacingSide):
        return facing.kind == "right"
    if isinstance(facing, FacingRoom):
        return facing.right
    if isinstance(facing, FacingWall):
        raise AssertionError("a wall is the line's: facing_on says which side it is")
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


class Placed:
    """A section placed on a line: its shape in the line's (right, up) frame; where it is not the same all along, that at the start.

    ``matrix`` (2, 2) and ``shift`` (2,) take the section's own points there; ``mirrored`` says
    whether the section is seen mirrored along travel, ``right`` whether it faces right.
    """

    def __init__(self, section: Section, placing: Placing, course: Course, law: SectionLaw | None = None) -> None:
        self.section = section
        self._law: SectionLaw = law or Constant(section_shape(section))
        self._datum = placing.datum or section.datum
        self._leaned: dict[bytes, Placed] = {}
        self.right = faces_right(course, placing.facing)
        self.mirrored = (not self.right) != (placing.hand == "left")
        roll = math.radians(placing.roll)
        turn = np.array([[math.cos(roll), -math.sin(roll)], [math.sin(roll), math.cos(roll)]])
        self.matrix: Array = np.diag([-1.0 if self.mirrored else 1.0, 1.0]) @ turn
        #: How the section lies that its pieces are of: as ``matrix``, but for one that is the image of another.
        self.laid = self.matrix
        #: By which matrix the section is the image of the one that is drawn.
        self.image: Array = np.eye(2)
        self._placing = placing
        self._take(self._law.at(0.0))

    def _take(self, shape: Shape) -> None:
        self.shape = shape
        self._framed: Shape | None = None
        self.shift: Array = -self.matrix @ datum_point(shape, self._datum)
        # Toward the front and up: the datum is at zero, sides where the section's box as it is placed ends.
        sense = np.array([1.0 if self.right else -1.0, 1.0])
        of = (self._placing.stand_off_of, self._placing.lift_of)
        at = [0.0 if name == "datum" else self._reach(sense[axis] * np.eye(2)[axis], _SHARES[name]) for axis, name in enumerate(of)]
        self.shift = self.shift + sense * (np.array([self._placing.stand_off, self._placing.lift]) - at)

    def _reach(self, way: Array, share: float) -> float:
        """Return how far a share of the section, from its least to its greatest, lies along a unit (2,) of the line's frame."""
        most, least = self.furthest(np.array([way, -way])) * (1, -1)
        return float(least + share * (most - least))

    @property
    def framed(self) -> Shape:
        """The shape in the line's frame, as it is placed."""
        if self._framed is None:
            self._framed = self.shape.mapped_once(self.matrix, self.shift)
        return self._framed

    @property
    def constant(self) -> bool:
        """Whether the section is the same all along the line."""
        return self._law.constant

    def at(self, chainage: float) -> Placed:
        """Return the section as it is placed at a distance along the line, mm; this very one where it is the same all along."""
        if self._law.constant:
            return self
        there = copy(self)
        there._take(self._law.at(chainage))
        return there

    def leaned(self, lean: Array) -> Placed:
        """Return it as it lies on pieces where it leans by a matrix (2, 2), in the line's frame: the second section, or the same turned."""
        key = lean.tobytes()
        if key not in self._leaned:
            there = copy(self)
            there.matrix, there.shift = lean @ self.matrix, lean @ self.shift
            there._framed, there._leaned = None, {}
            if np.abs(lean.T @ lean - np.eye(2)).max() < SAME_SHARE:
                there.laid = there.matrix
            else:
                there.image = np.asarray(np.linalg.solve(self.matrix, lean @ self.matrix))
                there.section = member_of(self.section, there.image)
            self._leaned[key] = there
        return self._leaned[key]

    def points(self, points: Array) -> Array:
        """Return section points (n, 2) in the line's frame."""
        return np.asarray(points @ self.matrix.T + self.shift)

    def furthest(self, slopes: Array) -> Array:
        """Return max slope·p over the placed section for slopes (k, 2); shape (k,)."""
        return np.asarray(self.shape.furthest(slopes @ self.matrix) + slopes @ self.shift)

    @property
    def bed_up(self) -> Array:
        """The unit out of the saw's bed, (2,), in the line's frame. Raises ``Refused`` as ``sections.model.bed_up``."""
        return np.asarray(self.laid @ bed_up(self.section))

    @property
    def sprung_up(self) -> Array:
        """The unit out of the saw's bed, (2,), in the line's frame, where the section is held with its head on that."""
        return np.asarray(self.laid @ np.array([0.0, -1.0]))

    @property
    def thickness(self) -> tuple[float, float]:
        """From where to where the section lies along ``bed_up``, mm."""
        up = self.bed_up
        high, low = (self.furthest(np.array([up, -up])) * (1, -1)).tolist()
        return low, high

    @property
    def datum(self) -> Array:
        """Where the datum lies in the line's frame, (2,)."""
        return self.points(datum_point(self.shape, self._datum))

    @property
    def centroid(self) -> Array:
        """Return the centroid in the line's frame, (2,)."""
        return np.asarray(self.matrix @ self.shape.centroid + self.shift)


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
    if run.joints is None or isinstance(run.curves, Faceted | Sawn):
        course = course.begun_at_a_curve()
    return faceted(course, run.curves) if isinstance(run.curves, Faceted) else course


def _left_out(run: Run, line: Line, length: float) -> list[tuple[float, float]]:
    """Return what of a line, (begin chainage, length), lies outside the stretches a run is kept to."""
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


@dataclass(frozen=True)
class Extent:
    """A stretch of a line with where it begins and how long it is, mm."""

    between: Between
    begin: float
    length: float


def extent(line: Line, between: Between, length: float) -> tuple[float, float]:
    """Return (begin chainage, length) of a stretch. Raises ``Refused`` where it is bounded by an opening that is not there."""
    openings = {opening.id: opening for opening in line.openings}
    for id in (between.after, between.before):
        if id is not None and id not in openings:
            raise Refused(
                f"{line.name} no longer has this stretch: an opening that bounded it was removed. Choose the run's stretches again.",
                "stretches",
                "unknown-stretch",
            )
    after, before = openings.get(between.after), openings.get(between.before)
    if line.closed:
        if after is None or before is None:
            return 0.0, length
        begin = (after.at + after.width) % length
        return begin, (length - after.width if after is before else (before.at - begin) % length)
    if after is not None and before is not None and after.at > before.at:
        after, before = before, after
    begin = after.at + after.width if after is not None else 0.0
    return begin, max(0.0, (before.at if before is not None else length) - begin)


def stretches_between(line: Line, length: float) -> list[Extent]:
    """Return the stretches between a line's openings in order; on a closed line the last goes over the start."""
    taken = sorted(line.openings, key=lambda opening: opening.at)
    if not taken:
        return [Extent(Between(), 0.0, length)]
    bounds = [opening.id for opening in taken]
    found = [Between(after=a, before=b) for a, b in pairwise(bounds)]
    found = (
        [*found, Between(after=bounds[-1], before=bounds[0])]
        if line.closed
        else [Between(before=bounds[0]), *found, Between(after=bounds[-1])]
    )
    extents = [Extent(between, *extent(line, between, length)) for between in found]
    return [one for one in extents if one.length > WELD]
