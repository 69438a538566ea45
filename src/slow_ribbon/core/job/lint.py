"""What is wrong with a line by itself, each with one action that mends it."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from itertools import islice
from typing import Any, Final, Literal

import numpy as np
import shapely

from slow_ribbon.core.geometry.frames import angle_between
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.job.edits.legs import MakeTangent
from slow_ribbon.core.job.edits.points import NEARLY, RemoveVertex, SetClosed
from slow_ribbon.core.job.edits.split_join import SplitLine
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import NO_LENGTH
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import FOLD, course_of
from slow_ribbon.core.lines.fillets import LinePart, line_parts
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.point_ids import point_ids

#: A leg shorter than this, mm, is a slip of the hand or of a drawing.
TINY: Final = 2.0
#: A corner of less than this, degrees, is meant to be straight.
KINK: Final = 1.0
#: So many faults of a kind are listed one by one; the last says how many more there are.
TOLD: Final = 10


@dataclass(frozen=True)
class LineFault:
    """Something wrong with a line: what, where, and the edit that mends it, with its name."""

    kind: Literal["crosses", "nearly-closed", "tiny-leg", "kink", "folds"]
    what: str
    chainage: float
    point: tuple[float, float, float]
    action: str
    mend: Edit


#: Faults are found first, and made of those that are listed.
Making = Callable[[], LineFault]


def line_faults(line: Line) -> list[LineFault]:
    """Return the faults of a line, in order of chainage; of each kind the first ten, the last of which says how many more there are."""
    parts = line_parts(line)
    begins = np.concatenate([[0.0], np.cumsum([part.span.length for part in parts])])
    kinds = (_tiny(line, parts, begins), _kinks(line, parts, begins), _nearly(line), _folds(line), _crossings(line))
    return sorted((fault for found in kinds for fault in _first(found)), key=lambda fault: fault.chainage)


def _first(found: Iterator[Making]) -> list[LineFault]:
    faults = [make() for make in islice(found, TOLD)]
    more = sum(1 for _ in found)
    if more:
        faults[-1] = replace(faults[-1], what=f"{faults[-1].what} There {'is 1 more' if more == 1 else f'are {more:,} more'} like it.")
    return faults


def _place(values: Array) -> tuple[float, float, float]:
    return float(values[0]), float(values[1]), float(values[2])


def _tiny(line: Line, parts: tuple[LinePart, ...], begins: Array) -> Iterator[Making]:
    count = len(line.legs)
    if count <= (3 if line.closed else 1):
        return
    for i in np.flatnonzero(np.diff(begins) < TINY).tolist():
        part = parts[i]
        if part.rounding:
            continue
        # The point between the leg and the next goes; of the last leg of an open line the one before it.
        point = part.leg + 1 if part.leg + 1 < count else 0 if line.closed else part.leg

        def fault(i: int = i, part: LinePart = part, point: int = point) -> LineFault:
            what = f"Leg {part.leg + 1} is only {figure(part.span.length, 2)} long."
            mend = RemoveVertex(line=line.id, point=point_ids(line)[point])
            place = _place(part.span.at(np.zeros(1))[0][0])
            return LineFault(kind="tiny-leg", what=what, chainage=float(begins[i]), point=place, action="Remove point", mend=mend)

        yield fault


def _kinks(line: Line, parts: tuple[LinePart, ...], begins: Array) -> Iterator[Making]:
    first, last = _end_tangents(parts)
    turns = np.degrees(angle_between(np.concatenate([last[-1:], last[:-1]]), first))
    for i in np.flatnonzero((turns > 0.01) & (turns < KINK)).tolist():
        before, after = parts[i - 1], parts[i]
        if (i == 0 and not line.closed) or before.rounding or after.rounding:
            continue
        straight = line.legs[before.leg].straight and line.legs[after.leg].straight
        if straight and len(line.legs) <= (3 if line.closed else 1):
            continue

        def fault(i: int = i, after: LinePart = after, straight: bool = straight) -> LineFault:
            what = f"The line kinks by {turns[i]:.2f}° here."
            here = point_ids(line)[after.leg]
            mend: Edit = RemoveVertex(line=line.id, point=here) if straight else MakeTangent(line=line.id, leg=here)
            action = "Remove kink" if straight else "Make tangent"
            place = _place(after.span.at(np.zeros(1))[0][0])
            return LineFault(kind="kink", what=what, chainage=float(begins[i]), point=place, action=action, mend=mend)

        yield fault


def _end_tangents(parts: tuple[LinePart, ...]) -> tuple[Array, Array]:
    """Return the tangents at the beginnings and the ends of parts, (n, 3) each."""
    first, last = (np.array([part.span.direction(end) for part in parts]) for end in (False, True))
    return first, last


def _folds(line: Line) -> Iterator[Making]:
    course = course_of(line)
    for i in np.flatnonzero(course.turns > FOLD).tolist():

        def fault(i: int = i) -> LineFault:
            at = float(course.begins[i])
            what = "The line goes back on itself here: a curve that is drawn so has a control beyond its end."
            mend = SplitLine(line=line.id, at=at)
            return LineFault(kind="folds", what=what, chainage=at, point=_place(course.starts[i]), action="Split it there", mend=mend)

        yield fault


def _nearly(line: Line) -> Iterator[Making]:
    if line.closed or len(line.legs) < 3:
        return
    gap = math.dist(line.start, line.legs[-1].to)
    length = course_of(line).length
    if gap > min(NEARLY, length / 10):
        return
    what = f"The line ends {figure(gap, 2)} from its start without being closed."
    mend = SetClosed(line=line.id, closed=True)
    yield lambda: LineFault("nearly-closed", what, length, line.legs[-1].to, "Close it", mend)


def _crossings(line: Line) -> Iterator[Making]:
    course = course_of(line)
    chainages, points = course.flattened(1.0)
    kept = np.concatenate([[True], np.diff(chainages) > NO_LENGTH])
    chainages, points = chainages[kept], points[kept]
    if len(points) < 4 or shapely.LineString(points[:, :2]).is_simple:
        return
    chords: Any = shapely.linestrings(np.stack([points[:-1, :2], points[1:, :2]], axis=1))
    first, second = shapely.STRtree(chords).query(chords, predicate="intersects")
    apart = second > first + 1
    if line.closed:
        apart &= ~((first == 0) & (second == len(chords) - 1))
    order = np.lexsort((second[apart], first[apart]))
    level = float(np.ptp(points[:, 2])) < WELD
    for i, j in zip(first[apart][order].tolist(), second[apart][order].tolist(), strict=True):
        met = shapely.get_coordinates(shapely.intersection(chords[i], chords[j]))
        if not len(met):
            continue
        s, t = (_along(points, chainages, k, met[0]) for k in (i, j))
        # Past one another at different heights, as a spiral stair does, is no crossing.
        if abs(s - t) < WELD or (not level and float(np.ptp(course.points_at(np.array([s, t]))[:, 2])) > 1.0):
            continue
        # A line that begins or ends on itself touches, and does not cross.
        if not line.closed and (s < WELD * 10 or t > course.length - WELD * 10):
            continue

        def fault(s: float = s, t: float = t) -> LineFault:
            what = f"The line crosses itself, at {figure(s)} and again at {figure(t)}."
            mend = SplitLine(line=line.id, at=s if s > WELD else t)
            place = _place(course.points_at(np.array([s]))[0])
            return LineFault(kind="crosses", what=what, chainage=s, point=place, action="Split it there", mend=mend)

        yield fault


def _along(points: Array, chainages: Array, chord: int, at: Array) -> float:
    begin, end = points[chord, :2], points[chord + 1, :2]
    size = float(np.hypot(*(end - begin)))
    share = float(np.hypot(*(at - begin))) / size if size > 0 else 0.0
    return float(chainages[chord] + (chainages[chord + 1] - chainages[chord]) * share)
