"""Cords hanging between two points: catenaries."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any, Final, Literal, Self

import numpy as np
from pydantic import Field
from scipy.optimize import brentq

from slow_ribbon.core.geometry.catenary import CordSpan
from slow_ribbon.core.geometry.curves import Curve
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Distance, Point3, Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import SAME_SHARE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.legs.base import LegBase, Move, place
from slow_ribbon.core.lines.legs.of_span import leg_of

#: Millimetres in a metre.
_MM: Final = 1000.0
#: Half the span over the parameter, at most: beyond it a cord sags by more than a hundred times its span.
_STEEPEST: Final = 8.0


class CordLeg(LegBase):
    """A cord hanging between two points: by its sag (greatest drop below the straight, measured upright), its length or its pull.

    ``weight`` is that of the cord itself, N a metre, without which its pull is not known; ``pull`` the level part of its pull, N,
    which is the same all along it. ``allowance`` is how much more of it is cut at either end, mm.
    """

    words = "a catenary"

    kind: Literal["cord"] = "cord"
    sag: Size | None = None
    length: Size | None = None
    weight: Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)] | None = None
    pull: Annotated[float, Field(gt=0, le=1e12, allow_inf_nan=False)] | None = None
    allowance: Distance = 0.0

    def spans(self, begin: Point3, where: str = "") -> list[Curve]:
        return [_cord(self, np.array(begin, dtype=float), where)]

    def carried(self, move: Move, direct: Move, grow: float, over: bool) -> dict[str, Any]:
        # A cord that is scaled keeps its shape: its parameter, pull over weight, grows with it.
        sizes = {"sag": self.sag, "length": self.length, "pull": self.pull}
        return {**{name: None if size is None else size * grow for name, size in sizes.items()}, "allowance": self.allowance}

    def reshaped(self, begin: Point3, new_begin: Point3, new_end: Point3) -> Self:
        """Return the cord between other ends: it keeps its sag, length or pull."""
        return self.model_copy(update={"to": new_end})


@leg_of.register
def _(span: CordSpan, low: float, high: float) -> CordLeg:
    return CordLeg(to=place(span.at(np.array([high]))[0][0]), length=high - low)


def _cord(leg: CordLeg, begin: Array, where: str) -> CordSpan:
    """Return the cord: from √(L² − v²) = 2a·sinh(h/2a) by its length, or from its sag, solved numerically."""
    across = np.array(leg.to) - begin
    level = float(np.hypot(across[0], across[1]))
    height = float(across[2])
    if [leg.sag, leg.length, leg.pull].count(None) != 2:
        raise Refused("A cord is given by its sag, by its length or by its pull: give one of them.", f"{where}.sag", "cord")
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
    elif leg.pull is not None:
        if leg.weight is None:
            raise Refused("How a cord hangs by its pull depends on its weight: give that too.", f"{where}.weight", "cord")
        half = level / (2 * _MM * leg.pull / leg.weight)
        if half > _STEEPEST:
            what = f"A pull of {leg.pull:g} N cannot hold a cord of {leg.weight:g} N/m over {figure(level)}: make it more."
            raise Refused(what, f"{where}.pull", "cord")
    else:
        assert leg.sag is not None  # one of the three is given
        sag = leg.sag

        def off(q: float) -> float:
            a = level / (2 * q)
            return _sag(a, level, height) - sag

        if sag > 100 * span:
            raise Refused(f"A sag of {figure(sag, 3)} is over a hundred times the span of {figure(span, 0)}.", f"{where}.sag", "cord")
        half = _solve(off, 1e-9, 1e-3)
    a = level / (2 * half)
    lowest = level / 2 - a * math.asinh(height / (2 * a * math.sinh(half)))
    length = a * (math.sinh((level - lowest) / a) + math.sinh(lowest / a))
    return CordSpan(begin, np.array([across[0] / level, across[1] / level, 0.0]), a, lowest, length)


@dataclass(frozen=True)
class CordPulls:
    """What pulls at a cord, N: the ``level`` part, the same all along it and all there is at its lowest point, and at both ends."""

    level: float
    begin: float
    end: float


def cord_pulls(span: CordSpan, weight: float) -> CordPulls:
    """Return the pulls of a cord under its own weight, N a metre.

    H = w·a everywhere, and T = w·y at a height y above the directrix, a below the lowest point (the catenary, in any handbook of statics).
    """
    a = span.parameter
    end = float((span.at(np.array([span.length]))[0][0] - span.begin) @ span.level)
    at = [weight * a / _MM * math.cosh((x - span.lowest) / a) for x in (0.0, end)]
    return CordPulls(weight * a / _MM, *at)


@dataclass(frozen=True)
class Hanging:
    """How a cord hangs: its sag, mm, and its pulls where its weight is known."""

    sag: float
    pulls: CordPulls | None


def hanging(span: Curve, leg: LegBase) -> Hanging | None:
    """Return how a span of a leg hangs; None where it is no cord."""
    if not isinstance(span, CordSpan):
        return None
    across = span.at(np.array([span.length]))[0][0] - span.begin
    weight = leg.weight if isinstance(leg, CordLeg) else None
    sag = _sag(span.parameter, float(across @ span.level), float(across[2]))
    return Hanging(sag, None if weight is None else cord_pulls(span, weight))


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
