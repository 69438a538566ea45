"""Distance along the line."""

from __future__ import annotations

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.rows.metrics.base import Metric


class AlongLine(Metric):
    """Along the line, round its corners and curves."""

    kind = "along"
    words = "along the line"

    @property
    def size(self) -> float:
        return self.length

    def bays(self, size: float) -> float:
        return self.length / size

    def evenly(self, bays: int) -> float:
        return self.length / bays

    def laid(self, first: float, size: float, count: int) -> Array:
        return first + np.arange(count, dtype=np.float64) * size

    def laid_back(self, first: float, size: float, count: int) -> Array:
        return self.length - first - np.arange(count, dtype=np.float64)[::-1] * size

    def apart(self, low: float, high: float) -> float:
        return high - low
