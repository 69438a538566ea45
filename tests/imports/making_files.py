"""Small files of every kind, made here."""

from __future__ import annotations

import io
import json
from pathlib import Path
from typing import Any

import ezdxf
import ifcopenshell
import ifcopenshell.api.aggregate
import ifcopenshell.api.context
import ifcopenshell.api.feature
import ifcopenshell.api.geometry
import ifcopenshell.api.project
import ifcopenshell.api.root
import ifcopenshell.api.spatial
import ifcopenshell.api.unit
import numpy as np
import trimesh

SVG = """<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="100mm" viewBox="0 0 200 100">
<g id="walls" transform="translate(10,10) rotate(15)">
<path d="M0 0 H50 A10 10 0 0 1 60 10 V40 C60 60 40 60 0 40 Q-10 20 0 0 Z" stroke="red"/>
<rect x="80" y="0" width="20" height="10" rx="2"/><circle cx="120" cy="20" r="9"/></g>
<ellipse cx="150" cy="20" rx="9" ry="4" transform="skewX(20)"/><text x="3" y="4">hall</text></svg>"""


def dxf() -> bytes:
    """Every kind of edge."""
    document = ezdxf.new("R2018")
    document.header["$INSUNITS"] = 4
    space = document.modelspace()
    space.add_line((0, 0), (1000, 0), dxfattribs={"layer": "PLAN"})
    space.add_arc((1000, 500), 500, 270, 90, dxfattribs={"layer": "PLAN"})
    space.add_circle((3000, 0), 400)
    space.add_ellipse((5000, 0), (500, 200), 0.5, 0.3, 4)
    space.add_spline([(0, 3000), (500, 3500), (1000, 3000), (1500, 3600)])
    space.add_open_spline([(0, 8000), (500, 8500), (1000, 8000), (1500, 8600), (2000, 8000)])
    space.add_rational_spline([(0, 9000, 0), (500, 9900, 0), (1000, 9000, 0), (1500, 9000, 0)], [1, 2, 1, 1])
    space.add_spline(dxfattribs={"degree": 3}).set_closed([(4000, 8000, 0), (5000, 8500, 0), (4500, 9000, 0), (4000, 8800, 0)])
    space.add_lwpolyline([(0, 5000, 0, 0, 0.5), (1000, 5000, 0, 0, -0.3), (1000, 6000, 0, 0, 0)], close=True)
    hatch = space.add_hatch()
    edge = hatch.paths.add_edge_path()
    edge.add_line((7000, 0), (8000, 0))
    edge.add_arc((8000, 500), 500, 270, 90)
    edge.add_line((8000, 1000), (7000, 0))
    hatch.paths.add_polyline_path([(7000, 2000), (8000, 2000, 0.4), (8000, 3000)], is_closed=True)
    block = document.blocks.new("B")
    block.add_arc((0, 0), 100, 0, 120)
    block.add_ellipse((0, 0), (50, 0), 0.4)
    space.add_blockref("B", (9000, 0), dxfattribs={"xscale": 2, "yscale": 1, "rotation": 30})
    space.add_blockref("B", (9000, 1000), dxfattribs={"xscale": -2, "yscale": 2})
    document.layers.add("HIDDEN").off()
    document.layers.add("COLD", color=1).freeze()
    space.add_line((0, 0), (0, -500), dxfattribs={"layer": "HIDDEN"})
    space.add_line((0, 0), (-400, -500), dxfattribs={"layer": "COLD"})
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def geojson() -> bytes:
    """A line and a polygon in degrees."""
    line = {"type": "LineString", "coordinates": [[-0.5, 51.5], [-0.499, 51.5], [-0.499, 51.501, 4.0]]}
    ring = [[-0.5, 51.5], [-0.4995, 51.5], [-0.4995, 51.5005], [-0.5, 51.5]]
    features = [
        {"type": "Feature", "properties": {"name": "quay"}, "geometry": line},
        {"type": "Feature", "properties": {}, "geometry": {"type": "MultiPolygon", "coordinates": [[ring]]}},
    ]
    return json.dumps({"type": "FeatureCollection", "features": features}).encode()


POINTS = b"No;East;North;Height;Code\n1;500000.000;180000.000;5.2;KERB\n2;500010.5;180000;5.3;KERB\n3;500020;180003;5.4;KERB\n4;500000;180010;5;FENCE\n5;500020;180010;5;FENCE\n"  # noqa: E501


def boxes() -> trimesh.Trimesh:
    """Two boxes that lie against one another, and a tube without ends."""
    one = trimesh.creation.box((1000, 2000, 500))
    other = trimesh.creation.box((500, 2000, 500))
    other.apply_translation((750, 0, 0))
    tube = trimesh.creation.cylinder(300, 400, sections=32)
    tube.update_faces(np.abs(tube.face_normals[:, 2]) < 0.9)
    tube.apply_translation((3000, 0, 0))
    joined = trimesh.util.concatenate([one, other, tube])
    assert isinstance(joined, trimesh.Trimesh)
    return joined


