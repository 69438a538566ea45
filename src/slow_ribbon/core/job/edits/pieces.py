"""Edits of single pieces of a run: notes for the workshop, and their numbers."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import RUNS
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.kernel.fields import Id, Name
from slow_ribbon.core.runs.placement.run import Note, Run


class SetNote(Edit):
    """Note something of some pieces of a run, given by the numbers in their tags; with nothing the note is taken off."""

    touches = frozenset({RUNS.group})

    kind: Literal["set_note"] = "set_note"
    run: Id
    numbers: Annotated[tuple[Annotated[int, Field(ge=1)], ...], Field(min_length=1, max_length=10_000, fail_fast=True)]
    text: Name | None = None

    def apply(self, job: Job) -> Job:
        run = job.run(self.run)
        notes = {note.number: note for note in run.notes}
        for number in self.numbers:
            notes.pop(number, None)
            if self.text is not None:
                notes[number] = Note(number=number, text=self.text)
        return job.put(run.model_copy(update={"notes": tuple(notes[number] for number in sorted(notes))}))

    def describe(self, job: Job) -> str:
        run = job.run(self.run)
        what = f"{run.tag}{self.numbers[0]}" if len(self.numbers) == 1 else f"{len(self.numbers)} pieces of {run.name}"
        return f"took the note off {what}" if self.text is None else f"noted of {what}: {self.text}"[:200]


class NumberAnew(Edit):
    """Number the pieces of runs again, from 1 in order of travel, whatever was handed over before; notes go with them."""

    touches = frozenset({RUNS.group})

    kind: Literal["number_anew"] = "number_anew"
    runs: Annotated[tuple[Id, ...], Field(min_length=1, max_length=10_000, fail_fast=True)]

    def apply(self, job: Job) -> Job:
        for id in self.runs:
            job = job.put(_anew(job.run(id)))
        return job

    def describe(self, job: Job) -> str:
        what = job.run(self.runs[0]).name if len(self.runs) == 1 else f"{len(self.runs)} runs"
        return f"numbered the pieces of {what} anew"


def _anew(run: Run) -> Run:
    now = {number: index + 1 for index, number in enumerate(run.numbers)}
    notes = tuple(note.model_copy(update={"number": now.get(note.number, note.number)}) for note in run.notes) if now else run.notes
    return run.model_copy(update={"numbers": (), "numbered": 0, "notes": tuple(sorted(notes, key=lambda note: note.number))})
