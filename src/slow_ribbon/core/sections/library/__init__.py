"""The starting library: sections of our own drawing over the trade, and steel by the tables of its standards."""

from __future__ import annotations

from functools import cache

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.sections.document.section import SectionBody
from slow_ribbon.core.sections.library.drawing_board import Entry, rectangle
from slow_ribbon.core.sections.library.joinery import joinery
from slow_ribbon.core.sections.library.steel import steel

__all__ = ["Entry", "from_library", "library", "rectangle"]


@cache
def library() -> tuple[Entry, ...]:
    """Return the sections of the starting library, family by family."""
    entries = [*joinery(), *steel()]
    families = list(dict.fromkeys(entry.family for entry in entries))
    return tuple(sorted(entries, key=lambda entry: families.index(entry.family)))


def from_library(key: str) -> SectionBody:
    """Return a section of the library by its key. Raises ``Refused`` if it does not exist."""
    for entry in library():
        if entry.key == key:
            return entry.section
    known = ", ".join(entry.key for entry in library())
    raise Refused(f"There is no section {key} in the library; it holds {known}.", "key", "unknown-id")
