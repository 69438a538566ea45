"""A line's legs resolved into smooth parts, with its corners rounded where they are to be.

Terms
-----
part
    a smooth span of a line with the leg it belongs to; a rounding is a part between two legs.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.optimize import fsolve

from slow_ribbon.core.geometry.curves import Curve, ScrewSpan, StraightSpan
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import NO_LENGTH, SAME_PLACE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.legs.curve import smooth_cubics
from slow_ribbon.core.lines.model import Line


@dataclass(frozen=True)
class LinePart:
    """A smooth part of a line.

    ``leg`` is its leg's number, or for a rounding that of the leg it comes after; ``order`` its
    place among the spans of a leg that has several; ``low`` what a rounding took from its beginning.
    """

    span: Curve
    leg: int
    rounding: bool = False
    order: int = 0
    low: float = 0.0


def only_straight(line: Line) -> bool:
    """Return whether a line has nothing but straight legs and sharp corners."""
    return all(leg.straight and leg.round is None for leg in line.legs)


def _straights(line: Line) -> tuple[LinePart, ...] | None:
    """Return the parts of a line of straights, worked out together; None where one has no length."""
    points = np.array([line.start, *(leg.to for leg in line.legs)], dtype=float)
    along = points[1:] - points[:-1]
    lengths = np.sqrt(np.einsum("ij,ij->i", along, along))
    if not lengths.min() > WELD:
        return None
    tangents = along / lengths[:, None]
    spans = zip(points[:-1], tangents, lengths.tolist(), strict=True)
    return tuple(LinePart(StraightSpan(begin, tangent, length), index) for index, (begin, tangent, length) in enumerate(spans))


@kept_with
def line_parts(line: Line) -> tuple[LinePart, ...]:
    """Return a line's smooth parts from its start on. Raises ``Refused`` for a leg or a radius that cannot be."""
    if only_straight(line) and (plain := _straights(line)) is not None:
        return plain
    parts: list[LinePart] = []
    first_of: list[int] = []
    begin = line.start
    smooth = smooth_cubics(line.start, line.legs)
    for index, leg in enumerate(line.legs):
        look_up()
        first_of.append(len(parts))
        spans = [smooth[index]] if index in smooth else leg.spans(begin, f"legs.{index}")
        parts.extend(LinePart(span, index, order=order) for order, span in enumerate(spans))
        begin = leg.to
    if all(leg.round is None for leg in line.legs):
        return tuple(parts)
    cut_begin, cut_end = [0.0] * len(parts), [0.0] * len(parts)
    fillets: dict[int, ScrewSpan] = {}
    rounded: list[tuple[int, int, int, float]] = []
    for index, leg in enumerate(line.legs):
        if leg.round is None:
            continue
        after = index + 1
        if after == len(line.legs):
            if not line.closed:
                what = f"Point {after + 1} of {line.name} is an end, not a corner: it has no radius."
                raise Refused(what, f"legs.{index}.round", "round")
            after = 0
        a, b = (first_of[after] or len(parts)) - 1, first_of[after]
        if _runs_on(parts[a].span, parts[b].span):
            # Where the line goes straight on there is no corner, and nothing to round until it is moved.
            continue
        rounded.append((index, a, b, leg.round))
        found = fillet(parts[a].span, parts[b].span, leg.round)
        if found is not None:
            cut_end[a], cut_begin[b], fillets[a] = found
    for index, a, b, radius in rounded:
        if a in fillets and all(cut_begin[i] + cut_end[i] <= parts[i].span.length + NO_LENGTH for i in (a, b)):
            continue
        most = _largest(parts[a].span, parts[b].span, radius, cut_begin[a], cut_end[b])
        fits = f"the largest that fits there is {figure(math.floor(most * 100) / 100, 3)}" if most > 0.01 else "none fits there"
        raise Refused(
            f"A radius of {figure(radius, 3)} does not fit the corner after leg {index + 1} of {line.name}: {fits}.",
            f"legs.{index}.round",
            "round-large",
        )
    found_parts: list[LinePart] = []
    for i, part in enumerate(parts):
        if part.span.length - cut_begin[i] - cut_end[i] > WELD:
            span = part.span.part(cut_begin[i], part.span.length - cut_end[i])
            found_parts.append(LinePart(span, part.leg, order=part.order, low=cut_begin[i]))
        if i in fillets:
            found_parts.append(LinePart(fillets[i], part.leg, rounding=True))
    if line.closed and line.rounding_at_start == "first" and found_parts[-1].rounding:
        found_parts.insert(0, found_parts.pop())
    return tuple(found_parts)


