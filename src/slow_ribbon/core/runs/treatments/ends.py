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

import math
from abc import ABC, abstractmethod
from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated, ClassVar, Final, Literal, Union

import numpy as np
from pydantic import Field

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Coordinate, Distance, Id, Model, Name
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import NO_LENGTH
from slow_ribbon.core.runs.end_surfaces.planes import EndSurface, Nosed, Scribed
from slow_ribbon.core.runs.end_surfaces.scribe_model import Met
from slow_ribbon.core.runs.end_surfaces.scribe_to_sweep import ScribedToBend, swept_as_seen
from slow_ribbon.core.sections.outline.height_profile import face_of
from slow_ribbon.core.sections.outline.profile import Shape, outline_shape

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
    much, mm, the piece goes straight there. ``met``: what the end comes to. ``drawn``: whether the section is as it is drawn.
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
    met: Met | None


class Finish(Model, ABC):
    """How an end of a run is made."""

    kind: str
    past: Coordinate = 0.0

    #: What the finish is called, in a sentence.
    words: ClassVar[str]

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
        """Return what the end is shaped to where that is no plane. Raises ``NoCut``."""
        return None


class Square(Finish):
    """Cut square."""

    words = "square"

    kind: Literal["square"] = "square"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        return outward


class Angled(Finish):
    """Cut at an angle, degrees from square: ``turn`` lets the front be longer than the back, ``lean`` the top than the bottom."""

    words = "at an angle"

    kind: Literal["angled"] = "angled"
    turn: Lean = 0.0
    lean: Lean = 0.0

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        found: Array = outward - math.tan(math.radians(self.turn)) * front - math.tan(math.radians(self.lean)) * up
        return found


class Plumb(Finish):
    """Cut upright, whatever the pitch."""

    words = "plumb"

    kind: Literal["plumb"] = "plumb"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        level = outward * (1, 1, 0)
        if float(np.linalg.norm(level)) < math.cos(math.radians(MOST_LEAN)):
            raise NoCut("it is too steep there for a plumb cut")
        return level


class Level(Finish):
    """Cut level, at the foot or the head of a slope."""

    words = "level"

    kind: Literal["level"] = "level"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        if abs(float(outward[2])) < math.cos(math.radians(MOST_LEAN)):
            raise NoCut("it is too flat there for a level cut")
        return np.array([0.0, 0.0, math.copysign(1.0, float(outward[2]))])


class Returned(Finish):
    """Mitred and returned: a small piece goes on square to it, away from its front, and ends ``deep`` mm behind the line."""

    words = "returned"

    kind: Literal["returned"] = "returned"
    deep: Distance = 0.0

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        return outward


class Capped(Finish):
    """Cut square and closed by something bought or turned, which is counted by its name."""

    words = "capped"

    kind: Literal["capped"] = "capped"
    cap: Name

    @property
    def fitting(self) -> str:
        return self.cap

    @property
    def after(self) -> str:
        return "capped"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        return outward


class Posted(Finish):
    """Spliced into a post whose middle is where the line ends: cut plumb at its face, or ``let_in`` beyond that.

    The post is ``size`` mm wide the way the run comes; it is counted unless another run's end counts it.
    """

    words = "into a post"

    kind: Literal["posted"] = "posted"
    size: Annotated[float, Field(gt=0, le=10_000, allow_inf_nan=False)] = 100.0
    let_in: Distance = 0.0
    name: Name = "Post"
    counted: bool = True

    @property
    def fitting(self) -> str:
        return self.name if self.counted else ""

    @property
    def after(self) -> str:
        return f"let {figure(self.let_in)} into a post" if self.let_in else "at a post"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        level = outward * (1, 1, 0)
        # What comes from above or below ends on its top or its foot.
        return level if float(np.linalg.norm(level)) > math.cos(math.radians(MOST_LEAN)) else outward

    def beyond(self, outward: Array) -> float:
        normal = self.normal(outward, outward, outward)
        return self.past + (self.let_in - self.size / 2) / float(outward @ normal) * float(np.linalg.norm(normal))


