"""Curves made of facets: the course of straight pieces that takes the place of one that bends.

Terms
-----
touch
    a place where a facet that is *fitted* lies along the line's tangent: both ends of a curve, and between them where it has turned by
    equal angles.
corner
    where two facets meet: a point of the line, or, of fitted ones, where the tangents of two touches cross. A polygon about an arc of
    radius R that turns by φ at each of its corners is R(1/cos(φ/2) − 1) off it at these.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from itertools import pairwise
from typing import Final, Literal

import numpy as np

from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.geometry.frames import angle_between, carry, upright
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import FLAT, NO_LEAN, NO_LENGTH, TINIEST
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import STRAIGHT
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.runs.treatments.curves.base import fewest, marks_on

#: Places on a chord at which the curve's distance from it is looked at.
_LOOKS: Final = 33
#: Places on a curve at which it is looked at how far it has turned.
_TURNS: Final = 721
#: No corner of fitted facets turns by more than this, degrees: their tangents would cross far from the line.
_MOST_TURN: Final = 120.0


@dataclass(frozen=True)
class Facets:
    """How many facets a curve has (``number``), or how far they may be off it (``deviation``, mm), and how they lie (``Faceted``)."""

    number: int | None
    deviation: float | None
    fit: Literal["equal", "fitted"]


def faceted(course: Course, way: Facets) -> Course:
    """Return a course whose curves are chords: pieces that bend become straight ones, that begin at the same chainages.

    Raises ``Refused`` as ``facets_of``.
    """
    if not course.paths:
        return course
    starts, ends, begins, free = list[Array](), list[Array](), list[float](), list[bool]()
    rights: list[Array | None] = []
    for i in range(course.count):
        look_up()
        path = course.paths.get(i)
        if path is None:
            marks, points = np.array([0.0, course.lengths[i]]), np.stack([course.starts[i], course.ends[i]])
        else:
            marks, points = facets_of(path, way, course.smooth)
            if course.smooth and len(marks) < 4:
                raise Refused(f"{len(marks) - 1} facets do not go round: give a curve at least 3.", "curves", "few-facets")
        for number, (low, _) in enumerate(pairwise(marks.tolist())):
            starts.append(points[number])
            ends.append(points[number + 1])
            begins.append(float(course.begins[i]) + low)
            free.append(bool(course.free[i]) and number == 0)
            # The frame that the line has there is where carried ones set out from.
            rights.append(course.rights[i] if number == 0 else None)
    order = np.argsort(np.mod(begins, course.length), kind="stable") if course.closed else np.arange(len(begins))
    spans = np.array(ends)[order] - np.array(starts)[order]
    lengths = np.linalg.norm(spans, axis=1)
    tangents = spans / lengths[:, None]
    free_at = np.array(free)[order]
    turns = angle_between(np.roll(tangents, 1, axis=0), tangents)
    turns[(turns <= STRAIGHT) | free_at] = 0.0
    begin_at = np.array(begins)[order]
    begin_at = np.mod(begin_at, course.length) if course.closed else begin_at
    own = [rights[k] for k in order.tolist()]
    frames, leftover = _frames(course, tangents, free_at, own)
    ups = np.cross(frames, tangents)
    return replace(
        course, starts=np.array(starts)[order], ends=np.array(ends)[order], tangents=tangents, rights=frames, ups=ups,
        tangents_end=tangents, rights_end=frames, ups_end=ups, lengths=lengths, begins=begin_at, turns=turns,
        free=free_at, leftover=leftover, paths={},
    )  # fmt: skip


def _frames(course: Course, tangents: Array, free: Array, own: list[Array | None]) -> tuple[Array, float]:
    """Return the right of each facet (m, 3), and the angle by which carried frames of a closed course are left turned."""
    if course.rule == "upright":
        return upright(tangents)[0], 0.0
    rights = np.empty_like(tangents)
    at = 0
    # Round a closed course from where it is free, if anywhere.
    begin = int(np.argmax(free)) if free.any() else 0
    for step in range(len(tangents)):
        at = (begin + step) % len(tangents)
        right = own[at]
        if step == 0 or free[at]:
            right = right if right is not None else upright(tangents[at : at + 1])[0][0]
            right = right - tangents[at] * float(right @ tangents[at])
            rights[at] = right / np.linalg.norm(right)
        else:
            rights[at] = carry(rights[at - 1], tangents[at - 1], tangents[at])
    if not course.closed or free.any():
        return rights, 0.0
    home = carry(rights[at], tangents[at], tangents[begin])
    return rights, math.atan2(float(np.cross(rights[begin], home) @ tangents[begin]), float(rights[begin] @ home))


def facets_of(path: Path, way: Facets, ring: bool = False) -> tuple[Array, Array]:
    """Return the corners of the facets of a path, (k, 3), both ends included, and how far along it they come, (k,).

    A ``ring`` that is fitted begins and ends at a corner. Raises ``Refused`` where more facets than ``MOST_FACETS`` would be needed, or
    where facets cannot be fitted to a curve.
    """
    if way.fit == "equal":
        marks = np.array(marks_on(path, lambda low, high, _: _how_many(way, lambda n: deviation(path, np.linspace(low, high, n + 1)))))
        return marks, path.at(marks).points
    found = [(np.zeros(1), path.at(np.zeros(1)).points)]
    at = 0.0
    for low, high, span in path.ranges():
        size = high - low
        if not span.straight:
            turned = _turned(path, at, at + size)
            found.append(_fitted(path, turned, _how_many(way, partial(_off, path, turned))))
        at += size
    if ring:
        marks, points = (np.concatenate([one[k] for one in found[1:]]) for k in (0, 1))
        return np.append(marks, marks[0] + path.length), np.vstack([points, points[:1]])
    found.append((np.array([path.length]), path.at(np.array([path.length])).points))
    marks, points = (np.concatenate([one[k] for one in found]) for k in (0, 1))
    return marks, points


def _how_many(way: Facets, off: Callable[[int], float]) -> int:
    """Return how many facets a curve is made of: as many as are said, or as keep it to the deviation."""
    if way.number is not None:
        return way.number
    return fewest(lambda count: off(count) <= (way.deviation or 0.0))


def _turned(path: Path, low: float, high: float) -> tuple[Array, Array]:
    """Return distances along a curve, (n,), and by how much it has turned at each, (n,), radians. Raises ``Refused`` where it is no bow."""
    at = np.linspace(low, high, _TURNS)
    # Just inside: at its ends a path may turn into the next curve.
    at[0], at[-1] = low + NO_LENGTH, high - NO_LENGTH
    tangents = path.at(at).tangents
    axes = np.cross(tangents[:-1], tangents[1:])
    main = axes.sum(axis=0)
    size = float(np.linalg.norm(main))
    turns = axes @ main / max(size, TINIEST)
    flat = size > 0 and float(np.abs(tangents @ main).max()) < FLAT * size and float(turns.min()) > -NO_LEAN
    if not flat:
        what = "Facets are fitted only to a curve that bends one way in a plane: use equal facets, or split it where it turns back."
        raise Refused(what, "curves", "unfitted")
    return at, np.concatenate([[0.0], np.cumsum(np.arcsin(np.clip(turns, -1, 1)))])


def _fitted(path: Path, turned: tuple[Array, Array], count: int) -> tuple[Array, Array]:
    """Return the corners of fitted facets of a curve with this many corners, (count, 3), and how far along the path they come, (count,)."""
    at, turns = turned
    if math.degrees(float(turns[-1]) / count) > _MOST_TURN:
        what = f"{count} corners are too few for a curve that turns by {math.degrees(float(turns[-1])):.0f}°: use more."
        raise Refused(what, "curves", "unfitted")
    touches = np.interp(np.linspace(0, float(turns[-1]), count + 1), turns, at)
    here = path.at(touches)
    points, tangents = here.points, here.tangents
    # From one touch along its tangent to where it crosses that of the next.
    away = points[1:] - points[:-1]
    cosines = np.einsum("ij,ij->i", tangents[:-1], tangents[1:])
    reach = (np.einsum("ij,ij->i", away, tangents[:-1]) - cosines * np.einsum("ij,ij->i", away, tangents[1:])) / (1 - cosines**2)
    return (touches[:-1] + touches[1:]) / 2, points[:-1] + reach[:, None] * tangents[:-1]


def _off(path: Path, turned: tuple[Array, Array], count: int) -> float:
    """Return how far the corners of this many fitted facets of a curve are from it, mm; without bound where there are too few."""
    if math.degrees(float(turned[1][-1]) / count) > _MOST_TURN:
        return math.inf
    marks, corners = _fitted(path, turned, count)
    return _from_corners(path, marks, corners)


def _from_corners(path: Path, marks: Array, corners: Array) -> float:
    """Return how far corners (k, 3) are from a path that comes nearest to them about distances (k,), mm."""
    for _ in range(20):
        here = path.at(marks)
        # A step toward where the way to the corner stands square to the path.
        step = np.einsum("ij,ij->i", corners - here.points, here.tangents)
        marks = marks + step
        if float(np.abs(step).max(initial=0.0)) < NO_LENGTH:
            break
    ways = corners - path.at(marks).points
    return float(np.sqrt(np.einsum("ij,ij->i", ways, ways)).max(initial=0.0))


def deviation(path: Path, marks: Array) -> float:
    """Return how far a path is from the chords between some distances along it, mm."""
    inside = marks[:-1, None] + np.diff(marks)[:, None] * np.linspace(0, 1, _LOOKS)
    points = path.at(inside.ravel()).points.reshape(*inside.shape, 3)
    begin, chord = points[:, :1], points[:, -1:] - points[:, :1]
    size = np.maximum(np.einsum("ijk,ijk->ij", chord, chord), WELD**2)
    along = np.clip(np.einsum("ijk,ijk->ij", points - begin, np.broadcast_to(chord, points.shape)) / size, 0, 1)
    away = points - begin - along[..., None] * chord
    return float(np.sqrt(np.einsum("ijk,ijk->ij", away, away)).max())


def strays(course: Course, way: Facets) -> float:
    """Return how far the curves of a course are from their facets, mm."""
    return max((_strays(path, way) for path in course.paths.values()), default=0.0)


def _strays(path: Path, way: Facets) -> float:
    marks, points = facets_of(path, way)
    # Fitted ones touch the line, and are furthest from it at their corners.
    return deviation(path, marks) if way.fit == "equal" else _from_corners(path, marks[1:-1], points[1:-1])
