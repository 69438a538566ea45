"""An added finish: splayed, so much in so much, so that water runs off."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.runs.treatments.ends.base import Finish


class Splayed(Finish):
    """Cut so that the foot stands out: by one in ``run`` of its height."""

    words = "splayed"

    kind: Literal["splayed"] = "splayed"
    run: Annotated[float, Field(ge=1, le=100, allow_inf_nan=False)] = 4.0

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        return outward + up / self.run
