"""A typical of the job as an item: lines with all that is on them, that stand wherever a row sets them out."""

from __future__ import annotations

from typing import ClassVar, Literal

from slow_ribbon.core.kernel.fields import Id, Name
from slow_ribbon.core.rows.items.base import RectangularItem
from slow_ribbon.core.rows.items.parts import Part


class TypicalItem(RectangularItem):
    """The typical of an id, ``called`` as it was when it was chosen, and how much room it takes, mm.

    What it is made of is cut and drawn where it stands, so that it has no solid of its own here.
    """

    words = "a typical of this job"
    like: ClassVar = {"along": ("along", "diameter", "width"), "across": ("across", "diameter"), "height": ("height",)}
    symmetric = False

    kind: Literal["typical"] = "typical"
    of: Id
    called: Name

    @property
    def name(self) -> str:
        return self.called

    @property
    def parts(self) -> tuple[Part, ...]:
        return ()
