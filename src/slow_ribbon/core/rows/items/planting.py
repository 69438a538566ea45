"""Items of a garden: a planter, a tree or shrub."""

from __future__ import annotations

from typing import ClassVar, Literal

from slow_ribbon.core.kernel.fields import Distance, Size
from slow_ribbon.core.rows.items.base import CircularItem, RectangularItem
from slow_ribbon.core.rows.items.parts import Part, ellipsoid, tapered, turned


class PlanterItem(RectangularItem):
    """A planter, mm, as a solid; its sides lean in toward the foot by ``batter``."""

    words = "a planter"
    like: ClassVar = {"along": ("along", "diameter", "width"), "across": ("across", "diameter"), "height": ("height",)}

    kind: Literal["planter"] = "planter"
    along: Size = 900.0
    across: Size = 450.0
    batter: Distance = 30.0

    @property
    def parts(self) -> tuple[Part, ...]:
        batter = min(self.batter, 0.45 * min(self.sides))
        foot = self.along - 2 * batter, self.across - 2 * batter
        return (tapered(0, self.height, foot, self.sides),)


class TreeItem(CircularItem):
    """A tree or a shrub, mm: a crown of a diameter over a clear stem; with no clear stem it is a shrub."""

    words = "a tree or shrub"
    like: ClassVar = {"diameter": ("diameter", "along", "width"), "height": ("height",)}

    kind: Literal["tree"] = "tree"
    diameter: Size = 2400.0
    stem: Distance = 1800.0
    trunk: Size = 160.0

    @property
    def slim(self) -> tuple[float, float]:
        return (self.trunk, self.trunk) if self.stem > 0 else self.sides

    @property
    def parts(self) -> tuple[Part, ...]:
        stem = min(self.stem, 0.8 * self.height)
        crown = ellipsoid(stem, self.height, self.diameter)
        if stem <= 0:
            return (crown,)
        trunk = min(self.trunk, self.diameter)
        return turned([(0, trunk), (stem, 0.8 * trunk)]), crown
