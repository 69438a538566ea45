"""The covered walk over the slipway, west of the hall: thirty arched frames that fan along a curve, each cut for the fall of the roof.

At its north end a glazed screen keeps the wind out.
"""

from __future__ import annotations

from typing import Final

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddFrame, AddLines, AddRow, AddSection, Edit, SetGroup, SetTypical, TypicalChanges, apply, apply_all
from slow_ribbon.core.lines import ArcLeg, FrameBody, FrameCut, FrameDivision, LineBody, Pane
from slow_ribbon.core.rows import RowBody, SetNumber, Spacing, TurnWithLine, TypicalItem
from slow_ribbon.core.sections import SectionBody, outline_by_points

_WALK: Final = ((-7400.0, -8200.0, 0.0), (-9600.0, -700.0, 0.0), (-7000.0, 6600.0, 0.0))
_MEMBER: Final = ((0.0, 0.0), (45.0, 0.0), (45.0, 120.0), (0.0, 120.0))
#: Beyond the walk's north end.
_SCREEN: Final = (-6600.0, 7400.0, 0.0)
#: Where the frame is drawn once; it stands only where it is set out.
_DRAWN: Final = (-13_500.0, -3000.0, 0.0)


def with_slipway_walk(job: Job) -> Job:
    """Return a job with the walk."""
    number = job.last_number
    line, section, typical = f"L{number + 1}", f"S{number + 2}", f"T{number + 5}"
    member = SectionBody(name="Walk frame", outline=outline_by_points(_MEMBER), width=45, height=120, grows="kept", material="oak")
    arch = FrameBody(shape="arch", width=2400, height=2700, facets=5, cuts=(FrameCut(up=2560, slope=9),))
    frames = RowBody(
        name="Frames of the walk", line=line, item=TypicalItem(of=typical, called="Walk frame", along=45, across=2400, height=2700),
        spacing=Spacing(rule=SetNumber(number=30)),
        # They stand across the walk, and lean in plan by a degree more from the middle on either way.
        turn=TurnWithLine(by=90, more=1, counted=0),
    )  # fmt: skip
    edits: list[Edit] = [
        AddLines(lines=(LineBody(name="Slipway walk", start=_WALK[0], legs=(ArcLeg(via=_WALK[1], to=_WALK[2]),)),)),
        AddSection(section=member),
        AddFrame(name="Walk frame", at=_DRAWN, body=arch, section=section),
        AddRow(row=frames),
        SetGroup(ids=(line, f"L{number + 3}"), group="Slipway"),
    ]
    return apply_all(job, edits).job


def with_wind_screen(job: Job) -> Job:
    """Return a job with the walk's glazed screen, of the section that its frames are of."""
    section = next(one.id for one in job.sections if one.name == "Walk frame")
    screen = AddFrame(
        name="Wind screen", at=_SCREEN, section=section, body=FrameBody(shape="gable", width=3000, height=2700, eaves=2250),
        division=FrameDivision(way="upright", number=2), pane=Pane(of="glass", thickness=8), reach=10,
    )  # fmt: skip
    line = f"L{job.last_number + 1}"
    job = apply(job, screen)
    edits: list[Edit] = [
        SetTypical(typical=job.typicals[-1].id, changes=TypicalChanges(here_stands=True)),
        SetGroup(ids=(line,), group="Slipway"),
    ]
    return apply_all(job, edits).job
