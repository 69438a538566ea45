"""Rows set out on their lines: the stretches items may stand on, and the items."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import Final

import numpy as np

from slow_ribbon.core.kernel.arrays import Array, Indices
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.clearance import blocked as blocked_by
from slow_ribbon.core.rows.field import ground_of_field, set_field_out
from slow_ribbon.core.rows.metrics import METRICS, Metric
from slow_ribbon.core.rows.model import Row, RowBody, Use, numbered_uses
from slow_ribbon.core.rows.obstacles import stretches_under
from slow_ribbon.core.rows.placement import stood
from slow_ribbon.core.rows.row_set_out import RowSetOut
from slow_ribbon.core.rows.spacing import ItemWidths, Spacing, count_of, set_out

#: A row of this many items or more is taken for a mistyped centre until it is confirmed.
MANY: Final = 100_000
#: No row may hold more: a picture and a list of it could not be used.
MOST: Final = 1_000_000
#: No field is filled for which more places would have to be looked at: they take memory, however few of them are on its ground.
_MOST_TRIED: Final = 20_000_000
#: Places on a stretch at which it is asked how wide an item that keeps its bearing stands there.
_LOOKS: Final = 67


@dataclass(frozen=True)
class Room:
    """Where a row's items may sit: (begin chainage, length) of each span, and whether it is a ring.

    ``openings`` says of each span whether an opening ends it: before it, and after it; ``held`` whether an item does that is held;
    ``corners`` whether a corner does at which the row begins again.
    """

    spans: tuple[tuple[float, float], ...]
    openings: tuple[tuple[bool, bool], ...]
    held: tuple[tuple[bool, bool], ...]
    corners: tuple[tuple[bool, bool], ...]
    ring: bool = False


@lru_cache(maxsize=1024)
def room_of(row: Row, line: Line) -> Room:
    """Return the stretches that items of a row are set out on.

    Stretches go from the row's first mark to its last, end where an item would begin to stand
    in an opening, and where asked at corners. The result is empty where openings leave no room.
    Raises ``Refused`` for a mark the line does not have, or two marks the wrong way round.
    """
    course = course_of(line)
    length = course.length
    begin, whole = _between_marks(row, line, length)
    openings = line.openings if row.openings == "clear" else ()
    hindered = bool(openings or row.obstacles or row.corner_clearance)
    corners_of_line = course.begins[course.turns > 0].tolist() if row.spacing.corners == "restart" else []
    anchors = sorted(held_places(row, line).values())
    if course.closed and whole == length and not hindered and not corners_of_line and len(anchors) < 2:
        # One that is held is where the others are counted from.
        return Room(((anchors[0] if anchors else begin, length),), ((False, False),), ((False, False),), ((False, False),), ring=True)
    turns = (-length, 0.0, length) if course.closed else (0.0,)
    clear = [*((opening.at, opening.width) for opening in openings), *(stretches_under(line, row.obstacles) if row.obstacles else ())]
    taken = [blocked_by(row, course, at, width) for at, width in clear]
    if row.corner_clearance > 0:
        away = row.corner_clearance
        taken += [(at - away, at + away) for at in course.begins[course.turns > 0].tolist()]
    blocked = sorted((low + turn, high + turn) for low, high in taken for turn in turns if high > low)
    anchors = [at + turn for at in anchors for turn in turns]
    anchors = [at for at in anchors if not any(low + WELD < at < high - WELD for low, high in blocked)]
    corners = sorted({*(at + turn for at in corners_of_line for turn in turns), *anchors})
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
    there = [at + turn for at in corners_of_line for turn in turns]
    return Room(tuple(found), tuple(openings_at), _ending_at(anchors, found), _ending_at(there, found))


def _ending_at(places: Sequence[float], spans: Sequence[tuple[float, float]]) -> tuple[tuple[bool, bool], ...]:
    """Return of each span whether one of some places is where it begins, and where it ends."""

    def is_at(at: float) -> bool:
        return any(abs(at - place) <= WELD for place in places)

    return tuple((is_at(begin), is_at(begin + length)) for begin, length in spans)


def _end_bays(row: RowBody, room: Room) -> list[tuple[float, float]]:
    """Return of each span the sizes of the bays next to its ends, 0 for those that are like the others."""
    spacing = row.spacing

    def size(held: bool, opening: bool, corner: bool) -> float:
        return 0.0 if held else spacing.opening_bay if opening else spacing.corner_bay if corner else spacing.end_bay

    return [
        (size(held[0], opening[0], corner[0]), size(held[1], opening[1], corner[1]))
        for held, opening, corner in zip(room.held, room.openings, room.corners, strict=True)
    ]


def held_places(row: RowBody, line: Line) -> dict[str, float]:
    """Return where items stand that are held on a line, by the marks that hold them; not what is left out, nor what has lost its mark."""
    marks = {mark.id: mark.at for mark in line.marks}
    return {one.mark: marks[one.mark] for one in row.held if not one.out and one.mark in marks}


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


def items_in(row: Row, line: Line) -> int:
    """Return about how many items a row holds, cheaply, before setting them out."""
    if row.filling is not None:
        return math.ceil(row.filling.most(ground_of_field(row, line)))
    room = room_of(row, line)
    course = course_of(line)
    item = _standing(row, course, room)
    rules = _rules(row, room, item)
    # Bays of sizes of their own make two more at most.
    more = 2 * len(room.spans) if any(size for ends in _end_bays(row, room) for size in ends) else 0
    return (
        more
        + sum(count_of(stretch, rule, room.ring, item) for stretch, rule in zip(_measured(row, course, room), rules, strict=True))
        + len(row.held)
    )


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
    turns = [row.letters.index(letter) for letter in row.pattern.turns]
    pairs = list(zip(turns, [*turns[1:], turns[0]], strict=True))
    width = min((slim[a] + slim[b]) / 2 for a, b in pairs)
    return ItemWidths(width=width, ahead=ahead, widest=max((wide[a] + wide[b]) / 2 for a, b in pairs))


def check_number(row: Row, line: Line, confirmed: bool) -> None:
    """Raise ``Refused`` where a row would hold too many items; a confirmed number may be large."""
    if row.filling is not None:
        tried = row.filling.tried(ground_of_field(row, line))
        if tried > _MOST_TRIED:
            what = f"{row.name} lies so far spread out that {tried:,.0f} places would be tried; {_MOST_TRIED:,} is the most. "
            raise Refused(what + "Fill it in parts, or at larger distances.", "filling", "too-many")
    count = items_in(row, line)
    where = "spacing.rule" if row.filling is None else "filling"
    if count > MOST:
        raise Refused(f"{row.name} would hold {count:,} items; {MOST:,} is the most. Check the distances.", where, "too-many")
    if count >= MANY and not confirmed:
        raise Refused(f"{row.name} would hold {count:,} items. Is this spacing intended?", where, "confirm-many")


def set_row_out(row: Row, line: Line) -> RowSetOut:
    """Return a row's items on its line, none on a stretch that is shorter than its insets; those of a field within it."""
    if row.filling is not None:
        return set_field_out(row, row.filling, line)
    course = course_of(line)
    room = room_of(row, line)
    item = _standing(row, course, room)
    measured = zip(_measured(row, course, room), _rules(row, room, item), _end_bays(row, room), strict=True)
    stretches = tuple(set_out(stretch, rule, room.ring, item, ends) for stretch, rule, ends in measured)
    begins, lengths = tuple(begin for begin, _ in room.spans), tuple(length for _, length in room.spans)
    chainages = np.concatenate([np.zeros(0), *(begin + stretch.places for begin, stretch in zip(begins, stretches, strict=True))])
    keep = _once(chainages, course)
    beside = np.concatenate(
        [np.zeros(0, dtype=bool), *(_beside(len(stretch.places), at) for stretch, at in zip(stretches, room.openings, strict=True))]
    )[keep]
    chainages = chainages[keep]
    if course.closed:
        chainages = np.mod(chainages, course.length)
    held = held_places(row, line)
    chainages, beside = _with_held(chainages, beside, held, course, room.ring)
    left = _left_out(row, line, chainages, course, {nearest(chainages, at, course) for at in held.values()})
    chainages, beside = np.delete(chainages, left), np.delete(beside, left)
    numbers_held = {mark: nearest(chainages, at, course) for mark, at in held.items()}
    count = len(chainages)
    ends = np.unique([0, count - 1]) if count and not room.ring else np.zeros(0, dtype=int)
    used, numbers = numbered_uses(row)
    dealt = row.pattern.dealt(ends, _on_corners(chainages, course), beside, count)
    further = np.zeros(count)
    for one in row.held:
        if one.mark in numbers_held:
            dealt[numbers_held[one.mark]] = dealt[numbers_held[one.mark]] if one.item is None else ord(one.item) - 65
            further[numbers_held[one.mark]] = math.radians(one.turn)
    found = stood(row.turn, used, course, chainages, numbers[dealt], further)
    positions, hangers = _hung(row, used, numbers[dealt], found.positions)
    return RowSetOut(
        chainages=chainages, positions=positions, headings=found.headings, tilts=found.tilts, dealt=dealt, stretches=stretches,
        begins=begins, lengths=lengths, ring=room.ring, held=numbers_held, sizes=np.ones(count), hangers=hangers,
    )  # fmt: skip


