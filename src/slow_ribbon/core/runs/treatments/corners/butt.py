"""The butt: one piece runs through to the far face of the other, which stops on its face."""

from __future__ import annotations

import math
from typing import Final, Literal, Self

import numpy as np

from slow_ribbon.core.kernel.arrays import Array, Flags
from slow_ribbon.core.kernel.tolerances import ROUNDING
from slow_ribbon.core.runs.end_surfaces.planes import Planes
from slow_ribbon.core.runs.treatments.corners.base import Ends, Meetings, OnePiece, Treatment, other_hand, other_way
from slow_ribbon.core.runs.treatments.corners.mitre import Mitre

#: Corners that turn less than this, or more than its supplement, have no face to stop on and are mitred (common practice, no source).
LEAST: Final = math.radians(20)


class Butt(Treatment):
    """The piece ``through`` runs on to the far face of the other; that one stops on its face.

    Corners that hardly turn, or nearly go back on themselves, and those where a piece bends, are mitred.
    """

    words = "butted"

    kind: Literal["butt"] = "butt"
    through: OnePiece = "before"

    def ends(self, meetings: Meetings) -> Ends:
        mitred = Mitre().ends(meetings)
        before, after = meetings.tangents_before, meetings.tangents_after
        butted = meetings.straight & (meetings.turns > LEAST) & (meetings.turns < math.pi - LEAST)
        # The faces turned toward the other piece: square to a piece's travel, in the plane of the corner.
        toward_after = square_to(after, before)
        toward_before = square_to(before, after)
        if meetings.piece(self.through) == "before":
            stops, runs = toward_after, toward_before
            stop, run = meetings.reach_before(stops), meetings.reach_after(runs)
            ending, beginning = (runs, run), (stops, stop)
        else:
            # Seen from the piece that begins, the one that ends lies behind: its face is the least and not the most.
            stops, runs = toward_before, toward_after
            stop, run = -meetings.reach_after(-stops), -meetings.reach_before(-runs)
            ending, beginning = (stops, stop), (runs, run)
        return Ends(
            before=_chosen(butted, ending, before, mitred.before),
            after=_chosen(butted, beginning, after, mitred.after),
            together=~butted,
        )

    def reversed(self) -> Self:
        return self.model_copy(update={"through": other_way(self.through)})

    def mirrored(self) -> Self:
        return self.model_copy(update={"through": other_hand(self.through)})


def square_to(directions: Array, to: Array) -> Array:
    """Return directions (k, 3) without their parts along others, of unit size."""
    found = directions - to * np.einsum("ij,ij->i", directions, to)[:, None]
    sizes = np.sqrt(np.einsum("ij,ij->i", found, found))
    return np.asarray(found / np.where(sizes > 0, sizes, 1.0)[:, None])


def _chosen(butted: Flags, plane: tuple[Array, Array], tangents: Array, other: Planes) -> Planes:
    """Return planes at distances from the corner where corners are butted, and else others."""
    normals, distances = plane
    along = np.einsum("ij,ij->i", normals, tangents)
    offsets = np.where(butted, distances / np.where(np.abs(along) > ROUNDING, along, 1.0), other.offsets)
    return Planes(normals=np.where(butted[:, None], normals, other.normals), offsets=offsets)
