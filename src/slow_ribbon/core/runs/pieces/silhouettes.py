"""The outlines of pieces as seen square to a plane."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import FLAT
from slow_ribbon.core.runs.pieces.solids import Surface

#: Triangles that are seen as less than this, mm², are seen from their edge.
_EDGE_ON = FLAT
#: What is joined lies on a grid of this much, mm, so that triangles that touch leave no slivers between them.
_GRID = 0.01


@dataclass(frozen=True, kw_only=True)
class Silhouette:
    """A piece as it is seen: its outlines (n, 2) in mm on the plane, outer ones and holes; and how far behind the plane its middle lies."""

    outlines: tuple[Array, ...]
    depth: float


def silhouettes(surface: Surface, across: Array, up: Array) -> list[Silhouette]:
    """Return every piece of a run as it is seen square to the plane of two unit directions (3,), from where these run right and up.

    ``surface`` is the run's skin; what is seen of a piece is all of its faces that look to the eye,
    joined. A mitred end is part of no face, and lies behind the piece that it meets.
    """
    toward = np.cross(across, up)
    flat = surface.vertices @ np.column_stack([across, up])
    depths = -(surface.vertices @ toward)
    corners = surface.vertices[surface.faces]
    facing = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]) @ toward
    triangles = shapely.polygons(flat[surface.faces])
    found = []
    for low, high in zip(surface.pieces[:-1].tolist(), surface.pieces[1:].tolist(), strict=True):
        look_up()
        seen = np.flatnonzero(facing[low:high] > 2 * _EDGE_ON) + low
        whole = shapely.union_all(np.asarray(triangles)[seen], grid_size=_GRID)
        parts = [part for part in shapely.get_parts(whole) if isinstance(part, shapely.Polygon)]
        rings = [ring for part in parts for ring in (part.exterior, *part.interiors)]
        outlines = tuple(shapely.get_coordinates(ring)[:-1] for ring in rings)
        found.append(Silhouette(outlines=outlines, depth=float(depths[surface.faces[low:high]].mean()) if high > low else 0.0))
    return found
