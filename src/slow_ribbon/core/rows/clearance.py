"""The clearance of items from openings, so that no part of an item stands in one.

Terms
-----
jamb
    an end of an opening: the upright plane across the line there.
footprint
    what an item covers on plan, as it is turned and seated.

On a straight the place where the footprint just touches the jamb follows from the footprint's
reach along travel, whatever the item's turn and the line's slope; round corners and on curves
it is searched for.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
import shapely

from slow_ribbon.core.geometry.frames import UPRIGHT_LIMIT
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.rows.items import RoundItem
from slow_ribbon.core.rows.model import RowBody, Use
from slow_ribbon.core.rows.orientation import Turning, TurnWithLine
from slow_ribbon.core.rows.placement import stand, swept

#: A footprint reaches into an opening where it covers more of it than this, mm².
_TOUCHES: Final = 1e-4


def blocked(row: RowBody, course: Course, at: float, width: float) -> tuple[float, float]:
    """Return the chainages between which no item may sit for the opening from ``at`` on, ``width`` mm wide.

    Which of several items will stand beside an opening is not known before they are set out: each of them must be clear of it. On a
    closed line either may lie beyond its ends by less than its length.
    """
    found = [_blocked(one, course, at, width) for one in _looked_at(row)]
    return min(before for before, _ in found), max(after for _, after in found)


@dataclass(frozen=True)
class _Looked:
    """An item that is tried in places, and how it is turned there."""

    turn: Turning
    use: Use

    def stand(self, course: Course, chainages: Array) -> tuple[Array, Array]:
        return stand(self.turn, self.use, course, chainages)

    def footprint(self, position: Array, heading: float) -> shapely.Polygon:
        return self.use.item.footprint(position[:2], heading)


def _looked_at(row: RowBody) -> list[_Looked]:
    """Return a row's items as they are tried: where their number or the slope turns them, what each covers however it is turned."""
    if not row.turn.differs and not row.turn.tilts:
        return [_Looked(row.turn, use) for use in row.used()]
    found = []
    for use in row.used():
        item = RoundItem(diameter=2 * swept(use), height=use.item.whole_height)
        found.append(_Looked(TurnWithLine(), replace(use, item=item, seat=(0.0, 0.0, use.seat[2]))))
    return found


def _blocked(one: _Looked, course: Course, at: float, width: float) -> tuple[float, float]:
    before = _straight(one, course, at, width, forward=True)
    after = _straight(one, course, at, width, forward=False)
    if before is None or after is None:
        stands_in = _stands_in(one, course, at, width)
        before = _searched(course, stands_in, at, -1.0, one) if before is None else before
        after = _searched(course, stands_in, at + width, 1.0, one) if after is None else after
    elif _near_corner(course, at, -1.0, _size(one)) or _near_corner(course, at + width, 1.0, _size(one)):
        # Round a sharp corner what stands on the other leg may reach into the opening, beyond places that are clear.
        across = _lies_across(one, course, at, width)
        most = course.length - (after - before) if course.closed else math.inf
        before, after = (
            _beyond(course, across, before, -1.0, _size(one), most),
            _beyond(course, across, after, 1.0, _size(one), most),
        )
    return before, after


def _size(one: _Looked) -> float:
    """Return how far anything of an item lies from its place on the line at most."""
    use = one.use
    return use.item.diagonal + math.hypot(use.shift, use.stand_off) + math.hypot(use.seat[0], use.seat[1])


def _near_corner(course: Course, jamb: float, way: float, size: float) -> bool:
    """Return whether a corner lies so near to a jamb, outward, that an item beyond it could reach it."""
    corners = course.begins[course.turns > 0]
    away = (corners - jamb) * way
    if course.closed:
        away = away % course.length
    return bool(((away >= 0) & (away < size)).any())


def _beyond(course: Course, across: Callable[[float], bool], place: float, way: float, size: float, most: float) -> float:
    """Return a place outward from one that is clear, beyond the last of those near by that are not; that one itself where all are.

    Nothing further than ``most`` is looked at: there a closed line comes back to the opening from the other side.
    """
    step = size / 6
    most = most if course.closed else place if way < 0 else course.length - place
    tried = [place + way * step * number for number in range(1, 25) if step * number < most - WELD]
    taken = next((one for one in reversed(tried) if across(one)), None)
    if taken is None:
        return place
    free = taken + way * step
    if not course.closed and not 0.0 <= free <= course.length:
        return min(max(free, 0.0), course.length)
    for _ in range(50):
        middle = (taken + free) / 2
        taken, free = (middle, free) if across(middle) else (taken, middle)
    return free


