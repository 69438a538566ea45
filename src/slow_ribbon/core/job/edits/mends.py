"""What mends a check at once: an edit, under the name of its action."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Final

from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.job.edits.corners import SetCorners
from slow_ribbon.core.job.edits.lines import LineChanges, SetLine
from slow_ribbon.core.job.edits.runs import CornersChanges
from slow_ribbon.core.kernel.check import Check, Mend
from slow_ribbon.core.kernel.tolerances import IMMEASURABLE


@dataclass(frozen=True)
class MendEdit:
    """An edit that mends a check, and the name of its action."""

    action: str
    edit: Edit


#: The action of each way of making a corner that mends a check, and what is changed of the corner.
_CORNERS: Final[Mapping[Mend, tuple[str, Mapping[str, Any]]]] = {
    "members": ("Make a second section", {"kind": "mitre", "raked": "members"}),
    "turned": ("Turn the section", {"kind": "mitre", "raked": "turned"}),
    "transition": ("Put a piece in the corner", {"kind": "transition"}),
    "squared": ("Cut the points off square", {"kind": "squared"}),
    "curved": ("Cut the true curve", {"kind": "mitre", "beside_curves": "true"}),
}


def mends_of(check: Check, line: str, vertices: Iterable[tuple[float, int | None]]) -> list[MendEdit]:
    """Return the edits that mend a check of a run on a line.

    ``vertices`` are the chainages of the run's corners, mm, each with the point of the line there; None at a rounded corner, which
    is no point of the line: how it is made cannot be changed by itself.
    """
    point = next((vertex for chainage, vertex in vertices if abs(chainage - check.chainage) < IMMEASURABLE and vertex is not None), None)
    found = []
    for mend in check.mends:
        if mend == "spread":
            found.append(MendEdit("Spread it along the line", SetLine(line=line, changes=LineChanges(spread=True))))
        elif point is not None:
            action, changes = _CORNERS[mend]
            found.append(MendEdit(action, SetCorners(run=check.thing, points=(point,), changes=CornersChanges(**changes))))
    return found
