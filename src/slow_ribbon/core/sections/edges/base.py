"""What every kind of section edge does: as it is drawn in a document, as geometry, and by its numbers in a sketch.

Adding a kind takes a file beside this one, and its name in ``edges.EDGES``.

Terms
-----
outline edge
    an edge as it stands in a document: where it ends, and the points that shape it; it begins where the one before ends.
edge
    the geometry of one, from its beginning to its end.
numbers
    what a sketch holds of an edge besides its two points: none for a straight, the bulge of an arc, the handles of a curve.
pen
    what edges are drawn with: a drawing, a picture, a path.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar, Protocol, Self

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Model, Point2

Vector = Any
"""A vector (2, ...) of real or complex numbers: conditions of a sketch are differentiated by complex steps."""


class EdgePen(Protocol):
    """What edges are drawn with, one after another from where the last one ended."""

    def straight_to(self, end: Array) -> None: ...
    def arc_along(self, centre: Array, u: Array, v: Array, first: float, last: float) -> None:
        """Draw centre + u·cos φ + v·sin φ, φ from ``first`` to ``last`` (radians, either way round)."""

    def curve_by(self, points: Array) -> None:
        """Draw a Bézier curve of third degree by its four points, (4, 2)."""


@dataclass(frozen=True)
class EdgeColumns:
    """Edges of one kind as arrays: of each its polynomial, or its ellipse (``edge_arrays.Together``).

    ``powers`` (4, n, 2); ``u``, ``v`` (n, 2), ``first`` and ``span`` (n,) of those that go round, None for the others.
    """

    powers: Array
    round: tuple[Array, Array, Array, Array] | None = None


class Edge(ABC):
    """An edge of a loop, from ``begin`` to ``end``, (2,) each."""

    kind: ClassVar[str]
    straight: ClassVar[bool] = False
    #: Whether it may be carried on past its ends.
    extends: ClassVar[bool] = True

    if TYPE_CHECKING:
        # A field of one kind, computed of another.
        @property
        def begin(self) -> Array: ...
        @property
        def end(self) -> Array: ...

    @property
    @abstractmethod
    def handles(self) -> Array:
        """The four points (4, 2) of the curve of third degree that leaves, and arrives, as the edge does."""

    @abstractmethod
    def at_shares(self, shares: Array) -> Array:
        """Return the points (n, 2) at shares of the edge from 0 to 1."""

    @abstractmethod
    def furthest(self, directions: Array) -> Array:
        """Return max p·d over the edge for directions (k, 2); shape (k,). A straight answers for its end alone."""

    @abstractmethod
    def mapped(self, matrix: Array, shift: Array) -> Edge:
        """Return the edge under p → matrix·p + shift."""

    @abstractmethod
    def reversed(self) -> Edge:
        """Return the edge gone the other way."""

    @abstractmethod
    def part(self, first: float, last: float) -> Edge:
        """Return the part between two shares, the other way where the first is the greater; past its ends where it ``extends``."""

    @abstractmethod
    def outline_edges(self, to: Point2) -> list[OutlineEdgeModel]:
        """Return the edge as it stands in an outline, ending at a place that is its end but for rounding."""

    @abstractmethod
    def numbers(self) -> tuple[float, ...]:
        """Return the numbers of the edge in a sketch."""

    @abstractmethod
    def draw(self, pen: EdgePen) -> None:
        """Draw the edge with a pen that is where it begins."""

    @abstractmethod
    def beside(self, away: float, deviation: float) -> Sequence[Edge]:
        """Return the offset of the edge, ``away`` mm to its left, true to a deviation, mm. Raises ``TooTight`` where it bends too much."""

    @staticmethod
    @abstractmethod
    def columns(edges: Sequence[Any]) -> EdgeColumns:
        """Return edges of this kind as arrays."""

    def circle(self) -> tuple[Array, float] | None:
        """Return the centre (2,) and radius, mm, of the circle that the edge is an arc of; None where it is not one."""
        return None

    def sketchable(self) -> Sequence[Edge]:
        """Return the edges that stand for this one in a sketch: itself, but for parts of ellipses."""
        return (self,)

    def features(self) -> Sequence[Array]:
        """Return the points (2,) of the edge, but for its ends, that any symmetry takes to such points."""
        return ()

    def continues(self, before: Edge) -> bool:
        """Return whether the edge only goes on along the same straight, circle or ellipse as one before."""
        return False


Loop = tuple[Edge, ...]


class TooTight(ValueError):
    """An edge that bends to a radius, mm, at a place (2,), too tight for its offset."""

    def __init__(self, at: Array, radius: float) -> None:
        super().__init__(f"a bend of radius {radius:g} at {at}")
        self.at = at
        self.radius = radius


class OutlineEdgeModel(Model, ABC):
    """An edge of an outline in a document, from where the one before it ends."""

    #: As the geometry's.
    straight: ClassVar[bool] = False
    #: Whether it has a radius.
    round: ClassVar[bool] = False
    #: How many numbers a sketch holds of it, and by how many points it is shaped.
    number_count: ClassVar[int] = 0
    shape_count: ClassVar[int] = 0

    kind: Any
    to: Point2

    def shape_points(self) -> tuple[Point2, ...]:
        """Return the points that shape it: where an arc passes, the ends of a curve's handles."""
        return ()

    def moved(self, move: Callable[[Point2], Point2]) -> Self:
        """Return the edge with all its points moved."""
        return self.model_copy(update={"to": move(self.to)})

    @abstractmethod
    def edge(self, begin: Point2) -> Edge:
        """Return the geometry of the edge from where it begins."""

    def flaw(self, begin: Point2) -> Point2 | None:
        """Return the place of what makes the edge no edge of its kind; None where nothing does."""
        return None

    @classmethod
    def numbers_through(cls, begin: Point2, to: Point2, shape: Sequence[Sequence[float]]) -> tuple[float, ...]:
        """Return a sketch's numbers of the edge of this kind between two points that is shaped by others."""
        return ()

    def numbers(self, begin: Point2) -> tuple[float, ...]:
        """Return the numbers of the edge in a sketch."""
        return self.numbers_through(begin, self.to, self.shape_points())

    @classmethod
    @abstractmethod
    def by_numbers(cls, begin: Point2, to: Point2, numbers: Sequence[float]) -> OutlineEdgeModel:
        """Return the edge between two points that has these numbers in a sketch."""

    @classmethod
    def scaled_numbers(cls, numbers: Array, times: Array) -> Array:
        """Return the numbers of the edge where the sketch becomes wider and higher, (2,) times each."""
        return numbers

    @classmethod
    def direction(cls, numbers: Array, sense: int) -> Callable[[Vector], Vector]:
        """Return the direction of the edge at its begin (−1) or end (1), of its ends' four coordinates and its numbers.

        ``numbers`` are those that it has now.
        """
        return lambda x: x[2:4] - x[:2]

    @classmethod
    def mirror_pairs(cls, across: int, along: int) -> Sequence[tuple[int, int, int]]:
        """Return what makes an edge the mirror image of another, gone the other way.

        Triples: a number of the one, a number of the other, and 1 where they are equal, −1 where opposite.
        """
        return ()


def as_point(point: Array) -> Point2:
    """Return a point (2,) as it stands in a document."""
    return float(point[0]), float(point[1])


def cubic_through(points: Array, rates: Array) -> Array:
    """Return the four points (4, 2) of the curve of third degree between two points with the rates, by its share, there (Hermite)."""
    return np.array([points[0], points[0] + rates[0] / 3, points[1] - rates[1] / 3, points[1]])
