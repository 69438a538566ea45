"""How things of each kind are solved, one entry a kind; what they stand on is what the kind refers to."""

from __future__ import annotations

import logging
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any, Final

import numpy as np

from slow_ribbon.core.job.document.kinds import ROWS, RUNS, Kind
from slow_ribbon.core.job.reimport_checks import hanging_checks
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.patience import TooLong
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.checks import row_checks
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.rows.setting_out import set_row_out
from slow_ribbon.core.runs.making.checks import run_checks, wide_openings
from slow_ribbon.core.runs.making.corner_assignment import facet_corners, own_ways, vertices_at
from slow_ribbon.core.runs.making.corner_overlaps import overlap_checks
from slow_ribbon.core.runs.making.split_into_pieces import pieced, plainly, unsolved
from slow_ribbon.core.runs.pieces.curve_fabrication import curvature_of, curve_checks
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.fittings import UprightBlock, at_end, fitting_at, in_corner
from slow_ribbon.core.runs.pieces.footprints import footprints
from slow_ribbon.core.runs.pieces.saw_angles import saw_settings
from slow_ribbon.core.runs.pieces.trim_pieces import corner_kinds
from slow_ribbon.core.runs.placement.placing import FacingSide, Placing
from slow_ribbon.core.runs.placement.run import Run, run_course
from slow_ribbon.core.runs.treatments.corners import Mitre, Treatment
from slow_ribbon.core.runs.treatments.curves import Bent
from slow_ribbon.core.runs.treatments.ends import Finish, Returned
from slow_ribbon.core.sections.document.section import Section, section_shape
from slow_ribbon.core.sections.operations.affine_member import same_image
from slow_ribbon.core.sections.outline.outline import OutlinePen
from slow_ribbon.core.solve.results import Corner, SolvedRow, SolvedRun, SolvedThing

_log: Final = logging.getLogger(__name__)


@dataclass(frozen=True, kw_only=True)
class Solving:
    """How the things of a kind are solved: ``solve`` takes the thing, what it refers to in that order, and the key of the result."""

    kind: Kind[Any]
    solve: Callable[..., SolvedThing]


def solve_run(run: Run, line: Line, section: Section, key: str = "", course: Course | None = None) -> SolvedRun:
    """Return one run solved: cut into pieces, its corners named and checked. ``course`` is the line's unless another is given."""
    found = pieced(run, line, section, course)
    cuts, section, checks = found.cuts, found.section, list(found.checks)
    course = cuts.plain
    kinds = corner_kinds(course, cuts.placed.right)
    mitres, bevels = saw_settings(cuts)
    own, turned = own_ways(run, line, course), np.flatnonzero(course.turns > 0).tolist()
    facets = facet_corners(run, line, course)
    ways = {**facets, **own}
    vertices = vertices_at(line, course.starts[turned])
    made = {i: _way(run, cuts, i, kinds[i], ways) for i in turned}
    corners = tuple(
        Corner(
            chainage=float(course.begins[i]),
            point=_point(course.starts[i]),
            angle=180 - math.degrees(course.turns[i]),
            kind=kinds[i],
            mismatch=float(cuts.mismatches[i]),
            made=way.words,
            vertex=vertex,
            fitting=fitting_at(cuts, i, way),
            own=i in own,
        )
        for (i, way), vertex in zip(made.items(), vertices, strict=True)
    )
    checks += curve_checks(run, cuts)
    checks = [
        *checks,
        *run_checks(run, cuts),
        *overlap_checks(run, cuts, made),
        *wide_openings(run, line),
        *hanging_checks(run.id, line, course_of(line)),
    ]
    return SolvedRun(
        id=run.id,
        line=line.id,
        key=key,
        cuts=cuts,
        corners=corners,
        joints=tuple(course.begins[cuts.jointed].tolist()),
        checks=tuple(checks),
        mitres=mitres,
        bevels=bevels,
        footprints=footprints(cuts.with_square_joints() if cuts.joints is not None and cuts.joints.leans else cuts),
        origin=origin_of(course),
        tags=tuple(run.tag_of(i) for i in range(course.count)),
        section=section,
        sections=sections_of(run, cuts, section),
        curvatures=tuple(curvature_of(run, cuts, i) for i in range(course.count)) if cuts.course.paths else (),
        strays=run.curves.strays(run_course(run.model_copy(update={"curves": Bent()}), line).begun_at_a_curve())
        if run.curves.in_facets
        else None,
        uprights=uprights_of(cuts, made),
        facets=frozenset(piece % course.count for i in facets for piece in (i - 1, i)),
    )


