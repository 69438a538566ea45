"""An end shaped to a piece that bends: every fibre stops where it comes to that first.

What it comes to is told as triangles, its outline swept along a stretch of it, as one sees them who looks along the fibres: by where they
lie over the section, and how far along they are. It is as true as these, within ``_FINE`` of what bends and of its outline.
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
from slow_ribbon.core.runs.ends import EndSurface, undercut_words
from slow_ribbon.core.runs.neighbours import Stretch
from slow_ribbon.core.sections.profile import Shape

#: How finely what an end is shaped to is told, mm: its bend, and its outline; or so finely of how far that reaches, where it is large.
_FINE: Final = 0.005
_FINE_RING: Final = 0.002
_SHARE: Final = 5e-5
#: Sides of the outline are parted into pieces no longer than such a share of how far it reaches: triangles are found by their boxes.
_SIDES: Final = 16
#: Triangles smaller than this as they are seen, mm², are seen from the side.
_FROM_THE_SIDE: Final = 1e-9
#: A fibre that passes by an edge within so much, mm, meets it: what is of one height lies so to the last bit only by chance.
_BESIDE: Final = 0.003
#: A fibre begins inside where it comes out by so much, mm, before it goes in.
_SURELY: Final = 0.02
#: Where an end bends is looked for in steps of so much up it, mm, or so many.
_STEP: Final = 0.05
_MOST_STEPS: Final = 4000
#: By its reach at so many places each way over the section ends are told apart, to so many decimals of a mm.
_LOOKS: Final = 5
_SAME: Final = 4


@dataclass(frozen=True, kw_only=True)
class Seen:
    """What a fibre meets, as one sees it who looks along: triangles ``corners`` (t, 3, 2) in the section's frame, how far along fibres
    these are, ``depths`` (t, 3), mm outward, and whether a fibre goes ``into`` what they bound there, (t,)."""

    corners: Array
    depths: Array
    into: Flags

    def first(self, points: Array) -> Array:
        """Return how far outward fibres at points (k, 2) come till they go into what is seen, (k,): infinite where they never do."""
        return _least(len(points), *self._all(points, True, -_BESIDE))

    def inside(self, points: Array) -> bool:
        """Tell whether any of some fibres (k, 2) begins within what is seen: comes out of it before it goes in."""
        out = _least(len(points), *self._all(points, False, _BESIDE))
        return bool((out < self.first(points) - _SURELY).any())

    def left_open(self, points: Array) -> float:
        """Return how far it is, at most, from where fibres at points (k, 2) come out of what is seen to where they go in again, mm."""
        # Not beside edges, where it is told by one triangle and by the next.
        met = [self._all(points, into, _BESIDE) for into in (True, False)]
        fibre = np.concatenate([fibre for fibre, _ in met])
        deep = np.concatenate([deep for _, deep in met])
        into = np.repeat([True, False], [len(one) for one, _ in met])
        order = np.lexsort((deep, fibre))
        fibre, deep, into = fibre[order], deep[order], into[order]
        again = (fibre[1:] == fibre[:-1]) & ~into[:-1] & into[1:]
        return float(np.diff(deep)[again].max(initial=0.0))

    def _all(self, points: Array, into: bool, beside: float) -> tuple[Indices, Array]:
        """Return which of fibres at points (k, 2) go in or come out, and how far outward: at least so far from edges, mm."""
        look_up(10 * len(points))
        tree, bounds, planes, depths = self._sides[into]
        fibre, triangle = tree.query(shapely.points(points))
        x, y = points[fibre].T
        inside = np.ones(len(fibre), dtype=bool)
        for a, b, c in bounds:
            inside &= a[triangle] * x + b[triangle] * y + c[triangle] > beside
        fibre, triangle = fibre[inside], triangle[inside]
        a, b, c = planes
        # Over a triangle that is nearly seen from the side it comes no nearer or further than its corners are.
        deep = np.clip(a[triangle] * x[inside] + b[triangle] * y[inside] + c[triangle], depths[0][triangle], depths[1][triangle])
        return fibre, deep

    @cached_property
    def _sides(self) -> dict[bool, tuple[shapely.STRtree, Array, Array, tuple[Array, Array]]]:
        """Of the triangles where fibres go in, and where they come out: a tree of their boxes, what is inside of their sides, (3, 3, t), as
        a·x + b·y + c ≥ 0 in mm, how deep they are, (3, t), as a·x + b·y + c, and the least and the greatest that their corners are."""
        found = {}
        for into in (True, False):
            corners, depths = self.corners[self.into == into], self.depths[self.into == into]
            low, high = corners.min(axis=1) - _BESIDE, corners.max(axis=1) + _BESIDE
            boxes: Any = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
            ways = np.roll(corners, -1, axis=1) - corners
            inward = np.stack([-ways[..., 1], ways[..., 0]], axis=-1) * np.sign(_turns(corners))[:, None, None]
            inward /= np.linalg.norm(ways, axis=2)[..., None]
            bounds = np.stack([inward[..., 0], inward[..., 1], -np.einsum("tij,tij->ti", inward, corners)], axis=1).transpose(2, 1, 0)
            sides = np.stack([corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]], axis=1)
            grows = np.linalg.solve(sides, (depths[:, 1:] - depths[:, :1])[..., None])[..., 0]
            planes = np.vstack([grows.T, depths[:, 0] - np.einsum("ij,ij->i", grows, corners[:, 0])])
            found[into] = shapely.STRtree(boxes), bounds, planes, (depths.min(axis=1), depths.max(axis=1))
        return found

    def __getstate__(self) -> dict[str, Any]:
        return {name: value for name, value in self.__dict__.items() if name != "_sides"}


def swept_as_seen(shape: Shape, stretches: Sequence[Stretch], place: Array, frame: Array, outward: Array, radius: float) -> Seen:
    """Return a section swept along stretches as it is seen from a ``place`` (3,) by who looks ``outward``, ``radius`` mm about it.

    ``frame`` (2, 3) is that of the section of who looks, square to outward.
    """
    reach = max(map(abs, shape.box))
    ring = shape.outer_ring(max(_FINE_RING, _SHARE * reach * _FINE_RING / _FINE))
    ring = shapely.get_coordinates(shapely.segmentize(shapely.LinearRing(ring), reach / _SIDES))[:-1]
    rows = []
    for stretch in stretches:
        look_up()
        places, rights, ups = stretch.at(_shares(stretch, reach))
        rows.append(places[:, None] + rights[:, None] * ring[None, :, :1] + ups[:, None] * ring[None, :, 1:])
    swept = np.concatenate(rows) - place
    look_up(20 * swept.shape[0] * swept.shape[1])
    flat = swept @ np.linalg.pinv(frame)
    deep = swept @ outward
    # Two triangles between every two places of the ring and of the stretch; where one stretch follows another they are of no size.
    a, b = (flat[:-1], deep[:-1]), (flat[1:], deep[1:])
    after = [np.roll(one, -1, axis=1) for one in (*a, *b)]
    corners = np.concatenate([np.stack([a[0], after[0], b[0]], axis=2), np.stack([after[0], after[2], b[0]], axis=2)]).reshape(-1, 3, 2)
    depths = np.concatenate([np.stack([a[1], after[1], b[1]], axis=2), np.stack([after[1], after[3], b[1]], axis=2)]).reshape(-1, 3)
    turns = _turns(corners)
    near = (corners.min(axis=1) < radius).all(axis=1) & (corners.max(axis=1) > -radius).all(axis=1)
    kept = near & (np.abs(turns) > 2 * _FROM_THE_SIDE)
    # The ring turns anticlockwise as one looks along travel; the section's frame so too, as one looks along its own.
    around = math.copysign(1.0, float(np.sum(ring[:, 0] * np.roll(ring[:, 1], -1) - np.roll(ring[:, 0], -1) * ring[:, 1])))
    hand = math.copysign(1.0, float(np.cross(frame[0], frame[1]) @ outward))
    return Seen(corners=corners[kept], depths=depths[kept], into=turns[kept] * around * hand > 0)


def _shares(stretch: Stretch, reach: float) -> Array:
    """Return shares of a stretch, from 0 to 1, so near that chords of what reaches so far from its line stray by no more than is told."""
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
    """Return the least of figures (k,) for each of so many things, infinite where there is none; ``which`` (k,) each is of."""
    found = np.full(count, np.inf)
    np.minimum.at(found, which, figures)
    return found


def _turns(corners: Array) -> Array:
    one, two = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    return np.asarray(one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0])


class ScribedToBend(EndSurface):
    """An end shaped to a piece that bends, ``seen`` along the fibres. What goes by it ends at ``slope``·p along travel.

    ``along`` (2,) is square to both runs where they meet, ``across`` (2,) and ``toward`` tell how this one comes to it (``Scribed``);
    ``sense`` is 1 at the end of a piece, −1 at its beginning; ``past``: so much further along travel it is cut. ``box``: the section's.
    """

    curved = True

    def __init__(
        self, seen: Seen, across: Array, along: Array, toward: float, box: tuple[float, float, float, float], sense: float, past: float
    ) -> None:
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
                told = shapely.simplify(shapely.LineString(np.column_stack([heights, reached])), chord_height / 2)
                kept.append(shapely.get_coordinates(told)[:, 0])
            known[chord_height] = np.unique(np.concatenate(kept))
        return self.along, known[chord_height]

    @cached_property
    def _levels(self) -> dict[float, Array]:
        return {}

    def _same(self) -> tuple[object, ...]:
        left, low, right, high = self.box
        grid = np.stack(np.meshgrid(np.linspace(left, right, _LOOKS), np.linspace(low, high, _LOOKS)), axis=-1).reshape(-1, 2)
        return (self._words, self.sense, *np.round(self.box, 6).tolist(), *(self.reach(grid).round(_SAME) + 0.0).tolist())
