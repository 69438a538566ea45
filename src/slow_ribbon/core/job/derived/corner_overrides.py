"""Corners of runs that are made in ways of their own: without those of points that are gone."""

from __future__ import annotations

from typing import Final

from slow_ribbon.core.job.derived.expansion import Expansion, Step
from slow_ribbon.core.job.document.kinds import LINES, RUNS
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.point_ids import point_ids
from slow_ribbon.core.runs.placement.run import Run


def corners_on(run: Run, line: Line) -> Run:
    """Return a run with its own corners at points that a line has, others left out."""
    there = set(point_ids(line)) if run.own_corners else set()
    corners = tuple(one for one in run.own_corners if one.point in there)
    return run if len(corners) == len(run.own_corners) else run.model_copy(update={"own_corners": corners})


def _derived(expansion: Expansion, run: Run) -> Run:
    line = expansion.find(LINES, run.line)
    if line is None:
        return run
    kept = corners_on(run, line)
    lost = len(run.own_corners) - len(kept.own_corners)
    if lost:
        which = "A corner" if lost == 1 else f"{lost} corners"
        expansion.notices.append(f"{which} of {run.name} made in a way of {'its' if lost == 1 else 'their'} own went with the point.")
    return kept


#: The own corners of runs without those whose points are gone, which is reported.
CORNER_OVERRIDES: Final = Step(
    name="corners",
    kind=RUNS,
    concerns=lambda run: bool(run.own_corners),
    follows=lambda _, run: ((run.line, None),),
    derive=_derived,
    remembered=True,
)
