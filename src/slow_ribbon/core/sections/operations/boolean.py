"""Outlines made of others: joined, cut away from one another, or what two have in common; mirrored and turned.

Edges stay what they are. Which parts of which edges bound the result is found on fine chords (shapely); where they meet is then
solved on the edges themselves, by Newton's method, so that nothing of the chords is left.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final, Literal

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import NEARLY_SAME, SAME_PLACE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.sections.edges import OutlineEdge
from slow_ribbon.core.sections.edges.arc import Arc
from slow_ribbon.core.sections.edges.base import Edge, Loop, as_point
from slow_ribbon.core.sections.edges.straight import Straight, StraightEdge
from slow_ribbon.core.sections.outline.edge_arrays import flattened
from slow_ribbon.core.sections.outline.outline import Outline
from slow_ribbon.core.sections.outline.profile import Shape
from slow_ribbon.core.sections.outline.split_edges import crossing_of

How = Literal["join", "cut", "common"]
#: Chords by which parts are found stray by no more, as a share of the larger shape.
_FINE: Final = 2e-5
#: A part smaller than this, mm², is a splinter that falls off …
_SPLINTER: Final = 0.1
#: … and a hole smaller than this what chords leave where edges lie on one another.
_SLIVER: Final = 1e-2
#: Parts of one edge whose shares differ by less where one ends and the other begins are one: chords do not resolve them better.
_JOINT: Final = 1e-3


@dataclass(frozen=True)
class _Part:
    """A part of an edge (its number among all), between two shares of it, the later first where it is gone backward."""

    edge: int
    first: float
    last: float


def combined(first: Shape, second: Shape, how: How) -> tuple[Outline, tuple[Outline, ...]]:
    """Return the outline and holes of two shapes joined, of the first less the second, or of what they have in common.

    Raises ``Refused`` where nothing is left, where it falls into several parts, or where it has more edges than an outline can.
    """
    size = max(max(abs(value) for value in shape.box) for shape in (first, second))
    edges: list[Edge] = []
    next_of: list[int] = []
    for loop in (*first.loops, *second.loops):
        base = len(edges)
        edges.extend(loop)
        next_of.extend(base + (i + 1) % len(loop) for i in range(len(loop)))
    chords, polygons = _chords(edges, (first, second), _FINE * size)
    a, b = polygons
    # On a grid, so that edges which lie on one another but for rounding leave no slits.
    found = {"join": shapely.union, "cut": shapely.difference, "common": shapely.intersection}[how](a, b, grid_size=SAME_PLACE)
    parts = [part for part in shapely.get_parts(found) if part.geom_type == "Polygon" and part.area > _SPLINTER]
    if not parts:
        raise Refused(
            {"cut": "Nothing would be left of it.", "common": "They have nothing in common."}.get(how, "Nothing is there."),
            "how",
            "nothing-left",
        )
    if len(parts) > 1:
        areas = ", ".join(f"{part.area:.1f} mm²" for part in parts[:4])
        raise Refused(
            f"It would fall into {len(parts)} parts ({areas}): a section is one piece. Move them so that they "
            f"{'overlap' if how == 'join' else 'leave it whole'}.",
            "how",
            "several-parts",
        )
    rings = [parts[0].exterior, *(ring for ring in parts[0].interiors if shapely.Polygon(ring).area > _SLIVER)]
    outlines = [_outline(_parts(np.asarray(ring.coords)[:-1], chords), edges, next_of) for ring in rings]
    return outlines[0], tuple(outlines[1:])


@dataclass(frozen=True)
class _Chords:
    """Chords of all edges: which edge each is of, and between which shares of it; and a tree to find them by."""

    edge: Array
    low: Array
    high: Array
    begin: Array
    end: Array
    tree: shapely.STRtree


def _chords(edges: Sequence[Edge], shapes: tuple[Shape, Shape], fine: float) -> tuple[_Chords, tuple[shapely.Polygon, shapely.Polygon]]:
    shares = [np.linspace(0.0, 1.0, 2 if edge.straight else _count(edge, fine) + 1) for edge in edges]
    points = [edge.at_shares(of) for edge, of in zip(edges, shares, strict=True)]
    number = np.concatenate([np.full(len(of) - 1, i) for i, of in enumerate(shares)])
    begin, end = np.concatenate([of[:-1] for of in points]), np.concatenate([of[1:] for of in points])
    lines: Any = shapely.linestrings(np.stack([begin, end], axis=1))
    chords = _Chords(
        number, np.concatenate([of[:-1] for of in shares]), np.concatenate([of[1:] for of in shares]), begin, end, shapely.STRtree(lines)
    )
    polygons, at = [], 0
    for shape in shapes:
        rings = []
        for loop in shape.loops:
            rings.append(np.concatenate([of[:-1] for of in points[at : at + len(loop)]]))
            at += len(loop)
        polygons.append(shapely.Polygon(rings[0], rings[1:]))
    return chords, (polygons[0], polygons[1])


def _count(edge: Edge, fine: float) -> int:
    return max(8, len(flattened(edge, fine)[0]))


def _parts(ring: Array, chords: _Chords) -> list[_Part]:
    """Return the parts of edges that a ring (n, 2) of places follows, one after another."""
    places, after = ring, np.roll(ring, -1, axis=0)
    keep = np.abs(after - places).max(axis=1) > SAME_PLACE
    places, after = places[keep], after[keep]
    middles = (places + after) / 2
    _, nearest = chords.tree.query_nearest(shapely.points(middles), all_matches=False)
    found: list[_Part] = []
    for at, index in enumerate(nearest.tolist()):
        a, b = (_share(chords, index, place) for place in (places[at], after[at]))
        edge = int(chords.edge[index])
        if found and found[-1].edge == edge and (found[-1].last - found[-1].first) * (b - a) > 0:
            found[-1] = _Part(edge, found[-1].first, b)
        else:
            found.append(_Part(edge, a, b))
    if len(found) > 1 and _goes_on(found[-1], found[0]):
        found[0] = _Part(found[0].edge, found[-1].first, found[0].last)
        found.pop()
    return found


def _goes_on(part: _Part, other: _Part) -> bool:
    """Return whether one part is the same edge's as another, and ends where that begins."""
    same_way = (part.last - part.first) * (other.last - other.first) > 0
    return part.edge == other.edge and same_way and abs(part.last - other.first) < _JOINT


