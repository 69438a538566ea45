"""Ends returned to the wall by a small mitred piece."""

from __future__ import annotations

from typing import Literal

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Distance
from slow_ribbon.core.runs.treatments.ends.base import Finish


class Returned(Finish):
    """Mitred and returned: a small piece goes on square to it, away from its front, and ends ``deep`` mm behind the line."""

    words = "returned"

    kind: Literal["returned"] = "returned"
    deep: Distance = 0.0

    @property
    def return_depth(self) -> float:
        return self.deep

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        return outward
