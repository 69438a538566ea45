"""End surfaces: where the fibres of a piece begin and end.

Most are planes, and are looked at together, as arrays. An end that is shaped to something else, a face
that fits another section, say, is an ``EndSurface`` of its own.

Terms
-----
offset
    how far along travel from a corner the fibre on the line reaches: past the end of its piece
    with a plus, after the beginning of its piece too.
slope
    how a cut leans: the fibre at section point p begins (or ends) slope·p further along
    than the fibre on the line. Sections and slopes are in the line's (right, up) frame.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass

import numpy as np

from slow_ribbon.core.kernel.arrays import Array


@dataclass(frozen=True, kw_only=True)
class Planes:
    """Plane ends of k pieces: unit ``normals`` (k, 3) with a positive part along travel, and ``offsets`` (k,), mm."""

    normals: Array
    offsets: Array

    @classmethod
    def through(cls, normals: Array) -> Planes:
        """Return planes through the corners themselves; normals need not be of unit size."""
        sizes = np.sqrt(np.einsum("ij,ij->i", normals, normals))
        return cls(normals=normals / sizes[:, None], offsets=np.zeros(len(normals)))


class EndSurface(ABC):
    """A surface in which one piece ends where that is no plane. It lies in the straight that the piece ends with.

    Two that are equal are the same shape. The plane that stands beside it in ``Planes`` is the one that is sawn first.
    """

    @property
    @abstractmethod
    def words(self) -> str:
        """What the end is called in the cutting list."""

    @abstractmethod
    def reach(self, points: Array) -> Array:
        """Return how far along travel from the corner fibres at section points (k, 2) reach, (k,), mm, as an offset is told."""

    def levels(self) -> tuple[Array, Array] | None:
        """Return a unit (2,) in the piece's frame and how far along it, (h,), the surface bends; nothing where it bends otherwise."""
        return None

    def heights(self, chord_height: float) -> Array | None:  # one that bends everywhere bends so however fine
        """Return the heights (h,) in the piece's frame at which the surface bends; nothing where it bends everywhere.

        Between two of them it is flat along a fibre's height, within ``chord_height``.
        """
        return None


def slopes_of(rights: Array, ups: Array, tangents: Array, normals: Array) -> Array:
    """Return (k, 2) slopes: the fibre at p meets the plane at slope·p = −(p·m)/(t·m) along travel (geometry notes, section 4)."""
    leaning = normals / np.einsum("ij,ij->i", normals, tangents)[:, None]
    found = -np.stack([np.einsum("ij,ij->i", rights, leaning), np.einsum("ij,ij->i", ups, leaning)], axis=1)
    # A square cut leans nowhere, not by the last bit.
    return np.asarray(np.where(np.abs(found) > 1e-15, found, 0.0))
