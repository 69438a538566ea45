"""Ways of drawing that the library's outlines share: polygons with rounded corners, rounded rectangles, and entries."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from slow_ribbon.core.sections.document.materials import Material
from slow_ribbon.core.sections.document.section import Bed, NamedDatum, NamedPoint, SectionBody, SideBed
from slow_ribbon.core.sections.outline.outline import Outline, OutlinePen
from slow_ribbon.core.sections.outline.profile import shape_of

#: Bulge of a quarter circle, tan 22.5°.
QUARTER: Final = math.tan(math.pi / 8)

BoardOutline = Outline | tuple[Outline, tuple[Outline, ...]]
"""An outline, or an outline with its holes."""


@dataclass(frozen=True)
class Entry:
    """A section of the library, with a stable key, the family it is listed under and the standard its size is of, if any."""

    key: str
    family: str
    section: SectionBody
    standard: str = ""


def rectangle(width: float, height: float) -> Outline:
    """Return a rectangle with its back foot at the origin."""
    return OutlinePen(0, 0).line(width, 0).line(width, height).line(0, height).close()


def rounded_rectangle(width: float, height: float, radius: float, at: tuple[float, float] = (0.0, 0.0)) -> Outline:
    """Return a rectangle with rounded corners, its back foot at a place."""
    x, y = at
    return rounded([(x, y, radius), (x + width, y, radius), (x + width, y + height, radius), (x, y + height, radius)])


def rounded(corners: Sequence[tuple[float, float, float]]) -> Outline:
    """Return a polygon with its corners (x, y, radius) rounded, or chamfered so far along both sides by a negative radius.

    An arc touches both sides at radius·tan(turn/2) from the corner; its bulge is tan(turn/4).
    """
    cuts: list[tuple[tuple[float, float], tuple[float, float], float]] = []
    for i, (x, y, radius) in enumerate(corners):
        before, after = corners[i - 1], corners[(i + 1) % len(corners)]
        ins, outs = math.dist(before[:2], (x, y)), math.dist((x, y), after[:2])
        into, out = ((x - before[0]) / ins, (y - before[1]) / ins), ((after[0] - x) / outs, (after[1] - y) / outs)
        turn = math.atan2(into[0] * out[1] - into[1] * out[0], into[0] * out[0] + into[1] * out[1])
        back = -radius if radius < 0 else radius * math.tan(abs(turn) / 2)
        first, last = (x - back * into[0], y - back * into[1]), (x + back * out[0], y + back * out[1])
        cuts.append((first, last, 0.0 if radius < 0 else math.tan(turn / 4)))
    pen = OutlinePen(*cuts[0][1])
    for first, last, bulge in [*cuts[1:], cuts[0]]:
        if math.dist(first, pen.at) > 1e-9:
            pen.line(*first)
        if math.dist(first, last) > 1e-9:
            pen.arc(*last, bulge) if bulge else pen.line(*last)
    return pen.close()


def entry(
    key: str,
    family: str,
    name: str,
    drawing: BoardOutline,
    datum: NamedPoint,
    material: Material,
    bed: Bed | None = None,
    wall: float | None = None,
    standard: str = "",
) -> Entry:
    """Return a section of the library at the size that it is drawn at."""
    outline, holes = drawing if isinstance(drawing, tuple) else (drawing, ())
    left, low, right, high = shape_of(outline).box
    section = SectionBody(
        name=name,
        outline=outline,
        holes=holes,
        # Sizes are whole tenths; what is left over is rounding.
        width=round(right - left, 3),
        height=round(high - low, 3),
        wall=wall,
        datum=NamedDatum(name=datum),
        material=material,
        bed=bed or SideBed(side="back"),
    )
    return Entry(key, family, section, standard)
