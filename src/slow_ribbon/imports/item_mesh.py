"""Meshes of items (glTF, OBJ, STL, PLY), read with trimesh: one solid, in mm with z up, that can be set out along a line."""

from __future__ import annotations

from typing import Final

import numpy as np
import trimesh

from slow_ribbon.core.kernel import Refused, figure
from slow_ribbon.imports.edges import reason
from slow_ribbon.imports.mesh import Placing, check_gltf, mesh_of
from slow_ribbon.imports.options import Options
from slow_ribbon.imports.results import ItemRead

KINDS: Final = ("glb", "gltf", "obj", "stl", "ply")
#: A mesh of more triangles is drawn with fewer.
MOST_DRAWN: Final = 20_000
#: An item that is smaller in one of its directions, mm, is no solid.
_LEAST: Final = 0.1


def read_item(data: bytes, kind: str, options: Options) -> ItemRead:
    """Return the item in a mesh file; ``kind`` is its ending, the unit and the axis that is up are those of the options, or as usual.

    Raises ``Refused`` where it is no mesh, is damaged, or has no thickness.
    """
    if kind not in KINDS:
        raise Refused(f"A {kind.upper()} file holds no item: choose a glTF (.glb), OBJ, STL or PLY file.", "file", "no-mesh")
    try:
        if kind == "gltf":
            check_gltf(data)
        placing = Placing(kind, options)
        mesh, _ = mesh_of(data, kind)
        if mesh is None:
            raise Refused("The file holds no faces, so there is nothing to set out.", "file", "no-faces")
        return _item(mesh, placing)
    except (Refused, MemoryError):
        raise
    except Exception as error:  # trimesh meets damage with whatever its parsers raise
        what = f"The {kind.upper()} file is damaged, or parts of it are in other files ({type(error).__name__}: {reason(error)[:160]})."
        raise Refused(f"{what} Save it again as one file.", "file", "damaged") from error


def _item(mesh: trimesh.Trimesh, placing: Placing) -> ItemRead:
    vertices = placing.placed(np.asarray(mesh.vertices))
    low, high = (bound(vertices[np.unique(mesh.faces)], axis=0) for bound in (np.min, np.max))
    own = high - low
    if own.min() < _LEAST:
        size = " × ".join(figure(side) for side in own.tolist())
        raise Refused(f"The item is {size} mm large, and so has no thickness: is {placing.unit} its unit?", "file", "no-volume")
    if own.max() > 1e7:
        raise Refused(f"The item is {figure(own.max())} mm large: is {placing.unit} its unit?", "file", "too-large")
    vertices = vertices - [*((low + high) / 2)[:2], low[2]]
    solid = trimesh.Trimesh(vertices, mesh.faces, process=False)
    solid.merge_vertices(merge_tex=True, merge_norm=True)
    solid.update_faces(solid.nondegenerate_faces())
    filled = min(1.0, abs(float(solid.volume)) / float(np.prod(own))) if solid.is_watertight and solid.is_winding_consistent else None
    drawn = _drawn(solid, float(np.linalg.norm(own)))
    return ItemRead(
        glb=bytes(trimesh.exchange.gltf.export_glb(trimesh.Scene(drawn))),
        own=(float(own[0]), float(own[1]), float(own[2])),
        filled=filled,
        unit=placing.unit,
        unit_known=placing.known,
        upright="y" if placing.lies else "z",
        triangles=len(mesh.faces),
        drawn=len(drawn.faces),
    )


def _drawn(solid: trimesh.Trimesh, diagonal: float) -> trimesh.Trimesh:
    """Return a mesh of few enough triangles: corners that lie in one cell of a grid, coarser and coarser, are one."""
    drawn, cell, points = solid, diagonal / 400, np.asarray(solid.vertices)
    while len(drawn.faces) > MOST_DRAWN:
        _, place, count = np.unique(np.round(points / cell), axis=0, return_inverse=True, return_counts=True)
        place = place.reshape(-1)
        # In the middle of those that it stands for, which is as good as on the surface.
        corners = np.column_stack([np.bincount(place, points[:, axis]) for axis in range(3)]) / count[:, None]
        faces = np.sort(place[solid.faces], axis=1)
        there = (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2])
        # Each once, the way round that it was.
        _, first = np.unique(faces[there], axis=0, return_index=True)
        drawn = trimesh.Trimesh(corners, place[solid.faces][there][first], process=False)
        cell *= 1.3
    return drawn
