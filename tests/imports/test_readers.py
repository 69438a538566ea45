"""Each reader against what a general library says of the same file, and what it refuses, in words."""

from __future__ import annotations

import io
import json
import math
import zipfile
from pathlib import Path

import ezdxf
import numpy as np
import pyproj
import pytest
import shapely
import svgpathtools
import trimesh
from ezdxf.entities.hatch import Hatch
from ezdxf.entities.spline import Spline
from making import check_refusal
from making_files import POINTS, SVG, boxes, dxf, every_kind, geojson, ifc, mesh
from PIL import Image

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import plain
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.model import Line, LineBody
from slow_ribbon.imports.drawing import Drawing, site_origin, unread_words
from slow_ribbon.imports.dxf.read_dxf import read_dxf
from slow_ribbon.imports.isolated import read_apart, read_picture_apart
from slow_ribbon.imports.line_finding import find_lines, line_bodies
from slow_ribbon.imports.options import Options
from slow_ribbon.imports.pictures import MOST
from slow_ribbon.imports.registry import ending_of
from slow_ribbon.sandbox import Stopped


def saved(data: bytes, path: Path) -> Path:
    path.write_bytes(data)
    return path


def lines_of(drawing: Drawing, layers: list[str] | None = None, tolerance: float = 1.0) -> list[Line]:
    found = find_lines(drawing, layers, tolerance)
    bodies = line_bodies(found, None, site_origin(drawing), "file", "0" * 64)
    return [Line(id=f"L{i}", **{name: getattr(body, name) for name in LineBody.model_fields}) for i, body in enumerate(bodies, start=1)]


def refusal(path: Path, options: Options | None = None) -> Refused:
    with pytest.raises(Refused) as caught:
        read_apart(path, options)
    check_refusal(caught.value)
    return caught.value


def test_dxf_curves_are_those_that_ezdxf_draws(tmp_path: Path) -> None:
    """Every entity's length against ezdxf's own paths (which draw arcs as Bézier curves, 2e-4 too long) and splines."""
    from ezdxf import path as ezpath
    from ezdxf.disassemble import recursive_decompose

    whole = ezdxf.read(io.StringIO(dxf().decode()))
    for number in range(len(whole.modelspace())):
        document = ezdxf.read(io.StringIO(dxf().decode()))
        space = document.modelspace()
        for other in [one for index, one in enumerate(space) if index != number]:
            space.delete_entity(other)
        (left,) = space
        theirs = 0.0
        for entity in recursive_decompose([left]):
            if isinstance(entity, Spline) and entity.control_points:
                curve = entity.construction_tool()
                knots = curve.knots()
                inside = np.linspace(knots[curve.degree], knots[-curve.degree - 1] - 1e-12, 4000)
                flats = [np.array([point.xyz for point in curve.points(inside)])]
            else:
                paths = ezpath.from_hatch(entity) if isinstance(entity, Hatch) else [ezpath.make_path(entity)]
                flats = [np.array([point.xyz for point in one.flattening(0.0005)]) for one in paths]
            theirs += sum(float(np.linalg.norm(np.diff(flat, axis=0), axis=1).sum()) for flat in flats)
        document.saveas(tmp_path / "one.dxf")
        drawing = read_dxf(tmp_path / "one.dxf")
        assert sum(course_of(line).length for line in lines_of(drawing)) == pytest.approx(theirs, rel=3e-3), left.dxftype()
    drawing = read_apart(saved(dxf(), tmp_path / "all.dxf"))
    assert drawing.unread == {}
    assert set(drawing.hidden) == {"HIDDEN", "COLD"}
    assert drawing.colours["COLD"] == "#ff0000"
    plan = lines_of(drawing, ["PLAN"])
    assert [leg.kind for leg in plan[0].legs] == ["straight", "arc"]
    # A circle is a circle, not a polygon: exactly 2πR.
    assert course_of(plan[0]).length == pytest.approx(1000 + 500 * math.pi, rel=1e-12)


