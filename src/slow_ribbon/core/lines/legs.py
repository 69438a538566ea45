"""The legs a line can have, as plain data.

Terms
-----
straight, arc, curve, through, helix, cord
    a straight; a circular arc by a point on it; a Bézier curve or B-spline by its controls; a
    smooth curve through picked points; a screw line about an axis; a cord hanging between two
    points. Every leg goes from where the one before ends to its own ``to``.
round
    the radius to which the corner at a leg's end is rounded. The corner stays where it is, so
    that the radius can be changed or taken away at any time.

What a leg measures is found by ``spans``.
"""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Distance, Model, Point3, Size

Turn = Annotated[float, Field(ge=-360_000, le=360_000, allow_inf_nan=False)]
"""An angle in degrees that may go round many times."""

Part = Annotated[float, Field(ge=-1e10, le=1e10, allow_inf_nan=False)]
Direction = tuple[Part, Part, Part]
Radius = Annotated[Distance, Field(gt=0, le=1e9)]
"""A radius in mm. A very flat curve has a very large one."""


class LegBase(Model):
    """What every leg has: where it ends, and the radius its end corner is rounded to."""

    to: Point3
    round: Radius | None = None


class StraightLeg(LegBase):
    """A straight leg to a point."""

    kind: Literal["straight"] = "straight"


class ArcLeg(LegBase):
    """A circular arc through ``via``, in any plane."""

    kind: Literal["arc"] = "arc"
    via: Point3


class CurveLeg(LegBase):
    """A Bézier curve or B-spline, rational where it has weights.

    Its controls are the leg's beginning, ``controls`` and ``to``. Without ``knots`` it is a
    single Bézier curve of as many controls as there are where ``degree`` is left out, and else
    a B-spline clamped at its ends with knots spaced evenly. ``weights`` are for all controls,
    both ends included.
    """

    kind: Literal["curve"] = "curve"
    controls: Annotated[tuple[Point3, ...], Field(min_length=1, max_length=5000, fail_fast=True)]
    degree: Annotated[int, Field(ge=1, le=15)] | None = None
    knots: Annotated[tuple[float, ...], Field(max_length=5100, fail_fast=True)] | None = None
    weights: Annotated[tuple[float, ...], Field(max_length=5002, fail_fast=True)] | None = None


class PassPoint(Model):
    """A point that a smooth curve goes through; at a sharp one it makes a corner."""

    at: Point3
    sharp: bool = False


class ThroughLeg(LegBase):
    """A smooth curve through picked points. ``begin`` and ``end`` are its directions of travel there, where set."""

    kind: Literal["through"] = "through"
    points: Annotated[tuple[PassPoint, ...], Field(max_length=5000, fail_fast=True)] = ()
    begin: Direction | None = None
    end: Direction | None = None


class HelixLeg(LegBase):
    """A screw line about the axis through ``centre``.

    ``turn`` is in degrees, right-handed about ``axis``; the leg rises along the axis by as much
    as ``to`` lies above its beginning.
    """

    kind: Literal["helix"] = "helix"
    centre: Point3
    axis: Direction = (0.0, 0.0, 1.0)
    turn: Turn


class CordLeg(LegBase):
    """A cord hanging between two points, by its sag (greatest drop below the straight, measured upright) or its length."""

    kind: Literal["cord"] = "cord"
    sag: Size | None = None
    length: Size | None = None


Leg = Annotated[StraightLeg | ArcLeg | CurveLeg | ThroughLeg | HelixLeg | CordLeg, Field(discriminator="kind")]
AnyLeg = StraightLeg | ArcLeg | CurveLeg | ThroughLeg | HelixLeg | CordLeg


def place(values: Any) -> Point3:
    """Return three numbers as a point of the document."""
    return float(values[0]), float(values[1]), float(values[2])


def helix_end(begin: Point3, centre: Point3, axis: Direction, turn: float, rise: float) -> Point3:
    """Return where a helix from ``begin`` ends after ``turn`` degrees and ``rise`` mm along its axis."""
    c, z = np.array(centre), np.array(axis) / np.linalg.norm(axis)
    out = np.array(begin) - c
    along = z * float(out @ z)
    u = out - along
    angle = math.radians(turn)
    return place(c + along + u * math.cos(angle) + np.cross(z, u) * math.sin(angle) + z * rise)


