"""What must be zero of an outline's numbers for a constraint to hold, and what constraints are written with."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Final, Protocol

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Index
from slow_ribbon.core.kernel.tolerances import TINIEST

OutlinePlace = tuple[Index, Index]
Vector = Any
"""A vector (2, ...) of real or complex numbers: conditions are differentiated by complex steps."""

#: Step of the derivatives; by complex numbers they lose no digits however small it is.
_NUDGE: Final = 1e-30


@dataclass(frozen=True)
class Condition:
    """A condition on some of the numbers of a drawing: ``of`` gives what must be zero of them, in mm."""

    numbers: tuple[int, ...]
    of: Callable[[Any], Any]

    def rates(self, x: Array) -> tuple[Array, Array]:
        """Return the values (m,) and their derivatives by the condition's numbers (m, k)."""
        # All nudges at once, a column each, the first without any.
        nudged = np.repeat(x[list(self.numbers)].astype(complex)[:, None], len(self.numbers) + 1, axis=1)
        index = np.arange(len(self.numbers))
        nudged[index, index + 1] += 1j * _NUDGE
        found: Any = np.atleast_2d(np.asarray(self.of(nudged)))
        return found[:, 0].real, found[:, 1:].imag / _NUDGE


class OutlineNumbers(Protocol):
    """The numbers of a drawing, by its points and edges. Each raises ``Refused`` where there is no such point or edge."""

    @property
    def x(self) -> Array:
        """All numbers as they are now."""

    def counts(self) -> Sequence[int]:
        """Return how many points each loop has."""

    def sense(self, loop: int) -> int:
        """Return 1 where the section lies left of a loop as it is drawn, −1 where it lies right."""

    def point(self, place: OutlinePlace) -> tuple[int, int]:
        """Return which numbers a point's are."""

    def check(self, place: OutlinePlace) -> None:
        """See that there is such a point or edge."""

    def is_round(self, place: OutlinePlace) -> bool:
        """Return whether an edge is an arc."""

    def straight(self, place: OutlinePlace) -> tuple[int, ...]:
        """Return which numbers those of a straight edge's ends are. Raises ``Refused`` where it is not straight."""

    def arc(self, place: OutlinePlace) -> tuple[int, ...]:
        """Return which numbers those of an arc's ends, and its bulge, are. Raises ``Refused`` where it is no arc."""

    def around(self, place: OutlinePlace) -> tuple[tuple[int, ...], Callable[[Any], tuple[Vector, Vector]]]:
        """Return which numbers the directions into and out of a point hang on, and the two of them."""

    def mirrored(self, edge: OutlinePlace, mate: OutlinePlace, across: int, along: int) -> list[Condition]:
        """Return what makes an edge the mirror image of another besides its ends."""


def cross(a: Vector, b: Vector) -> Any:
    return a[0] * b[1] - a[1] * b[0]


def dot(a: Vector, b: Vector) -> Any:
    return a[0] * b[0] + a[1] * b[1]


def size(a: Vector) -> Any:
    return np.sqrt(dot(a, a) + TINIEST)


def between(part: Callable[[Vector, Vector], Any], a: Vector, b: Vector) -> Any:
    """Return the cross or dot product of two directions as a length: their sine or cosine times a size of theirs."""
    return part(a, b) / np.sqrt(size(a) * size(b))


def radius_of(x: Any) -> Any:
    """Return the radius of an arc by the coordinates of its ends and its bulge: c·(1 + b²)/4b, c its chord."""
    sense = np.where(np.real(x[4]) >= 0, 1, -1)
    return sense * size(x[2:4] - x[:2]) * (1 + x[4] * x[4]) / (4 * (x[4] + sense * TINIEST))


def off_angle(into: Vector, out: Vector, angle: float) -> Any:
    """Return the sine of how far the turn from ``out`` to back along ``into`` is from an angle, radians, times a size."""
    sine, cosine = -cross(out, into), -dot(out, into)
    return (sine * math.cos(angle) - cosine * math.sin(angle)) / np.sqrt(size(into) * size(out))
