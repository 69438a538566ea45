"""Making edits: from a job and an edit to the changed job, or a refusal that leaves everything as it was.

``said`` tells an edit in words, for the history.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

from slow_ribbon.core.job.delta import touched
from slow_ribbon.core.job.dependencies import bound, followed, measured
from slow_ribbon.core.job.document import Job, Thing, check_thing
from slow_ribbon.core.job.edits.base import (
    AddPicture,
    AddRow,
    AddRuns,
    AddSection,
    Bind,
    Edit,
    Remove,
    RenameJob,
    ScalePicture,
    SetMeasures,
    SetPicture,
    SetPlacing,
    SetRow,
    SetRun,
    SetSection,
    SetUnits,
)  # fmt: skip
from slow_ribbon.core.job.edits.changes import DatumChanges, PlacingChanges, SectionChanges, changed
from slow_ribbon.core.job.edits.lines_apply import line_changed
from slow_ribbon.core.job.edits.words import line_said
from slow_ribbon.core.job.labels import free_tag, tagged_things
from slow_ribbon.core.job.underlay import Picture, scaled
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Model
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.validate import surely_sound
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.runs.model import Placing, Run
from slow_ribbon.core.sections.model import NamedDatum, PointDatum, Section, datum_point, section_shape


@dataclass(frozen=True)
class Applied:
    """A job after an edit, and what is to be told of it: what no longer follows, say."""

    job: Job
    notices: tuple[str, ...]


def apply(job: Job, edit: Edit, confirmed: bool = False) -> Job:
    """Return the job after one edit, checked.

    ``confirmed`` allows a row of 100,000 items or more. Raises ``Refused``, with the place in
    the edit, where the edit cannot be made; the job given is never changed.
    """
    return _applied(job, edit, confirmed).job


def _applied(job: Job, edit: Edit, confirmed: bool) -> Applied:
    look_up()
    after, notices = followed(job, _changed(job, edit))
    _check_touched(job, after, confirmed)
    return Applied(after, notices)


@dataclass(frozen=True)
class Made:
    """A job after several edits made as one: what each said, and what is to be told of them."""

    job: Job
    said: list[str]
    notices: tuple[str, ...]


def apply_all(job: Job, edits: Sequence[Edit], confirmed: bool = False) -> Made:
    """Return the job after several edits made as one. Raises ``Refused`` as ``apply`` does."""
    words: list[str] = []
    notices: list[str] = []
    for edit in edits:
        words.append(said(job, edit))
        applied = _applied(job, edit, confirmed)
        job = applied.job
        notices.extend(applied.notices)
    return Made(job, words, tuple(notices))


def _check_touched(before: Job, after: Job, confirmed: bool) -> None:
    """Check the things that are new or changed, and those that stand on them; nothing is looked at in groups that are as they were."""
    if before.runs is not after.runs or before.rows is not after.rows:
        tags = [tagged.tag for tagged in tagged_things(after)]
        if len(set(tags)) != len(tags):
            twice = next(tag for tag in tags if tags.count(tag) > 1)
            what = f"The tag {twice} is used by another run or row: pieces could not be told apart. Choose another."
            raise Refused(what, "tag", "tag-twice")
    again = touched(before, after)
    old_rows = {row.id: row for row in before.rows} if again.rows else {}
    for group in ("lines", "sections", "runs", "rows"):
        ids = set(getattr(again, group))
        if group == "lines" and ids:
            # Thousands of lines are not resolved one by one only to be told that they are sound.
            ids -= surely_sound([line for line in after.lines if line.id in ids])
        for thing in getattr(after, group) if ids else ():
            if thing.id in ids:
                look_up()
                # An old row whose spacing is as it was has been confirmed before.
                was = old_rows.get(thing.id)
                check_thing(after, thing, confirmed or (was is not None and was.spacing == thing.spacing))


def _changed(job: Job, edit: Edit) -> Job:
    match edit:
        case RenameJob():
            return job.model_copy(update={"name": edit.name})
        case SetUnits():
            return job.model_copy(update={"units": edit.units})
        case SetMeasures():
            return job.model_copy(update={"measures": measured(job, edit.measures)})
        case Bind():
            return bound(job, edit.formula)
        case AddPicture():
            number = job.last_number + 1
            picture = Picture(id=f"P{number}", **_fields(edit.picture))
            return job.model_copy(update={"pictures": (*job.pictures, picture), "last_number": number})
        case SetPicture():
            return _replace(job, changed(job.picture(edit.picture), edit.changes))
        case ScalePicture():
            return _replace(job, scaled(job.picture(edit.picture), edit.a, edit.b, edit.length))
        case AddSection():
            number = job.last_number + 1
            section = Section(id=f"S{number}", **_fields(edit.section))
            return job.model_copy(update={"sections": (*job.sections, section), "last_number": number})
        case SetSection():
            return _replace(job, _section_set(job.section(edit.section), edit.changes))
        case AddRuns():
            return _add_runs(job, edit)
        case SetPlacing():
            for id in edit.runs:
                look_up()
                run = job.run(id)
                placing = _placing_set(run.placing, edit.changes, job.section(run.section))
                job = _replace(job, run.model_copy(update={"placing": placing}))
            return job
        case SetRun():
            return _replace(job, changed(job.run(edit.run), edit.changes))
        case AddRow():
            number = job.last_number + 1
            row = Row(id=f"I{number}", tag=free_tag(job, edit.row.name), **_fields(edit.row))
            return job.model_copy(update={"rows": (*job.rows, row), "last_number": number})
        case SetRow():
            return _replace(job, changed(job.row(edit.row), edit.changes))
        case Remove():
            return _removed(job, edit)
        case _:
            return line_changed(job, edit)


def _fields(body: Model) -> dict[str, Any]:
    return {name: getattr(body, name) for name in type(body).model_fields}


def _placing_set(placing: Placing, changes: PlacingChanges, section: Section) -> Placing:
    if changes.datum is None:
        return changed(placing, changes, nullable={"datum"})
    current = placing.datum or section.datum
    return changed(placing.model_copy(update={"datum": current}), _with_datum(changes, current, section))


def _section_set(section: Section, changes: SectionChanges) -> Section:
    return changed(section, _with_datum(changes, section.datum, section) if changes.datum is not None else changes)


_D = TypeVar("_D", PlacingChanges, SectionChanges)


def _with_datum(changes: _D, current: NamedDatum | PointDatum, section: Section) -> _D:
    """Return changes whose datum, where it becomes a point, has both coordinates: what is not said stays where the datum was."""
    datum = changes.datum
    if datum is None or datum.kind != "point" or isinstance(current, PointDatum):
        return changes
    shape = section_shape(section)
    left, low, _, _ = shape.box
    at = datum_point(shape, current)
    x = datum.x if datum.x is not None else float(at[0]) - left
    y = datum.y if datum.y is not None else float(at[1]) - low
    return changes.model_copy(update={"datum": DatumChanges(kind="point", x=x, y=y)})


def _replace(job: Job, thing: Thing) -> Job:
    group = {Line: "lines", Section: "sections", Run: "runs", Row: "rows", Picture: "pictures"}[type(thing)]
    things = tuple(thing if old.id == thing.id else old for old in getattr(job, group))
    return job.model_copy(update={group: things})


def _add_runs(job: Job, edit: AddRuns) -> Job:
    section = job.section(edit.section)
    for id in edit.lines:
        line = job.line(id)
        number = job.last_number + 1
        name = edit.name or section.name
        if len(edit.lines) > 1 or edit.name is None:
            name = f"{name}, {line.name}"[:120]
        run = Run(
            id=f"R{number}",
            name=name,
            tag=free_tag(job, name),
            line=id,
            section=edit.section,
            placing=edit.placing,
            openings=edit.openings,
            stretches=edit.stretches,
        )
        job = job.model_copy(update={"runs": (*job.runs, run), "last_number": number})
    return job


def dependents(job: Job, ids: Sequence[str]) -> list[Run | Row]:
    """Return the runs and rows that stand on given lines and sections and are not among them."""
    gone = set(ids)
    return [thing for thing in tagged_things(job) if thing.id not in gone and gone & {thing.line, getattr(thing, "section", "")}]


def _removed(job: Job, edit: Remove) -> Job:
    known = {thing.id for thing in job.things()}
    for index, id in enumerate(edit.ids):
        if id not in known:
            raise Refused(f"There is nothing with the id {id} in this job: it may have been removed already.", f"ids.{index}", "unknown-id")
    also = dependents(job, edit.ids)
    if also and not edit.with_dependents:
        names = ", ".join(thing.name for thing in also[:3]) + (f" and {len(also) - 3} more" if len(also) > 3 else "")
        raise Refused(f"Still in use by {names}. Remove those too, or leave this.", "ids", "in-use")
    gone = {*edit.ids, *(thing.id for thing in also)}
    keep = {group: tuple(t for t in getattr(job, group) if t.id not in gone) for group in ("lines", "sections", "runs", "rows", "pictures")}
    return job.model_copy(update=keep)


def said(job: Job, edit: Edit) -> str:
    """Return an edit in words, for the history; ``job`` is the job before it."""
    match edit:
        case RenameJob():
            return f"renamed the job {edit.name}"
        case SetUnits():
            return f"units set to {edit.units.system}"
        case SetMeasures():
            return _measures_said(edit)
        case Bind():
            name = next((thing.name for thing in job.things() if thing.id == edit.formula.thing), edit.formula.thing)
            return f"let {edit.formula.field.split('.')[-1].replace('_', ' ')} of {name} be {edit.formula.text}"
        case AddPicture():
            return f"laid {edit.picture.name} under the plan"
        case SetPicture():
            return f"changed {_words(edit.changes)} of {job.picture(edit.picture).name}"
        case ScalePicture():
            return f"set {job.picture(edit.picture).name} to scale"
        case AddSection():
            return f"added section {edit.section.name}"
        case SetSection():
            return f"changed {_words(edit.changes)} of {job.section(edit.section).name}"
        case AddRuns():
            what = job.section(edit.section).name
            return (
                f"ran {what} along {job.line(edit.lines[0]).name}" if len(edit.lines) == 1 else f"ran {what} along {len(edit.lines)} lines"
            )
        case SetPlacing():
            what = job.run(edit.runs[0]).name if len(edit.runs) == 1 else f"{len(edit.runs)} runs"
            return f"changed {_words(edit.changes)} of {what}"
        case SetRun():
            return f"changed {_words(edit.changes)} of {job.run(edit.run).name}"
        case AddRow():
            return f"set out {edit.row.name}"
        case SetRow():
            return f"changed {_words(edit.changes)} of {job.row(edit.row).name}"
        case Remove():
            names = {thing.id: thing.name for thing in job.things()}
            return f"removed {names.get(edit.ids[0], edit.ids[0])}" if len(edit.ids) == 1 else f"removed {len(edit.ids)} things"
        case _:
            return line_said(job, edit)


def _words(changes: Model) -> str:
    names = [name.replace("_", " ") for name in type(changes).model_fields if name in changes.model_fields_set]
    return " and ".join(names) or "nothing"


def _measures_said(edit: SetMeasures) -> str:
    told = []
    for verb, names in (
        ("removed", [one.was or one.name or "" for one in edit.measures if one.remove]),
        ("set", [one.name or one.was or "" for one in edit.measures if not one.remove]),
    ):
        if names:
            told.append(f"{verb} {', '.join(names)}")
    return f"{' and '.join(told)} among the measures"[:200]
