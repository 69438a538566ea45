"""Files as others make them: without a head, with what cannot be, in formats beside those named; read, or refused in words that help."""

from __future__ import annotations

import io
import json
import math
import time
from itertools import pairwise
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pyproj
import pytest
import trimesh
from making_files import every_kind

from slow_ribbon.cli import main
from slow_ribbon.core.job.job_file import job_from_text
from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.lines import course_of, line_body
from slow_ribbon.core.lines.model import with_id
from slow_ribbon.imports.drawing import Drawing, check_drawing
from slow_ribbon.imports.dxf.read_dxf import read_dxf
from slow_ribbon.imports.line_finding import find_lines, line_bodies, sound_lines, to_add
from slow_ribbon.imports.options import UNITS, Options
from slow_ribbon.imports.registry import READER_OF, ending_of


def read(data: bytes | str, name: str, folder: Path, **options: Any) -> Drawing:
    path = folder / name
    data = data.encode() if isinstance(data, str) else data
    path.write_bytes(data)
    ending = ending_of(name, data)
    return READER_OF[ending].read(path, ending, Options(**options))


def size(drawing: Drawing) -> list[float]:
    points = np.concatenate([drawing.begins, drawing.ends])
    return [float(value) for value in np.ptp(points, axis=0).round(3)]


def of(document: Any) -> bytes:
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def test_a_drawing_without_a_head_does_not_say_its_unit(tmp_path: Path) -> None:
    line = "0\nSECTION\n2\nENTITIES\n0\nLINE\n8\n0\n10\n0\n20\n0\n11\n4000\n21\n3000\n0\nENDSEC\n0\nEOF\n"
    drawing = read(line, "bare.dxf", tmp_path)
    assert (size(drawing)[:2], drawing.unit_known) == ([4000, 3000], False)
    assert size(read(line, "bare.dxf", tmp_path, unit="cm"))[:2] == [40_000, 30_000]


def test_the_unit_that_is_said_counts_whatever_the_file_says(tmp_path: Path) -> None:
    """Every kind of file in two units: as far apart as the units, and reported as what was said."""
    for kind, data in every_kind(tmp_path).items():
        name = f"file.{kind}"
        one, other = (read(data, name, tmp_path, unit=unit) for unit in ("cm", "ft"))
        assert size(other)[:2] == pytest.approx([UNITS["ft"] / UNITS["cm"] * value for value in size(one)[:2]], rel=1e-3), name
        assert (one.unit, one.unit_known) == ("centimetres", True), name


def test_tiny_lines_are_left_out_and_the_rest_is_added(tmp_path: Path) -> None:
    good = [line_body([(0, y, 0), (3000, y, 0)], False, f"Wall {y}") for y in range(0, 5000, 1000)]
    bad = [line_body([(0, 0, 0), (1e-4, 0, 0)], False, "Dot"), line_body([(0, 0, 0), (900, 0, 0), (1800, 0, 0)], True, "There and back")]
    lines, notices = to_add([good[0], bad[0], *good[1:3], bad[1], *good[3:]])
    assert [line.name for line in lines] == [line.name for line in good]
    assert notices[0].startswith("2 lines were left out, because no line can be made of them. Leg 1 of Dot has no length")
    assert sound_lines(good) == (list(range(5)), [])
    with pytest.raises(Refused, match=r"No line can be made of what is drawn there\. Leg 1 of Dot"):
        to_add(bad[:1])
    with pytest.raises(Refused, match=r"50,000 at most"):
        to_add(good[:1] * 50_001)


@pytest.mark.parametrize(
    "data",
    [
        "0\nSECTION\n2\nENTITIES\n0\nENDSEC\n0\nEOF\n",
        "0\nSECTION\n2\nENTITIES\n0\nLINE\n8\n0\n10\n0\n20\n0\n11\n0.0005\n21\n0\n0\nENDSEC\n0\nEOF\n",
    ],
)
def test_the_command_line_ends_with_one_sentence_where_no_line_is_left(
    data: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / "a.dxf").write_text(data)
    assert main(["import", str(tmp_path / "a.dxf")]) == 2
    message = capsys.readouterr().err
    assert "Traceback" not in message
    assert message.count("\n") == 1


