"""How the curves of a run are made: bent in one piece, of straight facets, laminated, kerfed, or sawn from boards.

Terms
-----
facet
    a straight piece in place of a part of a curve: a chord of the line, mitred to its neighbours.
deviation
    how far the line is from its chord at most: the sagitta, R(1 - cos(φ/2)) on an arc of radius R over an angle φ.
leaf
    a thin board; several, bent together over a form and glued, make a laminated piece.
web
    what a kerf leaves uncut of the thickness, on the outside of the bend.
"""

from __future__ import annotations

import math
from abc import ABC
from collections.abc import Callable
from dataclasses import replace
from itertools import pairwise
from typing import TYPE_CHECKING, Annotated, ClassVar, Final, Literal, Union

import numpy as np
from pydantic import Field, model_validator

from slow_ribbon.core.geometry.curves import Curve
from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.geometry.frames import angle_between, carry, upright
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Distance, Model, Size
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import STRAIGHT, Course

#: No curve is made of more facets, and no piece sawn from more boards.
MOST_FACETS: Final = 500
#: Places on a chord at which the curve's distance from it is looked at.
_LOOKS: Final = 33
#: Leaves bend to this many times their thickness without steam (common practice, no source).
DRY: Final = 100.0


class Curved(Model, ABC):
    """How the curves of a run are made."""

    kind: str
    #: What it needs and is not said where it takes the place of another.
    usual: ClassVar[dict[str, float]] = {}


class Bent(Curved):
    """Bent in one piece. ``least``: no radius of the line may be smaller, mm; 0 where the material says nothing."""

    kind: Literal["bent"] = "bent"
    least: Distance = 0.0


class Faceted(Curved):
    """Of straight pieces: so many a curve (``number``), or as many as keep to a ``deviation``, mm; all facets of a curve alike."""

    usual: ClassVar[dict[str, float]] = {"deviation": 5.0}

    kind: Literal["faceted"] = "faceted"
    number: Annotated[int, Field(ge=1, le=MOST_FACETS)] | None = None
    deviation: Size | None = None

    @model_validator(mode="after")
    def _said(self) -> Faceted:
        if self.number is None and self.deviation is None:
            raise ValueError("say how many facets a curve has, or how far they may be off it")
        return self


class Laminated(Curved):
    """Of leaves no thicker than ``leaf``, mm, glued together over a form; each longer by ``allowance`` at both ends, for the clamps.

    ``ratio``: a leaf bends to so many times its thickness.
    """

    usual: ClassVar[dict[str, float]] = {"leaf": 4.0}

    kind: Literal["laminated"] = "laminated"
    leaf: Annotated[Size, Field(le=100)]
    allowance: Distance = 50.0
    ratio: Annotated[float, Field(ge=1, le=1000)] = DRY


class Kerfed(Curved):
    """Sawn into from the inside, so that it bends till the kerfs close: with a saw so wide (``kerf``), but for a ``web``, mm."""

    usual: ClassVar[dict[str, float]] = {"kerf": 3.2, "web": 3.0}

    kind: Literal["kerfed"] = "kerfed"
    kerf: Annotated[Size, Field(le=50)]
    web: Annotated[Size, Field(le=100)]


class Sawn(Curved):
    """Cut out of boards so wide, mm, as segments that meet square to the line."""

    usual: ClassVar[dict[str, float]] = {"board": 200.0}

    kind: Literal["sawn"] = "sawn"
    board: Annotated[Size, Field(le=10_000)]


CURVES: Final[tuple[type[Curved], ...]] = (Bent, Faceted, Laminated, Kerfed, Sawn)
if TYPE_CHECKING:
    CurvesMade = Curved
else:
    CurvesMade = Annotated[Union[CURVES], Field(discriminator="kind")]  # noqa: UP007  # made of the list


def faceted(course: Course, way: Faceted) -> Course:
    """Return a course whose curves are chords: pieces that bend become straight ones, that begin at the same chainages.

    Raises ``Refused`` where more facets than ``MOST_FACETS`` would be needed.
    """
    if not course.paths:
        return course
    starts, ends, begins, free = list[Array](), list[Array](), list[float](), list[bool]()
    rights: list[Array | None] = []
    for i in range(course.count):
        look_up()
        path = course.paths.get(i)
        marks = [0.0, float(course.lengths[i])] if path is None else _facet_marks(path, way)
        points = np.stack([course.starts[i], course.ends[i]]) if path is None else path.at(np.array(marks)).points
        for number, (low, _) in enumerate(pairwise(marks)):
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
    """Return which way right is along each facet (m, 3), and what carried frames of a closed course are left turned by."""
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


def _facet_marks(path: Path, way: Faceted) -> list[float]:
    """Return the distances along a path where facets meet, both ends included; straights stay as they are."""

    def number(low: float, high: float, curve: Curve) -> int:
        if way.number is not None:
            return way.number
        assert way.deviation is not None
        return fewest(lambda count: deviation(path, np.linspace(low, high, count + 1)) <= (way.deviation or 0.0))

    return marks_on(path, number)


def marks_on(path: Path, number: Callable[[float, float, Curve], int]) -> list[float]:
    """Return the distances along a path where its curves are divided, each into so many alike, both ends included."""
    marks = [0.0]
    at = 0.0
    for low, high, span in path.ranges():
        size = high - low
        count = 1 if span.straight else number(at, at + size, span)
        marks.extend(np.linspace(at, at + size, count + 1)[1:].tolist())
        at += size
    marks[-1] = path.length
    return [mark for k, mark in enumerate(marks) if k == 0 or mark - marks[k - 1] > WELD]


def fewest(enough: Callable[[int], bool]) -> int:
    """Return the smallest number that is enough, where more always are. Raises ``Refused`` above ``MOST_FACETS``."""
    high = 1
    while not enough(high):
        high *= 2
        if high > 2 * MOST_FACETS:
            what = f"A curve would need more than {MOST_FACETS} pieces: allow it to be further off, or take wider boards."
            raise Refused(what, "curves", "too-many-facets")
    low = high // 2
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if enough(middle) else (middle, high)
    if high > MOST_FACETS:
        raise Refused(f"A curve would need {high} pieces; {MOST_FACETS} is the most.", "curves", "too-many-facets")
    return high


def deviation(path: Path, marks: Array) -> float:
    """Return how far a path is from the chords between some distances along it, mm."""
    inside = marks[:-1, None] + np.diff(marks)[:, None] * np.linspace(0, 1, _LOOKS)
    points = path.at(inside.ravel()).points.reshape(*inside.shape, 3)
    begin, chord = points[:, :1], points[:, -1:] - points[:, :1]
    size = np.maximum(np.einsum("ijk,ijk->ij", chord, chord), WELD**2)
    along = np.clip(np.einsum("ijk,ijk->ij", points - begin, np.broadcast_to(chord, points.shape)) / size, 0, 1)
    away = points - begin - along[..., None] * chord
    return float(np.sqrt(np.einsum("ijk,ijk->ij", away, away)).max())


def strays(course: Course, way: Faceted) -> float:
    """Return how far the curves of a course are from their facets, mm."""
    return max((deviation(path, np.array(_facet_marks(path, way))) for path in course.paths.values()), default=0.0)
