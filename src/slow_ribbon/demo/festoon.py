"""The festoon beside the quay: lamps on three spans of cord from mast to mast, all down to one level."""

from __future__ import annotations

from typing import Final

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRow, Edit, SetGroup, apply_all
from slow_ribbon.core.lines import CordLeg, LineBody
from slow_ribbon.core.rows import EqualBays, LampItem, RoundItem, RowBody, Seat, Spacing

_TOP: Final = 4300.0
_MASTS: Final = (-4200.0, 2000.0, 8900.0, 15_600.0)
_NORTH: Final = -11_400.0
_SAGS: Final = (420.0, 520.0, 460.0)


def with_festoon(job: Job) -> Job:
    """Return a job with the festoon."""
    number = job.last_number
    line = f"L{number + 1}"
    # A cord of 1.4 N/m, with a forearm's length at either end to make fast.
    spans = tuple(CordLeg(to=(east, _NORTH, _TOP), sag=sag, weight=1.4, allowance=350) for east, sag in zip(_MASTS[1:], _SAGS, strict=True))
    lamps = RowBody(
        name="Lamps of the festoon", line=line, item=LampItem(diameter=170, height=190, hanger=120), material="brass",
        spacing=Spacing(rule=EqualBays(most=950), inset_start=600, inset_end=600, corners="restart"),
        hang_to=3350, least_level=2500, weight_each=7.5,
    )  # fmt: skip
    masts = RowBody(
        name="Masts of the festoon", line=line, item=RoundItem(diameter=120, height=_TOP + 80), seat=Seat(up=_TOP), material="steel",
        spacing=Spacing(rule=EqualBays(most=20_000), corners="restart"),
    )  # fmt: skip
    edits: list[Edit] = [
        AddLines(lines=(LineBody(name="Festoon", start=(_MASTS[0], _NORTH, _TOP), legs=spans),)),
        AddRow(row=lamps),
        AddRow(row=masts),
        SetGroup(ids=(line,), group="Quay"),
    ]
    return apply_all(job, edits).job
