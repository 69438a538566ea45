"""Equal gaps between the faces of items, none wider than a distance."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Size
from slow_ribbon.core.kernel.tolerances import NEARLY_WHOLE
from slow_ribbon.core.rows.metrics import Metric
from slow_ribbon.core.rows.spacing.base import ItemWidths, LaidItems, SpacingRule, evenly, whole


class ClearGap(SpacingRule):
    """Equal clear gaps, none wider than ``gap``, between items and at both ends of the stretch."""

    words = "clear gaps, no wider than a distance"
    from_faces = True

    kind: Literal["clear-gap"] = "clear-gap"
    gap: Size = 100.0

    def count(self, stretch: Metric, ring: bool, item: ItemWidths) -> int:
        return self._count(stretch.at_most(item.width + self.gap), ring, item)

    def _count(self, bays: float, ring: bool, item: ItemWidths) -> int:
        if ring:
            return whole(bays)
        # n = ceil((L' − g)/(w + g))
        return max(0, math.ceil(bays - self.gap / (item.width + self.gap) - NEARLY_WHOLE))

    def lay(self, stretch: Metric, ring: bool, item: ItemWidths) -> LaidItems:
        wide = item.width
        bays = stretch.bays(wide + self.gap)
        count = self._count(bays, ring, item)
        if ring:
            return evenly(stretch, count, ring)
        if not count:
            return LaidItems(places=np.zeros(0), bays=0, centres=0.0, left_start=stretch.size)

        for number in range(count, count + 6):
            gap, places = _gap(stretch, number, bays * (wide + self.gap), item)
            if gap <= self.gap * (1 + NEARLY_WHOLE):
                break
        return LaidItems(places=places, bays=len(places) - 1, centres=wide + gap, left_start=gap, left_end=gap)


def _gap(stretch: Metric, count: int, length: float, item: ItemWidths) -> tuple[float, Array]:
    """Return the gap between a number of items and beside them, and their places, where the stretch is about so long."""

    def places(gap: float) -> Array:
        return stretch.laid(gap + item.width / 2 + item.ahead, item.width + gap, count)

    def off(gap: float) -> float:
        return stretch.apart(float(places(gap)[-1]), stretch.length) + item.ahead - gap - item.width / 2

    gap = stretch.settled(off, (length - count * item.width) / (count + 1))
    return gap, places(gap)
