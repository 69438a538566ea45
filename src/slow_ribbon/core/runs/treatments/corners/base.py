"""How corners are made: from the pieces that meet there to the surface that each of them ends in."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import ClassVar, Literal, Self

import numpy as np

from slow_ribbon.core.kernel.arrays import Array, Flags
from slow_ribbon.core.kernel.fields import Model
from slow_ribbon.core.runs.end_surfaces.planes import EndSurface, Planes
from slow_ribbon.core.sections.outline.profile import Shape

#: Carries section points (k, 2) along a piece to distances (k,) from its corner: where they come, (k, 3), and how fast they go there.
Carry = Callable[[Array, Array], tuple[Array, Array]]


#: One of the two pieces at a corner: by the order of travel, or by the side on which one who looks at the face has it.
OnePiece = Literal["before", "after", "left", "right"]


def other_way(which: OnePiece) -> OnePiece:
    """Return the same piece where the line is gone the other way; what is on the left or the right stays there."""
    turned: dict[OnePiece, OnePiece] = {"before": "after", "after": "before"}
    return turned.get(which, which)


def other_hand(which: OnePiece) -> OnePiece:
    """Return the same piece in a mirror image: what comes first along the line does so there too."""
    mirrored: dict[OnePiece, OnePiece] = {"left": "right", "right": "left"}
    return mirrored.get(which, which)


@dataclass(frozen=True, kw_only=True)
class Meetings:
    """k corners: the frames at the end of the piece before each and at the beginning of the one after, (k, 3) each.

    ``turns`` (k,) are in radians; ``straight`` (k,) says where both pieces are straight at the corner, ``internal`` (k,)
    where it turns toward the face on plan. ``shape_before`` and ``shape_after`` return the section of a piece at a corner, in its
    (right, up) frame.
    ``bends`` (k,) says where a piece bends anywhere; ``carry_before`` and ``carry_after`` return, for a corner, what carries section
    points along a piece to distances from there.
    ``right`` says whether the run faces right of travel.
    ``upright`` says whether frames are, ``drawn`` (k,) where both pieces are of the section as it is drawn.
    ``furthest_before`` and ``furthest_after`` return for a direction at each corner, (k, 2) in the piece's (right, up)
    frame, how far the section placed there reaches, (k,), mm.
    """

    rights_before: Array
    ups_before: Array
    tangents_before: Array
    rights_after: Array
    ups_after: Array
    tangents_after: Array
    turns: Array
    straight: Flags
    internal: Flags
    furthest_before: Callable[[Array], Array]
    furthest_after: Callable[[Array], Array]
    shape_before: Callable[[int], Shape]
    shape_after: Callable[[int], Shape]
    bends: Flags
    carry_before: Callable[[int], Carry]
    carry_after: Callable[[int], Carry]
    right: bool
    upright: bool
    drawn: Flags

    def piece(self, which: OnePiece) -> Literal["before", "after"]:
        """Return which piece is meant: as one looks at the face, travel goes to the right where the run faces right."""
        if which in ("before", "after"):
            return "before" if which == "before" else "after"
        return "before" if (which == "left") == self.right else "after"

    def reach_before(self, directions: Array) -> Array:
        """Return how far the section of the piece before reaches in directions (k, 3) square to its travel, (k,) mm."""
        return _reach(self.furthest_before, self.rights_before, self.ups_before, directions)

    def reach_after(self, directions: Array) -> Array:
        """Return how far the section of the piece after reaches in directions (k, 3) square to its travel, (k,) mm."""
        return _reach(self.furthest_after, self.rights_after, self.ups_after, directions)


def _reach(furthest: Callable[[Array], Array], rights: Array, ups: Array, directions: Array) -> Array:
    flat = np.stack([np.einsum("ij,ij->i", rights, directions), np.einsum("ij,ij->i", ups, directions)], axis=1)
    return np.asarray(furthest(flat))


@dataclass(frozen=True, kw_only=True)
class Ends:
    """What a treatment makes of k corners: the ends of the pieces before, and the beginnings of those after.

    ``together`` (k,) says where both lie in one surface, in which the sections should meet. ``shaped_before`` and
    ``shaped_after`` are the ends that are no planes, by their corner; the planes there are those that are sawn first. ``refused``
    says of corners that are made otherwise than the treatment is meant why that is.
    """

    before: Planes
    after: Planes
    together: Flags
    shaped_before: Mapping[int, EndSurface] = field(default_factory=dict)
    shaped_after: Mapping[int, EndSurface] = field(default_factory=dict)
    refused: Mapping[int, str] = field(default_factory=dict)


class Treatment(Model, ABC):
    """How the corners of a run are made."""

    kind: str

    #: What the treatment is called, in a sentence.
    words: ClassVar[str]
    #: Whether it asks which corners are internal; they are looked for only then.
    by_side: ClassVar[bool] = False

    @property
    def fitting(self) -> str:
        """The name of what stands in each corner and is counted; empty without one."""
        return ""

    @abstractmethod
    def ends(self, meetings: Meetings) -> Ends:
        """Return the surfaces that the pieces at some corners end in."""

    def reversed(self) -> Self:
        """Return the treatment that makes the same corners of the line gone the other way."""
        return self

    def mirrored(self) -> Self:
        """Return the treatment that makes the mirror images of the same corners."""
        return self
