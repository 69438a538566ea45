"""A run made into pieces: its course parted for boards and bars, its corners, joints and ends cut."""

from __future__ import annotations

from dataclasses import dataclass

from slow_ribbon.core.kernel.check import Check
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.memo import kept_with
from slow_ribbon.core.lines.alignment import Course
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.corner_ways import run_cuts
from slow_ribbon.core.runs.curve_sizes import board_places
from slow_ribbon.core.runs.curving import Sawn
from slow_ribbon.core.runs.cuts import Cuts
from slow_ribbon.core.runs.jointing import joint_places
from slow_ribbon.core.runs.model import Placed, Run, placing_on, run_course
from slow_ribbon.core.sections.model import Section
from slow_ribbon.core.sections.resizing import in_row


@dataclass(frozen=True)
class Pieced:
    """A run in pieces: ``cuts``, and ``square`` with its joints cut square, as they are drawn on plan. ``section`` is in the run's size.

    ``checks``: why it could not be parted as it is meant.
    """

    cuts: Cuts
    square: Cuts
    section: Section
    checks: tuple[Check, ...]


@kept_with
def _known(_: Run) -> dict[str, tuple[Line, Section, Pieced]]:
    return {}


def pieced(run: Run, line: Line, section: Section, course: Course | None = None) -> Pieced:
    """Return a run in pieces, along its line unless another ``course`` is given. Raises ``Refused`` as ``run_course`` and ``placing_on``.

    What came of a run's line and section last is kept as long as the run is.
    """
    if course is not None:
        return _pieced(run, line, section, course)
    known = _known(run)
    last = known.get("last")
    if last is not None and last[0] is line and last[1] is section:
        return last[2]
    made = _pieced(run, line, section, run_course(run, line))
    known["last"] = (line, section, made)
    return made


def _pieced(run: Run, line: Line, section: Section, course: Course) -> Pieced:
    section = section if run.size is None else in_row(section, run.size)
    placed = Placed(section, placing_on(run, line), course)
    checks: list[Check] = []
    if isinstance(run.curves, Sawn):
        try:
            course = course.parted(board_places(course, placed, run.curves))
        except Refused as refused:
            remedy = "Take wider boards, or make the curves another way (run card, curves)."
            x, y, z = course.starts[0].tolist()
            checks.append(Check("uncurved", "fault", refused.what, remedy, run.id, None, float(course.begins[0]), (x, y, z)))
    cuts = square = run_cuts(run, line, placed, course)
    if run.joints is not None:
        places, unplaced = joint_places(run, line, cuts)
        checks += unplaced
        if places:
            course = course.parted(places)
        cuts = run_cuts(run, line, placed, course, run.joints)
        square = run_cuts(run, line, placed, course) if run.joints.leans else cuts
    return Pieced(cuts, square, section, tuple(checks))
