"""The face of a section as what is shaped to it meets it: how far out it is at every height.

Terms
-----
out
    how far to the side that the face looks to, mm, from the line.
undercut
    where, at some height, going out one comes into the section, out of it and into it again.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Final

import numpy as np

from slow_ribbon.core.kernel.arrays import Array, Flags
from slow_ribbon.core.kernel.tolerances import IMMEASURABLE, ROUNDING, SAME_DRAWN

#: How finely a face is drawn, mm.
_FINE: Final = 0.002


@dataclass(frozen=True, eq=False)
class Face:
    """The face of an outline that looks to the right, or to the left: at ``heights`` (h,) it is ``places`` (h,) across, mm.

    Beyond its top and its foot stands the ``wall``, there across. Between the heights it is straight, within 0.002 mm. ``hollows`` (k, 3):
    from which height to which it undercuts, and how far the hollow there goes across, mm.
    """

    ring: Callable[[float], Array]
    right: bool
    wall: float
    heights: Array
    places: Array
    hollows: Array

    @property
    def undercut(self) -> bool:
        """Whether it undercuts anywhere."""
        return len(self.hollows) > 0

    def across(self, heights: Array) -> Array:
        """Return how far to the right the face lies at heights (n,), mm."""
        return np.asarray(np.interp(heights, self.heights, self.places))

    def bends(self, chord_height: float) -> Array:
        """Return the heights (b,) between which chords of a face stray from it by no more than ``chord_height``."""
        if chord_height not in self._bends:
            # Where the face jumps it does so at the same heights, however coarsely it is drawn.
            jumps = np.flatnonzero((np.diff(self.heights) <= IMMEASURABLE + SAME_DRAWN) & (np.abs(np.diff(self.places)) > SAME_DRAWN))
            ends = self.heights[np.concatenate([[0, -1], jumps, jumps + 1])]
            found = np.sort(np.concatenate([self.ring(chord_height)[:, 1], ends]))
            self._bends[chord_height] = found[np.append(True, np.diff(found) > ROUNDING)]
        return self._bends[chord_height]

    @cached_property
    def same(self) -> bytes:
        """What is equal of two faces that are the same."""
        return np.concatenate([self.heights, self.places]).round(6).tobytes()

    @cached_property
    def _bends(self) -> dict[float, Array]:
        return {}


def face_of(ring: Callable[[float], Array], right: bool, wall: float | None = None) -> Face:
    """Return the face of an outline (y up) that looks to the right or to the left; ``ring`` flattens it within a chord height.

    The wall beyond its top and its foot is at its back unless it is said to be elsewhere, mm to the right.
    """
    return _face(ring, right, _FINE, wall)


def _face(outline: Callable[[float], Array], right: bool, chord_height: float, behind: float | None) -> Face:
    sense = 1.0 if right else -1.0
    ring = outline(chord_height) * (sense, 1.0)
    begins, ends = ring, np.roll(ring, -1, axis=0)
    levels = np.sort(ring[:, 1])
    levels = levels[np.concatenate([[True], np.diff(levels) > SAME_DRAWN])]
    levels[-1] = ring[:, 1].max()
    low, high = np.minimum(begins[:, 1], ends[:, 1]), np.maximum(begins[:, 1], ends[:, 1])
    middles = (levels[1:] + levels[:-1]) / 2
    rise = ends[:, 1] - begins[:, 1]
    with np.errstate(divide="ignore", invalid="ignore"):
        slopes = (ends[:, 0] - begins[:, 0]) / rise
    # Where each chord is at the middle of every strip between two heights, and of those that pass there the furthest out.
    passes = (low[None] < middles[:, None]) & (high[None] > middles[:, None])
    with np.errstate(invalid="ignore"):
        out = np.where(passes, begins[:, 0] + slopes * (middles[:, None] - begins[:, 1]), -np.inf)
    chord = np.argmax(out, axis=1)
    foots = begins[chord, 0] + slopes[chord] * (levels[:-1] - begins[chord, 1])
    tops = begins[chord, 0] + slopes[chord] * (levels[1:] - begins[chord, 1])
    wall = float(ring[:, 0].min()) if behind is None else sense * behind
    # Below its foot and above its top stands the wall. Where the face steps, the step is gone beyond it, so that what is shaped to the
    # face never lies in it.
    below, above = np.append(wall, tops), np.append(foots, wall)
    kept, heights, places = np.ones(len(levels), dtype=bool), [levels], [np.maximum(below, above)]
    for k in np.flatnonzero(np.abs(below - above) > SAME_DRAWN).tolist():
        up = below[k] > above[k]
        end = levels[k] + (IMMEASURABLE if up else -IMMEASURABLE)
        kept &= ~((levels > levels[k]) & (levels <= end) if up else (levels < levels[k]) & (levels >= end))
        strip = int(np.searchsorted(levels, end)) - 1
        outside = not 0 <= strip < len(foots)
        heights.append(np.array([end]))
        places.append(np.array([wall if outside else foots[strip] + slopes[chord[strip]] * (end - levels[strip])]))
    kept[[0, -1]] = True
    heights[0], places[0] = levels[kept], places[0][kept]
    order = np.argsort(np.concatenate(heights), kind="stable")
    all_heights, all_places = np.concatenate(heights)[order], np.concatenate(places)[order]
    # What comes just there meets the face, and not the wall behind it: a round top or foot is flattened a little low, and a section that
    # is a hair wider than what it is shaped to would have a splinter there, as long as it goes on.
    for at, beside, by in ((-1, -2, IMMEASURABLE), (0, 1, -IMMEASURABLE)):
        if all_places[beside] > all_places[at] + SAME_DRAWN and abs(all_heights[beside] - all_heights[at]) <= IMMEASURABLE + SAME_DRAWN:
            face = all_heights[beside] + by, all_places[beside]
            all_heights[at] += by
            all_heights, all_places = np.insert(all_heights, at or 1, face[0]), np.insert(all_places, at or 1, face[1])
    return Face(outline, right, sense * wall, all_heights, sense * all_places, _hollows(levels, out, passes))


def _hollows(levels: Array, out: Array, passes: Flags) -> Array:
    """Return from which of levels (h,) to which a face undercuts, and how far, (k, 3): chords pass the middle of a strip ``out`` there."""
    twice = np.flatnonzero(passes.sum(axis=1) > 2)
    if not len(twice):
        return np.zeros((0, 3))
    # Coming from outside one goes in at the first chord, out at the second, and in again at the third.
    met = -np.sort(-out[twice], axis=1)
    return np.column_stack([levels[twice], levels[twice + 1], met[:, 1] - met[:, 2]])
