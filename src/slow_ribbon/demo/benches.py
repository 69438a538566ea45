"""The bench round the hall's curved end: its front of straight boards, its capping laminated to the curve."""

from __future__ import annotations

import math
from typing import Final

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, AddSection, Edit, RunChanges, SetGroup, SetRun, apply_all
from slow_ribbon.core.lines import ArcLeg, LineBody
from slow_ribbon.core.runs import FacingSide, Placing
from slow_ribbon.core.sections import NamedDatum, SectionBody, from_library, outline_by_points

#: The middle of the curved end, how far the bench's front is from it, and from which to which bearing it goes, degrees; mm.
_MIDDLE: Final = (12_400.0, 4600.0)
_RADIUS: Final = 2950.0
_FROM, _TO = -58.0, 58.0
_BOARD: Final = ((0.0, 0.0), (22.0, 0.0), (22.0, 380.0), (0.0, 380.0))


def _at(bearing: float) -> tuple[float, float, float]:
    angle = math.radians(bearing)
    return _MIDDLE[0] + _RADIUS * math.cos(angle), _MIDDLE[1] + _RADIUS * math.sin(angle), 0.0


def with_bench(job: Job) -> Job:
    """Return a job with the bench."""
    line = LineBody(name="Bench", start=_at(_FROM), legs=(ArcLeg(via=_at((_FROM + _TO) / 2), to=_at(_TO)),))
    board = SectionBody(name="Bench front", outline=outline_by_points(_BOARD), width=22, height=380, grows="kept", material="oak")
    number = job.last_number
    ids = {"line": f"L{number + 1}", "board": f"S{number + 2}", "capping": f"S{number + 3}"}
    # The room lies to the left of it.
    faces = FacingSide(kind="left")
    edits: list[Edit] = [
        AddLines(lines=(line,)),
        AddSection(section=board),
        AddSection(section=from_library("nosing-round")),
        SetGroup(ids=(ids["line"],), group="Waiting hall"),
        AddRuns(section=ids["board"], lines=(ids["line"],), placing=Placing(facing=faces, lift=50), name="Bench front"),
        AddRuns(
            section=ids["capping"], lines=(ids["line"],), name="Bench capping",
            placing=Placing(facing=faces, lift=430, datum=NamedDatum(name="middle-foot")),
        ),
        SetRun(run=f"R{number + 4}", changes=RunChanges.model_validate({"curves": {"kind": "faceted", "number": 9}})),
        SetRun(run=f"R{number + 5}", changes=RunChanges.model_validate({"curves": {"kind": "laminated", "leaf": 6}})),
    ]  # fmt: skip
    return apply_all(job, edits).job
