"""The faces of an imported mesh: listed, and sent to be seen and pointed at."""

from __future__ import annotations

import numpy as np
from pydantic import BaseModel

from slow_ribbon.core.kernel import Refused
from slow_ribbon.exports.gltf import faces_glb
from slow_ribbon.imports.drawing import Drawing, site_origin
from slow_ribbon.imports.mesh_faces import Faces
from slow_ribbon.service.packing import packed_in_a_hurry

#: Triangles of a mesh that a browser can be asked to draw, and faces that are reported one by one.
_MOST_SHOWN = 1_000_000
_MOST_TOLD = 60


class FaceFigures(BaseModel):
    """A face of a mesh: its area, mm², its least and greatest height, mm, and the loops around it, each with how many edges it has."""

    number: int
    area: float
    heights: tuple[float, float]
    loops: list[tuple[int, int]]


class FacesFigures(BaseModel):
    """The faces of a mesh: ``count`` of them, those with the largest area, and whether there are few enough triangles to be shown."""

    count: int
    largest: list[FaceFigures]
    can_be_shown: bool


def faces_json(faces: Faces) -> FacesFigures:
    """Return the figures of the faces of a mesh."""
    largest = []
    for number in range(min(len(faces.areas), _MOST_TOLD)):
        loops = np.flatnonzero(faces.of == number).tolist()
        largest.append(
            FaceFigures(
                number=number,
                area=float(faces.areas[number]),
                heights=faces.heights(number),
                loops=[(loop, int(faces.loops[loop + 1] - faces.loops[loop])) for loop in loops],
            )
        )
    return FacesFigures(count=len(faces.areas), largest=largest, can_be_shown=len(faces.triangles) <= _MOST_SHOWN)


def faces_written(drawing: Drawing) -> bytes:
    """Return faces as compressed binary glTF. Raises ``Refused`` where there are none, or too many."""
    faces = drawing.faces
    if faces is None:
        raise Refused("The file holds no mesh, so there are no faces to be seen.", "file", "no-faces")
    if len(faces.triangles) > _MOST_SHOWN:
        message = f"The mesh has {len(faces.triangles):,} faces; up to {_MOST_SHOWN:,} are shown. Choose its edges by kind."
        raise Refused(message, "file", "too-many-faces")
    origin = np.array(site_origin(drawing))
    edges = np.stack([drawing.begins[faces.edges], drawing.ends[faces.edges]], axis=1) - origin
    loops = {"begins": faces.loops.tolist(), "of": faces.of.tolist()}
    return packed_in_a_hurry(faces_glb(faces.vertices - origin, faces.triangles, faces.begins, edges, loops))
