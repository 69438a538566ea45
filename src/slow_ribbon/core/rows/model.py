"""Rows: items set out along a line.

Terms
-----
item
    what is set out, with its size: *along* the row, *across* it, and high.
seat
    the point of the item that sits on the line: along, across (positive to the right of travel) and up.
turn
    how an item is turned: with the line, keeping one bearing (degrees clockwise from north, north being +y), toward a point.
pattern
    which of several items stands where.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Annotated, ClassVar, Final, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.kernel.arrays import Indices
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Coordinate, Distance, Follows, GroupName, Id, Model, Name, Tag
from slow_ribbon.core.rows.filling import Filling
from slow_ribbon.core.rows.items import Item, ItemBase
from slow_ribbon.core.rows.obstacles import ClearOf, Obstacle
from slow_ribbon.core.rows.orientation import Turn, TurnWithLine
from slow_ribbon.core.rows.pattern import HeldItem, ItemPattern, Seat
from slow_ribbon.core.rows.spacing import Spacing
from slow_ribbon.core.sections.document.materials import Material


@dataclass(frozen=True)
class Use:
    """An item as a row uses it: the ``seat`` (along, across, up) is from the middle of its foot, shifts are from the line, mm.

    ``turn`` is what it is turned by more than the row's items are, radians.
    """

    item: ItemBase
    seat: tuple[float, float, float]
    shift: float
    stand_off: float
    lift: float
    turn: float
    material: Material


class RowBody(Model):
    """What a row is, before it has an id and a tag.

    ``item`` is what stands in it, the first of its items where the ``pattern`` has others; ``seat`` the point of it that sits on the
    line, from the item's usual seat. ``stand_off`` is to the right of travel. Items keep clear of the line's openings or pass
    over them, and are set out from one mark of the line to another where those are given.

    With a ``filling`` they stand on the ground that the line encloses, a *field*, and not along it: its spacing, marks and openings are
    then of no account. ``clear_of`` is what they keep clear of; along the line no item sits nearer than ``corner_clearance``
    to a corner. Items on hangers hang down to one level, ``hang_to``, where it is given, each by a hanger of its own length; what reaches
    below ``least_level`` is reported. ``weight_each``, N, is what each pulls a cord down by that it hangs on.
    """

    name: Name
    line: Id
    item: Item
    seat: Seat = Seat()
    spacing: Spacing
    turn: Turn = TurnWithLine()
    stand_off: Coordinate = 0.0
    lift: Coordinate = 0.0
    openings: Literal["clear", "pass"] = "clear"
    from_mark: Id | None = None
    to_mark: Id | None = None
    material: Material = "softwood"
    group: GroupName = ""
    pattern: ItemPattern = ItemPattern()
    held: Annotated[tuple[HeldItem, ...], Field(max_length=1000)] = ()
    filling: Filling | None = None
    clear_of: Annotated[tuple[ClearOf, ...], Field(max_length=100)] = ()
    corner_clearance: Distance = 0.0
    hang_to: Coordinate | None = None
    least_level: Coordinate | None = None
    weight_each: Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)] | None = None

    def uses(self) -> tuple[Use, ...]:
        """Return its items as it uses them, A first."""
        first = Use(self.item, seat_point(self.item, self.seat), 0.0, self.stand_off, self.lift, 0.0, self.material)
        others = (
            Use(
                one.item, seat_point(one.item, one.seat), one.shift, self.stand_off + one.stand_off, self.lift + one.lift,
                math.radians(one.turn), one.material or self.material,
            )
            for one in self.pattern.others
        )  # fmt: skip
        return first, *others

    def used(self) -> list[Use]:
        """Return those of its items that its pattern uses. Raises ``Refused`` where it uses one that there is not."""
        every = self.uses()
        for letter in self.letters:
            if ord(letter) - 65 >= len(every):
                what = f"{self.name} has no item {letter}: add it to the row's items, or take {letter} out of their order."
                raise Refused(what, "pattern.turns", "unknown-item")
        return [every[ord(letter) - 65] for letter in self.letters]

    @property
    def letters(self) -> list[str]:
        """The letters of the items that stand in it, each once, in their order."""
        return sorted({*self.pattern.letters, *(one.item for one in self.held if one.item is not None and not one.out)})

    @property
    def turns_half(self) -> bool:
        """Whether its items have turned by half a turn, and are the same, where their line is gone the other way."""
        return self.turn.with_line and not self.turn.tilts and self.is_symmetric

    @property
    def is_symmetric(self) -> bool:
        """Whether each of its items is the same after half a turn."""
        return all(use.item.symmetric for use in self.uses())


def numbered_uses(row: RowBody) -> tuple[list[Use], Indices]:
    """Return those of a row's items that its pattern uses, and by the number of each of its items, 0 for A, which of them it is."""
    numbers = np.zeros(26, dtype=int)
    used = row.used()
    numbers[[ord(letter) - 65 for letter in row.letters]] = np.arange(len(used))
    return used, numbers


def seat_point(item: ItemBase, seat: Seat) -> tuple[float, float, float]:
    """Return the point of an item that sits on the line, from the middle of its foot."""
    along, across, up = item.usual_seat
    return along + seat.along, across + seat.across, up + seat.up


#: What rows made by a rule have from the row that they are like: all but what is of their line alone.
LIKE: Final = (
    "item", "seat", "spacing", "turn", "stand_off", "lift", "openings", "material", "pattern", "filling", "clear_of", "corner_clearance",
    "hang_to", "least_level", "weight_each",
)  # fmt: skip
#: What stands for required fields of such a row until they are known.
_BLANK: Final = {"item": {"kind": "box", "height": 1.0}, "spacing": {"rule": {"kind": "set-number", "number": 1}}}


class Row(RowBody):
    """Items set out along a line, or within it.

    ``obstacles``: what it keeps clear of, found whenever that changes. ``rule`` is the rule that made it, if any.
    """

    following: ClassVar = {"obstacles": Follows(), **{name: Follows("rule", blank=_BLANK.get(name)) for name in LIKE}}

    id: Id
    tag: Tag
    rule: Id | None = None
    obstacles: Annotated[tuple[Obstacle, ...], Field(exclude=True)] = ()
