"""Shapes: extremes, area, centroid, perimeter and flattened copies of an outline.

Shapes are in mm, x to the right and y up as seen along travel; outer loops run anticlockwise, holes clockwise.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import cached_property
from typing import Any, Final

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import CHORD_HEIGHT, Array, Indices
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point2
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.tolerances import FLAT, NO_LENGTH
from slow_ribbon.core.sections.edges.base import Loop
from slow_ribbon.core.sections.outline.edge_arrays import EdgeChords, Together
from slow_ribbon.core.sections.outline.height_profile import Face, face_of
from slow_ribbon.core.sections.outline.outline import Outline, check_closed, check_edges
from slow_ribbon.core.sections.outline.triangulation import FlatShape, levelled, triangulated

#: Places on an edge where the greatest value is looked for first.
_LOOKS: Final = 13
#: In this many ways at most a shape is kept as it was mapped.
_MAPPINGS: Final = 32
_SHARES: Final = np.linspace(0.0, 1.0, _LOOKS)
#: So often the triangles of a shape are halved for points all over it.
_FINER: Final = 3
#: How often the search for an extreme goes nearer, by four times each.
_NEARER: Final = 7


class Shape:
    """An outer loop (anticlockwise) and holes (clockwise)."""

    #: The shape that this one is mapped from, and how.
    _mapped_from: tuple[Shape, Array, Array]

    def __init__(self, loops: tuple[Loop, ...]) -> None:
        self.loops = loops

    @cached_property
    def loops(self) -> tuple[Loop, ...]:
        """The loops, each edge by itself; of a shape that was mapped not before someone asks."""
        shape, matrix, shift = self._mapped_from
        return tuple(tuple(edge.mapped(matrix, shift) for edge in loop) for loop in shape.loops)

    @cached_property
    def area(self) -> float:
        """Area in mm², exact."""
        return float(self.together.areas.sum())

    @cached_property
    def centroid(self) -> Array:
        """Centroid (2,), exact to rounding: ∬p dA = ⅓∮ p (x dy − y dx), by Green's theorem."""
        points, rates, _ = self.together.quadrature
        spin = points[:, 0] * rates[:, 1] - points[:, 1] * rates[:, 0]
        return np.asarray(spin @ points) / 3 / self.area

    @cached_property
    def together(self) -> Together:
        """All edges, loop after loop."""
        return Together.of([edge for loop in self.loops for edge in loop])

    @cached_property
    def starts(self) -> Indices:
        """The number of each loop's first edge among all, and how many there are, (l + 1,)."""
        return np.concatenate([[0], np.cumsum([len(loop) for loop in self.loops])])

    def chords(self, chord_height: float) -> EdgeChords:
        """Return all edges flattened, every chord within ``chord_height`` mm of its edge; made once."""
        if chord_height not in self._chords:
            self._chords[chord_height] = self.together.flattened(chord_height)
        return self._chords[chord_height]

    @cached_property
    def _chords(self) -> dict[float, EdgeChords]:
        return {}

    def rings(self, chord_height: float) -> list[Array]:
        """Return each loop flattened, its first point not again at its end."""
        chords = self.chords(chord_height)
        ends = np.append(chords.first, len(chords.points))[self.starts] - self.starts
        return np.split(chords.ring, ends[1:-1])

    @cached_property
    def perimeter(self) -> float:
        """Length round the outer loop in mm."""
        return float(self.together.lengths[: self.starts[1]].sum())

    def furthest(self, directions: Array) -> Array:
        """Return max p·d over the shape for each of directions (k, 2); shape (k,).

        Holes lie inside, so only the outer loop counts.
        """
        return self._outer.furthest(directions)

    @cached_property
    def _outer(self) -> Together:
        return self.together if len(self.starts) == 2 else self.together.part(np.arange(self.starts[1]))

    @cached_property
    def _looks(self) -> Array:
        count = int(self.starts[1])
        return self.together.at(np.repeat(np.arange(count), _LOOKS), np.tile(_SHARES, count))

    def extremes(self, value: Callable[[Array], Array]) -> tuple[float, float]:
        """Return the least and the greatest value over the outer loop of a function of points (n, 2), smooth along each edge.

        Every edge is looked at in many places, and where a value comes near the extreme nearer and
        nearer: to 1e-5 of the edge, so that an extreme between the ends of an edge is true to 1e-10 of its bulge.
        """
        looks = value(self._looks).reshape(-1, _LOOKS)
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
        numbers = np.repeat([number for number, _ in near], 9)
        for _ in range(_NEARER):
            here = bounds[:, :1] + (bounds[:, 1:] - bounds[:, :1]) * np.linspace(0.0, 1.0, 9)
            values = value(self.together.at(numbers, here.ravel())).reshape(here.shape)
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

    def mapped_once(self, matrix: Array, shift: Array) -> Shape:
        """Return the shape as ``mapped`` does, the same one where it was mapped so before: runs that lie alike share it."""
        key = matrix.tobytes() + shift.tobytes()
        known = self._mappings.get(key)
        if known is None:
            known = self.mapped(matrix, shift)
            if len(self._mappings) >= _MAPPINGS:
                self._mappings.clear()
            self._mappings[key] = known
        return known

    @cached_property
    def _mappings(self) -> dict[bytes, Shape]:
        return {}

    def mapped(self, matrix: Array, shift: Array) -> Shape:
        """Return the shape under p → matrix·p + shift; a mirroring keeps outer loops anticlockwise."""
        found = Shape.__new__(Shape)
        found._mapped_from = (self, matrix, shift)
        if float(np.linalg.det(matrix)) < 0:
            return Shape(tuple(_reversed(loop) for loop in found.loops))
        # What is known of all edges together is mapped at once, instead of being gathered from them again.
        found.together = self.together.mapped(matrix, shift)
        found.starts = self.starts
        return found

    def flat(self, chord_height: float = CHORD_HEIGHT) -> FlatShape:
        """Return the flattened shape, every chord within ``chord_height`` mm of its arc; made once."""
        if chord_height not in self._flats:
            self._flats[chord_height] = _flatten(self, chord_height)
        return self._flats[chord_height]

    @cached_property
    def _flats(self) -> dict[float, FlatShape]:
        return {}

    @cached_property
    def spread(self) -> Array:
        """Points (n, 2) all over the shape, for what bends everywhere: corners of its triangles halved again and again."""
        if "_mapped_from" in self.__dict__:
            shape, matrix, shift = self._mapped_from
            return np.asarray(shape.spread @ matrix.T + shift)
        flat = self.flat()
        for _ in range(_FINER):
            flat = flat.finer()
        return flat.points

    def outer_ring(self, chord_height: float) -> Array:
        """Return the outer loop flattened, (n, 2)."""
        return self.rings(chord_height)[0]

    def face(self, right: bool) -> Face:
        """Return the face that looks to the right, or to the left; made once."""
        if right not in self._faces:
            self._faces[right] = face_of(self.outer_ring, right)
        return self._faces[right]

    @cached_property
    def _faces(self) -> dict[bool, Face]:
        return {}

    def levelled(self, chord_height: float, ways: tuple[tuple[float, float, tuple[float, ...]], ...]) -> FlatShape:
        """Return the flattened shape with points where its sides are at heights along units, no triangle across one; made once.

        Each of ``ways`` is a unit (x, y) and the heights along it: what is straight between the heights is straight on every triangle.
        """
        key = chord_height, ways
        if key not in self._levelled:
            self._levelled[key] = levelled(self.flat(chord_height), [(np.array([x, y]), np.array(heights)) for x, y, heights in ways])
        return self._levelled[key]

    @cached_property
    def _levelled(self) -> dict[tuple[float, tuple[tuple[float, float, tuple[float, ...]], ...]], FlatShape]:
        return {}

    def polygon(self, chord_height: float = CHORD_HEIGHT) -> shapely.Polygon:
        """Return the flattened shape as a shapely polygon."""
        rings = self.rings(chord_height)
        return shapely.Polygon(rings[0], rings[1:])