def test_svg_is_what_svgpathtools_says(tmp_path: Path) -> None:
    path = saved(SVG.encode(), tmp_path / "plan.svg")
    drawing = read_apart(path)
    assert (drawing.unit_known, drawing.unread) == (True, {"texts": 1})
    paths, _ = svgpathtools.svg2paths(str(path))
    # Lengths are kept by turning and moving, so they can be compared before the transform; a drawing unit here is a millimetre.
    theirs = sum(one.length(error=1e-9) for one in paths[:1])
    walls = lines_of(drawing, ["walls"], 0.01)
    assert course_of(max(walls, key=lambda one: course_of(one).length)).length == pytest.approx(theirs, rel=1e-6)
    assert {leg.kind for line in walls for leg in line.legs} == {"straight", "arc", "curve"}
    assert any(course_of(line).length == pytest.approx(2 * math.pi * 9, rel=1e-6) for line in walls)
    assert all(line.closed for line in lines_of(drawing, None, 0.01))
    # An SVG's y runs down, the job's up.
    assert drawing.ends[:, 1].max() <= 0
    assert refusal(saved(b"<html/>", path)).code == "not-an-svg"


def test_geojson_in_degrees_is_as_far_as_a_geodesic(tmp_path: Path) -> None:
    drawing = read_apart(saved(geojson(), tmp_path / "site.geojson"))
    assert "degrees" in drawing.notes[0]
    quay, plot = lines_of(drawing)
    geodesic = pyproj.Geod(ellps="WGS84")
    first = geodesic.inv(-0.5, 51.5, -0.499, 51.5)[2]
    assert math.dist(quay.start, quay.legs[0].to) / 1000 == pytest.approx(first, rel=1e-6)
    area, _ = geodesic.geometry_area_perimeter(shapely.Polygon([(-0.5, 51.5), (-0.4995, 51.5), (-0.4995, 51.5005)]))
    ours = shapely.Polygon([plot.start[:2], *(leg.to[:2] for leg in plot.legs[:-1])]).area / 1e6
    assert ours == pytest.approx(abs(area), rel=1e-6)
    assert quay.legs[1].to[2] == pytest.approx(4000)
    projected = {"type": "LineString", "coordinates": [[500_000, 180_000], [500_012.5, 180_000]]}
    plain = read_apart(saved(json.dumps(projected).encode(), tmp_path / "plain.json"))
    assert "taken as they are" in plain.notes[0]
    assert np.linalg.norm(plain.ends[0] - plain.begins[0]) == pytest.approx(12_500, abs=1e-6)
    for text in ("[]", '{"type": "Nothing"}', '{"type": "LineString", "coordinates": [[1, "x"]]}', '{"type": "Polygon"}'):
        assert refusal(saved(text.encode(), tmp_path / "bad.geojson")).code in ("not-geojson", "damaged")


def test_points_are_joined_by_code_and_their_columns_recognised(tmp_path: Path) -> None:
    path = saved(POINTS, tmp_path / "survey.csv")
    drawing = read_apart(path)
    kerb, fence = lines_of(drawing)
    assert (kerb.name, fence.name, len(kerb.legs)) == ("KERB", "FENCE", 2)
    # 500 km east, to the thousandth of a millimetre.
    metres = math.dist((0, 5.2), (10.5, 5.3)) + math.dist((10.5, 0, 5.3), (20, 3, 5.4))
    assert course_of(kerb).length == pytest.approx(1000 * metres, abs=1e-3)
    assert len(drawing.points) == 5
    together = read_apart(path, Options(order="file", unit="ft"))
    assert together.layers == ("points",)
    assert np.ptp(together.ends[:, 0]) > 20 * 300
    plain = saved(b"12.5 3.25 A\n13.5 3.25 A\n", tmp_path / "plain.txt")
    wanted = Options(columns=("east", "north", "code"), delimiter="space", header=False)
    assert read_apart(plain, wanted).layers == ("A",)
    for text, where in (
        ("1,2,3,4,A\n2,3\n3,4,5,6,A\n4,5,6\n", "row 2"),
        ("1,2,3,4,A\n2,x,4,5,A\n", "row 2, column 2"),
        ("a,b\nc,d\n", "columns"),
        ("\n\n", "file"),
    ):
        assert refusal(saved(text.encode(), path)).where == where


