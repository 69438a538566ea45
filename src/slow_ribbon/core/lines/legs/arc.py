"""Circular arcs through a point."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, Literal, Self

import numpy as np

from slow_ribbon.core.geometry.curves import Curve, ScrewSpan
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.legs.base import LegBase, Move


class ArcLeg(LegBase):
    """A circular arc through ``via``, in any plane."""

    words = "an arc"

    kind: Literal["arc"] = "arc"
    via: Point3

    def spans(self, begin: Point3, where: str = "") -> list[Curve]:
        return [self.screw(begin, where)]

    def screw(self, begin: Point3, where: str = "") -> ScrewSpan:
        """Return the arc from ``begin``. Raises ``Refused`` as ``spans`` does."""
        return _arc(np.array(begin, dtype=float), np.array(self.via, dtype=float), np.array(self.to, dtype=float), where)

    def carried(self, move: Move, direct: Move, grow: float, over: bool) -> dict[str, Any]:
        return {"via": move(self.via)}

    def shape_points(self) -> list[Point3]:
        return [self.via]

    def with_shape_point(self, index: int, at: Point3, sharp: bool | None) -> Self:
        return self.model_copy(update={"via": at})

    def halfway(self, other: LegBase, half: Callable[[Point3, Point3], Point3]) -> dict[str, Any] | None:
        return {"via": half(self.via, other.via)} if isinstance(other, ArcLeg) else None

    def and_next(self, begin: Point3, after: LegBase) -> LegBase | None:
        """Return one arc again where both are parts of one circle."""
        if not isinstance(after, ArcLeg) or math.dist(begin, after.to) <= WELD:
            return None
        if math.dist(self.screw(begin).centre, after.screw(self.to).centre) >= 1e-3:
            return None
        return ArcLeg(to=after.to, via=self.to, round=after.round)


def _arc(begin: Array, via: Array, end: Array, where: str) -> ScrewSpan:
    """Return the arc through three points. With begin and end the same there is no one circle, so that is refused."""
    a, b = via - begin, end - begin
    cross = np.cross(a, b)
    square = float(cross @ cross)
    sizes = float(a @ a), float(b @ b)
    if min(*sizes, float((end - via) @ (end - via))) <= WELD**2 or square <= 1e-18 * sizes[0] * sizes[1]:
        raise Refused(
            "An arc needs three points apart that do not lie on one straight: move the point on the arc, or make the leg straight.",
            f"{where}.via",
            "arc-flat",
        )
    # Circumcentre of a triangle with one corner at zero.
    to_centre = (sizes[0] * np.cross(b, cross) + sizes[1] * np.cross(cross, a)) / (2 * square)
    centre = begin + to_centre
    radius = math.sqrt(float(to_centre @ to_centre))
    axis = cross / math.sqrt(square)
    u = -to_centre / radius
    v = np.cross(axis, u)
    turn = _angle(end - centre, u, v)
    # Going from begin to end about the axis of (begin, via, end) passes via on the way.
    return ScrewSpan(centre=centre, u=u, v=v, axis=axis, radius=radius, turn=turn, climb=0.0)


def _angle(out: Array, u: Array, v: Array) -> float:
    return math.atan2(float(out @ v), float(out @ u)) % (2 * math.pi)
