"""The whole job in 3D as one binary glTF: a node for each run and for each item."""

from __future__ import annotations

import numpy as np

from slow_ribbon.core.kernel import look_up
from slow_ribbon.core.rows import Row
from slow_ribbon.core.runs import Surface
from slow_ribbon.core.sections import circle, rectangle, shape_of
from slow_ribbon.core.solve import Solved, standing_rows, standing_runs
from slow_ribbon.exports.gltf import GlbWriter


def item_surface(row: Row) -> Surface:
    """Return one item of a row with the middle of its foot at zero, its *along* axis on x."""
    item = row.item
    outline = rectangle(*item.sides) if item.circle is None else circle(item.circle / 2)
    flat = shape_of(outline).flat()
    size = len(flat.points)
    middle = np.array(item.sides) / 2 if item.circle is None else np.zeros(2)
    plan = flat.points - middle
    foot, head = np.column_stack([plan, np.zeros(size)]), np.column_stack([plan, np.full(size, item.height)])
    skin, skins = flat.skin_points, len(flat.skin_points)
    a, b = flat.segments[:, 0], flat.segments[:, 1]
    sides = np.concatenate([np.stack([a, b, b + skins], axis=1), np.stack([a, b + skins, a + skins], axis=1)])
    round_normals = np.column_stack([flat.skin_normals, np.zeros(skins)])
    up = np.broadcast_to([0.0, 0.0, 1.0], (size, 3))
    base = 2 * skins
    return Surface(
        np.concatenate([foot[skin], head[skin], foot, head]),
        np.concatenate([round_normals, round_normals, -up, up]),
        np.concatenate([sides, base + flat.triangles[:, ::-1], base + size + flat.triangles]),
        np.array([0, len(sides) + 2 * len(flat.triangles)]),
    )


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
    items: dict[str, int] = {}
    for solved_row, place in standing_rows(solved):
        look_up()
        row, there = job.row(solved_row.id), place.carriage
        if row.id not in items:
            items[row.id] = writer.mesh(item_surface(row), row.name, row.material)
        out, tag = solved_row.out, f"{place.name} {row.tag}" if place.name else row.tag
        for number, (position, heading) in enumerate(zip(there.points(out.positions), out.headings, strict=True), start=1):
            # An item is its own mirror image; in a mirror it turns the other way.
            writer.node(items[row.id], f"{tag}{number}", position, there.turn + float(-heading if there.over else heading))
    return writer.bytes()
