"""Circles and ellipses, whole or in part, as legs: true arcs where they are round, else rational curves of degree 2."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from slow_ribbon.core.kernel import NEARLY_WHOLE, SAME_SHARE, Array, Point3
from slow_ribbon.core.lines import AnyLeg, ArcLeg, CurveLeg, place


def conic(centre: Sequence[float], u: Sequence[float], v: Sequence[float], first: float, last: float) -> tuple[Point3, list[AnyLeg]]:
    """Return the beginning and the legs of centre + u·cos φ + v·sin φ, φ from ``first`` to ``last`` (radians, either way).

    A circle's parts are arcs of at most half a turn; an ellipse's one rational curve for each
    part of at most a quarter, whose controls are where the tangents at its ends meet, with the
    cosine of half its angle for weight (Piegl and Tiller, The NURBS Book, section 7.3).
    """
    c, a, b = (np.asarray(values, dtype=float) for values in (centre, u, v))

    def at(angle: float) -> Array:
        return np.asarray(c + a * math.cos(angle) + b * math.sin(angle))

    sizes = float(np.linalg.norm(a)), float(np.linalg.norm(b))
    round_enough = abs(sizes[0] - sizes[1]) <= SAME_SHARE * max(sizes) and abs(float(a @ b)) <= SAME_SHARE * sizes[0] * sizes[1]
    largest = math.pi if round_enough else math.pi / 2
    parts = max(1, math.ceil(abs(last - first) / largest - NEARLY_WHOLE))
    angles = np.linspace(first, last, parts + 1).tolist()
    legs: list[AnyLeg] = []
    for low, high in pairwise(angles):
        middle, half = (low + high) / 2, (high - low) / 2
        if round_enough:
            legs.append(ArcLeg(to=place(at(high)), via=place(at(middle))))
        else:
            weight = math.cos(half)
            control = c + (a * math.cos(middle) + b * math.sin(middle)) / weight
            legs.append(CurveLeg(to=place(at(high)), controls=(place(control),), degree=2, weights=(1.0, weight, 1.0)))
    return place(at(first)), legs
