"""DXF drawings of every version, made with ezdxf, and files that are none."""

from __future__ import annotations

import contextlib
import math
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pytest
from ezdxf.document import Drawing as Document
from ezdxf.math import rational_bspline_from_arc

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.model import with_id
from slow_ribbon.imports.drawing import site_origin
from slow_ribbon.imports.dxf.plain_lines import taken_out
from slow_ribbon.imports.dxf.read_dxf import read_dxf
from slow_ribbon.imports.dxf.units import unit_of
from slow_ribbon.imports.isolated import LARGEST, read_apart
from slow_ribbon.imports.line_finding import find_lines, line_bodies
from slow_ribbon.imports.options import Options

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


#: The last are the US survey foot, 1200/3937 m, and its inch, yard and mile (NIST Handbook 44, appendix C, before 2023).
UNITS = [(0, 1), (1, 25.4), (2, 304.8), (4, 1), (5, 10), (6, 1000), (8, 25.4e-6), (9, 0.0254), (10, 914.4)]
UNITS += [(21, 304.8006096), (22, 25.4000508), (23, 914.4018288), (24, 1_609_347.2186944)]


@pytest.mark.parametrize(("unit", "mm"), UNITS)
def test_units_are_honoured(unit: int, mm: float, tmp_path: Path) -> None:
    path = saved(room(unit=unit), tmp_path)
    drawing = read_dxf(path)
    assert float(drawing.ends.max()) == pytest.approx(4 * mm, rel=1e-9)
    assert drawing.unit_known == (unit != 0)
    # What a person says holds whatever the file says.
    said = read_dxf(path, Options(unit="ft"))
    assert float(said.ends.max()) == pytest.approx(4 * 304.8, rel=1e-9)


def test_splines_with_full_knots_and_equal_neighbours_are_as_long_as_they_are(tmp_path: Path) -> None:
    document = room()
    space = document.modelspace()
    # A whole circle as a rational spline has double knots; a chain of Bézier curves as one cubic has triple ones.
    circle = rational_bspline_from_arc((20, 0), 2.5, 0, 360)
    space.add_rational_spline(circle.control_points, circle.weights(), circle.degree, circle.knots(), dxfattribs={"layer": "circle"})
    corner = [(0, 10), (1, 12), (3, 12), (4, 10), (4, 13), (6, 13), (7, 10)]
    chain = space.add_spline(dxfattribs={"layer": "chain"})
    chain.control_points, chain.knots, chain.dxf.degree = corner, [0, 0, 0, 0, 1, 1, 1, 2, 2, 2, 2], 3
    space.add_spline([(0, 20), (2, 21), (2, 21), (5, 20)], dxfattribs={"layer": "fit"})
    helix = space.add_helix(radius=1.5, pitch=0.8, turns=2, dxfattribs={"layer": "helix"})
    helix.translate(40, 0, 0)
    bad = space.add_spline(dxfattribs={"layer": "bad"})
    bad.control_points, bad.knots = [(0, 0), (1, 1)], [0, 1]
    drawing = read_dxf(saved(document, tmp_path))
    lengths = {}
    for number, line in enumerate(line_bodies(find_lines(drawing, None, 0.01), None, (0, 0, 0), "a.dxf", "0" * 64)):
        lengths[line.source.layer if line.source else number] = course_of(with_id(line, "L1")).length / 1000
    assert lengths["circle"] == pytest.approx(5 * math.pi, rel=1e-9)
    halves = [np.array(corner[:4], dtype=float), np.array(corner[3:], dtype=float)]
    assert lengths["chain"] == pytest.approx(sum(bezier_length(half) for half in halves), rel=1e-6)
    assert lengths["helix"] == pytest.approx(2 * math.hypot(2 * math.pi * 1.5, 0.8), rel=1e-3)
    assert lengths["fit"] > 3 + math.hypot(2, 1)
    assert sum(drawing.unread.values()) == 1


def bezier_length(controls: np.ndarray) -> float:
    """Return the length of a cubic Bézier curve by Bernstein's formula, summed over short chords."""
    t = np.linspace(0, 1, 20_001)[:, None]
    a, b, c, d = controls
    points = (1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * b + 3 * (1 - t) * t**2 * c + t**3 * d
    return float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())


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