def _hung(row: RowBody, used: Sequence[Use], dealt: Indices, positions: Array) -> tuple[Array, Array]:
    """Return where items stand (n, 3) that hang down to one level, and how much longer each one's hanger is, mm; none is below nothing."""
    hangers = np.zeros(len(positions))
    if row.hang_to is None:
        return positions, hangers
    own = np.array([use.item.hangs_by is not None for use in used])[dealt] if len(used) else np.zeros(0, dtype=bool)
    least = np.array([-(use.item.hangs_by or 0.0) for use in used])[dealt]
    hangers[own] = np.maximum(positions[own, 2] - row.hang_to, least[own])
    return positions - np.column_stack([np.zeros((len(positions), 2)), hangers]), hangers


def _rules(row: RowBody, room: Room, item: ItemWidths) -> list[Spacing]:
    """Return the spacing of each span: where an item is held at an end of it nothing is left out, and nothing inset.

    A rule that counts from faces has half of that item, where it is slimmest, in the span.
    """
    half = item.width / 2 if row.spacing.rule.from_faces else 0.0
    parts: list[list[int]] = []
    for number, (first, _) in enumerate(room.held):
        if first and parts:
            parts[-1].append(number)
        else:
            parts.append([number])
    found = []
    for part in parts:
        ring = room.held[part[0]][0] and room.held[part[-1]][1]
        lengths = [_free(row, room, number) for number in part]
        whole = len(part) > 1 or any(room.held[part[0]])
        rules = row.spacing.rule.parted(lengths, ring) if whole else [row.spacing.rule]
        for number, rule in zip(part, rules, strict=True):
            first, last = room.held[number]
            begin = {"inset_start": half, "first": True} if first else {}
            end = {"inset_end": half, "last": True} if last else {}
            found.append(row.spacing.model_copy(update={"rule": rule, **begin, **end}) if first or last else row.spacing)
    return found


