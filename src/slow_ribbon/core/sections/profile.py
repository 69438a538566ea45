"""What can be asked of an outline: extremes, area, centroid, length, a flattened copy.

Shapes are in mm, x to the right and y up as seen along travel; outer loops run anticlockwise, holes clockwise.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Final

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import CHORD_HEIGHT, Array, Indices
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.memo import kept_with
from slow_ribbon.core.kernel.tolerances import FLAT, NO_LENGTH
from slow_ribbon.core.sections.edges import Arc, Arcs, Curve, Edge, Loop, Straight, furthest_of
from slow_ribbon.core.sections.outline import ArcEdge, CurveEdge, Outline, check_closed, circle_through

#: Directions in which arcs are looked at together.
_DIRECTIONS: Final = 1000
#: Places on an edge where the greatest value is looked for first.
_LOOKS: Final = 13
_SHARES: Final = np.linspace(0.0, 1.0, _LOOKS)
#: How often the search for an extreme goes nearer, by four times each.
_NEARER: Final = 7


@dataclass(frozen=True)
class Flat:
    """A flattened shape for drawing.

    ``points`` (n, 2) are the polygon's vertices, loop after loop (``loop_sizes``), and after them any that lie inside; ``skin`` holds
    (m, 3) rows of (point index, normal x, normal y) as used for shading, and ``segments`` (s, 2)
    pairs of skin rows: neighbours share a row where the outline is smooth, not at an arris.
    ``triangles`` (t, 3) fill the shape, anticlockwise, using the points.
    """

    points: Array
    loop_sizes: tuple[int, ...]
    skin_points: Indices
    skin_normals: Array
    segments: Indices
    triangles: Indices

    @property
    def rim(self) -> int:
        """How many of the points lie on the outline."""
        return sum(self.loop_sizes)

    def finer(self) -> Flat:
        """Return the same shape with every side of it halved and every triangle cut into four, which puts points inside it."""
        rim = self.rim
        after = np.arange(1, rim + 1)
        ends = np.cumsum(self.loop_sizes)
        after[ends - 1] = ends - self.loop_sizes
        sides = np.concatenate([self.triangles[:, [0, 1]], self.triangles[:, [1, 2]], self.triangles[:, [2, 0]]])
        edges, edge_of = np.unique(np.sort(sides, axis=1), axis=0, return_inverse=True)
        # Which edges are sides of the outline, and from which of its points they go.
        first, second = edges[:, 0], edges[:, 1]
        on_rim = second < rim
        forward = on_rim & (after[np.minimum(first, rim - 1)] == second)
        backward = on_rim & ~forward & (after[np.minimum(second, rim - 1)] == first)
        outer = forward | backward
        middle = np.empty(len(edges), dtype=np.int64)
        middle[outer] = 2 * np.where(forward, first, second)[outer] + 1
        middle[~outer] = 2 * rim + (len(self.points) - rim) + np.arange(int((~outer).sum()))
        old = np.where(np.arange(len(self.points)) < rim, 2 * np.arange(len(self.points)), np.arange(len(self.points)) + rim)
        points = np.empty((len(self.points) + len(edges), 2))
        points[old] = self.points
        points[middle] = self.points[edges].mean(axis=1)
        ab, bc, ca = middle[edge_of.reshape(3, -1)]
        a, b, c = old[self.triangles].T
        four = [np.stack(corners, axis=1) for corners in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))]
        from_rows, to_rows = self.segments.T
        between = len(self.skin_points) + np.arange(len(self.segments))
        normals = self.skin_normals[from_rows] + self.skin_normals[to_rows]
        return Flat(
            points=points,
            loop_sizes=tuple(2 * size for size in self.loop_sizes),
            skin_points=np.concatenate([2 * self.skin_points, 2 * self.skin_points[from_rows] + 1]),
            skin_normals=np.concatenate([self.skin_normals, normals / np.hypot(*normals.T)[:, None]]),
            segments=np.concatenate([np.stack([from_rows, between], axis=1), np.stack([between, to_rows], axis=1)]),
            triangles=np.concatenate(four),
        )


@dataclass(frozen=True)
class Shape:
    """An outer loop (anticlockwise) and holes (clockwise)."""

    loops: tuple[Loop, ...]

    @cached_property
    def area(self) -> float:
        """Area in mm², exact."""
        return sum(edge.area() for loop in self.loops for edge in loop)

    @cached_property
    def centroid(self) -> Array:
        """Centroid (2,), exact to rounding: ∬p dA = ⅓∮ p (x dy − y dx), by Green's theorem."""
        points, rates = self.quadrature
        spin = points[:, 0] * rates[:, 1] - points[:, 1] * rates[:, 0]
        return np.asarray(spin @ points) / 3 / self.area

    @cached_property
    def quadrature(self) -> tuple[Array, Array]:
        """Places (n, 2) along all edges and p′ there times their weights (n, 2), see ``Edge.quadrature``."""
        parts = [edge.quadrature() for loop in self.loops for edge in loop]
        return np.concatenate([part[0] for part in parts]), np.concatenate([part[1] for part in parts])

    @cached_property
    def perimeter(self) -> float:
        """Length round the outer loop in mm."""
        return sum(edge.length() for edge in self.loops[0])

    def furthest(self, directions: Array) -> Array:
        """Return max p·d over the shape for each of directions (k, 2); shape (k,).

        Holes lie inside, so only the outer loop counts.
        """
        best = np.max(directions @ self._corners, axis=1)
        if self._arcs is not None:
            # Some at a time: many arcs in many directions are many numbers.
            for some in range(0, len(best), _DIRECTIONS):
                part = slice(some, some + _DIRECTIONS)
                best[part] = np.maximum(best[part], self._arcs.furthest(directions[part]))
        if self._curves:
            for some in range(0, len(best), _DIRECTIONS):
                part = slice(some, some + _DIRECTIONS)
                best[part] = np.maximum(best[part], furthest_of(self._curves, directions[part]))
        return np.asarray(best)

    @cached_property
    def _corners(self) -> Array:
        return np.array([edge.end for edge in self.loops[0]]).T

    @cached_property
    def _arcs(self) -> Arcs | None:
        arcs = [edge for edge in self.loops[0] if isinstance(edge, Arc)]
        return Arcs.of(arcs) if arcs else None

    @cached_property
    def _curves(self) -> list[Curve]:
        return [edge for edge in self.loops[0] if isinstance(edge, Curve)]

    @cached_property
    def _looks(self) -> Array:
        return np.concatenate([edge.at_shares(_SHARES) for edge in self.loops[0]])

    def extremes(self, value: Callable[[Array], Array]) -> tuple[float, float]:
        """Return the least and the greatest value over the outer loop of a function of points (n, 2), smooth along each edge.

        Every edge is looked at in many places, and where a value comes near the extreme nearer and
        nearer: to 1e-5 of the edge, so that an extreme between the ends of an edge is true to 1e-10 of its bulge.
        """
        edges = self.loops[0]
        looks = value(self._looks).reshape(len(edges), -1)
        low, high = float(looks.min()), float(looks.max())
        spread = high - low
        if spread < NO_LENGTH:
            return low, high
        # Only next to a look that comes near an extreme can there be a further one: (edge, sense, from, to).
        near = [
            (number, sense)
            for sense in (1, -1)
            for number in np.flatnonzero((sense * looks).max(axis=1) > max(sense * low, sense * high) - 0.05 * spread).tolist()
        ]
        tops = [int(np.argmax(sense * looks[number])) for number, sense in near]
        bounds = np.array([(_SHARES[max(top - 1, 0)], _SHARES[min(top + 1, _LOOKS - 1)]) for top in tops])
        senses = np.array([sense for _, sense in near])[:, None]
        for _ in range(_NEARER):
            here = bounds[:, :1] + (bounds[:, 1:] - bounds[:, :1]) * np.linspace(0.0, 1.0, 9)
            points = np.concatenate([edges[number].at_shares(row) for (number, _), row in zip(near, here, strict=True)])
            values = value(points).reshape(here.shape)
            low, high = min(low, float(values.min())), max(high, float(values.max()))
            top = np.argmax(senses * values, axis=1)
            rows = np.arange(len(near))
            bounds = np.stack([here[rows, np.maximum(top - 1, 0)], here[rows, np.minimum(top + 1, 8)]], axis=1)
        return low, high

    @cached_property
    def box(self) -> tuple[float, float, float, float]:
        """Least x, least y, greatest x, greatest y; true extremes of curves included."""
        reach = self.furthest(np.array([[-1.0, 0], [0, -1], [1, 0], [0, 1]]))
        return -float(reach[0]), -float(reach[1]), float(reach[2]), float(reach[3])

    def mapped(self, matrix: Array, shift: Array) -> Shape:
        """Return the shape under p → matrix·p + shift; a mirroring keeps outer loops anticlockwise."""
        loops = tuple(tuple(edge.mapped(matrix, shift) for edge in loop) for loop in self.loops)
        if float(np.linalg.det(matrix)) < 0:
            loops = tuple(_reversed(loop) for loop in loops)
        return Shape(loops)

    def flat(self, chord_height: float = CHORD_HEIGHT) -> Flat:
        """Return the flattened shape, every chord within ``chord_height`` mm of its arc; made once."""
        if chord_height not in self._flats:
            self._flats[chord_height] = _flatten(self.loops, chord_height)
        return self._flats[chord_height]

    @cached_property
    def _flats(self) -> dict[float, Flat]:
        return {}

    def polygon(self, chord_height: float = CHORD_HEIGHT) -> shapely.Polygon:
        """Return the flattened shape as a shapely polygon."""
        rings = [_ring(loop, chord_height) for loop in self.loops]
        return shapely.Polygon(rings[0], rings[1:])


