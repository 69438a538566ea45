"""Fixed centres, with what is left over at the ends."""

from __future__ import annotations

import math
from typing import ClassVar, Literal, Self

from slow_ribbon.core.kernel.fields import Size
from slow_ribbon.core.rows.metrics import NUDGE, Metric
from slow_ribbon.core.rows.spacing.base import Laid, SpacingRule, Standing, closing_bay, whole


class FixedCentres(SpacingRule):
    """Fixed centres, counted from the start, centred, or from the end.

    Round a ring they are counted from its start on, from its end back, or to both sides of its
    start; the last bay takes what is left.
    """

    words = "fixed centres"
    like: ClassVar = {"centres": ("most", "near")}

    kind: Literal["fixed-centres"] = "fixed-centres"
    centres: Size
    origin: Literal["start", "centred", "end"] = "start"

    def count(self, stretch: Metric, ring: bool, item: Standing) -> int:
        bays = stretch.at_most(self.centres)
        return whole(bays) if ring else math.floor(bays + NUDGE) + 1

    def lay(self, stretch: Metric, ring: bool, item: Standing) -> Laid:
        centres = self.centres
        bays = stretch.bays(centres)
        if ring:
            return self._round(stretch, whole(bays))
        count = math.floor(bays + NUDGE) + 1
        if self.origin == "end":
            places = stretch.laid_back(0.0, centres, count)
            over = stretch.apart(0.0, float(places[0]))
            return Laid(places=places, bays=count - 1, centres=centres, left_start=over)
        places = stretch.centred(centres) if self.origin == "centred" else stretch.laid(0.0, centres, count)
        begin, over = stretch.apart(0.0, float(places[0])), stretch.apart(float(places[-1]), stretch.length)
        return Laid(places=places, bays=len(places) - 1, centres=centres, left_start=begin, left_end=max(0.0, over))

    def _round(self, stretch: Metric, count: int) -> Laid:
        places = stretch.laid(0.0, self.centres, count)
        closing = stretch.apart(float(places[-1]), stretch.length)
        if self.origin == "centred":
            places = stretch.laid(closing / 2, self.centres, count)
        elif self.origin == "end":
            places = stretch.laid_back(0.0, self.centres, count)
        return Laid(places=places, bays=count, centres=self.centres, closing=closing_bay(stretch, places, self.centres))

    def reversed(self) -> Self:
        return self.model_copy(update={"origin": {"start": "end", "end": "start"}.get(self.origin, self.origin)})
