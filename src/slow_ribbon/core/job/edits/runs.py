"""Edits of runs."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from slow_ribbon.core.job.document import Job
from slow_ribbon.core.job.edits.base import Edit, changed_words
from slow_ribbon.core.job.edits.changes import Changes, KindChanges, PointChange, changed, changes_model
from slow_ribbon.core.job.edits.sections import DatumChanges, whole_datum
from slow_ribbon.core.job.kinds import RUNS
from slow_ribbon.core.job.labels import free_tag
from slow_ribbon.core.kernel.fields import Angle, Coordinate, Id, Name, Tag
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.runs.corners import TREATMENTS, CornersMade, Mitre
from slow_ribbon.core.runs.model import Hand, Placing, Stretches
from slow_ribbon.core.sections.model import Section

_TOUCHES = frozenset({RUNS.group})


class AddRuns(Edit):
    """Run a section along several lines, each becoming a run of its own."""

    touches = _TOUCHES

    kind: Literal["add_runs"] = "add_runs"
    section: Id
    lines: Annotated[tuple[Id, ...], Field(min_length=1, max_length=10_000, fail_fast=True)]
    placing: Placing = Placing()
    name: Name | None = None
    openings: Literal["break", "pass"] = "break"
    stretches: Stretches | None = None
    corners: CornersMade = Mitre()

    def apply(self, job: Job) -> Job:
        section = job.section(self.section)
        for id in self.lines:
            line = job.line(id)
            name = self.name or section.name
            if len(self.lines) > 1 or self.name is None:
                name = f"{name}, {line.name}"[:120]
            fields = {"name": name, "tag": free_tag(job, name), "line": id, "section": self.section, "placing": self.placing}
            job = job.added(RUNS, {**fields, "openings": self.openings, "stretches": self.stretches, "corners": self.corners})
        return job

    def describe(self, job: Job) -> str:
        where = job.line(self.lines[0]).name if len(self.lines) == 1 else f"{len(self.lines)} lines"
        return f"ran {job.section(self.section).name} along {where}"


class FacingChanges(Changes):
    kind: Literal["left", "right", "toward"] | None = None
    point: PointChange | None = None


class PlacingChanges(Changes):
    datum: DatumChanges | None = None
    hand: Hand | None = None
    facing: FacingChanges | None = None
    roll: Angle | None = None
    stand_off: Coordinate | None = None
    lift: Coordinate | None = None


if TYPE_CHECKING:
    CornersChanges = KindChanges
else:
    CornersChanges = changes_model(__name__, "CornersChanges", "What is changed of how corners are made.", TREATMENTS)


class RunChanges(Changes):
    name: Name | None = None
    tag: Tag | None = None
    section: Id | None = None
    openings: Literal["break", "pass"] | None = None
    stretches: Stretches | None = None
    corners: CornersChanges | None = None


class SetPlacing(Edit):
    """Change how one run, or several together, are placed on their lines."""

    touches = _TOUCHES

    kind: Literal["set_placing"] = "set_placing"
    runs: Annotated[tuple[Id, ...], Field(min_length=1, max_length=10_000, fail_fast=True)]
    changes: PlacingChanges

    def apply(self, job: Job) -> Job:
        for id in self.runs:
            look_up()
            run = job.run(id)
            placing = _placed(run.placing, self.changes, job.section(run.section))
            job = job.put(run.model_copy(update={"placing": placing}))
        return job

    def describe(self, job: Job) -> str:
        what = job.run(self.runs[0]).name if len(self.runs) == 1 else f"{len(self.runs)} runs"
        return f"changed {changed_words(self.changes)} of {what}"


def _placed(placing: Placing, changes: PlacingChanges, section: Section) -> Placing:
    if changes.datum is None:
        return changed(placing, changes, nullable={"datum"})
    current = placing.datum or section.datum
    changes = changes.model_copy(update={"datum": whole_datum(changes.datum, current, section)})
    return changed(placing.model_copy(update={"datum": current}), changes)


class SetRun(Edit):
    """Change a run's name, tag or section, or how it takes its line's openings."""

    touches = _TOUCHES

    kind: Literal["set_run"] = "set_run"
    run: Id
    changes: RunChanges

    def apply(self, job: Job) -> Job:
        return job.put(changed(job.run(self.run), self.changes))

    def describe(self, job: Job) -> str:
        return f"changed {changed_words(self.changes)} of {job.run(self.run).name}"
