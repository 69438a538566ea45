"""Points scattered by chance over a region, none nearer to another than a least distance, until no more find room.

Darts are thrown into squares of a grid so fine that a square holds one point at most; what is left of a square's room is quartered
until a neighbour's circle covers it (after Ebeida, Mitchell, Patney, Davidson and Owens, "A simple algorithm for maximal Poisson-disk
sampling in high dimensions", Computer Graphics Forum 31, 2012). Squares three apart cannot disturb one another: one in nine is
filled at once.
"""

from __future__ import annotations

import math
from typing import Final

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from slow_ribbon.core.kernel.arrays import Array, Flags, Indices
from slow_ribbon.core.kernel.patience import look_up

#: Squares round one whose points may lie within the least distance, the nearest first: those at the corners of the five by five never do.
_AROUND: Final = tuple(
    sorted(
        ((i, j) for i in range(-2, 3) for j in range(-2, 3) if (i, j) != (0, 0) and abs(i * j) < 4),
        key=lambda off: off[0] ** 2 + off[1] ** 2,
    )
)
#: How many squares to a side are looked at together, where they lie wholly within the region or without it.
_BLOCK: Final = 32
#: Rounds that are thrown before squares are quartered.
_WHOLE_ROUNDS: Final = 2
#: How many squares are worked on at once.
_PART: Final = 16_384
#: Room narrower than this share of the least distance, beside the region's edge, is left.
_LEAST: Final = 1e-6


def most_points(area: float, apart: float) -> float:
    """Return about how many points find room in an area, mm², at a least distance, mm.

    Discs that are laid by chance until none finds room cover 0.547 of the plane (the jamming limit of random sequential adsorption).
    """
    return 0.547 * area / (math.pi * (apart / 2) ** 2)


def squares_looked_at(region: BaseGeometry, apart: float) -> float:
    """Return about how many squares the grid has in which points are scattered over a region."""
    if region.is_empty:
        return 0.0
    left, low, right, high = region.bounds
    return (right - left) * (high - low) / (apart**2 / 2)


def scattered_points(region: shapely.Polygon | shapely.MultiPolygon, apart: float, seed: int) -> Array:
    """Return points (n, 2) within a region, mm, none nearer to another than ``apart``, between which no other finds room.

    They come row by row from the lowest. The same seed scatters the same points.
    """
    if region.is_empty:
        return np.zeros((0, 2))
    shapely.prepare(region)
    chance = np.random.default_rng(seed)
    return _Scatter(region, apart, chance).points()