def _share(chords: _Chords, index: int, place: Array) -> float:
    along = chords.end[index] - chords.begin[index]
    share = float(np.clip((place - chords.begin[index]) @ along / (along @ along), 0, 1))
    return float(chords.low[index] + share * (chords.high[index] - chords.low[index]))


def _outline(parts: list[_Part], edges: Sequence[Edge], next_of: Sequence[int]) -> Outline:
    """Return the outline that parts of edges make, meeting where the edges themselves do."""
    count = len(parts)
    firsts, lasts = [part.first for part in parts], [part.last for part in parts]
    joints: list[Array] = []
    for i, part in enumerate(parts):
        other = parts[(i + 1) % count]
        a, b, place = _meeting(edges, next_of, part, other)
        lasts[i], firsts[(i + 1) % count] = a, b
        joints.append(place)
    made: list[OutlineEdge] = []
    places = [(joints[-1], joints[0]), *((joints[i], joints[i + 1]) for i in range(count - 1))]
    kept = _without_spikes([edges[part.edge].straight for part in parts], places)
    start = kept[0][1] if kept else joints[-1]
    at = start
    for i, _, to in kept:
        if float(np.hypot(*(to - at))) > 10 * WELD or count == 1:
            made.extend(edges[parts[i].edge].part(firsts[i], lasts[i]).outline_edges(as_point(to)))
            at = to
    if not made:
        raise Refused("Nothing would be left of it.", "how", "nothing-left")
    if len(made) > 2000:
        raise Refused(f"It would have {figure(len(made))} edges: an outline has at most 2,000.", "how", "outline-edges")
    begin = (float(start[0]), float(start[1]))
    made[-1] = made[-1].model_copy(update={"to": begin})
    return Outline(start=begin, edges=tuple(made))


