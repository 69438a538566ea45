"""What every way of making the curves of a run does.

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

Sources: lengths are those of fibres of the bent piece, by quadrature.
"""

from __future__ import annotations

from abc import ABC
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar, Final, Protocol

import numpy as np

from slow_ribbon.core.geometry.curves import Curve
from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Model
from slow_ribbon.core.kernel.tolerances import FLAT
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.sections.outline.profile import Shape

#: No curve is made of more facets, and no piece sawn from more boards.
MOST_FACETS: Final = 500


class LyingSection(Protocol):
    """A section as it lies on a piece, in the frame of its line."""

    @property
    def shape(self) -> Shape: ...
    def points(self, points: Array) -> Array:
        """Return points (k, 2) of the section as it is drawn where they lie in the frame."""

    def furthest(self, directions: Array) -> Array:
        """Return max p·d over the section as it lies, for directions (k, 2); shape (k,), mm."""


@dataclass(frozen=True)
class CurvedPiece:
    """A piece that bends: its ``path``, its ``section`` as it lies on it, and how long its fibres are from cut to cut.

    ``fibres`` returns the lengths (k,), mm, of those at points (k, 2) of the section as it lies.
    """

    path: Path
    section: LyingSection
    fibres: Callable[[Array], Array]

    @cached_property
    def bending(self) -> Bending | None:
        """How it bends; None where it leaves a plane, or twists."""
        return bending_of(self.path, self.section)


@dataclass(frozen=True)
class CurveFault:
    """What is wrong with a curve that is to be made in a way, and the remedy; ``impossible``: it cannot be made so at all."""

    impossible: bool
    what: str
    remedy: str


class Curved(Model, ABC):
    """How the curves of a run are made: in pieces that bend as their line does, unless it says otherwise."""

    #: What it needs and is not said where it takes the place of another.
    usual: ClassVar[dict[str, float]] = {}
    #: Whether curves are made of straight facets, whose corners are mitred.
    in_facets: ClassVar[bool] = False
    #: Whether it parts a curve in pieces itself, so that its pieces depend on the section, and a ring begins at a curve also if jointed.
    parts_curves: ClassVar[bool] = False

    kind: str

    def course_of(self, course: Course) -> Course:
        """Return the course whose pieces make a course's curves. Raises ``Refused`` where they cannot be."""
        return course

    def strays(self, course: Course) -> float | None:
        """Return how far the pieces are off the curves of a course, mm at most; None where they follow them."""
        return None

    def parts(self, course: Course, section: LyingSection) -> list[float]:
        """Return the chainages at which pieces of curves meet. Raises ``Refused`` where there are no such pieces."""
        return []

    def fabrication(self, piece: CurvedPiece) -> Curvature | None:
        """Return the leaves, kerfs or boards that a piece is made of; None where it is bent as it is."""
        return None

    def fault(self, piece: CurvedPiece) -> CurveFault | None:
        """Return what is wrong with a piece that is to be made so; None where nothing is."""
        return None


@dataclass(frozen=True)
class Bending:
    """How a piece bends, in one plane: ``inward`` (2,) the unit toward the middle of its first bend, in the frame of its line.

    ``inside`` and ``outside``: how far the section reaches from the line that way and the other, mm. ``bends``: of each bend the
    radius at the line where it is least, mm, its angle in radians, its length on the line and whether it goes to ``inward``.
    """

    inward: Array
    inside: float
    outside: float
    bends: tuple[tuple[float, float, float, bool], ...]

    @property
    def thickness(self) -> float:
        return self.inside + self.outside

    @property
    def form(self) -> float:
        """The radius of the form, mm: that of the piece where it bends most, on the inside of that bend."""
        return min(radius - (self.inside if toward else self.outside) for radius, _, _, toward in self.bends)


def bending_of(path: Path, section: LyingSection) -> Bending | None:
    """Return how a piece bends; None where it leaves a plane, or twists."""
    inward: Array | None = None
    found: list[tuple[float, float, float, bool]] = []
    at = 0.0
    for low, high, span in path.ranges():
        size = high - low
        places = at + size * np.concatenate([[1e-6], np.linspace(0, 1, 17)[1:-1], [1 - 1e-6]])
        here = path.at(places)
        at += size
        if np.abs(here.twists).max() * size > FLAT:
            return None
        bends = here.bends
        sizes = np.hypot(*bends.T)
        if sizes.max() * size < FLAT:
            continue
        strongest = bends[int(np.argmax(sizes))]
        if inward is None:
            inward = strongest / np.hypot(*strongest)
        if np.abs(bends @ np.array([-inward[1], inward[0]])).max() * size > 1e3 * FLAT:
            return None
        found.append((1 / float(sizes.max()), span.turned(low, high), size, bool(strongest @ inward > 0)))
    if inward is None:
        return None
    inside, outside = section.furthest(np.array([inward, -inward])).tolist()
    return Bending(inward, inside, outside, tuple(found))


@dataclass(frozen=True, kw_only=True)
class Curvature:
    """What a piece that bends is made of, lengths in mm.

    ``leaves``: how long each is, from the inside of its first bend, with what the clamps need; ``leaf``: how thick; ``form``: the
    radius of the form. ``kerfs``: how many saw cuts each bend takes and at what centres on the piece as it lies flat,
    ``depth`` how deep. ``board``: how long and how wide a board the piece is sawn from.
    """

    leaves: tuple[float, ...] = ()
    leaf: float = 0.0
    form: float | None = None
    kerfs: tuple[tuple[int, float], ...] = ()
    depth: float = 0.0
    board: tuple[float, float] | None = None


def marks_on(path: Path, number: Callable[[float, float, Curve], int]) -> list[float]:
    """Return the distances along a path where its curves are divided, each into this many alike, both ends included."""
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
