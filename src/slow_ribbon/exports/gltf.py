"""Binary glTF 2.0 (Khronos, ISO/IEC 12113:2022), written from surfaces.

glTF is in metres with y up; vertices stay in mm near their own origin and a node carries
them over: scale 0.001 and the turn from z up to y up, with the origin as a translation in
float64 text, so that a site far from zero loses nothing.
"""

from __future__ import annotations

import json
import struct
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from slow_ribbon.core.kernel import Array, Indices
from slow_ribbon.core.runs import Surface
from slow_ribbon.core.sections import TONES, Material

_FLOAT, _USHORT, _UINT = 5126, 5123, 5125


@dataclass
class GlbWriter:
    """Collects meshes and nodes and gives back the bytes of a ``.glb``; ``extras`` go along with its scene (section 3.12)."""

    scene_name: str = "Slow Ribbon"
    extras: Mapping[str, Any] | None = None
    _data: bytearray = field(default_factory=bytearray)
    _views: list[dict[str, Any]] = field(default_factory=list)
    _accessors: list[dict[str, Any]] = field(default_factory=list)
    _meshes: list[dict[str, Any]] = field(default_factory=list)
    _nodes: list[dict[str, Any]] = field(default_factory=list)
    _materials: dict[Material, int] = field(default_factory=dict)

    def mesh(self, surface: Surface, name: str, material: Material | None = None, pieces: bool = False) -> int:
        """Add a mesh and return its number; with ``pieces``, the offsets of its pieces go along as extras."""
        positions = self._accessor(surface.vertices.astype("<f4"), "VEC3", _FLOAT, 34962, bounds=True)
        normals = self._accessor(surface.normals.astype("<f4"), "VEC3", _FLOAT, 34962)
        # The greatest 16 bit index is left free: it may mean that a strip ends (section 3.7.2.1).
        small = len(surface.vertices) < 65_535
        faces = surface.faces.astype("<u2" if small else "<u4").reshape(-1)
        indices = self._accessor(faces, "SCALAR", _USHORT if small else _UINT, 34963)
        primitive: dict[str, Any] = {"attributes": {"POSITION": positions, "NORMAL": normals}, "indices": indices}
        if material is not None:
            primitive["material"] = self._materials.setdefault(material, len(self._materials))
        mesh: dict[str, Any] = {"name": name, "primitives": [primitive]}
        if pieces:
            mesh["extras"] = {"pieces": surface.pieces.tolist()}
        self._meshes.append(mesh)
        return len(self._meshes) - 1

    def bare(self, vertices: Array, triangles: Indices | None, name: str, extras: dict[str, list[int]]) -> int:
        """Add a mesh without normals, which are those of its triangles, or segments between every two vertices; return its number."""
        positions = self._accessor(vertices.astype("<f4"), "VEC3", _FLOAT, 34962, bounds=True)
        primitive: dict[str, Any] = {"attributes": {"POSITION": positions}}
        if triangles is None:
            primitive["mode"] = 1
        else:
            primitive["indices"] = self._accessor(triangles.astype("<u4").reshape(-1), "SCALAR", _UINT, 34963)
        self._meshes.append({"name": name, "primitives": [primitive], "extras": extras})
        return len(self._meshes) - 1

    def node(
        self,
        mesh: int,
        name: str,
        origin: Array | Sequence[float] = (0, 0, 0),
        heading: float = 0.0,
        over: bool = False,
        tilt: Array | Sequence[float] = (0, 0),
        size: float = 1.0,
    ) -> None:
        """Place a mesh at ``origin`` (mm, z up), turned by ``heading`` radians about z; before that mirrored in x, where ``over``.

        After that it is turned about the level axis ``tilt`` (2,), by its length in radians; ``size`` times as large.

        A mirrored node's faces are wound the other way round, which readers turn back (section 3.7.4, by the determinant).
        """
        half, angle = heading / 2, float(np.hypot(tilt[0], tilt[1]))
        sine, cosine = float(np.sin(half)), float(np.cos(half))
        # The product of two quaternions: the tilt's, and that about z.
        lean, (x, y) = float(np.cos(angle / 2)), (float(part) * float(np.sinc(angle / 2 / np.pi)) / 2 for part in tilt)
        node: dict[str, Any] = {
            "name": name,
            "mesh": mesh,
            "translation": [float(value) for value in origin],
            "rotation": [x * cosine + y * sine, y * cosine - x * sine, lean * sine, lean * cosine],
        }
        if over or size != 1.0:
            node["scale"] = [-size if over else size, size, size]
        self._nodes.append(node)

    def _accessor(self, values: np.ndarray[Any, Any], kind: str, component: int, target: int, bounds: bool = False) -> int:
        start = len(self._data)
        self._data += values.tobytes()
        self._data += b"\0" * (-len(self._data) % 4)
        self._views.append({"buffer": 0, "byteOffset": start, "byteLength": values.nbytes, "target": target})
        accessor: dict[str, Any] = {"bufferView": len(self._views) - 1, "componentType": component, "count": len(values), "type": kind}
        if bounds:
            accessor["min"], accessor["max"] = values.min(axis=0).tolist(), values.max(axis=0).tolist()
        self._accessors.append(accessor)
        return len(self._accessors) - 1

    def bytes(self) -> bytes:
        """Return the file."""
        root = {
            "name": self.scene_name,
            "scale": [0.001, 0.001, 0.001],
            # A quarter turn about x takes z up to y up.
            "rotation": [-(0.5**0.5), 0.0, 0.0, 0.5**0.5],
            "children": list(range(1, len(self._nodes) + 1)),
        }
        if not self._nodes:
            del root["children"]
        document: dict[str, Any] = {
            "asset": {"version": "2.0", "generator": "Slow Ribbon"},
            "scene": 0,
            "scenes": [{"name": self.scene_name, "nodes": [0]}],
            "nodes": [root, *self._nodes],
        }
        if self.extras is not None:
            document["scenes"][0]["extras"] = self.extras
        if self._meshes:
            document |= {"meshes": self._meshes, "accessors": self._accessors, "bufferViews": self._views}
            document["buffers"] = [{"byteLength": len(self._data)}]
        if self._materials:
            document["materials"] = [
                {
                    "name": name,
                    "pbrMetallicRoughness": {"baseColorFactor": [*TONES[name].linear, 1.0], "metallicFactor": 0.0, "roughnessFactor": 0.8},
                }
                for name in self._materials
            ]
        text = json.dumps(document, separators=(",", ":")).encode()
        text += b" " * (-len(text) % 4)
        chunks = struct.pack("<II", len(text), 0x4E4F534A) + text
        if self._meshes:
            chunks += struct.pack("<II", len(self._data), 0x004E4942) + bytes(self._data)
        return struct.pack("<III", 0x46546C67, 2, 12 + len(chunks)) + chunks


def faces_glb(vertices: Array, triangles: Indices, pieces: Indices, edges: Array, loops: dict[str, list[int]]) -> bytes:
    """Return faces as a ``.glb`` in mm near their own origin, with the edges (k, 2, 3) of the loops around them as segments."""
    writer = GlbWriter("faces")
    writer.node(writer.bare(vertices, triangles, "faces", {"pieces": pieces.tolist()}), "faces")
    if len(edges):
        writer.node(writer.bare(edges.reshape(-1, 3), None, "loops", loops), "loops")
    return writer.bytes()


def surface_glb(surface: Surface, name: str, extras: Mapping[str, Any] | None = None) -> bytes:
    """Return one surface as a ``.glb`` in mm near its own origin, for the interface; ``extras`` go along with its scene."""
    writer = GlbWriter(name, extras)
    writer.node(writer.mesh(surface, name, pieces=True), name)
    return writer.bytes()
