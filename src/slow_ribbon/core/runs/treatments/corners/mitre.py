"""The mitre: both pieces end in the plane that halves their corner.

Where a line turns on plan and its pitch changes, the sections of two pieces that both stand upright do not meet (docs/geometry.md,
section 4). Then the section may go on *turned* along the rise, as it comes through the mitre; or the mitre is cut plumb, halving the
corner on plan, and the piece on the rise is made of a second section that *members* with the first: of the same breadth, its heights
drawn along the rise through those of the first.

Beside a curve a plane is near enough only on the line itself. Where it is asked for, both pieces end in the *true* mitre instead, which is
cut by a pattern (``curved``).
"""

from __future__ import annotations

from typing import Literal

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import NO_LEAN
from slow_ribbon.core.runs.end_surfaces.planes import Planes
from slow_ribbon.core.runs.treatments.corners.base import Ends, Meetings, Treatment
from slow_ribbon.core.runs.treatments.corners.curved import true_mitres


class Mitre(Treatment):
    """Both pieces are cut in the plane that halves their corner."""

    words = "mitred"

    kind: Literal["mitre"] = "mitre"
    raked: Literal["told", "turned", "members"] = "told"
    beside_curves: Literal["flat", "true"] = "flat"

    def ends(self, meetings: Meetings) -> Ends:
        planes = Planes.through(self.normals(meetings.tangents_before, meetings.tangents_after, meetings.upright))
        together = np.ones(len(planes.offsets), dtype=bool)
        if self.beside_curves == "flat" or not meetings.bends.any():
            return Ends(before=planes, after=planes, together=together)
        return true_mitres(meetings, planes)

    def normals(self, before: Array, after: Array, upright: bool) -> Array:
        """Return the normals (k, 3), of any size, of the mitres between tangents (k, 3) each, in frames that are ``upright`` or not."""
        halving = before + after
        if self.raked != "members" or not upright:
            return np.asarray(halving)
        flat = []
        for tangents in (before, after):
            plan = tangents * (1.0, 1.0, 0.0)
            flat.append(plan / np.linalg.norm(plan, axis=1)[:, None])
        # Where it turns up or down alone, sections meet in the plane that halves it.
        turns = np.abs(flat[0] - flat[1]).max(axis=1) > NO_LEAN
        return np.where(turns[:, None], flat[0] + flat[1], halving)
