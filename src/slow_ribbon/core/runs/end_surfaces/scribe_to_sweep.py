"""Ends scribed to a piece that bends: every fibre stops where it first enters the swept section.

What it meets is described as triangles: its outline swept along a stretch of it, as seen along the fibres. Each has its place over the
section and its distance along the fibres. It is as true as these, within ``_FINE`` of what bends and of its outline.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Final

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import Array, Flags, Indices
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import NO_LEAN
from slow_ribbon.core.runs.end_surfaces.planes import EndSurface, undercut_words
from slow_ribbon.core.runs.end_surfaces.scribe_model import BentStretch
from slow_ribbon.core.sections.outline.profile import Shape

#: How finely what an end is shaped to is drawn, mm: its bend, and its outline; or so finely of how far that reaches, where it is large.
_FINE: Final = 0.005
_FINE_RING: Final = 0.002
_SHARE: Final = 5e-5
#: Sides of the outline are parted into pieces no longer than such a share of how far it reaches: triangles are found by their boxes.
_SIDES: Final = 16
#: Into no more cells each way are they sorted.
_MOST_CELLS: Final = 128
#: The mean number of triangles that begin in a cell: with fewer, sorting costs more than looking up saves.
_IN_A_CELL: Final = 4
#: Triangles smaller than this as they are seen, mm², are seen from the side.
_FROM_THE_SIDE: Final = 1e-9
#: A fibre that passes by an edge within this much, mm, meets it: what is of one height lies so to the last bit only by chance.
_BESIDE: Final = 0.003
#: A fibre begins inside where it comes out by this much, mm, before it goes in.
_SURELY: Final = 0.02
#: Where an end bends is looked for in steps of this much up it, mm, or this many.
_STEP: Final = 0.05
_MOST_STEPS: Final = 4000
#: By its reach at this many places each way over the section ends are distinguished, to this many decimals of a mm.
_LOOKS: Final = 5
_SAME: Final = 4


#: The left, the foot, the right and the top of what lies in the frame of a section, mm.
Box = tuple[float, float, float, float]


@dataclass(frozen=True, kw_only=True)
class SweptSurface:
    """What a fibre meets, as one sees it who looks along: triangles.

    Their corners lie at ``x`` and ``y`` in the section's frame, (3, t) each, and at ``depths`` (3, t), mm outward along the fibres.
    ``into`` (t,): whether a fibre goes into what they bound there.
    """

    x: Array
    y: Array
    depths: Array
    into: Flags

    def first(self, points: Array) -> Array:
        """Return the distances outward (k,) at which fibres at points (k, 2) enter the face: infinite where they never do."""
        return _least(len(points), *self._entered.met(points, -_BESIDE))

    def inside(self, points: Array) -> bool:
        """Return whether any of some fibres (k, 2) begins within the face: leaves it before it enters."""
        entered = self.first(points)
        # Behind where all have entered no fibre leaves it first.
        before = _least_of(self.depths) < entered.max(initial=-np.inf) - _SURELY
        out = _least(len(points), *self._side(before & ~self.into).met(points, _BESIDE))
        return bool((out < entered - _SURELY).any())

    def left_open(self, points: Array) -> float:
        """Return the greatest distance from where fibres at points (k, 2) leave the face to where they enter again, mm."""
        # Not beside edges, where one triangle reports the fibre and the next one does too.
        fibre, deep = self._entered.met(points, _BESIDE)
        twice = np.bincount(fibre, minlength=len(points)) > 1
        if not twice.any():
            return 0.0
        out, out_deep = self._left.met(points[twice], _BESIDE)
        again = twice[fibre]
        into = np.repeat([True, False], [int(again.sum()), len(out)])
        fibre = np.concatenate([fibre[again], np.flatnonzero(twice)[out]])
        deep = np.concatenate([deep[again], out_deep])
        order = np.lexsort((deep, fibre))
        fibre, deep, into = fibre[order], deep[order], into[order]
        again = (fibre[1:] == fibre[:-1]) & ~into[:-1] & into[1:]
        return float(np.diff(deep)[again].max(initial=0.0))

    @cached_property
    def _entered(self) -> _Side:
        """The triangles through which fibres enter."""
        return self._side(self.into)

    @cached_property
    def _left(self) -> _Side:
        """The triangles through which fibres leave."""
        return self._side(~self.into)

    def _side(self, some: Flags) -> _Side:
        """Return some of the triangles, (t,), ready to be looked up."""
        which = np.flatnonzero(some)
        return _Side.of(*(one.take(which, axis=1) for one in (self.x, self.y, self.depths)))

    def __getstate__(self) -> dict[str, Any]:
        return {name: value for name, value in self.__dict__.items() if not name.startswith("_")}


@dataclass(frozen=True)
class _Side:
    """Triangles that fibres meet from one side: what is inside of their sides, (3, 3, t), as a·x + b·y + c ≥ 0 in mm, how deep they are,
    (3, t), as a·x + b·y + c, the least and the greatest that their corners are, (t,), and the cells in which they lie."""

    bounds: Array
    planes: Array
    least: Array
    most: Array
    cells: _Cells

    def met(self, points: Array, beside: float) -> tuple[Indices, Array]:
        """Return a mask of the fibres at points (k, 2) that meet these, and their distances outward: at least so far from edges, mm."""
        look_up(10 * len(points))
        fibre, triangle = self.cells.over(points)
        x, y = (one[fibre] for one in np.ascontiguousarray(points.T))
        for a, b, c in self.bounds:
            inside = np.flatnonzero(a[triangle] * x + b[triangle] * y + c[triangle] > beside)
            fibre, triangle, x, y = fibre[inside], triangle[inside], x[inside], y[inside]
        a, b, c = self.planes
        # Over a triangle that is nearly seen from the side it comes no nearer or further than its corners are.
        deep = np.maximum(a[triangle] * x + b[triangle] * y + c[triangle], self.least[triangle])
        return fibre, np.minimum(deep, self.most[triangle])

    @staticmethod
    def of(x: Array, y: Array, depths: Array) -> _Side:
        """Return the triangles with corners at (3, t) and ``depths`` there, (3, t)."""
        along, up = x[[1, 2, 0]] - x, y[[1, 2, 0]] - y
        turn = along[0] * up[1] - up[0] * along[1]
        sense = np.sign(turn) / np.sqrt(along * along + up * up)
        a, b = -up * sense, along * sense
        bounds = np.stack([a, b, -(a * x + b * y)], axis=1)
        # By Cramer's rule, from the first corner to the other two.
        (first, second), (to_x, on_x), (to_y, on_y) = (one[1:] - one[0] for one in (depths, x, y))
        grows_x, grows_y = (first * on_y - second * to_y) / turn, (second * to_x - first * on_x) / turn
        planes = np.stack([grows_x, grows_y, depths[0] - grows_x * x[0] - grows_y * y[0]])
        cells = _Cells.of(_least_of(x) - _BESIDE, _least_of(y) - _BESIDE, _most_of(x) + _BESIDE, _most_of(y) + _BESIDE)
        return _Side(bounds, planes, _least_of(depths), _most_of(depths), cells)


@dataclass(frozen=True)
class _Cells:
    """Which boxes lie over which cells of a grid, ``many`` each way: those over cell k are ``boxes[begins[k]:begins[k + 1]]``."""

    low: Array
    size: Array
    many: int
    begins: Indices
    boxes: Indices

    @staticmethod
    def of(left: Array, low: Array, right: Array, high: Array) -> _Cells:
        if not len(left):
            return _Cells(np.zeros(2), np.ones(2), 1, np.zeros(2, dtype=np.int64), np.zeros(0, dtype=np.int64))
        corner = np.array([left.min(), low.min()])
        many = max(1, min(_MOST_CELLS, math.isqrt(len(left) // _IN_A_CELL)))
        size = np.maximum((np.array([right.max(), high.max()]) - corner) / many, NO_LEAN)
        first_x, last_x = (np.minimum((edge - corner[0]) // size[0], many - 1).astype(np.int64) for edge in (left, right))
        first_y, last_y = (np.minimum((edge - corner[1]) // size[1], many - 1).astype(np.int64) for edge in (low, high))
        wide, tall = last_x - first_x + 1, last_y - first_y + 1
        total = wide * tall
        box = np.repeat(np.arange(len(left)), total)
        within = np.arange(int(total.sum())) - np.repeat(np.cumsum(total) - total, total)
        cell = (first_y[box] + within // wide[box]) * many + first_x[box] + within % wide[box]
        # Of numbers this small the sort is by their digits.
        order = np.argsort(cell.astype(np.int16), kind="stable")
        begins = np.concatenate([[0], np.cumsum(np.bincount(cell, minlength=many * many))])
        return _Cells(corner, size, many, begins, box[order])

    def over(self, points: Array) -> tuple[Indices, Indices]:
        """Return pairs of points (k, 2) and boxes that may lie over them: numbers of both."""
        # What lies beside the grid is looked for in the cell next to it, where no box is over it.
        at = np.clip(((points - self.low) / self.size).astype(np.int64), 0, self.many - 1)
        cell = at[:, 1] * self.many + at[:, 0]
        begins = self.begins[cell]
        counts = self.begins[cell + 1] - begins
        point = np.repeat(np.arange(len(points)), counts)
        return point, self.boxes[np.arange(len(point)) + np.repeat(begins + counts - np.cumsum(counts), counts)]


def swept_as_seen(shape: Shape, stretches: Sequence[BentStretch], place: Array, frame: Array, outward: Array, box: Box) -> SweptSurface:
    """Return a section swept along stretches as it is seen from a ``place`` (3,) by who looks ``outward`` over a ``box``.

    ``frame`` (2, 3) is that of the section of who looks, square to outward, and ``box`` lies in it.
    """
    reach = max(map(abs, shape.box))
    ring = shape.outer_ring(max(_FINE_RING, _SHARE * reach * _FINE_RING / _FINE))
    ring = shapely.get_coordinates(shapely.segmentize(shapely.LinearRing(ring), reach / _SIDES))[:-1]
    # Places, rights and ups of the stretches as they are seen: across and up in the section's frame, and outward.
    seen = np.column_stack([np.linalg.pinv(frame), outward])
    frames = []
    for stretch in stretches:
        look_up()
        places, rights, ups = stretch.at(_shares(stretch, reach))
        frames.append(np.stack([places - place, rights, ups], axis=1) @ seen)
    lying = np.concatenate(frames)
    steps, size = len(lying), len(ring)
    look_up(20 * steps * size)
    # The swept ring, (steps, size): in every frame its place, and this much of its right and of its up.
    x, y, deep = (lying[..., k] @ np.vstack([np.ones(size), ring.T]) for k in range(3))
    # Between every two places of the ring and of the stretch: those that lie over the section.
    near = np.ones((steps - 1, size), dtype=bool)
    left, low, right, high = box
    for one, least, most in ((x, left, right), (y, low, high)):
        for beyond in (one < least - _BESIDE, one > most + _BESIDE):
            both = beyond & np.roll(beyond, -1, axis=1)
            near &= ~(both[:-1] & both[1:])
    step, side = np.nonzero(near)
    a, b = step * size + side, step * size + (side + 1) % size
    # Two triangles each; where one stretch follows another they are of no size.
    corners = np.stack([np.concatenate([a, b]), np.concatenate([b, b + size]), np.concatenate([a + size, a + size])])
    x, y, deep = (one.ravel()[corners] for one in (x, y, deep))
    turns = (x[1] - x[0]) * (y[2] - y[0]) - (y[1] - y[0]) * (x[2] - x[0])
    kept = np.abs(turns) > 2 * _FROM_THE_SIDE
    if not kept.all():
        x, y, deep, turns = x[:, kept], y[:, kept], deep[:, kept], turns[kept]
    # The ring turns anticlockwise as one looks along travel; the section's frame so too, as one looks along its own.
    around = math.copysign(1.0, float(np.sum(ring[:, 0] * np.roll(ring[:, 1], -1) - np.roll(ring[:, 0], -1) * ring[:, 1])))
    hand = math.copysign(1.0, float(np.cross(frame[0], frame[1]) @ outward))
    return SweptSurface(x=x, y=y, depths=deep, into=turns * around * hand > 0)


def _shares(stretch: BentStretch, reach: float) -> Array:
    """Return shares of a stretch, from 0 to 1, so near that chords of what reaches so far from its line stray by no more than is drawn."""
    looks = np.linspace(0.0, 1.0, 4 * len(stretch.shares) + 1)
    places, rights, ups = stretch.at(looks)
    lengths = np.linalg.norm(np.diff(places, axis=0), axis=1)
    turns = sum(np.linalg.norm(np.diff(one, axis=0), axis=1) for one in (rights, ups))
    length, turn = float(lengths.sum()), float(np.asarray(turns).sum())
    if turn < NO_LEAN:
        return np.array([0.0, 1.0])
    # Sagitta of a chord: r(1 − cos(φ/2)), r of what lies furthest out.
    step = 2 * math.acos(1 - min(1.0, max(_FINE, _SHARE * reach) / (length / turn + reach)))
    return np.linspace(0.0, 1.0, 2 + math.ceil(turn / step))


def _least(count: int, which: Indices, figures: Array) -> Array:
    """Return the least figure (k,) of each of ``count`` things, infinite without any; ``which`` (k,) names the thing of each figure."""
    found = np.full(count, np.inf)
    np.minimum.at(found, which, figures)
    return found


def _least_of(corners: Array) -> Array:
    return np.asarray(np.minimum(np.minimum(corners[0], corners[1]), corners[2]))


def _most_of(corners: Array) -> Array:
    return np.asarray(np.maximum(np.maximum(corners[0], corners[1]), corners[2]))


class ScribedToBend(EndSurface):
    """An end shaped to a piece that bends, ``seen`` along the fibres. A fibre that misses it ends at ``slope``·p along travel.

    ``along`` (2,) is square to both runs where they meet, ``across`` (2,) and ``toward`` say how this one meets it (``Scribed``);
    ``sense`` is 1 at the end of a piece, −1 at its beginning; ``past``: this much further along travel it is cut. ``box``: the section's.
    """

    curved = True

    def __init__(self, seen: SweptSurface, across: Array, along: Array, toward: float, box: Box, sense: float, past: float) -> None:
        self.seen, self.along, self.box, self.sense, self.past = seen, along / np.linalg.norm(along), box, sense, past
        self.slope = -across / toward
        self._words = undercut_words("scribed", across, along, toward)

    @property
    def words(self) -> str:
        return self._words

    def reach(self, points: Array) -> Array:
        found = self.seen.first(points)
        return np.where(np.isfinite(found), self.sense * found, points @ self.slope) + self.past

    def left_open(self, points: Array) -> float:
        return self.seen.left_open(points)

    def bends(self, chord_height: float) -> tuple[Array, Array]:
        known = self._levels
        if chord_height not in known:
            corners = np.array([(self.box[i], self.box[j]) for i in (0, 2) for j in (1, 3)])
            side = np.array([-self.along[1], self.along[0]])
            (low, high), (left, right) = ((float((corners @ way).min()), float((corners @ way).max())) for way in (self.along, side))
            heights = np.linspace(low, high, 2 + min(_MOST_STEPS, math.ceil((high - low) / _STEP)))
            kept = [np.array([low, high])]
            for out in (left, (left + right) / 2, right):
                reached = self.reach(np.outer(heights, self.along) + out * side)
                message = shapely.simplify(shapely.LineString(np.column_stack([heights, reached])), chord_height / 2)
                kept.append(shapely.get_coordinates(message)[:, 0])
            known[chord_height] = np.unique(np.concatenate(kept))
        return self.along, known[chord_height]

    @cached_property
    def _levels(self) -> dict[float, Array]:
        return {}

    def _same(self) -> tuple[object, ...]:
        left, low, right, high = self.box
        grid = np.stack(np.meshgrid(np.linspace(left, right, _LOOKS), np.linspace(low, high, _LOOKS)), axis=-1).reshape(-1, 2)
        return (self._words, self.sense, *np.round(self.box, 6).tolist(), *(self.reach(grid).round(_SAME) + 0.0).tolist())
