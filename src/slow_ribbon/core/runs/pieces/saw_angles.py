"""Mitre and bevel at which the pieces of a run are sawn."""

from __future__ import annotations

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts


def saw_settings(cuts: Cuts, sprung: bool = False) -> tuple[Array, Array]:
    """Return mitre and bevel in degrees, (m, 2) each (begin, end), for pieces that lie on their section's bed, or ``sprung``.

    μ = atan2(m·c, m·t) turns the table, β = asin(m·up) tilts the blade, with m the cut's normal
    and c = up × t to the left of travel on the table. A positive mitre puts the left edge of
    the cut further back along travel than the right; a positive bevel the upper edge further
    back than the lower.
    """
    lying = [cuts.placed] if cuts.leans is None else [cuts.lying(i) for i in range(cuts.course.count)]
    ups = np.array([one.sprung_up if sprung else one.bed_up for one in lying])
    course = cuts.plain
    mitres, bevels = [], []
    for plane, right, above, tangent in (
        (cuts.planes_begin, course.rights, course.ups, course.tangents),
        (cuts.planes_end, course.rights_end, course.ups_end, course.tangents_end),
    ):
        out = right * ups[:, :1] + above * ups[:, 1:]
        across = np.cross(out, tangent)
        along = np.einsum("ij,ij->i", plane, tangent)
        mitres.append(np.degrees(np.arctan2(np.einsum("ij,ij->i", plane, across), along)))
        bevels.append(np.degrees(np.arcsin(np.clip(np.einsum("ij,ij->i", plane, out), -1, 1))))
    # No "-0.0" on a cutting list.
    return np.stack(mitres, axis=1).round(12) + 0.0, np.stack(bevels, axis=1).round(12) + 0.0
