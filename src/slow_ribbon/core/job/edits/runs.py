"""Edits of runs."""

from __future__ import annotations

from collections.abc import Collection
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Field, model_validator

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import RUNS
from slow_ribbon.core.job.document.labels import free_tag
from slow_ribbon.core.job.document.named_places import NamedPlace, both_ends
from slow_ribbon.core.job.edits.base import Edit, changed_words
from slow_ribbon.core.job.edits.changes import Changes, KindChanges, PointChange, changed, changes_model, said
from slow_ribbon.core.job.edits.sections import DatumChanges, whole_datum
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Angle, Coordinate, Distance, Id, Name, Tag
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.placing import Hand, Placing
from slow_ribbon.core.runs.placement.run import Run, external_like, placing_on, run_course
from slow_ribbon.core.runs.placement.stretches import Stretches
from slow_ribbon.core.runs.treatments.corners import TREATMENTS, CornersMade, Mitre
from slow_ribbon.core.runs.treatments.curves import CURVES, Bent, CurvesMade
from slow_ribbon.core.runs.treatments.ends import FINISHES, Finished, SquareEnd
from slow_ribbon.core.runs.treatments.joints import MOST, Bars, JointKind, Joints
from slow_ribbon.core.sections.document.section import Across, Section, Up
from slow_ribbon.core.sections.operations.parametric_sizes import in_row

_TOUCHES = frozenset({RUNS.group})
#: What may be given from one run to others.
_SETTINGS = ("placing", "corners", "external", "joints", "curves", "openings", "first_end", "last_end", "opening_ends")

#: What else is said of a run when it is added.
_MORE = ("size", "openings", "stretches", "corners", "external", "joints", "curves", "first_end", "last_end", "opening_ends")


class AddRuns(Edit):
    """Run a section along several lines, each becoming a run of its own."""

    touches = _TOUCHES

    kind: Literal["add_runs"] = "add_runs"
    section: Id
    size: Name | None = None
    lines: Annotated[tuple[Id, ...], Field(min_length=1, max_length=10_000, fail_fast=True)]
    placing: Placing = Placing()
    name: Name | None = None
    openings: Literal["break", "pass"] = "break"
    stretches: Stretches | None = None
    corners: CornersMade = Mitre()
    external: CornersMade = Mitre()
    joints: Joints | None = None
    curves: CurvesMade = Bent()
    first_end: Finished = SquareEnd()
    last_end: Finished = SquareEnd()
    opening_ends: Finished = SquareEnd()

    @model_validator(mode="before")
    @classmethod
    def _alike(cls, data: Any) -> Any:
        return external_like(data)

    def apply(self, job: Job) -> Job:
        section = job.section(self.section)
        for id in self.lines:
            line = job.line(id)
            name = self.name or section.name
            if len(self.lines) > 1 or self.name is None:
                name = f"{name}, {line.name}"[:120]
            fields = {"name": name, "tag": free_tag(job, name), "line": id, "section": self.section, "placing": self.placing}
            more = {name: getattr(self, name) for name in _MORE}
            job = job.added(RUNS, {**fields, **more})
        return job

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return tuple(place for line in self.lines for place in both_ends(line))

    def describe(self, job: Job) -> str:
        where = job.line(self.lines[0]).name if len(self.lines) == 1 else f"{len(self.lines)} lines"
        return f"ran {job.section(self.section).name} along {where}"


class FacingChanges(Changes):
    kind: Literal["left", "right", "toward", "room", "wall"] | None = None
    point: PointChange | None = None
    lines: Annotated[tuple[Id, ...], Field(max_length=1000, fail_fast=True)] | None = None


class PlacingChanges(Changes):
    datum: DatumChanges | None = None
    hand: Hand | None = None
    facing: FacingChanges | None = None
    roll: Angle | None = None
    stand_off: Coordinate | None = None
    lift: Coordinate | None = None
    stand_off_of: Across | None = None
    lift_of: Up | None = None


if TYPE_CHECKING:
    CornersChanges = KindChanges
    FinishChanges = KindChanges
    CurvesChanges = KindChanges
else:
    CurvesChanges = changes_model(__name__, "CurvesChanges", "What is changed of how curves are made.", CURVES)
    FinishChanges = changes_model(__name__, "FinishChanges", "What is changed of how an end is finished.", FINISHES)
    CornersChanges = changes_model(__name__, "CornersChanges", "What is changed of how corners are made.", TREATMENTS)


class JointsChanges(Changes):
    made: JointKind | None = None
    bars: Bars | None = None
    slope: Annotated[float, Field(ge=1, le=30)] | None = None
    overlap: Distance | None = None
    placed: Literal["equal", "full", "waste"] | None = None
    clear: Distance | None = None
    least: Distance | None = None
    shift: Distance | None = None
    from_end: bool | None = None
    over: Literal["anywhere", "marks", "openings", "items"] | None = None
    row: Id | None = None
    off_from: Id | None = None
    apart: Distance | None = None
    at: Annotated[tuple[Distance, ...], Field(max_length=MOST, fail_fast=True)] | None = None


