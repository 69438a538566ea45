"""Runs: a section along a line, cut into pieces."""

from __future__ import annotations

from slow_ribbon.core.runs.bending import Bend
from slow_ribbon.core.runs.curve_sizes import Curvature
from slow_ribbon.core.runs.finishes import Capped, Posted, Returned, ScribedTo
from slow_ribbon.core.runs.mitre import Kind
from slow_ribbon.core.runs.model import Between, FacingPoint, FacingSide, Placing, Run, stretches_between
from slow_ribbon.core.runs.rule import LinesBy, RunRule, RunRuleBody
from slow_ribbon.core.runs.silhouettes import silhouettes
from slow_ribbon.core.runs.solids import Surface, run_surface

__all__ = [
    "Bend",
    "Between",
    "Capped",
    "Curvature",
    "FacingPoint",
    "FacingSide",
    "Kind",
    "LinesBy",
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