def loop_of(outline: Outline) -> Loop:
    """Return the edges of a closed outline in its own direction. Raises ``Refused`` if it is open."""
    check_closed(outline)
    points = [outline.start, *(edge.to for edge in outline.edges)]
    points[-1] = outline.start
    edges: list[Edge] = []
    for index, edge in enumerate(outline.edges):
        begin, end = points[index], points[index + 1]
        if isinstance(edge, ArcEdge):
            edges.append(_arc(begin, edge.via, end))
        elif isinstance(edge, CurveEdge):
            edges.append(Curve(np.array([begin, *edge.controls, end], dtype=float)))
        else:
            edges.append(Straight(np.array(begin, dtype=float), np.array(end, dtype=float)))
    return tuple(edges)


def _arc(begin: Sequence[float], via: Sequence[float], end: Sequence[float]) -> Arc:
    found = circle_through((begin[0], begin[1]), (via[0], via[1]), (end[0], end[1]))
    assert found is not None  # check_closed has looked
    x, y, radius = found
    first, middle, last = (math.atan2(p[1] - y, p[0] - x) for p in (begin, via, end))
    turn = (last - first) % (2 * math.pi)
    if (middle - first) % (2 * math.pi) > turn:
        turn -= 2 * math.pi
    return Arc(np.array([x, y]), np.array([radius, 0.0]), np.array([0.0, radius]), first, first + turn)


