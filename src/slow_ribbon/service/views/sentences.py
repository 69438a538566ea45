"""Sentences as the window is told them: words, and lengths as numbers that it writes in the job's units."""

from __future__ import annotations

from typing_extensions import TypedDict

from slow_ribbon.core.kernel import figures


class ToldLength(TypedDict):
    """A length in a sentence, mm; ``places`` decimals of a millimetre at most are worth showing."""

    mm: float
    places: int


Told = list[str | ToldLength]


def told_parts(text: str) -> Told:
    """Return a sentence of the core in parts."""
    return [part if isinstance(part, str) else ToldLength(mm=part.mm, places=part.places) for part in figures.told(text)]
