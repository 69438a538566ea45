"""Fixed centres, with what is left over at the ends."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import ClassVar, Literal, Self

from slow_ribbon.core.kernel.fields import Size
from slow_ribbon.core.kernel.tolerances import NEARLY_WHOLE, SAME_PLACE
from slow_ribbon.core.rows.metrics import Metric
from slow_ribbon.core.rows.spacing.base import ItemWidths, LaidItems, SpacingRule, closing_bay, whole


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

    def count(self, stretch: Metric, ring: bool, item: ItemWidths) -> int:
        bays = stretch.at_most(self.centres)
        return whole(bays) if ring else math.floor(bays + NEARLY_WHOLE) + 1

    def lay(self, stretch: Metric, ring: bool, item: ItemWidths) -> LaidItems:
        centres = self.centres
        if ring:
            return self._round(stretch)
        lay = {"start": stretch.forth, "centred": stretch.centred, "end": stretch.back}[self.origin]
        places = lay(centres)
        begin, over = stretch.apart(0.0, float(places[0])), stretch.apart(float(places[-1]), stretch.length)
        return LaidItems(places=places, bays=len(places) - 1, centres=centres, left_start=max(0.0, begin), left_end=max(0.0, over))

    def _round(self, stretch: Metric) -> LaidItems:
        if self.origin == "end":
            places = stretch.back(self.centres)
            # One that comes round to where the first stands is that one.
            places = places[1:] if len(places) > 1 and stretch.apart(0.0, float(places[0])) < SAME_PLACE else places
        else:
            places = stretch.forth(self.centres)
            closing = stretch.apart(float(places[-1]), stretch.length)
            if len(places) > 1 and closing < SAME_PLACE:
                places, closing = places[:-1], self.centres
            if self.origin == "centred":
                places = stretch.laid(closing / 2, self.centres, len(places))
                places = places[places <= stretch.length + SAME_PLACE]
        return LaidItems(places=places, bays=len(places), centres=self.centres, closing=closing_bay(stretch, places, self.centres))

    def parted(self, lengths: Sequence[float], ring: bool) -> list[Self]:
        """Return the rules of parts, each counted from an item that is held: what is left over stays at the ends of the whole."""
        if ring:
            return [self.model_copy(update={"origin": "end" if self.origin == "end" else "start"})] * len(lengths)
        origins = ["end", *["start"] * (len(lengths) - 1)] if self.origin != "start" else ["start"] * len(lengths)
        return [self.model_copy(update={"origin": origin}) for origin in origins]

    def reversed(self) -> Self:
        return self.model_copy(update={"origin": {"start": "end", "end": "start"}.get(self.origin, self.origin)})
