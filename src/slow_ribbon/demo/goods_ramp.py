"""The goods ramp west of the hall: its handrail turns level into the slope, eases into the foot, is jointed plumb and returned level."""

from __future__ import annotations

from typing import Final

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, Edit, RunChanges, SetGroup, SetRun, apply_all
from slow_ribbon.core.lines import LineBody, StraightLeg
from slow_ribbon.core.runs import FacingSide, Placing, Posted, Returned

#: Along the rail, mm: level at the loading deck, down 1 in 4.2 round the corner, and on level at the foot.
_DECK, _CORNER, _FOOT, _END = ((-1000.0, 7300.0, 2100.0), (-3600.0, 7300.0, 2100.0), (-3600.0, 2300.0, 900.0), (-3600.0, 700.0, 900.0))
_EASING: Final = 1500.0


def with_goods_ramp(job: Job) -> Job:
    """Return a job with the ramp's rail, of the handrail that the boarding ramp has."""
    handrail = next(section.id for section in job.sections if section.name == "Handrail, moulded")
    legs = (StraightLeg(to=_CORNER), StraightLeg(to=_FOOT, round=_EASING), StraightLeg(to=_END))
    line, run = f"L{job.last_number + 1}", f"R{job.last_number + 2}"
    # The piece down the slope is of a second section, which members with the level one.
    made = {
        "corners": {"kind": "mitre", "raked": "members"},
        "external": {"kind": "mitre", "raked": "members"},
        "joints": {"bars": [4200], "made": "plumb", "clear": 600},
    }
    edits: list[Edit] = [
        AddLines(lines=(LineBody(name="Goods ramp", start=_DECK, legs=legs),)),
        SetGroup(ids=(line,), group="Ramps and landing"),
        AddRuns(
            section=handrail, lines=(line,), placing=Placing(facing=FacingSide(kind="left")), name="Goods ramp rail",
            first_end=Posted(size=120, let_in=25, name="Newel at the deck"), last_end=Returned(deep=75),
        ),
        SetRun(run=run, changes=RunChanges.model_validate(made)),
    ]  # fmt: skip
    return apply_all(job, edits).job
