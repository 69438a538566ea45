"""How a run is finished where it ends freely: at the ends of its line, and beside openings.

Terms
-----
outward
    the direction in which a piece ends: along travel at its end, against it at its beginning.
front
    the side that the run faces, square to its travel.
past
    how far the run goes on beyond the end of its line, or of its stretch; stopped short with a minus.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from typing import TYPE_CHECKING, Annotated, ClassVar, Final, Literal, Union

import numpy as np
from pydantic import Field

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Coordinate, Distance, Model, Name

#: A cut leans no further than this from square, degrees: beyond it is no cut that could be sawn (common practice, no source).
MOST_LEAN: Final = 80.0

Lean = Annotated[float, Field(ge=-MOST_LEAN, le=MOST_LEAN, allow_inf_nan=False)]


class NoCut(Exception):
    """An end cannot be cut as it is meant: why."""


class Finish(Model, ABC):
    """How an end of a run is made."""

    kind: str
    past: Coordinate = 0.0

    #: What the finish is called, in a sentence.
    words: ClassVar[str]

    @property
    def after(self) -> str:
        """What is done to the end once it is sawn, in words; nothing where it stays as it is."""
        return ""

    @abstractmethod
    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        """Return the normal (3,) of the plane that an end lies in, with a positive part outward; of any size. Raises ``NoCut``."""


class Square(Finish):
    """Cut square."""

    words = "square"

    kind: Literal["square"] = "square"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        return outward


class Angled(Finish):
    """Cut at an angle, degrees from square: ``turn`` lets the front be longer than the back, ``lean`` the top than the bottom."""

    words = "at an angle"

    kind: Literal["angled"] = "angled"
    turn: Lean = 0.0
    lean: Lean = 0.0

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        found: Array = outward - math.tan(math.radians(self.turn)) * front - math.tan(math.radians(self.lean)) * up
        return found


class Plumb(Finish):
    """Cut upright, whatever the pitch."""

    words = "plumb"

    kind: Literal["plumb"] = "plumb"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        level = outward * (1, 1, 0)
        if float(np.linalg.norm(level)) < math.cos(math.radians(MOST_LEAN)):
            raise NoCut("it stands so upright there that a plumb cut would run along it")
        return level


class Level(Finish):
    """Cut level, at the foot or the head of a slope."""

    words = "level"

    kind: Literal["level"] = "level"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        if abs(float(outward[2])) < math.cos(math.radians(MOST_LEAN)):
            raise NoCut("it lies so level there that a level cut would run along it")
        return np.array([0.0, 0.0, math.copysign(1.0, float(outward[2]))])


class Returned(Finish):
    """Mitred and returned: a small piece goes on square to it, away from its front, and ends ``deep`` mm behind the line."""

    words = "returned"

    kind: Literal["returned"] = "returned"
    deep: Distance = 0.0

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        return outward


class Capped(Finish):
    """Cut square and closed by something bought or turned, which is counted by its name."""

    words = "capped"

    kind: Literal["capped"] = "capped"
    cap: Name

    @property
    def after(self) -> str:
        return "capped"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        return outward


#: Every way of finishing an end.
FINISHES: Final[tuple[type[Finish], ...]] = (Square, Angled, Plumb, Level, Returned, Capped)

if TYPE_CHECKING:
    Finished = Finish
else:
    Finished = Annotated[Union[FINISHES], Field(discriminator="kind")]  # noqa: UP007  # made of the registry
