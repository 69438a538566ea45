"""The starting library: outlines drawn for this project as straights and arcs, at a usual size.

Every outline is drawn with its back at x = 0 and its foot at y = 0, facing right. Sizes and
shapes are our own; "tan of a quarter of the angle" is how arcs are drawn (``OutlinePen.arc``).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from typing import Final

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.sections.materials import Material
from slow_ribbon.core.sections.model import Bed, EdgeBed, NamedDatum, NamedPoint, SectionBody, SideBed
from slow_ribbon.core.sections.outline import Outline, OutlinePen, circle
from slow_ribbon.core.sections.profile import shape_of

#: Bulge of a quarter circle, tan 22.5°.
QUARTER: Final = math.tan(math.pi / 8)


@dataclass(frozen=True)
class Entry:
    """A section of the library, with a stable key and the family it is listed under."""

    key: str
    family: str
    section: SectionBody


def rectangle(width: float, height: float) -> Outline:
    """Return a rectangle with its back foot at the origin."""
    return OutlinePen(0, 0).line(width, 0).line(width, height).line(0, height).close()


def _rounded(width: float, height: float, radius: float) -> Outline:
    w, h, r = width, height, radius
    pen = OutlinePen(r, 0).line(w - r, 0).arc(w, r, QUARTER).line(w, h - r).arc(w - r, h, QUARTER)
    return pen.line(r, h).arc(0, h - r, QUARTER).line(0, r).arc(r, 0, QUARTER).close()


def _chamfered_skirting() -> Outline:
    return OutlinePen(0, 0).line(18, 0).line(18, 127).line(8, 145).line(0, 145).close()


def _ogee_skirting() -> Outline:
    # A straight face, a fillet, then a hollow and a round up to a narrow head.
    pen = OutlinePen(0, 0).line(20, 0).line(20, 116).line(17, 116)
    return pen.arc(12, 128, -0.30).arc(6, 140, 0.30).line(6, 145).line(0, 145).close()


def _bull_skirting() -> Outline:
    return OutlinePen(0, 0).line(15, 0).line(15, 88).arc(3, 100, QUARTER).line(0, 100).close()


def _dado_rail() -> Outline:
    pen = OutlinePen(0, 0).line(6, 0).line(6, 8).arc(14, 22, -QUARTER * 0.8).line(18, 22).arc(18, 40, 1.0)
    return pen.line(12, 40).arc(6, 50, -QUARTER).line(6, 58).line(0, 58).close()


def _picture_rail() -> Outline:
    # A hook's seat at the head: a round nose, of a radius of 65/14 that is at its widest where it begins, a hollow behind it to hang from.
    pen = OutlinePen(0, 0).line(8, 0).line(8, 10).arc(16, 22, -0.35).line(16, 30)
    nose = math.tan(math.atan2(4, 13 - 20 + 65 / 14) / 4)
    return pen.arc(20, 38, 0.25).arc(13, 42, nose).arc(8, 37, -0.45).line(5, 37).line(5, 44).line(0, 44).close()


def _sprung_cornice() -> Outline:
    # Edge 0 is the sprung back, 38° from the wall; short flats touch the wall and the ceiling.
    rise = 90.0
    back = rise * math.tan(math.radians(38))
    pen = OutlinePen(back, 10 + rise).line(0, 10).line(0, 0).line(10, 0).line(10, 6)
    pen.arc(34, 30, -0.35).line(34, 36).line(40, 36).arc(70, 78, 0.30).line(70, 84)
    return pen.line(82, 84).line(82, 10 + rise).close()


def _moulded_handrail() -> Outline:
    # A mopstick's head on a grooved neck, 58 wide and 44 high.
    pen = OutlinePen(16, 0).line(42, 0).line(42, 8).arc(50, 16, -QUARTER)
    pen.arc(50, 36, 0.75).arc(8, 36, 5 / 21).arc(8, 16, 0.75).arc(16, 8, -QUARTER)
    return pen.close()


def _coping() -> Outline:
    # Weathered both ways, with a throat under each overhang.
    pen = OutlinePen(0, 0).line(14, 0).arc(26, 0, -1.0).line(274, 0).arc(286, 0, -1.0)
    return pen.line(300, 0).line(300, 50).line(150, 75).line(0, 50).close()


def _fence_rail() -> Outline:
    # A level foot and a sloped head that sheds water, level for a moment where its round begins.
    return OutlinePen(0, 0).line(38, 0).line(38, 74).line(6, 87).arc(0, 82, math.tan(math.atan2(6, 1.1) / 4)).close()


def _architrave() -> Outline:
    pen = OutlinePen(0, 0).line(12, 0).arc(18, 6, QUARTER).line(18, 40).line(22, 40).line(22, 52).arc(14, 60, QUARTER)
    return pen.line(14, 69).line(0, 69).close()


def _square_tube() -> tuple[Outline, tuple[Outline, ...]]:
    return _rounded(40, 40, 6), (_rounded(34, 34, 3),)


_Drawing = Callable[[], Outline | tuple[Outline, tuple[Outline, ...]]]


def _entry(
    key: str,
    family: str,
    name: str,
    drawing: _Drawing,
    datum: NamedPoint,
    material: Material,
    bed: Bed | None = None,
    wall: float | None = None,
) -> Entry:
    drawn = drawing()
    outline, holes = drawn if isinstance(drawn, tuple) else (drawn, ())
    left, low, right, high = shape_of(outline).box
    digits = 0 if wall is None else 3  # a tube keeps its standard size
    section = SectionBody(
        name=name,
        outline=outline,
        holes=holes,
        width=round(right - left, digits),
        height=round(high - low, digits),
        wall=wall,
        datum=NamedDatum(name=datum),
        material=material,
        bed=bed or SideBed(side="back"),
    )
    return Entry(key, family, section)


@cache
def library() -> tuple[Entry, ...]:
    """Return the sections of the starting library."""
    foot = SideBed(side="foot")
    return (
        _entry("skirting-chamfered", "Skirtings", "Skirting, chamfered", _chamfered_skirting, "back-foot", "painted"),
        _entry("skirting-ogee", "Skirtings", "Skirting, ogee", _ogee_skirting, "back-foot", "painted"),
        _entry("skirting-bullnosed", "Skirtings", "Skirting, bull-nosed", _bull_skirting, "back-foot", "softwood"),
        _entry("dado-rail", "Wall mouldings", "Dado rail", _dado_rail, "back-middle", "painted"),
        _entry("picture-rail", "Wall mouldings", "Picture rail", _picture_rail, "back-foot", "painted"),
        _entry("architrave", "Wall mouldings", "Architrave, stepped", _architrave, "back-foot", "painted"),
        _entry("cornice-sprung", "Wall mouldings", "Cornice, sprung 38°", _sprung_cornice, "back-head", "painted", EdgeBed(edge=0)),
        _entry("handrail-round", "Handrails", "Handrail, round", lambda: circle(22), "middle", "oak", foot),
        _entry("handrail-moulded", "Handrails", "Handrail, moulded", _moulded_handrail, "middle-foot", "oak", foot),
        _entry("tube-round", "Metal", "Round tube", lambda: (circle(24.15), (circle(20.95),)), "middle", "steel", foot, 3.2),
        _entry("tube-square", "Metal", "Square tube", _square_tube, "middle", "steel", foot, 3.0),
        _entry("flat-bar", "Metal", "Flat bar", lambda: rectangle(10, 50), "middle-foot", "steel"),
        _entry("coping-weathered", "Masonry", "Coping, weathered", _coping, "middle-foot", "stone", foot),
        _entry("fence-rail", "Fences", "Fence rail, weathered", _fence_rail, "back-middle", "softwood"),
        _entry("batten", "Plain", "Batten", lambda: rectangle(25, 50), "back-foot", "softwood"),
    )


def from_library(key: str) -> SectionBody:
    """Return a section of the library by its key. Raises ``Refused`` where there is none."""
    for entry in library():
        if entry.key == key:
            return entry.section
    known = ", ".join(entry.key for entry in library())
    raise Refused(f"There is no section {key} in the library; it holds {known}.", "key", "unknown-id")
