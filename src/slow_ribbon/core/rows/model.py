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

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.kernel.fields import Angle, Coordinate, Id, Model, Name, Size, Tag
from slow_ribbon.core.rows.spacing import Spacing
from slow_ribbon.core.sections.model import Material


class BoxItem(Model):
    """A rectangular item, mm."""

    kind: Literal["box"] = "box"
    along: Size
    across: Size
    height: Size


class RoundItem(Model):
    """A round item, mm."""

    kind: Literal["round"] = "round"
    diameter: Size
    height: Size


Item = Annotated[BoxItem | RoundItem, Field(discriminator="kind")]


class Seat(Model):
    """The point of an item that sits on the line, from the middle of its foot, mm."""

    along: Coordinate = 0.0
    across: Coordinate = 0.0
    up: Coordinate = 0.0


class TurnWithLine(Model):
    """Items turn with the line; at a corner they stand to its bisector."""

    kind: Literal["line"] = "line"


class TurnBearing(Model):
    """Items keep one bearing, degrees clockwise from north."""

    kind: Literal["bearing"] = "bearing"
    bearing: Angle


Turn = Annotated[TurnWithLine | TurnBearing, Field(discriminator="kind")]


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


class Row(RowBody):
    """Items set out along a line."""

    id: Id
    tag: Tag
