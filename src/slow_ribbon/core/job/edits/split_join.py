"""Edits that make other lines of lines: split, joined, reversed, started elsewhere, simplified."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.job.attachments import joined_stretches, jointed_between, on_line, split_between, turned_round
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, ROWS, RUNS, TYPICALS, kind_of
from slow_ribbon.core.job.document.labels import free_tag
from slow_ribbon.core.job.document.named_places import NamedPlace
from slow_ribbon.core.job.edits.base import Edit, LineEdit, fields_of, several
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Distance, Id, Some
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.simplify import simplified
from slow_ribbon.core.lines.split_join import join_lines, split, start_at
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.placement.stretches import stretches_between
from slow_ribbon.core.runs.treatments.joints import Joints

#: What stands on lines is carried along, and formulas that mean what is on the other side of them are turned.
_TOUCHES = frozenset({LINES.group, RUNS.group, ROWS.group, "formulas"})


class SplitLine(Edit):
    """Split a line at a chainage; what follows it follows both parts. A closed line opens there."""

    touches = _TOUCHES | {TYPICALS.group}

    kind: Literal["split_line"] = "split_line"
    line: Id
    at: Distance

    def apply(self, job: Job) -> Job:
        line = job.line(self.line)
        first, second = split(line, self.at)
        first = first.model_copy(update={"made": None})
        id = line.id
        if second is not None:
            id = f"{LINES.letter}{job.last_number + 1}"
            second = second.model_copy(update={"id": id, "name": f"{line.name}, part 2"[:120], "made": None})
            job = job.model_copy(update={"lines": (*job.lines, second), "last_number": job.last_number + 1})
            typical = job.typical_of(line.id)
            if typical is not None:
                # Both parts stand where the line stood.
                job = job.put(typical.model_copy(update={"lines": (*typical.lines, id)}))
        job = job.put(first)
        for thing in on_line(job, line.id):
            here, there = split_between(thing, line, first, second, self.at)
            if here is not None:
                job = job.put(here)
            if there is not None:
                # What has no part on the first line goes over to the second as it is.
                job = _duplicated(job, there, id) if here is not None else job.put(there.model_copy(update={"line": id}))
        return job

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return (NamedPlace(self.line, "chainage", self.at),)

    def describe(self, job: Job) -> str:
        return f"split {job.line(self.line).name}"


def _duplicated(job: Job, thing: Run | Row, line: str) -> Job:
    """Return the job with a run or row on another line as well."""
    fields = {name: value for name, value in fields_of(thing).items() if name != "id"}
    return job.added(kind_of(thing), {**fields, "line": line, "tag": free_tag(job, thing.name), "name": f"{thing.name}, part 2"[:120]})


class JoinLines(Edit):
    """Join open lines end to end into the first; what followed the others follows it."""

    touches = _TOUCHES

    kind: Literal["join_lines"] = "join_lines"
    lines: Annotated[tuple[Id, ...], Field(min_length=2, max_length=10_000, fail_fast=True)]
    tolerance: Annotated[float, Field(ge=0.001, le=1000)] = 1.0

    def apply(self, job: Job) -> Job:
        if len(set(self.lines)) != len(self.lines):
            raise Refused("A line is chosen twice: choose each once.", "lines", "line-twice")
        lines = [job.line(id) for id in self.lines]
        way = join_lines(lines, self.tolerance)
        # Those that lay the wrong way round are turned first, with all that stands on them.
        job = turned_round(job, [id for id in self.lines if id in way.reversed])
        lines = [job.line(id) for id in self.lines]
        laid = join_lines(lines, self.tolerance)
        joined = laid.line.model_copy(update={"id": lines[0].id, "name": lines[0].name, "made": None})
        ordered = [job.line(id) for id in way.order]
        gone = set(self.lines[1:])
        kept = tuple(joined if line.id == joined.id else line for line in job.lines if line.id not in gone)
        rows: list[Row] = []
        for row in job.rows:
            row = row.model_copy(update={"line": joined.id}) if row.line in gone else row
            # What is set out along both parts alike is set out along the whole once.
            if not (row.line == joined.id and any(_likeness(row) == _likeness(other) for other in rows if other.line == joined.id)):
                rows.append(row)
        return job.model_copy(update={"lines": kept, "runs": _runs_joined(job, joined, ordered, laid.shifts), "rows": tuple(rows)})

    def describe(self, job: Job) -> str:
        return f"joined {len(self.lines)} lines into {job.line(self.lines[0]).name}"


def _runs_joined(job: Job, joined: Line, ordered: Sequence[Line], shifts: Mapping[str, int]) -> tuple[Run, ...]:
    """Return the runs on lines that are joined, laid end to end; ``shifts``: by how much the numbers of their points are higher now."""
    begins, begin = {}, 0.0
    for line in ordered:
        begins[line.id] = begin
        begin += course_of(line).length
    parts = set(begins)
    alike: dict[str, list[Run]] = {}
    for run in job.runs:
        if run.line in parts:
            alike.setdefault(_likeness(run), []).append(run)
    runs = []
    for run in job.runs:
        if run.line in parts:
            same = alike[_likeness(run)]
            if run is not same[0]:
                continue
            stretches = None
            if any(one.stretches is not None for one in same):
                found = [part for one in same for part in joined_stretches(one, ordered, joined.closed)]
                everywhere = {one.between for one in stretches_between(joined, course_of(joined).length)}
                stretches = None if everywhere <= set(found) else tuple(dict.fromkeys(found))
            own = {
                one.point + shifts[part.line]: one.model_copy(update={"point": one.point + shifts[part.line]})
                for part in same
                for one in part.own_corners
            }
            in_order = sorted(same, key=lambda one: begins[one.line])
            changes = {
                "line": joined.id,
                "stretches": stretches,
                "joints": _joints_together(same, begins),
                "own_corners": tuple(own[point] for point in sorted(own)),
                "first_end": in_order[0].first_end,
                "last_end": in_order[-1].last_end,
            }
            run = run.model_copy(update=changes)
        runs.append(run)
    return tuple(runs)


def _joints_together(same: Sequence[Run], begins: Mapping[str, float]) -> Joints | None:
    """Return the joints of runs that become one, on a line on which each one's begins at a chainage."""
    joints = same[0].joints
    if joints is None or joints.at is None:
        return joints
    places = {at + begins[run.line] for run in same if run.joints is not None for at in run.joints.at or ()}
    return joints.model_copy(update={"at": tuple(sorted(places))})