def mapped(leg: AnyLeg, to: Point3, move: Any, direct: Any, grow: float) -> AnyLeg:
    """Return a leg carried over by a similarity: ``move`` maps points, ``direct`` directions, lengths grow by ``grow``."""
    changes: dict[str, Any] = {"to": to}
    if leg.round is not None:
        changes["round"] = leg.round * grow
    match leg:
        case ArcLeg():
            changes["via"] = move(leg.via)
        case CurveLeg():
            changes["controls"] = tuple(move(point) for point in leg.controls)
        case ThroughLeg():
            changes["points"] = tuple(PassPoint(at=move(point.at), sharp=point.sharp) for point in leg.points)
            changes["begin"] = None if leg.begin is None else direct(leg.begin)
            changes["end"] = None if leg.end is None else direct(leg.end)
        case HelixLeg():
            changes["centre"], changes["axis"] = move(leg.centre), direct(leg.axis)
        case CordLeg():
            changes["sag"] = None if leg.sag is None else leg.sag * grow
            changes["length"] = None if leg.length is None else leg.length * grow
    return leg.model_copy(update=changes)


def reversed_leg(leg: AnyLeg, begin: Point3) -> AnyLeg:
    """Return a leg from ``begin`` gone the other way; its rounding, which belongs to a corner, is left off."""
    changes: dict[str, Any] = {"to": begin, "round": None}
    match leg:
        case CurveLeg():
            changes["controls"] = leg.controls[::-1]
            if leg.knots is not None:
                changes["knots"] = tuple(leg.knots[0] + leg.knots[-1] - knot for knot in reversed(leg.knots))
            if leg.weights is not None:
                changes["weights"] = leg.weights[::-1]
        case ThroughLeg():
            changes["points"] = leg.points[::-1]
            changes["begin"], changes["end"] = _back(leg.end), _back(leg.begin)
        case HelixLeg():
            changes["turn"] = -leg.turn
    return leg.model_copy(update=changes)


def _back(direction: Direction | None) -> Direction | None:
    return None if direction is None else (-direction[0], -direction[1], -direction[2])


def reshaped(leg: AnyLeg, begin: Point3, new_begin: Point3, new_end: Point3) -> AnyLeg:
    """Return a leg whose ends were moved, the rest of it following in proportion.

    A curve is turned and scaled from its old chord to the new one, in plan first so that what
    stood upright stays so; a helix keeps its turn and a cord its sag or length. A leg whose
    ends meet cannot be scaled and is only moved.
    """
    old, new = np.subtract(leg.to, begin), np.subtract(new_end, new_begin)
    if isinstance(leg, StraightLeg | CordLeg):
        return leg.model_copy(update={"to": new_end})
    flat_old, flat_new = float(np.hypot(old[0], old[1])), float(np.hypot(new[0], new[1]))
    if flat_old > 1e-9 and flat_new > 1e-9:
        # A plan similarity, with heights sheared in proportion along the chord.
        cosine = (old[0] * new[0] + old[1] * new[1]) / flat_old**2
        sine = (old[0] * new[1] - old[1] * new[0]) / flat_old**2
        lift = (new[2] - old[2] * flat_new / flat_old) / flat_new**2
        grow = flat_new / flat_old

        def direct(value: Any) -> Point3:
            x, y = cosine * value[0] - sine * value[1], sine * value[0] + cosine * value[1]
            tilt = 0.0 if isinstance(leg, HelixLeg) else lift * (x * new[0] + y * new[1])
            return float(x), float(y), float(value[2] * grow + tilt)

    elif float(np.linalg.norm(old)) > 1e-9 and float(np.linalg.norm(new)) > 1e-9:
        return _turned(leg, begin, new_begin, new_end)
    else:
        grow = 1.0

        def direct(value: Any) -> Point3:
            return place(value)

    def move(point: Any) -> Point3:
        return place(np.add(new_begin, direct(np.subtract(point, begin))))

    found = mapped(leg, new_end, move, direct, grow)
    return found.model_copy(update={"round": leg.round})


def _turned(leg: AnyLeg, begin: Point3, new_begin: Point3, new_end: Point3) -> AnyLeg:
    """Return a leg under the smallest rotation and the scale that take its old chord to the new one."""
    old, new = np.subtract(leg.to, begin), np.subtract(new_end, new_begin)
    grow = float(np.linalg.norm(new) / np.linalg.norm(old))
    a, b = old / np.linalg.norm(old), new / np.linalg.norm(new)
    cross, cosine = np.cross(a, b), float(a @ b)
    if cosine < -1 + 1e-12:
        turn = 2 * np.outer(*(2 * [_square_to(a)])) - np.eye(3)
    else:
        k = np.array([[0, -cross[2], cross[1]], [cross[2], 0, -cross[0]], [-cross[1], cross[0], 0]])
        turn = np.eye(3) + k + k @ k / (1 + cosine)

    def direct(value: Any) -> Point3:
        return place(grow * (turn @ np.asarray(value, dtype=float)))

    def move(point: Any) -> Point3:
        return place(np.add(new_begin, direct(np.subtract(point, begin))))

    return mapped(leg, new_end, move, direct, grow).model_copy(update={"round": leg.round})


def _square_to(direction: Array) -> Array:
    other = np.eye(3)[int(np.argmin(np.abs(direction)))]
    found = np.cross(direction, other)
    return np.asarray(found / np.linalg.norm(found))
