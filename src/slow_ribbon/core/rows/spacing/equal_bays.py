"""Equal bays none wider than a distance, or as near to it as equal bays come."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from slow_ribbon.core.kernel.fields import Size
from slow_ribbon.core.kernel.tolerances import NEARLY_WHOLE
from slow_ribbon.core.rows.spacing.base import EqualRule, whole


class EqualBays(EqualRule):
    """Equal bays, none wider than ``most``."""

    words = "equal bays, no wider than a distance"
    like: ClassVar = {"most": ("centres", "near")}

    kind: Literal["equal-bays"] = "equal-bays"
    most: Size

    def distance(self) -> float:
        return self.most

    def allows(self, last: float | None) -> bool:
        return last is None or last <= self.most * (1 + NEARLY_WHOLE)

    def bays_of(self, bays: float, ring: bool) -> int:
        return whole(bays)


class NearestBays(EqualRule):
    """Equal bays as near as can be to ``near``: they may be a little wider."""

    words = "equal bays, as near to a distance as can be"
    like: ClassVar = {"near": ("centres", "most")}

    kind: Literal["nearest-bays"] = "nearest-bays"
    near: Size

    def distance(self) -> float:
        return self.near

    def bays_of(self, bays: float, ring: bool) -> int:
        return max(1, math.floor(bays + 0.5))