@pytest.mark.parametrize("degree", [2, 3, 4, 5])
@pytest.mark.parametrize("times", [2, 3, 4, 5])
def test_closed_splines_of_repeated_controls_keep_all_their_pieces(degree: int, times: int, tmp_path: Path) -> None:
    """A rectangle of 4 × 3 m as others draw it: as long as ezdxf's own flattening of the spline, closed, whatever control comes first."""
    controls = [corner for corner in ((0, 0, 0), (4000, 0, 0), (4000, 3000, 0), (0, 3000, 0)) for _ in range(times)]
    for first in range(times):
        document = ezdxf.new(units=4)
        spline = document.modelspace().add_spline(degree=degree)
        spline.set_closed(controls[first:] + controls[:first], degree=degree)
        points = [point.xyz for point in spline.construction_tool().approximate(5000)]
        drawing = read(of(document), "spline.dxf", tmp_path)
        (body,) = line_bodies(find_lines(drawing, None, 1.0), None, (0, 0, 0), "a", "0" * 64)
        assert body.closed
        length = sum(math.dist(a, b) for a, b in pairwise(points))
        assert course_of(with_id(body, "L1")).length == pytest.approx(length, rel=1e-4)


def test_blocks_that_unfold_without_end_are_refused_at_once(tmp_path: Path) -> None:
    rows = ezdxf.new()
    rows.blocks.new("A").add_line((0, 0), (1, 0))
    rows.modelspace().add_blockref(
        "A", (0, 0), dxfattribs={"row_count": 32_000, "column_count": 32_000, "row_spacing": 1, "column_spacing": 1}
    )
    nested = ezdxf.new()
    nested.blocks.new("B0").add_line((0, 0), (1, 0))
    for level in range(1, 12):
        block = nested.blocks.new(f"B{level}")
        for place in range(10):
            block.add_blockref(f"B{level - 1}", (place, 0))
    nested.modelspace().add_blockref("B11", (0, 0))
    for document in (rows, nested):
        begun = time.monotonic()
        with pytest.raises(Refused, match="unfold into more than"):
            read(of(document), "many.dxf", tmp_path)
        # Counted, not unfolded, which would take minutes.
        assert time.monotonic() - begun < 20


def test_a_block_that_holds_itself_is_reported_and_the_rest_is_read(tmp_path: Path) -> None:
    document = ezdxf.new(units=4)
    for name, other in (("A", "B"), ("B", "A")):
        block = document.blocks.new(name)
        block.add_line((0, 0), (500, 0))
        block.add_blockref(other, (0, 100))
    document.modelspace().add_line((0, 0), (1000, 0))
    document.modelspace().add_blockref("A", (0, 0))
    drawing = read(of(document), "self.dxf", tmp_path)
    assert drawing.unread == {"inserts of blocks that hold themselves": 1}
    assert len(drawing.begins) == 1


def test_faces_and_meshes_of_a_drawing_give_their_edges(tmp_path: Path) -> None:
    """A cube has twelve edges, however it is written."""
    cube = trimesh.creation.box((1000, 1000, 1000))
    quads = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    corners = [(x * 1000.0, y * 1000.0, z * 1000.0) for x in (0, 1) for y in (0, 1) for z in (0, 1)]
    polyface, mesh, face = ezdxf.new(units=4), ezdxf.new(units=4), ezdxf.new(units=4)
    polyface.modelspace().add_polyface().append_faces([[corners[i] for i in quad] for quad in quads])
    with mesh.modelspace().add_mesh().edit_data() as data:
        data.vertices, data.faces = corners, [list(quad) for quad in quads]
    for quad in quads:
        face.modelspace().add_3dface([corners[i] for i in quad])
    for document, count in ((polyface, 12), (mesh, 12), (face, 24)):
        drawing = read(of(document), "cube.dxf", tmp_path)
        assert (len(drawing.begins), drawing.unread) == (count, {})
        assert size(drawing) == [1000, 1000, 1000]
    assert cube.is_watertight


