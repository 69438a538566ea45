"""How items are turned: with the line, or keeping one bearing."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, ClassVar, Final, Literal, Union

import numpy as np
from pydantic import Field

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Angle, Model


class Turning(Model, ABC):
    """How items are turned."""

    kind: str

    #: What the rule is called, in a sentence.
    words: ClassVar[str]
    #: Whether an item turns by half a turn when its line is reversed.
    with_line: ClassVar[bool]
    #: What a field is where an edit does not say it.
    usual: ClassVar[Mapping[str, float]] = {}

    @abstractmethod
    def headings(self, line: Array, chainages: Array) -> Array:
        """Return the angles (n,) of items' *along* axes, radians anticlockwise from +x, where the line has the headings ``line`` (n,)."""


class TurnWithLine(Turning):
    """Items turn with the line; at a corner they stand to its bisector."""

    words = "with the line"
    with_line = True

    kind: Literal["line"] = "line"

    def headings(self, line: Array, chainages: Array) -> Array:
        return line


class TurnBearing(Turning):
    """Items keep one bearing, degrees clockwise from north."""

    words = "one bearing"
    with_line = False
    usual: ClassVar = {"bearing": 0.0}

    kind: Literal["bearing"] = "bearing"
    bearing: Angle

    def headings(self, line: Array, chainages: Array) -> Array:
        return np.full(len(line), math.radians(90.0 - self.bearing))


#: Every way of turning.
TURNS: Final[tuple[type[Turning], ...]] = (TurnWithLine, TurnBearing)

if TYPE_CHECKING:
    Turn = Turning
else:
    Turn = Annotated[Union[TURNS], Field(discriminator="kind")]  # noqa: UP007  # made of the registry
