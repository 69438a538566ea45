"""Setting-out lines and what follows from them: legs, corners, chainage and frames.

Terms
-----
line
    a start point and legs; open or closed. The last leg of a closed line ends at its start.
leg
    a part of a line between two of its points; in this version always straight.
corner
    a point where the direction changes by more than 0.01°.
course
    a line resolved: its corners and the straight legs between them, with their frames.
chainage
    distance along the line from its start, mm.

See "Line and legs" and "Frames" in the geometry notes: with t the unit tangent, *upright*
frames have r = t × Z / |t × Z| to the right of travel and n = r × t upward; *carried* frames
turn at each corner by the smallest rotation that takes the old tangent to the new one.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Any, Final, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.faults import Refused
from slow_ribbon.core.model import Id, Model, Name, Point3
from slow_ribbon.core.shape import Array
from slow_ribbon.core.units import WELD

#: Tangents that differ by less than this, in radians, make no corner.
STRAIGHT: Final = math.radians(0.01)
#: A leg nearer to vertical than this, in radians, makes a line choose carried frames.
UPRIGHT_LIMIT: Final = math.radians(1.0)
#: A corner that turns more than this, in radians, goes back on itself and has no mitre.
FOLD: Final = math.radians(179.9)

FrameRule = Literal["auto", "upright", "carried"]


class StraightLeg(Model):
    """A straight leg to a point."""

    kind: Literal["straight"] = "straight"
    to: Point3


#: The legs a line can have. Arcs and curves join here as further kinds of a tagged union.
Leg = StraightLeg


class Source(Model):
    """Where a line came from: the file's name, the hash of its contents, and the layer in it."""

    file: Annotated[str, Field(max_length=255)]
    content: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    layer: Annotated[str, Field(max_length=255)] = ""


class Wall(Model):
    """A wall shown behind a line in the drawing, so that a room reads as a room; it is never listed or cut."""

    height: Annotated[float, Field(gt=0, le=100_000, allow_inf_nan=False)]
    thickness: Annotated[float, Field(gt=0, le=10_000, allow_inf_nan=False)]
    side: Literal["left", "right"]


class LineBody(Model):
    """What a line is, before it has an id."""

    name: Name
    start: Point3
    legs: Annotated[tuple[Leg, ...], Field(min_length=1, max_length=200_000)]
    closed: bool = False
    frame: FrameRule = "auto"
    wall: Wall | None = None
    source: Source | None = None


class Line(LineBody):
    """A setting-out line of a job."""

    id: Id

    def points(self) -> Array:
        """Return the line's points, (n, 3): the start and the end of each leg, a closed line's start once."""
        ends = self.legs[:-1] if self.closed else self.legs
        return np.array([self.start, *(leg.to for leg in ends)], dtype=float)


def line_body(points: Iterable[Sequence[float]], closed: bool, name: str, **more: Any) -> LineBody:
    """Return a line through points (n, 3), each met once; a closed line goes back to the first."""
    places = [(float(x), float(y), float(z)) for x, y, z in points]
    ends = [*places[1:], places[0]] if closed else places[1:]
    return LineBody(name=name, start=places[0], legs=tuple(StraightLeg(to=end) for end in ends), closed=closed, **more)


def with_id(body: LineBody, id: str) -> Line:
    """Return a line with its id."""
    return Line(id=id, **{name: getattr(body, name) for name in LineBody.model_fields})


def check_line(line: Line) -> None:
    """Raise ``Refused`` where a line has a leg of no length, or is closed and does not come back or has no inside."""
    if line.closed and math.dist(line.legs[-1].to, line.start) > WELD:
        gap = math.dist(line.legs[-1].to, line.start)
        raise Refused(
            f"{line.name} is marked closed but ends {gap:.3g} mm from its start: end the last leg at the start.",
            f"legs.{len(line.legs) - 1}.to",
            "line-open",
        )
    before = line.start
    for index, leg in enumerate(line.legs):
        if math.dist(before, leg.to) <= WELD:
            raise Refused(
                f"Leg {index + 1} of {line.name} has no length: both its ends are at ({leg.to[0]:g}, {leg.to[1]:g}, {leg.to[2]:g}). "
                "Remove one of them or move it.",
                f"legs.{index}.to",
                "leg-zero",
            )
        before = leg.to
    if line.closed and len(line.legs) < 3:
        raise Refused(f"{line.name} needs at least three corners to be closed: it has {len(line.legs)}.", "closed", "line-closed")
    if len(course_of(line).tangents) < (3 if line.closed else 1):
        raise Refused(f"{line.name} goes there and back without enclosing anything: move one of its corners.", "legs", "line-closed")


