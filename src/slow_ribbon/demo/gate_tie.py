"""The tie under the head of the quay gate's hoop: a tube whose ends are scribed to the bends of the hoop's tube, saddles at both."""

from __future__ import annotations

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, Edit, SetGroup, apply_all
from slow_ribbon.core.lines import line_body
from slow_ribbon.core.runs import FacingSide, Placing, ScribedTo

#: From one bend to the other, mm: the gate's walk stands 2.4 m wide and 2.25 m high, and its corners are bent to 180 mm.
_HIGH, _WEST, _EAST, _SOUTH = 2140.0, -1200.0, 1200.0, -5900.0


def with_gate_tie(job: Job) -> Job:
    """Return a job with a tie of the hoop's own tube across the gate."""
    hoop = next(run for run in job.runs if run.name == "Gate hoop")
    body = line_body([(_WEST, _SOUTH, _HIGH), (_EAST, _SOUTH, _HIGH)], False, "Gate tie")
    line = f"L{job.last_number + 1}"
    end = ScribedTo(to=hoop.id)
    edits: list[Edit] = [
        AddLines(lines=(body,)),
        SetGroup(ids=(line,), group="Quay"),
        AddRuns(
            section=hoop.section, lines=(line,), placing=Placing(facing=FacingSide(kind="right")), name="Gate tie", first_end=end,
            last_end=end,
        ),
    ]  # fmt: skip
    return apply_all(job, edits).job
