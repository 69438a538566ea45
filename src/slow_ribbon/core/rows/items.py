"""What is set out: a box or a round post, with its size and what it covers on plan."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, ClassVar, Final, Literal, Union

import numpy as np
import shapely
from pydantic import Field

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Model, Size


class ItemBase(Model, ABC):
    """What every item has: a height, mm, and what its kind knows of itself."""

    kind: str
    height: Size

    #: What the item is called, in a sentence.
    words: ClassVar[str]
    #: Which field each of its own takes over from another kind that it takes the place of.
    like: ClassVar[Mapping[str, tuple[str, ...]]] = {}

    @property
    @abstractmethod
    def sides(self) -> tuple[float, float]:
        """How large it is along and across, mm."""

    @property
    @abstractmethod
    def circle(self) -> float | None:
        """Its diameter where it is round, mm."""

    @abstractmethod
    def footprint(self, middle: Array, heading: float) -> shapely.Polygon:
        """Return its footprint on plan, at the middle (2,) of its foot and its heading in radians."""

    @abstractmethod
    def reach(self, cosine: float, sine: float) -> float:
        """Return how far it reaches from its middle in a direction, given by the direction's parts along and across the item."""

    @property
    def diagonal(self) -> float:
        """How large it is in its largest direction on plan, at most, mm."""
        return math.hypot(*self.sides) if self.circle is None else self.circle


class BoxItem(ItemBase):
    """A rectangular item, mm."""

    words = "a box"
    like: ClassVar = {"along": ("diameter",), "across": ("diameter",), "height": ("height",)}

    kind: Literal["box"] = "box"
    along: Size
    across: Size
    height: Size

    @property
    def sides(self) -> tuple[float, float]:
        return self.along, self.across

    @property
    def circle(self) -> float | None:
        return None

    def footprint(self, middle: Array, heading: float) -> shapely.Polygon:
        a, b = self.along / 2, self.across / 2
        corners = np.array([(-a, -b), (a, -b), (a, b), (-a, b)])
        turn = np.array([[math.cos(heading), math.sin(heading)], [-math.sin(heading), math.cos(heading)]])
        return shapely.Polygon(corners @ turn + middle)

    def reach(self, cosine: float, sine: float) -> float:
        return (self.along * abs(cosine) + self.across * abs(sine)) / 2


class RoundItem(ItemBase):
    """A round item, mm."""

    words = "a round post"
    like: ClassVar = {"diameter": ("along",), "height": ("height",)}

    kind: Literal["round"] = "round"
    diameter: Size
    height: Size

    @property
    def sides(self) -> tuple[float, float]:
        return self.diameter, self.diameter

    @property
    def circle(self) -> float | None:
        return self.diameter

    def footprint(self, middle: Array, heading: float) -> shapely.Polygon:
        return shapely.Point(middle).buffer(self.diameter / 2, quad_segs=64)

    def reach(self, cosine: float, sine: float) -> float:
        return self.diameter / 2


#: Every kind of item.
ITEMS: Final[tuple[type[ItemBase], ...]] = (BoxItem, RoundItem)

if TYPE_CHECKING:
    Item = ItemBase
else:
    Item = Annotated[Union[ITEMS], Field(discriminator="kind")]  # noqa: UP007  # made of the registry
