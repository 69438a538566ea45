"""DXF drawings of every version, made with ezdxf, and files that are none."""

from __future__ import annotations

from pathlib import Path

import ezdxf
import numpy as np
import pytest
from ezdxf.document import Drawing as Document

from slow_ribbon.core.faults import Refused
from slow_ribbon.formats.apart import LARGEST, read_apart
from slow_ribbon.formats.drawing import find_lines, line_bodies, site_origin
from slow_ribbon.formats.dxf import read_dxf

ROOM = [(0, 0), (4, 0), (4, 3), (0, 3)]


def saved(document: Document, folder: Path, binary: bool = False) -> Path:
    path = folder / "drawing.dxf"
    document.saveas(path, fmt="bin" if binary else "asc")
    return path


def room(version: str = "R2010", unit: int | None = 6) -> Document:
    document = ezdxf.new(version)
    if unit is not None:
        document.header["$INSUNITS"] = unit
    space = document.modelspace()
    for a, b in zip(ROOM, ROOM[1:] + ROOM[:1], strict=True):
        space.add_line(a, b, dxfattribs={"layer": "WALL"})
    return document


@pytest.mark.parametrize("version", ["R12", "R2000", "R2004", "R2007", "R2010", "R2013", "R2018"])
@pytest.mark.parametrize("binary", [False, True])
def test_every_version_is_read(version: str, binary: bool, tmp_path: Path) -> None:
    drawing = read_dxf(saved(room(version, None if version == "R12" else 6), tmp_path, binary))
    factor = 1 if version == "R12" else 1000
    chain = find_lines(drawing, ["WALL"], 1).joined.chains[0]
    assert chain.closed
    assert sorted(chain.points[:, :2].tolist()) == sorted([float(x * factor), float(y * factor)] for x, y in ROOM)


@pytest.mark.parametrize(("unit", "mm"), [(0, 1), (1, 25.4), (2, 304.8), (4, 1), (5, 10), (6, 1000), (10, 914.4)])
def test_units_are_honoured(unit: int, mm: float, tmp_path: Path) -> None:
    drawing = read_dxf(saved(room(unit=unit), tmp_path))
    assert float(drawing.ends.max()) == pytest.approx(4 * mm)
    assert drawing.unit_known == (unit != 0)


def test_polylines_blocks_and_what_is_left_unread(tmp_path: Path) -> None:
    document = room()
    space = document.modelspace()
    space.add_lwpolyline([(10, 0), (12, 0), (12, 2)], close=True, dxfattribs={"layer": "RAIL"})
    space.add_polyline3d([(0, 0, 0), (1, 0, 1), (2, 0, 1)], dxfattribs={"layer": "RAMP"})
    space.add_lwpolyline([(20, 0, 0, 0, 1.0), (22, 0, 0, 0, 0), (22, 2, 0, 0, 0)], dxfattribs={"layer": "RAIL"})
    space.add_circle((0, 0), 1)
    space.add_arc((0, 0), 1, 0, 90)
    space.add_spline([(0, 0, 0), (1, 1, 0), (2, 0, 0)])
    space.add_text("Hall")
    inner = document.blocks.new("INNER")
    inner.add_line((0, 0), (1, 0), dxfattribs={"layer": "0"})
    outer = document.blocks.new("OUTER")
    outer.add_blockref("INNER", (0, 0), dxfattribs={"rotation": 90, "layer": "0"})
    space.add_blockref("OUTER", (100, 0), dxfattribs={"layer": "PLACED", "xscale": 2, "yscale": 3})
    space.add_blockref(
        "OUTER", (200, 0), dxfattribs={"layer": "GRID", "row_count": 2, "column_count": 3, "row_spacing": 10, "column_spacing": 5}
    )
    drawing = read_dxf(saved(document, tmp_path))
    counts = dict(zip(drawing.layers, drawing.layer_counts(), strict=True))
    # A circle is two arcs; the rest of layer 0 is an arc and a spline.
    assert counts == {"WALL": 4, "RAIL": 5, "RAMP": 2, "0": 4, "PLACED": 1, "GRID": 6}
    assert sorted(leg.kind for leg in drawing.curves.values()) == ["arc", "arc", "arc", "arc", "through"]
    assert drawing.unread == {"text entities": 1}
    placed = drawing.ends[drawing.layer == drawing.layers.index("PLACED")] - drawing.begins[drawing.layer == drawing.layers.index("PLACED")]
    assert np.abs(placed[0]) == pytest.approx([0, 3000, 0], abs=1e-6)


