"""Meshes (OBJ, PLY, STL, glTF), read with trimesh: the edges that lines could follow.

Candidates, as layers: edges sharper than an angle, open boundaries, edges of three faces and more,
level cuts at heights, and the polylines that an OBJ file holds besides. Objects are welded
together, so that their edges meet where they do. The faces between such edges can be pointed at.
"""

from __future__ import annotations

import io
import json
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import trimesh
from numpy.typing import NDArray

from slow_ribbon.core.kernel import TINIEST, Array, Indices, Refused, figure
from slow_ribbon.imports.drawing import Drawing
from slow_ribbon.imports.edges import Edges, reason
from slow_ribbon.imports.mesh_faces import Faces, faces_of
from slow_ribbon.imports.options import UNIT_NAMES, UNITS, Options

#: More faces than this cannot be worked with.
MOST_FACES = 3_000_000


def read_mesh(path: Path, kind: str, options: Options) -> Drawing:
    """Return candidate edges of a mesh file, in mm. ``kind`` is its ending. Raises ``Refused`` if it is not one or has no faces."""
    try:
        # Read from memory and without a resolver, so that nothing beside the file is looked for.
        data = path.read_bytes()
        polylines = _polylines(data) if kind == "obj" else []
        edges = Edges()
        edges.by_layer = True
        placing = Placing(kind, options)
        if kind == "gltf":
            check_gltf(data)
        mesh, objects = mesh_of(data, kind)
        faces: Faces | None = None
        if mesh is not None:
            faces = _take_mesh(edges, mesh, objects, placing, options)
        elif not polylines:
            raise Refused("The mesh holds no faces, so it has no edges.", "file", "no-edges")
        for points in polylines:
            for begin, end in pairwise(placing.placed(points).tolist()):
                if begin != end:
                    edges.straight(begin, end, "polylines")
        return replace(edges.drawing(UNIT_NAMES[placing.unit], placing.known), faces=faces)
    except Refused:
        raise
    except MemoryError:
        raise
    except Exception as error:  # trimesh meets damage with whatever its parsers raise
        raise Refused(
            f"The {kind.upper()} file is damaged, or parts of it are in other files ({type(error).__name__}: {reason(error)[:160]}). "
            "Save it again as one file.",
            "file",
            "damaged",
        ) from error


def check_gltf(data: bytes) -> None:
    """Raise ``Refused`` for a glTF of another version, or one whose data lie in other files, which are named."""
    try:
        scene = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise Refused(f"This is not glTF: it is not valid JSON ({reason(error)}).", "file", "damaged") from error
    asset = scene.get("asset") if isinstance(scene, dict) else None
    version = str(asset.get("version", "")) if isinstance(asset, dict) else ""
    if not version.startswith("2"):
        message = f"of version {version}" if version else "without a version"
        raise Refused(f"This is glTF {message}; version 2.0 is read. Save it as glTF 2.0, best as .glb.", "file", "gltf-version")
    beside = [str(one.get("uri")) for one in scene.get("buffers") or () if isinstance(one, dict) and one.get("uri")]
    beside = [name for name in beside if not name.startswith("data:")]
    if beside:
        what = f"Its data lie beside it, in {', '.join(name[:80] for name in beside[:3])}{' and others' if len(beside) > 3 else ''}."
        raise Refused(f"{what} One file is read: save it as .glb, which holds everything.", "file", "files-beside")


class Placing:
    """How the coordinates of a mesh become mm with z up."""

    def __init__(self, kind: str, options: Options) -> None:
        # glTF is in metres with y up (Khronos, glTF 2.0, section 3.4); the others do not say.
        gltf = kind in ("glb", "gltf")
        self.unit = options.unit or ("m" if gltf else "mm")
        self.known = gltf or options.unit is not None
        self.lies = (options.upright or ("y" if gltf else "z")) == "y"

    def placed(self, vertices: Array) -> Array:
        """Return vertices (n, 3) in mm, z up. Raises ``Refused`` where some are no numbers."""
        found = np.asarray(vertices, dtype=float) * UNITS[self.unit]
        if self.lies:
            found = np.column_stack([found[:, 0], -found[:, 2], found[:, 1]])
        if not np.isfinite(found).all():
            raise Refused("The mesh has coordinates that are not numbers.", "file", "coordinates")
        return found


def mesh_of(data: bytes, kind: str) -> tuple[trimesh.Trimesh | None, int]:
    """Return all objects of a mesh file as one, and how many there are; None where it has no faces."""
    if kind == "ply":
        # What the remarks in a head are written in says nothing of the figures below it.
        head, end, body = data.partition(b"end_header")
        data = bytes(byte if byte < 128 else ord("?") for byte in head) + end + body
    loaded = trimesh.load(io.BytesIO(data), file_type=kind, process=True)
    scene = loaded if isinstance(loaded, trimesh.Scene) else trimesh.Scene(loaded)
    if not any(isinstance(one, trimesh.Trimesh) and len(one.faces) for one in scene.geometry.values()):
        return None, 0
    mesh = scene.to_mesh() if hasattr(scene, "to_mesh") else scene.dump(concatenate=True)
    if not isinstance(mesh, trimesh.Trimesh) or len(mesh.faces) == 0:
        return None, 0
    if len(mesh.faces) > MOST_FACES:
        raise Refused(f"The mesh has {len(mesh.faces):,} faces; {MOST_FACES:,} is the most.", "file", "too-many-edges")
    return mesh, len(scene.geometry)


