"""What every way of filling a closed line has: an inset from its border, kinds in turn or by chance, sizes within limits.

Terms
-----
border
    the closed line of a field, on plan.
region
    the ground that is filled: within the border and its inset, without what the field keeps clear of.
side
    two points of the border, by their numbers, between which rows of a grid lie along it.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
import shapely
from pydantic import Field, model_validator

from slow_ribbon.core.kernel.arrays import Array, Indices
from slow_ribbon.core.kernel.fields import Distance, Index, Model, Point3

Region = shapely.Polygon | shapely.MultiPolygon
Share = Annotated[float, Field(gt=0, le=10, allow_inf_nan=False)]


@dataclass(frozen=True)
class Ground:
    """What a field fills: its region on plan, and its border's points (n, 2) by their numbers."""

    region: Region
    points: Mapping[int, Array]


class FillingBase(Model, ABC):
    """How a closed line is filled with items, whose middles lie ``inset`` mm within it.

    ``mixed``: a row's items follow one another in turn, or are dealt by chance, each as often as its letter is in the turns.
    Sizes lie by chance between ``smallest`` and ``largest``, as shares of the item's own. ``seed`` names the draw, so that it is the
    same again.
    """

    kind: str
    inset: Distance = 0.0
    mixed: Literal["turn", "chance"] = "turn"
    smallest: Share = 1.0
    largest: Share = 1.0
    seed: Annotated[int, Field(ge=0, lt=2**31)] = 0

    #: Which field each of its own takes over from another kind that it takes the place of.
    like: ClassVar[Mapping[str, tuple[str, ...]]] = {name: (name,) for name in ("inset", "mixed", "smallest", "largest", "seed")}

    @model_validator(mode="after")
    def _in_order(self) -> FillingBase:
        if self.smallest > self.largest:
            raise ValueError(f"the smallest, {self.smallest:g} times the item's size, is larger than the largest, {self.largest:g} times")
        return self

    @abstractmethod
    def most(self, ground: Ground) -> float:
        """Return about how many items it holds, cheaply."""

    @abstractmethod
    def tried(self, ground: Ground) -> float:
        """Return about how many places are looked at to fill it: all of the box around it is, however little of that is ground."""

    @abstractmethod
    def points(self, ground: Ground) -> Array:
        """Return the places (n, 2) of its items on plan, row by row."""

    def heading(self, ground: Ground) -> float:
        """Return the direction on plan of its rows, radians anticlockwise from +x."""
        return 0.0

    def moved(self, move: Callable[[Point3], Point3]) -> Self:
        """Return how the same field is filled after its border was moved; ``move`` maps points."""
        return self

    @property
    def side_points(self) -> tuple[Index, Index] | None:
        """The two points of the border that it needs, if any."""
        return None

    def dealt(self, turns: Indices, count: int) -> Indices:
        """Return which item (count,) stands in each place, of items in turn."""
        if self.mixed == "turn":
            return np.asarray(turns[np.arange(count) % len(turns)])
        return np.asarray(np.random.default_rng((self.seed, 1)).choice(turns, count))

    def sizes(self, count: int) -> Array:
        """Return the size (count,) of each item, as a share of its own."""
        if self.smallest == self.largest:
            return np.full(count, self.smallest)
        return np.asarray(np.random.default_rng((self.seed, 2)).uniform(self.smallest, self.largest, count))
