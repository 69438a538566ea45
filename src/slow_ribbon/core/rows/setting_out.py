"""Rows set out on their lines: the stretches items may stand on, and the items."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import Final

import numpy as np

from slow_ribbon.core.kernel.arrays import Array, Indices, Result
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.clearance import blocked as blocked_by
from slow_ribbon.core.rows.metrics import METRICS, Metric
from slow_ribbon.core.rows.model import Row, RowBody
from slow_ribbon.core.rows.placement import stood
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
    radians, anticlockwise from +x, of the item's *along* axis; tilts (n, 2): level axes about which
    each is turned after that, radians long. dealt (n,): which of the row's items each is, 0 for A. stretches: what the rule gave
    on each stretch, which begin at chainages begins (k,) and are lengths (k,) mm long. ``ring``
    where the row goes round a closed line without a first and a last item.
    """

    chainages: Array
    positions: Array
    headings: Array
    tilts: Array
    dealt: Indices
    stretches: tuple[RowStretch, ...]
    begins: tuple[float, ...]
    lengths: tuple[float, ...]
    ring: bool


@dataclass(frozen=True)
class Room:
    """Where a row's items may sit: (begin chainage, length) of each span, and whether it is a ring.

    ``openings`` says of each span whether an opening ends it: before it, and after it.
    """

    spans: tuple[tuple[float, float], ...]
    openings: tuple[tuple[bool, bool], ...]
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
        return Room(((begin, length),), ((False, False),), ring=True)
    turns = (-length, 0.0, length) if course.closed else (0.0,)
    taken = [blocked_by(row, course, opening.at, opening.width) for opening in openings]
    blocked = sorted((low + turn, high + turn) for low, high in taken for turn in turns if high > low)
    corners = sorted(at + turn for at in corners for turn in turns)
    if course.closed and whole == length and (blocked or corners):
        # A ring is opened at its first opening, or else at its first corner.
        begin = next((high for low, high in blocked if high > 0), corners[0] % length if corners else 0.0)
    found: list[tuple[float, float]] = []
    openings_at: list[tuple[bool, bool]] = []
    at, end, after = begin, begin + whole, course.closed and whole == length and bool(blocked)
    for low, high in [*blocked, (end, end)]:
        if high <= begin or low > end:
            continue
        ends = [at, *(corner for corner in corners if at + WELD < corner < min(low, end) - WELD), min(low, end)]
        before = high > low or (course.closed and whole == length and bool(blocked))
        for number, (a, b) in enumerate(pairwise(ends)):
            if b - a > WELD:
                found.append((a, b - a))
                openings_at.append((after and number == 0, before and number == len(ends) - 2))
        at, after = max(at, high), True
    return Room(tuple(found), tuple(openings_at))


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
    return [metric(length, course, begin) for begin, length in room.spans]


def _standing(row: RowBody, course: Course, room: Room) -> ItemWidths:
    """Return how wide a row's items stand along their line: the slimmest that two neighbours do, and the widest.

    Where they do not turn with the line, slimmest is in the direction in which they are slimmest there.
    """
    uses = row.used()
    if row.turn.differs or row.turn.tilts:
        offs = np.linspace(0.0, math.pi / 2, _LOOKS)
    elif row.turn.with_line:
        offs = np.full(1, math.radians(-row.turn.by))
    else:
        places = np.concatenate([begin + np.linspace(0.0, length, _LOOKS)[1:-1] for begin, length in room.spans] or [np.zeros(1)])
        here = course.at(places)
        line = np.arctan2(here.tangents[:, 1], here.tangents[:, 0])
        offs = line - row.turn.headings(line, here.points, numbered=False)
    slim, wide = [], []
    for use in uses:
        directions = list(zip(np.cos(offs - use.turn).tolist(), np.sin(offs - use.turn).tolist(), strict=True))
        slim.append(2 * min(use.item.slim_reach(*direction) for direction in directions))
        # What may be turned in any way stands in its neighbour for certain only where it does so at its slimmest.
        wide.append(2 * min(use.item.reach(*direction) for direction in directions))
    ahead = uses[0].seat[0] * math.cos(offs[0]) - uses[0].seat[1] * math.sin(offs[0]) - uses[0].shift if len(offs) == 1 else 0.0
    # A gap that is as wide as was asked between the slimmest is nowhere wider.
    turns = [row.pattern.letters.index(letter) for letter in row.pattern.turns]
    pairs = list(zip(turns, [*turns[1:], turns[0]], strict=True))
    width = min((slim[a] + slim[b]) / 2 for a, b in pairs)
    return ItemWidths(width=width, ahead=ahead, widest=max((wide[a] + wide[b]) / 2 for a, b in pairs))


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
    begins, lengths = tuple(begin for begin, _ in room.spans), tuple(length for _, length in room.spans)
    chainages = np.concatenate([np.zeros(0), *(begin + stretch.places for begin, stretch in zip(begins, stretches, strict=True))])
    keep = _once(chainages, course)
    beside = np.concatenate(
        [np.zeros(0, dtype=bool), *(_beside(len(stretch.places), at) for stretch, at in zip(stretches, room.openings, strict=True))]
    )[keep]
    chainages = chainages[keep]
    if course.closed:
        chainages = np.mod(chainages, course.length)
    count = len(chainages)
    ends = np.unique([0, count - 1]) if count and not room.ring else np.zeros(0, dtype=int)
    used = row.used()
    dealt = row.pattern.dealt(ends, _on_corners(chainages, course), beside, count)
    numbers = np.zeros(26, dtype=int)
    numbers[[ord(letter) - 65 for letter in row.pattern.letters]] = np.arange(len(used))
    found = stood(row.turn, used, course, chainages, numbers[dealt])
    return RowSetOut(
        chainages=chainages, positions=found.positions, headings=found.headings, tilts=found.tilts, dealt=dealt, stretches=stretches,
        begins=begins, lengths=lengths, ring=room.ring,
    )  # fmt: skip


def _beside(count: int, openings: tuple[bool, bool]) -> Array:
    """Return which of the places of a span are the nearest to an opening that ends it."""
    found = np.zeros(count, dtype=bool)
    if count:
        found[0] |= openings[0]
        found[-1] |= openings[1]
    return found


def _on_corners(chainages: Array, course: Course) -> Array:
    """Return which places are on corners of a line."""
    index, along = course.leg_at(chainages)
    after = (index + 1) % course.count
    return np.asarray(((along <= WELD) & (course.turns[index] > 0)) | ((course.lengths[index] - along <= WELD) & (course.turns[after] > 0)))


def _once(chainages: Array, course: Course) -> Array:
    """Return which places to keep: not one that the next span begins with where the last ended, nor one that comes round to the first."""
    keep = np.ones(len(chainages), dtype=bool)
    keep[1:] = np.diff(chainages) > WELD
    if course.closed and len(chainages) > 1 and abs(chainages[-1] - course.length - chainages[0]) <= WELD:
        keep[-1] = False
    return keep
