"""A run made into pieces: its course parted for boards and bars, its corners, joints and ends cut."""

from __future__ import annotations

import logging
from dataclasses import dataclass, replace
from typing import Final

from slow_ribbon.core.kernel.check import Check
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.patience import TooLong
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.making.corner_assignment import run_cuts
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.joint_layout import joint_places
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.run import Run, placing_on, run_course
from slow_ribbon.core.runs.treatments.corners import Mitre
from slow_ribbon.core.runs.treatments.curves import Bent
from slow_ribbon.core.runs.treatments.ends import SquareEnd
from slow_ribbon.core.sections.document.section import Section
from slow_ribbon.core.sections.operations.parametric_sizes import in_row

_log: Final = logging.getLogger(__name__)


@dataclass(frozen=True)
class Pieced:
    """A run in pieces. ``section`` is in the run's size; ``checks``: why it could not be parted as it is meant."""

    cuts: Cuts
    section: Section
    checks: tuple[Check, ...]


def plainly(run: Run) -> Run:
    """Return a run as it is made most plainly: mitred, its ends square, in one length between corners, its curves bent."""
    ends = dict.fromkeys(("first_end", "last_end", "opening_ends"), SquareEnd())
    return run.model_copy(update={"corners": Mitre(), "external": Mitre(), "own_corners": (), "joints": None, "curves": Bent(), **ends})


def unsolved(run: Run, line: Line, fault: Exception) -> Check:
    """Return the check of a run that could not be worked out as it is set."""
    what = (
        f"{run.name} could not be computed with these settings: a fault in the program ({type(fault).__name__}). It is listed "
        "with mitres and square ends, in one length from corner to corner."
    )
    remedy = "Change the radius, ends, corners, joints or curves that were set last (run card), and report this with the job file."
    return Check("unsolved", "fault", what, remedy, run.id, None, 0.0, line.start)


@kept_with
def _known(_: Run) -> dict[str, tuple[Line, Section, Pieced]]:
    return {}


def pieced(run: Run, line: Line, section: Section, course: Course | None = None) -> Pieced:
    """Return a run in pieces, along its line unless another ``course`` is given. Raises ``Refused`` as ``run_course`` and ``placing_on``.

    The result for a run's last line and section is kept as long as the run is.
    """
    if course is not None:
        return _pieced(run, line, section, course)
    known = _known(run)
    last = known.get("last")
    if last is not None and last[0] is line and last[1] is section:
        return last[2]
    try:
        made = _pieced(run, line, section, run_course(run, line))
    except (Refused, TooLong):
        raise
    except Exception as fault:  # noqa: BLE001  # whatever it is, it is logged and reported at its run
        # A fault of ours at one run is no reason to have no list of the others.
        _log.exception("run %s (%s) cannot be cut into pieces", run.id, run.name)
        plain = plainly(run)
        made = replace(_pieced(plain, line, section, run_course(plain, line)), checks=(unsolved(run, line, fault),))
    known["last"] = (line, section, made)
    return made


def _pieced(run: Run, line: Line, section: Section, course: Course) -> Pieced:
    section = section if run.size is None else in_row(section, run.size)
    placed = Placed(section, placing_on(run, line), course)
    checks: list[Check] = []
    if run.curves.parts_curves:
        try:
            course = course.parted(run.curves.parts(course, placed))
        except Refused as refused:
            remedy = "Take wider boards, or make the curves another way (run card, curves)."
            x, y, z = course.starts[0].tolist()
            checks.append(Check("uncurved", "fault", refused.what, remedy, run.id, None, float(course.begins[0]), (x, y, z)))
    cuts = run_cuts(run, line, placed, course)
    if run.joints is not None:
        places, unplaced = joint_places(run, line, cuts)
        checks += unplaced
        if places:
            # A joint set by hand may come anywhere on a ring, which has none where its line starts.
            course = (course.begun(places[0]) if course.smooth else course).parted(places)
        cuts = run_cuts(run, line, placed, course, run.joints)
    return Pieced(cuts, section, tuple(checks))