@dataclass(frozen=True)
class Course:
    """A line resolved into straight legs between corners; m legs.

    starts, ends (m, 3): the corner points of each leg. tangents, rights, ups (m, 3): frames.
    lengths (m,): straight length of each leg, mm. begins (m,): chainage where each leg begins.
    turns (m,): angle in radians at the corner where each leg begins (nought at an open start).
    leftover: the angle in radians by which carried frames of a closed line come back turned.
    """

    closed: bool
    starts: Array
    ends: Array
    tangents: Array
    rights: Array
    ups: Array
    lengths: Array
    begins: Array
    turns: Array
    rule: Literal["upright", "carried"]
    why: str
    leftover: float
    length: float

    @property
    def count(self) -> int:
        return len(self.lengths)

    def leg_at(self, chainage: Array) -> tuple[NDArrayInt, Array]:
        """Return the leg that holds each chainage, and the distance from that leg's beginning."""
        places = np.asarray(chainage, dtype=float)
        if self.closed:
            places = np.mod(places, self.length)
            index = np.searchsorted(self.begins, places, side="right") - 1
            # Before the first corner of a closed line one is still on the last leg, come round.
            along = np.where(index < 0, places - self.begins[-1] + self.length, places - self.begins[index])
            return np.mod(index, self.count), along
        index = np.clip(np.searchsorted(self.begins, places, side="right") - 1, 0, self.count - 1)
        return index, places - self.begins[index]

    def points_at(self, chainage: Array) -> Array:
        """Return the points (n, 3) at chainages (n,)."""
        index, along = self.leg_at(chainage)
        return np.asarray(self.starts[index] + self.tangents[index] * along[:, None])


NDArrayInt = np.ndarray[tuple[int, ...], np.dtype[np.int64]]


@lru_cache(maxsize=512)
def course_of(line: Line) -> Course:
    """Return the line resolved into straight legs between corners, with their frames.

    Points on a straight make no leg, wherever a closed line happens to start.
    """
    points = line.points()
    corners, chainages, length = _corners(points, line.closed)
    vertices = points[corners]
    if line.closed:
        starts, ends = vertices, np.roll(vertices, -1, axis=0)
        begins = chainages
    else:
        starts, ends = vertices[:-1], vertices[1:]
        begins = chainages[:-1]
    spans = ends - starts
    lengths = np.sqrt(np.einsum("ij,ij->i", spans, spans))
    with np.errstate(invalid="ignore", divide="ignore"):
        tangents = np.nan_to_num(spans / lengths[:, None])
    before = np.roll(tangents, 1, axis=0)
    turns = angle_between(before, tangents)
    if not line.closed:
        turns[0] = 0.0
    rule, why = frame_rule(line, tangents)
    rights, ups, leftover = _carried(tangents, line.closed) if rule == "carried" else _upright(tangents)
    return Course(line.closed, starts, ends, tangents, rights, ups, lengths, begins, turns, rule, why, leftover, length)


