"""The catenary: how a cord hangs between two points."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from slow_ribbon.core.geometry.curves import Curve
from slow_ribbon.core.kernel.arrays import Array


@dataclass(frozen=True)
class CordSpan(Curve):
    """A hanging cord, a catenary: in its upright plane z = low + a·(cosh((x − x₀)/a) − 1), x along ``level``.

    Distance along it from its lowest point is a·sinh((x − x₀)/a), which is inverted in closed form.
    """

    begin: Array
    level: Array
    parameter: float
    lowest: float
    length: float
    kind: str = "cord"

    one_sided = True

    def at(self, s: Array) -> tuple[Array, Array, Array]:
        a = self.parameter
        first = a * math.sinh(-self.lowest / a)
        along = (first + np.asarray(s, dtype=float)) / a
        x = a * np.arcsinh(along) + self.lowest
        root = np.sqrt(1 + along**2)
        z = a * (root - math.cosh(-self.lowest / a))
        up = np.array([0.0, 0.0, 1.0])
        points = self.begin + np.outer(x, self.level) + np.outer(z, up)
        tangents = np.outer(1 / root, self.level) + np.outer(along / root, up)
        size = 1 / (a * root**2)
        return points, tangents, np.outer(-along / root * size, self.level) + np.outer(size / root, up)

    def breaks(self) -> Array:
        # A cord that hangs steeply is bent almost only near its lowest point.
        a = self.parameter
        first = a * math.sinh(-self.lowest / a)
        places = a * np.sinh(np.linspace(-8, 8, 33)) - first
        inside = places[(places > 0) & (places < self.length)]
        return np.concatenate([[0.0], inside, [self.length]])
