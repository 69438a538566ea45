"""Outlines brought to a size: scaled as a whole, or with only some of their straights stretched.

Terms
-----
scaled
    everything grows alike: across by one factor, up by another. Arcs become parts of ellipses where the two differ.
kept
    corners, beads and walls keep their shape; only what lies in a *band* stretches.
band
    a part of the outline from side to side, or from its foot to its head, in which there are only straights along the way
    it stretches: nothing that could be drawn out of shape.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Coordinate, Model
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import NO_LENGTH, SAME_PLACE
from slow_ribbon.core.sections.edges.base import Edge
from slow_ribbon.core.sections.edges.straight import Straight

Grows = Literal["scaled", "kept"]
Box = tuple[float, float, float, float]


class Stretching(Model):
    """Which band stretches, by where it begins as the outline is drawn, or a place in it; the widest where left out."""

    across: Coordinate | None = None
    up: Coordinate | None = None


@dataclass(frozen=True)
class Scaling:
    """Where places of an outline as drawn are at its size, across and up: linear between ``knots`` (k,)."""

    knots: tuple[Array, Array]
    becomes: tuple[Array, Array]

    @property
    def changes_nothing(self) -> bool:
        """Whether everything stays where it is."""
        return all(np.allclose(knots, becomes, rtol=0, atol=NO_LENGTH) for knots, becomes in zip(self.knots, self.becomes, strict=True))

    def edges(self, loop: Iterable[Edge]) -> tuple[Edge, ...]:
        """Return edges at their size; one that bends lies between two knots."""
        if (whole := self.affine) is not None:
            return tuple(edge.mapped(*whole) for edge in loop)
        return tuple(self._edge(edge) for edge in loop)

    @property
    def affine(self) -> tuple[Array, Array] | None:
        """The matrix (2, 2) and the shift (2,) by which everything is brought to its size, where all of it is by the same."""
        if any(len(knots) != 2 for knots in self.knots):
            return None
        slopes, shifts = zip(*(self.rate(axis, 0.0) for axis in (0, 1)), strict=True)
        return np.diag(slopes), np.array(shifts)

    def _edge(self, edge: Edge) -> Edge:
        if edge.straight:
            begin, end = self.points(np.array([edge.begin, edge.end]))
            return Straight(begin, end)
        high, low = edge.furthest(np.eye(2)), -edge.furthest(-np.eye(2))
        slopes, shifts = zip(*(self.rate(axis, float(low[axis] + high[axis]) / 2) for axis in (0, 1)), strict=True)
        return edge.mapped(np.diag(slopes), np.array(shifts))

    def rate(self, axis: int, at: float) -> tuple[float, float]:
        """Return by how much what lies at a place grows along an axis (0 across, 1 up), and how far it is moved then."""
        knots, becomes = self.knots[axis], self.becomes[axis]
        i = int(np.clip(np.searchsorted(knots, at, side="right") - 1, 0, len(knots) - 2))
        slope = float((becomes[i + 1] - becomes[i]) / (knots[i + 1] - knots[i]))
        return slope, float(becomes[i] - slope * knots[i])

    def points(self, points: Array) -> Array:
        """Return places (n, 2) of the outline at its size."""
        return np.column_stack([np.interp(points[:, axis], self.knots[axis], self.becomes[axis]) for axis in (0, 1)])

    @property
    def box(self) -> Box:
        """The outline's box at its size."""
        (left, right), (low, high) = ((float(ends[0]), float(ends[-1])) for ends in self.becomes)
        return left, low, right, high


def scaled(box: Box, width: float, height: float) -> Scaling:
    """Return the scaling of all of an outline by its drawn box; its origin stays where it is."""
    knots = np.array([box[0], box[2]]), np.array([box[1], box[3]])
    times = width / (box[2] - box[0]), height / (box[3] - box[1])
    return Scaling(knots, (knots[0] * times[0], knots[1] * times[1]))


def stretched(loops: Sequence[Sequence[Edge]], box: Box, width: float, height: float, bands: Stretching) -> Scaling:
    """Return the scaling that keeps the shape of all but one band each way; its box begins where it did.

    Raises ``Refused`` where nothing in it can stretch that way, or it would have to be less than nothing.
    """
    found = []
    for axis, (size, words) in enumerate(((width, "sideways"), (height, "upward"))):
        low, high = box[axis], box[axis + 2]
        more = size - (high - low)
        if abs(more) <= NO_LENGTH:
            found.append((np.array([low, high]), np.array([low, high])))
            continue
        band = band_of(loops, box, axis, bands)
        if band is None:
            raise Refused(
                f"With its corners kept nothing in it can stretch {words}: there is no part with only straights. Scale it instead.",
                ("width", "height")[axis],
                "section-stretch",
            )
        if band[1] - band[0] + more <= SAME_PLACE:
            least = high - low - (band[1] - band[0])
            raise Refused(
                f"With its corners kept its {('width', 'height')[axis]} must be more than {figure(least, 3)}: "
                "what stretches would have a negative length.",
                ("width", "height")[axis],
                "section-stretch",
            )
        inner = [one for one in band if one - low > SAME_PLACE and high - one > SAME_PLACE]
        knots = np.array([low, *inner, high])
        # What lies before the band stays; what lies after it moves by what is more.
        becomes = np.array([low, *(one + (more if one == band[1] else 0.0) for one in inner), high + more])
        found.append((knots, becomes))
    (across, x), (up, y) = found
    return Scaling((across, up), (x, y))


def band_of(loops: Sequence[Sequence[Edge]], box: Box, axis: int, bands: Stretching) -> tuple[float, float] | None:
    """Return the band (from, to) that stretches along an axis (0 across, 1 up); None where none can."""
    free = free_bands(loops, axis, box[axis], box[axis + 2])
    at = bands.across if axis == 0 else bands.up
    chosen = next((one for one in free if at is not None and one[0] - SAME_PLACE <= at <= one[1]), None)
    return chosen or max(free, key=lambda one: one[1] - one[0], default=None)


def free_bands(loops: Sequence[Sequence[Edge]], axis: int, low: float, high: float) -> list[tuple[float, float]]:
    """Return the bands (from, to) between two places along an axis (0 across, 1 up) in which only straights along it lie."""
    taken = []
    for loop in loops:
        for edge in loop:
            if edge.straight and abs(float(edge.end[1 - axis] - edge.begin[1 - axis])) <= SAME_PLACE:
                continue
            way = np.zeros((1, 2))
            way[0, axis] = 1
            # A straight answers for its end alone: its beginning is the end of the edge before.
            begin = float(edge.begin[axis])
            taken.append((min(begin, -float(edge.furthest(-way)[0])), max(begin, float(edge.furthest(way)[0]))))
    found, reached = [], low
    for begin, end in sorted(taken):
        if begin - reached > SAME_PLACE:
            found.append((reached, begin))
        reached = max(reached, end)
    if high - reached > SAME_PLACE:
        found.append((reached, high))
    return found