def _runs_on(before: Curve, after: Curve) -> bool:
    return float(np.linalg.norm(before.direction(last=True) - after.direction(last=False))) < math.radians(0.01)


def fillet(before: Curve, after: Curve, radius: float) -> tuple[float, float, ScrewSpan] | None:
    """Return how much of each span a rounding of their common corner takes, and its arc; ``None`` where it does not fit.

    The centre lies at ``radius`` from both: for straights at r·tan(θ/2) along each, for curves
    where their offsets meet, found by Newton's method from there.
    """
    _, t1, _ = before.at(np.array([before.length]))
    corner, t2, _ = after.at(np.zeros(1))
    first, second = t1[0], t2[0]
    axis = np.cross(first, second)
    size = math.sqrt(float(axis @ axis))
    turn = math.atan2(size, float(first @ second))
    if size < NO_LENGTH:
        return None
    axis /= size
    guess = radius * math.tan(turn / 2)
    if before.straight and after.straight:
        x = y = guess
    else:

        def off(at: Array) -> Array:
            p, t, _ = before.at(np.array([before.length - min(max(at[0], -guess), before.length)]))
            q, v, _ = after.at(np.array([min(max(at[1], -guess), after.length)]))
            apart = p[0] + radius * np.cross(axis, t[0]) - q[0] - radius * np.cross(axis, v[0])
            return np.array([apart @ first, apart @ np.cross(axis, first)])

        solved, _, good, _ = fsolve(off, np.array([min(guess, before.length), min(guess, after.length)]), full_output=True, xtol=1e-13)
        x, y = float(solved[0]), float(solved[1])
        if good != 1 and float(np.abs(off(solved)).max()) > SAME_PLACE:
            return None
    if not (0 < x <= before.length + NO_LENGTH and 0 < y <= after.length + NO_LENGTH):
        return None
    p, t, _ = before.at(np.array([before.length - x]))
    q, v, _ = after.at(np.array([y]))
    out_of_plane = max(abs(float((p[0] - corner[0]) @ axis)), abs(float((q[0] - corner[0]) @ axis)))
    angle = math.atan2(float(np.cross(t[0], v[0]) @ axis), float(t[0] @ v[0]))
    if out_of_plane > WELD or angle <= 0:
        return None
    return x, y, _turned(p[0], t[0], axis, radius, angle)


def _turned(begin: Array, tangent: Array, axis: Array, radius: float, angle: float) -> ScrewSpan:
    """Return the arc that leaves ``begin`` along ``tangent`` and turns about ``axis``."""
    u = np.cross(tangent, axis)
    return ScrewSpan(centre=begin - radius * u, u=u, v=tangent, axis=axis, radius=radius, turn=angle, climb=0.0)


def _largest(before: Curve, after: Curve, too_large: float, taken_before: float, taken_after: float) -> float:
    """Return the largest radius that fits a corner whose spans have lost something at their other ends."""
    low, high = 0.0, too_large
    for _ in range(60):
        middle = (low + high) / 2
        found = fillet(before, after, middle)
        fits = found is not None and found[0] <= before.length - taken_before and found[1] <= after.length - taken_after
        low, high = (middle, high) if fits else (low, middle)
    return low