def _without_spikes(straight: Sequence[bool], places: Sequence[tuple[Array, Array]]) -> list[tuple[int, Array, Array]]:
    """Return the parts that stay, from where to where, without those that go out along a straight and back again.

    straight: whether each part is of a straight; places: from where to where it goes. Where an arc lies along a straight
    of the other shape, chords leave a sliver between them, which is nothing once its sides are made exact.
    """
    kept: list[tuple[int, Array, Array]] = []

    def once(first: tuple[int, Array, Array], second: tuple[int, Array, Array]) -> tuple[int, Array, Array] | None:
        """Return the rest of two parts that go out and back, or None if they do not."""
        out, back = first[2] - first[1], second[2] - second[1]
        longer = max(float(np.hypot(*out)), float(np.hypot(*back)))
        aside = abs(float(out[0] * back[1] - out[1] * back[0]))
        if not (straight[first[0]] and straight[second[0]]) or float(out @ back) >= 0 or aside > WELD * longer:
            return None
        return (first if out @ out > back @ back else second)[0], first[1], second[2]

    for number, (begin, end) in enumerate(places):
        part = (number, begin, end)
        while kept and (left := once(kept[-1], part)):
            kept.pop()
            part = left
        kept.append(part)
    while len(kept) > 2 and (left := once(kept[-1], kept[0])):
        kept = [left, *kept[1:-1]]
    return kept


def _meeting(edges: Sequence[Edge], next_of: Sequence[int], part: _Part, other: _Part) -> tuple[float, float, Array]:
    """Return the shares of two edges where one part goes on into the other, and the place: a corner of a loop, or where they cross."""
    forward, onward = part.last > part.first, other.last > other.first
    if forward and onward and next_of[part.edge] == other.edge and part.last > 1 - NEARLY_SAME and other.first < NEARLY_SAME:
        return 1.0, 0.0, edges[part.edge].end
    if not forward and not onward and next_of[other.edge] == part.edge and part.last < NEARLY_SAME and other.first > 1 - NEARLY_SAME:
        return 0.0, 1.0, edges[part.edge].begin
    return crossing_of(edges[part.edge], edges[other.edge], part.last, other.first)


def basic_rectangle(width: float, height: float, at: tuple[float, float]) -> Loop:
    """Return a rectangle with its back foot at a place, anticlockwise."""
    x, y = at
    corners = np.array([(x, y), (x + width, y), (x + width, y + height), (x, y + height)])
    return tuple(Straight(corners[i], corners[(i + 1) % 4]) for i in range(4))


def basic_circle(radius: float, at: tuple[float, float]) -> Loop:
    """Return a circle about a place, anticlockwise, as two arcs."""
    centre, u, v = np.array(at), np.array([radius, 0.0]), np.array([0.0, radius])
    return (Arc(centre, u, v, 0.0, math.pi), Arc(centre, u, v, math.pi, 2 * math.pi))


def regular_polygon(sides: int, across: float, over: Literal["flats", "corners"]) -> Outline:
    """Return a polygon of equal sides, flat at its foot, so far across its flats or its corners.

    Across corners it is 2R, across flats 2R·cos(180°/n), of a polygon of n sides in a circle of radius R; of an odd number the
    flat is opposite a corner, and across flats is taken as twice the distance of a flat from the middle.
    """
    radius = across / 2 if over == "corners" else across / 2 / math.cos(math.pi / sides)
    angles = -math.pi / 2 + math.pi / sides + 2 * math.pi * np.arange(sides) / sides
    points = radius * np.column_stack([np.cos(angles), np.sin(angles)])
    points -= points.min(axis=0)
    flat = [(float(x), float(y)) for x, y in points]
    return Outline(start=flat[0], edges=tuple(StraightEdge(to=to) for to in [*flat[1:], flat[0]]))
