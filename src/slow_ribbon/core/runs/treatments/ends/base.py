"""How a run is finished where it ends freely: at the ends of its line, and beside openings.

Terms
-----
outward
    the direction in which a piece ends: along travel at its end, against it at its beginning.
front
    the side that the run faces, square to its travel.
past
    how far the run goes on beyond the end of its line, or of its stretch; stopped short with a minus.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass
from typing import Annotated, ClassVar, Final, Self

from pydantic import Field

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Coordinate, Model
from slow_ribbon.core.runs.end_surfaces.planes import EndSurface
from slow_ribbon.core.runs.end_surfaces.scribe_model import ScribeTarget
from slow_ribbon.core.sections.outline.profile import Shape

#: A cut leans no further than this from square, degrees: beyond it is no cut that could be sawn (common practice, no source).
MOST_LEAN: Final = 80.0
#: A run that meets another at less than this, degrees, runs along it (common practice, no source).
LEAST_MEETING: Final = 10.0

Lean = Annotated[float, Field(ge=-MOST_LEAN, le=MOST_LEAN, allow_inf_nan=False)]


class NoCut(Exception):
    """An end cannot be cut as it is meant: why."""


@dataclass(frozen=True, kw_only=True)
class FreeEnd:
    """Where a run ends: the ``place`` (3,) of its line, the frame (3,) there, and the section's ``shape`` in that.

    ``sense`` is 1 at the end of a piece, −1 at its beginning; ``right_front`` says whether the run faces right. ``straight``: for so
    much, mm, the piece goes straight there. ``met``: what the end meets. ``drawn``: whether the section is as it is drawn.
    """

    place: Array
    tangent: Array
    right: Array
    up: Array
    sense: float
    shape: Shape
    right_front: bool
    straight: float
    drawn: bool
    met: ScribeTarget | None


class Finish(Model, ABC):
    """How an end of a run is made."""

    kind: str
    past: Coordinate = 0.0

    #: What the finish is called, in a sentence.
    words: ClassVar[str]

    @property
    def return_depth(self) -> float | None:
        """How far behind the line the small piece ends that the run is returned by, mm; None where there is no such piece."""
        return None

    @property
    def shaped_to(self) -> str | None:
        """The id of the run whose face it is shaped to; None where it is shaped to none."""
        return None

    def shaped_to_other(self, id: str) -> Self:
        """Return the finish shaped to another run, where it is shaped to one."""
        return self

    @property
    def fitting(self) -> str:
        """The name of what closes the end, or what it ends in, and is counted; None where there is nothing."""
        return ""

    @property
    def after(self) -> str:
        """What is done to the end once it is sawn, in words; None where it stays as it is."""
        return ""

    @abstractmethod
    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        """Return the normal (3,) of the plane that an end lies in, with a positive part outward; of any size. Raises ``NoCut``."""

    def beyond(self, outward: Array) -> float:
        """Return how far beyond the end of the line the plane meets it, mm along ``outward``."""
        return self.past

    def surface(self, end: FreeEnd) -> EndSurface | None:  # most are planes
        """Return the face that the end is shaped to where that is no plane. Raises ``NoCut``."""
        return None
