"""The block: both pieces stop square at a post or a block that stands in the corner, and is counted."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.kernel.fields import Distance, Name
from slow_ribbon.core.runs.end_surfaces.planes import Planes
from slow_ribbon.core.runs.treatments.corners.base import Ends, Meetings, Treatment


class Block(Treatment):
    """Both pieces are cut square, half of ``size`` mm from the corner on the line: where the faces of a block about it are.

    It stands ``proud`` mm above and below all that ends on it.
    """

    words = "at a block"

    kind: Literal["block"] = "block"
    size: Annotated[float, Field(gt=0, le=10_000, allow_inf_nan=False)] = 100.0
    proud: Distance = 0.0
    name: Name = "Corner block"

    @property
    def fitting(self) -> str:
        return self.name

    def ends(self, meetings: Meetings) -> Ends:
        count = len(meetings.turns)
        half = np.full(count, self.size / 2)
        before = Planes(normals=meetings.tangents_before, offsets=-half)
        after = Planes(normals=meetings.tangents_after, offsets=half)
        return Ends(before=before, after=after, together=np.zeros(count, dtype=bool))
