"""A line with fewer points: those on straights dropped, within a tolerance, and how far the result strays."""

from __future__ import annotations

import numpy as np

from slow_ribbon.core.geometry.polylines import straightened, stray
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.lines.legs import AnyLeg, StraightLeg, place
from slow_ribbon.core.lines.model import Line, leg_begins


def simplified(line: Line, tolerance: float) -> tuple[Line, float]:
    """Return a line without the points of its straights that stray no more than ``tolerance`` mm, and how far it strays at most.

    Curves, rounded corners and the ends stay as they are.
    """
    begins = leg_begins(line)
    runs: list[list[Point3]] = []
    out: list[AnyLeg] = []
    strayed = 0.0
    run: list[Point3] = []

    def settle() -> None:
        nonlocal strayed, run
        if not run:
            return
        points = np.array(run)
        whole = line.closed and len(run) == len(line.legs) + 1
        tidy = straightened(points[:-1] if whole else points, whole, tolerance)
        if whole:
            # A closed line keeps its own start unless that lies on a straight.
            runs.append([place(point) for point in tidy])
            tidy = np.vstack([tidy, tidy[:1]])
        strayed = max(strayed, _deviation(points, tidy))
        out.extend(StraightLeg(to=place(point)) for point in tidy[1:])
        run = []

    for leg, begin in zip(line.legs, begins, strict=True):
        if not leg.straight:
            settle()
            out.append(leg)
            continue
        run = [*(run or [begin]), leg.to]
        if leg.round is not None:
            settle()
            out[-1] = out[-1].model_copy(update={"round": leg.round})
    settle()
    start = runs[0][0] if runs else line.start
    return line.model_copy(update={"start": start, "legs": tuple(out)}), strayed


def _deviation(points: Array, tidy: Array) -> float:
    most = 0.0
    for point in points:
        look_up(3 * len(tidy))
        most = max(most, float(stray(point, tidy[:-1], tidy[1:]).min()))
    return most
