"""GeoJSON (RFC 7946, and the older GJ2008 with a named coordinate system): lines and polygons, each feature by itself.

Degrees of any datum are projected about the middle of the data (transverse Mercator on the
datum's own ellipsoid, true to scale there), with pyproj. Projected systems are taken in their own
unit; one whose scale strays far from one there, as web mercator's does, is brought back to
degrees and projected again. Without a system, what can only be degrees or only lengths is taken
so, and what can be either is asked about.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Any, Final

import numpy as np
import pyproj
from pyproj.exceptions import CRSError, ProjError

from slow_ribbon.core.kernel import Array, Refused
from slow_ribbon.imports.drawing import Drawing, Question
from slow_ribbon.imports.edges import Edges, reason
from slow_ribbon.imports.options import UNIT_NAMES, UNITS, Options
from slow_ribbon.imports.progress import in_shares

#: Collections nested deeper than this are a mistake or a trap.
DEEPEST: Final = 30
#: Degrees across, above which data of a building or a site can be no degrees (some 50 km).
_WIDE: Final = 0.5
#: A projected system whose scale strays further from one is not taken as it is.
_STRAYS: Final = 2e-3
#: The ellipsoid of degrees without a system: WGS 84 (RFC 7946, section 4).
_WGS84: Final = pyproj.CRS("OGC:CRS84")


@dataclass(frozen=True)
class _Way:
    """How coordinates become millimetres: by a projection, or by a factor; and the note that says so."""

    unit: str
    known: bool
    factor: float
    note: str
    projection: pyproj.Proj | None = None
    inverse: pyproj.Proj | None = None
    to_degrees: float = 1.0
    west: float = 0.0

    def placed(self, points: Array) -> Array:
        """Return points (n, 3) in mm. Heights are metres (RFC 7946, section 3.1.1), or in the unit that was said."""
        x, y = points[:, 0], points[:, 1]
        if self.inverse is not None:
            x, y = self.inverse(x, y, inverse=True)
        if self.projection is not None:
            x, y = self.projection(_unwrapped(np.asarray(x) * self.to_degrees, self.west), np.asarray(y) * self.to_degrees)
        flat = np.column_stack([x, y]) * self.factor
        return np.column_stack([flat, points[:, 2] * 1000.0])


def read_geojson(path: Path, options: Options) -> Drawing:
    """Return the edges of a GeoJSON file, in mm. Raises ``Refused`` if it is not one or holds wrong coordinates."""
    try:
        data = json.loads(path.read_bytes())
    except (ValueError, RecursionError) as error:
        raise Refused(f"This is not GeoJSON: it is not valid JSON ({reason(error)}).", "file", "damaged") from error
    if not isinstance(data, dict) or not isinstance(data.get("type"), str):
        raise Refused('This is not GeoJSON: it has no "type".', "file", "not-geojson")
    if data["type"] == "Topology":
        data = _from_topology(data)
    edges = Edges()
    paths = list(_paths(data, "", 0, edges))
    if not paths:
        return edges.drawing("metres", True)
    points = np.concatenate([points for points, _, _ in paths])
    named = _named_system(data)
    if not named and options.degrees is None and options.unit is None and (asked := _either(points)) is not None:
        edges.question = asked
        return edges.drawing("metres", False)
    way = _way(points, named, options)
    edges.notes.append(way.note)
    for path_points, layer, feature in in_shares(paths, 0.4):
        edges.part = feature
        placed = np.nan_to_num(way.placed(path_points), nan=np.inf)
        for a, b in pairwise(placed.tolist()):
            if a != b:
                edges.straight(a, b, layer)
    return edges.drawing(way.unit, way.known)


def _from_topology(data: dict[str, Any]) -> dict[str, Any]:
    """Return a TopoJSON file as GeoJSON: its arcs, delta-encoded where it has a transform, put where its objects name them.

    After M. Bostock and C. Metcalf, "The TopoJSON Format Specification" (2013).
    """
    try:
        transform = data.get("transform") or {}
        scale, move = (np.array(transform.get(name, usual), dtype=float) for name, usual in (("scale", (1, 1)), ("translate", (0, 0))))
        arcs = []
        for arc in data.get("arcs", ()):
            rows = np.array([row[:2] for row in arc], dtype=float)
            arcs.append((np.cumsum(rows, axis=0) * scale + move if data.get("transform") else rows).tolist())

        def line(numbers: list[int]) -> list[list[float]]:
            found: list[list[float]] = []
            for number in numbers:
                part = arcs[number] if number >= 0 else arcs[~number][::-1]
                found += part[1:] if found else part
            return found

        def nested(value: Any, depth: int) -> Any:
            return line(value) if depth == 0 else [nested(one, depth - 1) for one in value]

        deep = {"LineString": 0, "MultiLineString": 1, "Polygon": 1, "MultiPolygon": 2}

        def feature(thing: dict[str, Any], name: str) -> dict[str, Any]:
            kind = thing.get("type")
            if kind == "GeometryCollection":
                parts = [feature(one, name) for one in thing["geometries"]]
                return {"type": "FeatureCollection", "features": parts}
            geometry = {"type": kind, "coordinates": nested(thing["arcs"], deep[str(kind)])} if kind in deep else thing if kind else None
            return {"type": "Feature", "properties": {"layer": name, **(thing.get("properties") or {})}, "geometry": geometry}

        return {"type": "FeatureCollection", "features": [feature(thing, name) for name, thing in data["objects"].items()]}
    except (KeyError, TypeError, ValueError, IndexError, AttributeError) as error:
        raise Refused(f"The TopoJSON is damaged ({type(error).__name__}: {reason(error)}).", "file", "damaged") from error


def _either(points: Array) -> Question | None:
    """Return the question whether coordinates without a system are degrees or lengths, where they could be either."""
    x, y = points[:, 0], points[:, 1]
    if not (np.abs(x).max() <= 180 and np.abs(y).max() <= 90):
        return None
    across, along = float(np.ptp(_unwrapped(x, float(x[0])))), float(np.ptp(y))
    near_nought = bool(np.abs(points[:, :2]).max() < 1)
    if max(across, along) < _WIDE and not near_nought:
        return None
    wide = max(across * abs(np.cos(np.radians(float(np.mean(y))))), along) * 111_195
    as_degrees = f"{wide / 1000:,.0f} km" if wide > 10_000 else f"{wide:,.0f} m"
    return Question(
        f"The file does not say what its coordinates are. As degrees it is {as_degrees} across, as metres {max(across, along):.4g} m: "
        "say which, or another unit.",
        "file",
        "coordinates-unknown",
    )


def _way(points: Array, named: str, options: Options) -> _Way:
    """Return how coordinates become millimetres: as the person says, as the file names, or as only they can be."""
    system = _system(named) if named else None
    degrees = options.degrees
    if degrees is None and options.unit is None:
        degrees = system.is_geographic if system is not None else bool((np.abs(points[:, :2]) <= (180, 90)).all()) and not named
    if degrees:
        geographic = system if system is not None and system.is_geographic else None
        angle = 1.0 if geographic is None else _degrees_of(geographic)
        return _projected(points, geographic or _WGS84, angle, None, "Its coordinates are degrees")
    if options.unit is not None:
        unit = UNIT_NAMES[options.unit]
        return _Way(unit, True, UNITS[options.unit], f"Its coordinates are taken as they are, in {unit}, as you said.")
    if system is None:
        message = f" The system it names, {named[:80]!r}, is not known here." if named else ""
        return _Way("metres", False, 1000.0, f"Its coordinates are taken as they are, in metres.{message}")
    if not system.is_projected:
        return _Way("metres", False, 1000.0, f"Its coordinates are taken as they are, in metres ({system.name}).")
    axis = system.axis_info[0]
    unit = "metres" if axis.unit_name == "metre" else axis.unit_name.replace("foot", "feet")
    projection = pyproj.Proj(system)
    middle = _middle(points)
    try:
        lon, lat = projection(*middle, inverse=True, errcheck=True)
        factors = projection.get_factors(lon, lat, errcheck=True)
        scale = float(np.sqrt(factors.meridional_scale * factors.parallel_scale))
    except ProjError:
        return _Way(unit, True, axis.unit_conversion_factor * 1000, f"Its coordinates are taken as they are, in {unit} ({system.name}).")
    if abs(scale - 1) > _STRAYS:
        message = f"Lengths in {system.name} are {scale:.3f} times those on the ground here. They are brought to their true size"
        geographic = system.geodetic_crs or _WGS84
        return _projected(points, geographic, 1.0, projection, message)
    off = f" Lengths in it are {scale:.5f} times those on the ground here." if abs(scale - 1) > 2e-5 else ""
    note = f"Its coordinates are taken as they are, in {unit} ({system.name}).{off}"
    return _Way(unit, True, axis.unit_conversion_factor * 1000, note)


def placed_on_the_ground(points: Array) -> _Way:
    """Return the way by which longitudes and latitudes, degrees, (n, 3) with heights in metres, become millimetres.

    Raises ``Refused`` for latitudes that cannot be.
    """
    return _projected(points, _WGS84, 1.0, None, "Its coordinates are degrees")


def _projected(points: Array, geographic: pyproj.CRS, to_degrees: float, inverse: pyproj.Proj | None, message: str) -> _Way:
    """Return the way of a transverse Mercator projection about the middle of degrees, on the ellipsoid of their datum."""
    x, y = points[:, 0], points[:, 1]
    if inverse is None and (beyond := np.flatnonzero(np.abs(y * to_degrees) > 90)).size:
        raise Refused(
            f"A latitude of {y[beyond[0]]:g} lies beyond 90°, at {len(beyond)} {'place' if len(beyond) == 1 else 'places'}. Longitude "
            "comes first and latitude second: exchange them, or take the coordinates as lengths (its unit).",
            "file",
            "latitude",
        )
    if inverse is not None:
        x, y = inverse(x, y, inverse=True)
    x, y = np.asarray(x) * to_degrees, np.asarray(y) * to_degrees
    west = float(x[np.isfinite(x)][0]) if np.isfinite(x).any() else 0.0
    lon, lat = _middle(np.column_stack([_unwrapped(x, west), y]))
    ellipsoid = geographic.ellipsoid
    shape = f"+a={ellipsoid.semi_major_metre} +b={ellipsoid.semi_minor_metre}" if ellipsoid is not None else "+ellps=WGS84"
    local = pyproj.Proj(f"+proj=tmerc +lat_0={lat:.9f} +lon_0={lon:.9f} +k=1 +x_0=0 +y_0=0 {shape} +units=m +no_defs")
    note = (
        f"{message}: projected to metres about {lat:.5f}, {lon:.5f} (transverse Mercator, true to scale there), which is the origin here."
    )
    return _Way("degrees" if inverse is None else "metres at true size", True, 1000.0, note, local, inverse, to_degrees, west)


def _middle(points: Array) -> tuple[float, float]:
    finite = points[np.isfinite(points[:, :2]).all(axis=1), :2]
    middle = (finite.min(axis=0) + finite.max(axis=0)) / 2 if len(finite) else np.zeros(2)
    return float(middle[0]), float(middle[1])


def _unwrapped(longitudes: Array, west: float) -> Array:
    """Return longitudes within half a turn of a first one, so that what crosses the antimeridian stays together."""
    return np.asarray(west + (longitudes - west + 180.0) % 360.0 - 180.0)


def _degrees_of(geographic: pyproj.CRS) -> float:
    """Return how many degrees the angles of a system are one of: some are in grads."""
    return float(np.degrees(geographic.axis_info[0].unit_conversion_factor))


def _system(named: str) -> pyproj.CRS | None:
    """Return a coordinate system by the name a file gives it; None where it is not known."""
    try:
        found = pyproj.CRS.from_user_input(named)
        return found.sub_crs_list[0] if found.is_compound else found
    except (CRSError, ValueError, IndexError):
        return None


def _named_system(data: dict[str, Any]) -> str:
    system = data.get("crs")
    properties = system.get("properties") if isinstance(system, dict) else None
    named = properties.get("name", properties.get("code", "")) if isinstance(properties, dict) else ""
    if isinstance(named, int):
        return f"EPSG:{named}"
    return named.strip() if isinstance(named, str) else ""


def _paths(data: Any, layer: str, depth: int, edges: Edges, feature: list[int] | None = None) -> Iterator[tuple[Array, str, int]]:
    """Yield the point rows (n, 3) of every line and ring, with their layers and the numbers of their features."""
    feature = [0] if feature is None else feature
    if depth > DEEPEST:
        raise Refused("The GeoJSON's collections are nested too deeply.", "file", "damaged")
    kind = data.get("type") if isinstance(data, dict) else None
    match kind:
        case "FeatureCollection" | "GeometryCollection":
            for part in _list(data.get("features" if kind == "FeatureCollection" else "geometries")):
                yield from _paths(part, layer, depth + 1, edges, feature)
        case "Feature":
            feature[0] += 1
            properties = data.get("properties")
            named = properties if isinstance(properties, dict) else {}
            given = next((str(named[key]) for key in ("layer", "kind", "class", "name") if named.get(key)), "")
            if data.get("geometry") is not None:
                yield from _paths(data["geometry"], given, depth + 1, edges, feature)
        case "LineString":
            yield _rows(data.get("coordinates")), layer or "lines", feature[0]
        case "MultiLineString":
            for part in _list(data.get("coordinates")):
                yield _rows(part), layer or "lines", feature[0]
        case "Polygon":
            for part in _list(data.get("coordinates")):
                yield _rows(part), layer or "polygons", feature[0]
        case "MultiPolygon":
            for polygon in _list(data.get("coordinates")):
                for part in _list(polygon):
                    yield _rows(part), layer or "polygons", feature[0]
        case "Point" | "MultiPoint":
            edges.unread["points"] += 1
        case _:
            raise Refused(f"The GeoJSON holds a geometry of an unknown type, {kind!r}.", "file", "not-geojson")


def _list(value: Any) -> list[Any]:
    if not isinstance(value, list):
        raise Refused("The GeoJSON is damaged: a list of coordinates is missing.", "file", "damaged")
    return value


def _rows(value: Any) -> Array:
    rows = []
    for row in _list(value):
        if not isinstance(row, list) or len(row) < 2 or not all(isinstance(part, int | float) for part in row[:3]):
            raise Refused(f"The GeoJSON is damaged: {str(row)[:60]} is no position.", "file", "damaged")
        try:
            rows.append((float(row[0]), float(row[1]), float(row[2]) if len(row) > 2 else 0.0))
        except OverflowError as error:
            raise Refused(f"The GeoJSON is damaged: {str(row)[:60]} is no position.", "file", "coordinates") from error
    return np.array(rows, dtype=float).reshape(len(rows), 3)
