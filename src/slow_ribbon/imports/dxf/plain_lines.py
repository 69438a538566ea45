"""Plain lines of a large DXF drawing, read past ezdxf, which takes a tenth of a millisecond for each.

A drawing of a hundred thousand edges is nearly all LINE entities of a few tags. Those are taken out
of the text of its ENTITIES section, a piece of it at a time; everything else, lines with anything
unusual said of them included, is left for ezdxf to read.
"""

from __future__ import annotations

from array import array
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Final

import numpy as np

from slow_ribbon.core.kernel import Array
from slow_ribbon.imports.progress import tell

#: Smaller files gain nothing.
LARGE: Final = 1024 * 1024
#: Bytes of the text that are looked at together.
_PIECE: Final = 256 * 1024


@dataclass
class PlainLines:
    """Lines: their layers' names as written, by number in ``names``, their ends in the drawing's unit, and their handles, "" for none."""

    names: dict[bytes, int] = field(default_factory=dict)
    layer: array[int] = field(default_factory=lambda: array("q"))
    coordinates: array[float] = field(default_factory=lambda: array("d"))
    handles: list[str] = field(default_factory=list)

    def __len__(self) -> int:
        return len(self.layer)

    def places(self) -> Array:
        """Return both ends of each, (n, 2, 3)."""
        return np.array(self.coordinates, dtype=float).reshape(-1, 2, 3)


def taken_out(data: bytes) -> tuple[bytes, PlainLines] | None:
    """Return a drawing without its plain lines, and these; None where it is small, binary, or not made of pairs of lines."""
    if len(data) < LARGE or b"\0" in data[:1000]:
        return None
    found, kept = PlainLines(), bytearray()
    within, done = False, False
    section = ended = False
    rows: list[bytes] = []
    for piece, at in _pieces(data):
        rows += piece
        if done:
            _keep(kept, rows)
            rows = []
            continue
        codes, values = [code.strip() for code in rows[0 : len(rows) - 1 : 2]], rows[1::2]
        begin = 0
        if not within:
            # The section's name comes right after its beginning, which may be in the piece before.
            for index, code in enumerate(codes):
                if section and code == b"2" and values[index].strip() == b"ENTITIES":
                    within, begin = True, index + 1
                    break
                section = code == b"0"
            if not within:
                _keep(kept, rows[: 2 * len(codes)])
                rows = rows[2 * len(codes) :]
                continue
        low = 0
        while begin < len(codes):
            if codes[begin] == b"0" and values[begin].strip() == b"ENDSEC":
                done = ended = True
                begin = len(codes)
                break
            try:
                end = codes.index(b"0", begin + 1)
            except ValueError:
                break
            if codes[begin] == b"0" and values[begin].strip() == b"LINE" and _take(found, codes[begin:end], values[begin:end]):
                _keep(kept, rows[2 * low : 2 * begin])
                low = end
            begin = end
        _keep(kept, rows[2 * low : 2 * begin])
        # What is not at its end goes on in the next piece.
        rows = rows[2 * begin :]
        tell(0.7 * at / len(data))
    if not ended:
        return None
    _keep(kept, rows)
    return bytes(kept), found


def _pieces(data: bytes) -> Iterator[tuple[list[bytes], int]]:
    """Yield the rows of a text some at a time, and where they end in it."""
    at = 0
    while at < len(data):
        end = data.find(b"\n", min(at + _PIECE, len(data)))
        end = len(data) if end < 0 else end + 1
        rows = data[at:end].split(b"\n")
        if data[end - 1 : end] == b"\n":
            rows.pop()
        yield rows, end
        at = end


def _keep(kept: bytearray, rows: list[bytes]) -> None:
    if rows:
        kept += b"\n".join(rows)
        kept += b"\n"


def _take(found: PlainLines, codes: list[bytes], values: list[bytes]) -> bool:
    """Take a line by its group codes (DXF reference, LINE); not where it is on paper, invisible, or wrong."""
    said = dict(zip(codes, values, strict=True))
    for code, plain in ((b"67", b"0"), (b"60", b"0"), (b"410", b"Model")):
        if code in said and said[code].strip() != plain:
            return False
    try:
        # A height may be left out.
        z, w = float(said.get(b"30", 0)), float(said.get(b"31", 0))
        ends = (float(said[b"10"]), float(said[b"20"]), z, float(said[b"11"]), float(said[b"21"]), w)
    except (ValueError, KeyError):
        return False
    found.coordinates.extend(ends)
    found.layer.append(found.names.setdefault(said.get(b"8", b"0").strip(b"\r"), len(found.names)))
    found.handles.append(said[b"5"].strip().decode("ascii", "replace") if b"5" in said else "")
    return True
