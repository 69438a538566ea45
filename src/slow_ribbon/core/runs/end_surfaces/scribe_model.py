"""What a run takes from other things of the job, derived again whenever these change.

Terms
-----
met
    what an end of the run meets: a straight piece of another run, as a section that goes on without end, or one that bends.
stretch
    a part of a piece that bends, known by how its section lies at some places along it: between them by the polynomial through them.
beside
    joints of another run, given by where on this run's line they come nearest.
supports
    what joints come over: items of a row, given likewise.
trim
    what the job's saw leaves at either end of a piece, which a bar must be long enough for too.
"""

from __future__ import annotations

from typing import Annotated

import numpy as np
from pydantic import Field
from scipy.interpolate import BarycentricInterpolator

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Coordinate, Distance, Id, Model, Point3
from slow_ribbon.core.sections.outline.outline import Outline

_Some = Field(max_length=100_000, fail_fast=True)


Vector3 = tuple[Coordinate, Coordinate, Coordinate]
Shares = Annotated[tuple[Annotated[float, Field(ge=0, le=1)], ...], Field(min_length=2, max_length=100)]


class BentStretch(Model):
    """A stretch of a piece that bends: at ``shares`` of it, from 0 to 1, ``places`` of its line, and the frame of its section there."""

    shares: Shares
    places: Annotated[tuple[Point3, ...], Field(min_length=2, max_length=100)]
    rights: Annotated[tuple[Vector3, ...], Field(min_length=2, max_length=100)]
    ups: Annotated[tuple[Vector3, ...], Field(min_length=2, max_length=100)]

    def at(self, shares: Array) -> tuple[Array, Array, Array]:
        """Return places, rights and ups, (n, 3) each, at shares (n,) of it."""
        message = np.hstack([np.array(one, dtype=float) for one in (self.places, self.rights, self.ups)])
        # The weights are given: those that are found take the places in an order of chance, and end otherwise in their last bits.
        apart = np.subtract.outer(self.shares, self.shares) + np.eye(len(self.shares))
        with np.errstate(divide="ignore", invalid="ignore"):  # at the shares themselves nothing is divided by
            found = BarycentricInterpolator(self.shares, message, wi=1 / apart.prod(axis=1))(shares)
        return found[:, :3], found[:, 3:6], found[:, 6:]


class ScribeTarget(Model):
    """What the free end at a chainage (``at``, mm) meets: a piece of another run, its ``outline`` in its own (right, up) frame.

    ``place`` is a point of its line; ``right`` and ``up`` are square to it. ``bent``: where it bends, stretches of it one after another.
    """

    run: Id
    at: Distance
    outline: Outline
    place: Point3
    right: Vector3
    up: Vector3
    bent: Annotated[tuple[BentStretch, ...], Field(max_length=1000, fail_fast=True)] = ()


class Neighbours(Model):
    """What a run takes from other things: what its ends meet, chainages of joints ``beside`` it, and of ``supports``, mm.

    ``trim``: this much longer than they are in their place its pieces are sawn at either end, where they are jointed from bars.
    """

    met: Annotated[tuple[ScribeTarget, ...], Field(max_length=1000, fail_fast=True)] = ()
    beside: Annotated[tuple[Distance, ...], _Some] = ()
    supports: Annotated[tuple[Distance, ...], _Some] = ()
    trim: Distance = 0.0

    @property
    def empty(self) -> bool:
        """Whether the run takes nothing from other things."""
        return not (self.met or self.beside or self.supports or self.trim)
