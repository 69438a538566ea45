"""Checks of runs: pieces too short or pinched, corners that cannot be cut, sections that do not meet."""

from __future__ import annotations

import math
from functools import partial
from typing import Final

import numpy as np
from scipy.optimize import minimize_scalar

from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.check import Check, Mend, Severity
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.tolerances import IMMEASURABLE, NO_LENGTH, SAME_PLACE, SEARCH_DEVIATION
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import FOLD, course_of
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.trim_pieces import NEEDLE
from slow_ribbon.core.runs.placement.raked_sections import ways_out
from slow_ribbon.core.runs.placement.run import Run

#: A step at a mitre of less than this, mm, is sanded flush (common practice, no source).
SANDED: Final = 0.2


def run_checks(run: Run, cuts: Cuts) -> tuple[Check, ...]:
    course = cuts.course
    found: list[Check] = []
    # A return has no length at the wall, where the section's back is on the line.
    pointed = cuts.returns & (cuts.short_points >= -SAME_PLACE) & (cuts.long_points > NO_LENGTH)
    for i in np.flatnonzero((cuts.short_points <= NO_LENGTH) & ~pointed).tolist():
        middle = float(course.begins[i] + course.lengths[i] / 2)
        found.append(
            Check(
                kind="swallowed",
                severity="fault",
                what=f"Piece {run.tag_of(i)} is too short for its corners: its shortest edge would be {figure(cuts.short_points[i])} long.",
                remedy="Make the leg longer or the section narrower, or make the run face the other way.",
                thing=run.id,
                piece=i,
                chainage=middle % course.length,
                point=_point(course.at(np.array([middle])).points[0]),
            )
        )
    found.extend(_unfinished(run, cuts))
    found.extend(_pinches(run, cuts))
    found.extend(_bars(run, cuts))
    for i in np.flatnonzero(course.turns > 0).tolist():
        chainage, point, turn = float(course.begins[i]), _point(course.starts[i]), float(course.turns[i])
        if turn > FOLD:
            what, remedy = "The line goes back on itself here, so there is no mitre: both pieces are cut square.", "Move the corner."
            found.append(
                Check(kind="folded", severity="fault", what=what, remedy=remedy, thing=run.id, piece=i, chainage=chainage, point=point)
            )
        elif cuts.square_begin[i] and not course.free[i]:
            what = "There is no mitre here: its point would run round the bend beside it. Both pieces are cut square."
            remedy = "Open the corner, or put a straight before the bend."
            found.append(
                Check(kind="folded", severity="fault", what=what, remedy=remedy, thing=run.id, piece=i, chainage=chainage, point=point)
            )
        elif turn > NEEDLE and not cuts.butted_begin[i]:
            what = f"A needle mitre: the corner of {180 - math.degrees(turn):.1f}° makes a point {figure(_needle(cuts, i), 0)} long."
            found.append(
                Check(
                    kind="needle",
                    severity="warning",
                    what=what,
                    remedy="Open the corner, blunt it with a short leg, or have both points cut off square.",
                    thing=run.id,
                    piece=i,
                    chainage=chainage,
                    point=point,
                    mends=("squared",),
                )
            )
        if i in cuts.refused:
            found.append(
                Check(
                    kind="uncoped",
                    severity="warning",
                    what=cuts.refused[i],
                    remedy="Make such corners another way (run card, corners), or move the corner.",
                    thing=run.id,
                    piece=i,
                    chainage=chainage,
                    point=point,
                )
            )
        if cuts.mismatches[i] > WELD:
            what = f"The sections do not meet here: they miss each other by up to {figure(cuts.mismatches[i], 2)}."
            remedy = "Change the pitch where the line does not turn on plan, or use carried frames (line card, frame)."
            mends: tuple[Mend, ...] = ()
            if (out := ways_out(cuts.plain, i)) is not None:
                second = cuts.placed.leaned(out.members).section
                remedy = (
                    f"Use a second section, {figure(second.width)} × {figure(second.height)}, that members with it; or turn the section "
                    f"by {out.turns:.1f}° along the rise; or end both pieces on an upright piece in the corner."
                )
                mends = ("members", "turned", "transition")
            elif i in course.paths or (i - 1) % course.count in course.paths:
                remedy = (
                    "A flat cut fits a curve to another leg only on the line itself: cut both along the true curve by a "
                    "pattern, make them tangent, or round the corner."
                )
                mends = ("curved",)
            severity: Severity = "fault" if cuts.mismatches[i] > SANDED else "warning"
            found.append(
                Check(
                    kind="mismatch", severity=severity, what=what, remedy=remedy, thing=run.id, piece=i, chainage=chainage, point=point,
                    mends=mends,
                )
            )  # fmt: skip
    if course.leftover:
        what = f"The section comes back to the start turned by {math.degrees(course.leftover):.2f}°."
        found.append(
            Check(
                kind="twisted",
                severity="warning",
                what=what,
                remedy="Spread it evenly along the line, use upright frames, or start the line elsewhere.",
                thing=run.id,
                piece=None,
                chainage=0.0,
                point=_point(course.starts[0]),
                mends=("spread",),
            )
        )
    return tuple(found)