@pytest.mark.parametrize("marked", ["zero area", "doubled"])
def test_a_sheet_is_open_all_round_whatever_triangles_it_has_besides(marked: str, tmp_path: Path) -> None:
    vertices = [(0, 0, 0), (1000, 0, 0), (1000, 800, 0), (0, 800, 0), (500, 0, 0)]
    faces = [(0, 1, 2), (0, 2, 3), *([(0, 4, 1)] if marked == "zero area" else [(0, 1, 2), (2, 1, 0)])]
    lines = [f"v {x} {y} {z}" for x, y, z in vertices] + [f"f {a + 1} {b + 1} {c + 1}" for a, b, c in faces]
    drawing = read("\n".join(lines), "sheet.obj", tmp_path)
    found = find_lines(drawing, ["open boundaries"], 1.0)
    (chain,) = found.joined.chains
    assert chain.closed
    assert len(chain.points) == 4


def test_what_lies_in_other_files_is_named(tmp_path: Path) -> None:
    scene = {"asset": {"version": "2.0"}, "buffers": [{"uri": "hall.bin", "byteLength": 12}]}
    with pytest.raises(Refused, match=r"hall\.bin.*\.glb"):
        read(json.dumps(scene), "hall.gltf", tmp_path)
    with pytest.raises(Refused, match=r"glTF of version 1\.0; version 2\.0 is read"):
        read(json.dumps({"asset": {"version": "1.0"}, "buffers": {}}), "hall.gltf", tmp_path)


def test_symbols_that_nothing_uses_are_shown(tmp_path: Path) -> None:
    sprite = '<svg xmlns="http://www.w3.org/2000/svg"><defs><symbol id="a" viewBox="0 0 10 10"><path d="M0 0H10V10Z"/></symbol></defs>'
    drawing = read(sprite + '<symbol id="b" viewBox="5 5 10 10"><path d="M5 5h10v10z"/></symbol></svg>', "sprite.svg", tmp_path)
    assert drawing.layers == ("a", "b")
    assert any("2, each a layer" in note for note in drawing.notes)
    used = '<symbol id="b"><path d="M5 5h10v10z"/></symbol><path d="M0 0h1"/></svg>'
    assert len(read(sprite + used, "used.svg", tmp_path).begins) == 1


def test_percentages_are_of_the_page(tmp_path: Path) -> None:
    def svg(root: str) -> Drawing:
        return read(f'<svg xmlns="http://www.w3.org/2000/svg" {root}><rect width="100%" height="50%"/></svg>', "page.svg", tmp_path)

    pixel = 25.4 / 96
    assert size(svg('width="400" height="200"'))[:2] == pytest.approx([400 * pixel, 100 * pixel], abs=1e-3)
    assert size(svg('width="400" height="200" viewBox="0 0 40 20"'))[:2] == pytest.approx([400 * pixel, 100 * pixel], abs=1e-3)
    with pytest.raises(Refused, match="in per cent of a page that does not say how large it is"):
        check_drawing(svg('width="100%" height="100%"'))