def _likeness(thing: Run | Row) -> str:
    if isinstance(thing, Run) and thing.joints is not None and thing.joints.at is not None:
        # Where joints were put by hand is their line's own; that they were is not.
        thing = thing.model_copy(update={"joints": thing.joints.model_copy(update={"at": ()})})
    own = (
        {"own_corners", "first_end", "last_end", "room_side", "seconds", "near", "numbers", "numbered", "notes"}
        if isinstance(thing, Run)
        else set()
    )
    return thing.model_dump_json(exclude={"id", "name", "tag", "line", "stretches", *own})


class ReverseLines(Edit):
    """Let lines go the other way; what stands on them stays where it is."""

    touches = _TOUCHES

    kind: Literal["reverse_lines"] = "reverse_lines"
    lines: Some

    def apply(self, job: Job) -> Job:
        return turned_round(job, self.lines)

    def describe(self, job: Job) -> str:
        return f"reversed {several(job, self.lines)}"


class StartLineAt(LineEdit):
    """Let a closed line start at another chainage."""

    touches = _TOUCHES

    kind: Literal["start_line_at"] = "start_line_at"
    at: Distance

    def apply(self, job: Job) -> Job:
        before = job.line(self.line)
        runs = [jointed_between(run, before, self.at, opened=True) for run in job.runs if run.line == self.line]
        job = super().apply(job)
        for run in runs:
            job = job.put(run) if run is not None else job
        return job

    def reshape(self, line: Line) -> Line:
        return start_at(line, self.at)

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return (NamedPlace(self.line, "chainage", self.at),)

    def describe(self, job: Job) -> str:
        return f"moved the start of {self.name(job)}"


class SimplifyLines(Edit):
    """Take out points of straights that stray no more than ``tolerance`` mm."""

    touches = frozenset({LINES.group})

    kind: Literal["simplify_lines"] = "simplify_lines"
    lines: Some
    tolerance: Annotated[float, Field(gt=0, le=10_000)]

    def apply(self, job: Job) -> Job:
        for id in self.lines:
            look_up()
            job = job.put(simplified(job.line(id), self.tolerance)[0])
        return job

    def describe(self, job: Job) -> str:
        return f"simplified {several(job, self.lines)}"