def mesh(kind: str) -> bytes:
    """The boxes as a file of a kind; glTF in metres with y up."""
    found = boxes()
    if kind == "glb":
        found = found.copy()
        found.apply_transform(trimesh.transformations.rotation_matrix(-np.pi / 2, (1, 0, 0)))
        found.apply_scale(0.001)
    data = found.export(file_type=kind)
    assert not isinstance(data, dict)
    return data.encode() if isinstance(data, str) else data


def ifc(path: Path) -> bytes:
    """A room of 5 × 4 m with a wall, a door 900 wide in it and a window, made by ifcopenshell itself."""
    api = ifcopenshell.api
    file = api.project.create_file()
    project = api.root.create_entity(file, ifc_class="IfcProject", name="Slip")
    api.unit.assign_unit(file, length={"is_metric": True, "raw": "METERS"})
    model = api.context.add_context(file, context_type="Model")
    body = api.context.add_context(file, "Model", "Body", "MODEL_VIEW", parent=model)
    site, building, storey = (
        api.root.create_entity(file, ifc_class=f"Ifc{kind}", name=kind) for kind in ("Site", "Building", "BuildingStorey")
    )
    for part, whole in ((site, project), (building, site), (storey, building)):
        api.aggregate.assign_object(file, products=[part], relating_object=whole)

    def prism(kind: str, name: str, points: list[tuple[float, float]], low: float, height: float) -> Any:
        thing = api.root.create_entity(file, ifc_class=kind, name=name)
        corners = [file.createIfcCartesianPoint(point) for point in [*points, points[0]]]
        outline = file.createIfcArbitraryClosedProfileDef("AREA", None, file.createIfcPolyline(corners))
        place = file.createIfcAxis2Placement3D(file.createIfcCartesianPoint((0.0, 0.0, low)))
        solid = file.createIfcExtrudedAreaSolid(outline, place, file.createIfcDirection((0.0, 0.0, 1.0)), height)
        shape = file.createIfcShapeRepresentation(body, "Body", "SweptSolid", [solid])
        api.geometry.assign_representation(file, product=thing, representation=shape)
        api.geometry.edit_object_placement(file, product=thing)
        return thing

    room = prism("IfcSpace", "Hall", [(0.0, 0.0), (5.0, 0.0), (5.0, 4.0), (0.0, 4.0)], 0.0, 3.0)
    wall = prism("IfcWall", "South wall", [(-0.2, -0.2), (5.2, -0.2), (5.2, 0.0), (-0.2, 0.0)], 0.0, 3.0)
    slab = prism("IfcSlab", "Floor", [(-0.2, -0.2), (5.2, -0.2), (5.2, 4.2), (-0.2, 4.2)], -0.2, 0.2)
    prism("IfcColumn", "C1", [(2.0, 2.0), (2.3, 2.0), (2.3, 2.3), (2.0, 2.3)], 0.0, 3.0)
    for kind in ("IfcRailing", "IfcRailing", "IfcCurtainWall", "IfcStair"):
        prism(kind, kind, [(9.0, 0.0), (9.1, 0.0), (9.1, 1.0)], 0.0, 1.0)
    api.aggregate.assign_object(file, products=[room], relating_object=storey)
    api.spatial.assign_container(file, products=[wall, slab], relating_structure=storey)
    hatch = prism("IfcOpeningElement", "Hatch", [(4.4, -0.3), (5.0, -0.3), (5.0, -0.15), (4.4, -0.15)], 0.0, 0.5)
    api.feature.add_feature(file, feature=hatch, element=wall)
    for kind, name, x, wide, low, height in (("IfcDoor", "D1", 1.0, 0.9, 0.0, 2.1), ("IfcWindow", "W1", 3.0, 1.2, 0.9, 1.2)):
        outline = [(x, -0.25), (x + wide, -0.25), (x + wide, 0.05), (x, 0.05)]
        gap = prism("IfcOpeningElement", name, outline, low, height)
        leaf = prism(kind, name, [(x, -0.1), (x + wide, -0.1), (x + wide, -0.05), (x, -0.05)], low, height)
        api.feature.add_feature(file, feature=gap, element=wall)
        api.feature.add_filling(file, opening=gap, element=leaf)
        api.spatial.assign_container(file, products=[leaf], relating_structure=storey)
    file.write(str(path))
    return path.read_bytes()


def every_kind(folder: Path) -> dict[str, bytes]:
    """A file of each kind that is read, by its ending."""
    kinds = {"dxf": dxf(), "svg": SVG.encode(), "geojson": geojson(), "csv": POINTS}
    kinds |= {kind: mesh(kind) for kind in ("obj", "ply", "stl", "glb")}
    kinds["ifc"] = ifc(folder / "made.ifc")
    return kinds
