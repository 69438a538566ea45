"""The whole job in 3D as one binary glTF: a node for each run and for each item."""

from __future__ import annotations

from itertools import pairwise
from typing import Final

import manifold3d
import numpy as np
import shapely

from slow_ribbon.core.kernel import Array, Indices, look_up
from slow_ribbon.core.lines import PaneLaid, pane_laid
from slow_ribbon.core.rows import ItemBase
from slow_ribbon.core.runs import Surface
from slow_ribbon.core.sections import Material
from slow_ribbon.core.solve import Solved, standing_lines, standing_rows, standing_runs
from slow_ribbon.exports.gltf import GlbWriter

#: The tones in which panes are written; glass has none.
_PANES: Final[dict[str, Material | None]] = {"glass": None, "mesh": "steel", "boards": "softwood"}


def item_surface(item: ItemBase) -> Surface:
    """Return an item with the middle of its foot at zero, its *along* axis on x: smooth round what is round, crisp at arrises."""
    vertices: list[Array] = []
    normals: list[Array] = []
    faces: list[Indices] = []
    for part in item.parts:
        rings = part.rings()
        for low, high in pairwise(rings):
            look_up()
            _add_band(low, high, part.round, vertices, normals, faces)
        for ring, way in ((rings[0], -1.0), (rings[-1], 1.0)):
            if np.ptp(ring[:, 0]) > 0:
                _add_cap(ring, way, vertices, normals, faces)
    begins = np.cumsum([0, *(len(one) for one in vertices)])
    joined = np.concatenate([one + begin for one, begin in zip(faces, begins[:-1].tolist(), strict=True)])
    return Surface(np.concatenate(vertices), np.concatenate(normals), joined, np.array([0, len(joined)]))


def _add_band(low: Array, high: Array, smooth: bool, vertices: list[Array], normals: list[Array], faces: list[Indices]) -> None:
    """Add the sides between two rings, two triangles each."""
    after = np.roll(np.arange(len(low)), -1)
    quads = np.stack([low, low[after], high[after], high], axis=1)
    # A ring that is a point leaves triangles; the longer of the two edges gives their direction.
    around = np.where(np.linalg.norm(quads[:, 1] - quads[:, 0], axis=1)[:, None] > 0, quads[:, 1] - quads[:, 0], quads[:, 2] - quads[:, 3])
    flat = np.cross(around, quads[:, 3] - quads[:, 0])
    flat /= np.maximum(np.linalg.norm(flat, axis=1), 1e-12)[:, None]
    if smooth:
        mean = flat + np.roll(flat, 1, axis=0)
        mean /= np.maximum(np.linalg.norm(mean, axis=1), 1e-12)[:, None]
        normal = np.stack([mean, mean[after], mean[after], mean], axis=1)
    else:
        normal = np.repeat(flat[:, None, :], 4, axis=1)
    first = 4 * np.arange(len(low))
    found = np.concatenate([np.stack([first, first + 1, first + 2], axis=1), np.stack([first, first + 2, first + 3], axis=1)])
    corners = quads.reshape(-1, 3)
    a, b, c = corners[found[:, 0]], corners[found[:, 1]], corners[found[:, 2]]
    found = found[np.linalg.norm(np.cross(b - a, c - a), axis=1) > 0]
    vertices.append(corners)
    normals.append(normal.reshape(-1, 3))
    faces.append(found)


def _add_cap(ring: Array, way: float, vertices: list[Array], normals: list[Array], faces: list[Indices]) -> None:
    """Add the lowest or the highest ring as a face; ``way`` is up (1) or down (-1)."""
    numbers = np.arange(1, len(ring) - 1)
    fan = np.stack([np.zeros(len(numbers), dtype=int), numbers, numbers + 1], axis=1)
    vertices.append(ring)
    normals.append(np.broadcast_to([0.0, 0.0, way], ring.shape))
    faces.append(fan if way > 0 else fan[:, ::-1])


def pane_surface(pane: PaneLaid) -> Surface:
    """Return the faces of a pane, from its origin, mm."""
    half = pane.pane.thickness / 2
    triangles = []
    for part in pane.parts:
        solid = manifold3d.CrossSection([shapely.get_coordinates(part)[:-1]]).extrude(2 * half).to_mesh()
        triangles.append(np.asarray(solid.vert_properties, dtype=float)[np.asarray(solid.tri_verts)][:, :, :3])
    # Extruded from its plane, in the middle of its thickness.
    corners = (np.concatenate(triangles) - (0.0, 0.0, half)) @ pane.axes
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.linalg.norm(normals, axis=1)[:, None]
    faces = np.arange(3 * len(corners)).reshape(-1, 3)
    return Surface(corners.reshape(-1, 3), np.repeat(normals, 3, axis=0), faces, np.array([0, len(faces)]))


def job_glb(solved: Solved) -> bytes:
    """Return the job as a ``.glb``: runs with their pieces, and an instance of its item for every place of a row.

    The mesh of what stands in several places is there once, with a node for each.
    """
    job = solved.job
    writer = GlbWriter(job.name)
    meshes: dict[str, int] = {}
    for found, place in standing_runs(solved):
        look_up()
        run = job.run(found.id)
        if found.key not in meshes:
            meshes[found.key] = writer.mesh(found.surface(), run.name, job.section(run.section).material)
        there = place.carriage
        name = f"{run.name}, {place.name}" if place.name else run.name
        writer.node(meshes[found.key], name, there.points(found.origin), there.turn, there.over)
    panes: dict[int, tuple[PaneLaid, int]] = {}
    for line, place in standing_lines(solved):
        look_up()
        laid = pane_laid(line)
        if laid is None:
            continue
        name = job.line(line.id).name
        if id(laid) not in panes:
            panes[id(laid)] = laid, writer.mesh(pane_surface(laid), name, _PANES[laid.pane.of])
        there = place.carriage
        writer.node(panes[id(laid)][1], f"{name}, {place.name}" if place.name else name, there.points(laid.origin), there.turn, there.over)
    items: dict[tuple[str, int, float], int] = {}
    for solved_row, place in standing_rows(solved):
        look_up()
        row, there, out = job.row(solved_row.id), place.carriage, solved_row.out
        uses, hangers = row.uses(), np.round(out.hangers, 2)
        for letter in np.unique(out.dealt).tolist():
            item = uses[letter].item
            for more in np.unique(hangers[out.dealt == letter]).tolist():
                # A typical is drawn by what it is made of.
                if item.parts and (row.id, letter, more) not in items:
                    shape = item if item.hangs_by is None else item.hung_by(item.hangs_by + more)
                    items[row.id, letter, more] = writer.mesh(item_surface(shape), row.name, uses[letter].material)
        tag = f"{place.name} {row.tag}" if place.name else row.tag
        headings, tilts = there.turned(out.headings, out.tilts)
        each = out.dealt.tolist(), out.sizes.tolist(), hangers.tolist()
        places = zip(there.points(out.positions), headings.tolist(), tilts, *each, strict=True)
        for number, (position, heading, tilt, letter, size, more) in enumerate(places, start=1):
            if (row.id, letter, more) in items:
                writer.node(items[row.id, letter, more], f"{tag}{number}", position, heading, there.over, tilt, size)
    return writer.bytes()
