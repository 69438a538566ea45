"""A field on a grid: square or staggered rows, along a bearing or along one side."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import ClassVar, Literal, Self

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Angle, Index, Point3, Size
from slow_ribbon.core.kernel.tolerances import NEARLY_SAME, NEARLY_WHOLE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.rows.filling.base import FillingBase, Ground


class GridFilling(FillingBase):
    """Rows ``between`` mm apart, with items every ``along`` mm; where ``staggered`` every second row is moved by half of that.

    Rows lie along a ``bearing``, degrees clockwise from north, as many as find room, as far from one edge as from the other. Along a
    ``side`` of the border the first row lies on it, within the inset, with as many items as find room and as much left at either end.
    """

    like: ClassVar = {**FillingBase.like, "along": ("along", "apart"), "between": ("between", "apart")}

    kind: Literal["grid"] = "grid"
    along: Size = 1000.0
    between: Size = 1000.0
    staggered: bool = False
    bearing: Angle = 90.0
    side: tuple[Index, Index] | None = None

    @property
    def side_points(self) -> tuple[Index, Index] | None:
        return self.side

    def moved(self, move: Callable[[Point3], Point3]) -> Self:
        bearing = math.radians(self.bearing)
        (x, y, _), (to_x, to_y, _) = move((0.0, 0.0, 0.0)), move((math.sin(bearing), math.cos(bearing), 0.0))
        now = round(math.degrees(math.atan2(to_x - x, to_y - y)), 9) + 0.0
        # A line that is only moved leaves what is typed as it is.
        return self if abs(now - self.bearing) <= NEARLY_SAME else self.model_copy(update={"bearing": now})

    def most(self, ground: Ground) -> float:
        return ground.region.area / (self.along * self.between) + ground.region.length / min(self.along, self.between) + 1

    def tried(self, ground: Ground) -> float:
        if ground.region.is_empty:
            return 0.0
        left, low, right, high = ground.region.bounds
        # Rows lie in any direction.
        across = math.hypot(right - left, high - low)
        return (across / self.along + 3) * (across / self.between + 1)

    def heading(self, ground: Ground) -> float:
        ends = self._ends(ground)
        if ends is None:
            return math.radians(90.0 - self.bearing)
        across, up = (ends[1] - ends[0]).tolist()
        # It is the same whichever way the border is gone.
        return math.atan2(up, across) if up > 0 or (up == 0 and across > 0) else math.atan2(-up, -across)

    def points(self, ground: Ground) -> Array:
        heading = self.heading(ground)
        axes = np.array([(math.cos(heading), math.sin(heading)), (-math.sin(heading), math.cos(heading))])
        corners = shapely.get_coordinates(ground.region) @ axes.T
        low, high = corners.min(axis=0), corners.max(axis=0)
        ends = self._ends(ground)
        if ends is None:
            first, up = (_centred(low[axis], high[axis], step) for axis, step in ((0, self.along), (1, self.between)))
            rows = up + self.between * np.arange(math.floor((high[1] - up) / self.between + NEARLY_WHOLE) + 1)
        else:
            begin, end = np.sort((ends @ axes.T)[:, 0]).tolist()
            side = float((ends[0] @ axes.T)[1])
            first = _centred(begin + self.inset, end - self.inset, self.along)
            # The region lies to one side of it.
            way = 1.0 if high[1] - side > side - low[1] else -1.0
            reach = max(high[1] - side, side - low[1])
            rows = side + way * (self.inset + self.between * np.arange(math.floor(reach / self.between) + 1))
        before, after = math.ceil((first - low[0]) / self.along) + 1, math.ceil((high[0] - first) / self.along) + 1
        every = first + self.along * np.arange(-before, after + 1)
        moved = np.where(np.arange(len(rows)) % 2 == 1, self.along / 2 if self.staggered else 0.0, 0.0)
        places = np.column_stack([(every + moved[:, None]).ravel(), np.repeat(rows, len(every))]) @ axes
        # What lies on the edge lies within.
        region = ground.region.buffer(WELD)
        shapely.prepare(region)
        return np.asarray(places[shapely.contains_xy(region, places[:, 0], places[:, 1])])

    def _ends(self, ground: Ground) -> Array | None:
        """Return the two ends (2, 2) of its side; None where it has none, or they are gone or in one place."""
        if self.side is None or any(id not in ground.points for id in self.side):
            return None
        ends = np.array([ground.points[id] for id in self.side])
        return ends if np.hypot(*(ends[1] - ends[0])) > WELD else None


def _centred(low: float, high: float, step: float) -> float:
    """Return the first of as many places a step apart as find room between two ends, with as much left at either."""
    bays = max(0, math.floor((high - low) / step + NEARLY_WHOLE))
    return (low + high - bays * step) / 2
