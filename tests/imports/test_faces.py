"""The faces of a mesh, and the loops around them, against the facets that trimesh finds and against what a solid must have."""

from __future__ import annotations

import io
import math

import numpy as np
import pytest
import trimesh
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import ConvexHull, QhullError

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.imports.drawing import Drawing
from slow_ribbon.imports.isolated import read_data_apart
from slow_ribbon.imports.line_finding import find_lines
from slow_ribbon.imports.mesh import read_mesh
from slow_ribbon.imports.options import Options
from slow_ribbon.sandbox import in_memory


def read(mesh: trimesh.Trimesh, **options: float) -> Drawing:
    out = io.BytesIO()
    mesh.export(out, file_type="stl")
    with in_memory(out.getvalue()) as path:
        return read_mesh(path, "stl", Options(**options))


def around(drawing: Drawing, loops: list[int]) -> float:
    assert drawing.faces is not None
    edges = drawing.faces.along(loops)
    return float(np.linalg.norm(drawing.ends[edges] - drawing.begins[edges], axis=1).sum())


@settings(max_examples=examples(40), deadline=None)
@given(st.lists(st.tuples(*[st.integers(-6, 6)] * 3), min_size=5, max_size=25, unique=True))
def test_faces_of_a_solid_are_its_facets_and_every_edge_lies_between_two(points: list[tuple[int, int, int]]) -> None:
    try:
        ConvexHull(np.array(points))
    except QhullError:
        return  # all in one plane
    solid = trimesh.convex.convex_hull(np.array(points, dtype=float) * 100)
    drawing = read(solid, sharp=0.5)
    faces = drawing.faces
    assert faces is not None
    theirs = sorted([*solid.facets_area, *np.delete(solid.area_faces, np.concatenate([[], *solid.facets]).astype(int))], reverse=True)
    np.testing.assert_allclose(faces.areas, theirs, rtol=1e-5)
    assert faces.areas.sum() == pytest.approx(solid.area, rel=1e-6)
    # A convex solid has one loop around each face, every edge is of two, and Euler's formula holds.
    assert sorted(faces.of.tolist()) == list(range(len(faces.areas)))
    between = np.flatnonzero(drawing.layer == drawing.layers.index("sharper than 0.5°"))
    np.testing.assert_array_equal(np.sort(faces.edges), np.repeat(between, 2))
    corners = np.unique(np.concatenate([drawing.begins[between], drawing.ends[between]]), axis=0)
    assert len(corners) - len(between) + len(faces.areas) == 2
    for loop in range(len(faces.of)):
        (chain,) = find_lines(drawing, [], 0.1, loops=[loop]).joined.chains
        assert chain.closed


def test_a_face_with_a_hole_has_two_loops_a_ball_none_and_an_open_edge_is_one() -> None:
    ring = read(trimesh.creation.annulus(400, 700, 300, sections=64))
    faces = ring.faces
    assert faces is not None
    # Two flat rings of two loops each, and the two round sides between, of two loops each too.
    assert np.bincount(faces.of).tolist() == [2, 2, 2, 2]
    flat = [face for face in range(4) if np.ptp(faces.heights(face)) < 1e-6]
    (top,) = [face for face in flat if faces.heights(face)[0] > 0]
    outer, inner = (64 * 2 * radius * math.sin(math.pi / 64) for radius in (700, 400))
    loops = np.flatnonzero(faces.of == top).tolist()
    assert sorted(around(ring, [loop]) for loop in loops) == pytest.approx([inner, outer], rel=1e-6)
    found = find_lines(ring, [], 1.0, loops=loops)
    assert [(chain.closed, len(chain.edges)) for chain in found.joined.chains] == [(True, 64)] * 2
    assert set(found.names) == {f"Face {top + 1} 1", f"Face {top + 1} 2"}
    # With a layer as well, an edge that is on both is taken once.
    assert len(find_lines(ring, ["sharper than 30°"], 1.0, loops=loops).edges) == 4 * 64
    with pytest.raises(Refused, match="no longer has this face"):
        find_lines(ring, [], 1.0, loops=[99])

    ball = read(trimesh.creation.icosphere(4))
    assert ball.faces is not None
    assert (len(ball.faces.areas), len(ball.faces.of)) == (1, 0)
    box = trimesh.creation.box((1000, 500, 200))
    top_of_box = box.face_normals[:, 2] > 0.9
    open_box = trimesh.Trimesh(box.vertices, box.faces[~top_of_box], process=False)
    drawing = read(open_box)
    assert drawing.faces is not None
    assert len(drawing.faces.areas) == 5
    rim = np.flatnonzero(drawing.layer == drawing.layers.index("open boundaries"))
    assert set(rim) <= set(drawing.faces.edges.tolist())


def test_faces_come_out_of_the_process_that_reads_them_as_they_were_found() -> None:
    out = io.BytesIO()
    trimesh.creation.annulus(400, 700, 300, sections=16).export(out, file_type="stl")
    apart = read_data_apart(out.getvalue(), "stl").faces
    with in_memory(out.getvalue()) as path:
        here = read_mesh(path, "stl", Options()).faces
    assert here is not None
    assert apart is not None
    for name, value in vars(here).items():
        np.testing.assert_array_equal(getattr(apart, name), value)
