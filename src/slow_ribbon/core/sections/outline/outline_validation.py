"""Validation of outlines while they are drawn: each fault with its place, in words, and what mends it.

Terms
-----
sliver
    a place narrower than 0.1 mm: no workshop makes it, and it is mostly a slip of the hand.
larger part
    of an outline that crosses itself, or is cut at a sliver, what encloses more.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, Final, Literal

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.sections.edges import OutlineEdge
from slow_ribbon.core.sections.edges.base import Edge, Loop, as_point
from slow_ribbon.core.sections.edges.straight import StraightEdge
from slow_ribbon.core.sections.outline.edge_arrays import Together
from slow_ribbon.core.sections.outline.minimum_thickness import narrowest_of
from slow_ribbon.core.sections.outline.outline import Outline
from slow_ribbon.core.sections.outline.profile import Shape, path_of, shape_of
from slow_ribbon.core.sections.outline.split_edges import crossing_of

FaultKind = Literal["no-length", "arc", "open", "flat", "crosses", "sliver", "holes"]
#: What is narrower, mm, is a sliver.
_NARROW: Final = 0.1
#: A gap no wider than this, mm, is closed by moving the end; a wider one by a straight.
_SMALL_GAP: Final = 1.0
#: Crossings that are reported, at most.
_TOLD: Final = 20
#: How an outline is flattened to find its crossings, as a share of its size.
_FINE: Final = 1e-4


@dataclass(frozen=True)
class Fault:
    """A fault: its kind, what it is in a sentence, its places (x, y), what would mend it in words, and the outline mended so."""

    kind: FaultKind
    words: str
    places: tuple[tuple[float, float], ...]
    action: str = ""
    mended: Outline | None = None


def faults_of(outline: Outline, holes: Sequence[Outline] = ()) -> list[Fault]:
    """Return the faults of an outline, which may be open, cross itself or be empty; None where it can be run.

    The first kind found is reported: what comes after cannot be judged before that is mended.
    """
    found = _edges_at_fault(outline)
    if found:
        return found
    path = path_of(outline)
    gap = math.dist(outline.start, outline.edges[-1].to)
    if gap > WELD:
        return [_open(outline, gap), *_crossings(path, False)]
    try:
        shape = shape_of(outline, holes)
    except Refused as refused:
        kind: FaultKind = "flat" if refused.code == "outline-flat" else "holes" if refused.where.startswith("holes") else "crosses"
        found = _crossings(path, True) if kind == "crosses" else []
        return found or [Fault(kind, refused.what, (outline.start,))]
    wide, one, other = narrowest_of(shape)
    if wide >= _NARROW:
        return []
    mended = _without_slivers(shape, shape.loops[0])
    message = f"It is only {figure(wide, 3)} thick here: a sliver that no workshop makes."
    return [Fault("sliver", message, (one, other), "Cut it off" if mended else "", mended)]


def _edges_at_fault(outline: Outline) -> list[Fault]:
    found = []
    points = [outline.start, *(edge.to for edge in outline.edges)]
    for index, edge in enumerate(outline.edges):
        if math.dist(points[index], points[index + 1]) <= WELD:
            rest = (*outline.edges[:index], *outline.edges[index + 1 :])
            mended = outline.model_copy(update={"edges": rest}) if rest else None
            found.append(
                Fault("no-length", f"Edge {index + 1} has no length.", (points[index],), "Remove the edge" if mended else "", mended)
            )
        elif (flaw := edge.flaw(points[index])) is not None:
            edges = (*outline.edges[:index], StraightEdge(to=edge.to), *outline.edges[index + 1 :])
            message = f"Arc {index + 1} passes through three points on one straight."
            found.append(Fault("arc", message, (flaw,), "Make it a straight", outline.model_copy(update={"edges": edges})))
    return found


def _open(outline: Outline, gap: float) -> Fault:
    end = outline.edges[-1].to
    if gap <= _SMALL_GAP:
        last = outline.edges[-1].model_copy(update={"to": outline.start})
        edges: tuple[OutlineEdge, ...] = (*outline.edges[:-1], last)
    else:
        edges = (*outline.edges, StraightEdge(to=outline.start))
    message = f"It is open: a gap of {figure(gap, 3)} between its end and its start."
    return Fault("open", message, (end, outline.start), "Close it", outline.model_copy(update={"edges": edges}))


def _crossings(path: Loop, closed: bool) -> list[Fault]:
    """Return where a path crosses or touches itself; a closed one is mended by keeping its larger part."""
    together = Together.of(path)
    points = np.concatenate(together.ends)
    size = float(np.ptp(points, axis=0).max()) or 1.0
    chords = together.flattened(_FINE * size)
    begins, ends, edge, _ = chords.straights
    lines: Any = shapely.linestrings(np.stack([begins, ends], axis=1))
    first, second = shapely.STRtree(lines).query(lines, predicate="intersects")
    count = len(lines)
    after = second - first
    # Neighbours meet at their common point, the last and the first of a closed one too.
    apart = (after > 1) & ~((after == count - 1) & closed)
    found: list[Fault] = []
    seen: list[Array] = []
    for a, b in zip(first[apart].tolist(), second[apart].tolist(), strict=True):
        place = shapely.get_coordinates(shapely.intersection(lines[a], lines[b]))
        if not len(place) or any(float(np.hypot(*(place[0] - one))) < 10 * _FINE * size for one in seen):
            continue
        if len(found) == _TOLD:
            break
        seen.append(place[0])
        i, j = int(edge[a]), int(edge[b])
        s, t = (float(together.nearest(np.array([k]), place[:1])[0][0]) for k in (i, j))
        s, t, exact = crossing_of(path[i], path[j], s, t)
        if float(np.hypot(*(exact - place[0]))) > 10 * _FINE * size:
            exact = place[0]
        mended = _larger(path, (i, s), (j, t), exact, exact) if closed else None
        message = f"It crosses or touches itself: edges {i + 1} and {j + 1} meet here."
        found.append(Fault("crosses", message, (_flat(exact),), "Keep the larger part" if mended else "", mended))
    return found


def _without_slivers(shape: Shape, path: Loop) -> Outline | None:
    """Return an outline with its longest sliver cut off where that leaves what is wide enough; None where nothing is."""
    wide = 1.2 * _NARROW
    polygon = shape.polygon(_NARROW / 20)
    core = max(shapely.get_parts(polygon.buffer(-wide / 2, join_style="mitre")), key=lambda part: part.area, default=None)
    if core is None or core.is_empty:
        return None
    # What a disc as wide as that cannot reach is the sliver; it begins and ends where the outline leaves the rest.
    rest = core.buffer(wide / 2 + _NARROW / 20, join_style="mitre")
    outside = shapely.line_merge(shapely.LineString(polygon.exterior.coords).difference(rest))
    sliver = max(shapely.get_parts(outside), key=lambda part: part.length, default=None)
    if sliver is None or sliver.length < _NARROW:
        return None
    together, numbers, corners = Together.of(path), np.arange(len(path)), np.array([edge.begin for edge in path])
    ends: list[tuple[int, float, Array]] = []
    for place in (np.array(sliver.coords[0]), np.array(sliver.coords[-1])):
        beside = np.hypot(*(corners - place).T)
        if beside.min() <= _NARROW / 5:
            at = int(np.argmin(beside))
            ends.append((at, 0.0, corners[at]))
            continue
        shares, points = together.nearest(numbers, np.tile(place, (len(path), 1)))
        at = int(np.argmin(np.hypot(*(points - place).T)))
        ends.append((at, float(shares[at]), points[at]))
    (i, s, first), (j, t, last) = sorted(ends, key=lambda end: end[:2])
    return _larger(path, (i, s), (j, t), first, last)


def _larger(path: Loop, begin: tuple[int, float], end: tuple[int, float], first: Array, last: Array) -> Outline | None:
    """Return the larger of what lies between two places of a closed path and of the rest, closed there; None if nothing remains."""
    (i, s), (j, t) = begin, end
    inner = _part(path, [(i, s, 1.0), *((k, 0.0, 1.0) for k in range(i + 1, j)), (j, 0.0, t)] if i < j else [(i, s, t)], first, last)
    rest = [(j, t, 1.0), *((k, 0.0, 1.0) for k in (*range(j + 1, len(path)), *range(i))), (i, 0.0, s)]
    outer = _part(path, rest, last, first)
    best: Outline | None = None
    # All of it is no part: nothing would be mended.
    area, whole = 0.0, abs(float(Together.of(path).areas.sum()))
    for one in (inner, outer):
        if one is None:
            continue
        enclosed = abs(float(Together.of(path_of(one)).areas.sum()))
        if enclosed > area and (len(one.edges) < len(path) or abs(enclosed - whole) > SAME_PLACE * whole):
            best, area = one, enclosed
    return best


def _part(path: Sequence[Edge], shares: Sequence[tuple[int, float, float]], begin: Array, end: Array) -> Outline | None:
    """Return the outline that some parts of edges make, closed by a straight where it does not end where it begins."""
    places = [begin, *(path[number].end for number, _, _ in shares[:-1]), end]
    edges: list[OutlineEdge] = []
    at = begin
    for (number, first, last), (_, to) in zip(shares, pairwise(places), strict=True):
        if float(np.hypot(*(to - at))) > WELD:
            edges.extend(path[number].part(first, last).outline_edges(as_point(to)))
            at = to
    if float(np.hypot(*(end - begin))) > SAME_PLACE:
        edges.append(StraightEdge(to=_flat(begin)))
    elif edges:
        edges[-1] = edges[-1].model_copy(update={"to": _flat(begin)})
    return Outline(start=_flat(begin), edges=tuple(edges)) if len(edges) > 1 else None


def _flat(point: Array) -> tuple[float, float]:
    return float(point[0]), float(point[1])
