"""Pictures and items that were read, apart from their readers, whose libraries only the process that reads loads."""

from __future__ import annotations

from dataclasses import dataclass

from slow_ribbon.imports.options import Unit, Upright


@dataclass(frozen=True)
class PictureRead:
    """A picture: ``png`` as it is drawn, its size in pixels, mm a pixel where the file says so, its pages, and what to know of it."""

    png: bytes
    across: int
    high: int
    scale: float | None
    pages: int
    note: str


@dataclass(frozen=True)
class ItemRead:
    """An item as it was read. ``glb`` is its mesh as it is kept and drawn, mm, z up, the middle of the foot of its box at zero.

    ``own`` is how large it is along, across and high, mm; ``filled`` the share of that box which it fills, None where its faces do not
    close. ``triangles`` are those of the file, ``drawn`` those that are kept.
    """

    glb: bytes
    own: tuple[float, float, float]
    filled: float | None
    unit: Unit
    unit_known: bool
    upright: Upright
    triangles: int
    drawn: int
