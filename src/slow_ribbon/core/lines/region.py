"""The boundary of the region around a point that lines enclose together."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import FLAT, NO_LENGTH
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import AnyLeg
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.offset import MOST_PIECES
from slow_ribbon.core.lines.split_join import halves, reverse


def region(lines: Sequence[Line], point: tuple[float, float]) -> list[tuple[Point3, tuple[AnyLeg, ...]]]:
    """Return the closed edges, on plan, of the region that holds a point, made of parts of the lines round it.

    Its boundary first, then its holes. Raises ``Refused`` where the lines enclose no region there.
    """
    flats, chords, owners, chainages = [], [], [], []
    for number, line in enumerate(lines):
        look_up()
        at, points = course_of(line).flattened(0.001)
        flats.append(shapely.LineString(points[:, :2]) if len(points) > 1 else None)
        for i in range(len(points) - 1):
            if at[i + 1] - at[i] > NO_LENGTH:
                chords.append(shapely.LineString(points[i : i + 2, :2]))
                owners.append(number)
                chainages.append((float(at[i]), float(at[i + 1])))
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(shapely.union_all([flat for flat in flats if flat is not None]))))
    here = shapely.Point(point)
    inside = [face for face in faces if face.contains(here)]
    if not inside:
        raise Refused(
            "No lines enclose a region there: pick a place that lines go all the way round, or close their gaps first.",
            "point",
            "no-region",
        )
    face = min(inside, key=lambda face: face.area)
    tree = shapely.STRtree(chords)

    def boundary(ring: Array) -> tuple[Point3, tuple[AnyLeg, ...]]:
        return _boundary(lines, ring, chords, tree, owners, chainages)

    return [boundary(shapely.get_coordinates(ring)) for ring in (face.exterior, *face.interiors)]


def _boundary(
    lines: Sequence[Line],
    ring: Array,
    chords: Sequence[shapely.LineString],
    tree: shapely.STRtree,
    owners: Sequence[int],
    chainages: Sequence[tuple[float, float]],
) -> tuple[Point3, tuple[AnyLeg, ...]]:
    """Return a ring (n, 2) of places on chords of lines as the parts of these lines that it goes along."""
    pieces: list[tuple[int, float, float]] = []
    for a, b in pairwise(ring):
        look_up()
        chord = int(tree.nearest(shapely.Point((a + b) / 2)))
        low, high = chainages[chord]
        begin, end = shapely.get_coordinates(chords[chord])[[0, -1]]
        size = float(np.hypot(*(end - begin)))

        def along(p: Array, begin: Array = begin, end: Array = end, low: float = low, high: float = high, size: float = size) -> float:
            return low + (high - low) * float((p - begin) @ (end - begin)) / size**2

        s, t = along(a), along(b)
        number = owners[chord]
        if pieces and pieces[-1][0] == number and abs(pieces[-1][2] - s) < 1e-3 and (pieces[-1][2] - pieces[-1][1]) * (t - s) >= 0:
            pieces[-1] = (number, pieces[-1][1], t)
        else:
            pieces.append((number, s, t))
    if len(pieces) > 1 and pieces[0][0] == pieces[-1][0] and abs(pieces[0][1] - pieces[-1][2]) < 1e-3:
        first, last = pieces[0], pieces.pop()
        pieces[0] = (first[0], last[1], first[2])
    if len(pieces) > MOST_PIECES:
        what = f"The edge of that region goes {len(pieces):,} times from one line to another: lines lie along one another there. "
        raise Refused(what + "Leave all but one of them out.", "lines", "lines-along")
    pieces = _met(lines, pieces)
    start: Point3 | None = None
    legs: list[AnyLeg] = []
    for number, s, t in pieces:
        look_up()
        part = between(lines[number], min(s, t), max(s, t))
        part = reverse(part) if t < s else part
        start = start or part.start
        legs.extend(leg if i < len(part.legs) - 1 else leg.model_copy(update={"round": None}) for i, leg in enumerate(part.legs))
    assert start is not None
    legs[-1] = legs[-1].model_copy(update={"to": start})
    return start, tuple(legs)


def _met(lines: Sequence[Line], pieces: list[tuple[int, float, float]]) -> list[tuple[int, float, float]]:
    """Return pieces of lines, found on their chords, with their ends moved to where the lines truly cross on plan."""
    ends = [[s, t] for _, s, t in pieces]
    for i, (number, _, _) in enumerate(pieces):
        j = (i + 1) % len(pieces)
        one, other = course_of(lines[number]), course_of(lines[pieces[j][0]])
        at = np.array([ends[i][1], ends[j][0]])
        for _ in range(5):
            here, there = one.at(at[:1]), other.at(at[1:])
            apart = (there.points - here.points)[0, :2]
            along = np.column_stack([here.tangents[0, :2], -there.tangents[0, :2]])
            if abs(np.linalg.det(along)) < FLAT:
                break
            at = np.clip(at + np.linalg.solve(along, apart), 0.0, [one.length, other.length])
        ends[i][1], ends[j][0] = float(at[0]), float(at[1])
    return [(number, s, t) for (number, _, _), (s, t) in zip(pieces, ends, strict=True)]


def between(line: Line, low: float, high: float) -> Line:
    """Return the part of a line from one chainage to another, as a line of its own without openings and marks."""
    plain = line.model_copy(update={"openings": (), "marks": (), "closed": False, "made": None})
    length = course_of(line).length
    if high < length - WELD:
        plain = plain.model_copy(update={"legs": halves(plain, high).before})
    if low > WELD:
        parted = halves(plain, low)
        plain = plain.model_copy(update={"start": parted.point, "legs": parted.after})
    last = plain.legs[-1].model_copy(update={"round": None})
    return plain.model_copy(update={"legs": (*plain.legs[:-1], last)})
