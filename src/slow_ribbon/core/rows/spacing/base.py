"""The base of spacing rules, and their results.

Terms
-----
centres
    the distance from item to item; a *bay* is the space between two neighbours.
clear gap
    the space between the faces of two neighbours.
left-over
    what a rule leaves at the ends of a stretch beyond its insets.
ring
    a closed line carried round: it has no first and no last, and as many bays as items.

Formulas are those of section 7 of docs/geometry.md.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Model
from slow_ribbon.core.kernel.tolerances import NEARLY_WHOLE, SAME_PLACE
from slow_ribbon.core.rows.metrics import Metric


@dataclass(frozen=True, kw_only=True)
class ItemWidths:
    """What a rule must know of the items, mm.

    ``width``: how wide they stand along the line where they are slimmest, of which gaps are measured; ``widest`` where they are
    widest; ``ahead``: how far their place lies ahead of their middle.
    """

    width: float = 0.0
    ahead: float = 0.0
    widest: float = 0.0


@dataclass(frozen=True, kw_only=True)
class LaidItems:
    """What a rule lays on a stretch: item places (n,), and its figures, mm, as in ``Stretch``."""

    places: Array
    bays: int
    centres: float
    left_start: float = 0.0
    left_end: float = 0.0
    #: The last bay, where it is another than the others.
    closing: float | None = None


class SpacingRule(Model, ABC):
    """Where items stand on a stretch."""

    kind: str

    #: What the rule is called, in a sentence.
    words: ClassVar[str]
    #: Whether its bays fill a stretch, so that those next to its ends can be of another size.
    fills: ClassVar[bool] = False
    #: Whether it counts from the faces of what a stretch lies between.
    from_faces: ClassVar[bool] = False
    #: Which field each of its own takes over from another rule that it takes the place of.
    like: ClassVar[Mapping[str, tuple[str, ...]]] = {}

    @abstractmethod
    def count(self, stretch: Metric, ring: bool, item: ItemWidths) -> int:
        """Return how many places it lays on a stretch without insets, or cheaply a number that it does not exceed."""

    @abstractmethod
    def lay(self, stretch: Metric, ring: bool, item: ItemWidths) -> LaidItems:
        """Return the places that it lays on a stretch without insets."""

    def parted(self, lengths: Sequence[float], ring: bool) -> list[Self]:
        """Return the rules by which a stretch is laid whose items in between are held: one for each part, which are ``lengths`` mm long.

        ``ring`` where the parts go round a closed line. An item that is held where the rule has it must change nothing.
        """
        return [self] * len(lengths)

    def between_end_bays(self, ends: int) -> Self | None:
        """Return the rule that fills what bays of another size at its ends leave of a stretch; None where no more bays are left."""
        return self

    def reversed(self) -> Self:
        """Return the rule that lays the same places on the stretch gone the other way."""
        return self


class EqualRule(SpacingRule):
    """A rule by which a stretch is filled with equal bays; how many is its question."""

    fills = True

    @abstractmethod
    def bays_of(self, bays: float, ring: bool) -> int:
        """Return the number of bays where the rule's own distance goes ``bays`` times into the stretch."""

    @abstractmethod
    def distance(self) -> float:
        """Return the rule's own distance, mm."""

    def count(self, stretch: Metric, ring: bool, item: ItemWidths) -> int:
        bays = self.bays_of(stretch.at_most(self.distance()), ring)
        return bays if ring else bays + 1

    def lay(self, stretch: Metric, ring: bool, item: ItemWidths) -> LaidItems:
        bays = self.bays_of(stretch.bays(self.distance()), ring) if stretch.length > 0 else 0
        laid = evenly(stretch, bays, ring)
        # Where corners let no chords be quite equal, the last must still be as it was asked.
        for more in range(1, 6):
            if self.allows(laid.closing):
                break
            laid = evenly(stretch, bays + more, ring)
        return laid

    def allows(self, last: float | None) -> bool:
        """Return whether a last bay that is another than the others may be so."""
        return True


def evenly(stretch: Metric, bays: int, ring: bool) -> LaidItems:
    """Return a stretch filled with a number of equal bays; with none, one item in its middle."""
    if bays < 1 or stretch.length <= SAME_PLACE:
        half = stretch.length / 2
        left = stretch.size / 2
        return LaidItems(places=np.array([half]), bays=0, centres=0.0, left_start=left, left_end=left)
    centres = stretch.evenly(bays)
    places = stretch.laid(0.0, centres, bays if ring else bays + 1)
    if not ring:
        # The last place is the end itself, and not a rounding away from it.
        places[-1] = stretch.length
    last = stretch.apart(float(places[-1 if ring else -2]), stretch.length)
    return LaidItems(places=places, bays=bays, centres=centres, closing=last if abs(last - centres) > SAME_PLACE else None)


def whole(bays: float) -> int:
    """Return the whole bays of a number of them, one at least, that are no wider than was asked."""
    return max(1, math.ceil(bays - NEARLY_WHOLE))


def closing_bay(stretch: Metric, places: Array, centres: float) -> float | None:
    """Return the bay of a ring from its last item back to its first, where that is another than the others."""
    closing = stretch.apart(float(places[-1]), stretch.length) + stretch.apart(0.0, float(places[0]))
    return closing if abs(closing - centres) > SAME_PLACE else None
