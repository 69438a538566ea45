"""An added corner treatment: left open. Both pieces end square, short of the corner."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.runs.end_surfaces.planes import Planes
from slow_ribbon.core.runs.treatments.corners.base import Ends, Meetings, Treatment


class Open(Treatment):
    """Both pieces end square, ``short`` mm before the corner."""

    words = "left open"

    kind: Literal["open"] = "open"
    short: Annotated[float, Field(ge=0, le=1000, allow_inf_nan=False)] = 20.0

    def ends(self, meetings: Meetings) -> Ends:
        count = len(meetings.turns)
        before = Planes(normals=meetings.tangents_before, offsets=np.full(count, -self.short))
        after = Planes(normals=meetings.tangents_after, offsets=np.full(count, self.short))
        return Ends(before=before, after=after, together=np.zeros(count, dtype=bool))
