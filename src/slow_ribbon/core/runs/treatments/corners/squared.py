"""The squared mitre: both pieces are mitred, and their points cut off square, so that a sharp corner needs no needles."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import NO_LEAN
from slow_ribbon.core.runs.end_surfaces.planes import EndSurface, slopes_of
from slow_ribbon.core.runs.treatments.corners.base import Ends, Meetings, Treatment
from slow_ribbon.core.runs.treatments.corners.mitre import Mitre


class CutOff(EndSurface):
    """A mitre whose point is cut off square: the fibre at p reaches slope·p, but no further than ``limit`` mm past the corner.

    ``sense`` is 1 at the end of a piece, −1 at its beginning.
    """

    def __init__(self, slope: Array, limit: float, sense: float) -> None:
        self.slope, self.limit, self.sense = slope, limit, sense

    @property
    def words(self) -> str:
        return "its point cut off square"

    def reach(self, points: Array) -> Array:
        return self.sense * np.minimum(self.sense * (points @ self.slope), self.limit)

    def bends(self, chord_height: float) -> tuple[Array, Array]:
        size = float(np.linalg.norm(self.slope))
        if size <= NO_LEAN:
            return np.array([0.0, 1.0]), np.zeros(0)
        return self.slope / size, np.array([self.sense * self.limit / size])

    def _same(self) -> tuple[object, ...]:
        return (*(self.slope.round(9) + 0.0).tolist(), round(self.limit, 9), self.sense)


class Squared(Treatment):
    """Both pieces are mitred, and cut off square ``past`` mm beyond the corner on the line where their points reach further.

    Where a piece bends right up to the corner, and where no point reaches so far, it is a mitre.
    """

    words = "squared off"

    kind: Literal["squared"] = "squared"
    past: Annotated[float, Field(ge=0, le=10_000, allow_inf_nan=False)] = 20.0

    def ends(self, meetings: Meetings) -> Ends:
        mitred = Mitre().ends(meetings)
        slopes = (
            slopes_of(meetings.rights_before, meetings.ups_before, meetings.tangents_before, mitred.before.normals),
            slopes_of(meetings.rights_after, meetings.ups_after, meetings.tangents_after, mitred.after.normals),
        )
        # The point of either piece is where its mitre reaches furthest beyond the corner.
        reaches = meetings.furthest_before(slopes[0]), meetings.furthest_after(-slopes[1])
        shaped: list[dict[int, EndSurface]] = [{}, {}]
        together = np.ones(len(meetings.turns), dtype=bool)
        for k in np.flatnonzero(meetings.straight).tolist():
            for side, sense in ((0, 1.0), (1, -1.0)):
                if reaches[side][k] > self.past:
                    shaped[side][k] = CutOff(slopes[side][k], self.past, sense)
                    together[k] = False
        return Ends(before=mitred.before, after=mitred.after, together=together, shaped_before=shaped[0], shaped_after=shaped[1])
