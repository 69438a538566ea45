"""Meshes (OBJ, PLY, STL, glTF), read with trimesh: the edges that lines could follow.

Three groups of candidates, as layers: edges sharper than an angle, open boundaries, and a level
cut at a height. Objects are welded together, so that their edges meet where they do.
"""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import trimesh

from slow_ribbon.core.faults import Refused
from slow_ribbon.core.shape import Indices
from slow_ribbon.core.told import figure
from slow_ribbon.formats.drawing import Drawing
from slow_ribbon.formats.edges import Edges
from slow_ribbon.formats.options import UNIT_NAMES, UNITS, Options

#: More faces than this cannot be worked with.
MOST_FACES = 3_000_000


def read_mesh(path: Path, kind: str, options: Options) -> Drawing:
    """Return candidate edges of a mesh file, in mm. ``kind`` is its ending. Raises ``Refused`` where it is none or has no faces."""
    try:
        # Read from memory and without a resolver, so that nothing beside the file is looked for.
        loaded = trimesh.load(io.BytesIO(path.read_bytes()), file_type=kind, process=True)
        scene = loaded if isinstance(loaded, trimesh.Scene) else trimesh.Scene(loaded)
        objects = len(scene.geometry)
        mesh = scene.to_mesh() if hasattr(scene, "to_mesh") else scene.dump(concatenate=True)
        if not isinstance(mesh, trimesh.Trimesh) or len(mesh.faces) == 0:
            raise Refused("The mesh holds no faces, so it has no edges.", "file", "no-edges")
        if len(mesh.faces) > MOST_FACES:
            raise Refused(f"The mesh has {len(mesh.faces):,} faces; {MOST_FACES:,} is the most.", "file", "too-many-edges")
        return _edges(mesh, kind, objects, options)
    except Refused:
        raise
    except MemoryError:
        raise
    except Exception as error:  # trimesh meets damage with whatever its parsers raise
        raise Refused(
            f"The {kind.upper()} file is damaged, or parts of it are in other files ({type(error).__name__}: {str(error)[:160]}). "
            "Save it again as one file.",
            "file",
            "damaged",
        ) from error


def _edges(mesh: trimesh.Trimesh, kind: str, objects: int, options: Options) -> Drawing:
    # glTF is in metres with y up (Khronos, glTF 2.0, section 3.4); the others do not say.
    gltf = kind in ("glb", "gltf")
    unit = options.unit or ("m" if gltf else "mm")
    vertices = np.asarray(mesh.vertices, dtype=float) * UNITS[unit]
    if (options.upright or ("y" if gltf else "z")) == "y":
        vertices = np.column_stack([vertices[:, 0], -vertices[:, 2], vertices[:, 1]])
    if not np.isfinite(vertices).all():
        raise Refused("The mesh has coordinates that are no numbers.", "file", "coordinates")
    mesh = trimesh.Trimesh(vertices, mesh.faces, process=False)
    mesh.merge_vertices(merge_tex=True, merge_norm=True)
    mesh.update_faces(mesh.nondegenerate_faces())
    mesh.remove_unreferenced_vertices()
    edges = Edges()
    edges.by_layer = True
    sharp = np.degrees(mesh.face_adjacency_angles) >= options.sharp if len(mesh.face_adjacency) else np.zeros(0, dtype=bool)
    _take(edges, mesh, mesh.face_adjacency_edges[sharp] if len(sharp) else np.zeros((0, 2), dtype=int), f"sharper than {options.sharp:g}°")
    open_edges = trimesh.grouping.group_rows(mesh.edges_sorted, require_count=1)
    _take(edges, mesh, mesh.edges[open_edges], "open boundaries")
    low, high = float(vertices[:, 2].min()), float(vertices[:, 2].max())
    level = (low + high) / 2 if options.level is None else options.level
    cut = trimesh.intersections.mesh_plane(mesh, plane_normal=[0, 0, 1], plane_origin=[0, 0, level]) if low < level < high else []
    for begin, end in cut:
        if not np.array_equal(begin, end):
            edges.straight((begin[0], begin[1], level), (end[0], end[1], level), f"level cut at {level:.0f} mm")
    edges.notes.append(
        f"{len(mesh.faces):,} faces in {objects} {'object' if objects == 1 else 'objects'}, "
        f"from height {figure(low, 0)} to {figure(high, 0)}."
    )
    return edges.drawing(UNIT_NAMES[unit], gltf or options.unit is not None)


def _take(edges: Edges, mesh: trimesh.Trimesh, pairs: Indices, layer: str) -> None:
    for a, b in np.asarray(pairs).tolist():
        edges.straight(mesh.vertices[a], mesh.vertices[b], layer)