def _reversed(loop: Loop) -> Loop:
    return tuple(edge.reversed() for edge in reversed(loop))


def _oriented(loop: Loop, anticlockwise: bool) -> Loop:
    return loop if (sum(edge.area() for edge in loop) > 0) == anticlockwise else _reversed(loop)


def shape_of(outline: Outline, holes: Sequence[Outline] = ()) -> Shape:
    """Return the shape of an outline with holes, validated.

    Raises ``Refused`` with the place where an outline is open, has no area, crosses itself,
    or where a hole is not inside the outline or meets another hole.
    """
    outer = _oriented(loop_of(outline), True)
    inner = tuple(_oriented(loop_of(hole), False) for hole in holes)
    for where, loop in [("outline", outer), *((f"holes.{i}", loop) for i, loop in enumerate(inner))]:
        _check_simple(loop, where)
    shape = Shape((outer, *inner))
    if not inner:
        return shape
    left, low, right, high = shape.box
    fine = max(right - left, high - low) / 5000
    outside = shapely.Polygon(_ring(outer, fine))
    regions = [shapely.Polygon(_ring(loop, fine)) for loop in inner]
    for index, region in enumerate(regions):
        if not outside.contains_properly(region):
            raise Refused(
                f"Hole {index + 1} is not wholly inside the outline: move it or make it smaller.", f"holes.{index}", "hole-outside"
            )
        for other in range(index):
            if region.intersects(regions[other]):
                raise Refused(
                    f"Holes {other + 1} and {index + 1} meet: join them into one or move them apart.", f"holes.{index}", "holes-meet"
                )
    return shape


