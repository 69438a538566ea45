"""What runs take from other things of their job, derived again when any of these changes: the targets of scribed ends, joints to keep off
from, items to place joints over, and the allowance of the saw."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any, Final

import numpy as np

from slow_ribbon.core.geometry.polylines import nearest_chainage
from slow_ribbon.core.job.derived.expansion import SAW, Expansion, Follow, Step
from slow_ribbon.core.job.derived.same_places import check_same_places
from slow_ribbon.core.job.document.kinds import LINES, ROWS, RUNS, SECTIONS, TYPICALS
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import SAME_PLACE, SEARCH_DEVIATION
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.rows.setting_out import set_row_out
from slow_ribbon.core.runs.end_surfaces.scribe_model import Neighbours, ScribeTarget
from slow_ribbon.core.runs.making.scribe_target import in_the_way, pieces_of
from slow_ribbon.core.runs.making.split_into_pieces import pieced
from slow_ribbon.core.runs.pieces.apply_end_treatments import free_ends
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.run import Run, placing_on, run_course
from slow_ribbon.core.runs.treatments.ends import SquareEnd
from slow_ribbon.core.sections.operations.parametric_sizes import in_row

_ENDS: Final = ("first_end", "last_end", "opening_ends")


def _wants(run: Run) -> bool:
    joints = run.joints
    if joints is not None and (joints.off_from is not None or joints.over == "items"):
        return True
    return any(getattr(run, name).shaped_to is not None for name in _ENDS)


def _follows(expansion: Expansion, run: Run) -> Iterator[Follow]:
    yield from ((run.line, None), (run.section, None), (SAW, None))
    # Which of them stand in the places of a typical decides what may refer to what.
    yield from ((typical.id, None) for typical in expansion.all(TYPICALS))
    joints = run.joints
    for id in references_of(run):
        # Ends are shaped to the pieces of a run whatever its own ends are shaped to; joints keep off from joints as they are.
        yield id, None if joints is not None and id == joints.off_from else "seconds"
        other = expansion.find(RUNS, id)
        if other is not None:
            yield from ((other.line, None), (other.section, None))
        row = expansion.find(ROWS, id)
        if row is not None:
            yield row.line, None


def _circle(names: Sequence[str]) -> Refused:
    what = (
        f"The joints of {' and '.join(dict.fromkeys(names))} keep off from one another in a circle: remove this setting from one of them."
    )
    return Refused(what, "joints.off_from", "joints-circle")


def _derived(expansion: Expansion, run: Run) -> Run:
    run = _with_what_is_there(expansion, run) if expansion.whole else run
    near = run.near
    references = references_of(run)
    if all(_known(expansion, id) is not None for id in references):
        check_same_places(expansion, run, references)
        line, joints = expansion.get(LINES, run.line), run.joints
        course = course_of(line)
        beside = () if joints is None or joints.off_from is None else _chainages(course, _joints_of(expansion, joints.off_from))
        supports = () if joints is None or joints.over != "items" else _chainages(course, _items_of(expansion, joints.row or ""))
        near = Neighbours(met=_met(expansion, run, line), beside=beside, supports=supports)
    near = near.model_copy(update={"trim": 0.0 if run.joints is None else expansion.settings().saw.trim})
    return run if near == run.near else run.model_copy(update={"near": near})


def _known(expansion: Expansion, id: str) -> Run | Row | None:
    found: Run | Row | None = expansion.find(RUNS, id) or expansion.find(ROWS, id)
    return found


def _with_what_is_there(expansion: Expansion, run: Run) -> Run:
    """Return a run without references to things that were removed; what an edit refers to and is not there is refused."""
    was = expansion.earlier(RUNS, run.id)
    update: dict[str, Any] = {}
    for name in _ENDS:
        end = getattr(run, name)
        if end.shaped_to is not None and expansion.find(RUNS, end.shaped_to) is None:
            if was is None or getattr(was, name) != end:
                what = f"There is no run {end.shaped_to} in this job for an end to be shaped to: it may have been removed."
                raise Refused(what, "to", "unknown-id")
            update[name] = SquareEnd(past=end.past)
            expansion.notices.append(f"{run.name} ends square: the run it was shaped to was removed.")
    joints, before = run.joints, None if was is None else was.joints
    if joints is not None and joints.off_from is not None and expansion.find(RUNS, joints.off_from) is None:
        if before is None or before.off_from != joints.off_from:
            raise _unknown(joints.off_from, "joints.off_from")
        joints = joints.model_copy(update={"off_from": None})
        expansion.notices.append(f"The joints of {run.name} no longer keep off from other joints: that run was removed.")
    if joints is not None and joints.row is not None and expansion.find(ROWS, joints.row) is None:
        if before is None or before.row != joints.row:
            raise _unknown(joints.row, "joints.row")
        if joints.over == "items":
            joints = joints.model_copy(update={"over": "anywhere", "row": None})
            expansion.notices.append(f"The joints of {run.name} are placed anywhere now: the row over which they were placed was removed.")
    return run.model_copy(update={**update, "joints": joints}) if update or joints is not run.joints else run


def _unknown(id: str, where: str) -> Refused:
    what = f"The joints refer to {id}, which is not in this job: it may have been removed. Choose another run or row."
    return Refused(what, where, "unknown-id")


def _joints_of(expansion: Expansion, id: str) -> Array:
    run = expansion.get(RUNS, id)
    cuts = pieced(run, expansion.get(LINES, run.line), expansion.get(SECTIONS, run.section)).cuts
    return np.asarray(cuts.plain.starts[cuts.jointed])


def _items_of(expansion: Expansion, id: str) -> Array:
    row = expansion.get(ROWS, id)
    line = expansion.get(LINES, row.line)
    if row.filling is not None:
        raise Refused(f"{row.name} fills a field: joints can be placed over the items of a row along a line.", "joints.row", "in-field")
    return course_of(line).points_at(set_row_out(row, line).chainages)


def _met(expansion: Expansion, run: Run, line: Line) -> tuple[ScribeTarget, ...]:
    ways = {name: getattr(run, name) for name in _ENDS}
    if not any(way.shaped_to is not None for way in ways.values()):
        return ()
    if any(way.shaped_to == run.id for way in ways.values()):
        raise Refused(f"{run.name} cannot be shaped to itself: choose another run.", "to", "to-itself")
    course = run_course(run, line)
    section = expansion.get(SECTIONS, run.section)
    placed = Placed(section if run.size is None else in_row(section, run.size), placing_on(run, line), course)
    met = []
    for (i, end), way in free_ends(course, run).items():
        look_up()
        if way.shaped_to is not None:
            other = expansion.get(RUNS, way.shaped_to)
            pieces = pieces_of(other, expansion.get(LINES, other.line), expansion.get(SECTIONS, other.section))
            target = in_the_way(other, course, i, end, placed, pieces)
            met.extend([] if target is None else [target])
    return tuple(met)


#: What runs take from other runs and rows, and from the saw.
NEIGHBOURS: Final = Step(
    name="neighbours",
    kind=RUNS,
    concerns=lambda run: run.joints is not None or not run.near.empty or _wants(run),
    follows=_follows,
    derive=_derived,
    circle=_circle,
)


def references_of(run: Run) -> list[str]:
    """Return the ids of the runs and rows that a run refers to."""
    joints = run.joints
    found = [way.shaped_to for way in (getattr(run, name) for name in _ENDS) if way.shaped_to is not None]
    if joints is not None and joints.off_from is not None:
        found.append(joints.off_from)
    if joints is not None and joints.over == "items" and joints.row is not None:
        found.append(joints.row)
    return found


def with_references(run: Run, instead: Mapping[str, str]) -> Run:
    """Return a run that refers to other runs and rows ``instead`` of some, given by their ids: a copy refers to copies."""
    update: dict[str, Any] = {}
    for name in _ENDS:
        end = getattr(run, name)
        if end.shaped_to in instead:
            update[name] = end.shaped_to_other(instead[end.shaped_to])
    joints = run.joints
    if joints is not None:
        named = {"off_from": joints.off_from, "row": joints.row}
        others = {name: instead[id] for name, id in named.items() if id is not None and id in instead}
        update |= {"joints": joints.model_copy(update=others)} if others else {}
    return run.model_copy(update=update) if update else run


def _chainages(course: Course, points: Array) -> tuple[float, ...]:
    """Return where points (k, 3) come nearest on a line, in order; those that lie beyond an end of it are left out."""
    at, along = course.flattened(SEARCH_DEVIATION)
    if course.closed:
        at, along = np.append(at, course.length), np.vstack([along, along[:1]])
    found = {round(nearest_chainage(at, along, point)[0], 6) for point in points}
    inside = found if course.closed else {one for one in found if at[0] + SAME_PLACE < one < at[-1] - SAME_PLACE}
    return tuple(sorted(inside))
