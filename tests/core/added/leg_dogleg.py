"""An added kind of leg: a dogleg, two straights by way of a point."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np

from slow_ribbon.core.geometry.curves import Curve
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.lines.legs.base import LegBase, Move
from slow_ribbon.core.lines.legs.straight import straight


class Dogleg(LegBase):
    """Straight to a point, and straight on from there."""

    words = "a dogleg"

    kind: Literal["dogleg"] = "dogleg"
    by: Point3

    def spans(self, begin: Point3, where: str = "") -> list[Curve]:
        places = [np.array(point, dtype=float) for point in (begin, self.by, self.to)]
        return [straight(places[0], places[1], where), straight(places[1], places[2], where)]

    def carried(self, move: Move, direct: Move, grow: float, over: bool) -> dict[str, Any]:
        return {"by": move(self.by)}
