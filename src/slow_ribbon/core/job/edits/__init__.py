"""Edits: the only way a job changes."""

from __future__ import annotations

from slow_ribbon.core.job.edits.apply import AppliedAll, apply, apply_all, comes_elsewhere, said_by
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.job.edits.construction import AddMade, SetLineOut
from slow_ribbon.core.job.edits.drafts import KeepDraft
from slow_ribbon.core.job.edits.frames import AddFrame
from slow_ribbon.core.job.edits.groups import SetGroup
from slow_ribbon.core.job.edits.legs import MakeTangent
from slow_ribbon.core.job.edits.lines import AddLines, LineChanges, SetLine
from slow_ribbon.core.job.edits.measures import Bind, SetMeasures
from slow_ribbon.core.job.edits.mends import MendEdit, mends_of
from slow_ribbon.core.job.edits.openings import AddMarks, AddOpenings
from slow_ribbon.core.job.edits.outline_boolean import CircleShape, CombineOutline, SectionShape
from slow_ribbon.core.job.edits.outlines import CutOutlineCorner, HoldOutline, PutOutlinePoint, SetOutlineFigure, ShapeOutlineEdge
from slow_ribbon.core.job.edits.pieces import NumberAnew, SetNote
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.job.edits.reissue import RenewLines
from slow_ribbon.core.job.edits.removal import Remove
from slow_ribbon.core.job.edits.rows import AddRow
from slow_ribbon.core.job.edits.rules import AddRule, RuleChanges, SetRule
from slow_ribbon.core.job.edits.runs import AddRuns, PlacingChanges, RunChanges, SetPlacing, SetRun
from slow_ribbon.core.job.edits.sections import AddSection, SectionChanges, SectionOfLines, SetSection
from slow_ribbon.core.job.edits.sizes import RowChange, SetRange, SetSizes, SizeChange
from slow_ribbon.core.job.edits.strips import EdgeStrip
from slow_ribbon.core.job.edits.typicals import AddPlaces, AddTypical, CutLoose, NewPlace, NewTypical, SetPlaces, SetTypical, TypicalChanges
from slow_ribbon.core.job.edits.underlays import AddPicture

__all__ = [
    "AddFrame",
    "AddLines",
    "AddMade",
    "AddMarks",
    "AddOpenings",
    "AddPicture",
    "AddPlaces",
    "AddRow",
    "AddRule",
    "AddRuns",
    "AddSection",
    "AddTypical",
    "AnyEdit",
    "AppliedAll",
    "Bind",
    "CircleShape",
    "CombineOutline",
    "CutLoose",
    "CutOutlineCorner",
    "EdgeStrip",
    "Edit",
    "HoldOutline",
    "KeepDraft",
    "LineChanges",
    "MakeTangent",
    "MendEdit",
    "NewPlace",
    "NewTypical",
    "NumberAnew",
    "PlacingChanges",
    "PutOutlinePoint",
    "Remove",
    "RenewLines",
    "RowChange",
    "RuleChanges",
    "RunChanges",
    "SectionChanges",
    "SectionOfLines",
    "SectionShape",
    "SetGroup",
    "SetLine",
    "SetLineOut",
    "SetMeasures",
    "SetNote",
    "SetOutlineFigure",
    "SetPlaces",
    "SetPlacing",
    "SetRange",
    "SetRule",
    "SetRun",
    "SetSection",
    "SetSizes",
    "SetTypical",
    "ShapeOutlineEdge",
    "SizeChange",
    "TypicalChanges",
    "apply",
    "apply_all",
    "comes_elsewhere",
    "mends_of",
    "said_by",
]
