"""Edits of rows."""

from __future__ import annotations

from itertools import count
from typing import TYPE_CHECKING, Annotated, Any, Final, Literal

from pydantic import Field, StringConstraints

from slow_ribbon.core.job.attachments import identified
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, ROWS, TYPICALS
from slow_ribbon.core.job.document.labels import free_tag
from slow_ribbon.core.job.document.named_places import NamedPlace, both_ends
from slow_ribbon.core.job.edits.base import Edit, changed_words, fields_of
from slow_ribbon.core.job.edits.changes import Changes, KindChanges, changed, changes_model, said
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Angle, Coordinate, Distance, Id, Name, Tag
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.model import Line, Mark
from slow_ribbon.core.lines.typicals.typical import PlacesOfRow
from slow_ribbon.core.rows.filling import FILLINGS
from slow_ribbon.core.rows.items import ITEMS, TypicalItem
from slow_ribbon.core.rows.model import Row, RowBody
from slow_ribbon.core.rows.obstacles import ClearOf
from slow_ribbon.core.rows.orientation import TURNS
from slow_ribbon.core.rows.pattern import HeldItem, Letter, OtherItem
from slow_ribbon.core.rows.setting_out import nearest, set_row_out
from slow_ribbon.core.rows.spacing import RULES, Measured
from slow_ribbon.core.sections.document.materials import Material

_TOUCHES = frozenset({ROWS.group})
#: An item that is held is meant by a chainage this near to it, mm: what a window shows of one is rounded.
NEAR: Final = 0.5


def with_typicals_set_out(job: Job, row: Row) -> Job:
    """Return the job in which the typicals among a row's items stand where it sets them out, and not where they are drawn.

    Raises ``Refused`` where one is not there, or another row sets it out already.
    """
    for use in row.uses():
        if isinstance(use.item, TypicalItem):
            typical = job.typical(use.item.of)
            laid = typical.laid
            if isinstance(laid, PlacesOfRow) and laid.row != row.id:
                other = job.find(ROWS, laid.row)
                if other is not None and any(isinstance(one.item, TypicalItem) and one.item.of == typical.id for one in other.uses()):
                    what = f"{typical.name} is set out by {other.name} already: a typical is an item of one row."
                    raise Refused(what, "row.item", "other-row")
            if not isinstance(laid, PlacesOfRow) or laid.row != row.id:
                job = job.put(typical.model_copy(update={"laid": PlacesOfRow(row=row.id), "here_stands": False, "places": ()}))
    return job


class AddRow(Edit):
    """Set items out along a line."""

    touches = _TOUCHES | {TYPICALS.group}

    kind: Literal["add_row"] = "add_row"
    row: RowBody

    def apply(self, job: Job) -> Job:
        job = job.added(ROWS, {"tag": free_tag(job, self.row.name), **fields_of(self.row)})
        return with_typicals_set_out(job, job.rows[-1])

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


if TYPE_CHECKING:
    FillingChanges = KindChanges
else:
    FillingChanges = changes_model(__name__, "FillingChanges", "What is changed of how a field is filled.", FILLINGS)


class SpacingChanges(Changes):
    rule: SpacingRuleChanges | None = None
    measured: Measured | None = None
    inset_start: Distance | None = None
    inset_end: Distance | None = None
    first: bool | None = None
    last: bool | None = None
    corners: Literal["carry", "restart"] | None = None
    end_bay: Distance | None = None
    corner_bay: Distance | None = None
    opening_bay: Distance | None = None


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
    filling: FillingChanges | None = None
    clear_of: Annotated[tuple[ClearOf, ...], Field(max_length=100)] | None = None
    corner_clearance: Distance | None = None
    hang_to: Coordinate | None = None
    least_level: Coordinate | None = None
    weight_each: Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)] | None = None


class SetRow(Edit):
    """Change a row."""

    touches = _TOUCHES | {TYPICALS.group}

    kind: Literal["set_row"] = "set_row"
    row: Id
    changes: RowChanges

    def apply(self, job: Job) -> Job:
        row = changed(job.row(self.row), self.changes)
        return with_typicals_set_out(job.put(row), row)

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return both_ends(job.row(self.row).line) if self.changes.model_fields_set - {"name", "tag"} else ()

    def says(self, job: Job) -> set[str]:
        return said(self.row, self.changes)

    def describe(self, job: Job) -> str:
        return f"changed {changed_words(self.changes)} of {job.row(self.row).name}"


