"""Setting-out lines: their legs, the line resolved, and what can be done with them."""

from __future__ import annotations

from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.construction import Offset, Walk
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.fillets import LinePart, line_parts, only_straight
from slow_ribbon.core.lines.frames import FrameBody, FrameCut, FrameDivision
from slow_ribbon.core.lines.legs import (
    AnyLeg,
    ArcLeg,
    CordLeg,
    CurveLeg,
    Hanging,
    Leg,
    PassPoint,
    StraightLeg,
    ThroughLeg,
    hanging,
    leg_of,
    place,
    spline_leg,
)
from slow_ribbon.core.lines.lines_by import LinesBy
from slow_ribbon.core.lines.made.panes import PaneLaid, pane_laid
from slow_ribbon.core.lines.made.strips import strip_laid
from slow_ribbon.core.lines.made.walk import walk
from slow_ribbon.core.lines.model import MOST_LINES, Line, LineBody, Mark, Opening, Pane, Source, Strip, Wall, line_body, with_ids
from slow_ribbon.core.lines.reimport_match import Match, Outcome, compared, keys_kept, shape_of, shape_of_straights
from slow_ribbon.core.lines.simplify import simplified
from slow_ribbon.core.lines.typicals.typical import Grid, OwnMeasure, PlaceBody, PlacesAlong
from slow_ribbon.core.lines.validate import check_line, surely_sound

__all__ = [
    "MOST_LINES",
    "AnyLeg",
    "ArcLeg",
    "CordLeg",
    "Course",
    "CurveLeg",
    "FrameBody",
    "FrameCut",
    "FrameDivision",
    "Grid",
    "Hanging",
    "Leg",
    "Line",
    "LineBody",
    "LinePart",
    "LinesBy",
    "Mark",
    "Match",
    "Offset",
    "Opening",
    "Outcome",
    "OwnMeasure",
    "Pane",
    "PaneLaid",
    "PassPoint",
    "PlaceBody",
    "PlacesAlong",
    "Source",
    "StraightLeg",
    "Strip",
    "ThroughLeg",
    "Walk",
    "Wall",
    "check_line",
    "compared",
    "course_of",
    "hanging",
    "keys_kept",
    "leg_of",
    "line_body",
    "line_parts",
    "only_straight",
    "pane_laid",
    "place",
    "shape_of",
    "shape_of_straights",
    "simplified",
    "spline_leg",
    "strip_laid",
    "surely_sound",
    "walk",
    "with_ids",
]
