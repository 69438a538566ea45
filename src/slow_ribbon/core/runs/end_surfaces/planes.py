"""End surfaces: where the fibres of a piece begin and end.

Most are planes, and are looked at together, as arrays. An end that is shaped to something else, a face
that fits another section, say, is an ``EndSurface`` of its own.

Terms
-----
offset
    how far along travel from a corner the fibre on the line reaches: past the end of its piece
    with a plus, after the beginning of its piece too.
slope
    how a cut leans: the fibre at section point p begins (or ends) slope·p further along
    than the fibre on the line. Sections and slopes are in the line's (right, up) frame.
scribed
    shaped to the face of something that stands there: every fibre stops where it meets that.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import IMMEASURABLE
from slow_ribbon.core.sections.outline.height_profile import Face


@dataclass(frozen=True, kw_only=True)
class Planes:
    """Plane ends of k pieces: unit ``normals`` (k, 3) with a positive part along travel, and ``offsets`` (k,), mm."""

    normals: Array
    offsets: Array

    @classmethod
    def through(cls, normals: Array) -> Planes:
        """Return planes through the corners themselves; normals need not be of unit size."""
        sizes = np.sqrt(np.einsum("ij,ij->i", normals, normals))
        return cls(normals=normals / sizes[:, None], offsets=np.zeros(len(normals)))


class EndSurface(ABC):
    """A surface in which one piece ends where that is no plane. It lies in the straight that the piece ends with.

    Two that are equal are the same shape. The plane that stands beside it in ``Planes`` is the one that is sawn first.
    """

    #: Whether it passes through the end of the line, so that a piece is as long on the line as its leg.
    at_line: ClassVar[bool] = False

    @property
    @abstractmethod
    def words(self) -> str:
        """What the end is called in the cutting list; lengths as figures (``kernel.figures``)."""

    @abstractmethod
    def reach(self, points: Array) -> Array:
        """Return how far along travel from the corner fibres at section points (k, 2) reach, (k,), mm, as an offset is given."""

    def left_open(self, points: Array) -> float:  # most leave none
        """Return how far along it stays open behind an end, mm at most, over fibres at section points (k, 2)."""
        return 0.0

    def bends(self, chord_height: float) -> tuple[Array, Array] | None:  # one that bends everywhere bends so however fine
        """Return a unit (2,) in the piece's frame and how far along it, (h,), the surface bends; None where it bends everywhere.

        Between two of these it is flat, within ``chord_height``, unless it is ``curved``.
        """
        return None

    @cached_property
    def curved(self) -> bool:
        """Whether it is not flat between the places at which it bends."""
        return self.bends(1.0) is None

    def _same(self) -> tuple[object, ...]:
        """Return a key that two of the same shape have in common."""
        return (id(self),)

    @cached_property
    def _identity(self) -> tuple[object, ...]:
        """What is the same, worked out once: ends are compared far more often than they are made."""
        return self._same()

    def __eq__(self, other: object) -> bool:
        return type(self) is type(other) and isinstance(other, EndSurface) and self._identity == other._identity

    def __hash__(self) -> int:
        return hash(self._identity)


class Scribed(EndSurface):
    """An end shaped to the face of something else, which is the same all along a direction square to ``along``.

    The face is given at heights h, F(h) far across; a fibre's height there is along·p, its place across·p on the line, and a millimetre
    along travel takes it ``toward`` mm across: the fibre at p reaches the face at (F(along·p) − across·p)/toward (docs/geometry.md,
    section 6, where along is up). ``past``: this much further along travel it is cut. ``name``: what such an end is called.
    """

    def __init__(self, face: Face, across: Array, along: Array, toward: float, past: float = 0.0, name: str = "scribed") -> None:
        self.face, self.across, self.along, self.toward, self.past, self.name = face, across, along, toward, past, name

    @property
    def words(self) -> str:
        return undercut_words(self.name, self.across, self.along, self.toward)

    def reach(self, points: Array) -> Array:
        return np.asarray((self.face.across(points @ self.along) - points @ self.across) / self.toward + self.past)

    def left_open(self, points: Array) -> float:
        low, high, deep = self.face.hollows.T
        heights = points @ self.along
        over = (low < heights.max() - IMMEASURABLE) & (high > heights.min() + IMMEASURABLE)
        return float(deep[over].max(initial=0.0)) / abs(self.toward)

    def bends(self, chord_height: float) -> tuple[Array, Array]:
        size = float(np.linalg.norm(self.along))
        return self.along / size, self.face.bends(chord_height) / size

    def _same(self) -> tuple[object, ...]:
        figures = np.concatenate([self.across, self.along, [self.toward, self.past]]).round(9) + 0.0
        return (self.face.same, *figures.tolist(), self.name)


def undercut_words(name: str, across: Array, along: Array, toward: float) -> str:
    """Return the name of an end scribed to what it meets, by ``across``, ``along`` and ``toward`` (``Scribed``).

    How far it leans from square to the piece's face, degrees, is given: zero where it stands square before what it is shaped to.
    """
    sideways = across @ np.array([along[1], -along[0]]) / float(np.linalg.norm(along))
    undercut = abs(math.degrees(math.atan(float(sideways) / toward)))
    return f"{name}, undercut {undercut:.1f}°" if undercut > 0.05 else name


class Nosed(EndSurface):
    """An end whose edges are rounded to a ``radius``: those at the least and the greatest of ``way``·p, a unit (2,), or one of them.

    ``low`` and ``high`` (mm along ``way``) are where the section ends, nothing for an edge that stays as it is. The rest of the end is
    square, ``past`` mm along travel; ``sense`` is 1 at the end of a piece, −1 at its beginning.
    """

    def __init__(self, way: Array, low: float | None, high: float | None, radius: float, past: float, sense: float) -> None:
        self.way, self.low, self.high, self.radius, self.past, self.sense = way, low, high, radius, past, sense

    @property
    def words(self) -> str:
        return f"rounded, radius {figure(self.radius)}"

    def reach(self, points: Array) -> Array:
        at = points @ self.way
        into = np.zeros(len(points))
        if self.low is not None:
            into = np.maximum(into, self.low + self.radius - at)
        if self.high is not None:
            into = np.maximum(into, at - self.high + self.radius)
        into = np.clip(into, 0.0, self.radius)
        return self.past - self.sense * (self.radius - np.sqrt((self.radius - into) * (self.radius + into)))

    def bends(self, chord_height: float) -> tuple[Array, Array]:
        # Sagitta of a chord on the round: R(1 − cos(φ/2)).
        step = 2 * math.acos(max(0.0, 1 - min(1.0, chord_height / self.radius)))
        into = self.radius * np.sin(np.linspace(0, math.pi / 2, 1 + max(2, math.ceil(math.pi / 2 / step))))
        sides = ([] if self.low is None else [self.low + self.radius - into]) + (
            [] if self.high is None else [self.high - self.radius + into]
        )
        return self.way, np.unique(np.concatenate(sides))

    def _same(self) -> tuple[object, ...]:
        places = tuple(None if one is None else round(one, 9) for one in (self.low, self.high))
        return (*(self.way.round(9) + 0.0).tolist(), *places, self.radius, round(self.past, 9), self.sense)


def slopes_of(rights: Array, ups: Array, tangents: Array, normals: Array) -> Array:
    """Return (k, 2) slopes: the fibre at p meets the plane at slope·p = −(p·m)/(t·m) along travel (docs/geometry.md, section 4)."""
    leaning = normals / np.einsum("ij,ij->i", normals, tangents)[:, None]
    found = -np.stack([np.einsum("ij,ij->i", rights, leaning), np.einsum("ij,ij->i", ups, leaning)], axis=1)
    # A square cut leans nowhere, not by the last bit.
    return np.asarray(np.where(np.abs(found) > 1e-15, found, 0.0))
