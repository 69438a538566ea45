"""How things of each kind are solved, one entry a kind; what they stand on is what the kind refers to."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Final

import numpy as np
from scipy.spatial import cKDTree

from slow_ribbon.core.job.kinds import ROWS, RUNS, Kind
from slow_ribbon.core.job.orphans import hanging_checks
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.check import Check
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.memo import kept_with
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.lines.alignment import Course, course_of
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.checks import row_checks
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.rows.setting_out import set_row_out
from slow_ribbon.core.runs.checks import run_checks
from slow_ribbon.core.runs.corners import Mitre, Treatment
from slow_ribbon.core.runs.curve_sizes import board_places, curvature_of, curve_checks
from slow_ribbon.core.runs.curving import Bent, Faceted, Sawn, strays
from slow_ribbon.core.runs.cuts import Cuts
from slow_ribbon.core.runs.finishes import Finish, Returned
from slow_ribbon.core.runs.finishing import finished
from slow_ribbon.core.runs.footprints import footprints
from slow_ribbon.core.runs.jointing import joint_places
from slow_ribbon.core.runs.joints import Joints
from slow_ribbon.core.runs.mitre import corner_kinds, cut
from slow_ribbon.core.runs.model import FacingSide, Placed, Placing, Run, placing_on, run_course
from slow_ribbon.core.sections.model import Section, bed_up
from slow_ribbon.core.sections.outline import OutlinePen
from slow_ribbon.core.sections.resizing import in_row
from slow_ribbon.core.solve.solved import Corner, SolvedRow, SolvedRun, SolvedThing


@dataclass(frozen=True, kw_only=True)
class Solving:
    """How the things of a kind are solved: ``solve`` takes the thing, what it refers to in that order, and the key of the result."""

    kind: Kind[Any]
    solve: Callable[..., SolvedThing]


def solve_run(run: Run, line: Line, section: Section, key: str = "", course: Course | None = None) -> SolvedRun:
    """Return one run solved: cut into pieces, its corners named and checked. ``course`` is the line's unless another is given."""
    along = course = course or run_course(run, line)
    section = section if run.size is None else in_row(section, run.size)
    placed = Placed(section, placing_on(run, line), course)
    checks: list[Check] = []
    if isinstance(run.curves, Sawn):
        try:
            along = course = course.parted(board_places(course, placed, run.curves))
        except Refused as refused:
            remedy = "Take wider boards, or make the curves another way (run card, curves)."
            at, begin = _point(course.starts[0]), float(course.begins[0])
            checks.append(Check("uncurved", "fault", refused.what, remedy, run.id, None, begin, at))

    def made(joints: Joints | None = None) -> Cuts:
        finishing = finished(along, run, placed.right)
        own = {**_facet_corners(run, line, finishing.course), **_own_ways(run, line, finishing.course)}
        return cut(finishing.course, placed, run.corners, run.external, joints, finishing if finishing.ways else None, own)

    cuts = made()
    square = cuts
    if run.joints is not None:
        places, unplaced = joint_places(run, cuts)
        checks += unplaced
        along = along.parted(places) if places else along
        # On plan a joint is a line across, however it leans.
        square = made() if places else cuts
        cuts = made(run.joints)
    course = cuts.course
    kinds = corner_kinds(course, placed.right)
    mitres, bevels = cuts.saw_settings(bed_up(section))
    own, turned = _own_ways(run, line, course), np.flatnonzero(course.turns > 0).tolist()
    ways = {**_facet_corners(run, line, course), **own}
    vertices = _vertices(line, course.starts[turned])
    corners = tuple(
        Corner(
            chainage=float(course.begins[i]),
            point=_point(course.starts[i]),
            angle=180 - math.degrees(course.turns[i]),
            kind=kinds[i],
            mismatch=float(cuts.mismatches[i]),
            made=way.words,
            vertex=vertex,
            fitting=way.fitting if isinstance(way, Treatment) else "",
            own=i in own,
        )
        for i, vertex, way in zip(turned, vertices, [_way(run, cuts, i, kinds[i], ways) for i in turned], strict=True)
    )
    checks += curve_checks(run, cuts)
    checks = [*checks, *run_checks(run, cuts), *hanging_checks(run.id, line, course_of(line))]
    return SolvedRun(
        id=run.id,
        key=key,
        cuts=cuts,
        corners=corners,
        joints=tuple(course.begins[cuts.jointed].tolist()),
        checks=tuple(checks),
        mitres=mitres,
        bevels=bevels,
        footprints=footprints(square),
        origin=origin_of(course),
        tag=run.tag,
        section=section,
        curvatures=tuple(curvature_of(run, cuts, i) for i in range(course.count)) if cuts.course.paths else (),
        strays=strays(run_course(run.model_copy(update={"curves": Bent()}), line), run.curves) if isinstance(run.curves, Faceted) else None,
    )