def loop_of(outline: Outline) -> Loop:
    """Return the edges of a closed outline in its own direction. Raises ``Refused`` if it is open."""
    check_closed(outline)
    return _edges_through(outline, [*outline.corners(), outline.start])


def path_of(outline: Outline) -> Loop:
    """Return the edges of an outline that may be open. Raises ``Refused`` for an edge that is not valid."""
    check_edges(outline)
    return _edges_through(outline, [outline.start, *(edge.to for edge in outline.edges)])


def _edges_through(outline: Outline, points: Sequence[Point2]) -> Loop:
    return tuple(edge.edge(begin) for edge, begin in zip(outline.edges, points, strict=False))


def _reversed(loop: Loop) -> Loop:
    return tuple(edge.reversed() for edge in reversed(loop))


def _oriented(loop: Loop, anticlockwise: bool) -> Shape:
    """Return the shape of a loop alone, gone the way that is asked."""
    found = Shape((loop,))
    return found if (found.area > 0) == anticlockwise else Shape((_reversed(loop),))


def shape_of(outline: Outline, holes: Sequence[Outline] = ()) -> Shape:
    """Return the shape of an outline with holes, validated.

    Raises ``Refused`` with the place where an outline is open, has no area, crosses itself,
    or where a hole is not inside the outline or meets another hole.
    """
    outer = _oriented(loop_of(outline), True)
    inner = tuple(_oriented(loop_of(hole), False).loops[0] for hole in holes)
    shape = Shape((outer.loops[0], *inner)) if inner else outer
    left, low, right, high = shape.box
    rings = shape.rings((max(right - left, high - low) or 1.0) / 5000)
    for number, ring in enumerate(rings):
        first, last = shape.starts[number : number + 2]
        _check_simple(ring, float(shape.together.areas[first:last].sum()), f"holes.{number - 1}" if number else "outline")
    if not inner:
        return shape
    outside, *regions = (shapely.Polygon(ring) for ring in rings)
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


