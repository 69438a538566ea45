"""A set number of items in equal bays."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.rows.metrics import Metric
from slow_ribbon.core.rows.spacing.base import ItemWidths, LaidItems, SpacingRule, evenly


class SetNumber(SpacingRule):
    """A set number of items, the first and the last at the ends; on a ring as many bays as items. One stands in the middle."""

    words = "a set number"

    kind: Literal["set-number"] = "set-number"
    number: Annotated[int, Field(ge=1, le=2_000_000)] = 2

    def count(self, stretch: Metric, ring: bool, item: ItemWidths) -> int:
        return self.number

    def lay(self, stretch: Metric, ring: bool, item: ItemWidths) -> LaidItems:
        return evenly(stretch, self.number if ring else self.number - 1, ring)
