"""Ends closed by a cap."""

from __future__ import annotations

from typing import Literal

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Name
from slow_ribbon.core.runs.treatments.ends.base import Finish


class Capped(Finish):
    """Cut square and closed by something bought or turned, which is counted by its name."""

    words = "capped"

    kind: Literal["capped"] = "capped"
    cap: Name

    @property
    def fitting(self) -> str:
        return self.cap

    @property
    def after(self) -> str:
        return "capped"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        return outward
