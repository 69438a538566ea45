"""Where items stand along a stretch: a file for each family of rules, all of them listed here."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Annotated, Final, Literal, Union

import numpy as np
from pydantic import Field

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Distance, Model
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.rows.metrics import METRICS, AlongLine, Metric
from slow_ribbon.core.rows.spacing.base import ItemWidths, LaidItems, SpacingRule
from slow_ribbon.core.rows.spacing.clear_gap import ClearGap
from slow_ribbon.core.rows.spacing.equal_bays import EqualBays, NearestBays
from slow_ribbon.core.rows.spacing.fixed_centres import FixedCentres
from slow_ribbon.core.rows.spacing.set_number import SetNumber

#: Every spacing rule.
RULES: Final[tuple[type[SpacingRule], ...]] = (EqualBays, NearestBays, FixedCentres, SetNumber, ClearGap)

if TYPE_CHECKING:
    Rule = SpacingRule
    Measured = str
else:
    Rule = Annotated[Union[RULES], Field(discriminator="kind")]  # noqa: UP007  # made of the registry
    Measured = Literal[tuple(METRICS)]


class Spacing(Model):
    """A spacing rule with how distance is measured, and what happens at the ends and at the corners.

    ``corners``: *carry* measures round the corners as if the line were straight; *restart*
    begins again at each. Insets and leaving out concern each stretch; a closed line carried
    round has no first and last, so that they do nothing there. ``end_bay``, ``corner_bay`` and ``opening_bay`` are the sizes of the bays
    next to the ends of a row, to corners at which it begins again, and to openings and what it keeps clear of; 0 where they are like the
    others. They do nothing for a rule whose bays do not fill a stretch.
    """

    rule: Rule
    measured: Measured = "along"
    inset_start: Distance = 0.0
    inset_end: Distance = 0.0
    first: bool = True
    last: bool = True
    corners: Literal["carry", "restart"] = "carry"
    end_bay: Distance = 0.0
    corner_bay: Distance = 0.0
    opening_bay: Distance = 0.0


@dataclass(frozen=True, kw_only=True)
class RowStretch:
    """What came out on one stretch: item places from its start, and the figures of the rule, mm.

    ``bays`` counts the spaces between places whether or not first and last are left out.
    ``gap`` is clear between the faces of two neighbours where they are slimmest, ``tight`` where they are
    widest: below zero where they stand in one another. ``closing`` is the bay of a ring from its last item back to the first, where that
    is another than the others. ``end_bays`` are those of sizes of their own at its ends; ``crowded``: there is no room for them, and they
    are like the others. ``short``: the stretch is shorter than its insets and holds nothing.
    """

    places: Array
    bays: int
    centres: float
    gap: float | None
    tight: float | None
    left_start: float
    left_end: float
    closing: float | None = None
    end_bays: tuple[float, ...] = ()
    crowded: bool = False
    short: bool = False

    @property
    def all_centres(self) -> tuple[float, ...]:
        """Return the centres that items of this stretch stand at, mm; none where there is no bay."""
        if not self.bays:
            return ()
        equal = self.bays - len(self.end_bays)
        last = () if self.closing is None else (self.closing,)
        return (*((self.centres,) if equal > len(last) else ()), *last, *self.end_bays)


def _inset(stretch: Metric, spacing: Spacing) -> Metric | None:
    """Return a stretch without its insets, measured as it is; None where it is shorter than they are."""
    start, end = spacing.inset_start, spacing.inset_end
    if not start and not end:
        return stretch
    if start + end > stretch.length + SAME_PLACE:
        return None
    low = float(stretch.laid(start, 1.0, 1)[0]) if start else 0.0
    high = float(stretch.laid_back(end, 1.0, 1)[0]) if end else stretch.length
    if high - low < -SAME_PLACE:
        return None
    return _part(stretch, low, max(low, high))


def _part(stretch: Metric, low: float, high: float) -> Metric:
    """Return the part of a stretch between two places, measured as it is, or along the line where it is a single place.

    Of a single place every measure says the same, and only that along the line needs no length to say it.
    """
    part = stretch.part(low, high)
    return part if part.length > 0 else AlongLine(0.0, part.course, part.begin)


def count_of(stretch: Metric, spacing: Spacing, ring: bool, item: ItemWidths) -> int:
    """Return how many places a stretch gives, first and last included, or cheaply a number that it does not exceed."""
    if ring:
        return spacing.rule.count(stretch, ring, item)
    free = stretch.length - spacing.inset_start - spacing.inset_end
    return 0 if free < -SAME_PLACE else spacing.rule.count(_part(stretch, 0.0, max(0.0, free)), ring, item)


def _laid(free: Metric, rule: SpacingRule, ring: bool, item: ItemWidths, ends: tuple[float, float]) -> tuple[LaidItems, tuple[float, ...]]:
    """Return what a rule lays on a stretch without its insets, with bays of sizes of their own next to its ``ends``, and these bays."""
    begin, end = ends
    sizes = tuple(size for size in ends if size)
    between = rule.between_end_bays(len(sizes)) if sizes and rule.fills and not ring else None
    if between is None or free.at_most(1.0) <= begin + end:
        return rule.lay(free, ring, item), ()
    low = float(free.laid(begin, 1.0, 1)[0]) if begin else 0.0
    high = float(free.laid_back(end, 1.0, 1)[0]) if end else free.length
    if high - low <= SAME_PLACE:
        return rule.lay(free, ring, item), ()
    laid = between.lay(_part(free, low, high), ring, item)
    if not laid.bays:
        return rule.lay(free, ring, item), ()
    places = np.concatenate([[0.0] if begin else [], low + laid.places, [free.length] if end else []])
    return replace(laid, places=places, bays=laid.bays + len(sizes)), sizes


def set_out(
    stretch: Metric, spacing: Spacing, ring: bool = False, item: ItemWidths | None = None, ends: tuple[float, float] = (0.0, 0.0)
) -> RowStretch:
    """Return the places on a stretch; ``ring`` for a closed line carried round. One shorter than its insets has no places.

    ``ends`` are the sizes of the bays next to its ends, mm, as the spacing measures; 0 for those that are like the others.
    """
    item = item or ItemWidths()
    free = stretch if ring else _inset(stretch, spacing)
    if free is None:
        return RowStretch(places=np.zeros(0), bays=0, centres=0.0, gap=None, tight=None, left_start=0.0, left_end=0.0, short=True)
    laid, sizes = _laid(free, spacing.rule, ring, item, ends)
    tightest, widest = min((laid.centres, *sizes)), max((laid.centres, *sizes))
    keep = slice(None) if ring else slice(0 if spacing.first else 1, len(laid.places) if spacing.last else max(0, len(laid.places) - 1))
    return RowStretch(
        places=(free.begin - stretch.begin + laid.places)[keep],
        bays=laid.bays,
        centres=laid.centres,
        gap=widest - item.width if laid.bays else None,
        tight=tightest - item.widest if laid.bays else None,
        left_start=laid.left_start,
        left_end=laid.left_end,
        closing=laid.closing,
        end_bays=sizes,
        crowded=spacing.rule.fills and any(ends) and not ring and not sizes,
    )


__all__ = [
    "RULES",
    "ClearGap",
    "EqualBays",
    "FixedCentres",
    "ItemWidths",
    "Measured",
    "NearestBays",
    "RowStretch",
    "Rule",
    "SetNumber",
    "Spacing",
    "SpacingRule",
    "count_of",
    "set_out",
]
