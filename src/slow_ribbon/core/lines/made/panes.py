"""The panes of frames as they lie: what lines round them enclose, and the boards of those that are filled with boards."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.lines.construction import FramePane
from slow_ribbon.core.lines.frame_panes import FrameFilling, board_lengths, boards_of
from slow_ribbon.core.lines.model import Line


@dataclass(frozen=True)
class PaneLaid:
    """A pane as it lies: its outline, (east, up) in the upright plane at ``north``, mm, its parts, and the length of each board, mm.

    Glass and mesh are in one part, the outline. All go anticlockwise, seen from the south.
    """

    filling: FrameFilling
    outline: shapely.Polygon
    parts: tuple[shapely.Polygon, ...]
    lengths: tuple[float, ...]
    north: float

    @property
    def sides(self) -> tuple[float, float]:
        """How wide and how high the least upright rectangle is that it is cut from, mm."""
        west, foot, east, top = self.outline.bounds
        return east - west, top - foot

    @property
    def name(self) -> str:
        """What it is called in a list: what it is of, how thick it is, and its sides, lengths in mm."""
        filling = self.filling
        if filling.of == "boards":
            return f"boards {figure(filling.board)} × {figure(filling.thickness)}"
        return f"{filling.of} {figure(filling.thickness)}, {' × '.join(figure(side) for side in self.sides)}"

    def corners(self, part: shapely.Polygon) -> Array:
        """Return the corners (n, 3) of one of its parts, in the middle of its thickness."""
        flat = shapely.get_coordinates(part)[:-1]
        return np.column_stack([flat[:, 0], np.full(len(flat), self.north), flat[:, 1]])


@kept_with
def pane_laid(line: Line) -> PaneLaid | None:
    """Return the pane that a line goes round; None where it goes round none."""
    made = line.made
    if not isinstance(made, FramePane):
        return None
    points = np.array(line.points())
    outline = shapely.Polygon(points[:, [0, 2]])
    parts = tuple(shapely.orient_polygons(boards_of(outline, made.filling)) if made.filling.of == "boards" else (outline,))
    lengths = tuple(board_lengths(list(parts), made.filling)) if made.filling.of == "boards" else ()
    return PaneLaid(made.filling, outline, parts, lengths, float(points[0, 1]))
