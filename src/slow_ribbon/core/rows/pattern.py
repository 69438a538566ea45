"""Which item stands where in a row: several in turn, others at ends, corners and openings.

Terms
-----
letter
    names an item of a row: *A* is the row's own, *B* the first of the others, and so on.
"""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field, StringConstraints

from slow_ribbon.core.kernel.arrays import Array, Indices
from slow_ribbon.core.kernel.fields import Angle, Coordinate, Id, Model
from slow_ribbon.core.rows.items import Item
from slow_ribbon.core.sections.document.materials import Material

Letter = Annotated[str, StringConstraints(pattern=r"^[A-Z]$")]


class Seat(Model):
    """The point of an item that sits on the line, from the middle of its foot, mm."""

    along: Coordinate = 0.0
    across: Coordinate = 0.0
    up: Coordinate = 0.0


class OtherItem(Model):
    """Another item of a row: ``shift`` mm further along the line, ``stand_off`` to the right and ``lift`` up, turned by ``turn`` degrees.

    Of the material of the row where it has none of its own.
    """

    item: Item
    seat: Seat = Seat()
    shift: Coordinate = 0.0
    stand_off: Coordinate = 0.0
    lift: Coordinate = 0.0
    turn: Angle = 0.0
    material: Material | None = None


class ItemPattern(Model):
    """Items in turn, by their letters, again and again, counted from the first item or from the last.

    ``at_ends``, ``at_corners`` and ``at_openings`` say which stands first and last, on corners of the line and beside openings, where
    another does than its turn would be; at an end that is a corner the end's.
    """

    others: Annotated[tuple[OtherItem, ...], Field(max_length=25)] = ()
    turns: Annotated[str, StringConstraints(pattern=r"^[A-Z]{1,60}$")] = "A"
    counted: Literal["start", "end"] = "start"
    at_ends: Letter | None = None
    at_corners: Letter | None = None
    at_openings: Letter | None = None

    @property
    def letters(self) -> list[str]:
        """The letters that it uses, each once, in their order."""
        special = (self.at_ends, self.at_corners, self.at_openings)
        return sorted({*self.turns, *(one for one in special if one is not None)})

    def dealt(self, ends: Indices, corners: Array, beside: Array, count: int) -> Indices:
        """Return the number (count,) of the item that stands in each place: 0 is A.

        ``ends`` are the numbers of the places that are first or last; ``corners`` and ``beside`` (count,) say which places are on
        corners and beside openings.
        """
        turns = np.array([ord(letter) - 65 for letter in self.turns])
        number = np.arange(count) if self.counted == "start" else np.arange(count)[::-1]
        found = turns[number % len(turns)]
        for letter, where in ((self.at_openings, beside), (self.at_corners, corners), (self.at_ends, ends)):
            if letter is not None:
                found[where] = ord(letter) - 65
        return np.asarray(found)

    def turned_round(self, half: bool) -> ItemPattern:
        """Return the pattern that deals the same items on the line gone the other way; ``half`` where their seats turn with them."""
        others = tuple(
            one.model_copy(
                update={
                    "shift": 0.0 - one.shift,
                    "stand_off": 0.0 - one.stand_off,
                    "seat": opposite(one.seat) if half else one.seat,
                }
            )
            for one in self.others
        )
        return self.model_copy(update={"counted": "end" if self.counted == "start" else "start", "others": others})

    def turned_over(self, axis: Literal["along", "across"]) -> ItemPattern:
        """Return the pattern on the line seen in a mirror, in which ``axis`` of a seat changes its sign."""
        others = tuple(
            one.model_copy(
                update={
                    "stand_off": 0.0 - one.stand_off,
                    "turn": 0.0 - one.turn,
                    "seat": one.seat.model_copy(update={axis: 0.0 - getattr(one.seat, axis)}),
                }
            )
            for one in self.others
        )
        return self.model_copy(update={"others": others})


class HeldItem(Model):
    """An item that is held by hand at a mark of its line: another item, or turned further, or left out.

    The others space themselves around it; where it is left out they stay as they are, and the one that is nearest is not there.
    """

    mark: Id
    item: Letter | None = None
    turn: Angle = 0.0
    out: bool = False


def opposite(seat: Seat) -> Seat:
    """Return a seat as it is measured in axes that turned by half a turn."""
    return seat.model_copy(update={"along": 0.0 - seat.along, "across": 0.0 - seat.across})
