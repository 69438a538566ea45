"""Where the pieces of a run are jointed: by rule along every leg that is longer than a bar, or by hand."""

from __future__ import annotations

import numpy as np

from slow_ribbon.core.kernel.check import Check
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import NO_LEAN
from slow_ribbon.core.runs.cuts import Cuts
from slow_ribbon.core.runs.joints import joints_along
from slow_ribbon.core.runs.model import Run


def _leans(cuts: Cuts, index: int) -> float:
    """Return how far along a piece what is cut plumb leans, mm, where it is steepest."""
    path = cuts.plain.paths.get(index)
    tangents = cuts.plain.tangents[index : index + 1] if path is None else path.at_chords.tangents
    steepest = float(np.max(np.abs(tangents[:, 2]) / np.maximum(np.hypot(tangents[:, 0], tangents[:, 1]), NO_LEAN)))
    low, high = cuts.lying(index).furthest(np.array([[0.0, -1.0], [0.0, 1.0]])) * (-1, 1)
    return float(high - low) * steepest


def joint_places(run: Run, cuts: Cuts) -> tuple[list[float], list[Check]]:
    """Return the chainages of a run's joints, from its pieces in one length each, and a check for each piece that none can be placed in."""
    joints, course = run.joints, cuts.course
    if joints is None:
        return [], []
    if joints.at is not None:
        return sorted(set(joints.at)), []
    places: list[float] = []
    checks: list[Check] = []
    thick = float(np.ptp(cuts.placed.thickness))
    ring = course.closed and course.count == 1 and not course.turns[0] and not course.free[0]
    # The fibre that begins first and the one that ends last: at most so much beyond the line.
    begins, ends = cuts.beyond()
    for i in range(course.count):
        look_up()
        length = float(course.lengths[i])
        # Round a bend the longest fibre is longer than the line and what is beyond its ends together.
        long = float(cuts.long_points[i])
        if long <= joints.longest and not ring:
            continue
        before, after = float(begins[i]), float(ends[i])
        if joints.made == "plumb":
            thick = _leans(cuts, i)
        elif cuts.leans is not None:
            thick = float(np.ptp(cuts.lying(i).thickness))
        over = max(0.0, long - length - before - after) / 2
        try:
            found = joints_along(length, before + over, after + over, joints, thick, ring)
        except Refused as refused:
            middle = float(course.begins[i]) + length / 2
            x, y, z = course.at(np.array([middle])).points[0].tolist()
            checks.append(
                Check(
                    kind="no-joints",
                    severity="fault",
                    what=refused.what,
                    remedy="Change the bars, the least part or how far joints keep from corners (run card, joints).",
                    thing=run.id,
                    piece=i,
                    chainage=middle % course.length,
                    point=(x, y, z),
                )
            )
            continue
        begin = float(course.begins[i])
        places += [(begin + at) % course.length if course.closed else begin + at for at in found]
    return places, checks