@pytest.mark.parametrize("kind", ["obj", "ply", "stl", "glb"])
def test_meshes_give_the_edges_that_trimesh_finds(kind: str, tmp_path: Path) -> None:
    drawing = read_apart(saved(mesh(kind), tmp_path / f"model.{kind}"))
    theirs = boxes()
    theirs.merge_vertices()
    counts = dict(zip(drawing.layers, drawing.layer_counts(), strict=True))
    # Two abutting boxes: their common face is inside, so round both only the outer rims are sharp and single.
    rims = lines_of(drawing, ["sharper than 30°"])
    assert max(course_of(line).length for line in rims if line.closed) == pytest.approx(7000, rel=1e-6)
    assert counts["open boundaries"] == 64
    tube = [line for line in lines_of(drawing, ["open boundaries"]) if line.closed]
    section = theirs.section(plane_origin=(0, 0, 100), plane_normal=(0, 0, 1))
    assert section is not None
    cut = read_apart(tmp_path / f"model.{kind}", Options(levels=(100,)))
    ours = sum(course_of(line).length for line in lines_of(cut, ["level cut at 100 mm"]))
    # The wall between the boxes is cut twice there, and doubled edges count once here.
    assert ours == pytest.approx(section.length - 2000, rel=1e-6)
    assert len(tube) == 2
    assert (
        plain(drawing.notes[0]) == f"{len(theirs.faces)} faces in 1 object, "
        f"from height {theirs.bounds[0, 2]:.0f} mm to {theirs.bounds[1, 2]:.0f} mm."
    )


def test_meshes_with_remarks_of_any_kind_with_polylines_and_with_faces_that_meet_in_threes(tmp_path: Path) -> None:
    # A wall on a slab on a wall: three faces meet along one edge; and a handrail as a polyline, counted from both ends.
    text = """# Gel\xe4nder, \u00e9chelle 1:1\no Treppe \xfc\nv 0 0 0\nv 1000 0 0\nv 1000 1000 0\nv 0 0 1000\nv 0 -1000 0
f 1 2 3\nf 1 2 4\nf 2 1 5\nv 0 0 900\nv 3000 0 900\nv 3000 4000 900\nl 6 7 8\nl -3 -1\n"""
    drawing = read_apart(saved(text.encode("latin-1"), tmp_path / "stair.obj"))
    lengths = dict.fromkeys(drawing.layers, 0.0)
    for begin, end, layer in zip(drawing.begins, drawing.ends, drawing.layer, strict=True):
        lengths[drawing.layers[layer]] += float(np.linalg.norm(end - begin))
    assert lengths["edges of three faces and more"] == pytest.approx(1000)
    assert lengths["polylines"] == pytest.approx(3000 + 4000 + 5000)
    assert lengths["open boundaries"] == pytest.approx(4 * 1000 + 2 * 1000 * math.sqrt(2), rel=0.2)
    alone = read_apart(saved(b"v 0 0 0\nv 1 0 0\nl 1 2\n", tmp_path / "lines.obj"), Options(unit="m"))
    assert alone.layers == ("polylines",)
    assert alone.ends[0] == pytest.approx([1000, 0, 0])
    ply = mesh("ply")
    head = ply.index(b"element")
    remarked = saved(ply[:head] + b"comment Gel\xe4nder\n" + ply[head:], tmp_path / "remarked.ply")
    assert read_apart(remarked).layer_counts() == read_apart(saved(ply, tmp_path / "plain.ply")).layer_counts()
    cuts = read_apart(saved(mesh("stl"), tmp_path / "model.stl"), Options(levels=(-100, 100, 100, 1e6)))
    assert [layer for layer in cuts.layers if layer.startswith("level")] == ["level cut at -100 mm", "level cut at 100 mm"]


def test_meshes_without_edges_and_in_other_files_are_refused(tmp_path: Path) -> None:
    ball = trimesh.creation.icosphere(4)
    assert refusal(saved(ball.export(file_type="stl"), tmp_path / "ball.stl"), Options(levels=(9,))).code == "no-edges"
    assert refusal(saved(b"v 0 0 0\n", tmp_path / "none.obj")).code in ("no-edges", "damaged")
    secret = saved(b"\0" * 400, tmp_path / "secret.bin")
    gltf = {
        "asset": {"version": "2.0"},
        "buffers": [{"uri": f"file://{secret}", "byteLength": 36}],
        "bufferViews": [{"buffer": 0, "byteLength": 36}],
        "accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
        "nodes": [{"mesh": 0}],
        "scenes": [{"nodes": [0]}],
        "scene": 0,
    }
    assert refusal(saved(json.dumps(gltf).encode(), tmp_path / "outside.gltf")).code == "files-beside"


