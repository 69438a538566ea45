"""The transition piece: an upright piece that stands in the corner, on whose plumb faces both pieces end."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Distance, Name
from slow_ribbon.core.kernel.tolerances import NO_LEAN
from slow_ribbon.core.runs.end_surfaces.planes import Planes
from slow_ribbon.core.runs.treatments.corners.base import Ends, Meetings, Treatment


class Transition(Treatment):
    """Both pieces are cut plumb, half of ``size`` mm on plan from the corner, where the faces of an upright piece about it are.

    It stands ``proud`` mm above and below all that ends on it: so a piece on the rise and a level one need not meet each other.
    """

    words = "at a transition piece"

    kind: Literal["transition"] = "transition"
    size: Annotated[float, Field(gt=0, le=10_000, allow_inf_nan=False)] = 100.0
    proud: Distance = 10.0
    name: Name = "Transition piece"

    @property
    def fitting(self) -> str:
        return self.name

    def ends(self, meetings: Meetings) -> Ends:
        before, after = (_face(way, self.size / 2 * sense) for way, sense in ((meetings.tangents_before, -1), (meetings.tangents_after, 1)))
        return Ends(before=before, after=after, together=np.zeros(len(meetings.turns), dtype=bool))


def _face(tangents: Array, distance: float) -> Planes:
    """Return plumb planes square on plan to tangents (k, 3), so far from the corner on plan; square to what is plumb itself."""
    plan = tangents * (1.0, 1.0, 0.0)
    sizes = np.linalg.norm(plan, axis=1)
    leaning = sizes > NO_LEAN
    pace = np.where(leaning, sizes, 1.0)
    return Planes(normals=np.where(leaning[:, None], plan / pace[:, None], tangents), offsets=distance / pace)
