"""The bays of a frame between its members and bars, as the outlines of the panes that fill them.

A pane lies in the middle of its frame's thickness. Figures are (along, up) in the frame's plane, mm.
"""

from __future__ import annotations

import math
from typing import Final, Literal

import numpy as np
import shapely

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.lines.frames import FrameDivision, bar_places

#: No pane is smaller, mm.
_LEAST_PANE: Final = 10.0
#: Corners stay pointed, however sharp they are.
_POINTED: Final = 50.0


def frame_panes(outline: shapely.Polygon, division: FrameDivision | None, reach: float, member: float, bar: float) -> list[shapely.Polygon]:
    """Return the outlines of the panes of a frame, from the west or from its foot.

    Parameters
    ----------
    outline
        The frame's, as it is cut.
    division
        How bars divide it; None: it is one bay.
    reach
        How far the panes' edges reach into the grooves of the members and bars around them, mm; with a minus they stay clear of them.
    member, bar
        How wide its members and its bars are in its plane, mm.

    Raises
    ------
    Refused
        Where a bay has no room for a pane.
    """
    clear = outline.buffer(-member, join_style="mitre", mitre_limit=_POINTED)
    panes: list[shapely.Polygon] = []
    way = "upright" if division is None else division.way
    for number, (begin, end) in enumerate(_bays(outline, division, member, bar), start=1):
        bay = shapely.intersection(clear, slab_of(clear, way, begin, end))
        pane = bay.buffer(reach, join_style="mitre", mitre_limit=_POINTED)
        if not isinstance(pane, shapely.Polygon) or not bay.area or pane.area < _LEAST_PANE**2:
            which = "" if division is None else f" in bay {number}"
            room = f"There is no room for a pane{which} whose edges reach {figure(reach)} into the members"
            raise Refused(f"{room}: use fewer bars, slimmer members, or another reach.", "reach", "no-room")
        panes.append(pane)
    return panes


def _bays(outline: shapely.Polygon, division: FrameDivision | None, member: float, bar: float) -> list[tuple[float, float]]:
    """Return from where to where bays lie, across the bars."""
    if division is None:
        return [(-math.inf, math.inf)]
    middles = bar_places(outline, division, member, bar)
    faces = [-math.inf, *(face for middle in middles for face in (middle - bar / 2, middle + bar / 2)), math.inf]
    return list(zip(faces[::2], faces[1::2], strict=True))


def slab_of(shape: shapely.Polygon, way: Literal["upright", "level"], begin: float, end: float) -> shapely.Polygon:
    """Return an upright or a level slab from ``begin`` to ``end``, mm, that reaches over a shape; where infinite it ends beyond it."""
    bounds = np.array(shape.bounds) if not shape.is_empty else np.zeros(4)
    slab = bounds + (-1.0, -1.0, 1.0, 1.0)
    axis = 0 if way == "upright" else 1
    slab[axis], slab[axis + 2] = max(begin, slab[axis]), min(end, slab[axis + 2])
    box: shapely.Polygon = shapely.box(*slab)
    return box
