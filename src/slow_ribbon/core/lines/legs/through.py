"""Smooth curves through picked points."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self

import numpy as np
from pydantic import Field
from scipy.interpolate import CubicSpline, make_interp_spline

from slow_ribbon.core.geometry.curves import Curve
from slow_ribbon.core.geometry.parametric import ParametricSpan
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Model, Point3
from slow_ribbon.core.kernel.tolerances import ROUNDING
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.legs.base import Direction, LegBase, Move
from slow_ribbon.core.lines.legs.straight import straight


class PassPoint(Model):
    """A point that a smooth curve goes through; at a sharp one it makes a corner."""

    at: Point3
    sharp: bool = False


class ThroughLeg(LegBase):
    """A smooth curve through picked points. ``begin`` and ``end`` are its directions of travel there, where set."""

    words = "a spline through points"

    kind: Literal["through"] = "through"
    points: Annotated[tuple[PassPoint, ...], Field(max_length=5000, fail_fast=True)] = ()
    begin: Direction | None = None
    end: Direction | None = None

    def spans(self, begin: Point3, where: str = "") -> list[Curve]:
        return _through(self, np.array(begin, dtype=float), where)

    def carried(self, move: Move, direct: Move, grow: float, over: bool) -> dict[str, Any]:
        return {
            "points": tuple(PassPoint(at=move(point.at), sharp=point.sharp) for point in self.points),
            "begin": None if self.begin is None else direct(self.begin),
            "end": None if self.end is None else direct(self.end),
        }

    def backward(self) -> dict[str, Any]:
        return {"points": self.points[::-1], "begin": _back(self.end), "end": _back(self.begin)}

    def shape_points(self) -> list[Point3]:
        return [point.at for point in self.points]

    def with_shape_point(self, index: int, at: Point3, sharp: bool | None) -> Self:
        point = PassPoint(at=at, sharp=self.points[index].sharp if sharp is None else sharp)
        return self.model_copy(update={"points": (*self.points[:index], point, *self.points[index + 1 :])})

    def without_shape_point(self, index: int) -> Self | None:
        return self.model_copy(update={"points": self.points[:index] + self.points[index + 1 :]})


def _back(direction: Direction | None) -> Direction | None:
    return None if direction is None else (-direction[0], -direction[1], -direction[2])


def _through(leg: ThroughLeg, begin: Array, where: str) -> list[Curve]:
    """Return cubic splines through the points, one between every two sharp ones.

    The parameter grows with the root of the distance between points (centripetal, E. T. Y. Lee,
    1989), which keeps curves through uneven points from looping. Free ends are natural; a curve
    that comes back to its beginning, with no sharp point and no set direction, is smooth there too.
    """
    places = [begin, *(np.array(point.at, dtype=float) for point in leg.points), np.array(leg.to, dtype=float)]
    sharp = [True, *(point.sharp for point in leg.points), True]
    for index in range(1, len(places)):
        if float(np.linalg.norm(places[index] - places[index - 1])) <= WELD:
            spot = f"{where}.points.{index - 1}" if index < len(places) - 1 else f"{where}.to"
            raise Refused("Two points of this curve are the same: remove one of them or move it.", spot, "leg-zero")
    around = float(np.linalg.norm(places[-1] - places[0])) <= WELD and leg.begin is None and leg.end is None and not any(sharp[1:-1])
    if around and len(places) < 4:
        raise Refused("A smooth curve that closes on itself needs at least three points.", f"{where}.points", "curve-short")
    found: list[Curve] = []
    low = 0
    for high in range(1, len(places)):
        if not sharp[high]:
            continue
        part = np.array(places[low : high + 1])
        first = leg.begin if low == 0 else None
        last = leg.end if high == len(places) - 1 else None
        if len(part) == 2 and first is None and last is None:
            found.append(straight(part[0], part[1], where))
        else:
            found.append(_smooth(part, first, last, around))
        low = high
    return found


def _smooth(points: Array, first: Point3 | None, last: Point3 | None, around: bool) -> ParametricSpan:
    steps = np.sqrt(np.linalg.norm(np.diff(points, axis=0), axis=1))
    knots = np.concatenate([[0.0], np.cumsum(steps)])
    if around:
        points = points.copy()
        points[-1] = points[0]
        spline = CubicSpline(knots, points, bc_type="periodic")
    else:
        spline = CubicSpline(knots, points, bc_type=(_end(first, steps[0]), _end(last, steps[-1])))
    rates, changes = spline.derivative(1), spline.derivative(2)
    # The same curve by controls: through the same points, leaving and coming in alike.
    ends = rates(knots[[0, -1]])
    leaving: Any = ([(1, ends[0])], [(1, ends[1])])
    controls = make_interp_spline(knots, points, k=3, bc_type=leaving)
    return ParametricSpan(lambda t: (spline(t), rates(t), changes(t)), knots, controls, "through")


def _end(direction: Point3 | None, step: float) -> tuple[Literal[1, 2], Array]:
    """Return the boundary condition: a set direction at the pace of the first or last part, or no bending."""
    if direction is None:
        return 2, np.zeros(3)
    along = np.array(direction)
    return 1, along / max(float(np.linalg.norm(along)), ROUNDING) * step
