"""What is left hanging when a drawing is imported again.

Runs and rows whose line it no longer has, openings and marks that it moved away from.
"""

from __future__ import annotations

import numpy as np

from slow_ribbon.core.kernel.check import Check, CheckKind
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line


def hanging_checks(thing: str, line: Line, course: Course) -> tuple[Check, ...]:
    """Return checks of a run or row, by its id, for what is left hanging of the line it stands on."""
    found = []

    def at(chainage: float, kind: CheckKind, what: str, remedy: str) -> Check:
        inside = chainage % course.length if course.closed else min(chainage, course.length)
        place = course.points_at(np.array([inside]))[0]
        point = (float(place[0]), float(place[1]), float(place[2]))
        return Check(kind=kind, severity="warning", what=what, remedy=remedy, thing=thing, piece=None, chainage=inside, point=point)

    if line.undrawn:
        what = f"The drawing no longer has this line: it is not in {line.undrawn}, which was imported again."
        found.append(at(0.0, "undrawn", what, "Remove it with what stands on it, or say on the line card that it stays."))
    for words, parts in (("Opening", line.openings), ("Mark", line.marks)):
        for part in parts:
            if part.unsettled:
                what = f"{words} {part.name} may not be where it belongs: the line was drawn otherwise when it was imported again."
                found.append(at(part.at, "unsettled", what, "Put it where it belongs, or say on the line card that it is right there."))
    return tuple(found)
