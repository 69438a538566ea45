"""The cope: one piece runs square to the wall, the other is shaped to its face and stops on it."""

from __future__ import annotations

import math
from typing import Final, Literal, Self

import numpy as np

from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.runs.end_surfaces.planes import EndSurface, Planes, Scribed
from slow_ribbon.core.runs.treatments.corners.base import Ends, Meetings, OnePiece, Treatment, other_hand, other_way
from slow_ribbon.core.runs.treatments.corners.butt import square_to
from slow_ribbon.core.runs.treatments.corners.mitre import Mitre

#: Corners that turn less than this, or more than its supplement, have no face to be shaped to (common practice, no source).
LEAST: Final = math.radians(20)
_UP: Final = np.array([0.0, 1.0])


class Cope(Treatment):
    """The piece ``coped`` is shaped to the face of the other, which runs on to the wall.

    Only internal corners can be coped, on plan, where both pieces are straight and the face does not undercut; others are mitred,
    and the reason is reported.
    """

    words = "coped"
    by_side = True

    kind: Literal["cope"] = "cope"
    coped: OnePiece = "after"

    def ends(self, meetings: Meetings) -> Ends:
        mitred = Mitre().ends(meetings)
        before, after = mitred.before, mitred.after
        normals = [before.normals.copy(), after.normals.copy()]
        offsets = [before.offsets.copy(), after.offsets.copy()]
        together = np.ones(len(meetings.turns), dtype=bool)
        shaped: dict[int, EndSurface] = {}
        refused: dict[int, str] = {}
        second = int(meetings.piece(self.coped) == "after")
        first = 1 - second
        frames = (
            (meetings.rights_before, meetings.ups_before, meetings.tangents_before),
            (meetings.rights_after, meetings.ups_after, meetings.tangents_after),
        )
        shapes = (meetings.shape_before, meetings.shape_after)
        # The piece that runs through ends on the wall behind the other: on the far side of it as it comes.
        wall = square_to(frames[first][2], frames[second][2])
        way = 1.0 if first == 0 else -1.0
        if first == 0:
            far = meetings.reach_after(wall)
        else:
            far = -meetings.reach_before(-wall)
        for k in range(len(meetings.turns)):
            if why := self._why_not(meetings, k):
                refused[k] = f"No cope here, but a mitre: {why}"
                continue
            (right_a, _, along_a), (right_b, _, along_b) = ((part[k] for part in frames[piece]) for piece in (first, second))
            # Away from the corner the coped piece stands before the face, which looks to that side.
            across, toward = np.array([float(right_b @ right_a), 0.0]), float(along_b @ right_a)
            face = shapes[first](k).face(toward * way > 0)
            if face.undercut:
                why = "the face of the section is undercut, and a cope would leave a gap behind it."
                refused[k] = f"No cope here, but a mitre: {why}"
                continue
            surface = Scribed(face, across, _UP, toward, name="coped")
            reached = surface.reach(shapes[second](k).flat().points)
            normals[first][k], normals[second][k] = wall[k], along_b
            offsets[first][k] = far[k] / float(wall[k] @ along_a)
            offsets[second][k] = reached.min() if second else reached.max()
            together[k] = False
            shaped[k] = surface
        planes = [Planes(normals=normals[piece], offsets=offsets[piece]) for piece in (0, 1)]
        return Ends(
            before=planes[0],
            after=planes[1],
            together=together,
            shaped_before={} if second else shaped,
            shaped_after=shaped if second else {},
            refused=refused,
        )

    def _why_not(self, meetings: Meetings, k: int) -> str:
        """Return why a corner cannot be coped; None where it can."""
        if not meetings.straight[k]:
            return "a piece bends here."
        if not meetings.drawn[k]:
            return "the section here is not as drawn, because the line rises where it turns."
        if float(np.abs(meetings.ups_before[k] - meetings.ups_after[k]).max()) > SAME_PLACE:
            return "the pieces lie at different pitches."
        if not meetings.internal[k]:
            return "it is an external corner, where no face lies behind the other."
        if not LEAST < meetings.turns[k] < math.pi - LEAST:
            return f"a corner of {180 - math.degrees(meetings.turns[k]):.0f}° has no face to stop on."
        return ""

    def reversed(self) -> Self:
        return self.model_copy(update={"coped": other_way(self.coped)})

    def mirrored(self) -> Self:
        return self.model_copy(update={"coped": other_hand(self.coped)})
