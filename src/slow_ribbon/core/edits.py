"""Edits: the only way a job changes.

Each edit is a small plain command; ``apply.apply`` makes it. Fields that a *changes* model
leaves out stay as they are.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.line_edits import LineEdit
from slow_ribbon.core.measures import Formula, Measure
from slow_ribbon.core.model import Angle, Coordinate, Id, Model, Name, Point2, Size, Tag
from slow_ribbon.core.picture import PictureBody
from slow_ribbon.core.row import Item, RowBody, Seat, Turn
from slow_ribbon.core.run import Facing, Hand, Placing
from slow_ribbon.core.section import Bed, Datum, Material, SectionBody
from slow_ribbon.core.spacing import Spacing
from slow_ribbon.core.units import Units


class RenameJob(Model):
    """Give the job another name."""

    kind: Literal["rename_job"] = "rename_job"
    name: Name


class SetUnits(Model):
    """Write lengths in other units."""

    kind: Literal["set_units"] = "set_units"
    units: Units


class SetMeasures(Model):
    """Set the measures of the job, all together; everything that depends on them follows."""

    kind: Literal["set_measures"] = "set_measures"
    measures: Annotated[tuple[Measure, ...], Field(max_length=2000)]


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


class SectionChanges(Model):
    name: Name | None = None
    width: Size | None = None
    height: Size | None = None
    wall: Size | None = None
    datum: Datum | None = None
    material: Material | None = None
    bed: Bed | None = None


class SetSection(Model):
    """Change a section's size or settings; every run of it follows."""

    kind: Literal["set_section"] = "set_section"
    section: Id
    changes: SectionChanges


class AddRuns(Model):
    """Run a section along several lines, each becoming a run of its own."""

    kind: Literal["add_runs"] = "add_runs"
    section: Id
    lines: Annotated[tuple[Id, ...], Field(min_length=1, max_length=10_000)]
    placing: Placing = Placing()
    name: Name | None = None
    openings: Literal["break", "pass"] = "break"
    stretches: Annotated[tuple[Annotated[int, Field(ge=0)], ...], Field(min_length=1)] | None = None


class PlacingChanges(Model):
    datum: Datum | None = None
    hand: Hand | None = None
    facing: Facing | None = None
    roll: Angle | None = None
    stand_off: Coordinate | None = None
    lift: Coordinate | None = None


class SetPlacing(Model):
    """Change how one run, or several together, are placed on their lines."""

    kind: Literal["set_placing"] = "set_placing"
    runs: Annotated[tuple[Id, ...], Field(min_length=1, max_length=10_000)]
    changes: PlacingChanges


class RunChanges(Model):
    name: Name | None = None
    tag: Tag | None = None
    section: Id | None = None
    openings: Literal["break", "pass"] | None = None
    stretches: Annotated[tuple[Annotated[int, Field(ge=0)], ...], Field(min_length=1)] | None = None


class SetRun(Model):
    """Change a run's name, tag or section, or how it takes its line's openings."""

    kind: Literal["set_run"] = "set_run"
    run: Id
    changes: RunChanges


class AddRow(Model):
    """Set items out along a line."""

    kind: Literal["add_row"] = "add_row"
    row: RowBody


class RowChanges(Model):
    name: Name | None = None
    tag: Tag | None = None
    item: Item | None = None
    seat: Seat | None = None
    spacing: Spacing | None = None
    turn: Turn | None = None
    stand_off: Coordinate | None = None
    lift: Coordinate | None = None
    openings: Literal["clear", "pass"] | None = None
    from_mark: Name | None = None
    to_mark: Name | None = None
    material: Material | None = None


class SetRow(Model):
    """Change a row."""

    kind: Literal["set_row"] = "set_row"
    row: Id
    changes: RowChanges


class Remove(Model):
    """Remove lines, sections, runs, rows and pictures. What stands on a removed line or section goes only ``with_dependents``."""

    kind: Literal["remove"] = "remove"
    ids: Annotated[tuple[Id, ...], Field(min_length=1, max_length=50_000)]
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
