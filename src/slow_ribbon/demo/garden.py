"""The garden north of the hall: a planting bed beside a path that winds through it, its trees and shrubs kept clear of the path."""

from __future__ import annotations

from typing import Final

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRow, AddSection, EdgeStrip, Edit, LineChanges, MakeTangent, SetGroup, SetLine, apply_all
from slow_ribbon.core.lines import ArcLeg, LineBody, StraightLeg
from slow_ribbon.core.rows import (
    ChanceFilling,
    ClearOf,
    EqualBays,
    ItemPattern,
    OtherItem,
    RowBody,
    Spacing,
    TreeItem,
)
from slow_ribbon.core.sections import SectionBody, outline_by_points

_PATH: Final = (-2000.0, 10_400.0, 0.0)
_WAY: Final = ((3600.0, 11_800.0, 0.0), (9200.0, 12_600.0, 0.0), (15_000.0, 11_200.0, 0.0), (18_600.0, 11_200.0, 0.0))
_BED: Final = (
    (-1200.0, 9400.0, 0.0), (17_600.0, 9400.0, 0.0), (17_600.0, 15_200.0, 0.0), (4000.0, 16_400.0, 0.0), (-1200.0, 15_200.0, 0.0),
)  # fmt: skip
_BOARD: Final = ((0.0, 0.0), (22.0, 0.0), (22.0, 120.0), (0.0, 120.0))
#: Of no account to a field.
_SPACING: Final = Spacing(rule=EqualBays(most=1000))


def with_garden(job: Job) -> Job:
    """Return a job with the garden; its path is edged with boards."""
    number = job.last_number
    path, bed = f"L{number + 1}", f"L{number + 2}"
    edging = SectionBody(name="Path edging", outline=outline_by_points(_BOARD), width=22, height=120, grows="kept", material="oak")
    legs = (StraightLeg(to=(800.0, 10_400.0, 0.0)), ArcLeg(via=_WAY[0], to=_WAY[1]), ArcLeg(via=_WAY[2], to=_WAY[3]))
    trees = RowBody(
        name="Trees of the bed", line=bed, material="foliage", spacing=_SPACING,
        item=TreeItem(diameter=2200, height=4200, stem=1700, trunk=140),
        filling=ChanceFilling(apart=2600, inset=700, smallest=0.75, largest=1.1, seed=11),
        clear_of=(ClearOf(of=path, by=500),),
    )  # fmt: skip
    shrubs = RowBody(
        name="Shrubs of the bed", line=bed, item=TreeItem(diameter=620, height=700, stem=0), material="foliage", spacing=_SPACING,
        pattern=ItemPattern(others=(OtherItem(item=TreeItem(diameter=420, height=380, stem=0)),), turns="ABB"),
        filling=ChanceFilling(apart=600, inset=350, smallest=0.7, largest=1.1, seed=3),
        clear_of=(ClearOf(of=path, by=350), ClearOf(of=f"I{number + 8}", by=200)),
    )  # fmt: skip
    edits: list[Edit] = [
        AddLines(
            lines=(
                LineBody(name="Garden path", start=_PATH, legs=legs),
                LineBody(name="Planting bed", start=_BED[0], legs=tuple(StraightLeg(to=to) for to in (*_BED[1:], _BED[0])), closed=True),
            )
        ),
        MakeTangent(line=path, leg=1),
        MakeTangent(line=path, leg=2),
        SetLine(line=path, changes=LineChanges.model_validate({"strip": {"left": 700, "right": 700, "joints": 2400}})),
        AddSection(section=edging),
        EdgeStrip(line=path, section=f"S{number + 3}"),
        AddRow(row=trees),
        AddRow(row=shrubs),
        SetGroup(ids=(path, bed, f"L{number + 4}", f"L{number + 6}"), group="Garden"),
    ]
    return apply_all(job, edits).job