class RunChanges(Changes):
    name: Name | None = None
    tag: Tag | None = None
    section: Id | None = None
    size: Name | None = None
    openings: Literal["break", "pass"] | None = None
    stretches: Stretches | None = None
    corners: CornersChanges | None = None
    external: CornersChanges | None = None
    joints: JointsChanges | None = None
    curves: CurvesChanges | None = None
    first_end: FinishChanges | None = None
    last_end: FinishChanges | None = None
    opening_ends: FinishChanges | None = None


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
            placing = placing_changed(run.placing, self.changes, job.section(run.section))
            if self.changes.stand_off_of is not None or self.changes.lift_of is not None:
                placing = _where_it_was(job, run, placing, self.changes.model_fields_set)
            job = job.put(run.model_copy(update={"placing": placing}))
        return job

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return tuple(place for id in self.runs for place in both_ends(job.run(id).line))

    def says(self, job: Job) -> set[str]:
        return {path for id in self.runs for path in said(f"{id}.placing", self.changes)}

    def describe(self, job: Job) -> str:
        what = job.run(self.runs[0]).name if len(self.runs) == 1 else f"{len(self.runs)} runs"
        return f"changed {changed_words(self.changes)} of {what}"


def _where_it_was(job: Job, run: Run, placing: Placing, said: Collection[str]) -> Placing:
    """Return a placing said of another part of the section, with the figure that leaves the section where it was."""
    line, section = job.line(run.line), job.section(run.section)
    section = section if run.size is None else in_row(section, run.size)
    course = run_course(run, line)
    was, now = (Placed(section, placing_on(run.model_copy(update={"placing": one}), line), course) for one in (run.placing, placing))
    away = (was.shift - now.shift) * (1.0 if now.right else -1.0, 1.0)
    moves = {name: float(by) for name, by in zip(("stand_off", "lift"), away, strict=True) if f"{name}_of" in said and name not in said}
    return placing.model_copy(update={name: getattr(placing, name) + by for name, by in moves.items()})


class GiveSettings(Edit):
    """Give one run's placing, corners, ends, joints, curves and way at openings to others; their lines, sections, names and tags stay.

    Joints that were placed by hand are the line's own: those of the others come by the same rule.
    """

    touches = _TOUCHES

    kind: Literal["give_settings"] = "give_settings"
    run: Id
    runs: Annotated[tuple[Id, ...], Field(min_length=1, max_length=10_000, fail_fast=True)]

    def apply(self, job: Job) -> Job:
        of = job.run(self.run)
        given = {name: getattr(of, name) for name in _SETTINGS}
        given["joints"] = of.joints and of.joints.model_copy(update={"at": None})
        for id in self.runs:
            look_up()
            job = job.put(job.run(id).model_copy(update=given))
        return job

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return tuple(place for id in (self.run, *self.runs) for place in both_ends(job.run(id).line))

    def says(self, job: Job) -> set[str]:
        followed = {"measures"} if any(formula.thing == self.run for formula in job.formulas) else set()
        return followed | {f"{id}.{name}" for id in (self.run, *self.runs) for name in _SETTINGS}

    def describe(self, job: Job) -> str:
        what = job.run(self.runs[0]).name if len(self.runs) == 1 else f"{len(self.runs)} runs"
        return f"gave the settings of {job.run(self.run).name} to {what}"


class ExchangeSection(Edit):
    """Put another section in the place of one in all its runs, or in some of them."""

    touches = _TOUCHES

    kind: Literal["exchange_section"] = "exchange_section"
    section: Id
    by: Id
    runs: Annotated[tuple[Id, ...], Field(max_length=50_000, fail_fast=True)] | None = None

    def apply(self, job: Job) -> Job:
        job.section(self.section)
        rows = {row.name for row in job.section(self.by).range}
        wanted = None if self.runs is None else set(self.runs)
        found = [run for run in job.runs if run.section == self.section and (wanted is None or run.id in wanted)]
        if not found:
            raise Refused(f"No run is made of {job.section(self.section).name}: there is nothing to exchange.", "section", "no-runs")
        changes = {run.id: {"section": self.by, "size": run.size if run.size in rows else None} for run in found}
        return job.model_copy(update={"runs": tuple(run.model_copy(update=changes.get(run.id, {})) for run in job.runs)})

    def describe(self, job: Job) -> str:
        return f"put {job.section(self.by).name} in the place of {job.section(self.section).name}"


def placing_changed(placing: Placing, changes: PlacingChanges, section: Section) -> Placing:
    """Return a placing with what is changed of it; ``section`` is that which is placed."""
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
        run, changes = job.run(self.run), self.changes
        if changes.section is not None and changes.section != run.section and "size" not in changes.model_fields_set:
            # Another section is made in sizes of its own: one of the same name is meant, as in sections of one range.
            rows = {row.name for row in job.section(changes.section).range}
            run = run if run.size in rows else run.model_copy(update={"size": None})
        return job.put(changed(run, changes))

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        line = job.run(self.run).line
        along = both_ends(line) if self.changes.model_fields_set - {"name", "tag"} else ()
        joints = self.changes.joints.at or () if self.changes.joints is not None else ()
        return (*along, *(NamedPlace(line, "chainage", at) for at in joints))

    def says(self, job: Job) -> set[str]:
        return said(self.run, self.changes)

    def describe(self, job: Job) -> str:
        return f"changed {changed_words(self.changes)} of {job.run(self.run).name}"