@kept_with
def outline_shape(outline: Outline) -> Shape:
    """Return the shape of an outline without holes, worked out once. Raises as ``shape_of``."""
    return shape_of(outline)


def _check_simple(loop: Loop, where: str) -> None:
    size = max(float(np.max(np.abs(edge.end - loop[0].begin))) for edge in loop) or 1.0
    points = _ring(loop, size / 5000)
    if len(points) < 3:
        raise Refused("The outline encloses no area: it needs a width and a height.", where, "outline-flat")
    ring = shapely.LinearRing(points)
    if not ring.is_simple:
        crossing = _crossing(ring)
        at = f" at ({crossing[0]:.1f}, {crossing[1]:.1f})" if crossing else ""
        raise Refused(f"The outline crosses or touches itself{at}: move the edges apart there.", where, "outline-crosses")
    if abs(sum(edge.area() for edge in loop)) < 1e-3:
        raise Refused("The outline encloses no area: it needs a width and a height.", where, "outline-flat")


def _crossing(ring: shapely.LinearRing) -> tuple[float, float] | None:
    """Return where a ring first crosses or touches itself."""
    points = shapely.get_coordinates(ring)
    sides: Any = shapely.linestrings(np.stack([points[:-1], points[1:]], axis=1))
    tree = shapely.STRtree(sides)
    first, second = tree.query(sides, predicate="intersects")
    count = len(sides)
    for a, b in zip(first, second, strict=True):
        if a < b and (b - a) % (count - 1) > 1:
            point = shapely.get_coordinates(shapely.intersection(sides[a], sides[b]))
            if len(point):
                return float(point[0, 0]), float(point[0, 1])
    return None


def _ring(loop: Loop, chord_height: float) -> Array:
    return np.concatenate([edge.flattened(chord_height)[0][:-1] for edge in loop])


def _flatten(loops: tuple[Loop, ...], chord_height: float) -> Flat:
    points: list[Array] = []
    skin_points: list[int] = []
    skin_normals: list[Array] = []
    segments: list[tuple[int, int]] = []
    sizes: list[int] = []
    base = 0
    for loop in loops:
        runs = [edge.flattened(chord_height) for edge in loop]
        size = sum(len(run[0]) - 1 for run in runs)
        at, first_row = 0, len(skin_points)
        for run_points, tangents in runs:
            normals = np.stack([tangents[:, 1], -tangents[:, 0]], axis=1)
            points.extend(run_points[:-1])
            for index in range(len(run_points)):
                smooth = index > 0 or (at > 0 and float(np.abs(skin_normals[-1] - normals[0]).max()) < FLAT)
                if index == 0 and smooth:
                    continue
                skin_points.append(base + (at + index) % size)
                skin_normals.append(normals[index])
                if index > 0:
                    segments.append((len(skin_points) - 2, len(skin_points) - 1))
            at += len(run_points) - 1
        # The loop's last row is its first again where the outline is smooth there.
        if float(np.abs(skin_normals[-1] - skin_normals[first_row]).max()) < FLAT:
            skin_points.pop()
            skin_normals.pop()
            segments[-1] = (segments[-1][0], first_row)
        sizes.append(size)
        base += size
    vertices = np.array(points)
    return Flat(
        points=vertices,
        loop_sizes=tuple(sizes),
        skin_points=np.array(skin_points, dtype=np.int64),
        skin_normals=np.array(skin_normals),
        segments=np.array(segments, dtype=np.int64),
        triangles=_triangulated(vertices, sizes),
    )


def _triangulated(points: Array, sizes: Sequence[int]) -> Indices:
    """Return triangles (t, 3) that fill the rings, using their vertices and no others."""
    ends = np.cumsum(sizes)
    rings = [points[end - size : end] for size, end in zip(sizes, ends, strict=True)]
    filled = shapely.constrained_delaunay_triangles(shapely.Polygon(rings[0], rings[1:]))
    corners = shapely.get_coordinates(filled).reshape(-1, 4, 2)[:, :3]
    index_of = {(float(x), float(y)): i for i, (x, y) in enumerate(points)}
    triangles = np.array([[index_of[(float(x), float(y))] for x, y in triangle] for triangle in corners], dtype=np.int64)
    a, b, c = (points[triangles[:, i]] for i in range(3))
    clockwise = (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0] < 0
    triangles[clockwise] = triangles[clockwise][:, ::-1]
    return triangles
