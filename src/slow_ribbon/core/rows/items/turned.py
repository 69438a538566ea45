"""Items turned on a lathe from an outline: the axis stands at the outline's left."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from itertools import pairwise
from typing import ClassVar, Literal

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Name
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.rows.items.base import ItemBase
from slow_ribbon.core.rows.items.parts import Part, turned
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.sections.outline.outline import Outline
from slow_ribbon.core.sections.outline.profile import shape_of


class TurnedItem(ItemBase):
    """An item turned about an upright axis, mm.

    ``outline`` is half of it as it is drawn, its left side on the axis; ``of`` is what the section is called that it was taken from.
    It is as large as its ``height`` makes it: all of it is scaled alike.
    """

    words = "a turned item"
    like: ClassVar = {"height": ("height",)}

    kind: Literal["turned"] = "turned"
    outline: Outline = rectangle(20, 900)
    of: Name = "rod"

    @property
    def scale(self) -> float:
        """How much larger it is than its outline is drawn."""
        _, low, _, high = shape_of(self.outline).box
        return self.height / max(high - low, SAME_PLACE)

    @property
    def sides(self) -> tuple[float, float]:
        left, _, right, _ = shape_of(self.outline).box
        diameter = 2 * (right - left) * self.scale
        return diameter, diameter

    @property
    def circle(self) -> float | None:
        return self.sides[0]

    @property
    def slim(self) -> tuple[float, float]:
        # An end that comes to a point is no gap: what counts is the slimmest that it is over a length.
        sizes = [min(low, high) for (_, low), (_, high) in pairwise(self._profile) if min(low, high) > 0]
        slimmest = min(sizes, default=self.sides[0])
        return slimmest, slimmest

    @property
    def name(self) -> str:
        return f"{self.of}, turned, ⌀ {figure(self.sides[0])} × {figure(self.height)}"

    @property
    def parts(self) -> tuple[Part, ...]:
        part = turned(self._profile)
        return (Part(part.levels, round=True, curved=self._volume),)

    @property
    def _profile(self) -> list[tuple[float, float]]:
        scale = self.scale
        return [(height * scale, diameter * scale) for height, diameter in profile_of(self.outline)]

    @property
    def _volume(self) -> float:
        """Its volume, mm³, by the theorem of Pappus: the area of the half outline, carried round by its centroid."""
        shape = shape_of(self.outline)
        return float(2 * math.pi * shape.area * (shape.centroid[0] - shape.box[0]) * self.scale**3)


@lru_cache(maxsize=256)
def profile_of(outline: Outline) -> Sequence[tuple[float, float]]:
    """Return how wide what is turned from an outline is at its heights: (height above its foot, diameter), from below, mm.

    At a step it has two diameters at one height. What is undercut is as wide as what lies outside of it.
    """
    flat = shape_of(outline).flat()
    left, low, _, _ = shape_of(outline).box
    begins, ends = (flat.points[flat.skin_points[flat.segments[:, end]]] - (left, low) for end in (0, 1))
    heights = np.unique(np.round(np.concatenate([begins[:, 1], ends[:, 1]]), 9))
    found: list[tuple[float, float]] = []
    for lower, upper in pairwise(heights.tolist()):
        middle = (lower + upper) / 2
        across = (np.minimum(begins[:, 1], ends[:, 1]) < middle) & (np.maximum(begins[:, 1], ends[:, 1]) > middle)
        if not across.any():
            continue
        outermost = int(np.argmax(_at(begins[across], ends[across], middle)))
        side = begins[across][outermost : outermost + 1], ends[across][outermost : outermost + 1]
        for height in (lower, upper):
            level = (float(height), 2 * max(0.0, float(_at(*side, height)[0])))
            if not found or math.dist(found[-1], level) > SAME_PLACE:
                found.append(level)
    return tuple(found)


def _at(begins: Array, ends: Array, height: float) -> Array:
    """Return how far from the axis segments (n, 2) are at a height."""
    share = (height - begins[:, 1]) / (ends[:, 1] - begins[:, 1])
    return np.asarray(begins[:, 0] + share * (ends[:, 0] - begins[:, 0]))