def test_what_is_left_and_where_it_lies_is_reported(tmp_path: Path) -> None:
    document = room()
    space = document.modelspace()
    space.add_line((0, 0), (9, 9), dxfattribs={"layer": "wall", "invisible": 1})
    # DXF makes no difference between the cases of names: these are on the layer that the table calls WALL.
    space.add_line((50, 0), (51, 0), dxfattribs={"layer": "wall"})
    document.layers.add("OFF").off()
    document.layers.add("Cold").freeze()
    space.add_line((60, 0), (61, 0), dxfattribs={"layer": "off"})
    space.add_line((70, 0), (71, 0), dxfattribs={"layer": "COLD"})
    document.add_xref_def("plot of the quay.dxf", "QUAY")
    space.add_blockref("QUAY", (0, 0))
    document.paperspace().add_line((0, 0), (1, 1))
    document.paperspace().add_circle((0, 0), 1)
    drawing = read_dxf(saved(document, tmp_path))
    assert dict(zip(drawing.layers, drawing.layer_counts(), strict=True)) == {"WALL": 5, "OFF": 1, "Cold": 1}
    assert drawing.hidden == ("OFF", "Cold")
    assert drawing.unread == {"invisible entities": 1, "external references": 1}
    notes = " ".join(drawing.notes)
    assert "plot of the quay.dxf" in notes
    assert "2 things drawn on paper (Layout1) are not read" in notes
    # Drawn on paper alone it is read from there.
    sheet = ezdxf.new()
    sheet.header["$INSUNITS"] = 4
    sheet.paperspace().add_line((0, 0), (120, 0))
    alone = read_dxf(saved(sheet, tmp_path))
    assert np.abs(alone.ends - alone.begins).max() == pytest.approx(120)
    assert "Layout1" in alone.notes[0]


@pytest.mark.parametrize("version", ["R2000", "R2010"])
def test_plain_lines_read_past_the_library_are_those_it_reads(version: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    document = ezdxf.new(version)
    document.header["$INSUNITS"] = 4
    document.encoding = "cp1252"
    space = document.modelspace()
    rng = np.random.default_rng(7)
    document.layers.add("Geländer")
    unusual: list[dict[str, Any]] = [
        {}, {"invisible": 1}, {"extrusion": (0, 0, -1)}, {"thickness": 5}, {"linetype": "DASHED"}, {"color": 3},
    ]  # fmt: skip
    for number, ends in enumerate(rng.uniform(-1e6, 1e6, (300, 2, 3)).round(4).tolist()):
        more: dict[str, Any] = unusual[number % 6]
        space.add_line(ends[0], ends[1], dxfattribs={"layer": ["Geländer", "GELÄNDER", "0", "wall"][number % 4], **more})
        if number % 10 == 0:
            space.add_circle(ends[0], 5)
            space.add_line(ends[0], ends[0])
    space.add_line((0, 0), (1, 1)).set_xdata("ACAD", [(1010, (9, 9, 9)), (1000, "LINE")])
    document.paperspace().add_line((5, 5), (6, 6))
    block = document.blocks.new("inside")
    block.add_line((0, 0), (7, 0))
    space.add_blockref("inside", (3, 3))
    path = saved(document, tmp_path)

    def edges() -> list[Any]:
        found = read_dxf(path)
        rows = zip(found.begins.tolist(), found.ends.tolist(), [found.layers[layer] for layer in found.layer], strict=True)
        return [sorted(rows), found.unread, found.notes, found.unit, found.hidden]

    past: list[int] = []
    theirs = edges()
    monkeypatch.setattr("slow_ribbon.imports.dxf.read_dxf.LARGE", 0)
    monkeypatch.setattr("slow_ribbon.imports.dxf.plain_lines.LARGE", 0)

    def counted(data: bytes) -> Any:
        found = taken_out(data)
        past.append(len(found[1]) if found else 0)
        return found

    monkeypatch.setattr("slow_ribbon.imports.dxf.read_dxf.taken_out", counted)
    assert edges() == theirs
    path.write_bytes(path.read_bytes().replace(b"\n", b"\r\n"))
    assert edges() == theirs
    # All but the invisible ones and those of blocks and paper.
    assert past == [300 - 50 + 30 + 1] * 2
    # Cut off in the middle it is read as a whole, or refused, as before.
    path.write_bytes(path.read_bytes()[: path.stat().st_size * 3 // 4])
    with contextlib.suppress(Refused):
        assert "damaged" in edges()[2][0]


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


def outcome(path: Path) -> str:
    """Return the code of what a file is refused for, or that it was mended."""
    try:
        return "mended" if "damaged and was mended" in read_apart(path).notes[0] else "read"
    except Refused as refused:
        return refused.code


def test_files_that_cannot_be_read_are_refused_in_words(tmp_path: Path) -> None:
    path = tmp_path / "drawing.dxf"
    path.write_text("hello")
    assert refusal(path).code == "not-a-dxf"
    path.write_bytes(b"")
    assert refusal(path).code in ("not-a-dxf", "damaged")
    whole = saved(room(), tmp_path).read_text()
    for share in (0.2, 0.5, 0.8, 0.99):
        path.write_text(whole[: int(len(whole) * share)])
        # Cut off behind its entities nothing is missing that lines are made of; it is reported all the same.
        assert outcome(path) in ("damaged", "no-edges", "mended")
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
    with pytest.raises(Refused) as caught:
        read_apart(path, seconds=30)
    assert caught.value.code == "too-many-edges"


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


@pytest.mark.parametrize("unit", [99, -1, 25])
def test_a_unit_code_that_dxf_does_not_have_is_taken_as_none(unit: int) -> None:
    assert unit_of(unit) == (0, 1.0, "millimetres")
