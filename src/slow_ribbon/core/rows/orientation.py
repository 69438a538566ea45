"""How items are turned: with the line, keeping one bearing, toward a point; and by how much each differs from the one before.

Terms
-----
heading
    the direction on plan of an item's *along* axis, radians anticlockwise from +x.
tilt
    the rotation that takes an item from upright to how it stands: a level axis whose length is the angle, radians.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Annotated, ClassVar, Final, Literal, Self, Union

import numpy as np
from pydantic import Field

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Angle, Model, Point2, Point3
from slow_ribbon.core.kernel.tolerances import ROUNDING


class Turning(Model, ABC):
    """How items are turned, and stand.

    ``by``: this many degrees more for every item, anticlockwise. ``more``: this many degrees more at each item than at the one
    before, about one of its axes, counted from item ``counted``: 1 is the first, -1 the last, 0 the middle, both ways from there.
    ``chance``: up to this many degrees more or less, by chance; ``seed`` names the draw, so that it is the same again, and one below
    zero is drawn from the last item back. ``stands``: plumb, or square to the line's slope.
    """

    kind: str
    by: Angle = 0.0
    more: Angle = 0.0
    about: Literal["up", "along", "across"] = "up"
    counted: Annotated[int, Field(ge=-1_000_000, le=1_000_000)] = 1
    chance: Annotated[float, Field(ge=0, le=180, allow_inf_nan=False)] = 0.0
    seed: Annotated[int, Field(ge=-(2**31), lt=2**31)] = 0
    stands: Literal["plumb", "slope"] = "plumb"

    #: What the rule is called, in a sentence.
    words: ClassVar[str]
    #: Whether an item turns by half a turn when its line is reversed.
    with_line: ClassVar[bool]
    #: Whether items stand alike wherever the line goes on straight.
    steady: ClassVar[bool] = True
    #: What a field is where an edit does not say it.
    usual: ClassVar[Mapping[str, object]] = {}
    #: Which field each of its own takes over from another way of turning.
    like: ClassVar[Mapping[str, tuple[str, ...]]] = {
        name: (name,) for name in ("by", "more", "about", "counted", "chance", "seed", "stands")
    }

    @abstractmethod
    def bearings(self, line: Array, points: Array) -> Array:
        """Return the headings (n,) before anything is added, where the line has the headings ``line`` (n,) at ``points`` (n, 3)."""

    @property
    def tilts(self) -> bool:
        """Whether an item may stand otherwise than upright."""
        return self.stands == "slope" or (self.more != 0 and self.about != "up")

    @property
    def differs(self) -> bool:
        """Whether an item is turned otherwise than the one before it because of its number."""
        return self.more != 0 or self.chance > 0

    def steps(self, count: int) -> Array:
        """Return by how much items (count,) are turned more than the one that is counted from, radians."""
        first = (count - 1) / 2 if self.counted == 0 else self.counted - 1 if self.counted > 0 else count + self.counted
        return np.asarray(np.radians(self.more) * (np.arange(count) - first))

    def headings(self, line: Array, points: Array, numbered: bool = True) -> Array:
        """Return the headings (n,) of items; of places that are only looked at, and have no number, where not ``numbered``."""
        found = self.bearings(line, points) + math.radians(self.by)
        if numbered and self.more and self.about == "up":
            found = found + self.steps(len(line))
        if numbered and self.chance > 0:
            # The draw of an item depends on its number alone.
            drawn = np.random.Generator(np.random.Philox(self.seed if self.seed >= 0 else -1 - self.seed)).uniform(-1.0, 1.0, len(line))
            found = found + math.radians(self.chance) * (drawn if self.seed >= 0 else drawn[::-1])
        return np.asarray(found)

    def turned_round(self, half: bool) -> Self:
        """Return how the same items are turned on the line gone the other way; ``half`` where half a turn is not made up for elsewhere."""
        by = (self.by + 360.0) % 360.0 - 180.0 if half and self.with_line else self.by
        return self.model_copy(update={"more": 0.0 - self.more, "counted": -self.counted, "seed": -1 - self.seed, "by": by})

    def turned_over(self, move: Callable[[Point3], Point3], axis: Literal["along", "across"]) -> Self:
        """Return how items are turned on the line seen in a mirror, which turns their own ``axis`` about."""
        more = self.more if self.about == axis else 0.0 - self.more
        return self.moved(move).model_copy(update={"more": more, "by": 0.0 - self.by})

    def moved(self, move: Callable[[Point3], Point3]) -> Self:
        """Return how items are turned after their line was moved."""
        return self


class TurnWithLine(Turning):
    """Items turn with the line; at a corner they stand to its bisector."""

    words = "with the line"
    with_line = True

    kind: Literal["line"] = "line"

    def bearings(self, line: Array, points: Array) -> Array:
        return line


class TurnBearing(Turning):
    """Items keep one bearing, degrees clockwise from north."""

    words = "one bearing"
    with_line = False
    usual: ClassVar = {"bearing": 0.0}

    kind: Literal["bearing"] = "bearing"
    bearing: Angle

    def bearings(self, line: Array, points: Array) -> Array:
        return np.full(len(line), math.radians(90.0 - self.bearing))


class TurnToward(Turning):
    """Items turn their *along* axis toward a point on plan, mm; one that stands on it turns with the line."""

    words = "toward a point"
    with_line = False
    steady = False
    usual: ClassVar = {"point": (0.0, 0.0)}

    kind: Literal["toward"] = "toward"
    point: Point2

    def bearings(self, line: Array, points: Array) -> Array:
        away = np.asarray(self.point) - points[:, :2]
        there = np.hypot(away[:, 0], away[:, 1]) > ROUNDING
        return np.where(there, np.arctan2(away[:, 1], away[:, 0]), line)

    def moved(self, move: Callable[[Point3], Point3]) -> Self:
        x, y, _ = move((*self.point, 0.0))
        return self.model_copy(update={"point": (x, y)})


#: Every way of turning.
TURNS: Final[tuple[type[Turning], ...]] = (TurnWithLine, TurnBearing, TurnToward)

if TYPE_CHECKING:
    Turn = Turning
else:
    Turn = Annotated[Union[TURNS], Field(discriminator="kind")]  # noqa: UP007  # made of the registry
