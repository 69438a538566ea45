"""How a typical is carried to its places, and where places lie that are laid out in a grid or along a line."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.tolerances import FLAT, ROUNDING
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import place
from slow_ribbon.core.lines.model import Line, leg_begins
from slow_ribbon.core.lines.transform import Motion
from slow_ribbon.core.lines.typicals.typical import (
    MOST_PLACES,
    AnyLaid,
    Grid,
    PlaceBody,
    TypicalBody,
)


@dataclass(frozen=True)
class Carriage:
    """How a typical is carried to a place: points x (k, 3) go to ``x @ matrix.T + shift``, mm. ``over`` where it mirrors."""

    matrix: Array
    shift: Array
    over: bool

    def points(self, points: Array) -> Array:
        """Return places carried over, (k, 3) or (3,)."""
        return points @ self.matrix.T + self.shift

    def back(self, points: Array) -> Array:
        """Return where places carried over came from."""
        return (points - self.shift) @ self.matrix

    @property
    def turn(self) -> float:
        """How far it is turned about the upright axis after it was mirrored, radians anticlockwise."""
        x, y = self.matrix[:2, 1]
        return math.atan2(-x, y) + 0.0

    def turned(self, headings: Array, tilts: Array) -> tuple[Array, Array]:
        """Return headings (n,) and tilts (n, 2) carried over; where it mirrors those of images, which are mirrored in x first.

        A tilt is an axis of rotation: in a mirror what of it lies in the mirror's plane changes its sign.
        """
        way = -1.0 if self.over else 1.0
        cosine, sine = math.cos(self.turn), math.sin(self.turn)
        x, y = tilts[:, 0], way * tilts[:, 1]
        return self.turn + way * headings, np.column_stack([cosine * x - sine * y, sine * x + cosine * y])

    def motion(self) -> Motion:
        """Return it as lines are moved by."""
        return Motion(
            lambda point: place(self.points(np.asarray(point, dtype=float))),
            lambda way: place(self.matrix @ np.asarray(way, dtype=float)),
            self.over,
        )


def carriage(typical: TypicalBody, to: PlaceBody) -> Carriage:
    """Return how a typical is carried to a place."""
    matrix = _mirrored_turn(to.turn + 2 * typical.heading) if to.mirrored else _turned(to.turn)
    return Carriage(matrix, np.asarray(to.at) - matrix @ np.asarray(typical.base), to.mirrored)


@lru_cache(maxsize=4096)
def _turned(degrees: float) -> Array:
    angle = math.radians(degrees)
    # Quarter turns leave what is square exactly square.
    cosine, sine = (round(value) + 0.0 if abs(value - round(value)) < ROUNDING else value for value in (math.cos(angle), math.sin(angle)))
    return np.array([[cosine, -sine, 0.0], [sine, cosine, 0.0], [0.0, 0.0, 1.0]])


@lru_cache(maxsize=4096)
def _mirrored_turn(degrees: float) -> Array:
    """Return the matrix that mirrors in x and then turns; about a heading h, with R(h) X R(-h) = R(2h) X."""
    return _turned(degrees) @ np.diag([-1.0, 1.0, 1.0])


HERE: Final = Carriage(np.eye(3), np.zeros(3), False)


def heading_of(lines: Sequence[Line]) -> float:
    """Return the direction on plan in which some lines are drawn, degrees: that of the first leg that goes anywhere on plan; else 0."""
    for line in lines:
        for begin, leg in zip(leg_begins(line), line.legs, strict=True):
            x, y = leg.to[0] - begin[0], leg.to[1] - begin[1]
            if math.hypot(x, y) > WELD:
                return math.degrees(math.atan2(y, x))
    return 0.0


def laid_out(laid: AnyLaid, base: Point3, heading: float, along: Line | None = None) -> list[tuple[Point3, float]]:
    """Return where the base point of a typical stands in each place of a grid or along a line, and its turn there, degrees.

    Raises ``Refused`` where a line is too short for them, or upright where one is to stand.
    """
    count = laid.place_count
    if count > MOST_PLACES:
        raise Refused(f"That would be {count:,} places; {MOST_PLACES:,} is the most.", "laid", "too-many")
    if isinstance(laid, Grid):
        steps = [np.arange(count) * step for count, step in zip(laid.counts, laid.centres, strict=True)]
        for axis, count, step in zip("xyz", laid.counts, laid.centres, strict=True):
            if count > 1 and step == 0:
                raise Refused(f"{count} places along {axis} need centres other than 0.", f"laid.centres.{'xyz'.index(axis)}", "no-centres")
        z, y, x = (grid.ravel() for grid in np.meshgrid(*reversed(steps), indexing="ij"))
        points = np.column_stack([x, y, z]) + np.asarray(base)
        return [(place(point), 0.0) for point in points[1:]]
    assert along is not None
    course = course_of(along)
    chainages = laid.first + laid.centres * np.arange(laid.count)
    if not along.closed and chainages[-1] > course.length + ROUNDING:
        fit = int((course.length - laid.first) // laid.centres) + 1 if laid.first <= course.length else 0
        what = f"{along.name} has room for {fit} of the {laid.count} places: use fewer, or closer centres."
        raise Refused(what, "laid.count", "no-room")
    if along.closed and chainages[-1] - laid.first >= course.length:
        what = f"{along.name} goes round once in {laid.count} places at these centres: use fewer, or closer centres."
        raise Refused(what, "laid.count", "no-room")
    inside = np.asarray(chainages % course.length if along.closed else np.minimum(chainages, course.length), dtype=float)
    stations = course.at(inside)
    flat = np.hypot(stations.tangents[:, 0], stations.tangents[:, 1])
    if (flat < FLAT).any():
        raise Refused(f"{along.name} is upright where a place would be: on plan it has no direction there.", "laid.line", "upright")
    turns = np.degrees(np.arctan2(stations.tangents[:, 1], stations.tangents[:, 0])) + laid.turn - heading
    turns = (turns + 180) % 360 - 180
    return [(place(point), float(turn)) for point, turn in zip(stations.points, turns, strict=True)]
