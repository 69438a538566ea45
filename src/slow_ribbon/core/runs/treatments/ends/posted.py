"""Ends let into a post."""

from __future__ import annotations

import math
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Distance, Name
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.runs.treatments.ends.base import MOST_LEAN, Finish


class Posted(Finish):
    """Spliced into a post whose middle is where the line ends: cut plumb at its face, or ``let_in`` beyond that.

    The post is ``size`` mm wide the way the run comes; it is counted unless another run's end counts it.
    """

    words = "into a post"

    kind: Literal["posted"] = "posted"
    size: Annotated[float, Field(gt=0, le=10_000, allow_inf_nan=False)] = 100.0
    let_in: Distance = 0.0
    name: Name = "Post"
    counted: bool = True

    @property
    def fitting(self) -> str:
        return self.name if self.counted else ""

    @property
    def after(self) -> str:
        return f"let {figure(self.let_in)} into a post" if self.let_in else "at a post"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        level = outward * (1, 1, 0)
        # What comes from above or below ends on its top or its foot.
        return level if float(np.linalg.norm(level)) > math.cos(math.radians(MOST_LEAN)) else outward

    def beyond(self, outward: Array) -> float:
        normal = self.normal(outward, outward, outward)
        return self.past + (self.let_in - self.size / 2) / float(outward @ normal) * float(np.linalg.norm(normal))