class _Scatter:
    """The grid of squares; the point of a square lies at infinity while it has none."""

    def __init__(self, region: shapely.Polygon | shapely.MultiPolygon, apart: float, chance: np.random.Generator) -> None:
        self.region, self.apart, self.chance = region, apart, chance
        self.side = apart / math.sqrt(2)
        left, low, right, high = region.bounds
        self.left, self.low = left, low
        self.columns = int((right - left) / self.side) + 1
        self.rows = int((high - low) / self.side) + 1
        # Two empty squares all round spare the question whether a neighbour is there.
        self.width = self.columns + 4
        self._around = [i * self.width + j for i, j in _AROUND]
        self.x = np.full(self.width * (self.rows + 4), np.inf)
        self.y = np.full(self.width * (self.rows + 4), np.inf)

    def points(self) -> Array:
        """Return the points, when no more find room."""
        cells, inside = self._squares()
        x, y = self._corner(cells % self.width - 2, cells // self.width - 2, self.side)
        size, round_number = self.side, 0
        while len(cells) and size > _LEAST * self.apart:
            look_up(len(cells) // 100)
            self._throw(cells, x, y, size, inside)
            left = np.flatnonzero(np.isinf(self.x[cells]))
            cells, x, y, inside = cells[left], x[left], y[left], inside[left]
            round_number += 1
            if round_number >= _WHOLE_ROUNDS:
                size /= 2
                quarters = [self._quartered(cells[part], x[part], y[part], size, inside[part]) for part in _parts(cells)]
                if quarters:
                    cells, x, y, inside = (np.concatenate(those) for those in zip(*quarters, strict=True))
        there = np.isfinite(self.x)
        return np.column_stack([self.x[there], self.y[there]])

    def _corner(self, column: Indices, row: Indices, step: float) -> tuple[Array, Array]:
        """Return the lower left corners of squares."""
        return np.asarray(self.left + column * step, dtype=float), np.asarray(self.low + row * step, dtype=float)

    def _squares(self) -> tuple[Indices, Flags]:
        """Return the squares that reach into the region, and which of them lie wholly within it."""
        step = _BLOCK * self.side
        columns, rows = -(-self.columns // _BLOCK), -(-self.rows // _BLOCK)
        number = np.arange(columns * rows)
        x, y = self._corner(number % columns, number // columns, step)
        keep, inside = self._within(x, y, step, np.zeros(len(number), dtype=bool))
        one = np.arange(_BLOCK**2)
        column = ((number[keep] % columns) * _BLOCK)[:, None] + one % _BLOCK
        row = ((number[keep] // columns) * _BLOCK)[:, None] + one // _BLOCK
        there = (column < self.columns) & (row < self.rows)
        inside = np.broadcast_to(inside[:, None], there.shape)[there]
        column, row = column[there], row[there]
        order = np.argsort(row * self.columns + column)
        column, row, inside = column[order], row[order], inside[order]
        keep, inside = self._within(*self._corner(column, row, self.side), self.side, inside)
        return ((row + 2) * self.width + column + 2)[keep], inside

    def _within(self, x: Array, y: Array, size: float, inside: Flags) -> tuple[Flags, Flags]:
        """Return which squares reach into the region, and which of those lie wholly within it; ``inside`` says what is known to."""
        keep, whole = np.ones(len(x), dtype=bool), inside.copy()
        asked = np.flatnonzero(~inside)
        squares = shapely.box(x[asked], y[asked], x[asked] + size, y[asked] + size)
        keep[asked] = shapely.intersects(self.region, squares)
        whole[asked] = shapely.contains_properly(self.region, squares)
        return keep, whole[keep]

    def _throw(self, cells: Indices, x: Array, y: Array, size: float, inside: Flags) -> None:
        """Throw a dart into each square, and keep those that find room; one at most in each square of the grid."""
        px, py = x + size * self.chance.random(len(x)), y + size * self.chance.random(len(x))
        hit = inside.copy()
        asked = ~inside
        hit[asked] = shapely.contains_xy(self.region, px[asked], py[asked])
        thrown = np.flatnonzero(hit)
        if size < self.side:
            thrown = thrown[self._free(cells[thrown], px[thrown], py[thrown])]
            # A square that was quartered is hit by several: any of them may be the one.
            thrown = self.chance.permutation(thrown)
            thrown = thrown[np.unique(cells[thrown], return_index=True)[1]]
        of = (cells[thrown] // self.width) % 3 * 3 + cells[thrown] % self.width % 3
        for ninth in self.chance.permutation(9):
            these = thrown[of == ninth]
            these = these[self._free(cells[these], px[these], py[these])]
            self.x[cells[these]], self.y[cells[these]] = px[these], py[these]

    def _free(self, cells: Indices, x: Array, y: Array) -> Indices:
        """Return the numbers of the places that no point is too near to."""
        return np.concatenate(
            [np.zeros(0, dtype=int), *(part.start + self._free_of(cells[part], x[part], y[part]) for part in _parts(cells))]
        )

    def _free_of(self, cells: Indices, x: Array, y: Array) -> Indices:
        number, least = np.arange(len(cells)), self.apart**2
        for off in self._around:
            beside = cells + off
            clear = (self.x[beside] - x) ** 2 + (self.y[beside] - y) ** 2 >= least
            number, cells, x, y = number[clear], cells[clear], x[clear], y[clear]
        return number

    def _quartered(self, cells: Indices, x: Array, y: Array, size: float, inside: Flags) -> tuple[Indices, Array, Array, Flags]:
        """Return the quarters, of a new size, of some squares, where they lie in the region and are not covered by a point's circle."""
        cells, inside = np.tile(cells, 4), np.tile(inside, 4)
        x, y = np.concatenate([x, x + size, x, x + size]), np.concatenate([y, y, y + size, y + size])
        left = self._uncovered(cells, x, y, size)
        cells, x, y = cells[left], x[left], y[left]
        keep, inside = self._within(x, y, size, inside[left])
        return cells[keep], x[keep], y[keep], inside

    def _uncovered(self, cells: Indices, x: Array, y: Array, size: float) -> Indices:
        """Return the numbers of the squares that do not lie wholly within the least distance of one point."""
        number, least, half = np.arange(len(cells)), self.apart**2, size / 2
        x, y = x + half, y + half
        for off in self._around:
            beside = cells + off
            # The corner furthest from a point is half a square further than the middle, either way.
            further = (np.abs(self.x[beside] - x) + half) ** 2 + (np.abs(self.y[beside] - y) + half) ** 2 > least
            number, cells, x, y = number[further], cells[further], x[further], y[further]
        return number


def _parts(cells: Indices) -> list[slice]:
    """Return slices of an array that are so short that what is worked out of them stays near the processor."""
    return [slice(begin, begin + _PART) for begin in range(0, len(cells), _PART)]
