"""What can be wrong with a run: pieces swallowed or pinched, corners that cannot be cut, sections that do not meet."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final, Literal

import numpy as np

from slow_ribbon.core.course import FOLD
from slow_ribbon.core.mitre import MEETS, NEEDLE, Cuts
from slow_ribbon.core.run import Run
from slow_ribbon.core.shape import Array

#: A step at a mitre of less than this, mm, is sanded flush (common practice, no source).
SANDED: Final = 0.2


@dataclass(frozen=True)
class Check:
    """Something wrong: ``severity`` *fault* cannot be cut, *warning* should be looked at. ``thing`` is its run's or line's id."""

    kind: Literal["swallowed", "needle", "folded", "mismatch", "twisted", "pinched"]
    severity: Literal["fault", "warning"]
    what: str
    remedy: str
    thing: str
    piece: int | None
    chainage: float
    point: tuple[float, float, float]


def run_checks(run: Run, cuts: Cuts) -> tuple[Check, ...]:
    course = cuts.course
    found: list[Check] = []
    for i in np.flatnonzero(cuts.short_points <= 1e-9).tolist():
        middle = float(course.begins[i] + course.lengths[i] / 2)
        found.append(
            Check(
                "swallowed",
                "fault",
                f"Piece {run.tag}{i + 1} is swallowed by its corners: its shortest edge would be {cuts.short_points[i]:.1f} mm long.",
                "Make the leg longer, the section narrower, or let it face the other way.",
                run.id,
                i,
                middle % course.length,
                _point(course.at(np.array([middle])).points[0]),
            )
        )
    found.extend(_pinches(run, cuts))
    for i in np.flatnonzero(course.turns > 0).tolist():
        chainage, point, turn = float(course.begins[i]), _point(course.starts[i]), float(course.turns[i])
        if turn > FOLD:
            what, remedy = "The line goes back on itself here, so there is no mitre: both pieces are cut square.", "Move the corner."
            found.append(Check("folded", "fault", what, remedy, run.id, i, chainage, point))
        elif turn > NEEDLE:
            what = f"A needle mitre: the corner of {180 - math.degrees(turn):.1f}° makes a point {_needle(cuts, i):.0f} mm long."
            found.append(Check("needle", "warning", what, "Open the corner, or blunt it with a short leg.", run.id, i, chainage, point))
        if cuts.mismatches[i] > MEETS:
            what = f"The sections do not meet here: they miss each other by up to {cuts.mismatches[i]:.2f} mm."
            remedy = "Let the pitch change where the line does not turn on plan, or carry the frame round (line card, frame)."
            if i in course.paths or (i - 1) % course.count in course.paths:
                remedy = "A flat cut joins a curve to another leg only on the line itself: let them meet in line, or round the corner."
            severity: Literal["fault", "warning"] = "fault" if cuts.mismatches[i] > SANDED else "warning"
            found.append(Check("mismatch", severity, what, remedy, run.id, i, chainage, point))
    if course.leftover:
        what = f"The section comes back to the start turned by {math.degrees(course.leftover):.2f}°."
        found.append(
            Check(
                "twisted", "warning", what, "Keep the line upright, or let it start elsewhere.", run.id, None, 0.0, _point(course.starts[0])
            )
        )
    return tuple(found)


def _pinches(run: Run, cuts: Cuts) -> list[Check]:
    """Return a check for every bent stretch whose radius is smaller than the section's reach on its inner side.

    A fibre at p runs 1 − bend·p for each mm of the line; where that is nought or less it goes backward.
    """
    found: list[Check] = []
    for i, path in cuts.course.paths.items():
        places = np.unique(np.concatenate([path.flattened(0.05), np.linspace(0, path.length, 65)]))
        here = path.at(places)
        reach = cuts.placed.furthest(here.bends)
        bad = np.flatnonzero(reach >= 1)
        for group in np.split(bad, np.flatnonzero(np.diff(bad) > 1) + 1) if len(bad) else []:
            worst = int(group[np.argmax(reach[group])])
            radius = 1 / float(np.hypot(*here.bends[worst]))
            what = (
                f"Piece {run.tag}{i + 1} pinches: the line's radius is {radius:.1f} mm here, and the section reaches "
                f"{reach[worst] * radius:.1f} mm to the inside."
            )
            remedy = f"Make the radius larger than {reach[worst] * radius:.1f} mm, the section narrower, or let it face outward."
            chainage = float(cuts.course.begins[i] + places[worst]) % cuts.course.length
            found.append(Check("pinched", "fault", what, remedy, run.id, i, chainage, _point(here.points[worst])))
    return found


def _needle(cuts: Cuts, index: int) -> float:
    """Return how far along the leg the mitre at its beginning reaches, mm."""
    slope = cuts.slopes_begin[index : index + 1]
    return float((cuts.placed.furthest(slope) + cuts.placed.furthest(-slope))[0])


def _point(values: Array) -> tuple[float, float, float]:
    return float(values[0]), float(values[1]), float(values[2])
