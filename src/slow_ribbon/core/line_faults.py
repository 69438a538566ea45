"""What is wrong with a line by itself, each with one action that mends it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final, Literal

import numpy as np
import shapely

from slow_ribbon.core.course import course_of
from slow_ribbon.core.frames import angle
from slow_ribbon.core.leg_apply import NEARLY
from slow_ribbon.core.legs import StraightLeg
from slow_ribbon.core.line import Line
from slow_ribbon.core.line_edits import LineEdit, MakeTangent, RemoveVertex, SetClosed, SplitLine
from slow_ribbon.core.parts import Part, line_parts
from slow_ribbon.core.shape import Array
from slow_ribbon.core.told import figure
from slow_ribbon.core.units import WELD

#: A leg shorter than this, mm, is a slip of the hand or of a drawing.
TINY: Final = 2.0
#: A corner of less than this, degrees, is meant to be straight.
KINK: Final = 1.0
#: Lines of more points than this, brought in contours, are not looked through.
MOST: Final = 4000


@dataclass(frozen=True)
class LineFault:
    """Something wrong with a line: what, where, and the edit that mends it, with its name."""

    kind: Literal["crosses", "nearly-closed", "tiny-leg", "kink"]
    what: str
    chainage: float
    point: tuple[float, float, float]
    action: str
    mend: LineEdit


def line_faults(line: Line) -> list[LineFault]:
    """Return the faults of a line, in order of chainage; the first of each kind at most ten times."""
    if len(line.legs) > MOST:
        return []
    parts = line_parts(line)
    begins = np.concatenate([[0.0], np.cumsum([part.span.length for part in parts])])
    found = [*_tiny(line, parts, begins), *_kinks(line, parts, begins), *_nearly(line), *_crossings(line)]
    return sorted(found, key=lambda fault: fault.chainage)


def _place(values: Array) -> tuple[float, float, float]:
    return float(values[0]), float(values[1]), float(values[2])


def _tiny(line: Line, parts: tuple[Part, ...], begins: Array) -> list[LineFault]:
    found: list[LineFault] = []
    count = len(line.legs)
    for part, at in zip(parts, begins.tolist(), strict=False):
        if part.rounding or part.span.length >= TINY or count <= (3 if line.closed else 1) or len(found) >= 10:
            continue
        # The point between the leg and the next goes; of the last leg of an open line the one before it.
        point = part.leg + 1 if part.leg + 1 < count else 0 if line.closed else part.leg
        what = f"Leg {part.leg + 1} is only {figure(part.span.length, 2)} long."
        place = _place(part.span.at(np.zeros(1))[0][0])
        found.append(LineFault("tiny-leg", what, at, place, "Take it out", RemoveVertex(line=line.id, index=point)))
    return found


def _kinks(line: Line, parts: tuple[Part, ...], begins: Array) -> list[LineFault]:
    found: list[LineFault] = []
    for i in range(0 if line.closed else 1, len(parts)):
        before, after = parts[i - 1], parts[i]
        if before.rounding or after.rounding or len(found) >= 10:
            continue
        end, begin = before.span.at(np.array([before.span.length])), after.span.at(np.zeros(1))
        turn = math.degrees(angle(end[1][0], begin[1][0]))
        if not 0.01 < turn < KINK:
            continue
        what = f"The line kinks by {turn:.2f}° here."
        straight = isinstance(line.legs[before.leg], StraightLeg) and isinstance(line.legs[after.leg], StraightLeg)
        mend: LineEdit = MakeTangent(line=line.id, leg=after.leg)
        action = "Let it run on in line"
        if straight:
            mend, action = RemoveVertex(line=line.id, index=after.leg), "Take the point out"
            if len(line.legs) <= (3 if line.closed else 1):
                continue
        found.append(LineFault("kink", what, float(begins[i]), _place(begin[0][0]), action, mend))
    return found


def _nearly(line: Line) -> list[LineFault]:
    if line.closed or len(line.legs) < 3:
        return []
    gap = math.dist(line.start, line.legs[-1].to)
    length = course_of(line).length
    if gap > min(NEARLY, length / 10):
        return []
    what = f"The line ends {figure(gap, 2)} from its start without being closed."
    return [LineFault("nearly-closed", what, length, line.legs[-1].to, "Close it", SetClosed(line=line.id, closed=True))]


def _crossings(line: Line) -> list[LineFault]:
    course = course_of(line)
    chainages, points = course.flattened(1.0)
    kept = np.concatenate([[True], np.diff(chainages) > 1e-9])
    chainages, points = chainages[kept], points[kept]
    if len(points) > MOST or len(points) < 4:
        return []
    path = shapely.LineString(points[:, :2])
    if path.is_simple:
        return []
    chords = shapely.linestrings(np.stack([points[:-1, :2], points[1:, :2]], axis=1))
    first, second = shapely.STRtree(chords).query(chords, predicate="intersects")
    found: list[LineFault] = []
    for i, j in sorted(zip(first.tolist(), second.tolist(), strict=True)):
        around = line.closed and i == 0 and j == len(chords) - 1
        if j <= i + 1 or around or len(found) >= 10:
            continue
        met = shapely.get_coordinates(shapely.intersection(chords[i], chords[j]))
        if not len(met):
            continue
        s, t = (_along(points, chainages, k, met[0]) for k in (i, j))
        # Past one another at different heights, as a spiral stair does, is no crossing.
        heights = course.points_at(np.array([s, t]))[:, 2]
        if abs(float(heights[0] - heights[1])) > 1.0 or abs(s - t) < WELD:
            continue
        # A line that begins or ends on itself touches, and does not cross.
        if not line.closed and (s < WELD * 10 or t > course.length - WELD * 10):
            continue
        what = f"The line crosses itself, at {figure(s)} and again at {figure(t)}."
        split = SplitLine(line=line.id, at=s if s > WELD else t)
        found.append(LineFault("crosses", what, s, _place(course.points_at(np.array([s]))[0]), "Split it there", split))
    return found


def _along(points: Array, chainages: Array, chord: int, at: Array) -> float:
    begin, end = points[chord, :2], points[chord + 1, :2]
    size = float(np.hypot(*(end - begin)))
    share = float(np.hypot(*(at - begin))) / size if size > 0 else 0.0
    return float(chainages[chord] + (chainages[chord + 1] - chainages[chord]) * share)
