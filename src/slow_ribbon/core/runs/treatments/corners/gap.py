"""The gap: both pieces are mitred and cut back by half of it, for sealant or for movement."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.runs.end_surfaces.planes import Planes
from slow_ribbon.core.runs.treatments.corners.base import Ends, Meetings, Treatment


class Gap(Treatment):
    """Both pieces end beside the plane that halves their corner, ``gap`` mm from one another."""

    words = "cut back"

    kind: Literal["gap"] = "gap"
    gap: Annotated[float, Field(ge=0, le=1000, allow_inf_nan=False)] = 5.0

    def ends(self, meetings: Meetings) -> Ends:
        planes = Planes.through(meetings.tangents_before + meetings.tangents_after)
        # The plane leans half the turn from square, for both pieces alike.
        back = self.gap / 2 / np.cos(meetings.turns / 2)
        before, after = (Planes(normals=planes.normals, offsets=sense * back) for sense in (-1.0, 1.0))
        return Ends(before=before, after=after, together=np.zeros(len(back), dtype=bool))