def test_a_topology_is_read_as_the_map_it_is(tmp_path: Path) -> None:
    """The example of the specification: a polygon and a line that share an arc, quantised; against the same as GeoJSON."""
    topology = {
        "type": "Topology",
        "transform": {"scale": [0.0005, 0.0001], "translate": [100, 0]},
        "objects": {
            "roads": {"type": "LineString", "arcs": [0]},
            "plots": {"type": "GeometryCollection", "geometries": [{"type": "Polygon", "arcs": [[1, -1]]}]},
        },
        "arcs": [[[4000, 0], [1999, 9999]], [[4000, 0], [0, 9999], [1999, 0]]],
    }
    first = [(100 + 0.0005 * x, 0.0001 * y) for x, y in ((4000, 0), (5999, 9999))]
    second = [(100 + 0.0005 * x, 0.0001 * y) for x, y in ((4000, 0), (4000, 9999), (5999, 9999))]
    features = [
        {"type": "Feature", "properties": {"layer": "roads"}, "geometry": {"type": "LineString", "coordinates": first}},
        {"type": "Feature", "properties": {"layer": "plots"}, "geometry": {"type": "Polygon", "coordinates": [[*second, first[0]]]}},
    ]
    plain = read(json.dumps({"type": "FeatureCollection", "features": features}), "a.geojson", tmp_path, degrees=True)
    found = read(json.dumps(topology), "a.json", tmp_path, degrees=True)
    assert found.layers == plain.layers
    assert found.begins == pytest.approx(plain.begins)
    assert found.ends == pytest.approx(plain.ends)


def test_latitudes_beyond_ninety_are_named(tmp_path: Path) -> None:
    line = {"type": "LineString", "coordinates": [[54.1, 120.5], [54.2, 120.6]]}
    with pytest.raises(Refused, match=r"A latitude of 120\.5 lies beyond 90°, at 2 places"):
        read(json.dumps(line), "a.geojson", tmp_path, degrees=True)


def test_points_headed_lat_and_lon_are_degrees(tmp_path: Path) -> None:
    """As far apart as the geodesic between them (pyproj, GRS 80 and WGS 84 alike here)."""
    places = [(54.3001, 10.1202), (54.3011, 10.1240), (54.3030, 10.1239)]
    text = "\n".join(["name,lat,lon,height", *(f"{number},{lat},{lon},4.5" for number, (lat, lon) in enumerate(places))])
    drawing = read(text, "points.csv", tmp_path)
    lengths = [math.dist(a, b) for a, b in zip(drawing.begins, drawing.ends, strict=True)]
    geod = pyproj.Geod(ellps="WGS84")
    true = [geod.inv(a[1], a[0], b[1], b[0])[2] * 1000 for a, b in pairwise(places)]
    assert lengths == pytest.approx(true, rel=1e-6)
    assert drawing.begins[0, 2] == pytest.approx(4500)


def test_geodetic_lists_are_not_mirrored(tmp_path: Path) -> None:
    """Y to the east with six digits, X to the north with seven; where the figures do not say, it is asked."""
    rows = [(565_100.25, 5_933_200.5), (565_130.25, 5_933_200.5), (565_130.25, 5_933_260.5)]
    text = "\n".join(["Nr;Y;X;H", *(f"{number};{y};{x};3.2" for number, (y, x) in enumerate(rows))])
    assert size(read(text, "a.csv", tmp_path))[:2] == [30_000, 60_000]
    other = "\n".join(["Nr;X;Y;H", *(f"{number};{x};{y};3.2" for number, (y, x) in enumerate(rows))])
    assert size(read(other, "a.csv", tmp_path))[:2] == [30_000, 60_000]
    local = "\n".join(["Nr;Y;X;H", *(f"{number};{10 + number};{20 - number * number};3" for number in range(3))])
    asked = read(local, "a.csv", tmp_path)
    assert asked.question is not None
    assert "headed Y and then X" in asked.question.what
    said = read(local, "a.csv", tmp_path, columns=("number", "east", "north", "height"))
    assert size(said)[:2] == [2000, 4000]


def test_the_command_line_takes_a_unit_over_the_files_own(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    document = ezdxf.new(units=4)
    document.modelspace().add_line((0, 0), (40, 0))
    (tmp_path / "a.dxf").write_bytes(of(document))
    assert read_dxf(tmp_path / "a.dxf").unit == "millimetres"
    assert main(["import", str(tmp_path / "a.dxf"), "--unit", "m"]) == 0
    job = job_from_text(capsys.readouterr().out)
    assert course_of(job.lines[0]).length == pytest.approx(40_000)
