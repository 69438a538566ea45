"""The outline of a section as a function of the chainage.

So far there is one law, that it stays the same. Cuts, corners and volumes ask it for each piece, so that another
law needs to say no more than its outlines; drawing a piece whose outline changes within itself is left to that law.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from slow_ribbon.core.sections.outline.profile import Shape


class SectionLaw(Protocol):
    """The outlines of a run along its line."""

    @property
    def constant(self) -> bool:
        """Whether the outline is the same all along."""

    def at(self, chainage: float) -> Shape:
        """Return the outline at a distance along the line, mm."""


@dataclass(frozen=True)
class Constant:
    """The same outline all along."""

    shape: Shape
    constant = True

    def at(self, chainage: float) -> Shape:
        """Return the outline, wherever it is asked for."""
        return self.shape
