"""Items of plain shape: a box, a round post, a panel."""

from __future__ import annotations

from typing import ClassVar, Literal

from slow_ribbon.core.kernel.fields import Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.rows.items.base import CircularItem, ItemBase, RectangularItem
from slow_ribbon.core.rows.items.parts import Part, block, turned


class BoxItem(RectangularItem):
    """A rectangular item, mm."""

    words = "a box"
    like: ClassVar = {"along": ("along", "diameter", "width"), "across": ("across", "diameter", "thickness"), "height": ("height",)}

    kind: Literal["box"] = "box"

    @property
    def parts(self) -> tuple[Part, ...]:
        return (block(0, self.height, self.along, self.across),)


class RoundItem(CircularItem):
    """A round item, mm."""

    words = "a round post"
    like: ClassVar = {"diameter": ("diameter", "along", "width"), "height": ("height",)}

    kind: Literal["round"] = "round"

    @property
    def parts(self) -> tuple[Part, ...]:
        return (turned([(0, self.diameter), (self.height, self.diameter)]),)


class PanelItem(ItemBase):
    """A panel that stands along the line: boards, a mesh or glass of a size, mm."""

    words = "a panel"
    like: ClassVar = {"width": ("along", "diameter"), "height": ("height",)}

    kind: Literal["panel"] = "panel"
    width: Size = 1200.0
    thickness: Size = 18.0
    filling: Literal["boards", "mesh", "glass"] = "boards"

    @property
    def sides(self) -> tuple[float, float]:
        return self.width, self.thickness

    @property
    def parts(self) -> tuple[Part, ...]:
        return (block(0, self.height, self.width, self.thickness),)

    @property
    def area(self) -> float:
        """The area of its face, mm²."""
        return self.width * self.height

    @property
    def name(self) -> str:
        return f"{self.filling} panel {figure(self.width)} × {figure(self.height)} × {figure(self.thickness)}"
