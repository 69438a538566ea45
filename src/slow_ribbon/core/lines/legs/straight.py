"""Straight legs."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, Literal, Self

import numpy as np

from slow_ribbon.core.geometry.curves import Curve, StraightSpan
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.legs.base import LegBase, place
from slow_ribbon.core.lines.legs.of_span import leg_of


class StraightLeg(LegBase):
    """A straight leg to a point."""

    words = "straight"
    straight = True

    kind: Literal["straight"] = "straight"

    def spans(self, begin: Point3, where: str = "") -> list[Curve]:
        return [straight(np.array(begin, dtype=float), np.array(self.to, dtype=float), where)]

    def reshaped(self, begin: Point3, new_begin: Point3, new_end: Point3) -> Self:
        return self.model_copy(update={"to": new_end})

    def halfway(self, other: LegBase, half: Callable[[Point3, Point3], Point3]) -> dict[str, Any] | None:
        return {} if isinstance(other, StraightLeg) else None

    def and_next(self, begin: Point3, after: LegBase) -> LegBase | None:
        return StraightLeg(to=after.to, round=after.round) if after.straight else None


@leg_of.register
def _(span: StraightSpan, low: float, high: float) -> StraightLeg:
    return StraightLeg(to=place(span.at(np.array([high]))[0][0]))


def straight(begin: Array, end: Array, where: str = "") -> StraightSpan:
    """Return the straight from one point to another. Raises ``Refused`` where it has no length."""
    along = end - begin
    length = math.sqrt(float(along @ along))
    if length <= WELD:
        place = ", ".join(figure(value) for value in end)
        raise Refused(f"This leg has no length: both its ends are at ({place}). Remove one of them or move it.", f"{where}.to", "leg-zero")
    return StraightSpan(begin, along / length, length)
