"""Maps in any coordinate system: true to a geodesic on the ground, features apart, and a question where a file does not say."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

import numpy as np
import pyproj
import pytest
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.imports.drawing import Drawing
from slow_ribbon.imports.geojson import read_geojson
from slow_ribbon.imports.line_finding import find_lines
from slow_ribbon.imports.options import Options

#: Systems of all kinds, each with a place in it (longitude, latitude): grid, web mercator, feet of two lengths, degrees of old
#: datums, grads from Paris, a compound one, a polar one.
SYSTEMS = {
    "urn:ogc:def:crs:EPSG::25832": (9.0, 48.0),
    "EPSG:27700": (-1.5, 53.0),
    "urn:ogc:def:crs:EPSG::3857": (10.0, 60.0),
    "EPSG:2227": (-122.3, 37.8),
    "EPSG:2277": (-97.7, 30.3),
    "EPSG:31370": (4.4, 50.85),
    "urn:ogc:def:crs:OGC:1.3:CRS84": (151.2, -33.9),
    "EPSG:4267": (-90.0, 40.0),
    "EPSG:4807": (2.3, 48.8),
    "EPSG:5556": (9.0, 48.0),
    "EPSG:3413": (-45.0, 75.0),
}


def collection(geometries: list[dict[str, Any]], system: str = "", **more: Any) -> bytes:
    features = [{"type": "Feature", "properties": {"kind": "room"}, "geometry": geometry} for geometry in geometries]
    named = {"crs": {"type": "name", "properties": {"name": system}}} if system else {}
    return json.dumps({"type": "FeatureCollection", **named, "features": features, **more}).encode()


def line(points: list[tuple[float, ...]]) -> dict[str, Any]:
    return {"type": "LineString", "coordinates": points}


def ring(points: list[tuple[float, float]]) -> dict[str, Any]:
    return {"type": "Polygon", "coordinates": [[*points, points[0]]]}


def read(data: bytes, folder: Path, **options: Any) -> Drawing:
    path = folder / "map.geojson"
    path.write_bytes(data)
    return read_geojson(path, Options(**options))


def lengths(drawing: Drawing) -> list[float]:
    """Metres."""
    found: list[float] = (np.linalg.norm(drawing.ends - drawing.begins, axis=1) / 1000).tolist()
    return found


@given(st.sampled_from(sorted(SYSTEMS)), st.lists(st.tuples(st.floats(0, 359.0), st.floats(5.0, 120.0)), min_size=1, max_size=5), st.data())
def test_lengths_are_those_on_the_ground_in_every_system(name: str, legs: list[tuple[float, float]], data: st.DataObject) -> None:
    """Checked by geodesics on the system's own ellipsoid (Karney's, in PROJ), laid out before they are written in it."""
    system = pyproj.CRS(name)
    flat = system.sub_crs_list[0] if system.is_compound else system
    geographic = flat.geodetic_crs or flat
    assert geographic.ellipsoid is not None
    geodesic = pyproj.Geod(a=geographic.ellipsoid.semi_major_metre, b=geographic.ellipsoid.semi_minor_metre)
    walk = [SYSTEMS[name]]
    for bearing, metres in legs:
        lon, lat, _ = geodesic.fwd(*walk[-1], bearing, metres)
        walk.append((float(lon), float(lat)))
    if flat.is_projected:
        lons, lats = zip(*walk, strict=True)
        points: list[tuple[float, ...]] = list(zip(*pyproj.Proj(flat)(lons, lats), strict=True))
    else:
        angle = math.degrees(flat.axis_info[0].unit_conversion_factor)
        points = [(lon / angle, lat / angle) for lon, lat in walk]
    found = read(collection([line(points)], name), data.draw(st.just(Path("/tmp"))))
    # A grid is taken as it is: it may be out by its own scale, which is reported.
    off = 2.2e-3 if "taken as they are" in found.notes[0] else 2e-7
    assert lengths(found) == pytest.approx([metres for _, metres in legs], rel=off, abs=2e-4)
    if name == "EPSG:25832":
        assert "metres" in found.unit


def test_web_mercator_comes_at_its_true_size(tmp_path: Path) -> None:
    mercator = pyproj.Proj("EPSG:3857")
    east, north = mercator(10.0, 60.0)
    # At 60° web mercator draws everything twice as long.
    found = read(collection([line([(east, north), (east + 200, north)])], "EPSG:3857"), tmp_path)
    assert lengths(found) == pytest.approx([100.1], abs=0.3)
    assert "true size" in found.notes[0]
    plain = read(collection([line([(east, north), (east + 200, north)])], "EPSG:3857"), tmp_path, unit="m")
    assert lengths(plain) == pytest.approx([200])


def test_coordinates_that_may_be_degrees_or_lengths_are_asked_about(tmp_path: Path) -> None:
    room = collection([ring([(0, 0), (30.2, 0), (30.2, 18.4), (0, 18.4)])])
    asked = read(room, tmp_path).question
    assert asked is not None
    assert "As degrees" in asked.what
    assert "30.2 m" in asked.what
    assert max(lengths(read(room, tmp_path, unit="m"))) == pytest.approx(30.2)
    assert max(lengths(read(room, tmp_path, unit="ft"))) == pytest.approx(30.2 * 0.3048)
    assert max(lengths(read(room, tmp_path, degrees=True))) > 2e6
    assert max(lengths(read(room, tmp_path, degrees=False))) == pytest.approx(30.2)
    # What lies in the sea off Africa and is a millimetre long is as doubtful as what spans countries.
    assert read(collection([line([(0, 0), (0.5, 0.25)])]), tmp_path).question is not None
    # What can only be the one or the other is not asked about.
    assert read(collection([line([(-0.5, 51.5), (-0.499, 51.5)])]), tmp_path).question is None
    assert read(collection([line([(500_000, 180_000), (500_012.5, 180_000)])]), tmp_path).question is None
    assert (
        read(room.replace(b'"features"', b'"crs":{"type":"name","properties":{"name":"EPSG:4326"}},"features"'), tmp_path).unit == "degrees"
    )


def test_a_system_that_is_not_known_is_reported(tmp_path: Path) -> None:
    found = read(collection([line([(10, 10), (22, 10)])], "the surveyor's own"), tmp_path)
    assert "the surveyor's own" in found.notes[0]
    assert lengths(found) == pytest.approx([12])


def test_what_crosses_the_antimeridian_stays_together(tmp_path: Path) -> None:
    found = read(collection([line([(179.9995, -17), (-179.9995, -17), (-179.999, -17)])]), tmp_path)
    geodesic = pyproj.Geod(ellps="WGS84")
    on_the_ground = [geodesic.line_length(longitudes, [-17, -17]) for longitudes in ([179.9995, 180.0005], [-179.9995, -179.999])]
    assert lengths(found) == pytest.approx(on_the_ground, rel=1e-6)


def test_features_stay_apart_when_they_are_joined(tmp_path: Path) -> None:
    rooms = [ring([(0, 0), (6, 0), (6, 5), (0, 5)]), ring([(6, 0), (12, 0), (12, 5), (6, 5)]), line([(12, 0), (12, 5)])]
    found = find_lines(read(collection(rooms), tmp_path, unit="m"), None, 1.0)
    assert [chain.closed for chain in found.joined.chains] == [True, True, False]
    assert [len(chain.edges) for chain in found.joined.chains] == [4, 4, 1]
    assert found.joined.junctions == ()
    assert found.joined.doubled == 0
    many = [ring([(x, y), (x + 6, y), (x + 6, y + 5), (x, y + 5)]) for x in range(0, 300, 6) for y in range(0, 200, 5)]
    joined = find_lines(read(collection(many), tmp_path, unit="m"), None, 1.0).joined
    assert len(joined.chains) == len(many)
    assert all(chain.closed for chain in joined.chains)


def test_heights_out_of_reach_are_refused_and_not_nought(tmp_path: Path) -> None:
    with pytest.raises(Refused):
        read(collection([line([(1e400, 0), (1, 1)])]).replace(b"Infinity", b"1" + b"0" * 400), tmp_path)
