"""How a line is made, where it follows something else: a walk, another line, or two.

A line that follows is made again whenever what it follows changes; changed by hand, it no
longer follows.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.kernel.fields import Coordinate, Id, Model, Point3
from slow_ribbon.core.kernel.units import System


class Walk(Model):
    """The line is walked: its text, from ``start``. Bare numbers in it are in the units the job had then, ``system``."""

    kind: Literal["walk"] = "walk"
    text: Annotated[str, Field(min_length=1, max_length=20_000)]
    start: Point3 = (0.0, 0.0, 0.0)
    system: System | None = None


class Offset(Model):
    """The line lies beside another, ``distance`` mm to the right of its travel; to the left with a minus."""

    kind: Literal["offset"] = "offset"
    line: Id
    distance: Coordinate


class Midway(Model):
    """The line lies midway between two others."""

    kind: Literal["midway"] = "midway"
    lines: tuple[Id, Id]


Made = Annotated[Walk | Offset | Midway, Field(discriminator="kind")]


def stands_on(made: Walk | Offset | Midway | None) -> tuple[str, ...]:
    """Return the ids of the lines that a way of making uses."""
    if isinstance(made, Offset):
        return (made.line,)
    return made.lines if isinstance(made, Midway) else ()
