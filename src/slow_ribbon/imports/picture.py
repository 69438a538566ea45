"""A picture that was read, apart from its reader, whose libraries only the process that reads loads."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class PictureRead:
    """A picture: ``png`` as it is drawn, its size in pixels, mm a pixel where the file says so, its pages, and what to know of it."""

    png: bytes
    across: int
    high: int
    scale: float | None
    pages: int
    note: str
