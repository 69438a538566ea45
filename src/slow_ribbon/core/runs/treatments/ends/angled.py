"""Ends cut at an angle."""

from __future__ import annotations

import math
from typing import Literal

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.runs.treatments.ends.base import Finish, Lean


class Angled(Finish):
    """Cut at an angle, degrees from square: ``turn`` lets the front be longer than the back, ``lean`` the top than the bottom."""

    words = "at an angle"

    kind: Literal["angled"] = "angled"
    turn: Lean = 0.0
    lean: Lean = 0.0

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        found: Array = outward - math.tan(math.radians(self.turn)) * front - math.tan(math.radians(self.lean)) * up
        return found
