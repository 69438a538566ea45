"""The mitre: both pieces end in the plane that halves their corner."""

from __future__ import annotations

from typing import Literal

import numpy as np

from slow_ribbon.core.runs.corners.base import Ends, Meetings, Treatment
from slow_ribbon.core.runs.ends import Planes


class Mitre(Treatment):
    """Both pieces are cut in the plane that halves their corner."""

    words = "mitred"

    kind: Literal["mitre"] = "mitre"

    def ends(self, meetings: Meetings) -> Ends:
        planes = Planes.through(meetings.tangents_before + meetings.tangents_after)
        return Ends(before=planes, after=planes, together=np.ones(len(planes.offsets), dtype=bool))