def _way(run: Run, cuts: Cuts, index: int, kind: str, own: Mapping[int, Treatment]) -> Treatment | Finish:
    """Return how the corner where a piece begins is made."""
    if cuts.finishing is not None and cuts.finishing.mitred[index]:
        return Returned()
    if not cuts.butted_begin[index]:
        return Mitre()
    return own.get(index, run.external if kind == "external" else run.corners)


def _facet_corners(run: Run, line: Line, course: Course) -> dict[int, Treatment]:
    """Return a mitre for each corner that is one of facets alone: whatever else is coped or butted, the facets of a curve are mitred."""
    if not isinstance(run.curves, Faceted):
        return {}
    bent = run_course(run.model_copy(update={"curves": Bent()}), line)
    corners = bent.begins[bent.turns > 0]
    turned = np.flatnonzero(course.turns > 0)
    away = np.abs(course.begins[turned][:, None] - corners[None]).min(axis=1, initial=np.inf)
    return {index: Mitre() for index in turned[away > SAME_PLACE].tolist()}


def _own_ways(run: Run, line: Line, course: Course) -> dict[int, Treatment]:
    """Return how corners in ways of their own are made, by the piece of a course that begins there."""
    if not run.own_corners:
        return {}
    turned = np.flatnonzero(course.turns > 0).tolist()
    at = dict(zip(_vertices(line, course.starts[turned]), turned, strict=True))
    return {at[one.point]: one.made for one in run.own_corners if one.point in at}


def _vertices(line: Line, places: Array) -> list[int | None]:
    """Return which point of a line each of some places (k, 3) is, if any."""
    if not len(places):
        return []
    away, nearest = (np.asarray(found).tolist() for found in cKDTree(line.points()).query(places))
    return [int(number) if far <= SAME_PLACE else None for far, number in zip(away, nearest, strict=True)]


@kept_with
def solve_wall(line: Line) -> SolvedRun:
    """Return the backdrop wall of a line, solved as a run of its own. Raises ``Refused`` where it has none."""
    if line.wall is None:
        raise Refused(f"{line.name} has no wall behind it.", "wall", "no-wall")
    outline = OutlinePen(0, 0).line(1, 0).line(1, 1).line(0, 1).close()
    section = Section(id="S0", name="wall", outline=outline, width=line.wall.thickness, height=line.wall.height)
    run = Run(id="R0", name="wall", tag="W", line=line.id, section="S0", placing=Placing(facing=FacingSide(kind=line.wall.side)))
    course = run_course(run, line)
    # Bent walls come in short parts, so that those between the eye and the room can be left out of a picture one by one.
    cuts = [
        (float(course.begins[i]) + share * path.length) % course.length
        for i, path in course.paths.items()
        for share in np.linspace(0, 1, 1 + max(1, len(path.flattened(1e9)) // 3))[1:-1]
    ]
    return solve_run(run, line, section, course=course.parted(cuts) if cuts else course)


def solve_row(row: Row, line: Line, key: str = "") -> SolvedRow:
    """Return one row set out and checked."""
    course, out = course_of(line), set_row_out(row, line)
    return SolvedRow(row.id, key, out, origin_of(course), (*row_checks(row, out, course), *hanging_checks(row.id, line, course)))


def _solved_run(run: Run, line: Line, section: Section, key: str) -> SolvedRun:
    return solve_run(run, line, section, key)


#: Every kind of thing that is solved.
SOLVING: Final = (Solving(kind=RUNS, solve=_solved_run), Solving(kind=ROWS, solve=solve_row))


def origin_of(course: Course) -> Array:
    return np.asarray(course.starts[0])


def _point(values: Array) -> tuple[float, float, float]:
    return float(values[0]), float(values[1]), float(values[2])
