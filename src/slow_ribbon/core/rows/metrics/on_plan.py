"""Distance on plan."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from slow_ribbon.core.geometry.curves import gauss
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.rows.metrics.base import Metric, nodes_of


class OnPlan(Metric):
    """On plan: as a tape held level, or a drawing, shows it."""

    kind = "plan"
    words = "on plan"

    @cached_property
    def _table(self) -> tuple[Array, Array]:
        """Return nodes of the line, as places, and their distances on plan from the beginning."""
        nodes = nodes_of(self)
        sizes = self._between(nodes[:-1], nodes[1:])
        distances = np.concatenate([[0.0], np.cumsum(sizes)])
        if distances[-1] <= WELD < self.length:
            what = "The line is upright here: it has no length on plan to set items out by. Measure along the line instead."
            raise Refused(what, "spacing.measured", "upright")
        return nodes, distances

    def _between(self, low: Array, high: Array) -> Array:
        """Return the lengths on plan (n,) between places near one another: the integral of the tangent's level part."""
        look_up(9 * len(low))
        shares, weights = gauss(np.array([0.0, 1.0]))
        sizes = high - low
        level = self._level((low[:, None] + sizes[:, None] * shares).ravel())
        return np.asarray(sizes * (level.reshape(len(low), -1) @ weights))

    def _level(self, places: Array) -> Array:
        """Return the level parts of the unit tangents at places (n,)."""
        assert self.course is not None  # only a stretch of a line is measured on plan
        tangents = self.course.at(self.begin + places).tangents
        return np.asarray(np.hypot(tangents[:, 0], tangents[:, 1]))

    def _places(self, distances: Array) -> Array:
        """Return the places at distances on plan (n,) from the beginning."""
        nodes, known = self._table
        part = np.clip(np.searchsorted(known, distances, side="right") - 1, 0, len(nodes) - 2)
        wide = known[part + 1] - known[part]
        share = np.where(wide > 0, (distances - known[part]) / np.where(wide > 0, wide, 1.0), 0.0)
        places = nodes[part] + share * (nodes[part + 1] - nodes[part])
        if self.course is not None and self.course.paths:
            # Where the pitch changes along a curve, Newton's method on the same quadrature.
            for _ in range(20):
                off = self._between(nodes[part], places) - (distances - known[part])
                places = places - off / np.maximum(self._level(places), 1e-6)
                if np.abs(off).max(initial=0.0) < 1e-10:
                    break
        return places

    @property
    def size(self) -> float:
        return float(self._table[1][-1])

    def bays(self, size: float) -> float:
        return self.size / size

    def evenly(self, bays: int) -> float:
        return self.size / bays

    def laid(self, first: float, size: float, count: int) -> Array:
        return self._places(first + np.arange(count, dtype=np.float64) * size)

    def laid_back(self, first: float, size: float, count: int) -> Array:
        return self._places(self.size - first - np.arange(count, dtype=np.float64)[::-1] * size)

    def apart(self, low: float, high: float) -> float:
        nodes, known = self._table
        ends = []
        for place in (low, high):
            i = int(np.clip(np.searchsorted(nodes, place, side="right") - 1, 0, len(nodes) - 2))
            ends.append(float(known[i]) + float(self._between(nodes[i : i + 1], np.array([place]))[0]))
        return ends[1] - ends[0]
