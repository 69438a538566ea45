"""Sections: outlines, their sizes and measures, and the starting library."""

from __future__ import annotations

from slow_ribbon.core.sections.draft import DraftBody
from slow_ribbon.core.sections.drawing import Drawing, drawing_box, drawing_of, point_figures
from slow_ribbon.core.sections.drawn import EdgeKind
from slow_ribbon.core.sections.edges import Arc, Curve
from slow_ribbon.core.sections.facts import Facts, facts_of
from slow_ribbon.core.sections.faults import FaultKind, faults_of
from slow_ribbon.core.sections.file import SectionFile, sections_from_text, sections_to_text
from slow_ribbon.core.sections.held import Apart, Held, Level, Upright
from slow_ribbon.core.sections.held import words_of as held_words
from slow_ribbon.core.sections.library import from_library, library, rectangle
from slow_ribbon.core.sections.materials import TONES, Material
from slow_ribbon.core.sections.model import (
    NamedDatum,
    PointDatum,
    Section,
    SectionBody,
    ShopLink,
    Stock,
    beds,
    datum_point,
    named_points,
    section_shape,
    stretching_bands,
)
from slow_ribbon.core.sections.outline import Outline, StraightEdge, circle, outline_by_points
from slow_ribbon.core.sections.profile import Shape, shape_of
from slow_ribbon.core.sections.resizing import in_row
from slow_ribbon.core.sections.sizes import NamedSize, RangeRow
from slow_ribbon.core.sections.thickening import Beside, Ended, Turned, thickened
from slow_ribbon.core.sections.together import flattened

__all__ = [
    "TONES",
    "Apart",
    "Arc",
    "Beside",
    "Curve",
    "DraftBody",
    "Drawing",
    "EdgeKind",
    "Ended",
    "Facts",
    "FaultKind",
    "Held",
    "Level",
    "Material",
    "NamedDatum",
    "NamedSize",
    "Outline",
    "PointDatum",
    "RangeRow",
    "Section",
    "SectionBody",
    "SectionFile",
    "Shape",
    "ShopLink",
    "Stock",
    "StraightEdge",
    "Turned",
    "Upright",
    "beds",
    "circle",
    "datum_point",
    "drawing_box",
    "drawing_of",
    "facts_of",
    "faults_of",
    "flattened",
    "from_library",
    "held_words",
    "in_row",
    "library",
    "named_points",
    "outline_by_points",
    "point_figures",
    "rectangle",
    "section_shape",
    "sections_from_text",
    "sections_to_text",
    "shape_of",
    "stretching_bands",
    "thickened",
]
