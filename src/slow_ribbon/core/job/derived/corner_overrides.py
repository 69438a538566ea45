"""Corners of runs that are made in ways of their own: found again when their lines are worked on."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.placement.run import Run


def corners_found(before: Job, after: Job, notices: list[str]) -> Job:
    """Return a job, just edited, whose runs' own corners are at the same points as before their lines were worked on.

    What is gone with its point is noted.
    """
    if before.lines is after.lines and before.runs is after.runs:
        return after
    having = [run for run in after.runs if run.own_corners]
    if not having:
        return after
    old_runs = {run.id: run for run in before.some("runs", {run.id for run in having})}
    wanted = {run.line for run in (*old_runs.values(), *having)}
    old = {line.id: line for line in before.some("lines", wanted)}
    new = {line.id: line for line in after.some("lines", wanted)}
    for run in having:
        was = old_runs.get(run.id)
        if was is None or run.line not in new or was.line not in old or old[was.line] is new[run.line]:
            continue
        if [one.point for one in was.own_corners] != [one.point for one in run.own_corners]:
            # The edit has given them by the points of the new line.
            continue
        found = corners_on(run, old[was.line], new[run.line])
        lost = len(run.own_corners) - len(found.own_corners)
        if lost:
            which = "A corner" if lost == 1 else f"{lost} corners"
            notices.append(f"{which} of {run.name} made in a way of {'its' if lost == 1 else 'their'} own went with the point.")
        if found != run:
            after = after.put(found)
    return after


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
