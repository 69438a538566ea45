"""Answers packed with gzip where whoever asks takes it."""

from __future__ import annotations

from typing import Final

from fastapi import Request
from isal import igzip

#: What is drawn is compressed in a hurry, by a library made for that: zlib at its fastest takes seven times as long, for a sixth less.
HURRY: Final = 1


def takes_gzip(request: Request) -> bool:
    """Return whether whoever asks takes packed answers."""
    return "gzip" in request.headers.get("accept-encoding", "")


def encoding(packed: bool) -> dict[str, str]:
    """Return the headers of an answer that may be packed."""
    return {"Vary": "Accept-Encoding", **({"Content-Encoding": "gzip"} if packed else {})}


def packed_in_a_hurry(data: bytes) -> bytes:
    """Return data as gzip."""
    return igzip.compress(data, HURRY)
