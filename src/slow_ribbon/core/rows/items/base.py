"""What every item has: a size, a seat, what it covers on plan, and its solid.

An item stands with the middle of its foot at zero, its *along* axis on x, and up on z. The foot is that of the box around it.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Mapping
from typing import ClassVar

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Model, Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.rows.items.parts import Part


class ItemBase(Model, ABC):
    """What is set out: its height, mm, and what its kind knows of itself."""

    kind: str
    height: Size

    #: What the item is called, in a sentence.
    words: ClassVar[str]
    #: Which field each of its own takes over from another kind that it takes the place of.
    like: ClassVar[Mapping[str, tuple[str, ...]]] = {}
    #: Whether it is the same after half a turn about its upright axis.
    symmetric: ClassVar[bool] = True

    @property
    @abstractmethod
    def sides(self) -> tuple[float, float]:
        """How large it is along and across, mm."""

    @property
    def circle(self) -> float | None:
        """Its diameter where it is round, mm."""
        return None

    @property
    def whole_height(self) -> float:
        """How high it is, with all that belongs to it, mm."""
        return self.height

    @property
    @abstractmethod
    def parts(self) -> tuple[Part, ...]:
        """What its solid is made of."""

    @property
    def hangs_by(self) -> float | None:
        """How long its hanger is, mm; None where it has none."""
        return None

    def hung_by(self, hanger: float) -> ItemBase:
        """Return the item on a hanger of another length, mm. Raises ``TypeError`` where it has none."""
        raise TypeError(f"{self.words} has no hanger")

    @property
    def name(self) -> str:
        """What it is called in a list, with its size, lengths in mm."""
        size = " × ".join(figure(side) for side in self.sides) if self.circle is None else f"⌀ {figure(self.circle)}"
        return f"{self.words.removeprefix('a ').removeprefix('an ')} {size} × {figure(self.whole_height)}"

    @property
    def slim(self) -> tuple[float, float]:
        """How large it is along and across where it is slimmest: a gap that must not be too wide is measured there."""
        return self.sides

    @property
    def usual_seat(self) -> tuple[float, float, float]:
        """The point of it that sits on a line where nothing else is said: along, across (to the right) and up, mm."""
        return (0.0, 0.0, 0.0)

    @property
    def volume(self) -> float:
        """How much it is, mm³."""
        return sum(part.volume for part in self.parts)

    @property
    def diagonal(self) -> float:
        """How large it is in its largest direction on plan, at most, mm."""
        return math.hypot(*self.sides) if self.circle is None else self.circle

    def footprint(self, middle: Array, heading: float) -> shapely.Polygon:
        """Return its footprint on plan, at the middle (2,) of its foot and its heading in radians."""
        if self.circle is not None:
            return shapely.Point(middle).buffer(self.circle / 2, quad_segs=64)
        a, b = self.sides[0] / 2, self.sides[1] / 2
        corners = np.array([(-a, -b), (a, -b), (a, b), (-a, b)])
        turn = np.array([[math.cos(heading), math.sin(heading)], [-math.sin(heading), math.cos(heading)]])
        return shapely.Polygon(corners @ turn + middle)

    def reach(self, cosine: float, sine: float) -> float:
        """Return how far it reaches from its middle in a direction, given by the direction's parts along and across the item."""
        return self._reach(self.sides, cosine, sine)

    def slim_reach(self, cosine: float, sine: float) -> float:
        """Return how far it reaches so where it is slimmest."""
        return self._reach(self.slim, cosine, sine)

    def _reach(self, sides: tuple[float, float], cosine: float, sine: float) -> float:
        if self.circle is not None:
            return sides[0] / 2
        return (sides[0] * abs(cosine) + sides[1] * abs(sine)) / 2


class RectangularItem(ItemBase):
    """An item that is a rectangle on plan, mm."""

    along: Size = 90.0
    across: Size = 90.0

    @property
    def sides(self) -> tuple[float, float]:
        return self.along, self.across


class CircularItem(ItemBase):
    """An item that is a circle on plan, mm."""

    diameter: Size = 90.0

    @property
    def sides(self) -> tuple[float, float]:
        return self.diameter, self.diameter

    @property
    def circle(self) -> float | None:
        return self.diameter
