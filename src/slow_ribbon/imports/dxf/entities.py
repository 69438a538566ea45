"""The edges of the entities of a DXF drawing: lines, arcs, ellipses, splines, polylines, hatches, meshes and blocks."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, cast

import numpy as np
from ezdxf.entities.boundary_paths import EdgePath, PolylinePath
from ezdxf.entities.circle import Circle
from ezdxf.entities.dxfentity import DXFEntity
from ezdxf.entities.ellipse import Ellipse
from ezdxf.entities.hatch import Hatch
from ezdxf.entities.insert import Insert
from ezdxf.entities.line import Line
from ezdxf.entities.lwpolyline import LWPolyline
from ezdxf.entities.mesh import Mesh
from ezdxf.entities.polyline import Polyface, Polyline
from ezdxf.entities.solid import Face3d
from ezdxf.entities.spline import Spline
from ezdxf.lldxf.encoding import decode_dxf_unicode
from ezdxf.math import Matrix44, Vec3
from ezdxf.render import MeshBuilder
from scipy.interpolate import BSpline

from slow_ribbon.core.kernel import NO_LEAN, ROUNDING, WELD, Refused
from slow_ribbon.core.lines import PassPoint, ThroughLeg, spline_leg
from slow_ribbon.imports.conics import conic
from slow_ribbon.imports.dxf.plain_lines import PlainLines
from slow_ribbon.imports.edges import Edges

#: Blocks inside blocks deeper than this are a mistake or a trap.
DEEPEST = 24


#: Flag of a POLYLINE's vertex that only frames a spline (DXF reference, VERTEX group code 70).
SPLINE_FRAME = 16


@dataclass(frozen=True)
class BlockPlacement:
    """Where content lies: the matrix to the drawing in mm, the layer it inherits, how many blocks deep it is, the handles of these."""

    matrix: Matrix44
    layer: str
    depth: int
    key: str = ""

    def points(self, points: Iterable[Vec3]) -> list[Vec3]:
        return list(self.matrix.transform_vertices(points))

    def directions(self, *vectors: Vec3) -> list[Vec3]:
        return [self.matrix.transform_direction(vector) for vector in vectors]


class EntityReading:
    """Edges met so far, with what was left unread."""

    def __init__(self) -> None:
        self.edges = Edges()
        #: Layers as they are written, by their names without regard to case, in which DXF makes no difference.
        self.layers: dict[str, str] = {}
        self.elsewhere: set[str] = set()
        #: Blocks that hold themselves, by their names without regard to case.
        self.endless: set[str] = set()
        self.written: dict[bytes, str] = {}

    def entity(self, entity: DXFEntity, place: BlockPlacement) -> None:
        kind = entity.dxftype()
        self.edges.key = f"{place.key}{entity.dxf.get('handle') or ''}"
        if entity.dxf.get("invisible", 0):
            self.edges.unread["invisible entities"] += 1
            return
        layer = name_of(entity.dxf.get("layer", "0"))
        if layer == "0" and place.depth:
            layer = place.layer
        layer = self.layers.setdefault(layer.casefold(), layer)
        if isinstance(entity, Line):
            begin, end = place.points([entity.dxf.start, entity.dxf.end])
            self.straight(begin, end, layer)
        elif isinstance(entity, Circle):
            self.circle(entity, layer, place)
        elif isinstance(entity, Ellipse):
            major = Vec3(entity.dxf.major_axis)
            first, last = float(entity.dxf.start_param), float(entity.dxf.end_param)
            self.conic(Vec3(entity.dxf.center), major, Vec3(entity.minor_axis), first, _after(first, last), layer, place)
        elif isinstance(entity, Spline):
            self.spline(entity, layer, place)
        elif isinstance(entity, LWPolyline):
            bulges = [float(row[0]) for row in entity.get_points("b")]
            self.polyline(list(entity.vertices_in_wcs()), bulges, bool(entity.closed), _up(entity), layer, place)
        elif isinstance(entity, Polyline) and (entity.is_2d_polyline or entity.is_3d_polyline):
            kept = [index for index, vertex in enumerate(entity.vertices) if not vertex.dxf.flags & SPLINE_FRAME]
            points = list(entity.points_in_wcs())
            bulges = [float(entity.vertices[index].dxf.get("bulge", 0.0)) for index in kept]
            self.polyline([points[index] for index in kept], bulges, bool(entity.is_closed), _up(entity), layer, place)
        elif isinstance(entity, Polyline | Mesh | Face3d):
            self.faces(entity, layer, place)
        elif isinstance(entity, Hatch):
            self.hatch(entity, layer, place)
        elif isinstance(entity, Insert):
            self.insert(entity, layer, place)
        else:
            self.edges.unread[f"{kind.lower().replace('_', ' ')} entities"] += 1

    def plain(self, lines: PlainLines, encoding: str, factor: float) -> None:
        ends = lines.places()
        long = (ends[:, 0] != ends[:, 1]).any(axis=1)
        layers = [self.named(name, encoding) for name in lines.names]
        handles = lines.handles if long.all() else [handle for handle, has in zip(lines.handles, long.tolist(), strict=True) if has]
        self.edges.straights(ends[long] * factor, layers, np.array(lines.layer, dtype=np.int64)[long], handles)

    def named(self, name: bytes, encoding: str) -> str:
        found = self.written.get(name)
        if found is None:
            text = decode_dxf_unicode(name.decode(encoding, "surrogateescape"))
            found = self.written[name] = self.layers.setdefault(text.casefold(), text)
        return found

    def straight(self, begin: Vec3, end: Vec3, layer: str) -> None:
        if begin != end:
            self.edges.straight(begin.xyz, end.xyz, layer)

    def circle(self, entity: Circle, layer: str, place: BlockPlacement) -> None:
        ocs, radius = entity.ocs(), float(entity.dxf.radius)
        centre = ocs.to_wcs(Vec3(entity.dxf.center))
        u, v = ocs.to_wcs(Vec3(radius, 0, 0)), ocs.to_wcs(Vec3(0, radius, 0))
        first, last = 0.0, 2 * math.pi
        if entity.dxftype() == "ARC":
            first = math.radians(float(entity.dxf.start_angle))
            last = _after(first, math.radians(float(entity.dxf.end_angle)))
        self.conic(centre, u, v, first, last, layer, place)

    def conic(self, centre: Vec3, u: Vec3, v: Vec3, first: float, last: float, layer: str, place: BlockPlacement) -> None:
        (at,) = place.points([centre])
        along, across = place.directions(u, v)
        begin, legs = conic(at.xyz, along.xyz, across.xyz, first, last)
        for leg in legs:
            self.edges.curve(begin, leg, layer)
            begin = leg.to

    def spline(self, entity: Spline, layer: str, place: BlockPlacement) -> None:
        controls = [Vec3(point) for point in entity.control_points]
        if len(controls) > 1:
            knots, weights = list(entity.knots), list(entity.weights)
            self.bspline(controls, [float(knot) for knot in knots], int(entity.dxf.degree), [float(w) for w in weights], layer, place)
            return
        points = place.points([Vec3(point) for point in entity.fit_points])
        # Where two neighbours are equal the curve has no direction between them.
        points = [point for index, point in enumerate(points) if index == 0 or point.distance(points[index - 1]) > WELD]
        if len(points) < 2:
            self.edges.unread["splines without points"] += 1
            return
        ends = [entity.dxf.get(name) for name in ("start_tangent", "end_tangent")]
        begin, end = [None if one is None or Vec3(one).is_null else place.directions(Vec3(one))[0].xyz for one in ends]
        leg = ThroughLeg(to=points[-1].xyz, points=tuple(PassPoint(at=point.xyz) for point in points[1:-1]), begin=begin, end=end)
        self.edges.curve(points[0].xyz, leg, layer)

    def bspline(
        self, controls: list[Vec3], knots: list[float], degree: int, weights: list[float], layer: str, place: BlockPlacement
    ) -> None:
        points = np.array([point.xyz for point in place.points(controls)])
        if len(knots) != len(points) + degree + 1 or degree < 1 or len(points) <= degree or (np.diff(knots) < 0).any():
            self.edges.unread["splines with wrong knots"] += 1
            return
        if weights and len(weights) == len(points) and min(weights) > 0 and len(set(weights)) > 1:
            points = np.column_stack([points * np.array(weights)[:, None], weights])
        curve = BSpline(np.array(knots), points, degree)
        first, last = float(curve.t[degree]), float(curve.t[-degree - 1])
        if last <= first:
            self.edges.unread["splines with wrong knots"] += 1
            return
        if degree == 1:
            corners = points[:, :3] / points[:, 3:] if points.shape[1] == 4 else points
            for a, b in pairwise(corners):
                self.straight(Vec3(a), Vec3(b), layer)
            return
        # Where a knot stands as often as the degree the curve may turn a corner: there it is taken apart, as every circle
        # and every chain of Bézier curves is that was written as one spline.
        inside = np.unique(curve.t[(curve.t > first) & (curve.t < last)])
        full = [float(knot) for knot in inside if int((curve.t == knot).sum()) >= degree]
        for low, high in pairwise([first, *full, last]):
            begin, leg = spline_leg(curve, low, high)
            self.edges.curve(begin, leg, layer)

    def polyline(self, vertices: Sequence[Vec3], bulges: list[float], closed: bool, up: Vec3, layer: str, place: BlockPlacement) -> None:
        count = len(vertices)
        for index in range(count if closed else count - 1):
            begin, end = vertices[index], vertices[(index + 1) % count]
            if begin == end:
                continue
            if abs(bulges[index]) > NO_LEAN:
                self.bulge(begin, end, bulges[index], up, layer, place)
            else:
                first, last = place.points([begin, end])
                self.straight(first, last, layer)

    def faces(self, entity: Polyline | Mesh | Face3d, layer: str, place: BlockPlacement) -> None:
        """Take the edges of the faces of a mesh or of a single face, each once."""
        if isinstance(entity, Face3d):
            corners = list(entity.wcs_vertices())
            shown = entity.get_edges_visibility()
            sides = [(corners[i], corners[(i + 1) % len(corners)]) for i in range(len(corners)) if shown[i]]
        else:
            mesh = MeshBuilder.from_polyface(cast("Polyface", entity)) if isinstance(entity, Polyline) else MeshBuilder.from_mesh(entity)
            # Where faces meet each may have a corner of its own.
            corner = {place: index for index, place in reversed(list(enumerate(point.xyz for point in mesh.vertices)))}
            faces = [[corner[mesh.vertices[index].xyz] for index in face] for face in mesh.faces]
            pairs = dict.fromkeys(
                (min(a, b), max(a, b)) for face in faces for a, b in zip(face, (*face[1:], face[0]), strict=True) if a != b
            )
            sides = [(mesh.vertices[a], mesh.vertices[b]) for a, b in pairs]
        for side in sides:
            begin, end = place.points(side)
            self.straight(begin, end, layer)

    def bulge(self, begin: Vec3, end: Vec3, bulge: float, up: Vec3, layer: str, place: BlockPlacement) -> None:
        """Take an arc by its bulge: the tangent of a quarter of its angle, positive anticlockwise about ``up``."""
        chord = end - begin
        size, angle = chord.magnitude, 4 * math.atan(bulge)
        right = chord.cross(up).normalize()
        # From the chord's middle the centre lies across by half the chord over the tangent of half the angle.
        centre = begin + chord / 2 - right * (size / 2 / math.tan(angle / 2))
        u = begin - centre
        self.conic(centre, u, up.normalize().cross(u), 0.0, angle, layer, place)

    def hatch(self, hatch: Hatch, layer: str, place: BlockPlacement) -> None:
        ocs = hatch.ocs()
        height = float(Vec3(hatch.dxf.get("elevation", (0, 0, 0))).z)
        up = ocs.to_wcs(Vec3(0, 0, 1))

        def lifted(x: float, y: float) -> Vec3:
            return Vec3(ocs.to_wcs(Vec3(x, y, height)))

        for path in hatch.paths.paths:
            if isinstance(path, PolylinePath):
                corners = [lifted(x, y) for x, y, _ in path.vertices]
                self.polyline(corners, [float(bulge) for _, _, bulge in path.vertices], bool(path.is_closed), up, layer, place)
                continue
            for edge in cast("EdgePath", path).edges:
                self.hatch_edge(edge, lifted, ocs, layer, place)

    def hatch_edge(self, edge: Any, lift: Callable[[float, float], Vec3], ocs: Any, layer: str, place: BlockPlacement) -> None:
        to_wcs = ocs.to_wcs
        kind = type(edge).__name__
        if kind == "LineEdge":
            begin, end = place.points([lift(*edge.start), lift(*edge.end)])
            self.straight(begin, end, layer)
        elif kind == "ArcEdge":
            radius = edge.radius
            first = math.radians(edge.start_angle)
            last = _after(first, math.radians(edge.end_angle))
            u, v = to_wcs(Vec3(radius, 0, 0)), to_wcs(Vec3(0, radius, 0))
            self.conic(lift(*edge.center), u, v, first, last, layer, place)
        elif kind == "EllipseEdge":
            major = Vec3(edge.major_axis)
            minor = Vec3(-major.y, major.x) * edge.ratio
            first = float(edge.start_param)
            last = _after(first, float(edge.end_param))
            self.conic(lift(*edge.center), to_wcs(major), to_wcs(minor), first, last, layer, place)
        elif kind == "SplineEdge":
            controls = [lift(x, y) for x, y in edge.control_points]
            knots = [float(knot) for knot in edge.knot_values]
            self.bspline(controls, knots, int(edge.degree), [float(w) for w in edge.weights], layer, place)
        else:
            self.edges.unread["hatch edges"] += 1

    def insert(self, insert: Insert, layer: str, place: BlockPlacement) -> None:
        name = str(insert.dxf.name).casefold()
        if name in self.endless:
            self.edges.unread["inserts of blocks that hold themselves"] += 1
            return
        if place.depth >= DEEPEST:
            raise Refused(f"Block {insert.dxf.name} lies more than {DEEPEST} blocks deep.", "file", "block-depth")
        block = insert.block()
        if block is None:
            self.edges.unread["inserts of blocks that are not in the file"] += 1
            return
        if block.block is not None and (block.block.is_xref or block.block.is_xref_overlay):
            self.edges.unread["external references"] += 1
            self.elsewhere.add(str(block.block.dxf.get("xref_path", "")) or str(insert.dxf.name))
            return
        singles: Iterable[Insert] = insert.multi_insert() if insert.mcount > 1 else (insert,)
        for single in singles:
            # The matrices are multiplied rather than each insert re-expressed by angles and
            # scales, which cannot say every turned insert in an unevenly scaled one.
            inner = BlockPlacement(
                single.matrix44() @ place.matrix, layer, place.depth + 1, f"{place.key}{insert.dxf.get('handle') or ''}/"
            )
            for part in block:
                self.entity(part, inner)


def _after(first: float, last: float) -> float:
    """Return an angle as reached going round anticlockwise from ``first``; the same angle is a whole turn."""
    turn = (last - first) % (2 * math.pi)
    return first + (turn if turn > ROUNDING else 2 * math.pi)


def _up(entity: DXFEntity) -> Vec3:
    return Vec3(entity.dxf.get("extrusion", (0, 0, 1)))


def name_of(written: Any) -> str:
    r"""Return a layer's name: what an encoding has no letter for is written as \U+58C1, which ezdxf leaves so in binary files."""
    return str(decode_dxf_unicode(str(written)))
