"""Edits of rows."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field, StringConstraints

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import ROWS
from slow_ribbon.core.job.document.labels import free_tag
from slow_ribbon.core.job.document.named_places import NamedPlace, both_ends
from slow_ribbon.core.job.edits.base import Edit, changed_words, fields_of
from slow_ribbon.core.job.edits.changes import Changes, KindChanges, changed, changes_model, said
from slow_ribbon.core.kernel.fields import Coordinate, Distance, Id, Name, Tag
from slow_ribbon.core.rows.items import ITEMS
from slow_ribbon.core.rows.model import RowBody
from slow_ribbon.core.rows.orientation import TURNS
from slow_ribbon.core.rows.pattern import Letter, OtherItem
from slow_ribbon.core.rows.spacing import RULES, Measured
from slow_ribbon.core.sections.document.materials import Material

_TOUCHES = frozenset({ROWS.group})


class AddRow(Edit):
    """Set items out along a line."""

    touches = _TOUCHES

    kind: Literal["add_row"] = "add_row"
    row: RowBody

    def apply(self, job: Job) -> Job:
        return job.added(ROWS, {"tag": free_tag(job, self.row.name), **fields_of(self.row)})

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return both_ends(self.row.line)

    def describe(self, job: Job) -> str:
        return f"set out {self.row.name}"


if TYPE_CHECKING:
    ItemChanges = KindChanges
else:
    ItemChanges = changes_model(__name__, "ItemChanges", "What is changed of an item.", ITEMS)


class SeatChanges(Changes):
    along: Coordinate | None = None
    across: Coordinate | None = None
    up: Coordinate | None = None


if TYPE_CHECKING:
    TurnChanges = KindChanges
else:
    TurnChanges = changes_model(__name__, "TurnChanges", "What is changed of how items turn.", TURNS)


if TYPE_CHECKING:
    SpacingRuleChanges = KindChanges
else:
    SpacingRuleChanges = changes_model(__name__, "SpacingRuleChanges", "What is changed of a spacing rule.", RULES)


class PatternChanges(Changes):
    others: Annotated[tuple[OtherItem, ...], Field(max_length=25)] | None = None
    turns: Annotated[str, StringConstraints(pattern=r"^[A-Z]{1,60}$")] | None = None
    counted: Literal["start", "end"] | None = None
    at_ends: Letter | None = None
    at_corners: Letter | None = None
    at_openings: Letter | None = None


class SpacingChanges(Changes):
    rule: SpacingRuleChanges | None = None
    measured: Measured | None = None
    inset_start: Distance | None = None
    inset_end: Distance | None = None
    first: bool | None = None
    last: bool | None = None
    corners: Literal["carry", "restart"] | None = None


class RowChanges(Changes):
    name: Name | None = None
    tag: Tag | None = None
    item: ItemChanges | None = None
    seat: SeatChanges | None = None
    spacing: SpacingChanges | None = None
    turn: TurnChanges | None = None
    stand_off: Coordinate | None = None
    lift: Coordinate | None = None
    openings: Literal["clear", "pass"] | None = None
    from_mark: Id | None = None
    to_mark: Id | None = None
    material: Material | None = None
    pattern: PatternChanges | None = None


class SetRow(Edit):
    """Change a row."""

    touches = _TOUCHES

    kind: Literal["set_row"] = "set_row"
    row: Id
    changes: RowChanges

    def apply(self, job: Job) -> Job:
        return job.put(changed(job.row(self.row), self.changes))

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return both_ends(job.row(self.row).line) if self.changes.model_fields_set - {"name", "tag"} else ()

    def says(self, job: Job) -> set[str]:
        return said(self.row, self.changes)

    def describe(self, job: Job) -> str:
        return f"changed {changed_words(self.changes)} of {job.row(self.row).name}"
