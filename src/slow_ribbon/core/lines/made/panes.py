"""Panes: what fills closed lines, as they lie: their outlines, and the boards of those that are made of boards."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.tolerances import SEARCH_DEVIATION
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.frame_panes import slab_of
from slow_ribbon.core.lines.model import Line, Pane

#: How far the points of a pane's line may lie off its plane, mm.
_FLAT: Final = 0.05
#: No pane is less than a square of this side, mm, and no board narrower.
_LEAST_PANE: Final = 10.0
_LEAST_BOARD: Final = 1.0
#: No pane is made of more boards.
_MOST_BOARDS: Final = 2000
#: A plane is level where its normal is so near to plumb, as the length of its level part.
_LEVEL: Final = 1e-6


@dataclass(frozen=True)
class PaneLaid:
    """A pane as it lies.

    ``origin`` (3,) is a point of it, in the middle of its thickness; the rows of ``axes`` (3, 3) are the units across it, level, up it,
    and out of it. ``outline`` and its ``parts`` are (across, up) from the origin, anticlockwise, mm. Glass and mesh are in one part, the
    outline; ``lengths`` are how long each board is at its longest edge, mm.
    """

    pane: Pane
    origin: Array
    axes: Array
    outline: shapely.Polygon
    parts: tuple[shapely.Polygon, ...]
    lengths: tuple[float, ...]

    @property
    def sides(self) -> tuple[float, float]:
        """How wide and how high the least rectangle is that it is cut from, one side of it level, mm."""
        left, foot, right, top = self.outline.bounds
        return right - left, top - foot

    @property
    def name(self) -> str:
        """What it is called in a list: what it is of, how thick it is, and its sides, lengths in mm."""
        if self.pane.of == "boards":
            return f"boards {figure(self.pane.board)} × {figure(self.pane.thickness)}"
        return f"{self.pane.of} {figure(self.pane.thickness)}, {' × '.join(figure(side) for side in self.sides)}"


def check_pane(line: Line) -> None:
    """Raise ``Refused`` where a line's pane cannot lie in it: it is open, not flat, crosses itself or encloses nothing."""
    pane_laid(line)


@kept_with
def pane_laid(line: Line) -> PaneLaid | None:
    """Return the pane in a line; None where it has none. Raises ``Refused`` as ``check_pane``."""
    pane = line.pane
    if pane is None:
        return None
    way_out = "Take its pane out first, or shape it otherwise."
    if not line.closed:
        raise Refused(f"{line.name} has a pane in it, and must stay closed. {way_out}", "pane", "open-line")
    points = course_of(line).flattened(SEARCH_DEVIATION)[1]
    origin = points[0]
    around = points - origin
    # Newell's normal: twice the area of the outline, seen along each axis.
    normal = np.cross(around, np.roll(around, -1, axis=0)).sum(axis=0)
    size = float(np.linalg.norm(normal))
    if size < 2 * _LEAST_PANE**2:
        raise Refused(f"{line.name} encloses too little for the pane in it. {way_out}", "pane", "no-area")
    normal = normal / size
    if float(np.abs(around @ normal).max()) > _FLAT:
        raise Refused(f"{line.name} has a pane in it, and must stay flat. {way_out}", "pane", "not-flat")
    axes = _axes(normal)
    outline = shapely.Polygon(around @ axes[:2].T)
    if not outline.is_valid:
        raise Refused(f"{line.name} has a pane in it, and must not cross itself. {way_out}", "pane", "crosses-itself")
    outline = shapely.orient_polygons(outline)
    boards = boards_of(outline, pane) if pane.of == "boards" else []
    return PaneLaid(pane, origin, axes, outline, tuple(boards or [outline]), tuple(_length(board, pane) for board in boards))


def boards_of(outline: shapely.Polygon, pane: Pane) -> list[shapely.Polygon]:
    """Return the boards that fill an outline, (across, up) mm; the outer two are alike, and as wide as can be.

    Either a board or a gap lies in the middle, whichever leaves wider boards at the sides (common practice, no source). Raises ``Refused``
    where there are more than can be made.
    """
    axis = 0 if pane.way == "upright" else 1
    points = shapely.get_coordinates(outline)[:, axis]
    low, high = float(points.min()), float(points.max())
    pitch, middle = pane.board + pane.gap, (low + high) / 2
    if (high - low) / pitch > _MOST_BOARDS:
        what = f"Boards {figure(pane.board)} wide fill {figure(high - low)} with more than {_MOST_BOARDS}: use wider ones."
        raise Refused(what, "pane.board", "too-many")
    laid = max((_laid(low, high, first, pitch, pane.board) for first in (middle, middle + pitch / 2)), key=_outer_width)
    boards = []
    for begin, end in laid:
        slab = slab_of(outline, pane.way, begin, end)
        boards += [part for part in shapely.get_parts(shapely.intersection(outline, slab)) if part.area > _LEAST_BOARD**2]
    return [shapely.orient_polygons(board) for board in boards if isinstance(board, shapely.Polygon)]


def _axes(normal: Array) -> Array:
    """Return the units across a pane, up it, and out of it, (3, 3): across is level; of a level pane it is to the east."""
    across = np.array([-normal[1], normal[0], 0.0])
    size = float(np.linalg.norm(across))
    across = across / size if size > _LEVEL else np.array([1.0, 0.0, 0.0])
    return np.stack([across, np.cross(normal, across), normal])


def _length(board: shapely.Polygon, pane: Pane) -> float:
    axis = 1 if pane.way == "upright" else 0
    return float(np.ptp(shapely.get_coordinates(board)[:, axis]))


def _laid(low: float, high: float, first: float, pitch: float, width: float) -> list[tuple[float, float]]:
    """Return from where to where boards lie, one of them with its middle at ``first``, cut at the ends of what they fill."""
    numbers = np.arange(math.floor((low - first) / pitch) - 1, math.ceil((high - first) / pitch) + 2)
    begins = np.maximum(first + numbers * pitch - width / 2, low)
    ends = np.minimum(first + numbers * pitch + width / 2, high)
    stays = ends - begins >= _LEAST_BOARD
    return list(zip(begins[stays].tolist(), ends[stays].tolist(), strict=True))


def _outer_width(laid: list[tuple[float, float]]) -> float:
    """Return how wide the narrower of the outer two boards is; 0 where there are none."""
    return min(laid[0][1] - laid[0][0], laid[-1][1] - laid[-1][0]) if laid else 0.0
