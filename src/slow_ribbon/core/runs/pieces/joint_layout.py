"""Where the pieces of a run are jointed: by rule along every leg that is longer than a bar, or by hand."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Final

import numpy as np

from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.kernel.check import Check
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import NO_LEAN, SAME_PLACE
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.treatments.joints import Joints, joints_along

#: In steps of this much, mm, it is looked how much longer what bends is outside.
_FINE: Final = 5.0


def _leans(cuts: Cuts, index: int) -> float:
    """Return the length along a piece of the slope of a plumb cut, mm, where it is steepest."""
    path = cuts.plain.paths.get(index)
    tangents = cuts.plain.tangents[index : index + 1] if path is None else path.at_chords.tangents
    steepest = float(np.max(np.abs(tangents[:, 2]) / np.maximum(np.hypot(tangents[:, 0], tangents[:, 1]), NO_LEAN)))
    low, high = cuts.lying(index).furthest(np.array([[0.0, -1.0], [0.0, 1.0]])) * (-1, 1)
    return float(high - low) * steepest


def _longest(
    path: Path, lying: Placed, places: Sequence[float], joints: Joints, thick: float, beyond: tuple[float, float], ring: bool
) -> float:
    """Return how long the longest part of a piece that bends is sawn between joints at some places along it, mm.

    ``beyond``: how far the first part goes beyond its beginning, and the last beyond its end, unless it is a ``ring``.
    """
    here, there = joints.added(thick)
    before, after = (there, here) if ring else beyond
    ends = [0.0, *places, path.length]
    found = 0.0
    for number, (low, high) in enumerate(pairwise(ends)):
        look_up()
        at, weights = path.quadrature(low, high)
        # A fibre at p is shorter by p·bend for each mm of the line.
        turning = weights @ path.at(at).bends
        part = high - low + float(lying.furthest(-turning[None])[0])
        found = max(found, part + (there if number else before) + (here if number < len(places) else after))
    return found


def _along_outside(
    path: Path, lying: Placed, joints: Joints, thick: float, beyond: tuple[float, float], ring: bool,
    only: Sequence[float] | None, off: Sequence[float],
) -> list[float]:  # fmt: skip
    """Return where a piece that bends is jointed, as ``joints_along`` does, with its parts as long as they are outside of its bends.

    Raises ``Refused``.
    """
    # Between the ends of its curves too, where how it bends may jump.
    at = np.union1d(np.linspace(0.0, path.length, 2 + math.ceil(path.length / _FINE)), path.bounds())
    rates = 1 + lying.furthest(-path.at((at[1:] + at[:-1]) / 2).bends)
    outside = np.concatenate([[0.0], np.cumsum(np.diff(at) * rates)])
    most = float(rates.max())
    # Distances that are kept along the line are this much longer outside, at most.
    stretched = joints.model_copy(update={"clear": joints.clear * most, "apart": joints.apart * most})

    def there(places: Sequence[float]) -> list[float]:
        return [float(one) for one in np.interp(places, at, outside)]

    supports = None if only is None else there([one for one in only if 0 < one < path.length])
    beside = there([one for one in off if 0 <= one <= path.length])
    found = joints_along(float(outside[-1]), *beyond, stretched, thick, ring, supports, beside)
    return [float(one) for one in np.interp(found, outside, at)]


def supports_of(run: Run, line: Line) -> tuple[float, ...] | None:
    """Return the chainages over which the joints of a run are to come; None where they may come anywhere."""
    if run.joints is None or run.joints.over == "anywhere":
        return None
    if run.joints.over == "marks":
        return tuple(mark.at for mark in line.named_marks)
    if run.joints.over == "openings":
        return tuple(opening.at + opening.width / 2 for opening in line.openings)
    return run.near.supports


def _unplaced(run: Run, cuts: Cuts, index: int, why: str) -> Check:
    """Return a check of a piece that no joints can be placed in."""
    course = cuts.course
    middle = float(course.begins[index] + course.lengths[index] / 2)
    x, y, z = course.at(np.array([middle])).points[0].tolist()
    remedy = "Change the bars, the least part or how far joints keep from corners (run card, joints)."
    return Check("no-joints", "fault", why, remedy, run.id, index, middle % course.length, (x, y, z))


def joint_places(run: Run, line: Line, cuts: Cuts) -> tuple[list[float], list[Check]]:
    """Return the chainages of a run's joints, from its pieces in one length each, and a check for each piece that none can be placed in."""
    course = cuts.course
    if run.joints is None:
        return [], []
    if run.joints.at is not None:
        return sorted(set(run.joints.at)), []
    try:
        joints = run.joints.less(run.near.trim)
    except Refused as refused:
        return [], [_unplaced(run, cuts, 0, refused.what)]
    places: list[float] = []
    checks: list[Check] = []
    thick = float(np.ptp(cuts.placed.thickness))
    ring = course.smooth
    # The fibre that begins first and the one that ends last: at most this much beyond the line.
    begins, ends = cuts.beyond()
    only = supports_of(run, line)

    def within(places: Sequence[float] | None, index: int) -> list[float] | None:
        """Return how far along a piece places of the line are, some way beyond its ends too."""
        if places is None:
            return None
        begin, turns = float(course.begins[index]), (-course.length, 0.0, course.length) if course.closed else (0.0,)
        return [at + turn - begin for at in places for turn in turns]

    for i in range(course.count):
        look_up()
        length = float(course.lengths[i])
        # Round a bend the longest fibre is longer than the line and what is beyond its ends together.
        long = float(cuts.long_points[i])
        if long <= joints.longest and not ring:
            continue
        before, after = float(begins[i]), float(ends[i])
        if joints.made == "plumb":
            thick = _leans(cuts, i)
        elif cuts.leans is not None:
            thick = float(np.ptp(cuts.lying(i).thickness))
        over = max(0.0, long - length - before - after) / 2
        these, others = within(only, i), within(run.near.beside, i) or []
        try:
            found = joints_along(length, before + over, after + over, joints, thick, ring, these, others)
            path = cuts.plain.paths.get(i)
            most = joints.longest + SAME_PLACE
            if path is not None and _longest(path, cuts.lying(i), found, joints, thick, (before, after), ring) > most:
                found = _along_outside(path, cuts.lying(i), joints, thick, (before, after), ring, these, others)
        except Refused as refused:
            trimmed = f" What is trimmed off both ends of a piece, {figure(2 * run.near.trim)}, is off the bars." if run.near.trim else ""
            checks.append(_unplaced(run, cuts, i, refused.what + trimmed))
            continue
        begin = float(course.begins[i])
        # A ring begins and ends at a joint.
        places += [(begin + at) % course.length if course.closed else begin + at for at in ([0.0, *found] if ring else found)]
    return places, checks
