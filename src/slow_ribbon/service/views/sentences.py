"""Sentences as the window is sent them: words, and lengths as numbers that it writes in the job's units."""

from __future__ import annotations

from typing_extensions import TypedDict

from slow_ribbon.core.kernel import figures


class SentenceLength(TypedDict):
    """A length in a sentence, mm; ``places`` decimals of a millimetre at most are worth showing."""

    mm: float
    places: int


Sentence = list[str | SentenceLength]


def sentence_parts(text: str) -> Sentence:
    """Return a sentence of the core in parts."""
    return [part if isinstance(part, str) else SentenceLength(mm=part.mm, places=part.places) for part in figures.text_parts(text)]