def _straight(one: _Looked, course: Course, at: float, width: float, forward: bool) -> float | None:
    """Return the last place before an opening, or the first after it, from the item's reach; ``None`` where its leg is not straight."""
    jamb = at if forward else at + width
    nudge = -2 * WELD if forward else 2 * WELD
    if not course.closed and not WELD < jamb < course.length - WELD:
        return jamb
    piece = int(course.leg_at(np.array([jamb + nudge]))[0][0])
    if piece in course.paths or not one.turn.steady:
        return None
    begin, length = float(course.begins[piece]), float(course.lengths[piece])
    middle = np.array([begin + length / 2])
    position, heading = one.stand(course, middle)
    tangent = course.tangents[piece]
    flat = math.hypot(tangent[0], tangent[1])
    offset = position[0] - course.points_at(middle)[0]
    if flat < math.sin(UPRIGHT_LIMIT):
        # On an upright leg it is the item's height that must keep clear.
        ends = np.array([offset[2], offset[2] + one.use.item.whole_height]) * tangent[2]
        slope = abs(float(tangent[2]))
    else:
        along = tangent[:2] / flat
        ends = np.array(_reach(one, float(heading[0]), along)) + float(offset[:2] @ along)
        slope = flat
    place = jamb - float(ends.max()) / slope if forward else jamb - float(ends.min()) / slope
    low = jamb - (jamb - begin) % course.length if course.closed else begin
    if low > jamb + nudge:
        low -= course.length
    inside = low + WELD < place < low + length - WELD or (place - jamb) * nudge < 0
    return place if inside else None


def _reach(one: _Looked, heading: float, along: Array) -> tuple[float, float]:
    """Return how far a footprint reaches along a direction from its middle: backward (negative) and forward."""
    cosine = math.cos(heading) * along[0] + math.sin(heading) * along[1]
    sine = math.sin(heading) * along[0] - math.cos(heading) * along[1]
    reach = one.use.item.reach(cosine, sine)
    return -reach, reach


def _lies_across(one: _Looked, course: Course, at: float, width: float) -> Callable[[float], bool]:
    """Return a test whether an item at a chainage covers anything of the line within an opening."""
    inside = [float(begin) + turn for begin in course.begins for turn in (-course.length, 0.0, course.length)]
    places = np.array([at, *sorted(place for place in inside if at < place < at + width), at + width])
    if not course.closed:
        places = np.clip(places, 0.0, course.length)
    path = shapely.LineString(course.points_at(places)[:, :2])

    def across(chainage: float) -> bool:
        position, heading = one.stand(course, np.array([chainage]))
        return float(path.intersection(one.footprint(position[0], float(heading[0]))).length) > WELD

    return across


def _stands_in(one: _Looked, course: Course, at: float, width: float) -> Callable[[float], bool]:
    """Return a test whether an item at a chainage stands in an opening: on the strip that it makes across the line."""
    reach = _size(one)
    places = at + np.linspace(0, width, 65)
    corners = [float(begin) + turn for begin in course.begins for turn in (-course.length, 0.0, course.length)]
    places = np.unique(np.append(places, [corner for corner in corners if at < corner < at + width]))
    if not course.closed:
        places = np.clip(places, 0.0, course.length)
    path = shapely.LineString(course.points_at(places)[:, :2])
    strip = path.buffer(reach, cap_style="flat", join_style="mitre", mitre_limit=5.0)
    shapely.prepare(strip)

    def stands_in(chainage: float) -> bool:
        position, heading = one.stand(course, np.array([chainage]))
        covered = one.footprint(position[0], float(heading[0]))
        return bool(strip.intersects(covered)) and float(strip.intersection(covered).area) > _TOUCHES

    return stands_in


def _searched(course: Course, stands_in: Callable[[float], bool], jamb: float, way: float, one: _Looked) -> float:
    """Return the nearest place outward from a jamb where an item stands clear of the opening, to 1e-6 mm."""
    step = max(1.0, min(one.use.item.sides) / 4)
    most = course.length if course.closed else (jamb if way < 0 else course.length - jamb)
    taken, free = 0.0, 0.0
    while stands_in(jamb + way * free):
        taken, free = free, free + step
        if free > most:
            return jamb + way * most
        step *= 1.05
    for _ in range(50):
        if free - taken < SAME_PLACE:
            break
        middle = (taken + free) / 2
        taken, free = (middle, free) if stands_in(jamb + way * middle) else (taken, middle)
    return jamb + way * free
