"""Bend tables, as a bender works: length, turn of the plane, side, angle, radius, part after part.

Terms
-----
bend
    a part of a piece between straights: an arc, or a stretch of a curve that bends to one side.
side
    the way a bend goes as the piece lies on the saw and one looks along travel: left, right, up,
    down, or between them.
turn of the plane
    how far, anticlockwise as one looks along travel, the plane of a bend is turned against that
    of the bend before; 180° for a bend to the other side in the same plane.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

import numpy as np

from slow_ribbon.core.geometry.curves import Curve
from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.tolerances import NO_LENGTH, SAME_PLACE, SAME_SHARE

#: Directions nearer to left, right, up or down than this, degrees, are reported as such.
_SQUARE: Final = 0.05


@dataclass(frozen=True)
class Bend:
    """A part of a piece: a straight, or what it is bent to.

    ``length`` on the line, mm. ``radius`` where it is an arc, mm; ``turn`` in degrees. ``toward``:
    the way it bends where it begins, degrees anticlockwise from the right as the piece lies on
    the saw and one looks along travel; ``plane``: the turn of its plane against the bend before.
    """

    kind: str
    length: float
    radius: float | None = None
    turn: float = 0.0
    toward: float | None = None
    plane: float | None = None

    @property
    def side(self) -> str:
        """Return the way the part bends in words; empty for a straight."""
        return "" if self.toward is None else side_words(self.toward)


def side_words(toward: float) -> str:
    """Return the way that a part bends, in degrees anticlockwise from the right, in words.

    >>> side_words(180), side_words(90), side_words(150)
    ('toward the left', 'upward', 'toward the left, its plane 30.0° up')
    """
    angle = toward % 360
    for middle, word in ((0, "toward the right"), (90, "upward"), (180, "toward the left"), (270, "downward"), (360, "toward the right")):
        if abs(angle - middle) < _SQUARE:
            return word
    across = "right" if angle < 90 or angle > 270 else "left"
    upward = "up" if angle < 180 else "down"
    lean = math.degrees(math.asin(abs(math.sin(math.radians(angle)))))
    return f"toward the {across}, its plane {lean:.1f}° {upward}"


@kept_with
def _bends_by_up(_: Path) -> dict[tuple[float, float], tuple[Bend, ...]]:
    return {}


def bends_of_path(path: Path, up: Array) -> tuple[Bend, ...]:
    """Return the parts of a piece that bends, in order of travel; None where it is straight.

    ``up`` (2,) is out of the saw table, in the frame of the line.
    """
    known, key = _bends_by_up(path), (float(up[0]), float(up[1]))
    found = known.get(key)
    if found is None:
        found = _bends_of_path(path, up)
        # A section lies on the saw in a few ways; one that is rolled by a hand on a slider in ever new ones.
        if len(known) > 8:
            known.clear()
        known[key] = found
    return found


def _bends_of_path(path: Path, up: Array) -> tuple[Bend, ...]:
    left = np.array([-up[1], up[0]])
    found: list[Bend] = []
    last: Array | None = None
    at = 0.0
    for low, high, span in path.ranges():
        size = high - low
        for begin, end in _one_sided(span, low, high):
            places = at + (begin - low) + (end - begin) * np.array([1e-6, 0.5, 1 - 1e-6])
            # Sideways and upward on the table: to the right, and out of it.
            ways = path.at(places).bends @ np.stack([-left, up], axis=1)
            if span.straight or np.hypot(*ways[1]) * (end - begin) < NO_LENGTH:
                found.append(Bend("straight", end - begin))
                continue
            plane = None if last is None else _turn(last, ways[0])
            toward = math.degrees(math.atan2(ways[0][1], ways[0][0])) % 360
            turn = math.degrees(span.turned(begin, end))
            found.append(
                Bend(kind=span.kind, length=end - begin, radius=span.radius_of_arc, turn=turn, toward=round(toward, 6) % 360, plane=plane)
            )
            last = ways[2]
        at += size
    return tuple(found) if any(bend.toward is not None for bend in found) else ()


def _turn(before: Array, after: Array) -> float:
    angle = math.degrees(math.atan2(float(before[0] * after[1] - before[1] * after[0]), float(before @ after)))
    # Seen along travel right is to the right and up is up, so anticlockwise is from right to up.
    angle = round(angle, 6) + 0.0
    return 180.0 if angle == -180.0 else angle


def _one_sided(span: Curve, low: float, high: float) -> list[tuple[float, float]]:
    """Return the parts of a span, by distances along it, on each of which it bends to one side only."""
    if span.one_sided:
        return [(low, high)]
    places = np.linspace(low, high, 257)
    curvatures = span.at(places)[2]
    sizes = np.linalg.norm(curvatures, axis=1)
    strong = sizes > SAME_SHARE * max(1e-12, float(sizes.max(initial=0.0)))
    bounds = [low]
    before = None
    for i in np.flatnonzero(strong).tolist():
        if before is not None and float(curvatures[before] @ curvatures[i]) < 0:
            bounds.append(_inflection(span, float(places[before]), float(places[i]), curvatures[before]))
        before = i
    bounds.append(high)
    return [(a, b) for a, b in pairwise(bounds) if b - a > SAME_PLACE]


def _inflection(span: Curve, low: float, high: float, side: Array) -> float:
    """Return where between two distances a span stops bending to a side."""
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if float(span.at(np.array([middle]))[2][0] @ side) > 0 else (low, middle)
    return (low + high) / 2