def wide_openings(run: Run, line: Line) -> list[Check]:
    """Return a check for every opening of a line, at which a run breaks, that is wider than its stretch: it goes round a corner."""
    if run.openings != "break" or not line.openings:
        return []
    course = course_of(line)
    corners = course.begins[course.turns > 0]
    found = []
    for opening in line.openings:
        beyond = (corners - opening.at) % course.length if course.closed else corners - opening.at
        over = np.sort(beyond[(beyond > SAME_PLACE) & (beyond < opening.width - SAME_PLACE)])
        if not len(over):
            continue
        place = (opening.at + float(over[0])) % course.length if course.closed else opening.at + float(over[0])
        what = (
            f"Opening {opening.name}, {figure(opening.width)} wide, goes round a corner, which is {figure(float(over[0]))} from its start."
        )
        remedy = "Make it narrower, or move it away from the corner."
        found.append(Check("wide-opening", "warning", what, remedy, run.id, None, place, _point(course.points_at(np.array([place]))[0])))
    return found


def _unfinished(run: Run, cuts: Cuts) -> list[Check]:
    """Return a check for every end that cannot be made as it is meant, and for those behind which something stays open."""
    finishing, course = cuts.finishing, cuts.course
    if finishing is None:
        return []
    unfinished = [
        (place, f"The end is cut square here, not {finishing.ways[place].words}: {why}.", "End it another way (run card, ends).")
        for place, why in finishing.refused.items()
    ]
    unfinished += [
        (
            place,
            f"This end is {finishing.ways[place].words} to a face that is undercut: a gap of {figure(hollow)} is left behind it.",
            "Fill the gap, or end it another way (run card, ends).",
        )
        for place, hollow in finishing.hollows.items()
    ]
    found = []
    for (i, end), what, remedy in unfinished:
        chainage = float(course.begins[i] + (course.lengths[i] if end else 0.0))
        point = _point(course.ends[i] if end else course.starts[i])
        found.append(Check("unfinished", "warning", what, remedy, run.id, i, chainage, point))
    return found


def _bars(run: Run, cuts: Cuts) -> list[Check]:
    """Return a check for every piece that no bar is long enough for, and every part shorter than the least there may be."""
    if run.joints is None:
        return []
    trim, least = run.near.trim, run.joints.least
    longest = run.joints.longest - 2 * trim
    less = f" less {figure(trim)} at either end" if trim else ""
    found: list[Check] = []
    # A leg that is short itself is no part of one.
    part = cuts.jointed | np.roll(cuts.jointed, -1)
    for i in np.flatnonzero((cuts.long_points > longest + IMMEASURABLE) | (part & (cuts.long_points < least - IMMEASURABLE))).tolist():
        long = cuts.long_points[i] > longest
        middle = float(cuts.course.begins[i] + cuts.course.lengths[i] / 2)
        bound = f"longer than the longest bar, {figure(run.joints.longest)}{less}" if long else f"shorter than the least, {figure(least)}"
        found.append(
            Check(
                kind="too-long" if long else "too-short",
                severity="fault" if long else "warning",
                what=f"Piece {run.tag_of(i)} is {figure(cuts.long_points[i])}, {bound}.",
                remedy="Let a rule place the joints (run card, joints), or use longer bars." if long else "Move the joint beside it.",
                thing=run.id,
                piece=i,
                chainage=middle % cuts.course.length,
                point=_point(cuts.course.at(np.array([middle])).points[0]),
            )
        )
    return found


