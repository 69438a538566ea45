"""Rows set out on their lines: the stretches items may stand on, and the items."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import Final

import numpy as np

from slow_ribbon.core.kernel.arrays import Array, Result
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.clearance import blocked as blocked_by
from slow_ribbon.core.rows.metrics import METRICS, Metric
from slow_ribbon.core.rows.model import Row, RowBody
from slow_ribbon.core.rows.placement import stand
from slow_ribbon.core.rows.spacing import ItemWidths, RowStretch, count_of, set_out

#: A row of this many items or more is taken for a mistyped centre until it is confirmed.
MANY: Final = 100_000
#: No row may hold more: a picture and a list of it could not be used.
MOST: Final = 2_000_000
#: Places on a stretch at which it is asked how wide an item that keeps its bearing stands there.
_LOOKS: Final = 67


@dataclass(frozen=True)
class RowSetOut(Result):
    """A row set out: n items.

    chainages (n,); positions (n, 3) of the middle of each item's foot; headings (n,): angle in
    radians, anticlockwise from +x, of the item's *along* axis. stretches: what the rule gave
    on each stretch, which begin at chainages begins (k,) and are lengths (k,) mm long. ``ring``
    where the row goes round a closed line without a first and a last item.
    """

    chainages: Array
    positions: Array
    headings: Array
    stretches: tuple[RowStretch, ...]
    begins: tuple[float, ...]
    lengths: tuple[float, ...]
    ring: bool


@dataclass(frozen=True)
class Room:
    """Where a row's items may sit: (begin chainage, length) of each stretch, and whether it is a ring."""

    stretches: tuple[tuple[float, float], ...]
    ring: bool = False


@lru_cache(maxsize=1024)
def room_of(row: RowBody, line: Line) -> Room:
    """Return the stretches that items of a row are set out on.

    Stretches go from the row's first mark to its last, end where an item would begin to stand
    in an opening, and where asked at corners. The result is empty where openings leave no room.
    Raises ``Refused`` for a mark the line does not have, or two marks the wrong way round.
    """
    course = course_of(line)
    length = course.length
    begin, whole = _between_marks(row, line, length)
    openings = line.openings if row.openings == "clear" else ()
    corners = course.begins[course.turns > 0].tolist() if row.spacing.corners == "restart" else []
    if course.closed and whole == length and not openings and not corners:
        return Room(((begin, length),), ring=True)
    turns = (-length, 0.0, length) if course.closed else (0.0,)
    taken = [blocked_by(row, course, opening.at, opening.width) for opening in openings]
    blocked = sorted((low + turn, high + turn) for low, high in taken for turn in turns if high > low)
    corners = sorted(at + turn for at in corners for turn in turns)
    if course.closed and whole == length and (blocked or corners):
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
    return Room(tuple(found))


def _between_marks(row: RowBody, line: Line, length: float) -> tuple[float, float]:
    """Return (begin chainage, length) between a row's marks; the whole line where it has none."""
    places = {mark.id: mark.at for mark in line.marks}
    for mark, field in ((row.from_mark, "from_mark"), (row.to_mark, "to_mark")):
        if mark is not None and mark not in places:
            what = f"A mark that {row.name} is set out from or to is gone from {line.name}: choose another for it first."
            raise Refused(what, field, "unknown-mark")
    begin = 0.0 if row.from_mark is None else places[row.from_mark]
    end = length if row.to_mark is None else places[row.to_mark]
    if line.closed and (row.from_mark is not None or row.to_mark is not None):
        return begin, (end - begin) % length or length
    if end - begin <= WELD and (row.from_mark or row.to_mark):
        raise Refused(f"The marks of {row.name} come the wrong way round along {line.name}: exchange them.", "to_mark", "marks")
    return begin, end - begin


def items_in(row: RowBody, line: Line) -> int:
    """Return about how many items a row holds, cheaply, before setting them out."""
    room = room_of(row, line)
    course = course_of(line)
    item = _standing(row, course, room)
    return sum(count_of(stretch, row.spacing, room.ring, item) for stretch in _measured(row, course, room))


def _measured(row: RowBody, course: Course, room: Room) -> list[Metric]:
    metric = METRICS[row.spacing.measured]
    return [metric(length, course, begin) for begin, length in room.stretches]


def _standing(row: RowBody, course: Course, room: Room) -> ItemWidths:
    """Return how wide a row's items stand along their line: where they keep their bearing, in the direction in which they are narrowest."""
    if row.turn.with_line:
        return ItemWidths(width=2 * row.item.reach(1.0, 0.0), ahead=row.seat.along)
    places = np.concatenate([begin + np.linspace(0.0, length, _LOOKS)[1:-1] for begin, length in room.stretches] or [np.zeros(1)])
    tangents = course.at(places).tangents
    off = np.arctan2(tangents[:, 1], tangents[:, 0]) - row.turn.headings(np.zeros(len(places)), places)
    # A gap that is as wide as was asked at the narrowest is nowhere wider.
    width = min(2 * row.item.reach(cosine, sine) for cosine, sine in zip(np.cos(off).tolist(), np.sin(off).tolist(), strict=True))
    return ItemWidths(width=width)


def check_number(row: Row, line: Line, confirmed: bool) -> None:
    """Raise ``Refused`` where a row would hold too many items; a confirmed number may be large."""
    count = items_in(row, line)
    if count > MOST:
        raise Refused(f"{row.name} would hold {count:,} items; {MOST:,} is the most. Check the centres.", "spacing.rule", "too-many")
    if count >= MANY and not confirmed:
        raise Refused(f"{row.name} would hold {count:,} items. Is this spacing intended?", "spacing.rule", "confirm-many")


def set_row_out(row: Row, line: Line) -> RowSetOut:
    """Return a row's items on its line; none on a stretch that is shorter than its insets."""
    course = course_of(line)
    room = room_of(row, line)
    item = _standing(row, course, room)
    stretches = tuple(set_out(stretch, row.spacing, room.ring, item) for stretch in _measured(row, course, room))
    begins, lengths = tuple(begin for begin, _ in room.stretches), tuple(length for _, length in room.stretches)
    chainages = np.concatenate([np.zeros(0), *(begin + stretch.places for begin, stretch in zip(begins, stretches, strict=True))])
    chainages = _once(chainages, course)
    if course.closed:
        chainages = np.mod(chainages, course.length)
    positions, headings = stand(row, course, chainages)
    return RowSetOut(
        chainages=chainages, positions=positions, headings=headings, stretches=stretches, begins=begins, lengths=lengths, ring=room.ring
    )


def _once(chainages: Array, course: Course) -> Array:
    """Drop an item that the next stretch begins with where the last one ended, and one that comes round to the first."""
    keep = np.ones(len(chainages), dtype=bool)
    keep[1:] = np.diff(chainages) > WELD
    if course.closed and len(chainages) > 1 and abs(chainages[-1] - course.length - chainages[0]) <= WELD:
        keep[-1] = False
    return np.asarray(chainages[keep])