def test_ifc_spaces_walls_and_slabs_with_their_doors(tmp_path: Path) -> None:
    path = tmp_path / "slip.ifc"
    ifc(path)
    drawing = read_apart(path)
    lines = {line.name: line for line in lines_of(drawing)}
    assert course_of(lines["space Hall"]).length == pytest.approx(18_000, abs=0.1)
    assert shapely.Polygon([leg.to[:2] for leg in lines["slab Floor"].legs]).area == pytest.approx(5400 * 4400, rel=1e-6)
    (door,) = lines["space Hall"].openings
    assert door.name == "D1"
    assert door.width == pytest.approx(900, abs=0.1)
    place = course_of(lines["space Hall"]).points_at(np.array([door.at, door.at + door.width]))
    assert sorted(place[:, 0]) == pytest.approx([1000, 1900], abs=0.1)
    # Both faces of the wall are broken, by the hatch without a leaf too, which does not pass the room's edge.
    assert {opening.name for opening in lines["wall South wall"].openings} == {"D1", "D1 2", "Hatch"}
    assert any(note.endswith("break nothing: 1.") for note in drawing.notes)
    # A floor lies at its top, what stands on it at its foot, and its edge is broken by nothing.
    assert {leg.to[2] for leg in lines["slab Floor"].legs} == {0}
    assert lines["slab Floor"].openings == ()
    assert course_of(lines["column C1"]).length == pytest.approx(1200, abs=0.1)
    assert unread_words(drawing) == "1 curtain wall, 2 railings, 1 stair"
    storey = "BuildingStorey"
    assert drawing.groups == {"space Hall": storey, "wall South wall": storey, "slab Floor": storey, "column C1": "in no storey"}
    upper = read_apart(path, Options(storey="ceiling"))
    assert {round(z) for z in upper.begins[upper.layer == upper.layers.index("space Hall")][:, 2]} == {3000}
    packed = tmp_path / "slip.ifczip"
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.write(path, "slip.ifc")
    assert len(read_apart(packed).begins) == len(drawing.begins)
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("slip.ifc", b"0" * 80_000_000)
    assert refusal(packed).code == "archive"


def test_any_file_is_known_by_its_ending_or_its_beginning(tmp_path: Path) -> None:
    for form in ("asc", "bin"):
        ezdxf.new("R2000").saveas(tmp_path / "noname", fmt=form)
        assert ending_of("noname", (tmp_path / "noname").read_bytes()[:400]) == "dxf"
    assert ending_of("Plan.DXF", b"") == "dxf"
    assert ending_of("noname", b"ISO-10303-21;") == "ifc"
    assert ending_of("noname", b'<?xml version="1.0"?><svg>') == "svg"
    with pytest.raises(Refused, match=r"\.docx cannot be imported"):
        ending_of("letter.docx", b"PK")


def test_reading_can_be_stopped(tmp_path: Path) -> None:
    path = saved(dxf(), tmp_path / "all.dxf")
    with pytest.raises(Stopped):
        read_apart(path, stopped=lambda: True)


def test_lines_at_different_heights_are_reported_and_brought_to_one() -> None:
    begins = np.array([(0, 0, 0), (1000, 0, 300), (1000, 1000, 0)], dtype=float)
    ends = np.array([(1000, 0, 0), (1000, 1000, 300), (0, 1000, 0)], dtype=float)
    drawing = Drawing(
        begins=begins, ends=ends, layer=np.zeros(3, dtype=np.int64), layers=("0",), unread={}, unit="millimetres", unit_known=True
    )
    apart = find_lines(drawing, None, 1)
    assert (len(apart.joined.chains), apart.joined.apart) == (3, 4)
    level = find_lines(drawing, None, 1, level=50)
    assert len(level.joined.chains) == 1
    assert set(level.joined.chains[0].points[:, 2]) == {50}


