"""The hall's six windows: an architrave drawn round the first, that stands round all of them, two of them mirrored, one wider."""

from __future__ import annotations

from typing import Final

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, AddTypical, Bind, Edit, NewPlace, NewTypical, SetGroup, SetMeasures, apply_all
from slow_ribbon.core.kernel import Formula, MeasureChange
from slow_ribbon.core.lines import OwnMeasure, line_body
from slow_ribbon.core.runs import FacingSide, Placing

#: Outside the west wall, seen from there: from the sill up the left jamb, over the head, and down the right one to the plinth; mm.
_SILL, _HEAD, _PLINTH, _WIDE, _LEFT = 900.0, 2100.0, 150.0, 1000.0, 1600.0
_WEST, _NORTH = -200.0, 8200.0
_WIDTH: Final = "window width"
#: The others: where the sill's left end is as the typical is drawn, how it is turned, whether the long jamb is on the other side.
_OTHERS: Final = (
    NewPlace(name="W2", at=(_WEST, 3600, _SILL)),
    NewPlace(name="W3", at=(_WEST, 4700, _SILL), mirrored=True),
    NewPlace(name="W4", at=(3700, _NORTH, _SILL), turn=-90),
    NewPlace(name="W5", at=(5600, _NORTH, _SILL), turn=-90, own=(OwnMeasure(name=_WIDTH, length=1200),)),
    NewPlace(name="W6", at=(10_600, _NORTH, _SILL), turn=-90, mirrored=True),
)


def with_windows(job: Job, section: str) -> Job:
    """Return a job with an architrave of a section round each of its windows."""
    right = _LEFT - _WIDE
    points = [(_WEST, _LEFT, _SILL), (_WEST, _LEFT, _HEAD), (_WEST, right, _HEAD), (_WEST, right, _PLINTH)]
    job = apply_all(job, [AddLines(lines=(line_body(points, False, "Hall window"),))]).job
    line = job.lines[-1].id
    follows: list[Edit] = [
        Bind(formula=Formula(thing=line, field=f"points.{point}.1", text=f"{_LEFT:.0f} - {_WIDTH}", system="mm")) for point in (2, 3)
    ]
    # Its foot to the opening, its back on the wall.
    placing = Placing(facing=FacingSide(kind="right"), roll=-90)
    return apply_all(
        job,
        [
            SetMeasures(measures=(MeasureChange(name=_WIDTH, text=f"{_WIDE:.0f}"),)),
            *follows,
            SetGroup(ids=(line,), group="Waiting hall"),
            AddRuns(section=section, lines=(line,), placing=placing, name="Window architrave"),
            AddTypical(typical=NewTypical(name="Hall windows", lines=(line,), here="W1", places=_OTHERS)),
        ],
    ).job
