"""Patterns of shaped ends at full size, as SVG to be printed without scaling and as DXF in mm."""

from __future__ import annotations

import io
import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Final
from xml.sax.saxutils import escape

import numpy as np

from slow_ribbon.core.cutting import Pattern, patterns_of, templates_of
from slow_ribbon.core.kernel import Array, plain
from slow_ribbon.core.solve import Solved

#: Room around a pattern and between two, and the height of what is written above one, mm.
_ROOM, _WRITTEN = 12.0, 11.0
#: A length to check the print by, mm.
_CHECK: Final = 100.0
#: How wide a letter of either line written above a pattern is taken to be, mm.
_LETTERS: Final = (2.3, 1.75)
#: Rows of patterns are no wider than this, mm, unless one alone is: an A1 sheet across.
_WIDE: Final = 560.0
#: Tags reported above a pattern before the rest are counted.
_TAGS: Final = 12


@dataclass(frozen=True)
class _Laid:
    """A pattern with where its cut at the section's foot lies, y up from the foot of the sheet, and what is written above it."""

    pattern: Pattern
    x: float
    y: float
    words: tuple[str, str]

    def on_sheet(self, points: Array) -> Array:
        return points + (self.x, self.y)

    @property
    def piece(self) -> Array:
        """The outline of what is shown of the piece, from the cut at its foot round to the cut at its top."""
        cut, rest = self.pattern.face, self.pattern.rest
        if self.pattern.whole:
            board = [[0.0, 0.0], [rest, 0.0], [rest, self.pattern.height], [0.0, self.pattern.height], [0.0, 0.0]]
            return self.on_sheet(np.array(board))
        if self.pattern.edges is not None:
            foot, top = self.pattern.edges
            return self.on_sheet(np.concatenate([foot, top[::-1]]))
        return self.on_sheet(np.array([cut[0], [rest, 0.0], [rest, self.pattern.height], cut[-1]]))

    @property
    def grain(self) -> Array:
        """An arrow along the grain: its ends."""
        rest, middle = self.pattern.rest, self.pattern.height / 2
        at = (rest + 35) / 2 if self.pattern.whole else rest * 0.95
        return self.on_sheet(np.array([[at, middle], [at - 35 * np.sign(rest), middle]]))


def _sheet(solved: Solved) -> tuple[list[_Laid], float, float]:
    """Return patterns laid beside one another in rows, in order, and the sheet's width and height, mm."""
    found = [(one, _words(one)) for one in (*patterns_of(solved), *templates_of(solved))]
    # What is written above a pattern takes its room too.
    widths = [max(abs(one.rest), *(len(words) * size for words, size in zip(said, _LETTERS, strict=True))) for one, said in found]
    rows: list[list[int]] = []
    reached = math.inf
    for number, width in enumerate(widths):
        if reached + width > max(_WIDE, width):
            rows.append([])
            reached = 0.0
        rows[-1].append(number)
        reached += width + 2 * _ROOM
    heights = [max(found[number][0].height for number in row) for row in rows]
    tall = sum(heights) + len(rows) * (_WRITTEN + _ROOM) + 3 * _ROOM
    wide = max([_CHECK, 130.0, *(sum(widths[number] + 2 * _ROOM for number in row) - 2 * _ROOM for row in rows)]) + 2 * _ROOM
    laid, top = [], tall - _ROOM
    for row, height in zip(rows, heights, strict=True):
        left = _ROOM
        for number in row:
            one, said = found[number]
            # A piece that lies to the left of its cut has it on the right. All of a row hang from one line.
            laid.append(_Laid(one, left if one.rest > 0 else left - one.rest, top - _WRITTEN - one.height, said))
            left += widths[number] + 2 * _ROOM
        top -= _WRITTEN + height + _ROOM
    return laid, wide, tall


def _words(pattern: Pattern) -> tuple[str, str]:
    tags, more = ", ".join(pattern.tags[:_TAGS]), len(pattern.tags) - _TAGS
    which = f"{tags} and {more} more" if more > 0 else tags
    if pattern.whole:
        return f"{which}: {pattern.words}", f"{pattern.section} · {pattern.run} · the whole piece, {pattern.seen}"
    return (
        f"{which}: {'end' if pattern.end else 'beginning'}, {plain(pattern.words)}",
        f"{pattern.section} · {pattern.run} · seen from {pattern.seen}" + (" · dashed: on the back" if pattern.back is not None else ""),
    )