def _corners(points: Array, closed: bool) -> tuple[NDArrayInt, Array, float]:
    """Return the indices of the corner points, their chainages, and the line's length.

    Directions are compared with that of the last leg after a corner, not of the last leg, so
    that a slow turn by many small angles is not lost.
    """
    path = np.vstack([points, points[:1]]) if closed else points
    spans = np.diff(path, axis=0)
    lengths = np.sqrt(np.einsum("ij,ij->i", spans, spans))
    chainages = np.concatenate([[0.0], np.cumsum(lengths)])
    tangents = spans / lengths[:, None]
    turned = angle_between(np.roll(tangents, 1, axis=0), tangents) > STRAIGHT
    if not closed:
        turned[0] = False
    first = int(np.argmax(turned)) if closed and turned.any() else 0
    kept = [first]
    # Only at points that are straight within the limit can the slow turn build up.
    doubtful = not bool(np.all(turned[1:] if not closed else turned))
    direction = tangents[first]
    order = [(first + i) % len(tangents) for i in range(1, len(tangents))]
    for index in order:
        if turned[index] or (doubtful and _angle(direction, tangents[index]) > STRAIGHT):
            kept.append(index)
            direction = tangents[index]
    if closed:
        kept.sort()
    else:
        kept.append(len(points) - 1)
    indices = np.array(kept, dtype=np.int64)
    return indices, chainages[indices], float(chainages[-1])


def angle_between(first: Array, second: Array) -> Array:
    """Return the angles in radians between unit vectors (n, 3), exact near 0 and π too.

    2·atan2(|a − b|, |a + b|), after W. Kahan, "How futile are mindless assessments of roundoff" (2006).
    """
    apart, together = first - second, first + second
    return np.asarray(2 * np.arctan2(np.sqrt(np.einsum("ij,ij->i", apart, apart)), np.sqrt(np.einsum("ij,ij->i", together, together))))


def _angle(first: Array, second: Array) -> float:
    return 2 * math.atan2(math.dist(first, second), math.dist(first, -second))


def frame_rule(line: Line, tangents: Array) -> tuple[Literal["upright", "carried"], str]:
    """Return the frame rule a line uses, and why, in words."""
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


def _upright(tangents: Array) -> tuple[Array, Array, float]:
    flat = np.hypot(tangents[:, 0], tangents[:, 1])
    rights = np.stack([tangents[:, 1] / flat, -tangents[:, 0] / flat, np.zeros(len(flat))], axis=1)
    return rights, np.cross(rights, tangents), 0.0


def _carried(tangents: Array, closed: bool) -> tuple[Array, Array, float]:
    right = _first_right(tangents)
    rights = [right]
    count = len(tangents)
    for index in range(1, count + 1 if closed else count):
        right = carry(right, tangents[index - 1], tangents[index % count])
        rights.append(right)
    leftover = 0.0
    if closed:
        home = rights.pop()
        leftover = math.atan2(float(np.cross(rights[0], home) @ tangents[0]), float(rights[0] @ home))
        leftover = 0.0 if abs(leftover) < 1e-9 else leftover
    stacked = np.array(rights)
    return stacked, np.cross(stacked, tangents), leftover


def carry(right: Array, before: Array, after: Array) -> Array:
    """Return ``right``, square to ``before``, turned by the smallest rotation that takes before to after (unit vectors).

    Exact form of one step of the double reflection method (Wang, Jüttler, Zheng and Liu, 2008) at a corner.
    A corner that goes straight back has no smallest rotation; the frame is then kept.
    """
    cosine = float(before @ after)
    if cosine < -1 + 1e-12:
        return right
    turned = right - (float(right @ after) / (1 + cosine)) * (before + after)
    turned -= after * float(turned @ after)
    return np.asarray(turned / np.sqrt(turned @ turned))


def _first_right(tangents: Array) -> Array:
    """Return the right of the first leg: level, or, on a vertical leg, square to the plane the line begins in."""
    first = tangents[0]
    if math.hypot(first[0], first[1]) >= math.sin(UPRIGHT_LIMIT):
        return np.array([first[1], -first[0], 0.0]) / math.hypot(first[0], first[1])
    for tangent in tangents[1:]:
        axis = np.cross(first, tangent)
        size = math.sqrt(float(axis @ axis))
        if size > 1e-9:
            axis /= size
            # Drawn either way round, the same side of the plane counts as up.
            if axis[1] < -1e-9 or (abs(axis[1]) <= 1e-9 and axis[0] < 0):
                axis = -axis
            right = np.cross(first, axis)
            return np.asarray(right / math.sqrt(float(right @ right)))
    return np.array([1.0, 0.0, 0.0])
