"""Runs: a section along a line, cut into pieces."""

from __future__ import annotations

from slow_ribbon.core.runs.pieces.silhouettes import silhouettes
from slow_ribbon.core.runs.pieces.solids import Surface, run_surface
from slow_ribbon.core.runs.pieces.trim_pieces import CornerKind
from slow_ribbon.core.runs.placement.placing import FacingPoint, FacingSide, Placing
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.placement.run_rule import RunRule, RunRuleBody
from slow_ribbon.core.runs.placement.stretches import Between, stretches_between
from slow_ribbon.core.runs.treatments.bend_table import Bend
from slow_ribbon.core.runs.treatments.curves.base import Curvature
from slow_ribbon.core.runs.treatments.ends import Capped, Posted, Returned, ScribedTo

__all__ = [
    "Bend",
    "Between",
    "Capped",
    "CornerKind",
    "Curvature",
    "FacingPoint",
    "FacingSide",
    "Placing",
    "Posted",
    "Returned",
    "Run",
    "RunRule",
    "RunRuleBody",
    "ScribedTo",
    "Surface",
    "run_surface",
    "silhouettes",
    "stretches_between",
]