def _polylines(data: bytes) -> list[Array]:
    """Return the points of each ``l`` element of an OBJ file, (n, 3), which trimesh passes over."""
    vertices: list[tuple[float, ...]] = []
    wanted: list[list[int]] = []
    for line in data.replace(b"\\\n", b" ").decode("latin-1").splitlines():
        word, _, rest = line.strip().partition(" ")
        if word == "v":
            vertices.append(tuple(float(part) for part in rest.split()[:3]))
        elif word == "l":
            # Numbers count from one, or backwards from the vertex last read.
            numbers = [int(part.split("/")[0]) for part in rest.split()]
            wanted.append([number - 1 if number > 0 else len(vertices) + number for number in numbers])
    there = [numbers for numbers in wanted if numbers and 0 <= min(numbers) <= max(numbers) < len(vertices)]
    return [np.array([vertices[number] for number in numbers], dtype=float).reshape(-1, 3) for numbers in there]


def _take_mesh(edges: Edges, mesh: trimesh.Trimesh, objects: int, placing: Placing, options: Options) -> Faces:
    vertices = placing.placed(np.asarray(mesh.vertices))
    mesh = trimesh.Trimesh(vertices, mesh.faces, process=False)
    mesh.merge_vertices(merge_tex=True, merge_norm=True)
    # What has no area, or is there twice, would hide that an edge is open.
    mesh.update_faces(_with_area(mesh))
    mesh.update_faces(mesh.unique_faces())
    mesh.remove_unreferenced_vertices()
    sharp = np.degrees(_bends(mesh)) >= options.sharp
    met, times = np.unique(mesh.edges_sorted, axis=0, return_counts=True)
    kinds = {
        f"sharper than {options.sharp:g}°": mesh.face_adjacency_edges[sharp].reshape(-1, 2),
        "open boundaries": mesh.edges[trimesh.grouping.group_rows(mesh.edges_sorted, require_count=1)].reshape(-1, 2),
        "edges of three faces and more": met[times > 2],
    }
    for kind, pairs in kinds.items():
        _take(edges, mesh, pairs, kind)
    smooth = mesh.face_adjacency[~sharp].reshape(-1, 2)
    between = np.sort(np.concatenate(list(kinds.values())), axis=1)
    faces = faces_of(
        mesh.vertices.view(np.ndarray), mesh.faces.view(np.ndarray), mesh.area_faces, smooth, mesh.edges_sorted, mesh.edges_face, between
    )  # fmt: skip
    low, high = float(vertices[:, 2].min()), float(vertices[:, 2].max())
    for level in dict.fromkeys(options.levels if options.levels is not None else ((low + high) / 2,)):
        cut = trimesh.intersections.mesh_plane(mesh, plane_normal=[0, 0, 1], plane_origin=[0, 0, level]) if low < level < high else []
        for begin, end in cut:
            if not np.array_equal(begin, end):
                edges.straight((begin[0], begin[1], level), (end[0], end[1], level), f"level cut at {_plain(level)} mm")
    edges.notes.append(
        f"{len(mesh.faces):,} faces in {objects} {'object' if objects == 1 else 'objects'}, "
        f"from height {figure(low, 0)} to {figure(high, 0)}."
    )
    return faces


def _with_area(mesh: trimesh.Trimesh) -> NDArray[np.bool_]:
    """Return which faces have an area: more than a billionth of the square on their longest side."""
    corners = np.asarray(mesh.vertices)[np.asarray(mesh.faces)]
    sides = np.roll(corners, -1, axis=1) - corners
    longest = np.einsum("ijk,ijk->ij", sides, sides).max(axis=1)
    areas = np.linalg.norm(np.cross(sides[:, 0], sides[:, 1]), axis=1) / 2
    return np.asarray(areas > 1e-9 * longest)


def _bends(mesh: trimesh.Trimesh) -> Array:
    """Return the angle, radians, by which each two faces that share an edge bend there, whichever way round their corners are listed."""
    if not len(mesh.face_adjacency):
        return np.zeros(0)
    corners = np.asarray(mesh.vertices)
    begin, end = corners[mesh.face_adjacency_edges[:, 0]], corners[mesh.face_adjacency_edges[:, 1]]
    along = end - begin
    along /= np.maximum(np.linalg.norm(along, axis=1), TINIEST)[:, None]
    # The corners across the edge, seen along it: on one straight through it the faces lie on without a bend.
    across = corners[mesh.face_adjacency_unshared] - begin[:, None]
    across -= np.einsum("ijk,ik->ij", across, along)[:, :, None] * along[:, None]
    one, other = across[:, 0], across[:, 1]
    return np.asarray(np.pi - np.arctan2(np.linalg.norm(np.cross(one, other), axis=1), np.einsum("ij,ij->i", one, other)))


def _plain(level: float) -> str:
    """Return a height as it is written in a layer's name."""
    message = f"{level:.3f}".rstrip("0").rstrip(".")
    return "0" if message == "-0" else message


def _take(edges: Edges, mesh: trimesh.Trimesh, pairs: Indices, layer: str) -> None:
    for a, b in np.asarray(pairs).tolist():
        edges.straight(mesh.vertices[a], mesh.vertices[b], layer)
