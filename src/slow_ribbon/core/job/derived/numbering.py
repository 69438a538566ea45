"""The numbers in the tags of pieces: a piece keeps its own whatever is done elsewhere, a new one gets a new one, none is used again."""

from __future__ import annotations

from itertools import pairwise
from typing import Final

import numpy as np
from scipy.spatial import cKDTree

from slow_ribbon.core.job.derived.expansion import Expansion, Step
from slow_ribbon.core.job.document.kinds import LINES, RUNS, SECTIONS
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.runs.making.split_into_pieces import pieced
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.placement.run import Run


def _numbered(expansion: Expansion, run: Run) -> Run:
    was = expansion.earlier(RUNS, run.id)
    if was is None:
        # A copy is made of pieces of its own.
        return run.model_copy(update={"numbers": (), "numbered": 0, "notes": ()}) if run.numbers or run.numbered or run.notes else run
    if was.numbers and not run.numbers:
        # They were numbered again.
        return run
    line, section = expansion.get(LINES, run.line), expansion.get(SECTIONS, run.section)
    line_before, section_before = expansion.earlier(LINES, was.line), expansion.earlier(SECTIONS, was.section)
    assert line_before is not None  # a run never was without
    assert section_before is not None
    if _same_pieces(was, run) and line_before is line:
        return run
    return _renumbered(was, pieced(was, line_before, section_before).cuts, run, pieced(run, line, section).cuts)


#: Which number each piece of a run has, where that is not the one in order.
NUMBERS: Final = Step(
    name="numbers",
    kind=RUNS,
    concerns=lambda _: True,
    follows=lambda _, run: ((run.line, None), (run.section, None)),
    derive=_numbered,
    remembered=True,
)


def _same_pieces(was: Run, run: Run) -> bool:
    """Return whether a run on the same line is made of the same pieces as it was, whatever its section is like."""
    if run.joints is not None or was.joints is not None or run.curves.parts_curves or was.curves.parts_curves:
        return False
    names = ("line", "openings", "stretches", "first_end", "last_end", "opening_ends", "curves")
    return all(getattr(was, name) == getattr(run, name) for name in names)


def _renumbered(was: Run, before: Cuts, run: Run, after: Cuts) -> Run:
    """Return a run with the numbers of its pieces, which were those of ``before``."""
    count = before.course.count
    numbers = [was.number_of(index) for index in range(count)]
    used = max([was.numbered, *numbers])
    same = same_pieces(before, after) if was.line == run.line else [None] * after.course.count
    found = []
    for index in same:
        if index is None:
            used += 1
        found.append(used if index is None else numbers[index])
    in_order = found == list(range(1, len(found) + 1)) and used == len(found)
    return run.model_copy(update={"numbers": () if in_order else tuple(found), "numbered": 0 if in_order else used})


def same_pieces(before: Cuts, after: Cuts) -> list[int | None]:
    """Return, for each piece of a run as it is now, which of its earlier pieces it is; None for one that is new.

    One that is where it was is the same, whichever way the line runs. Of those between two such, or from one to an end, as many as there
    were are the same in order: a corner between them was moved. Where there are more or fewer none is what it was.
    """
    count, earlier = after.course.count, before.course.count
    found: list[int | None] = [None] * count
    taken: set[int] = set()
    here, near = _places(after), cKDTree(_places(before))
    for turned in (here, here[:, [0, 1, 2, 6, 7, 8, 3, 4, 5]]):
        away, which = (np.asarray(one).tolist() for one in near.query(turned))
        for index, (far, other) in enumerate(zip(away, which, strict=True)):
            if far <= 10 * SAME_PLACE and other not in taken and found[index] is None:
                found[index] = other
                taken.add(other)
    kept = [(index, other) for index, other in enumerate(found) if other is not None]
    if not kept:
        return list(range(count)) if count == earlier else found
    back = len(kept) > 1 and sum((b[1] > a[1]) - (b[1] < a[1]) for a, b in pairwise(kept)) < 0
    step = -1 if back else 1
    round_ = before.course.closed and after.course.closed
    # Each stretch of pieces that are not where they were, with those that were between the same neighbours.
    ends = [*kept, (kept[0][0] + count, kept[0][1])] if round_ else [(-1, earlier if back else -1), *kept, (count, -1 if back else earlier)]
    for (first, here_before), (last, here_after) in pairwise(ends):
        between = last - first - 1
        were = (here_after - here_before) * step - 1
        if round_:
            were %= earlier
        if between > 0 and between == were:
            for place in range(1, between + 1):
                other = (here_before + step * place) % earlier
                if other not in taken:
                    found[(first + place) % count] = other
                    taken.add(other)
    return found


def _places(cuts: Cuts) -> Array:
    """Return where each piece of a run is on its line: its middle, its beginning and its end, (m, 9) mm."""
    course = cuts.plain
    middles = (course.starts + course.ends) / 2
    for i, path in course.paths.items():
        middles[i] = path.at(np.array([path.length / 2])).points[0]
    return np.concatenate([middles, course.starts, course.ends], axis=1)
