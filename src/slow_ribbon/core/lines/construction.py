"""How a line is made, where it follows something else: a walk, another line, or two, the face of a run.

A line that follows is made again whenever what it follows changes; changed by hand, it no
longer follows.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.kernel.fields import Coordinate, Id, Model, Point3
from slow_ribbon.core.kernel.units import System
from slow_ribbon.core.sections.document.section import Across, Up


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


class SetOut(Model):
    """The line lies where the datum of a run has to be, for its section to lie so from another line.

    ``stand_off`` and ``lift`` are measured from that line to what they are said ``of``, as in the run's placing: so a measure is
    one to the run's face, and its line follows, whatever its section becomes.
    """

    kind: Literal["set_out"] = "set_out"
    line: Id
    run: Id
    stand_off: Coordinate = 0.0
    lift: Coordinate = 0.0
    stand_off_of: Across = "datum"
    lift_of: Up = "datum"


AnyMade = Walk | Offset | Midway | SetOut
Made = Annotated[Walk | Offset | Midway | SetOut, Field(discriminator="kind")]


def stands_on(made: AnyMade | None) -> tuple[str, ...]:
    """Return the ids of the lines that a way of making uses."""
    if isinstance(made, Offset | SetOut):
        return (made.line,)
    return made.lines if isinstance(made, Midway) else ()