class HoldItem(Edit):
    """Hold the item of a row that is nearest to chainage ``at``: where it stands, or at ``to``; and change what of it is said.

    ``out`` leaves it out; ``item`` is the letter of the one that stands there instead, none for that of its turn.
    """

    touches = frozenset({LINES.group, ROWS.group})

    kind: Literal["hold_item"] = "hold_item"
    row: Id
    at: Distance
    to: Distance | None = None
    item: Letter | None = None
    turn: Angle | None = None
    out: bool | None = None

    def apply(self, job: Job) -> Job:
        row = job.row(self.row)
        if row.filling is not None:
            raise Refused(
                f"{row.name} fills a field, in which no item is held: set what must stay out as a row of its own.", "row", "in-field"
            )
        line = job.line(row.line)
        course = course_of(line)
        out = set_row_out(row, line)
        known = self._known(row, line)
        if known is None and not len(out.chainages):
            raise Refused(f"{row.name} has no item to be held: give it room first.", "at", "no-item")
        if self.to is not None and self.to > course.length + WELD:
            raise Refused(f"{line.name} is only {figure(course.length)} long: the item cannot be held beyond its end.", "to", "beyond")
        if known is None:
            number = nearest(out.chainages, self.at, course)
            here = float(out.chainages[number]) if self.to is None else min(self.to, course.length)
            names = {mark.name for mark in line.marks}
            plain = f"{row.tag}{number + 1} held"
            name = plain if plain not in names else next(f"{plain} {n}" for n in count(2) if f"{plain} {n}" not in names)
            mark = Mark(name=name, at=here, holds=True)
            (line,), last = identified(job, [line.model_copy(update={"marks": (*line.marks, mark)})])
            job = job.put(line).model_copy(update={"last_number": last})
            held = HeldItem(mark=line.marks[-1].id or "", item=self.item, turn=self.turn or 0.0, out=bool(self.out))
            return job.put(row.model_copy(update={"held": (*row.held, held)}))
        if self.to is not None:
            at = min(self.to, course.length)
            marks = tuple(mark.model_copy(update={"at": at, "unsettled": False}) if mark.id == known.mark else mark for mark in line.marks)
            job = job.put(line.model_copy(update={"marks": marks}))
        said: dict[str, Any] = {name: getattr(self, name) for name in ("item", "turn", "out") if name in self.model_fields_set}
        now = known.model_copy(update={**said, "turn": said.get("turn", known.turn) or 0.0, "out": bool(said.get("out", known.out))})
        return job.put(row.model_copy(update={"held": tuple(now if one is known else one for one in row.held)}))

    def _known(self, row: Row, line: Line) -> HeldItem | None:
        """Return what is said of the item already, where it is held."""
        marks = {mark.id: mark.at for mark in line.marks}
        near = [one for one in row.held if one.mark in marks and abs(marks[one.mark] - self.at) <= NEAR]
        return min(near, key=lambda one: abs(marks[one.mark] - self.at), default=None)

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        line = job.row(self.row).line
        return tuple(NamedPlace(line, "chainage", at) for at in (self.at, self.to) if at is not None)

    def describe(self, job: Job) -> str:
        return f"held an item of {job.row(self.row).name}"


class LetItemsGo(Edit):
    """Let items of a row go that are held at some marks, or all of them where none are given."""

    touches = frozenset({LINES.group, ROWS.group})

    kind: Literal["let_items_go"] = "let_items_go"
    row: Id
    marks: Annotated[tuple[Id, ...], Field(max_length=1000)] = ()

    def apply(self, job: Job) -> Job:
        row = job.row(self.row)
        gone = set(self.marks) or {one.mark for one in row.held}
        if unknown := gone - {one.mark for one in row.held}:
            what = f"{len(unknown)} of the items to be let go are not held by {row.name}: they may have been let go already."
            raise Refused(what, "marks", "unknown-id")
        job = job.put(job.line(row.line).without_holds(gone))
        return job.put(row.model_copy(update={"held": tuple(one for one in row.held if one.mark not in gone)}))

    def describe(self, job: Job) -> str:
        return f"let items of {job.row(self.row).name} go"
