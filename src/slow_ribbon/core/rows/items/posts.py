"""Items that stand in a fence, a balustrade or along a kerb: a post with its cap, a turned baluster, a bollard."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from slow_ribbon.core.kernel.fields import Distance, Size
from slow_ribbon.core.rows.items.base import CircularItem, ItemBase, RectangularItem
from slow_ribbon.core.rows.items.parts import Level, Part, block, dome, ellipsoid, tapered, turned


class PostItem(ItemBase):
    """A square post with a cap, mm; ``height`` is that of the post below its cap, ``over`` how far the cap stands over each side."""

    words = "a post with a cap"
    like: ClassVar = {"along": ("along", "diameter", "width"), "across": ("across", "diameter", "width"), "height": ("height",)}

    kind: Literal["post"] = "post"
    along: Size = 90.0
    across: Size = 90.0
    cap: Literal["flat", "pyramid", "ball"] = "pyramid"
    cap_height: Size = 45.0
    over: Distance = 10.0

    @property
    def sides(self) -> tuple[float, float]:
        return self.along + 2 * self.over, self.across + 2 * self.over

    @property
    def slim(self) -> tuple[float, float]:
        return self.along, self.across

    @property
    def whole_height(self) -> float:
        return self.height + self.cap_height

    @property
    def parts(self) -> tuple[Part, ...]:
        (along, across), low, high = self.sides, self.height, self.whole_height
        shaft = block(0, low, self.along, self.across)
        if self.cap == "flat":
            return shaft, block(low, high, along, across)
        plate = min(20.0, self.cap_height / 3)
        if self.cap == "pyramid":
            return shaft, block(low, low + plate, along, across), tapered(low + plate, high, (along, across), (0.0, 0.0))
        ball = min(self.cap_height - plate, along, across)
        neck = high - ball
        return shaft, block(low, neck, along, across), ellipsoid(neck, high, ball)


class BalusterItem(ItemBase):
    """A turned baluster, mm: a square block at its foot and at its head, turned between them from a belly down to a waist."""

    words = "a turned baluster"
    like: ClassVar = {"width": ("along", "diameter", "width"), "height": ("height",)}

    kind: Literal["baluster"] = "baluster"
    width: Size = 41.0
    waist: Size = 22.0
    foot: Distance = 180.0
    head: Distance = 140.0

    @property
    def sides(self) -> tuple[float, float]:
        return self.width, self.width

    @property
    def slim(self) -> tuple[float, float]:
        waist = min(self.waist, self.width)
        return waist, waist

    @property
    def parts(self) -> tuple[Part, ...]:
        share = min(1.0, 0.9 * self.height / max(self.foot + self.head, 1e-9))
        low, high = self.foot * share, self.height - self.head * share
        waist = min(self.waist, self.width)
        between = high - low
        # A bead above the foot, a belly over a third of the height, then evenly slimmer to the waist, and a bead below the head.
        profile = [(low, self.width), (low + 0.03 * between, self.width), (low + 0.06 * between, waist)]
        for step in range(1, 17):
            t = step / 16
            if t <= 0.375:
                size = waist + (self.width - waist) * math.sin(math.pi / 2 * t / 0.375)
            else:
                size = waist + (self.width - waist) * (1 + math.cos(math.pi * (t - 0.375) / 0.625)) / 2
            profile.append((low + (0.06 + 0.88 * t) * between, size))
        profile += [(low + 0.97 * between, self.width), (high, self.width)]
        found = [turned(profile)]
        if low > 0:
            found.insert(0, block(0, low, self.width, self.width))
        if high < self.height:
            found.append(block(high, self.height, self.width, self.width))
        return tuple(found)


class BollardItem(CircularItem):
    """A bollard, mm: a round shaft on a flat foot, with a domed head."""

    words = "a bollard"
    like: ClassVar = {"diameter": ("diameter", "along", "width"), "height": ("height",)}

    kind: Literal["bollard"] = "bollard"
    diameter: Size = 150.0
    dome: Distance = 60.0

    @property
    def parts(self) -> tuple[Part, ...]:
        high = min(self.dome, self.height / 2)
        shaft = turned([(0, self.diameter), (self.height - high, self.diameter)])
        if high <= 0:
            return (shaft,)
        return shaft, dome(self.height - high, self.height, self.diameter)


class BracketItem(RectangularItem):
    """A bracket on a wall, mm: a plate upright on it, an arm level from its head, and a brace between them.

    The wall is to its left, as one goes along the line: the arm comes out to the right.
    """

    words = "a bracket"
    like: ClassVar = {"along": ("along", "diameter", "width"), "across": ("across", "depth"), "height": ("height",)}
    symmetric = False

    kind: Literal["bracket"] = "bracket"
    along: Size = 40.0
    across: Size = 220.0
    thickness: Size = 12.0

    @property
    def usual_seat(self) -> tuple[float, float, float]:
        return (0.0, -self.across / 2, self.height)

    @property
    def parts(self) -> tuple[Part, ...]:
        thick = min(self.thickness, self.across / 3, self.height / 3)
        wall, front = self.across / 2, -self.across / 2
        plate = block(0, self.height - thick, self.along, thick, (0.0, wall - thick / 2))
        arm = block(self.height - thick, self.height, self.along, self.across)
        low, high = 0.15 * self.height, self.height - thick
        begin, end = wall - thick - thick / 2, front + thick
        brace = Part((Level(low, self.along / 2, thick, (0.0, begin)), Level(high, self.along / 2, thick, (0.0, end))))
        return plate, arm, brace
