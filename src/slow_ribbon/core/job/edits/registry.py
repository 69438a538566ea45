"""All edits there are, and the type that reads any of them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Final, Union

from pydantic import Field

from slow_ribbon.core.job.edits import (
    acceptances,
    construction,
    corners,
    drafts,
    frames,
    groups,
    job,
    legs,
    lines,
    measures,
    openings,
    outline_boolean,
    outlines,
    pieces,
    points,
    reissue,
    removal,
    rows,
    rules,
    runs,
    saw,
    sections,
    sizes,
    split_join,
    strips,
    transform,
    typicals,
    underlays,
)  # fmt: skip
from slow_ribbon.core.job.edits.base import Edit

EDITS: Final[tuple[type[Edit], ...]] = (
    lines.AddLines, lines.SetLine, reissue.RenewLines,
    points.MoveVertex, points.InsertVertex, points.RemoveVertex, points.SetClosed, points.RoundCorners,
    legs.SetLeg, legs.ShapeLeg, legs.UnshapeLeg, legs.BendLeg, legs.TurnLeg, legs.MakeTangent,
    openings.AddOpenings, openings.SetOpening, openings.RemoveOpenings, openings.AddMarks, openings.SetMark, openings.RemoveMarks,
    split_join.SplitLine, split_join.JoinLines, split_join.ReverseLines, split_join.StartLineAt, split_join.SimplifyLines,
    construction.AddMade, construction.SetMade, construction.SetLineOut, construction.AddRegion,
    strips.EdgeStrip, frames.AddFrame, frames.DivideFrame, frames.FillFrame, transform.MirrorLines, transform.CopyLines,
    job.RenameJob, job.SetUnits, measures.SetMeasures, measures.Bind,
    sections.AddSection, sections.SetSection, sections.TakeVersion, sections.FreeSection, sections.SectionOfLines, sections.SectionOfRegion,
    outlines.MoveOutlinePoint, outlines.ShapeOutlineEdge, outlines.PutOutlinePoint,
    outlines.TakeOutlinePoint, outlines.CutOutlineCorner, outlines.SetOutlineFigure, outlines.HoldOutline, outlines.HoldSymmetric,
    outlines.LetGo, outline_boolean.CombineOutline, outline_boolean.TurnOutline, outline_boolean.AddPolygon,
    sizes.SetSizes, sizes.SetRange, sizes.StretchEdge,
    pieces.SetNote, pieces.NumberAnew,
    runs.AddRuns, runs.SetPlacing, runs.SetRun, runs.GiveSettings, runs.ExchangeSection, corners.SetCorners,
    rules.AddRule, rules.SetRule, rules.AddRowRule, rules.SetRowRule, drafts.KeepDraft, drafts.SetDraft, drafts.SectionOfDraft,
    rows.AddRow, rows.SetRow, rows.HoldItem, rows.LetItemsGo,
    typicals.AddTypical, typicals.SetTypical, typicals.AddPlaces, typicals.ListPlaces, typicals.SetPlaces,
    typicals.RemovePlaces, typicals.CutLoose,
    underlays.AddPicture, underlays.SetPicture, underlays.ScalePicture, groups.SetGroup, acceptances.AcceptCheck,
    acceptances.WithdrawAcceptance, saw.SetSaw, removal.Remove,
)  # fmt: skip

if TYPE_CHECKING:
    AnyEdit = Edit
else:
    AnyEdit = Annotated[Union[EDITS], Field(discriminator="kind")]  # noqa: UP007  # made of the registry
