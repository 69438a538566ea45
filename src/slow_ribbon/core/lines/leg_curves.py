"""From a leg as it is written to the smooth spans it is made of.

Each kind of leg is made exactly: arcs and helices in closed form, cords as catenaries, curves as
the B-splines they are.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from itertools import pairwise
from typing import Any, Final, Literal

import numpy as np
from scipy.interpolate import BSpline, CubicSpline, make_interp_spline
from scipy.optimize import brentq

from slow_ribbon.core.geometry.curves import CordSpan, CurveSpan, Derivatives, ScrewSpan, Span, StraightSpan
from slow_ribbon.core.geometry.splines import end_directions, halts, points_of, settled, sub_spline
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.legs import AnyLeg, ArcLeg, CordLeg, CurveLeg, HelixLeg, StraightLeg, ThroughLeg

#: Weights further apart than this pull a curve together into points and leave nothing of its arithmetic.
_MOST_WEIGHT: Final = 1e6


def spans_of(leg: AnyLeg, begin: Point3, where: str = "") -> list[Span]:
    """Return the smooth spans of a leg that begins at ``begin``: one, or, for a curve with sharp points, several.

    Raises ``Refused``, with ``where`` as the place, for a leg that cannot be.
    """
    start = np.array(begin, dtype=float)
    match leg:
        case StraightLeg():
            return [straight(start, np.array(leg.to, dtype=float), where)]
        case ArcLeg():
            return [_arc(start, np.array(leg.via, dtype=float), np.array(leg.to, dtype=float), where)]
        case HelixLeg():
            return [_helix(leg, start, where)]
        case CordLeg():
            return [_cord(leg, start, where)]
        case CurveLeg():
            return _spline(leg, start, where)
        case ThroughLeg():
            return _through(leg, start, where)


def straight(begin: Array, end: Array, where: str = "") -> StraightSpan:
    """Return the straight from one point to another. Raises ``Refused`` where it has no length."""
    along = end - begin
    length = math.sqrt(float(along @ along))
    if length <= WELD:
        place = ", ".join(figure(value) for value in end)
        raise Refused(f"This leg has no length: both its ends are at ({place}). Remove one of them or move it.", f"{where}.to", "leg-zero")
    return StraightSpan(begin, along / length, length)


def _arc(begin: Array, via: Array, end: Array, where: str) -> ScrewSpan:
    """Return the arc through three points. With begin and end the same there is no one circle, so that is refused."""
    a, b = via - begin, end - begin
    cross = np.cross(a, b)
    square = float(cross @ cross)
    sizes = float(a @ a), float(b @ b)
    if min(*sizes, float((end - via) @ (end - via))) <= WELD**2 or square <= 1e-18 * sizes[0] * sizes[1]:
        raise Refused(
            "An arc needs three points apart that do not lie on one straight: move the point on the arc, or make the leg straight.",
            f"{where}.via",
            "arc-flat",
        )
    # Circumcentre of a triangle with one corner at nought.
    to_centre = (sizes[0] * np.cross(b, cross) + sizes[1] * np.cross(cross, a)) / (2 * square)
    centre = begin + to_centre
    radius = math.sqrt(float(to_centre @ to_centre))
    axis = cross / math.sqrt(square)
    u = -to_centre / radius
    v = np.cross(axis, u)
    turn = _angle(end - centre, u, v)
    # Going from begin to end about the axis of (begin, via, end) passes via on the way.
    return ScrewSpan(centre, u, v, axis, radius, turn, 0.0)


def _angle(out: Array, u: Array, v: Array) -> float:
    return math.atan2(float(out @ v), float(out @ u)) % (2 * math.pi)


def _helix(leg: HelixLeg, begin: Array, where: str) -> ScrewSpan:
    axis, centre, end = np.array(leg.axis), np.array(leg.centre), np.array(leg.to)
    size = float(np.linalg.norm(axis))
    if size < 1e-9:
        raise Refused("The helix has no axis: give its direction, such as 0, 0, 1 for upright.", f"{where}.axis", "helix-axis")
    axis = axis / size
    out = begin - centre
    out = out - axis * float(out @ axis)
    radius = float(np.linalg.norm(out))
    turn = math.radians(leg.turn)
    if radius <= WELD or abs(turn) * radius <= WELD:
        what = "begins on its axis: it has no radius" if radius <= WELD else "has no turn"
        raise Refused(f"The helix {what}. Move the axis or give it a turn.", f"{where}.turn", "helix-flat")
    u = out / radius
    if turn < 0:
        v, angle = np.cross(u, axis), -turn
    else:
        v, angle = np.cross(axis, u), turn
    rise = float((end - begin) @ axis)
    reached = centre + axis * float((begin - centre) @ axis) + radius * (u * math.cos(angle) + v * math.sin(angle)) + axis * rise
    off = float(np.linalg.norm(reached - end))
    if off > max(WELD, 1e-9 * radius):
        raise Refused(
            f"After {leg.turn:g}° the helix is {off:.3g} mm from where the leg is said to end: put its end right, or its turn.",
            f"{where}.to",
            "helix-end",
        )
    return ScrewSpan(centre + axis * float((begin - centre) @ axis), u, v, axis, radius, angle, rise, "helix")


def _cord(leg: CordLeg, begin: Array, where: str) -> CordSpan:
    """Return the cord: from √(L² − v²) = 2a·sinh(h/2a) by its length, or from its sag, solved numerically."""
    across = np.array(leg.to) - begin
    level = float(np.hypot(across[0], across[1]))
    height = float(across[2])
    if (leg.sag is None) == (leg.length is None):
        raise Refused("A cord is given by its sag or by its length: give one of them.", f"{where}.sag", "cord")
    if level <= WELD:
        raise Refused("The cord's ends lie over one another: it would hang double. Move one of them sideways.", f"{where}.to", "cord")
    span = math.hypot(level, height)
    if leg.length is not None:
        if leg.length <= span * (1 + 1e-9):
            raise Refused(
                f"The cord is {figure(leg.length, 3)} long, but its ends are {figure(span)} apart: make it longer than that.",
                f"{where}.length",
                "cord-short",
            )
        want = math.sqrt(leg.length**2 - height**2) / level
        # sinh(q)/q = want, with q = h/2a; it grows without bound, so a bracket is found by doubling.
        half = _solve(lambda q: math.sinh(q) / q - want, 1e-9, 1e-3)
    else:
        assert leg.sag is not None

        def off(q: float) -> float:
            a = level / (2 * q)
            return _sag(a, level, height) - float(leg.sag or 0)

        if leg.sag > 100 * span:
            raise Refused(f"A sag of {figure(leg.sag, 3)} is over a hundred times the span of {figure(span, 0)}.", f"{where}.sag", "cord")
        half = _solve(off, 1e-9, 1e-3)
    a = level / (2 * half)
    lowest = level / 2 - a * math.asinh(height / (2 * a * math.sinh(half)))
    length = a * (math.sinh((level - lowest) / a) + math.sinh(lowest / a))
    return CordSpan(begin, np.array([across[0] / level, across[1] / level, 0.0]), a, lowest, length)


def _sag(a: float, level: float, height: float) -> float:
    """Return the greatest upright drop of a catenary below the straight between its ends: where their slopes are the same."""
    lowest = level / 2 - a * math.asinh(height / (2 * a * math.sinh(level / (2 * a))))
    x = lowest + a * math.asinh(height / level)
    drop = a * (math.cosh((x - lowest) / a) - math.cosh(lowest / a))
    return height * x / level - drop


def _solve(off: Callable[[float], float], low: float, high: float) -> float:
    while off(high) < 0 and high < 600:
        low, high = high, high * 2
    return float(brentq(off, low, min(high, 600.0), xtol=1e-15, rtol=1e-15, maxiter=500))


def _spline(leg: CurveLeg, begin: Array, where: str) -> list[Span]:
    """Return the smooth spans of a curve: one, or several where its direction may change at once."""
    controls = np.array([begin, *leg.controls, leg.to], dtype=float)
    count = len(controls)
    degree = leg.degree if leg.degree is not None else (count - 1 if leg.knots is None else len(leg.knots) - count - 1)
    if not 1 <= degree <= min(15, count - 1):
        raise Refused(
            f"A curve of degree {degree} needs at least {degree + 1} controls, both ends included, and at most degree 15; it has {count}.",
            f"{where}.degree",
            "curve-degree",
        )
    if leg.knots is None:
        inner = np.linspace(0, 1, count - degree + 1)[1:-1]
        knots = np.concatenate([np.zeros(degree + 1), inner, np.ones(degree + 1)])
    else:
        knots = np.array(leg.knots)
        if len(knots) != count + degree + 1:
            raise Refused(
                f"A curve of degree {degree} with {count} controls has {count + degree + 1} knots; {len(knots)} are given.",
                f"{where}.knots",
                "curve-knots",
            )
        clamped = knots[degree] - knots[0] <= 1e-12 * np.ptp(knots) and knots[-1] - knots[-degree - 1] <= 1e-12 * np.ptp(knots)
        if (np.diff(knots) < 0).any() or knots[-1] <= knots[0] or not clamped:
            raise Refused(
                f"The knots must not fall, and the first and last {degree + 1} of them must be the same, so that the curve meets its ends.",
                f"{where}.knots",
                "curve-knots",
            )
    if leg.weights is not None and (len(leg.weights) != count or min(leg.weights) <= 0 or not np.isfinite(leg.weights).all()):
        raise Refused(f"The curve needs a weight above nought for each of its {count} controls.", f"{where}.weights", "curve-weights")
    if leg.weights is not None and max(leg.weights) > _MOST_WEIGHT * min(leg.weights):
        raise Refused(
            f"The weights of the curve go from {min(leg.weights):g} to {max(leg.weights):g}: more than a million times apart "
            "they cannot be worked out.",
            f"{where}.weights",
            "curve-weights",
        )
    spread = float(np.ptp(controls, axis=0).max())
    if spread <= WELD:
        raise Refused("All controls of this curve lie in one point: it has no length.", f"{where}.controls", "leg-zero")
    if leg.weights is None or len(set(leg.weights)) == 1:
        spline = BSpline(knots, controls, degree)
    else:
        spline = BSpline(knots, np.column_stack([controls * np.array(leg.weights)[:, None], leg.weights]), degree)
    spline = settled(spline)
    bounds = [float(knots[0]), *halts(spline), float(knots[-1])]
    parts = [spline] if len(bounds) == 2 else [settled(sub_spline(spline, a, b)) for a, b in pairwise(bounds)]
    return [
        CurveSpan(_derivatives(part), np.unique(part.t), part, directions=end_directions(part))
        for part in parts
        if float(np.ptp(points_of(part.c), axis=0).max()) > WELD
    ]


def _derivatives(spline: BSpline) -> Derivatives:
    rates, changes = spline.derivative(1), spline.derivative(2) if spline.k > 1 else None

    def plain(t: Array) -> tuple[Array, Array, Array]:
        look_up(9 * len(t))
        return spline(t), rates(t), changes(t) if changes is not None else np.zeros((len(t), 3))

    def rational(t: Array) -> tuple[Array, Array, Array]:
        look_up(12 * len(t))
        # Quotient rule on p = A/w (Piegl and Tiller, The NURBS Book, section 4.3).
        a, b = spline(t), rates(t)
        c = changes(t) if changes is not None else np.zeros_like(a)
        w, w1, w2 = a[:, 3:], b[:, 3:], c[:, 3:]
        points = a[:, :3] / w
        first = (b[:, :3] - w1 * points) / w
        return points, first, (c[:, :3] - 2 * w1 * first - w2 * points) / w

    return plain if spline.c.shape[1] == 3 else rational


def _through(leg: ThroughLeg, begin: Array, where: str) -> list[Span]:
    """Return cubic splines through the points, one between every two sharp ones.

    The parameter grows with the root of the distance between points (centripetal, E. T. Y. Lee,
    1989), which keeps curves through uneven points from looping. Free ends are natural; a curve
    that comes back to its beginning, with no sharp point and no set direction, is smooth there too.
    """
    places = [begin, *(np.array(point.at, dtype=float) for point in leg.points), np.array(leg.to, dtype=float)]
    sharp = [True, *(point.sharp for point in leg.points), True]
    for index in range(1, len(places)):
        if float(np.linalg.norm(places[index] - places[index - 1])) <= WELD:
            spot = f"{where}.points.{index - 1}" if index < len(places) - 1 else f"{where}.to"
            raise Refused("Two points of this curve are the same: remove one of them or move it.", spot, "leg-zero")
    around = float(np.linalg.norm(places[-1] - places[0])) <= WELD and leg.begin is None and leg.end is None and not any(sharp[1:-1])
    if around and len(places) < 4:
        raise Refused("A smooth curve that closes on itself needs at least three points.", f"{where}.points", "curve-short")
    found: list[Span] = []
    low = 0
    for high in range(1, len(places)):
        if not sharp[high]:
            continue
        part = np.array(places[low : high + 1])
        first = leg.begin if low == 0 else None
        last = leg.end if high == len(places) - 1 else None
        if len(part) == 2 and first is None and last is None:
            found.append(straight(part[0], part[1], where))
        else:
            found.append(_smooth(part, first, last, around))
        low = high
    return found


def _smooth(points: Array, first: Point3 | None, last: Point3 | None, around: bool) -> CurveSpan:
    steps = np.sqrt(np.linalg.norm(np.diff(points, axis=0), axis=1))
    knots = np.concatenate([[0.0], np.cumsum(steps)])
    if around:
        points = points.copy()
        points[-1] = points[0]
        spline = CubicSpline(knots, points, bc_type="periodic")
    else:
        spline = CubicSpline(knots, points, bc_type=(_end(first, steps[0]), _end(last, steps[-1])))
    rates, changes = spline.derivative(1), spline.derivative(2)
    # The same curve by controls: through the same points, leaving and coming in alike.
    ends = rates(knots[[0, -1]])
    leaving: Any = ([(1, ends[0])], [(1, ends[1])])
    controls = make_interp_spline(knots, points, k=3, bc_type=leaving)
    return CurveSpan(lambda t: (spline(t), rates(t), changes(t)), knots, controls, "through")


def _end(direction: Point3 | None, step: float) -> tuple[Literal[1, 2], Array]:
    """Return the boundary condition: a set direction at the pace of the first or last part, or no bending."""
    if direction is None:
        return 2, np.zeros(3)
    along = np.array(direction)
    return 1, along / max(float(np.linalg.norm(along)), 1e-12) * step
