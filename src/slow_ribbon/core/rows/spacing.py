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

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Distance, Model, Size

#: Lets 2400 / 600 be four bays although it is 4.0000000000000001 in floating point.
NUDGE = 1e-9
#: Lengths that differ by less, mm, are the same.
SHORT = 1e-6


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
    round has no first and last, so that they do nothing there.
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
    ``closing`` is the bay of a ring from its last item back to the first, where that is another
    than the others. ``short``: the stretch is shorter than its insets and holds nothing.
    """

    places: Array
    bays: int
    centres: float
    left_start: float
    left_end: float
    closing: float | None = None
    short: bool = False

    @property
    def all_centres(self) -> tuple[float, ...]:
        """Return the centres that items of this stretch stand at, mm; none where there is no bay."""
        if not self.bays:
            return ()
        return (self.centres,) if self.closing is None else (*((self.centres,) if self.bays > 1 else ()), self.closing)


def count_of(length: float, spacing: Spacing, ring: bool) -> int:
    """Return how many places a stretch of ``length`` mm gives, first and last included."""
    rule = spacing.rule
    if ring:
        most = rule.most if isinstance(rule, EqualBays) else rule.centres
        return max(1, math.ceil(length / most - NUDGE))
    free = length - spacing.inset_start - spacing.inset_end
    if free < -SHORT:
        return 0
    free = max(0.0, free)
    if isinstance(rule, EqualBays):
        return max(1, math.ceil(free / rule.most - NUDGE)) + 1 if free > 0 else 1
    return math.floor(free / rule.centres + NUDGE) + 1


def set_out(length: float, spacing: Spacing, ring: bool = False) -> Stretch:
    """Return the places on a stretch of ``length`` mm; ``ring`` for a closed line carried round.

    Round a ring fixed centres are counted from its start on, from its end back, or to both
    sides of its start; the last bay takes what is left. A stretch shorter than its insets has no places.
    """
    rule = spacing.rule
    count = count_of(length, spacing, ring)
    if ring:
        if isinstance(rule, EqualBays):
            return Stretch(np.arange(count, dtype=np.float64) * (length / count), count, length / count, 0.0, 0.0)
        closing = length - (count - 1) * rule.centres
        begin = {"start": 0.0, "centred": closing / 2, "end": closing % length}[rule.origin]
        places = begin + np.arange(count, dtype=np.float64) * rule.centres
        return Stretch(places, count, rule.centres, 0.0, 0.0, closing if abs(closing - rule.centres) > SHORT else None)
    if not count:
        return Stretch(np.zeros(0), 0, 0.0, 0.0, 0.0, short=True)
    free = max(0.0, length - spacing.inset_start - spacing.inset_end)
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
