"""Panes: what fills the bays of a frame between its members and bars, of glass, of mesh or of boards side by side.

A pane lies in the middle of its frame's thickness. Figures are (along, up) in the frame's plane, mm.
"""

from __future__ import annotations

import math
from typing import Annotated, Final, Literal

import numpy as np
import shapely
from pydantic import Field

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import LENGTH, Coordinate, Distance, Model, Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.lines.frames import FrameDivision, bar_places

#: What is smaller, mm, fills nothing: no pane is cut so small, and no board.
_LEAST_PANE: Final = 10.0
_LEAST_BOARD: Final = 1.0
#: Corners stay pointed, however sharp they are.
_POINTED: Final = 50.0
#: No pane is filled by more boards.
_MOST_BOARDS: Final = 2000


class FrameFilling(Model):
    """What fills the bays of a frame, ``thickness`` mm thick.

    Its edges ``reach`` so far into the grooves of the members and bars around it, mm; with a minus they stay so far clear of them. Boards
    lie ``way`` side by side, each ``board`` wide, with a ``gap`` between them.
    """

    of: Literal["glass", "mesh", "boards"] = "glass"
    thickness: Size = 10.0
    reach: Coordinate = 0.0
    board: Annotated[float, Field(ge=5, le=10_000, allow_inf_nan=False), LENGTH] = 120.0
    gap: Distance = 5.0
    way: Literal["upright", "level"] = "upright"


def frame_panes(
    outline: shapely.Polygon, division: FrameDivision | None, filling: FrameFilling, member: float, bar: float
) -> list[shapely.Polygon]:
    """Return the outlines of the panes of a frame, from the west or from its foot.

    Parameters
    ----------
    outline
        The frame's, as it is cut.
    division
        How bars divide it; None: it is one bay.
    filling
        What fills it.
    member, bar
        How wide its members and its bars are in its plane, mm.

    Raises
    ------
    Refused
        Where a bay has no room for a pane.
    """
    clear = outline.buffer(-member, join_style="mitre", mitre_limit=_POINTED)
    panes: list[shapely.Polygon] = []
    for number, (begin, end) in enumerate(_bays(outline, division, member, bar), start=1):
        low, high = (begin, -math.inf), (end, math.inf)
        if division is not None and division.way == "level":
            low, high = low[::-1], high[::-1]
        bay = shapely.intersection(clear, _within(clear, low, high))
        pane = bay.buffer(filling.reach, join_style="mitre", mitre_limit=_POINTED)
        if not isinstance(pane, shapely.Polygon) or not bay.area or pane.area < _LEAST_PANE**2:
            which = "" if division is None else f" in bay {number}"
            room = f"There is no room for {filling.of}{which} with edges that reach {figure(filling.reach)}"
            raise Refused(f"{room}: use fewer bars, slimmer members, or another reach.", "filling", "no-room")
        panes.append(pane)
    return panes


def boards_of(pane: shapely.Polygon, filling: FrameFilling) -> list[shapely.Polygon]:
    """Return the boards that fill a pane; the outer two are alike, and as wide as can be (common practice, no source).

    Either a board or a gap lies in the pane's middle, whichever leaves wider boards at its sides. Raises ``Refused`` where there are more
    than can be made.
    """
    axis = 0 if filling.way == "upright" else 1
    points = shapely.get_coordinates(pane)[:, axis]
    low, high = float(points.min()), float(points.max())
    pitch, middle = filling.board + filling.gap, (low + high) / 2
    if (high - low) / pitch > _MOST_BOARDS:
        what = f"Boards {figure(filling.board)} wide fill {figure(high - low)} with more than {_MOST_BOARDS}: use wider ones."
        raise Refused(what, "filling.board", "too-many")
    laid = max((_laid(low, high, first, pitch, filling.board) for first in (middle, middle + pitch / 2)), key=_outer_width)
    boards = []
    for begin, end in laid:
        ends = ((begin, -math.inf), (end, math.inf)) if axis == 0 else ((-math.inf, begin), (math.inf, end))
        board = shapely.intersection(pane, _within(pane, *ends))
        boards += [part for part in shapely.get_parts(board) if isinstance(part, shapely.Polygon) and part.area > _LEAST_BOARD**2]
    return boards


def board_lengths(boards: list[shapely.Polygon], filling: FrameFilling) -> list[float]:
    """Return how long each board is at its longest edge, mm."""
    axis = 1 if filling.way == "upright" else 0
    return [float(np.ptp(shapely.get_coordinates(board)[:, axis])) for board in boards]


def _bays(outline: shapely.Polygon, division: FrameDivision | None, member: float, bar: float) -> list[tuple[float, float]]:
    """Return from where to where bays lie, across the bars."""
    if division is None:
        return [(-math.inf, math.inf)]
    middles = bar_places(outline, division, member, bar)
    faces = [-math.inf, *(face for middle in middles for face in (middle - bar / 2, middle + bar / 2)), math.inf]
    return list(zip(faces[::2], faces[1::2], strict=True))


def _within(shape: shapely.Polygon, low: tuple[float, float], high: tuple[float, float]) -> shapely.Polygon:
    """Return a box from ``low`` to ``high``, where these are infinite as far as a shape reaches, and more."""
    bounds = np.array(shape.bounds) if not shape.is_empty else np.zeros(4)
    corners = np.concatenate([np.maximum(low, bounds[:2] - 1), np.minimum(high, bounds[2:] + 1)])
    box: shapely.Polygon = shapely.box(*corners)
    return box


def _laid(low: float, high: float, first: float, pitch: float, width: float) -> list[tuple[float, float]]:
    """Return from where to where boards lie, one of them with its middle at ``first``, cut at the ends of what they fill."""
    numbers = np.arange(math.floor((low - first) / pitch) - 1, math.ceil((high - first) / pitch) + 2)
    begins = np.maximum(first + numbers * pitch - width / 2, low)
    ends = np.minimum(first + numbers * pitch + width / 2, high)
    stays = ends - begins >= _LEAST_BOARD
    return list(zip(begins[stays].tolist(), ends[stays].tolist(), strict=True))


def _outer_width(laid: list[tuple[float, float]]) -> float:
    return min(laid[0][1] - laid[0][0], laid[-1][1] - laid[-1][0]) if laid else 0.0
