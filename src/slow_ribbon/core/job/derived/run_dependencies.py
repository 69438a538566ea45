"""What runs take from other things of their job, derived again when any of these changes: the targets of scribed ends, joints to keep off
from, items to place joints over, and the allowance of the saw."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Final

import numpy as np

from slow_ribbon.core.geometry.polylines import nearest_chainage
from slow_ribbon.core.job.document.delta import unlike_parts
from slow_ribbon.core.job.document.document import Job, job_from_text
from slow_ribbon.core.job.document.kinds import GROUPS
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.setting_out import set_row_out
from slow_ribbon.core.runs.end_surfaces.scribe_model import Neighbours, ScribeTarget
from slow_ribbon.core.runs.making.scribe_target import in_the_way, pieces_of
from slow_ribbon.core.runs.making.split_into_pieces import pieced
from slow_ribbon.core.runs.pieces.apply_end_treatments import free_ends
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.run import Run, placing_on, run_course
from slow_ribbon.core.runs.treatments.ends import ScribedTo, SquareEnd
from slow_ribbon.core.sections.operations.parametric_sizes import in_row

#: How finely a line is flattened to find what comes nearest on it, mm.
_FINE: Final = 0.05
_ENDS: Final = ("first_end", "last_end", "opening_ends")
#: What comes nearest within this much of an end of the line, mm, may lie beyond it.
_AT_END: Final = 1e-6


def neighbours_found(before: Job, after: Job, notices: list[str], whole: bool = True) -> Job:
    """Return a job, just edited, with the neighbours of its runs found again; what refers to something that was removed is noted.

    In a part of a job, not the ``whole`` of it, what is not there stays as it was found. Raises ``Refused`` where runs keep their joints
    off from one another in a circle, an end is to be shaped to its own run, or what stands in several places to what does not.
    """
    # One that asks for nothing any more is not as it was.
    changed = _unlike(before, after, "runs")
    asking = [
        run for run in after.runs if _wants(run) or (run.id in changed and run.near != _NOTHING) or run.near.trim != _trim_of(run, after)
    ]
    if not asking:
        return after
    touched = changed.union(*(_unlike(before, after, group) for group in ("lines", "sections", "rows", "typicals")))
    if not touched and all(run.near.trim == _trim_of(run, after) for run in asking):
        return after
    found = _Finding(after, {run.id: run for run in before.runs}, touched, notices, whole)
    for run in asking:
        look_up()
        found.look(run.id)
    if not found.made:
        return after
    return after.model_copy(update={"runs": tuple(found.made.get(run.id, run) for run in after.runs)})


def job_opened(text: str | bytes) -> Job:
    """Return the job written in a job file, with the neighbours of its runs found, whatever the file says of them.

    Raises ``Refused`` as ``job_from_text`` and ``neighbours_found`` do.
    """
    job = job_from_text(text)
    return neighbours_found(job.model_copy(update=dict.fromkeys(GROUPS, ())), job, [])


_NOTHING: Final = Neighbours()


def _wants(run: Run) -> bool:
    joints = run.joints
    if joints is not None and (joints.off_from is not None or joints.over == "items"):
        return True
    return isinstance(run.first_end, ScribedTo) or isinstance(run.last_end, ScribedTo) or isinstance(run.opening_ends, ScribedTo)


def _trim_of(run: Run, job: Job) -> float:
    """Return how much longer pieces of a run are sawn at either end of what they are jointed from."""
    return 0.0 if run.joints is None else job.saw.trim


def _unlike(before: Job, after: Job, group: str) -> set[str]:
    """Return the ids of the things of a group that are not as they were: other, new or gone."""
    was, now, _ = unlike_parts(getattr(before, group), getattr(after, group))
    old, new = {thing.id: thing for thing in was}, {thing.id: thing for thing in now}
    return {id for id in old.keys() | new.keys() if old.get(id) is not new.get(id)}


@dataclass
class _Finding:
    """A job in which runs are looked at one after another, those that others refer to first; ``way`` are those that wait."""

    job: Job
    before: Mapping[str, Run]
    touched: set[str]
    notices: list[str]
    whole: bool

    def __post_init__(self) -> None:
        self.runs = {run.id: run for run in self.job.runs}
        self.lines = {line.id: line for line in self.job.lines}
        self.sections = {section.id: section for section in self.job.sections}
        self.rows = {row.id: row for row in self.job.rows}
        self.made: dict[str, Run] = {}
        self.done: set[str] = set()
        self.way: list[str] = []

    def look(self, id: str) -> None:
        """Find the neighbours of a run again."""
        run = self.runs[id]
        if id in self.done or not (_wants(run) or run.near != _NOTHING or run.near.trim != _trim_of(run, self.job)):
            return
        if id in self.way:
            names = " and ".join(dict.fromkeys(self.runs[one].name for one in self.way[self.way.index(id) :]))
            what = f"The joints of {names} keep off from one another in a circle: remove this setting from one of them."
            raise Refused(what, "joints.off_from", "joints-circle")
        self.way.append(id)
        if run.joints is not None and run.joints.off_from in self.runs:
            self.look(run.joints.off_from or "")
        self.way.pop()
        self.done.add(id)
        if self._stale(run):
            made = self._with_neighbours(self._with_what_is_there(run))
            if made != run:
                self.runs[id] = self.made[id] = made
                self.touched.add(id)

    def _stale(self, run: Run) -> bool:
        if run.near.trim != _trim_of(run, self.job):
            return True
        on = {run.id, run.line, run.section}
        for other in references_of(run):
            on.add(other)
            if other in self.runs:
                on |= {self.runs[other].line, self.runs[other].section}
            elif other in self.rows:
                on.add(self.rows[other].line)
        return not self.touched.isdisjoint(on) or any(typical.id in self.touched for typical in self.job.typicals)

    def _with_what_is_there(self, run: Run) -> Run:
        """Return a run without references to things that were removed."""
        if not self.whole:
            return run
        was = self.before.get(run.id)
        for name in _ENDS:
            end = getattr(run, name)
            if isinstance(end, ScribedTo) and end.to not in self.runs and (was is None or getattr(was, name) != end):
                raise Refused(
                    f"There is no run {end.to} in this job for an end to be shaped to: it may have been removed.", "to", "unknown-id"
                )
        if run.joints is not None and (was is None or was.joints is None or was.joints.off_from != run.joints.off_from):
            self._check_known(run.joints.off_from, self.runs, "joints.off_from")
        if run.joints is not None and (was is None or was.joints is None or was.joints.row != run.joints.row):
            self._check_known(run.joints.row, self.rows, "joints.row")
        update: dict[str, Any] = {}
        for name in _ENDS:
            end = getattr(run, name)
            if isinstance(end, ScribedTo) and end.to not in self.runs:
                update[name] = SquareEnd(past=end.past)
                self.notices.append(f"{run.name} ends square: the run it was shaped to was removed.")
        joints = run.joints
        if joints is not None and joints.off_from is not None and joints.off_from not in self.runs:
            joints = joints.model_copy(update={"off_from": None})
            self.notices.append(f"The joints of {run.name} no longer keep off from other joints: that run was removed.")
        if joints is not None and joints.over == "items" and joints.row not in self.rows:
            joints = joints.model_copy(update={"over": "anywhere", "row": None})
            self.notices.append(f"The joints of {run.name} are placed anywhere now: the row over which they were placed was removed.")
        return run.model_copy(update={**update, "joints": joints}) if update or joints is not run.joints else run

    @staticmethod
    def _check_known(id: str | None, things: Mapping[str, Any], where: str) -> None:
        if id is not None and id not in things:
            raise Refused(
                f"The joints refer to {id}, which is not in this job: it may have been removed. Choose another run or row.",
                where,
                "unknown-id",
            )

    def _with_neighbours(self, run: Run) -> Run:
        line, course = self.lines[run.line], course_of(self.lines[run.line])
        near = run.near
        if all(other in self.runs or other in self.rows for other in references_of(run)):
            self._check_places(run)
            joints = run.joints
            beside = () if joints is None or joints.off_from is None else _chainages(course, self._joints_of(self.runs[joints.off_from]))
            supports = () if joints is None or joints.over != "items" else _chainages(course, self._items_of(joints.row or ""))
            near = Neighbours(met=self._met(run, line), beside=beside, supports=supports)
        near = near.model_copy(update={"trim": _trim_of(run, self.job)})
        return run if near == run.near else run.model_copy(update={"near": near})

    def _check_places(self, run: Run) -> None:
        """Raise ``Refused`` where a run that stands in several places refers to a thing that stands in one, or the other way round."""
        for other in references_of(run):
            thing = self.runs.get(other) or self.rows[other]
            for typical in self.job.typicals:
                if typical.places and (run.line in typical.lines) != (thing.line in typical.lines):
                    inside, outside = (run, thing) if run.line in typical.lines else (thing, run)
                    what = (
                        f"{inside.name} repeats in every place of {typical.name} but {outside.name} does not, so {run.name} cannot refer "
                        f"to {thing.name}. Put both into the typical, or neither."
                    )
                    raise Refused(what, "to", "other-places")

    def _joints_of(self, run: Run) -> Array:
        cuts = pieced(run, self.lines[run.line], self.sections[run.section]).cuts
        return np.asarray(cuts.plain.starts[cuts.jointed])

    def _items_of(self, row: str) -> Array:
        found = self.rows[row]
        line = self.lines[found.line]
        return course_of(line).points_at(set_row_out(found, line).chainages)

    def _met(self, run: Run, line: Line) -> tuple[ScribeTarget, ...]:
        ways = {name: getattr(run, name) for name in _ENDS}
        if not any(isinstance(way, ScribedTo) for way in ways.values()):
            return ()
        if any(isinstance(way, ScribedTo) and way.to == run.id for way in ways.values()):
            raise Refused(f"{run.name} cannot be shaped to itself: choose another run.", "to", "to-itself")
        course = run_course(run, line)
        section = self.sections[run.section]
        placed = Placed(section if run.size is None else in_row(section, run.size), placing_on(run, line), course)
        met = []
        for (i, end), way in free_ends(course, run).items():
            look_up()
            if isinstance(way, ScribedTo):
                other = self.runs[way.to]
                pieces = pieces_of(other, self.lines[other.line], self.sections[other.section])
                found = in_the_way(other, course, i, end, placed, pieces)
                met.extend([] if found is None else [found])
        return tuple(met)


def references_of(run: Run) -> list[str]:
    """Return the ids of the runs and rows that a run refers to."""
    joints = run.joints
    found = [way.to for way in (getattr(run, name) for name in _ENDS) if isinstance(way, ScribedTo)]
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
        if isinstance(end, ScribedTo) and end.to in instead:
            update[name] = end.model_copy(update={"to": instead[end.to]})
    joints = run.joints
    if joints is not None:
        named = {"off_from": joints.off_from, "row": joints.row}
        others = {name: instead[id] for name, id in named.items() if id is not None and id in instead}
        update |= {"joints": joints.model_copy(update=others)} if others else {}
    return run.model_copy(update=update) if update else run


def _chainages(course: Course, points: Array) -> tuple[float, ...]:
    """Return where points (k, 3) come nearest on a line, in order; those that lie beyond an end of it are left out."""
    at, along = course.flattened(_FINE)
    if course.closed:
        at, along = np.append(at, course.length), np.vstack([along, along[:1]])
    found = {round(nearest_chainage(at, along, point)[0], 6) for point in points}
    inside = found if course.closed else {one for one in found if at[0] + _AT_END < one < at[-1] - _AT_END}
    return tuple(sorted(inside))
