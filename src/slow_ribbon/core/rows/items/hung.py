"""Items that hang: a lamp on its hanger."""

from __future__ import annotations

from dataclasses import replace
from typing import ClassVar, Literal

from slow_ribbon.core.kernel.fields import Distance, Size
from slow_ribbon.core.rows.items.base import CircularItem
from slow_ribbon.core.rows.items.parts import Part, block, turned

#: How thick a hanger is drawn, mm.
_ROD = 8.0


class LampItem(CircularItem):
    """A lamp on a hanger, mm: a shade of a diameter and height, and how long it hangs. The top of the hanger sits on the line."""

    words = "a lamp on a hanger"
    like: ClassVar = {"diameter": ("diameter", "along", "width"), "height": ("height",)}

    kind: Literal["lamp"] = "lamp"
    diameter: Size = 260.0
    hanger: Distance = 400.0

    @property
    def whole_height(self) -> float:
        return self.height + self.hanger

    @property
    def hangs_by(self) -> float:
        return self.hanger

    def hung_by(self, hanger: float) -> LampItem:
        return self.model_copy(update={"hanger": hanger})

    @property
    def usual_seat(self) -> tuple[float, float, float]:
        return (0.0, 0.0, self.whole_height)

    @property
    def parts(self) -> tuple[Part, ...]:
        shade = turned([(0, self.diameter), (0.3 * self.height, self.diameter), (self.height, 0.25 * self.diameter)])
        if self.hanger <= 0:
            return (shade,)
        rod = min(_ROD, self.diameter / 4)
        return shade, replace(block(self.height, self.whole_height, rod, rod), hanger=True)
