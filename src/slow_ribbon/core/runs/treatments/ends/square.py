"""Ends cut square."""

from __future__ import annotations

from typing import Literal

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.runs.treatments.ends.base import Finish


class SquareEnd(Finish):
    """Cut square."""

    words = "square"

    kind: Literal["square"] = "square"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        return outward
