"""Where a row's items stand: positions, headings, and what they cover on plan."""

from __future__ import annotations

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import NO_LEAN
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.rows.model import RowBody


def stand(row: RowBody, course: Course, chainages: Array) -> tuple[Array, Array]:
    """Return the positions (n, 3) and headings (n,) of items that sit at chainages (n,), as in ``SetOut``."""
    index, along = course.leg_at(chainages)
    here = course.at(chainages)
    # An item on a corner stands to the bisector of the two legs, found from either of them.
    after = (index + 1) % course.count
    begins = (along <= WELD) & (course.turns[index] > 0)
    ends = (course.lengths[index] - along <= WELD) & (course.turns[after] > 0)
    tangents = np.where(begins[:, None], here.tangents + course.tangents_end[index - 1], here.tangents)
    tangents = np.where(ends[:, None], here.tangents + course.tangents[after], tangents)
    points = here.points
    flat = np.hypot(tangents[:, 0], tangents[:, 1])
    # On an upright leg the line gives no direction on plan; the frame's right does.
    rights = here.rights
    level = np.where((flat > NO_LEAN)[:, None], tangents[:, :2], np.stack([-rights[:, 1], rights[:, 0]], axis=1))
    line_headings = np.arctan2(level[:, 1], level[:, 0])
    headings = row.turn.headings(line_headings, chainages)
    positions = points.copy()
    positions[:, 0] += row.stand_off * np.sin(line_headings)
    positions[:, 1] -= row.stand_off * np.cos(line_headings)
    cosine, sine = np.cos(headings), np.sin(headings)
    positions[:, 0] -= row.seat.along * cosine + row.seat.across * sine
    positions[:, 1] -= row.seat.along * sine - row.seat.across * cosine
    positions[:, 2] += row.lift - row.seat.up
    return positions, headings


def footprint(row: RowBody, position: Array, heading: float) -> shapely.Polygon:
    """Return the footprint of an item on plan, at the middle of its foot and its heading in radians."""
    return row.item.footprint(position[:2], heading)
