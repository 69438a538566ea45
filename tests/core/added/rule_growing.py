"""An added spacing rule: bays that grow, each by the same share of the one before."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.kernel.fields import Size
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.rows.metrics import Metric
from slow_ribbon.core.rows.spacing.base import ItemWidths, LaidItems, SpacingRule


class GrowingBays(SpacingRule):
    """The first bay, mm, and by which factor each is longer than the one before; what is left over is left at the end."""

    words = "bays that grow"

    kind: Literal["growing"] = "growing"
    bay: Size
    factor: Annotated[float, Field(ge=1, le=10)] = 2.0

    def count(self, stretch: Metric, ring: bool, item: ItemWidths) -> int:
        return int(stretch.length / self.bay) + 1

    def lay(self, stretch: Metric, ring: bool, item: ItemWidths) -> LaidItems:
        bays = self.bay * self.factor ** np.arange(self.count(stretch, ring, item))
        places = np.append(0.0, np.cumsum(bays))
        places = places[places <= stretch.length + SAME_PLACE]
        return LaidItems(places=places, bays=len(places) - 1, centres=self.bay, left_end=float(stretch.length - places[-1]))
