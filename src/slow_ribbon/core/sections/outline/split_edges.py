"""Where two edges meet."""

from __future__ import annotations

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import ROUNDING
from slow_ribbon.core.sections.edges.base import Edge


def crossing_of(one: Edge, two: Edge, s: float, t: float) -> tuple[float, float, Array]:
    """Return the shares of two edges where they cross, near two shares of them, and the place (2,), by Newton's method."""
    for _ in range(40):
        p, q = one.at_shares(np.array([s]))[0], two.at_shares(np.array([t]))[0]
        off = q - p
        rates = np.column_stack([_rate(one, s), -_rate(two, t)])
        step, *_ = np.linalg.lstsq(rates, off, rcond=1e-9)
        s, t = s + float(step[0]), t + float(step[1])
        if float(np.abs(step).max()) < ROUNDING:
            break
    # Straights and arcs may be carried on past their ends: where two edges lie on one another, one stands for both.
    s, t = (share if edge.extends else min(max(share, 0.0), 1.0) for edge, share in ((one, s), (two, t)))
    place = (one.at_shares(np.array([s]))[0] + two.at_shares(np.array([t]))[0]) / 2
    return s, t, np.asarray(place)


def _rate(edge: Edge, share: float) -> Array:
    step = 1e-6
    low, high = max(0.0, share - step), min(1.0, share + step)
    a, b = edge.at_shares(np.array([low, high]))
    return np.asarray((b - a) / (high - low))