def _check_simple(points: Array, area: float, where: str) -> None:
    """Raise ``Refused`` for a loop, flattened to points (n, 2), that crosses itself or has no area."""
    if len(points) < 3:
        raise Refused("The outline encloses no area: it needs a width and a height.", where, "outline-flat")
    ring = shapely.LinearRing(points)
    if not ring.is_simple:
        crossing = _crossing(ring)
        at = f" at ({crossing[0]:.1f}, {crossing[1]:.1f})" if crossing else ""
        raise Refused(f"The outline crosses or touches itself{at}: move the edges apart there.", where, "outline-crosses")
    if abs(area) < 1e-3:
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


def _flatten(shape: Shape, chord_height: float) -> FlatShape:
    chords = shape.chords(chord_height)
    normals = np.column_stack([chords.tangents[:, 1], -chords.tangents[:, 0]])
    bounds = np.append(chords.first, len(chords.points))
    edges = np.arange(len(chords.first))
    # The edge before each, round its loop, and whether the outline goes on smoothly from it.
    before = edges - 1
    before[shape.starts[:-1]] = shape.starts[1:] - 1
    smooth = np.abs(normals[bounds[before + 1] - 1] - normals[chords.first]).max(axis=1) < FLAT
    # An edge's first row is the last of the edge before where that goes on smoothly.
    again = np.zeros(len(chords.points), dtype=bool)
    again[chords.first[smooth]] = True
    row = np.cumsum(~again) - 1
    row[chords.first[smooth]] = row[bounds[before[smooth] + 1] - 1]
    inner = np.flatnonzero(chords.edge[1:] == chords.edge[:-1])
    # Which point of its ring each is: the last of an edge is the first of the next.
    ends = bounds[shape.starts] - shape.starts
    sizes = np.diff(ends)
    loop = np.searchsorted(shape.starts, chords.edge, side="right") - 1
    point = ends[loop] + (np.arange(len(row)) - chords.edge - ends[loop]) % sizes[loop]
    vertices = chords.ring
    return FlatShape(
        points=vertices,
        loop_sizes=tuple(sizes.tolist()),
        skin_points=point[~again],
        skin_normals=normals[~again],
        segments=np.column_stack([row[inner], row[inner + 1]]),
        triangles=triangulated(vertices, sizes.tolist()),
    )
