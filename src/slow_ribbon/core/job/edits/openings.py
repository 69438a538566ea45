"""Edits of what is named on a line: openings and marks."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.job.attachments import identified, without_openings
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, RUNS
from slow_ribbon.core.job.document.named_places import NamedPlace
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.job.edits.changes import Changes, changed, said
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Distance, Id, Name, Some
from slow_ribbon.core.lines.model import Line, Mark, Opening

Group = Literal["openings", "marks"]
_TOUCHES = frozenset({LINES.group})


class OpeningChanges(Changes):
    name: Name | None = None
    at: Distance | None = None
    width: Annotated[Distance, Field(gt=0, le=1e9)] | None = None


class MarkChanges(Changes):
    name: Name | None = None
    at: Distance | None = None


class AddOpenings(Edit):
    """Leave stretches of a line free."""

    touches = _TOUCHES

    kind: Literal["add_openings"] = "add_openings"
    line: Id
    openings: Annotated[tuple[Opening, ...], Field(min_length=1, max_length=10_000, fail_fast=True)]

    def apply(self, job: Job) -> Job:
        return _added(job, self.line, "openings", self.openings)

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return tuple(NamedPlace(self.line, "chainage", at) for one in self.openings for at in (one.at, one.at + one.width))

    def describe(self, job: Job) -> str:
        return f"added {_parts([opening.name for opening in self.openings], 'openings')} to {job.line(self.line).name}"


class SetOpening(Edit):
    """Change an opening's name, place or width."""

    touches = _TOUCHES

    kind: Literal["set_opening"] = "set_opening"
    line: Id
    opening: Id
    changes: OpeningChanges

    def apply(self, job: Job) -> Job:
        return _set(job, self.line, "openings", self.opening, self.changes)

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        at = (NamedPlace(self.line, "chainage", self.changes.at),) if self.changes.at is not None else ()
        # It grows away from where it begins.
        return (*at, NamedPlace(self.line, "way")) if self.changes.width is not None else at

    def says(self, job: Job) -> set[str]:
        return said(f"{self.line}.openings.{self.opening}", self.changes)

    def describe(self, job: Job) -> str:
        line = job.line(self.line)
        return f"changed {_named(line.openings, self.opening)} of {line.name}"


class RemoveOpenings(Edit):
    """Remove openings; the stretches beside each grow together."""

    touches = frozenset({LINES.group, RUNS.group})

    kind: Literal["remove_openings"] = "remove_openings"
    line: Id
    openings: Some

    def apply(self, job: Job) -> Job:
        line = job.line(self.line)
        for index, id in enumerate(self.openings):
            _part(line, "openings", id, f"openings.{index}")
        return without_openings(job, line, set(self.openings))

    def describe(self, job: Job) -> str:
        line = job.line(self.line)
        return f"removed {_parts([_named(line.openings, id) for id in self.openings], 'openings')} of {line.name}"


class AddMarks(Edit):
    """Name places on a line."""

    touches = _TOUCHES

    kind: Literal["add_marks"] = "add_marks"
    line: Id
    marks: Annotated[tuple[Mark, ...], Field(min_length=1, max_length=10_000, fail_fast=True)]

    def apply(self, job: Job) -> Job:
        return _added(job, self.line, "marks", self.marks)

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return tuple(NamedPlace(self.line, "chainage", mark.at) for mark in self.marks)

    def describe(self, job: Job) -> str:
        return f"named {_parts([mark.name for mark in self.marks], 'places')} on {job.line(self.line).name}"


class SetMark(Edit):
    """Change a mark's name or place."""

    touches = _TOUCHES

    kind: Literal["set_mark"] = "set_mark"
    line: Id
    mark: Id
    changes: MarkChanges

    def apply(self, job: Job) -> Job:
        return _set(job, self.line, "marks", self.mark, self.changes)

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return (NamedPlace(self.line, "chainage", self.changes.at),) if self.changes.at is not None else ()

    def says(self, job: Job) -> set[str]:
        return said(f"{self.line}.marks.{self.mark}", self.changes)

    def describe(self, job: Job) -> str:
        line = job.line(self.line)
        return f"changed {_named(line.marks, self.mark)} of {line.name}"


class RemoveMarks(Edit):
    """Remove named places."""

    touches = _TOUCHES

    kind: Literal["remove_marks"] = "remove_marks"
    line: Id
    marks: Some

    def apply(self, job: Job) -> Job:
        line = job.line(self.line)
        for index, id in enumerate(self.marks):
            _part(line, "marks", id, f"marks.{index}")
        for row in job.rows:
            if row.line == line.id and {row.from_mark, row.to_mark} & set(self.marks):
                raise Refused(f"{row.name} is set out from or to that place: choose another for it first.", "marks", "in-use")
            if row.line == line.id and {one.mark for one in row.held} & set(self.marks):
                raise Refused(f"An item of {row.name} is held at that place: let it go first.", "marks", "in-use")
        return job.put(line.model_copy(update={"marks": tuple(mark for mark in line.marks if mark.id not in self.marks)}))

    def describe(self, job: Job) -> str:
        line = job.line(self.line)
        return f"removed {_parts([_named(line.marks, id) for id in self.marks], 'marks')} of {line.name}"


def _added(job: Job, id: str, group: Group, parts: Sequence[Opening | Mark]) -> Job:
    line = job.line(id)
    with_new = line.model_copy(update={group: (*getattr(line, group), *(part.model_copy(update={"id": None}) for part in parts))})
    (line,), number = identified(job, [with_new])
    return job.put(line).model_copy(update={"last_number": number})


def _part(line: Line, group: Group, id: str, where: str) -> int:
    for index, part in enumerate(getattr(line, group)):
        if part.id == id:
            return index
    raise Refused(f"{line.name} has no {group[:-1]} {id}: it may have been removed.", where, "unknown-id")


def _set(job: Job, id: str, group: Group, part: str, changes: OpeningChanges | MarkChanges) -> Job:
    line = job.line(id)
    index = _part(line, group, part, group[:-1])
    parts = list(getattr(line, group))
    # Whoever says anything of it has seen where it is.
    parts[index] = changed(parts[index].model_copy(update={"unsettled": False}), changes)
    return job.put(line.model_copy(update={group: tuple(parts)}))


def _named(parts: Sequence[Opening | Mark], id: str) -> str:
    return next((part.name for part in parts if part.id == id), id)


def _parts(names: list[str], what: str) -> str:
    return names[0] if len(names) == 1 else f"{len(names)} {what}"
