"""Lengths within sentences, kept as figures so that whoever shows the sentence writes them in the job's units.

A sentence such as ``f"Leg 3 is only {figure(0.4)} long."`` carries its lengths between two
characters of Unicode's private use area; ``text_parts`` takes them out again as numbers, and
``plain`` writes them.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

_OPEN, _SHUT = "\ue000", "\ue001"
#: Only what ``figure`` writes: a name may have these characters too, as symbols of a font.
_MARKED: Final = re.compile(rf"{_OPEN}(-?(?:\d+(?:\.\d+)?(?:e[-+]\d+)?|inf)|nan)\|(\d+){_SHUT}", re.ASCII)


@dataclass(frozen=True)
class Length:
    """A length in a sentence: mm, and how many decimals of a millimetre are worth showing."""

    mm: float
    places: int


def figure(mm: float, places: int = 1) -> str:
    """Return a length as it stands in a sentence until that is shown; ``places`` decimals of a millimetre at most are."""
    return f"{_OPEN}{float(mm)!r}|{places}{_SHUT}"


def text_parts(text: str) -> list[str | Length]:
    """Return the parts of a sentence in order: words, and lengths as figures.

    >>> text_parts(f"It is {figure(12.5)} long.")
    ['It is ', Length(mm=12.5, places=1), ' long.']
    """
    parts: list[str | Length] = []
    at = 0
    for match in _MARKED.finditer(text):
        if match.start() > at:
            parts.append(text[at : match.start()])
        parts.append(Length(float(match.group(1)), int(match.group(2))))
        at = match.end()
    if at < len(text) or not parts:
        parts.append(text[at:])
    return parts


def plain(text: str, write: Callable[[Length], str] | None = None) -> str:
    """Return a sentence with its lengths written by ``write``, in millimetres where left out.

    >>> plain(f"It is {figure(12.5)} long.")
    'It is 12.5 mm long.'
    """
    write = write or (lambda one: f"{decimal(one.mm, one.places)} mm")
    return "".join(part if isinstance(part, str) else write(part) for part in text_parts(text))


def decimal(value: float, places: int) -> str:
    """Return a number with as many decimals at most, none of them an idle zero, and no ``-0``."""
    text = f"{value:.{places}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text == "-0" else text
