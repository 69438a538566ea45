"""Where items stand along a stretch: the spacing rules.

Terms
-----
stretch
    a length along a line that items are set out on: a whole line, or a line from corner to corner.
inset
    the distance from a stretch's end to the first place an item may stand.
centres
    the distance from item to item; a *bay* is the space between two neighbours.
left-over
    what a rule leaves at the ends of a stretch beyond its insets.

Formulas are those of section 7 of the geometry notes.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.faults import Refused
from slow_ribbon.core.model import Distance, Model, Size
from slow_ribbon.core.shape import Array

#: Lets 2400 / 600 be four bays although it is 4.0000000000000001 in floating point.
NUDGE = 1e-9


class EqualBays(Model):
    """Equal bays, none wider than ``most``."""

    kind: Literal["equal-bays"] = "equal-bays"
    most: Size


class FixedCentres(Model):
    """Fixed centres, counted from the start, centred, or from the end."""

    kind: Literal["fixed-centres"] = "fixed-centres"
    centres: Size
    origin: Literal["start", "centred", "end"] = "start"


Rule = Annotated[EqualBays | FixedCentres, Field(discriminator="kind")]


class Spacing(Model):
    """A spacing rule with what happens at the ends and at the corners.

    ``corners``: *carry* measures round the corners as if the line were straight; *restart*
    begins anew at each. Insets and leaving out concern each stretch; a closed line carried
    round has no first and last.
    """

    rule: Rule
    inset_start: Distance = 0.0
    inset_end: Distance = 0.0
    first: bool = True
    last: bool = True
    corners: Literal["carry", "restart"] = "carry"


@dataclass(frozen=True)
class Stretch:
    """What came out on one stretch: item places from its start, and the figures of the rule, mm.

    ``bays`` counts the spaces between places whether or not first and last are left out.
    """

    places: Array
    bays: int
    centres: float
    left_start: float
    left_end: float


def count_of(length: float, spacing: Spacing, ring: bool) -> int:
    """Return how many places a stretch of ``length`` mm gives, first and last included."""
    rule = spacing.rule
    if ring:
        most = rule.most if isinstance(rule, EqualBays) else rule.centres
        return max(1, math.ceil(length / most - NUDGE))
    free = _free(length, spacing)
    if isinstance(rule, EqualBays):
        return max(1, math.ceil(free / rule.most - NUDGE)) + 1 if free > 0 else 1
    return math.floor(free / rule.centres + NUDGE) + 1


def set_out(length: float, spacing: Spacing, ring: bool = False) -> Stretch:
    """Return the places on a stretch of ``length`` mm; ``ring`` for a closed line carried round.

    Raises ``Refused`` where the insets are longer than the stretch.
    """
    rule = spacing.rule
    count = count_of(length, spacing, ring)
    if ring:
        centres = length / count if isinstance(rule, EqualBays) else rule.centres
        # At fixed centres the last bay, back to the first item, takes what is left.
        closing = length - (count - 1) * centres
        return Stretch(np.arange(count, dtype=np.float64) * centres, count, centres, 0.0, 0.0 if isinstance(rule, EqualBays) else closing)
    free = _free(length, spacing)
    if isinstance(rule, EqualBays):
        bays = count - 1
        centres = free / bays if bays else 0.0
        begin = left_start = left_end = 0.0
    else:
        bays, centres = count - 1, rule.centres
        over = max(0.0, free - bays * centres)
        begin = {"start": 0.0, "centred": over / 2, "end": over}[rule.origin]
        left_start, left_end = begin, over - begin
    places = spacing.inset_start + begin + np.arange(count, dtype=np.float64) * centres
    keep = slice(0 if spacing.first else 1, count if spacing.last else count - 1)
    return Stretch(places[keep], bays, centres, left_start, left_end)


def _free(length: float, spacing: Spacing) -> float:
    free = length - spacing.inset_start - spacing.inset_end
    if free < -1e-6:
        raise Refused(
            f"The insets together are {spacing.inset_start + spacing.inset_end:g}, "
            f"longer than a stretch of {length:.1f}: make them shorter.",
            "spacing.inset_start",
            "inset-long",
        )
    return max(0.0, free)
