"""A field by chance: items scattered with a least distance, until no more find room."""

from __future__ import annotations

from typing import ClassVar, Literal

from slow_ribbon.core.geometry.scattered_points import most_points, scattered_points, squares_looked_at
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Size
from slow_ribbon.core.rows.filling.base import FillingBase, Ground


class ChanceFilling(FillingBase):
    """Items by chance, no middle nearer to another than ``apart`` mm, as many as find room."""

    like: ClassVar = {**FillingBase.like, "apart": ("apart", "along")}

    kind: Literal["chance"] = "chance"
    mixed: Literal["turn", "chance"] = "chance"
    apart: Size = 1000.0

    def most(self, ground: Ground) -> float:
        return most_points(ground.region.area, self.apart) + ground.region.length / self.apart

    def tried(self, ground: Ground) -> float:
        return squares_looked_at(ground.region, self.apart)

    def points(self, ground: Ground) -> Array:
        return scattered_points(ground.region, self.apart, self.seed)
