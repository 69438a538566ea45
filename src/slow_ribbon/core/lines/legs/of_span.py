"""From a span back to a leg: each kind of leg registers for the spans that it can write down."""

from __future__ import annotations

from functools import singledispatch

from slow_ribbon.core.geometry.curves import Curve, PartSpan
from slow_ribbon.core.lines.legs.base import LegBase


@singledispatch
def leg_of(span: Curve, low: float, high: float) -> LegBase:
    """Return the leg that is a span from one distance along it to another."""
    raise TypeError(f"there is no leg for a span of the kind {span.kind}")


@leg_of.register
def _(span: PartSpan, low: float, high: float) -> LegBase:
    return leg_of(span.whole, low + span.low, high + span.low)