def test_every_kind_of_curve_is_joined_whichever_way_it_was_drawn(tmp_path: Path) -> None:
    document = ezdxf.new()
    document.header["$INSUNITS"] = 4
    space = document.modelspace()
    space.add_line((1000, 0), (0, 0))
    space.add_arc((1000, 500), 500, 270, 90)
    space.add_open_spline([(0, 0), (-300, 400), (-300, 600), (0, 1000.4)])
    space.add_line((1000, 1000), (0, 1000))
    document.saveas(tmp_path / "loop.dxf")
    drawing = read_apart(tmp_path / "loop.dxf")
    (loop,) = lines_of(drawing)
    assert loop.closed
    assert sorted(leg.kind for leg in loop.legs) == ["arc", "curve", "straight", "straight"]
    # The straights keep their lengths and the half circle is one; the spline is ezdxf's own, flattened.
    spline = next(one for one in space if isinstance(one, Spline))
    flat = np.array([point.xyz for point in spline.flattening(1e-4)])
    expected = 2000 + 500 * math.pi + float(np.linalg.norm(np.diff(flat, axis=0), axis=1).sum())
    assert course_of(loop).length == pytest.approx(expected, abs=0.5)
    assert len(find_lines(drawing, None, 1).joined.gaps) == 1


@pytest.mark.parametrize("ending", ["png", "jpg", "pdf"])
def test_pictures_are_read_and_large_ones_made_smaller(ending: str, tmp_path: Path) -> None:
    path = tmp_path / f"plan.{ending}"
    image = Image.new("RGB", (6000, 3000), "white")
    image.save(path, resolution=150.0) if ending == "pdf" else image.save(path, dpi=(300, 300))
    found = read_picture_apart(path)
    assert max(found.across, found.high) <= MOST
    assert found.png[:4] == b"\x89PNG"
    assert found.scale is not None
    # What the file says of its size on paper: 6000 dots at 300, or at 150, to the inch.
    assert found.across * found.scale == pytest.approx(6000 / (150 if ending == "pdf" else 300) * 25.4, rel=2e-3)
    if ending != "pdf":
        assert "Scaled down from 6000 × 3000" in found.note
    path.write_bytes(path.read_bytes()[:200])
    with pytest.raises(Refused):
        read_picture_apart(path)
    path.write_bytes(b"%PDF-1.4 nothing" if ending == "pdf" else b"GIF89a" + b"0" * 50)
    with pytest.raises(Refused):
        read_picture_apart(path)


def test_a_file_of_every_kind_has_a_line(tmp_path: Path) -> None:
    for ending, data in every_kind(tmp_path).items():
        assert lines_of(read_apart(saved(data, tmp_path / f"file.{ending}"))), ending


def test_names_that_cannot_be_kept_are_made_so(tmp_path: Path) -> None:
    """Bytes that are no letters in the file's encoding, halves of characters, and NUL, in the names that files give."""
    name = b"QXQ"
    document = ezdxf.new("R2010")
    for number, layer in enumerate(("QXQ1", "QXQ2")):
        document.modelspace().add_line((0, number), (1000, number), dxfattribs={"layer": layer})
    out = io.StringIO()
    document.write(out)
    text = out.getvalue().encode()
    for odd, shown in ((b"Gel\xe4nder", "Geländer"), (b"a\xed\xa0\x80b", "aí\xa0€b"), (b"a\0b", "ab")):
        drawing = read_apart(saved(text.replace(name, odd), tmp_path / "odd.dxf"))
        assert drawing.layers == (f"{shown}1", f"{shown}2")
    alike = read_apart(saved(text.replace(b"QXQ1", b"x\x01").replace(b"QXQ2", b"x\x02"), tmp_path / "alike.dxf"))
    assert alike.layers == ("x", "x (2)")
    assert alike.layer_counts() == [1, 1]
    feature = {
        "type": "Feature",
        "properties": {"name": "a\ud800b\0"},
        "geometry": {"type": "LineString", "coordinates": [[5e5, 0], [5e5, 9]]},
    }
    found = read_apart(saved(json.dumps(feature).encode(), tmp_path / "odd.geojson"))
    assert found.layers == ("a\ufffdb",)
