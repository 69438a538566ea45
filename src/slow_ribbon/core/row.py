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
from itertools import pairwise
from typing import Annotated, Final, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.course import Course, course_of
from slow_ribbon.core.faults import Refused
from slow_ribbon.core.line import Line
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
    """What a row is, before it has an id and a tag.

    ``stand_off`` is to the right of travel. Items keep clear of the line's openings or pass
    over them, and are set out from one named mark to another where marks are given.
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
    from_mark: Name | None = None
    to_mark: Name | None = None
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


def stretches_of(row: RowBody, line: Line) -> tuple[list[tuple[float, float]], bool]:
    """Return (begin chainage, length) of every stretch items are set out on, and whether it is a ring.

    Stretches go from the row's first mark to its last, end at openings, with room for the
    item's own half width there, and where asked at corners. Raises ``Refused`` for a mark the
    line does not have, or two marks the wrong way round.
    """
    course = course_of(line)
    length = course.length
    begin, whole = _between_marks(row, line, length)
    gaps = [(opening.at, opening.at + opening.width) for opening in line.openings] if row.openings == "clear" else []
    if course.closed and whole == length and not gaps and row.spacing.corners == "carry":
        return [(begin, length)], True
    item = row.item
    half = (item.along if isinstance(item, BoxItem) else item.diameter) / 2
    turns = (-length, 0.0, length) if course.closed else (0.0,)
    blocked = sorted((low + turn - half + row.seat.along, high + turn + half + row.seat.along) for low, high in gaps for turn in turns)
    corners = []
    if row.spacing.corners == "restart":
        corners = sorted(float(at) + turn for at in course.begins[course.turns > 0] for turn in turns)
    if course.closed and whole == length and (gaps or corners):
        # A ring is opened at its first opening, or else at its first corner.
        begin = next((high for low, high in blocked if high > 0), corners[0] % length if corners else 0.0)
    found: list[tuple[float, float]] = []
    at, end = begin, begin + whole
    for low, high in [*blocked, (end, end)]:
        if high <= begin or low > end:
            continue
        ends = [at, *(corner for corner in corners if at + WELD < corner < min(low, end) - WELD), min(low, end)]
        found.extend((a, b - a) for a, b in pairwise(ends) if b - a > WELD)
        at = max(at, high)
    if not found:
        raise Refused(f"The openings of {line.name} leave no room for {row.name}.", "openings", "no-room")
    return found, False


def _between_marks(row: RowBody, line: Line, length: float) -> tuple[float, float]:
    """Return (begin chainage, length) between a row's marks; the whole line where it has none."""
    places = {mark.name: mark.at for mark in line.marks}
    for name, field in ((row.from_mark, "from_mark"), (row.to_mark, "to_mark")):
        if name is not None and name not in places:
            raise Refused(f"{line.name} has no mark {name}: choose another for {row.name}.", field, "unknown-mark")
    begin = 0.0 if row.from_mark is None else places[row.from_mark]
    end = length if row.to_mark is None else places[row.to_mark]
    if line.closed and (row.from_mark is not None or row.to_mark is not None):
        return begin, (end - begin) % length or length
    if end - begin <= WELD and (row.from_mark or row.to_mark):
        raise Refused(f"The marks of {row.name} come the wrong way round along {line.name}: exchange them.", "to_mark", "marks")
    return begin, end - begin


def items_in(row: RowBody, line: Line) -> int:
    """Return about how many items a row holds, cheaply, before setting them out."""
    spacing = row.spacing
    parts, ring = stretches_of(row, line)
    total = 0
    for _, length in parts:
        if length - spacing.inset_start - spacing.inset_end >= 0 or ring:
            total += count_of(length, spacing, ring)
    return total


def check_number(row: Row, line: Line, confirmed: bool) -> None:
    """Raise ``Refused`` where a row would hold too many items; a confirmed number may be large."""
    count = items_in(row, line)
    if count > MOST:
        raise Refused(f"{row.name} would hold {count:,} items; {MOST:,} is the most. Check the centres.", "spacing.rule", "too-many")
    if count >= MANY and not confirmed:
        raise Refused(f"{row.name} would hold {count:,} items. Is the spacing as you mean it?", "spacing.rule", "confirm-many")


def set_row_out(row: Row, line: Line) -> SetOut:
    """Return a row's items on its line. Raises ``Refused`` where insets are longer than a stretch."""
    course = course_of(line)
    parts, ring = stretches_of(row, line)
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
    here = course.at(chainages)
    # An item on a corner stands to the bisector of the two legs, found from either of them.
    after = (index + 1) % course.count
    begins = (along <= WELD) & (course.turns[index] > 0)
    ends = (course.lengths[index] - along <= WELD) & (course.turns[after] > 0)
    tangents = np.where(begins[:, None], here.tangents + course.tangents_end[index - 1], here.tangents)
    tangents = np.where(ends[:, None], here.tangents + course.tangents[after], tangents)
    points = here.points
    flat = np.hypot(tangents[:, 0], tangents[:, 1])
    # On an upright leg the line gives no direction on plan; the frame's right does.
    rights = here.rights
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
