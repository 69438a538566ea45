"""The parts that an item's solid is made of: rectangles or ellipses, one above another, with straight sides between them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.spatial import ConvexHull

from slow_ribbon.core.kernel.arrays import Array

#: How many sides a round part has where its corners are asked for: the polygon is off the circle by 0.12 % of its radius.
_SIDES = 64
#: By how many levels a quarter of an ellipse is drawn.
_STEPS = 10


@dataclass(frozen=True)
class Level:
    """A rectangle or ellipse at a height above the foot, mm: how large it is along and across, and where its middle is."""

    height: float
    along: float
    across: float
    middle: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True)
class Part:
    """A solid between levels, from the lowest to the highest: ellipses where it is ``round``, else rectangles.

    ``curved`` is its volume, mm³, where it is curved from level to level, and levels only stand for it in a picture.
    A ``hanger`` is longer or shorter from item to item.
    """

    levels: tuple[Level, ...]
    round: bool = False
    curved: float | None = None
    hanger: bool = False

    @property
    def volume(self) -> float:
        """Its volume, mm³: between two levels sizes change evenly, so that the prismatoid's formula (Simpson's rule) is exact."""
        if self.curved is not None:
            return self.curved
        whole = 0.0
        for low, high in zip(self.levels, self.levels[1:], strict=False):
            middle = (low.along + high.along) * (low.across + high.across)
            whole += (high.height - low.height) / 6 * (low.along * low.across + middle + high.along * high.across)
        return whole * (math.pi / 4 if self.round else 1.0)

    def rings(self) -> list[Array]:
        """Return the corners (k, 3) of each level."""
        if self.round:
            angles = np.linspace(0, 2 * np.pi, _SIDES, endpoint=False)
            unit = np.column_stack([np.cos(angles), np.sin(angles)]) / 2
        else:
            unit = np.array([(-0.5, -0.5), (0.5, -0.5), (0.5, 0.5), (-0.5, 0.5)])
        return [
            np.column_stack([unit * (level.along, level.across) + level.middle, np.full(len(unit), level.height)]) for level in self.levels
        ]


def block(low: float, high: float, along: float, across: float, middle: tuple[float, float] = (0.0, 0.0)) -> Part:
    """Return a rectangular block from a height to another."""
    return Part((Level(low, along, across, middle), Level(high, along, across, middle)))


def tapered(low: float, high: float, foot: tuple[float, float], head: tuple[float, float]) -> Part:
    """Return a block whose sides lean evenly from the size of its foot to that of its head."""
    return Part((Level(low, *foot), Level(high, *head)))


def turned(profile: Sequence[tuple[float, float]], middle: tuple[float, float] = (0.0, 0.0)) -> Part:
    """Return what is turned about an upright axis: (height, diameter) from below."""
    return Part(tuple(Level(height, diameter, diameter, middle) for height, diameter in profile), round=True)


def dome(low: float, high: float, diameter: float) -> Part:
    """Return half an ellipsoid that stands on its middle, from a height to another."""
    return replace(turned(_quarter(low, high, diameter)), curved=math.pi / 6 * diameter**2 * (high - low))


def ellipsoid(low: float, high: float, diameter: float) -> Part:
    """Return an ellipsoid between two heights."""
    middle = (low + high) / 2
    upper = _quarter(middle, high, diameter)
    profile = [(2 * middle - height, size) for height, size in reversed(upper[1:])] + upper
    return replace(turned(profile), curved=math.pi / 6 * diameter**2 * (high - low))


def _quarter(low: float, high: float, diameter: float) -> list[tuple[float, float]]:
    angles = np.linspace(0, np.pi / 2, _STEPS + 1)
    # The top is a point.
    sizes = [*(diameter * np.cos(angles[:-1])).tolist(), 0.0]
    return list(zip((low + (high - low) * np.sin(angles)).tolist(), sizes, strict=True))


def hull_on_plan(parts: Sequence[Part], turned: Array) -> Array:
    """Return the corners (k, 2), anticlockwise, of the smallest convex outline on plan around some parts, turned by a matrix (3, 3)."""
    if not parts:
        return np.zeros((0, 2))
    corners = (np.concatenate([ring for part in parts for ring in part.rings()]) @ turned.T)[:, :2]
    return np.asarray(corners[ConvexHull(corners).vertices])
