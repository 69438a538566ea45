"""Rows: items set out along a line.

Terms
-----
item
    a box or a round post, with its size; *along* the row, *across* it, and high.
seat
    the point of the item that sits on the line, measured from the middle of its foot: along,
    across (positive to the right of travel) and up.
turn
    how an item is turned: with the line, or keeping one bearing (degrees clockwise from north,
    north being +y).
"""

from __future__ import annotations

from typing import Literal

from slow_ribbon.core.kernel.fields import Coordinate, GroupName, Id, Model, Name, Tag
from slow_ribbon.core.rows.items import Item
from slow_ribbon.core.rows.orientation import Turn, TurnWithLine
from slow_ribbon.core.rows.spacing import Spacing
from slow_ribbon.core.sections.document.materials import Material


class Seat(Model):
    """The point of an item that sits on the line, from the middle of its foot, mm."""

    along: Coordinate = 0.0
    across: Coordinate = 0.0
    up: Coordinate = 0.0


class RowBody(Model):
    """What a row is, before it has an id and a tag.

    ``stand_off`` is to the right of travel. Items keep clear of the line's openings or pass
    over them, and are set out from one mark of the line to another where those are given.
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


class Row(RowBody):
    """Items set out along a line."""

    id: Id
    tag: Tag
