"""Plain lines of a large DXF drawing, read past ezdxf, which takes a tenth of a millisecond for each.

A drawing of a hundred thousand edges is nearly all LINE entities of a few tags. Those are taken out
of the text of its ENTITIES section; everything else, lines with anything unusual said of them
included, is left for ezdxf to read.
"""

from __future__ import annotations

from typing import Final, NamedTuple

#: Smaller files gain nothing.
LARGE: Final = 1024 * 1024


class PlainLine(NamedTuple):
    """A line: its layer's name as written, its ends in the drawing's unit, and its handle where it has one."""

    layer: bytes
    begin: tuple[float, float, float]
    end: tuple[float, float, float]
    handle: str


def taken_out(data: bytes) -> tuple[bytes, list[PlainLine]] | None:
    """Return a drawing without its plain lines, and these; nothing where it is small, binary, or not made of pairs of lines."""
    if len(data) < LARGE or b"\0" in data[:1000]:
        return None
    rows = data.split(b"\n")
    codes, values = [code.strip() for code in rows[0::2]], rows[1::2]
    if len(values) < len(codes):
        codes.pop()
    section = next((i for i, code in enumerate(codes) if code == b"2" and values[i].strip() == b"ENTITIES" and codes[i - 1] == b"0"), None)
    if section is None:
        return None
    found: list[PlainLine] = []
    kept: list[tuple[int, int]] = []
    begin, low = section + 1, 0
    while begin < len(codes) and values[begin].strip() != b"ENDSEC":
        try:
            end = codes.index(b"0", begin + 1)
        except ValueError:
            return None
        if codes[begin] == b"0" and values[begin].strip() == b"LINE" and (line := _line(codes[begin:end], values[begin:end])) is not None:
            found.append(line)
            kept.append((low, begin))
            low = end
        begin = end
    kept.append((low, len(codes)))
    rest = [row for a, b in kept for row in rows[2 * a : 2 * b]]
    return b"\n".join([*rest, b""]), found


def _line(codes: list[bytes], values: list[bytes]) -> PlainLine | None:
    """Return a line by its group codes (DXF reference, LINE); nothing where it is on paper, invisible, or wrong."""
    said = dict(zip(codes, values, strict=True))
    if any(code in said and said[code].strip() != plain for code, plain in ((b"67", b"0"), (b"60", b"0"), (b"410", b"Model"))):
        return None
    try:
        x, y, z, u, v, w = (float(said[code]) if code in said else _absent(code) for code in (b"10", b"20", b"30", b"11", b"21", b"31"))
    except ValueError:
        return None
    return PlainLine(said.get(b"8", b"0").strip(b"\r"), (x, y, z), (u, v, w), said.get(b"5", b"").strip().decode("ascii", "replace"))


def _absent(code: bytes) -> float:
    """Return what a missing coordinate is: a height may be left out. Raises ``ValueError`` for another."""
    if code in (b"30", b"31"):
        return 0.0
    raise ValueError(code)
