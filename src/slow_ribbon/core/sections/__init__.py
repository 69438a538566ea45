"""Sections: outlines, their sizes and measures, and the starting library."""

from __future__ import annotations

from slow_ribbon.core.sections.document.constraints import Apart, Constraint, Level, Upright
from slow_ribbon.core.sections.document.draft import DraftBody
from slow_ribbon.core.sections.document.materials import TONES, Material
from slow_ribbon.core.sections.document.section import (
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
from slow_ribbon.core.sections.document.sizes import NamedSize, RangeRow
from slow_ribbon.core.sections.edges import EdgeKind
from slow_ribbon.core.sections.edges.arc import Arc
from slow_ribbon.core.sections.edges.curve import BezierEdge
from slow_ribbon.core.sections.edges.straight import StraightEdge
from slow_ribbon.core.sections.file import SectionFile, sections_from_text, sections_to_text
from slow_ribbon.core.sections.library import from_library, library, rectangle
from slow_ribbon.core.sections.operations.offset_outline import Beside, Ended, Turned, thickened
from slow_ribbon.core.sections.operations.parametric_sizes import in_row
from slow_ribbon.core.sections.outline.edge_arrays import flattened
from slow_ribbon.core.sections.outline.outline import Outline, circle, outline_by_points
from slow_ribbon.core.sections.outline.outline_validation import FaultKind, faults_of
from slow_ribbon.core.sections.outline.profile import Shape, shape_of
from slow_ribbon.core.sections.section_properties import Facts, facts_of
from slow_ribbon.core.sections.sketch.sketch import Sketch, drawing_box, drawing_of, point_figures

__all__ = [
    "TONES",
    "Apart",
    "Arc",
    "Beside",
    "BezierEdge",
    "Constraint",
    "DraftBody",
    "EdgeKind",
    "Ended",
    "Facts",
    "FaultKind",
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
    "Sketch",
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
