"""The job cut across a line at a chainage, at full size, as SVG and as DXF in mm: what is cut, what is drawn, and levels.

Sheets are seen along travel: right is to the right of the line, up is up; zero is the line. Levels are heights above the job's zero.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Any, Final
from xml.sax.saxutils import escape

import numpy as np

from slow_ribbon.core.kernel import Array
from slow_ribbon.core.solve import CutAcross, Solved

#: Room around what is cut, mm, and how far level marks reach beyond it.
_ROOM, _MARK = 40.0, 30.0
#: Layers of the DXF and classes of the SVG, with their colours.
_LAYERS: Final = {"WALL": "#8a938f", "CUT": "#22302e", "DRAWN": "#3b6ea8", "LEVEL": "#8a5a1c"}


@dataclass(frozen=True)
class _Sheet:
    """Rings (k, 2) by their layers, with whose they are, and the levels: how far up from the line, and the words."""

    rings: list[tuple[str, str, Array]]
    levels: list[tuple[float, str]]
    low: Array
    high: Array


def _sheet(solved: Solved, cut: CutAcross, reach: float) -> _Sheet:
    names = {run.id: run.name for run in solved.job.runs} | {line.id: line.name for line in solved.job.lines}
    rings = [
        (layer, names[one.thing], ring)
        for layer, things in (("WALL", cut.others), ("CUT", (*cut.others, *cut.cuts)), ("DRAWN", cut.drawn))
        for one in things
        if one.wall == (layer == "WALL")
        for ring in one.rings
        if float(np.abs(ring).min(axis=0).max()) <= reach
    ]
    own = [ring for layer, _, ring in rings if layer in ("CUT", "DRAWN")]
    heights = sorted({round(float(height), 3) for ring in own for height in (ring[:, 1].min(), ring[:, 1].max())}) if cut.upright else []
    every = np.concatenate([np.zeros((1, 2)), *(ring for _, _, ring in rings)])
    levels = [(height, f"{cut.plane.point[2] + height + solved.job.origin[2]:.1f}".removesuffix(".0")) for height in heights]
    return _Sheet(rings, levels, every.min(axis=0) - _ROOM, every.max(axis=0) + _ROOM)


def across_svg(solved: Solved, cut: CutAcross, title: str, reach: float) -> bytes:
    """Return the cut as SVG at 1:1, what lies within ``reach`` mm of the line."""
    sheet = _sheet(solved, cut, reach)
    wide, tall = sheet.high - sheet.low + (_MARK + 40.0, 0.0)
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_mm(wide)}mm" height="{_mm(tall)}mm" '
        f'viewBox="{_mm(sheet.low[0])} {_mm(-sheet.high[1])} {_mm(wide)} {_mm(tall)}">',
        f" <title>{escape(title)}</title>",
        ' <g fill="none" stroke-width="0.35" stroke-linejoin="round" font-family="sans-serif">',
    ]
    for layer, name, ring in sheet.rings:
        points = "L".join(f"{_mm(x)} {_mm(-y)}" for x, y in ring.tolist())
        dashed = ' stroke-dasharray="3 1.5"' if layer == "DRAWN" else ""
        parts.append(
            f'  <path class="{layer.lower()}" d="M{points}Z" stroke="{_LAYERS[layer]}"{dashed}><title>{escape(name)}</title></path>'
        )
    right = sheet.high[0] - _ROOM
    for height, words in sheet.levels:
        parts.append(f'  <path class="level" d="M{_mm(right + 5)} {_mm(-height)}h{_mm(_MARK)}" stroke="{_LAYERS["LEVEL"]}"/>')
        place = f'x="{_mm(right + _MARK + 8)}" y="{_mm(-height + 1.2)}"'
        parts.append(f'  <text {place} font-size="4" fill="{_LAYERS["LEVEL"]}" stroke="none">{words}</text>')
    parts += ['  <path class="line" d="M-4 0h8M0 -4v8" stroke="#3b6ea8"/>', " </g>", "</svg>", ""]
    return "\n".join(parts).encode()


def across_dxf(solved: Solved, cut: CutAcross, title: str, reach: float) -> bytes:
    """Return the cut as DXF R2010 in mm, a closed polyline for each outline, in layers by what it is."""
    import ezdxf
    from ezdxf.enums import InsertUnits

    document = ezdxf.new("R2010", units=InsertUnits.Millimeters)
    for name in (*_LAYERS, "TEXT"):
        document.layers.add(name)
    space = document.modelspace()
    sheet = _sheet(solved, cut, reach)
    for layer, _, ring in sheet.rings:
        space.add_lwpolyline(ring.tolist(), close=True, dxfattribs={"layer": layer})
    right = float(sheet.high[0]) - _ROOM
    for height, words in sheet.levels:
        space.add_line((right + 5, height), (right + 5 + _MARK, height), dxfattribs={"layer": "LEVEL"})
        text: Any = space.add_text(words, height=4, dxfattribs={"layer": "TEXT"})
        text.set_placement((right + _MARK + 8, height - 1.5))
    text = space.add_text(title, height=5, dxfattribs={"layer": "TEXT"})
    text.set_placement((float(sheet.low[0]), float(sheet.low[1])))
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def _mm(value: float) -> str:
    written = f"{value:.4f}".rstrip("0").rstrip(".")
    return "0" if written == "-0" else written