def _free(row: RowBody, room: Room, number: int) -> float:
    """Return how long a span is without its insets, mm."""
    first, last = room.held[number]
    insets = (0.0 if first else row.spacing.inset_start) + (0.0 if last else row.spacing.inset_end)
    return max(0.0, room.spans[number][1] - insets)


def _with_held(chainages: Array, beside: Array, held: Mapping[str, float], course: Course, ring: bool) -> tuple[Array, Array]:
    """Return the places with those that are held, which a rule need not come to."""
    more = [at for at in held.values() if not len(chainages) or _apart(chainages, at, course).min() > WELD]
    if not more:
        return chainages, beside
    every = np.concatenate([chainages, more])
    # Along a closed line the first item is where the row begins, which need not be where the line does.
    begin = chainages[0] if course.closed and len(chainages) else 0.0
    order = np.argsort(np.mod(every - begin + WELD, course.length) if course.closed else every, kind="stable")
    return every[order], np.concatenate([beside, np.zeros(len(more), dtype=bool)])[order]


def _left_out(row: RowBody, line: Line, chainages: Array, course: Course, held: set[int]) -> list[int]:
    """Return the numbers of the items that are left out: each the nearest to where one was taken away, within half a bay; none held."""
    marks = {mark.id: mark.at for mark in line.marks}
    found = []
    for one in row.held:
        if one.out and one.mark in marks and len(chainages):
            away = _apart(chainages, marks[one.mark], course)
            number = int(away.argmin())
            beside = np.sort(_apart(chainages, float(chainages[number]), course))[1:]
            if number not in held and away[number] <= (float(beside[0]) / 2 if len(beside) else 0.0) + WELD:
                found.append(number)
    return sorted(set(found))


def nearest(chainages: Array, at: float, course: Course) -> int:
    """Return the number of the item nearest to a place on a line."""
    return int(_apart(chainages, at, course).argmin())


def _apart(chainages: Array, at: float, course: Course) -> Array:
    """Return how far places on a line are from one, the shorter way round a closed line."""
    away = np.abs(chainages - at)
    return np.minimum(away, course.length - away) if course.closed else away


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