def _way(run: Run, cuts: Cuts, index: int, kind: str, own: Mapping[int, Treatment]) -> Treatment | Finish:
    """Return how the corner where a piece begins is made."""
    if cuts.finishing is not None and cuts.finishing.mitred[index]:
        return Returned()
    way = own.get(index, run.external if kind == "external" else run.corners)
    return way if cuts.butted_begin[index] or isinstance(way, Mitre) else Mitre()


def sections_of(run: Run, cuts: Cuts, section: Section) -> tuple[Section, ...]:
    """Return the sections that a run's pieces are of, by their sort; second ones as those that the job has, where it has them."""
    found = [section]
    for lying in cuts.seconds:
        known = next((one for one in run.seconds if same_image(one.matrix, lying.image)), None)
        named = {"name": f"{section.name}, on the rise"} if known is None else {"id": known.section}
        found.append(lying.section.model_copy(update=named))
    return tuple(found)


def uprights_of(cuts: Cuts, ways: Mapping[int, Treatment | Finish]) -> tuple[UprightBlock, ...]:
    """Return the blocks in a run's corners, given by the piece that begins there, and at its ends."""
    found = [in_corner(cuts, index, way) for index, way in ways.items()]
    if cuts.finishing is not None:
        found += [at_end(cuts, index, end, way) for (index, end), way in cuts.finishing.ways.items()]
    return tuple(one for one in found if one is not None)


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
    return SolvedRow(row.id, key, out, origin_of(course), (*row_checks(row, out, line), *hanging_checks(row.id, line, course)))


def _solved_run(run: Run, line: Line, section: Section, key: str) -> SolvedRun:
    """Return a run solved; where that fails by a fault of ours, as plainly as it can be, with a check that says so."""
    try:
        return solve_run(run, line, section, key)
    except (Refused, TooLong):
        raise
    except Exception as fault:  # noqa: BLE001  # whatever it is, it is logged and reported at its run
        _log.exception("run %s (%s) cannot be solved", run.id, run.name)
        plain, check = plainly(run), unsolved(run, line, fault)
    for shape in (section, _boxed(section)):
        try:
            found = solve_run(plain, line, shape, key)
        except (Refused, TooLong):
            raise
        except Exception:  # noqa: BLE001  # logged, and tried more plainly still
            _log.exception("run %s (%s) cannot be solved plainly either", run.id, run.name)
        else:
            return replace(found, checks=(check, *found.checks))
    raise AssertionError(f"run {run.id} cannot be solved with a rectangle for its section")


def _boxed(section: Section) -> Section:
    """Return a section as the rectangle around it."""
    left, low, right, high = section_shape(section).box
    outline = OutlinePen(left, low).line(right, low).line(right, high).line(left, high).close()
    return Section(id=section.id, name=section.name, outline=outline, width=right - left, height=high - low, datum=section.datum)


#: Every kind of thing that is solved.
SOLVING: Final = (Solving(kind=RUNS, solve=_solved_run), Solving(kind=ROWS, solve=solve_row))


def origin_of(course: Course) -> Array:
    return np.asarray(course.starts[0])


def _point(values: Array) -> tuple[float, float, float]:
    return float(values[0]), float(values[1]), float(values[2])