class Rounded(Finish):
    """Cut square and its edges rounded to a ``radius``.

    ``edges``: the upright ones (``sides``), or that at the ``front`` or the ``back`` alone; or the level ones (``both``), or one of them.
    """

    words = "rounded"

    kind: Literal["rounded"] = "rounded"
    radius: Annotated[float, Field(gt=0, le=10_000, allow_inf_nan=False)] = 10.0
    edges: Literal["sides", "front", "back", "both", "top", "bottom"] = "sides"

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        return outward

    def surface(self, end: FreeEnd) -> EndSurface:
        if not end.drawn:
            raise NoCut("the section there is not as drawn, because the line rises where it turns")
        if end.straight < self.radius:
            raise NoCut("it bends where it is to be rounded")
        upright = self.edges in ("sides", "front", "back")
        way = np.array([1.0 if end.right_front else -1.0, 0.0] if upright else [0.0, 1.0])
        high, low = (end.shape.furthest(np.array([way, -way])) * (1, -1)).tolist()
        lower, upper = self.edges in ("sides", "back", "both", "bottom"), self.edges in ("sides", "front", "both", "top")
        if self.radius * (lower + upper) > high - low + NO_LENGTH:
            room = (high - low) / (lower + upper)
            raise NoCut(f"there is no room for a radius of {figure(self.radius)}; {figure(room)} is the most here")
        return Nosed(way, low if lower else None, high if upper else None, self.radius, end.sense * self.past, end.sense)


class ScribedTo(Finish):
    """Shaped to the face of another run, ``to``, where this one comes to it; what goes by it ends where the line does.

    ``past`` leaves this much less room, or more with a minus.
    """

    words = "scribed"

    kind: Literal["scribed"] = "scribed"
    to: Id

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        return outward

    def surface(self, end: FreeEnd) -> EndSurface:
        if end.met is None:
            raise NoCut("no piece of the other run is in its way")
        if not end.straight:
            raise NoCut("it bends right up to its end")
        outward = end.sense * end.tangent
        right, up = np.array(end.met.right), np.array(end.met.up)
        travel = np.cross(up, right)
        toward = outward - travel * float(outward @ travel)
        size = float(np.linalg.norm(toward))
        if size < math.sin(math.radians(LEAST_MEETING)):
            raise NoCut("it runs along the other run")
        # In the other's section: across, toward where this end goes, and along, square to both runs.
        across = toward / size
        along = np.cross(travel, across)
        view = np.array([[across @ right, across @ up], [along @ right, along @ up]])
        frame = np.stack([end.right, end.up])
        shape = outline_shape(end.met.outline)
        if end.met.bent:
            return self._bent(end, end.met, shape, across, along, size)
        away = np.array(end.met.place) - end.place
        seen = shape.mapped_once(view, np.array([across @ away, along @ away]))
        face = face_of(seen.outer_ring, False, 0.0)
        return Scribed(face, frame @ across, frame @ along, end.sense * size, end.sense * self.past)

    def _bent(self, end: FreeEnd, met: Met, shape: Shape, across: Array, along: Array, size: float) -> EndSurface:
        frame = np.stack([end.right, end.up])
        box = end.shape.box
        seen = swept_as_seen(shape, met.bent, end.place, frame, end.sense * end.tangent, box)
        found = ScribedToBend(seen, frame @ across, frame @ along, end.sense * size, box, end.sense, end.sense * self.past)
        points = end.shape.flat().points
        if not np.isfinite(seen.first(points)).any():
            raise NoCut("no piece of the other run is in its way")
        if seen.inside(points):
            raise NoCut("the other run bends so tightly there that part of this one begins inside it")
        return found


#: Every way of finishing an end.
FINISHES: Final[tuple[type[Finish], ...]] = (Square, Angled, Plumb, Level, Returned, Capped, Posted, Rounded, ScribedTo)

if TYPE_CHECKING:
    Finished = Finish
else:
    Finished = Annotated[Union[FINISHES], Field(discriminator="kind")]  # noqa: UP007  # made of the registry
