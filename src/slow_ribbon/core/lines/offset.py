"""Lines made from other lines: at a distance inside or outside one, midway between two, round a region."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from itertools import pairwise

import numpy as np
import shapely
from scipy.optimize import fsolve
from scipy.spatial import cKDTree

from slow_ribbon.core.geometry.curves import Curve, Vanishes, flattening, run_on
from slow_ribbon.core.geometry.frames import angle, level_rights
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import FLAT, NO_LENGTH, SAME_PLACE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import STRAIGHT, course_of
from slow_ribbon.core.lines.fillets import line_parts
from slow_ribbon.core.lines.legs import AnyLeg, PassPoint, StraightLeg, ThroughLeg, leg_of, place
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.split_join import halves, reverse

#: An offset curve is drawn through points until it strays no more than this from the true one, mm.
FINE = 0.005
#: A region is bounded by at most this many stretches of lines.
MOST_PIECES = 200


def offset(line: Line, distance: float) -> tuple[Point3, tuple[AnyLeg, ...]]:
    """Return the start and legs of the line at ``distance`` mm to the right of a line (left with a minus), measured on plan.

    Straights stay straight and level arcs arcs about the same centre, to the last bit; other
    curves are drawn through points of the true offset, within 0.005 mm. Corners meet where the
    moved legs cross. Raises ``Refused`` where a leg is upright, or would vanish.
    """
    moved = [(_moved(part.span, distance, line.name, part.leg), part.leg) for part in line_parts(line)]
    low = [0.0] * len(moved)
    high = [span.length for span, _ in moved]
    joints = list(range(len(moved))) if line.closed else list(range(len(moved) - 1))
    parts = line_parts(line)
    for i in joints:
        j = (i + 1) % len(moved)
        before, after = parts[i].span, parts[j].span
        turn = angle(before.at(np.array([before.length]))[1][0], after.at(np.zeros(1))[1][0])
        if turn > STRAIGHT:
            high[i], low[j] = _crossing(moved[i][0], moved[j][0], distance, turn, line.name, moved[i][1])
    legs: list[AnyLeg] = []
    start: Point3 | None = None
    for (span, leg), a, b in zip(moved, low, high, strict=True):
        if b - a <= WELD:
            raise Refused(
                f"At {figure(abs(distance), 3)} leg {leg + 1} of {line.name} vanishes between its neighbours: choose a smaller distance.",
                "distance",
                "offset-large",
            )
        start = start or place(run_on(span, np.array([a]))[0][0])
        legs.extend(_legs_of(span, a, b))
    assert start is not None
    if line.closed:
        legs[-1] = legs[-1].model_copy(update={"to": start})
    return start, tuple(legs)


def _moved(span: Curve, distance: float, name: str, leg: int) -> Curve:
    ends = span.at(np.array([0.0, span.length / 2, span.length]))
    flat = np.hypot(ends[1][:, 0], ends[1][:, 1])
    if flat.min() < FLAT:
        raise Refused(f"Leg {leg + 1} of {name} is upright: it has no side on plan.", "line", "offset-upright")
    try:
        exact = span.beside(distance)
    except Vanishes as vanished:
        raise Refused(
            f"At {figure(abs(distance), 3)} the arc of leg {leg + 1} of {name}, of radius {figure(vanished.radius)}, vanishes: "
            "choose a smaller distance.",
            "distance",
            "offset-large",
        ) from vanished
    return exact if exact is not None else _moved_curve(span, distance, name, leg)


def _beside(span: Curve, s: Array, distance: float) -> Array:
    points, tangents, _ = span.at(s)
    return points + distance * level_rights(tangents)


def _moved_curve(span: Curve, distance: float, name: str, leg: int) -> Curve:
    _, _, bends = span.at(np.unique(np.concatenate([flattening(span, 0.05), np.linspace(0, span.length, 65)])))
    if float(np.linalg.norm(bends, axis=1).max()) * abs(distance) >= 1:
        raise Refused(
            f"At {figure(abs(distance), 3)} the curve of leg {leg + 1} of {name} would fold over itself: choose a smaller distance.",
            "distance",
            "offset-large",
        )
    count = 9
    while True:
        s = np.linspace(0, span.length, count)
        points = _beside(span, s, distance)
        ends = span.at(np.array([0.0, span.length]))[1]
        leg_through = ThroughLeg(
            to=place(points[-1]),
            points=tuple(PassPoint(at=place(point)) for point in points[1:-1]),
            begin=place(ends[0]),
            end=place(ends[1]),
        )
        found = leg_through.spans(place(points[0]))[0]
        probe = _beside(span, (s[:-1] + s[1:]) / 2, distance)
        # The places of the drawn curve square to the true ones, by a few steps along it from the nearest sample.
        samples = np.linspace(0, found.length, 20 * count)
        nearest = samples[cKDTree(found.at(samples)[0]).query(probe)[1]]
        for _ in range(4):
            known, along, _ = found.at(nearest)
            nearest = np.clip(nearest + np.einsum("ij,ij->i", probe - known, along), 0, found.length)
        if np.linalg.norm(probe - found.at(nearest)[0], axis=1).max() < FINE or count > 600:
            return found
        count = 2 * count - 1


def _crossing(before: Curve, after: Curve, distance: float, turn: float, name: str, leg: int) -> tuple[float, float]:
    """Return where two moved spans cross on plan, near the end of one and the beginning of the other."""
    guess = abs(distance) * math.tan(min(turn, 3.0) / 2)
    inward = -guess

    def off(at: Array) -> Array:
        p = run_on(before, np.array([before.length + at[0]]))[0][0]
        q = run_on(after, np.array([-at[1]]))[0][0]
        return np.asarray((p - q)[:2])

    best: tuple[float, Array] | None = None
    for sign in (guess, inward):
        solved = fsolve(off, np.array([sign, sign]), xtol=1e-13, full_output=True)[0]
        size = float(np.abs(off(solved)).max())
        if size < SAME_PLACE and (best is None or float(np.abs(solved).max()) < float(np.abs(best[1]).max())):
            best = (size, solved)
    if best is None:
        raise Refused(
            f"At {figure(abs(distance), 3)} the legs after leg {leg + 1} of {name} do not meet any more: choose a smaller distance.",
            "distance",
            "offset-large",
        )
    return before.length + float(best[1][0]), -float(best[1][1])


def _legs_of(span: Curve, low: float, high: float) -> list[AnyLeg]:
    if span.rotating() is None:
        # Beyond its ends a curve that is no straight or arc goes on straight to where it meets its neighbour.
        points = run_on(span, np.array([low, high]))[0]
        legs: list[AnyLeg] = []
        if low < -WELD:
            legs.append(StraightLeg(to=place(span.at(np.zeros(1))[0][0])))
        legs.append(leg_of(span, max(low, 0.0), min(high, span.length)))
        if high > span.length + WELD:
            legs.append(StraightLeg(to=place(points[1])))
        return legs
    return [leg_of(span, low, high)]


def _legs_halfway(first: Line, second: Line, half: Callable[[Point3, Point3], Point3]) -> tuple[AnyLeg, ...] | None:
    """Return the legs midway between those of two lines; None where they are not of the same kinds, or their kind has no such leg."""
    if len(first.legs) != len(second.legs):
        return None
    legs: list[AnyLeg] = []
    for leg, other in zip(first.legs, second.legs, strict=True):
        changes = leg.halfway(other, half)
        if changes is None:
            return None
        if leg.round and other.round:
            changes = {**changes, "round": (leg.round + other.round) / 2}
        legs.append(leg.model_copy(update={"to": half(leg.to, other.to), **changes}))
    return tuple(legs)


def midway(first: Line, second: Line) -> tuple[Point3, tuple[AnyLeg, ...], bool]:
    """Return the start and legs of the line midway between two, and whether it is closed.

    Two lines of the same legs are halved point by point, so that arcs stay arcs; others are
    halved at equal shares of their length, every corner of either being one.
    """
    if first.closed != second.closed:
        raise Refused(f"{first.name} and {second.name} must both be open or both closed.", "lines", "midway")
    a, b = np.array(first.start), np.array(first.legs[-1].to)
    c, d = np.array(second.start), np.array(second.legs[-1].to)
    if not first.closed and np.linalg.norm(a - d) + np.linalg.norm(b - c) < np.linalg.norm(a - c) + np.linalg.norm(b - d):
        second = reverse(second)

    def half(p: Point3, q: Point3) -> Point3:
        return place((np.array(p) + np.array(q)) / 2)

    legs = _legs_halfway(first, second, half)
    if legs is not None:
        return half(first.start, second.start), legs, first.closed
    one_course, other_course = course_of(first), course_of(second)
    sharp = {0.0, 1.0}
    shares = set(np.linspace(0, 1, 65).tolist()) if one_course.paths or other_course.paths else set()
    for course in (one_course, other_course):
        sharp |= {round(float(s) / course.length, 12) for s in course.begins}
    ordered = sorted(shares | sharp)
    places = (
        one_course.points_at(np.array(ordered) * one_course.length) + other_course.points_at(np.array(ordered) * other_course.length)
    ) / 2
    if first.closed:
        places[-1] = places[0]
    through = [PassPoint(at=place(point), sharp=share in sharp) for share, point in zip(ordered[1:-1], places[1:-1], strict=True)]
    if not shares:
        return place(places[0]), tuple(StraightLeg(to=place(point)) for point in places[1:]), first.closed
    return place(places[0]), (ThroughLeg(to=place(places[-1]), points=tuple(through)),), first.closed


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
