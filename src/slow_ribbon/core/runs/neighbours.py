"""What stands beside a run and is made of other things of the job, as the run goes by it: found whenever these change.

Terms
-----
met
    what an end of the run comes to: a straight piece of another run, as a section that goes on without end.
beside
    joints of another run, told by where on this run's line they come nearest.
supports
    what joints come over: items of a row, told likewise.
"""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from slow_ribbon.core.kernel.fields import Coordinate, Distance, Id, Model, Point3
from slow_ribbon.core.sections.outline import Outline

_Some = Field(max_length=100_000, fail_fast=True)


class Met(Model):
    """What the free end at a chainage (``at``, mm) comes to: a piece of another run, its ``outline`` in its own (right, up) frame.

    ``place`` is a point of its line; ``right`` and ``up`` are square to it.
    """

    run: Id
    at: Distance
    outline: Outline
    place: Point3
    right: tuple[Coordinate, Coordinate, Coordinate]
    up: tuple[Coordinate, Coordinate, Coordinate]


class Neighbours(Model):
    """What a run takes from other things: what its ends come to, chainages of joints ``beside`` it, and of ``supports``, mm."""

    met: Annotated[tuple[Met, ...], Field(max_length=1000, fail_fast=True)] = ()
    beside: Annotated[tuple[Distance, ...], _Some] = ()
    supports: Annotated[tuple[Distance, ...], _Some] = ()
