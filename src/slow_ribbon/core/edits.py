"""Edits: the only way a job changes.

Each edit is a small plain command; ``apply.apply`` makes it. Fields that a *changes* model
leaves out stay as they are.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.line import FrameRule, LineBody, Wall
from slow_ribbon.core.model import Angle, Coordinate, Id, Model, Name, Point3, Size, Tag
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


class AddLines(Model):
    """Add lines; ``origin`` sets where the job's nought lies on the site, while the job has no lines yet."""

    kind: Literal["add_lines"] = "add_lines"
    lines: Annotated[tuple[LineBody, ...], Field(min_length=1, max_length=50_000)]
    origin: Point3 | None = None


class LineChanges(Model):
    name: Name | None = None
    frame: FrameRule | None = None
    wall: Wall | None = None


class SetLine(Model):
    """Change a line's name, frame rule or backdrop wall."""

    kind: Literal["set_line"] = "set_line"
    line: Id
    changes: LineChanges


class MoveVertex(Model):
    """Move a point of a line; points are counted from 0 at the start."""

    kind: Literal["move_vertex"] = "move_vertex"
    line: Id
    index: Annotated[int, Field(ge=0)]
    to: Point3


class InsertVertex(Model):
    """Put a new point into leg ``leg``, counted from 0; past the last leg of an open line it makes the line longer."""

    kind: Literal["insert_vertex"] = "insert_vertex"
    line: Id
    leg: Annotated[int, Field(ge=0)]
    at: Point3


class RemoveVertex(Model):
    """Take a point out of a line."""

    kind: Literal["remove_vertex"] = "remove_vertex"
    line: Id
    index: Annotated[int, Field(ge=0)]


class SetClosed(Model):
    """Close an open line with a straight back to its start, or open a closed one there."""

    kind: Literal["set_closed"] = "set_closed"
    line: Id
    closed: bool


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


class SetRun(Model):
    """Change a run's name, tag or section."""

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
    material: Material | None = None


class SetRow(Model):
    """Change a row."""

    kind: Literal["set_row"] = "set_row"
    row: Id
    changes: RowChanges


class Remove(Model):
    """Remove lines, sections, runs and rows. What stands on a removed line or section goes only ``with_dependents``."""

    kind: Literal["remove"] = "remove"
    ids: Annotated[tuple[Id, ...], Field(min_length=1, max_length=50_000)]
    with_dependents: bool = False


Edit = Annotated[
    RenameJob
    | SetUnits
    | AddLines
    | SetLine
    | MoveVertex
    | InsertVertex
    | RemoveVertex
    | SetClosed
    | AddSection
    | SetSection
    | AddRuns
    | SetPlacing
    | SetRun
    | AddRow
    | SetRow
    | Remove,
    Field(discriminator="kind"),
]
