"""The whole job in 3D as one binary glTF: a node for each run and for each item."""

from __future__ import annotations

import numpy as np

from slow_ribbon.core.kernel import look_up
from slow_ribbon.core.rows import Row
from slow_ribbon.core.runs import Surface
from slow_ribbon.core.sections import circle, rectangle, shape_of
from slow_ribbon.core.solve import Solved
from slow_ribbon.exports.gltf import Writer


def item_surface(row: Row) -> Surface:
    """Return one item of a row with the middle of its foot at nought, its *along* axis on x."""
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
    """Return the job as a ``.glb``: runs with their pieces, and an instance of its item for every place of a row."""
    job = solved.job
    writer = Writer(job.name)
    for run in job.runs:
        look_up()
        found = solved.runs[run.id]
        writer.node(writer.mesh(found.surface(), run.name, job.section(run.section).material), run.name, found.origin)
    for row in job.rows:
        mesh = writer.mesh(item_surface(row), row.name, row.material)
        out = solved.rows[row.id].out
        for number, (position, heading) in enumerate(zip(out.positions, out.headings, strict=True), start=1):
            writer.node(mesh, f"{row.tag}{number}", position, float(heading))
    return writer.bytes()
