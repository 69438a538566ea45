"""Integrals over a section, over the triangles that fill it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.sections.outline.triangulation import one_of_each

#: It is evaluated at this many places at most.
MOST_PLACES: Final = 40_000
#: A sum that changes by no more of itself is returned; triangles are halved this often at most.
_SETTLED: Final = 1e-7
_HALVINGS: Final = 6


def summed(value: Callable[[Array], Array], corners: Array, most: int = MOST_PLACES, side: float = np.inf) -> tuple[float, bool]:
    """Return the integral of a ``value`` at points (k, 2) over triangles (t, 3, 2), and whether it had settled.

    Midpoints of sides integrate what is quadratic over a triangle exactly. Triangles are halved until that changes no more, and none has
    a side longer than ``side``, or till there would be more than ``most`` places: at a sharp mitre fibres are anything but quadratic.
    """
    total = np.nan
    for _ in range(_HALVINGS):
        sides = corners[:, 1:] - corners[:, :1]
        areas = np.abs(sides[:, 0, 0] * sides[:, 1, 1] - sides[:, 0, 1] * sides[:, 1, 0]) / 2
        middles = (corners + np.roll(corners, -1, axis=1)) / 2
        # Two triangles share the middle of a side.
        points, which = one_of_each(middles.reshape(-1, 2))
        before, total = total, float(areas @ value(points)[which].reshape(-1, 3).mean(axis=1))
        if abs(total - before) <= _SETTLED * abs(total) and float(np.abs(sides).max()) <= side:
            return total, True
        if 4 * len(points) > most:
            break
        ends = [np.stack([corners[:, i], middles[:, i], middles[:, i - 1]], axis=1) for i in range(3)]
        corners = np.concatenate([*ends, middles])
    return total, False
