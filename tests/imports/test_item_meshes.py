"""Meshes of items: read from files written by trimesh, in each format, unit and way up; what is no solid, too fine, or damaged."""

from __future__ import annotations

import base64
import io
import json
from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.core.kernel import Refused
from slow_ribbon.imports.item_mesh import KINDS, MOST_DRAWN, read_item
from slow_ribbon.imports.options import UNITS, Options

#: A cone is neither alike from all sides nor as large in one direction as in another.
CONE = trimesh.creation.cone(radius=0.3, height=0.8, sections=40)


def written(mesh: trimesh.Trimesh, kind: str) -> bytes:
    data: Any = mesh.export(file_type=kind)
    if isinstance(data, dict):
        # As one file, its data in it.
        scene = json.loads(data["model.gltf"])
        for buffer in scene["buffers"]:
            buffer["uri"] = "data:application/octet-stream;base64," + base64.b64encode(data[buffer["uri"]]).decode()
        return json.dumps(scene).encode()
    return data.encode() if isinstance(data, str) else bytes(data)


def drawn(glb: bytes) -> trimesh.Trimesh:
    found = trimesh.load(io.BytesIO(glb), file_type="glb", force="mesh")
    assert isinstance(found, trimesh.Trimesh)
    return found


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("upright", ["y", "z"])
def test_each_format_is_read_in_each_unit_and_way_up(kind: str, upright: str) -> None:
    for unit, factor in UNITS.items():
        read = read_item(written(CONE, kind), kind, Options.model_validate({"unit": unit, "upright": upright}))
        across, high = 0.6 * factor, 0.8 * factor
        assert np.allclose(read.own, (across, high, across) if upright == "y" else (across, across, high), rtol=1e-5)
        # By trimesh's own volume of what was written, over the box around it.
        assert read.filled == pytest.approx(CONE.volume / (0.6 * 0.6 * 0.8), rel=1e-4)
        kept = drawn(read.glb)
        along, deep, tall = read.own
        assert np.allclose(kept.bounds, [[-along / 2, -deep / 2, 0], [along / 2, deep / 2, tall]], atol=1e-2)
        assert kept.volume == pytest.approx(CONE.volume * factor**3, rel=1e-4)
    usual = read_item(written(CONE, kind), kind, Options())
    # Khronos, glTF 2.0, section 3.4: metres, y up. The others do not say.
    assert (usual.unit, usual.upright, usual.unit_known) == (("m", "y", True) if kind in ("glb", "gltf") else ("mm", "z", False))


@given(st.tuples(*[st.floats(0.05, 20)] * 3), st.tuples(*[st.floats(-1e4, 1e4)] * 3), st.booleans())
def test_wherever_it_lies_and_however_it_is_wound_it_stands_on_the_middle_of_its_foot(
    size: tuple[float, float, float], at: tuple[float, float, float], inside_out: bool
) -> None:
    box = trimesh.creation.box(size)
    box.apply_translation(at)
    if inside_out:
        box.invert()
    read = read_item(written(box, "obj"), "obj", Options(unit="m"))
    assert np.allclose(read.own, np.array(size) * 1000, rtol=1e-4, atol=0.1)
    assert read.filled == pytest.approx(1, rel=1e-3)
    assert np.allclose(drawn(read.glb).bounds[:, :2].sum(axis=0), 0, atol=0.1)


def test_an_open_shell_has_no_volume_and_a_fine_mesh_is_drawn_with_fewer_triangles() -> None:
    shell = trimesh.Trimesh(CONE.vertices, CONE.faces[:-5])
    assert read_item(written(shell, "stl"), "stl", Options(unit="m")).filled is None
    ball = trimesh.creation.icosphere(subdivisions=7, radius=0.5)
    read = read_item(written(ball, "stl"), "stl", Options(unit="m"))
    assert read.triangles == len(ball.faces) > 300_000
    assert read.drawn <= MOST_DRAWN
    # Its figures are those of the whole mesh; what is drawn is off by less than a hundredth of its size.
    assert read.filled == pytest.approx(np.pi / 6, rel=1e-3)
    kept = drawn(read.glb)
    assert len(kept.faces) == read.drawn
    away = np.linalg.norm(kept.vertices - [0, 0, 500], axis=1)
    assert np.all(np.abs(away - 500) < 10)
    assert kept.area == pytest.approx(ball.area * 1e6, rel=0.05)


def test_what_is_no_item_is_refused_in_words() -> None:
    flat = trimesh.Trimesh([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2]])
    with pytest.raises(Refused, match="no thickness: is mm its unit"):
        read_item(written(flat, "stl"), "stl", Options())
    with pytest.raises(Refused, match="no faces"):
        read_item(b"v 0 0 0\nv 1 0 0\nl 1 2\n", "obj", Options())
    with pytest.raises(Refused, match="choose a glTF"):
        read_item(b"0\nSECTION\n", "dxf", Options())
    with pytest.raises(Refused, match="damaged"):
        read_item(b"glTF" + bytes(40), "glb", Options())
    parts: Any = CONE.export(file_type="gltf")
    scene = json.loads(parts["model.gltf"])
    with pytest.raises(Refused, match="beside it"):
        read_item(json.dumps(scene).encode(), "gltf", Options())
