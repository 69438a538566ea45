"""Ends cut level on a slope."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.runs.treatments.ends.base import MOST_LEAN, Finish, NoCut


class LevelEnd(Finish):
    """Cut level, at the foot or the head of a slope."""

    words = "level"

    kind: Literal["level"] = "level"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        if abs(float(outward[2])) < math.cos(math.radians(MOST_LEAN)):
            raise NoCut("it is too flat there for a level cut")
        return np.array([0.0, 0.0, math.copysign(1.0, float(outward[2]))])
