"""A set number of items in equal bays."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Literal, Self

from pydantic import Field

from slow_ribbon.core.kernel.tolerances import NEARLY_WHOLE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.rows.metrics import Metric
from slow_ribbon.core.rows.spacing.base import ItemWidths, LaidItems, SpacingRule, evenly


class SetNumber(SpacingRule):
    """A set number of items, the first and the last at the ends; on a ring as many bays as items. One stands in the middle."""

    words = "a set number"
    fills = True

    kind: Literal["set-number"] = "set-number"
    number: Annotated[int, Field(ge=1, le=1_000_000)] = 2

    def count(self, stretch: Metric, ring: bool, item: ItemWidths) -> int:
        return self.number

    def between_end_bays(self, ends: int) -> Self | None:
        return self.model_copy(update={"number": self.number - ends}) if self.number - ends > 1 else None

    def parted(self, lengths: Sequence[float], ring: bool) -> list[Self]:
        """Return the rules of parts: bays are shared out by length, one at least to each, by the method of largest remainders."""
        # A part without a length is the single item that is held there.
        least = [int(length > WELD) for length in lengths]
        bays, whole = max(self.number - (not ring), sum(least)), sum(lengths)
        shares = [bays * length / whole if whole > 0 else 0.0 for length in lengths]
        found = [max(one, math.floor(share + NEARLY_WHOLE)) for one, share in zip(least, shares, strict=True)]
        if not any(least):
            return [self.model_copy(update={"number": 1})] * len(lengths)
        while sum(found) != bays:
            # Too many where a short part has its one; too few where remainders are not shared out yet.
            step = 1 if sum(found) < bays else -1
            over = [(share - have) * step for share, have in zip(shares, found, strict=True)]
            open_to = [number for number, have in enumerate(found) if least[number] and have + step >= 1]
            found[max(open_to, key=lambda number: over[number])] += step
        return [self.model_copy(update={"number": have + 1}) for have in found]

    def lay(self, stretch: Metric, ring: bool, item: ItemWidths) -> LaidItems:
        return evenly(stretch, self.number if ring else self.number - 1, ring)
