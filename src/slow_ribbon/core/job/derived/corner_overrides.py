"""Corners of runs that are made in ways of their own: found again when their lines are worked on."""

from __future__ import annotations

from typing import Final

import numpy as np
from scipy.spatial import cKDTree

from slow_ribbon.core.job.derived.expansion import Expansion, Step
from slow_ribbon.core.job.document.kinds import LINES, RUNS
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.placement.run import Run


def corners_on(run: Run, was: Line, now: Line) -> Run:
    """Return a run with its own corners given by the points of a line that its line has become, or a part of it; others left out.

    A point is the one in the same place; where as many points moved, the one of the same number.
    """
    if not run.own_corners:
        return run
    old, new = was.points(), now.points()
    away, nearest = (np.asarray(found) for found in cKDTree(new).query(old))
    known = away <= SAME_PLACE
    alike = len(old) == len(new)
    if alike and not known.all():
        # Some moved: all keep their number, as they do where the whole was carried elsewhere.
        known, nearest = np.ones(len(old), dtype=bool), np.arange(len(old))
    own = {int(nearest[one.point]): one for one in run.own_corners if one.point < len(old) and known[one.point]}
    corners = tuple(own[point].model_copy(update={"point": point}) for point in sorted(own))
    return run if corners == run.own_corners else run.model_copy(update={"own_corners": corners})


def _derived(expansion: Expansion, run: Run) -> Run:
    was = expansion.earlier(RUNS, run.id)
    before = None if was is None else expansion.earlier(LINES, was.line)
    now = expansion.find(LINES, run.line)
    if was is None or before is None or now is None or before is now:
        return run
    if [one.point for one in was.own_corners] != [one.point for one in run.own_corners]:
        # The edit has given them by the points of the new line.
        return run
    kept = corners_on(run, before, now)
    lost = len(run.own_corners) - len(kept.own_corners)
    if lost:
        which = "A corner" if lost == 1 else f"{lost} corners"
        expansion.notices.append(f"{which} of {run.name} made in a way of {'its' if lost == 1 else 'their'} own went with the point.")
    return kept


#: The points of runs' own corners, the same as before their lines were worked on; what is gone with its point is reported.
CORNER_OVERRIDES: Final = Step(
    name="corners",
    kind=RUNS,
    concerns=lambda run: bool(run.own_corners),
    follows=lambda _, run: ((run.line, None),),
    derive=_derived,
    remembered=True,
)
