"""Items brought in from a file of their own: a mesh, kept by its content."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.kernel.fields import Name, Sha256, Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.rows.items.base import ItemBase
from slow_ribbon.core.rows.items.parts import Level, Part


class BroughtItem(ItemBase):
    """An item whose shape was brought in, mm: a mesh with z up, the middle of the foot of the box around it at zero.

    ``content`` is the SHA-256 of the mesh, binary glTF, as it is kept; ``called`` names it. ``own`` is how large the mesh is along, across
    and high; all of it is scaled alike to the ``height``. ``filled`` is the share of the box around it that it fills; None where its
    faces do not close, so that it has no volume. ``front`` turns it about its upright axis, degrees clockwise.
    """

    words = "an item brought in"
    symmetric = False

    kind: Literal["brought"] = "brought"
    content: Sha256
    called: Name
    own: tuple[Size, Size, Size]
    filled: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] | None = None
    front: Literal[0, 90, 180, 270] = 0

    @property
    def scale(self) -> float:
        """How much larger it is than its mesh."""
        return self.height / self.own[2]

    @property
    def sides(self) -> tuple[float, float]:
        along, across = (side * self.scale for side in self.own[:2])
        return (along, across) if self.front % 180 == 0 else (across, along)

    @property
    def name(self) -> str:
        return f"{self.called} {figure(self.sides[0])} × {figure(self.sides[1])} × {figure(self.height)}"

    @property
    def parts(self) -> tuple[Part, ...]:
        # The box around it, which stands for it wherever the mesh itself is not drawn.
        along, across = self.sides
        levels = (Level(0, along, across), Level(self.height, along, across))
        return (Part(levels, curved=(self.filled or 0.0) * along * across * self.height),)
