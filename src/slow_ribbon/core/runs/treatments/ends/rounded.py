"""Ends rounded to a radius."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import NO_LENGTH
from slow_ribbon.core.runs.end_surfaces.planes import EndSurface, Nosed
from slow_ribbon.core.runs.treatments.ends.base import Finish, FreeEnd, NoCut


class Rounded(Finish):
    """Cut square and its edges rounded to a ``radius``.

    ``edges``: the upright ones (``sides``), or that at the ``front`` or the ``back`` alone; or the level ones (``both``), or one of them.
    """

    words = "rounded"

    kind: Literal["rounded"] = "rounded"
    radius: Annotated[float, Field(gt=0, le=10_000, allow_inf_nan=False)] = 10.0
    edges: Literal["sides", "front", "back", "both", "top", "bottom"] = "sides"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        return outward

    def surface(self, end: FreeEnd) -> EndSurface:
        if not end.drawn:
            raise NoCut("the section there is not as drawn, because the line rises where it turns")
        if end.straight < self.radius:
            raise NoCut("it bends where it is to be rounded")
        upright = self.edges in ("sides", "front", "back")
        way = np.array([1.0 if end.right_front else -1.0, 0.0] if upright else [0.0, 1.0])
        high, low = (end.shape.furthest(np.array([way, -way])) * (1, -1)).tolist()
        lower, upper = self.edges in ("sides", "back", "both", "bottom"), self.edges in ("sides", "front", "both", "top")
        if self.radius * (lower + upper) > high - low + NO_LENGTH:
            room = (high - low) / (lower + upper)
            raise NoCut(f"there is no room for a radius of {figure(self.radius)}; {figure(room)} is the most here")
        return Nosed(way, low if lower else None, high if upper else None, self.radius, end.sense * self.past, end.sense)
