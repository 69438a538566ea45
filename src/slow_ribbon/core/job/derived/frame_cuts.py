"""Frames as they are cut: by planes that are said, and by the undersides of runs that pass them."""

from __future__ import annotations

import math
from typing import Final

import numpy as np
import shapely

from slow_ribbon.core.job.derived.expansion import Expansion
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, RUNS, SECTIONS
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import SEARCH_DEVIATION
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.construction import FrameOutline
from slow_ribbon.core.lines.frames import FrameCut, frame_outline
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.run import placing_on
from slow_ribbon.core.sections.operations.parametric_sizes import in_row

#: An underside that is steeper, as the cosine of its slope, cuts off no top.
_STEEPEST: Final = 0.01


def with_planes(job: Job | Expansion, made: FrameOutline) -> FrameOutline:
    """Return how a frame is made with each cut as a plane. Raises ``Refused`` where a run that should cut it does not pass it."""
    if not made.uses_runs:
        return made
    width = np.ptp(shapely.get_coordinates(frame_outline(made.model_copy(update={"cuts": ()})))[:, 0])
    cuts = tuple(cut if cut.under is None else _underside(job, made, cut, cut.under, float(width) / 2) for cut in made.cuts)
    return made.model_copy(update={"cuts": cuts})


def _underside(job: Job | Expansion, made: FrameOutline, cut: FrameCut, under: str, reach: float) -> FrameCut:
    """Return the plane on which a run's section stands, where its line is nearest to the middle of a frame on plan."""
    run = job.get(RUNS, under)
    line, section = job.get(LINES, run.line), job.get(SECTIONS, run.section)
    section = section if run.size is None else in_row(section, run.size)
    course = course_of(line)
    chainages, points = course.flattened(SEARCH_DEVIATION)
    path = shapely.LineString(points[:, :2])
    middle = shapely.Point(made.at[:2])
    away = float(path.distance(middle))
    if path.length == 0 or away > reach:
        what = f"{run.name} does not pass over the frame: it is {figure(away)} away on plan from the middle of its foot."
        raise Refused(f"{what} Choose another run, or let the frame stand under it.", "made.cuts", "no-run-over")
    steps = np.hypot(*np.diff(points[:, :2], axis=0).T)
    place = float(np.interp(path.project(middle), np.concatenate([[0.0], np.cumsum(steps)]), chainages))
    here = course.at(np.array([place]))
    lowest = -float(Placed(section, placing_on(run, line), course).at(place).furthest(np.array([[0.0, -1.0]]))[0])
    foot = here.points[0] + here.ups[0] * lowest
    across = np.cross(here.rights[0], here.tangents[0])
    across = across / np.linalg.norm(across)
    if across[2] < _STEEPEST:
        raise Refused(f"{run.name} is upright where it passes the frame, and cuts off no top: choose another run.", "made.cuts", "upright")
    aside = np.array(made.at[:2]) - foot[:2]
    up = foot[2] - made.at[2] - float(across[:2] @ aside) / across[2]
    slope = math.degrees(math.atan2(-across[0], across[2]))
    return FrameCut(up=up, slope=slope, keep=cut.keep)