def test_a_site_far_away_keeps_its_place_and_its_precision(tmp_path: Path) -> None:
    document = ezdxf.new()
    document.header["$INSUNITS"] = 6
    east, north = 512_345.678, 6_123_456.789
    document.modelspace().add_lwpolyline([(east + x, north + y) for x, y in ROOM], close=True)
    drawing = read_dxf(saved(document, tmp_path))
    origin = site_origin(drawing)
    body = line_bodies(find_lines(drawing, None, 1), None, origin, "site.dxf", "0" * 64)[0]
    assert origin[0] % 1000 == origin[1] % 1000 == 0
    assert max(abs(body.start[0]), abs(body.start[1])) < 10_000
    assert body.start[0] + origin[0] == pytest.approx(east * 1000, abs=1e-5)
    assert np.linalg.norm(np.subtract(body.legs[0].to, body.start)) == pytest.approx(4000, abs=1e-5)


def refusal(path: Path) -> Refused:
    with pytest.raises(Refused) as caught:
        read_apart(path)
    return caught.value


def test_files_that_cannot_be_read_are_refused_in_words(tmp_path: Path) -> None:
    path = tmp_path / "drawing.dxf"
    path.write_text("hello")
    assert refusal(path).code == "not-a-dxf"
    path.write_bytes(b"")
    assert refusal(path).code in ("not-a-dxf", "damaged")
    whole = saved(room(), tmp_path).read_text()
    for share in (0.2, 0.5, 0.8, 0.99):
        path.write_text(whole[: int(len(whole) * share)])
        assert refusal(path).code in ("damaged", "no-edges")
    saved(ezdxf.new(), tmp_path)
    assert refusal(path).code == "no-edges"
    only_words = ezdxf.new()
    only_words.modelspace().add_text("Hall")
    assert "1 text entity" in refusal(saved(only_words, tmp_path)).what
    with path.open("wb") as big:
        big.truncate(LARGEST + 1)
    assert refusal(path).code == "too-large"


@pytest.mark.parametrize("bad", ["nan", "inf", "1e12"])
def test_coordinates_that_cannot_be_are_refused(bad: str, tmp_path: Path) -> None:
    path = saved(room(), tmp_path)
    path.write_text(path.read_text().replace("AcDbLine\n 10\n0.0", f"AcDbLine\n 10\n{bad}", 1))
    assert refusal(path).code == "coordinates"


def test_blocks_that_unfold_without_end_are_stopped(tmp_path: Path) -> None:
    document = ezdxf.new()
    below = "B0"
    document.blocks.new(below).add_line((0, 0), (1, 0))
    for depth in range(1, 9):
        block = document.blocks.new(f"B{depth}")
        for place in range(20):
            block.add_blockref(below, (place, 0))
        below = f"B{depth}"
    document.modelspace().add_blockref(below, (0, 0))
    path = saved(document, tmp_path)
    # Which limit is met first is the machine's affair; that one is, and is told, is ours.
    with pytest.raises(Refused) as caught:
        read_apart(path, seconds=3)
    assert caught.value.code in ("too-slow", "reader-stopped", "too-large", "too-many"), caught.value.code


def test_mutilated_files_are_read_or_refused_never_worse(tmp_path: Path) -> None:
    random = np.random.default_rng(5)
    whole = saved(room(), tmp_path).read_bytes()
    path = tmp_path / "mutilated.dxf"
    for _ in range(60):
        data = bytearray(whole)
        for _ in range(random.integers(1, 12)):
            at = int(random.integers(0, len(data)))
            data[at : at + int(random.integers(0, 40))] = random.bytes(int(random.integers(0, 20)))
        path.write_bytes(bytes(data))
        try:
            read_dxf(path)
        except Refused:
            continue
