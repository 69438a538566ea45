"""How each corner of a run is made, found by the points of its line, and the run cut accordingly."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.point_ids import point_ids
from slow_ribbon.core.runs.pieces.apply_end_treatments import finished
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.trim_pieces import cut
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.run import Run, run_course
from slow_ribbon.core.runs.treatments.corners import Mitre, Treatment
from slow_ribbon.core.runs.treatments.curves import Bent
from slow_ribbon.core.runs.treatments.joints import Joints


def run_cuts(run: Run, line: Line, placed: Placed, along: Course, joints: Joints | None = None) -> Cuts:
    """Return a run cut along a course of its line, with its ends finished, and jointed where ``joints`` are given."""
    finishing = finished(along, run, placed.right)
    own = {**facet_corners(run, line, finishing.course), **own_ways(run, line, finishing.course)}
    return cut(finishing.course, placed, run.corners, run.external, joints, finishing if finishing.ways else None, own)


def facet_corners(run: Run, line: Line, course: Course) -> dict[int, Treatment]:
    """Return a mitre for each corner that is one of facets alone: whatever else is coped or butted, the facets of a curve are mitred."""
    if not run.curves.in_facets:
        return {}
    bent = run_course(run.model_copy(update={"curves": Bent()}), line)
    corners = bent.begins[bent.turns > 0]
    turned = np.flatnonzero(course.turns > 0)
    away = np.abs(course.begins[turned][:, None] - corners[None]).min(axis=1, initial=np.inf)
    return {index: Mitre() for index in turned[away > SAME_PLACE].tolist()}


def own_ways(run: Run, line: Line, course: Course) -> dict[int, Treatment]:
    """Return how corners in ways of their own are made, by the piece of a course that begins there."""
    if not run.own_corners:
        return {}
    turned = np.flatnonzero(course.turns > 0).tolist()
    at = dict(zip(vertices_at(line, course.starts[turned]), turned, strict=True))
    return {at[one.point]: one.made for one in run.own_corners if one.point in at}


@kept_with
def _points_of(line: Line) -> cKDTree:
    return cKDTree(line.points())


def vertices_at(line: Line, places: Array) -> list[int | None]:
    """Return the number of the point of a line that each of some places (k, 3) is, if any."""
    if not len(places):
        return []
    away, nearest = (np.asarray(found).tolist() for found in _points_of(line).query(places))
    ids = point_ids(line)
    return [ids[index] if far <= SAME_PLACE else None for far, index in zip(away, nearest, strict=True)]
