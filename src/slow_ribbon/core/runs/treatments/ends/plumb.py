"""Ends cut plumb on a slope."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.runs.treatments.ends.base import MOST_LEAN, Finish, NoCut


class Plumb(Finish):
    """Cut upright, whatever the pitch."""

    words = "plumb"

    kind: Literal["plumb"] = "plumb"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        level = outward * (1, 1, 0)
        if float(np.linalg.norm(level)) < math.cos(math.radians(MOST_LEAN)):
            raise NoCut("it is too steep there for a plumb cut")
        return level
