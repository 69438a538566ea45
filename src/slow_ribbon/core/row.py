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

import math
from dataclasses import dataclass
from typing import Annotated, Final, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.faults import Refused
from slow_ribbon.core.line import Course
from slow_ribbon.core.model import Angle, Coordinate, Id, Model, Name, Size, Tag
from slow_ribbon.core.section import Material
from slow_ribbon.core.shape import Array
from slow_ribbon.core.spacing import Spacing, Stretch, count_of, set_out
from slow_ribbon.core.units import WELD

#: A row of this many items or more is taken for a mistyped centre until it is confirmed.
MANY: Final = 100_000
#: No row may hold more: a picture and a list of it could not be used.
MOST: Final = 2_000_000


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
    """What a row is, before it has an id and a tag. ``stand_off`` is to the right of travel."""

    name: Name
    line: Id
    item: Item
    seat: Seat = Seat()
    spacing: Spacing
    turn: Turn = TurnWithLine()
    stand_off: Coordinate = 0.0
    lift: Coordinate = 0.0
    material: Material = "softwood"


class Row(RowBody):
    """Items set out along a line."""

    id: Id
    tag: Tag


@dataclass(frozen=True)
class SetOut:
    """A row set out: n items.

    chainages (n,); positions (n, 3) of the middle of each item's foot; headings (n,): angle in
    radians, anticlockwise from +x, of the item's *along* axis. stretches: what the rule gave
    on each stretch, of stretch_lengths (k,) mm.
    """

    chainages: Array
    positions: Array
    headings: Array
    stretches: tuple[Stretch, ...]
    stretch_lengths: tuple[float, ...]


def stretches_of(course: Course, spacing: Spacing) -> list[tuple[float, float]]:
    """Return (begin chainage, length) of every stretch items are set out on."""
    if spacing.corners == "carry" or course.count == 1:
        return [(0.0, course.length)]
    ends = np.append(course.begins[1:], course.length + (course.begins[0] if course.closed else 0.0))
    return [(float(a), float(b - a)) for a, b in zip(course.begins, ends, strict=True)]


def items_in(course: Course, spacing: Spacing) -> int:
    """Return about how many items a spacing gives on a line, cheaply, before setting them out."""
    ring = course.closed and spacing.corners == "carry"
    total = 0
    for _, length in stretches_of(course, spacing):
        if length - spacing.inset_start - spacing.inset_end >= 0 or ring:
            total += count_of(length, spacing, ring)
    return total


def check_number(row: Row, course: Course, confirmed: bool) -> None:
    """Raise ``Refused`` where a row would hold too many items; a confirmed number may be large."""
    count = items_in(course, row.spacing)
    if count > MOST:
        raise Refused(f"{row.name} would hold {count:,} items; {MOST:,} is the most. Check the centres.", "spacing.rule", "too-many")
    if count >= MANY and not confirmed:
        raise Refused(f"{row.name} would hold {count:,} items. Is the spacing as you mean it?", "spacing.rule", "confirm-many")


def set_row_out(row: Row, course: Course) -> SetOut:
    """Return a row's items on its line. Raises ``Refused`` where insets are longer than a stretch."""
    ring = course.closed and row.spacing.corners == "carry"
    parts = stretches_of(course, row.spacing)
    stretches = [set_out(length, row.spacing, ring) for _, length in parts]
    chainages = np.concatenate([begin + stretch.places for (begin, _), stretch in zip(parts, stretches, strict=True)])
    if len(parts) > 1:
        chainages = _once(chainages, course)
    if course.closed:
        chainages = np.mod(chainages, course.length)
    positions, headings = _stand(row, course, chainages)
    return SetOut(chainages, positions, headings, tuple(stretches), tuple(length for _, length in parts))


def _once(chainages: Array, course: Course) -> Array:
    """Drop an item that the next stretch begins with where the last one ended."""
    keep = np.ones(len(chainages), dtype=bool)
    keep[1:] = np.diff(chainages) > WELD
    if course.closed and len(chainages) > 1 and abs(chainages[-1] - course.length - chainages[0]) <= WELD:
        keep[-1] = False
    return np.asarray(chainages[keep])


def _stand(row: Row, course: Course, chainages: Array) -> tuple[Array, Array]:
    index, along = course.leg_at(chainages)
    tangents = course.tangents[index]
    # An item on a corner stands to the bisector of the two legs.
    on_corner = (along <= WELD) & (course.turns[index] > 0)
    tangents = np.where(on_corner[:, None], tangents + course.tangents[index - 1], tangents)
    points = course.starts[index] + course.tangents[index] * along[:, None]
    flat = np.hypot(tangents[:, 0], tangents[:, 1])
    # On an upright leg the line gives no direction on plan; the frame's right does.
    rights = course.rights[index]
    level = np.where((flat > 1e-9)[:, None], tangents[:, :2], np.stack([-rights[:, 1], rights[:, 0]], axis=1))
    line_headings = np.arctan2(level[:, 1], level[:, 0])
    if isinstance(row.turn, TurnBearing):
        headings = np.full(len(chainages), math.radians(90.0 - row.turn.bearing))
    else:
        headings = line_headings
    positions = points.copy()
    positions[:, 0] += row.stand_off * np.sin(line_headings)
    positions[:, 1] -= row.stand_off * np.cos(line_headings)
    cosine, sine = np.cos(headings), np.sin(headings)
    positions[:, 0] -= row.seat.along * cosine + row.seat.across * sine
    positions[:, 1] -= row.seat.along * sine - row.seat.across * cosine
    positions[:, 2] += row.lift - row.seat.up
    return positions, headings
