"""Cords hanging between two points: catenaries."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, Literal, Self

import numpy as np
from scipy.optimize import brentq

from slow_ribbon.core.geometry.catenary import CordSpan
from slow_ribbon.core.geometry.curves import Curve
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3, Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import SAME_SHARE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.legs.base import LegBase, Move, place
from slow_ribbon.core.lines.legs.of_span import leg_of


class CordLeg(LegBase):
    """A cord hanging between two points, by its sag (greatest drop below the straight, measured upright) or its length."""

    words = "a catenary"

    kind: Literal["cord"] = "cord"
    sag: Size | None = None
    length: Size | None = None

    def spans(self, begin: Point3, where: str = "") -> list[Curve]:
        return [_cord(self, np.array(begin, dtype=float), where)]

    def carried(self, move: Move, direct: Move, grow: float, over: bool) -> dict[str, Any]:
        sizes = {"sag": self.sag, "length": self.length}
        return {name: None if size is None else size * grow for name, size in sizes.items()}

    def reshaped(self, begin: Point3, new_begin: Point3, new_end: Point3) -> Self:
        """Return the cord between other ends: it keeps its sag or length."""
        return self.model_copy(update={"to": new_end})


@leg_of.register
def _(span: CordSpan, low: float, high: float) -> CordLeg:
    return CordLeg(to=place(span.at(np.array([high]))[0][0]), length=high - low)


def _cord(leg: CordLeg, begin: Array, where: str) -> CordSpan:
    """Return the cord: from √(L² − v²) = 2a·sinh(h/2a) by its length, or from its sag, solved numerically."""
    across = np.array(leg.to) - begin
    level = float(np.hypot(across[0], across[1]))
    height = float(across[2])
    if (leg.sag is None) == (leg.length is None):
        raise Refused("A cord is given by its sag or by its length: give one of them.", f"{where}.sag", "cord")
    if level <= WELD:
        raise Refused("The cord's ends lie over one another: it would hang double. Move one of them sideways.", f"{where}.to", "cord")
    span = math.hypot(level, height)
    if leg.length is not None:
        if leg.length <= span * (1 + SAME_SHARE):
            raise Refused(
                f"The cord is {figure(leg.length, 3)} long, but its ends are {figure(span)} apart: make it longer than that.",
                f"{where}.length",
                "cord-short",
            )
        want = math.sqrt(leg.length**2 - height**2) / level
        # sinh(q)/q = want, with q = h/2a; it grows without bound, so a bracket is found by doubling.
        half = _solve(lambda q: math.sinh(q) / q - want, 1e-9, 1e-3)
    else:
        assert leg.sag is not None

        def off(q: float) -> float:
            a = level / (2 * q)
            return _sag(a, level, height) - float(leg.sag or 0)

        if leg.sag > 100 * span:
            raise Refused(f"A sag of {figure(leg.sag, 3)} is over a hundred times the span of {figure(span, 0)}.", f"{where}.sag", "cord")
        half = _solve(off, 1e-9, 1e-3)
    a = level / (2 * half)
    lowest = level / 2 - a * math.asinh(height / (2 * a * math.sinh(half)))
    length = a * (math.sinh((level - lowest) / a) + math.sinh(lowest / a))
    return CordSpan(begin, np.array([across[0] / level, across[1] / level, 0.0]), a, lowest, length)


def _sag(a: float, level: float, height: float) -> float:
    """Return the greatest upright drop of a catenary below the straight between its ends: where their slopes are the same."""
    lowest = level / 2 - a * math.asinh(height / (2 * a * math.sinh(level / (2 * a))))
    x = lowest + a * math.asinh(height / level)
    drop = a * (math.cosh((x - lowest) / a) - math.cosh(lowest / a))
    return height * x / level - drop


def _solve(off: Callable[[float], float], low: float, high: float) -> float:
    while off(high) < 0 and high < 600:
        low, high = high, high * 2
    return float(brentq(off, low, min(high, 600.0), xtol=1e-15, rtol=1e-15, maxiter=500))
