"""The line at a distance beside another on plan."""

from __future__ import annotations

import math

import numpy as np
from scipy.optimize import fsolve
from scipy.spatial import cKDTree

from slow_ribbon.core.geometry.curves import Curve, Vanishes, flattening, run_on
from slow_ribbon.core.geometry.frames import angle, level_rights
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import FLAT, SAME_PLACE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import STRAIGHT
from slow_ribbon.core.lines.fillets import line_parts
from slow_ribbon.core.lines.legs import AnyLeg, PassPoint, StraightLeg, ThroughLeg, leg_of, place
from slow_ribbon.core.lines.model import Line

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
