"""GeoJSON (RFC 7946): lines and polygons.

Coordinates in degrees are projected about the middle of the data (transverse Mercator on the
WGS 84 ellipsoid, true to scale there), with pyproj; larger ones are taken as they are, in metres.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import pyproj

from slow_ribbon.core.faults import Refused
from slow_ribbon.formats.drawing import Drawing, Edges
from slow_ribbon.formats.options import UNIT_NAMES, UNITS, Options

#: Collections nested deeper than this are a mistake or a trap.
DEEPEST = 30
#: Coordinate systems that are in degrees, as files name them.
_DEGREES = ("CRS84", "4326", "4979")


def read_geojson(path: Path, options: Options) -> Drawing:
    """Return the edges of a GeoJSON file, in mm. Raises ``Refused`` where it is none or holds wrong coordinates."""
    try:
        data = json.loads(path.read_bytes())
    except (ValueError, RecursionError) as error:
        raise Refused(f"This is not GeoJSON: it is not valid JSON ({error}).", "file", "damaged") from error
    if not isinstance(data, dict) or not isinstance(data.get("type"), str):
        raise Refused('This is not GeoJSON: it has no "type".', "file", "not-geojson")
    edges = Edges()
    paths = list(_paths(data, "", 0, edges))
    if not paths:
        return edges.drawing("metres", True)
    points = np.concatenate([points for points, _ in paths])
    named = _named_system(data)
    degrees = bool(np.abs(points[:, 0]).max() <= 180 and np.abs(points[:, 1]).max() <= 90)
    degrees = any(name in named for name in _DEGREES) or (degrees and not named)
    unit = "metres"
    if degrees:
        middle = (points[:, :2].min(axis=0) + points[:, :2].max(axis=0)) / 2
        local = f"+proj=tmerc +lat_0={middle[1]:.9f} +lon_0={middle[0]:.9f} +k=1 +x_0=0 +y_0=0 +ellps=WGS84 +units=m +no_defs"
        projection = pyproj.Transformer.from_crs("EPSG:4326", local, always_xy=True)
        edges.notes.append(
            f"Its coordinates are degrees. They are projected to metres about {middle[1]:.5f}, {middle[0]:.5f} "
            "(transverse Mercator, true to scale there), which is nought here."
        )
        factor = 1000.0
    else:
        projection = None
        factor = UNITS[options.unit or "m"]
        unit = UNIT_NAMES[options.unit or "m"]
        edges.notes.append(f"Its coordinates are taken as they are, in {unit}" + (f" ({named})." if named else "."))
    for path_points, layer in paths:
        if projection is not None:
            east, north = projection.transform(path_points[:, 0], path_points[:, 1])
            path_points = np.column_stack([east, north, path_points[:, 2]])
        # Heights are metres in either case (RFC 7946, section 3.1.1).
        placed = np.nan_to_num(path_points, nan=np.inf) * (factor, factor, 1000.0)
        for a, b in pairwise(placed.tolist()):
            if a != b:
                edges.straight(a, b, layer)
    return edges.drawing(unit, True)


def _named_system(data: dict[str, Any]) -> str:
    system = data.get("crs")
    properties = system.get("properties") if isinstance(system, dict) else None
    return str(properties.get("name", "")) if isinstance(properties, dict) else ""


def _paths(data: Any, layer: str, depth: int, edges: Edges) -> Iterator[tuple[np.ndarray[Any, Any], str]]:
    """Yield the point rows (n, 3) of every line and ring, with their layers."""
    if depth > DEEPEST:
        raise Refused("The GeoJSON's collections are nested too deeply.", "file", "damaged")
    kind = data.get("type") if isinstance(data, dict) else None
    match kind:
        case "FeatureCollection" | "GeometryCollection":
            for part in _list(data.get("features" if kind == "FeatureCollection" else "geometries")):
                yield from _paths(part, layer, depth + 1, edges)
        case "Feature":
            properties = data.get("properties")
            named = properties if isinstance(properties, dict) else {}
            given = next((str(named[key]) for key in ("layer", "kind", "class", "name") if named.get(key)), "")
            if data.get("geometry") is not None:
                yield from _paths(data["geometry"], given, depth + 1, edges)
        case "LineString":
            yield _rows(data.get("coordinates")), layer or "lines"
        case "MultiLineString":
            for part in _list(data.get("coordinates")):
                yield _rows(part), layer or "lines"
        case "Polygon":
            for part in _list(data.get("coordinates")):
                yield _rows(part), layer or "polygons"
        case "MultiPolygon":
            for polygon in _list(data.get("coordinates")):
                for part in _list(polygon):
                    yield _rows(part), layer or "polygons"
        case "Point" | "MultiPoint":
            edges.unread["points"] += 1
        case _:
            raise Refused(f"The GeoJSON holds a geometry of an unknown type, {kind!r}.", "file", "not-geojson")


def _list(value: Any) -> list[Any]:
    if not isinstance(value, list):
        raise Refused("The GeoJSON is damaged: a list of coordinates is missing.", "file", "damaged")
    return value


def _rows(value: Any) -> np.ndarray[Any, Any]:
    rows = []
    for row in _list(value):
        if not isinstance(row, list) or len(row) < 2 or not all(isinstance(part, int | float) for part in row[:3]):
            raise Refused(f"The GeoJSON is damaged: {str(row)[:60]} is no position.", "file", "damaged")
        try:
            rows.append((float(row[0]), float(row[1]), float(row[2]) if len(row) > 2 else 0.0))
        except OverflowError as error:
            raise Refused(f"The GeoJSON is damaged: {str(row)[:60]} is no position.", "file", "coordinates") from error
    return np.array(rows, dtype=float).reshape(len(rows), 3)