def _pinches(run: Run, cuts: Cuts) -> list[Check]:
    """Return a check for every bent stretch whose radius is smaller than the section's reach on its inner side.

    A fibre at p runs 1 − bend·p for each mm of the line; where that is zero or less it goes backward.
    """
    found: list[Check] = []
    for i, path in cuts.course.paths.items():
        places, bends = _looked_at(path)
        reach = cuts.placed.furthest(bends)
        # Where it is greatest between its neighbours, the true extreme is looked for.
        peaks = np.flatnonzero((reach[1:-1] >= reach[:-2]) & (reach[1:-1] >= reach[2:]) & (reach[1:-1] > 0.5)) + 1
        for peak in peaks.tolist():
            low, high = float(places[peak - 1]), float(places[peak + 1])
            if high - low > 2 * SAME_PLACE:
                least = minimize_scalar(partial(_slack, cuts, path), bounds=(low, high), method="bounded")
                places, reach = np.append(places, float(least.x)), np.append(reach, -float(least.fun))
        if not (reach >= 1).any():
            continue
        order = np.argsort(places, kind="stable")
        places, reach = places[order], reach[order]
        here = path.at(places)
        bad = np.flatnonzero(reach >= 1)
        for group in np.split(bad, np.flatnonzero(np.diff(bad) > 1) + 1):
            begin = _boundary(cuts, path, float(places[group[0]]), float(places[max(group[0] - 1, 0)]))
            end = _boundary(cuts, path, float(places[group[-1]]), float(places[min(group[-1] + 1, len(places) - 1)]))
            if end - begin < IMMEASURABLE:
                # A curve that ends in a doubled control bends without bound over less than can be seen.
                continue
            worst = int(group[np.argmax(reach[group])])
            radius = 1 / float(np.hypot(*here.bends[worst]))
            what = (
                f"Piece {run.tag_of(i)} pinches: the line's radius is {figure(radius)} here, and the section reaches "
                f"{figure(reach[worst] * radius)} to the inside."
            )
            remedy = f"Make the radius larger than {figure(reach[worst] * radius)}, the section narrower, or make the run face outward."
            chainage = float(cuts.course.begins[i] + places[worst]) % cuts.course.length
            found.append(
                Check(
                    kind="pinched",
                    severity="fault",
                    what=what,
                    remedy=remedy,
                    thing=run.id,
                    piece=i,
                    chainage=chainage,
                    point=_point(here.points[worst]),
                )
            )
    return found


def _slack(cuts: Cuts, path: Path, at: float) -> float:
    return -float(cuts.placed.furthest(path.at(np.array([at])).bends)[0])


def _boundary(cuts: Cuts, path: Path, inside: float, outside: float) -> float:
    """Return where a pinch ends, between a place in it and one beside it."""
    for _ in range(50):
        middle = (inside + outside) / 2
        inside, outside = (middle, outside) if -_slack(cuts, path, middle) >= 1 else (inside, middle)
    return inside


@kept_with
def _looked_at(path: Path) -> tuple[Array, Array]:
    """Return distances (n,) along a piece, close to both sides of every jump and between them, and its bends there (n, 2)."""
    found = [path.flattened(SEARCH_DEVIATION), np.linspace(0, path.length, 65)]
    begin = 0.0
    for low, high, span in path.ranges():
        jumps = span.breaks()
        jumps = jumps[(jumps >= low) & (jumps <= high)] - low + begin
        found.extend([jumps - SAME_PLACE, jumps + SAME_PLACE])
        begin += high - low
        found.append(np.array([begin - SAME_PLACE, begin + SAME_PLACE]))
    places = np.unique(np.concatenate(found))
    places = places[(places >= 0) & (places <= path.length)]
    return places, path.at(places).bends


def _needle(cuts: Cuts, index: int) -> float:
    """Return how far along the leg the mitre at its beginning reaches, mm."""
    slope = cuts.slopes_begin[index : index + 1]
    return float((cuts.placed.furthest(slope) + cuts.placed.furthest(-slope))[0])


def _point(values: Array) -> tuple[float, float, float]:
    return float(values[0]), float(values[1]), float(values[2])