def patterns_svg(solved: Solved) -> bytes:
    """Return the patterns of a job as SVG at 1:1, with a length to check the print by."""
    laid, wide, tall = _sheet(solved)
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_mm(wide)}mm" height="{_mm(tall)}mm" viewBox="0 0 {_mm(wide)} {_mm(tall)}">',
        f" <title>{escape(solved.job.name)}: patterns at full size</title>",
        ' <g fill="none" stroke="#22302e" stroke-width="0.25" stroke-linejoin="round" font-family="sans-serif">',
    ]
    for one in laid:
        title, more = one.words
        x, top = min(one.x, one.x + one.pattern.rest), tall - one.y - one.pattern.height
        parts += [
            "  <g>",
            f'   <text x="{_mm(x)}" y="{_mm(top - 6.5)}" font-size="4" fill="#22302e" stroke="none">{escape(title)}</text>',
            f'   <text x="{_mm(x)}" y="{_mm(top - 2)}" font-size="3" fill="#5c6a66" stroke="none">{escape(more)}</text>',
            f'   <path class="piece" d="{_path(one.piece, tall)}" stroke="#8a938f"/>',
            f'   <path class="face" d="{_path(one.on_sheet(one.pattern.face), tall)}" stroke-width="0.35"/>',
        ]
        if one.pattern.back is not None:
            parts.append(f'   <path class="back" d="{_path(one.on_sheet(one.pattern.back), tall)}" stroke-dasharray="2 1.2"/>')
        parts += [f'   <path class="grain" d="{_path(one.grain, tall)}{_arrow(one.grain, tall)}" stroke="#8a5a1c"/>', "  </g>"]
    said = (
        "Check the print: this is 100 mm long."
        if laid
        else "Nothing of this job needs a pattern: no end is shaped, no curve sawn or laminated."
    )
    parts += [
        f'  <path class="check" d="M{_mm(_ROOM)} {_mm(tall - _ROOM)}h{_mm(_CHECK)}m0 -1.5v3m{_mm(-_CHECK)} -3v3"/>',
        f'  <text x="{_mm(_ROOM)}" y="{_mm(tall - _ROOM - 2.5)}" font-size="3" fill="#22302e" stroke="none">{said}</text>',
        " </g>",
        "</svg>",
        "",
    ]
    return "\n".join(parts).encode()


def patterns_dxf(solved: Solved) -> bytes:
    """Return the patterns of a job as DXF R2010 in mm."""
    import ezdxf
    from ezdxf.enums import InsertUnits

    document = ezdxf.new("R2010", units=InsertUnits.Millimeters)
    for name in ("FACE", "BACK", "PIECE", "GRAIN", "TEXT"):
        document.layers.add(name)
    space = document.modelspace()
    for one in _sheet(solved)[0]:
        for layer, points in _drawn(one):
            space.add_lwpolyline(points.tolist(), dxfattribs={"layer": layer})
        x, top = min(one.x, one.x + one.pattern.rest), one.y + one.pattern.height
        for words, up, size in zip(one.words, (6.5, 2.0), (4, 3), strict=True):
            text: Any = space.add_text(words, height=size, dxfattribs={"layer": "TEXT"})
            text.set_placement((x, top + up))
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode("utf-8")


def _drawn(one: _Laid) -> Iterator[tuple[str, Array]]:
    yield "PIECE", one.piece
    yield "FACE", one.on_sheet(one.pattern.face)
    if one.pattern.back is not None:
        yield "BACK", one.on_sheet(one.pattern.back)
    yield "GRAIN", one.grain


def _path(points: Array, tall: float) -> str:
    return "M" + "L".join(f"{_mm(x)} {_mm(tall - y)}" for x, y in points.tolist())


def _arrow(grain: Array, tall: float) -> str:
    """Return the heads of an arrow at both ends."""
    (x0, y), (x1, _) = grain.tolist()
    way = 2.5 if x1 > x0 else -2.5
    down = tall - y
    heads = (f"M{_mm(x + by)} {_mm(down - 1.2)}L{_mm(x)} {_mm(down)}L{_mm(x + by)} {_mm(down + 1.2)}" for x, by in ((x0, way), (x1, -way)))
    return "".join(heads)


def _mm(value: float) -> str:
    return f"{value:.4f}".rstrip("0").rstrip(".").replace("-0", "0") if abs(value) < 5e-5 else f"{value:.4f}".rstrip("0").rstrip(".")
