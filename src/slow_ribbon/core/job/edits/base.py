"""Edits: the only way a job changes.

Each edit is a small plain command; ``apply.apply`` makes it. It says as little as was done:
what a *changes* model leaves out stays as it is (see ``changes``), so that edits of different
fields never undo one another, in whatever order they come.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.job.edits.changes import PlacingChanges, RowChanges, RunChanges, SectionChanges
from slow_ribbon.core.job.edits.lines import LineEdit
from slow_ribbon.core.job.underlay import PictureBody
from slow_ribbon.core.kernel.expressions import Formula, MeasureName, Written
from slow_ribbon.core.kernel.fields import Coordinate, Id, Model, Name, Point2, Size
from slow_ribbon.core.kernel.units import System, Units
from slow_ribbon.core.rows.model import RowBody
from slow_ribbon.core.runs.model import Placing, Stretches
from slow_ribbon.core.sections.model import SectionBody


class RenameJob(Model):
    """Give the job another name."""

    kind: Literal["rename_job"] = "rename_job"
    name: Name


class SetUnits(Model):
    """Write lengths in other units."""

    kind: Literal["set_units"] = "set_units"
    units: Units


class MeasureChange(Model):
    """A measure added or changed. ``was`` is the name of the one to be changed; left out, that of ``name``, or a new one."""

    was: MeasureName | None = None
    name: MeasureName | None = None
    text: Written | None = None
    system: System | None = None
    remove: bool = False


class SetMeasures(Model):
    """Add, change and remove measures of the job together; the others stay, and everything that depends on them follows."""

    kind: Literal["set_measures"] = "set_measures"
    measures: Annotated[tuple[MeasureChange, ...], Field(min_length=1, max_length=2000, fail_fast=True)]


class Bind(Model):
    """Let a length of a thing follow a text with measures in it; a text without measures only sets it."""

    kind: Literal["bind"] = "bind"
    formula: Formula


class AddPicture(Model):
    """Lay a picture under the plan."""

    kind: Literal["add_picture"] = "add_picture"
    picture: PictureBody


class PictureChanges(Model):
    name: Name | None = None
    east: Coordinate | None = None
    north: Coordinate | None = None
    turn: Annotated[float, Field(ge=-360, le=360)] | None = None
    scale: Annotated[float, Field(gt=0, le=1e6)] | None = None
    strength: Annotated[float, Field(ge=0.05, le=1)] | None = None
    locked: bool | None = None
    shown: bool | None = None


class SetPicture(Model):
    """Move, turn, fade, lock, show or hide a picture."""

    kind: Literal["set_picture"] = "set_picture"
    picture: Id
    changes: PictureChanges


class ScalePicture(Model):
    """Set a picture to scale: two places in it, as they lie in the job now, are ``length`` mm apart."""

    kind: Literal["scale_picture"] = "scale_picture"
    picture: Id
    a: Point2
    b: Point2
    length: Size


class AddSection(Model):
    """Add a section."""

    kind: Literal["add_section"] = "add_section"
    section: SectionBody


class SetSection(Model):
    """Change a section's size or settings; every run of it follows."""

    kind: Literal["set_section"] = "set_section"
    section: Id
    changes: SectionChanges


class AddRuns(Model):
    """Run a section along several lines, each becoming a run of its own."""

    kind: Literal["add_runs"] = "add_runs"
    section: Id
    lines: Annotated[tuple[Id, ...], Field(min_length=1, max_length=10_000, fail_fast=True)]
    placing: Placing = Placing()
    name: Name | None = None
    openings: Literal["break", "pass"] = "break"
    stretches: Stretches | None = None


class SetPlacing(Model):
    """Change how one run, or several together, are placed on their lines."""

    kind: Literal["set_placing"] = "set_placing"
    runs: Annotated[tuple[Id, ...], Field(min_length=1, max_length=10_000, fail_fast=True)]
    changes: PlacingChanges


class SetRun(Model):
    """Change a run's name, tag or section, or how it takes its line's openings."""

    kind: Literal["set_run"] = "set_run"
    run: Id
    changes: RunChanges


class AddRow(Model):
    """Set items out along a line."""

    kind: Literal["add_row"] = "add_row"
    row: RowBody


class SetRow(Model):
    """Change a row."""

    kind: Literal["set_row"] = "set_row"
    row: Id
    changes: RowChanges


class Remove(Model):
    """Remove lines, sections, runs, rows and pictures. What stands on a removed line or section goes only ``with_dependents``."""

    kind: Literal["remove"] = "remove"
    ids: Annotated[tuple[Id, ...], Field(min_length=1, max_length=50_000, fail_fast=True)]
    with_dependents: bool = False


Edit = Annotated[
    LineEdit
    | RenameJob
    | SetUnits
    | SetMeasures
    | Bind
    | AddSection
    | SetSection
    | AddRuns
    | SetPlacing
    | SetRun
    | AddRow
    | SetRow
    | AddPicture
    | SetPicture
    | ScalePicture
    | Remove,
    Field(discriminator="kind"),
]
