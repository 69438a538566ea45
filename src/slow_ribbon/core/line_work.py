"""Working on lines: split, join, reverse, another start, mirror, copy, simplify.

All are exact: an arc stays an arc, a part of a B-spline is a B-spline.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.interpolate import BSpline

from slow_ribbon.core.course import course_of
from slow_ribbon.core.faults import Refused
from slow_ribbon.core.join import straightened
from slow_ribbon.core.leg_spans import spans_of
from slow_ribbon.core.legs import AnyLeg, ArcLeg, CordLeg, CurveLeg, HelixLeg, StraightLeg, mapped, place, reshaped, reversed_leg
from slow_ribbon.core.line import Line, Mark, Opening
from slow_ribbon.core.model import Point3
from slow_ribbon.core.parts import line_parts
from slow_ribbon.core.shape import Array
from slow_ribbon.core.spans import CurveSpan, ScrewSpan, Span, StraightSpan
from slow_ribbon.core.units import WELD


def leg_begins(line: Line) -> list[Point3]:
    """Return where each leg of a line begins."""
    return [line.start, *(leg.to for leg in line.legs[:-1])]


def span_leg(span: Span, low: float, high: float) -> AnyLeg:
    """Return the leg that is a span from one distance along it to another."""
    ends = np.array([low, (low + high) / 2, high])
    if isinstance(span, CurveSpan):
        return _curve_leg(span, low, high)
    points = span.at(ends)[0]
    end = place(points[2])
    if isinstance(span, StraightSpan):
        return StraightLeg(to=end)
    if isinstance(span, ScrewSpan):
        turn = math.degrees(span.turn * (high - low) / span.length)
        if span.rise == 0 and turn < 359.999:
            return ArcLeg(to=end, via=place(points[1]))
        return HelixLeg(to=end, centre=place(span.centre), axis=place(np.cross(span.u, span.v)), turn=turn)
    if span.kind == "cord":
        return CordLeg(to=end, length=high - low)
    whole = getattr(span, "whole", None)
    assert whole is not None  # what is left is a part of one of the above
    return span_leg(whole, low + span.low, high + span.low)  # type: ignore[attr-defined]


def _curve_leg(span: CurveSpan, low: float, high: float) -> CurveLeg:
    first, last = (float(value) for value in span.parameters(np.array([low, high])))
    return spline_leg(span.spline, first, last)[1]


def spline_leg(spline: BSpline, first: float, last: float) -> tuple[Point3, CurveLeg]:
    """Return where a B-spline is at one parameter, and the leg that is its part from there to another.

    Controls have three coordinates, or four (times their weight, weight). Knots are put in at
    both ends until the curve meets its controls there.
    """
    degree = spline.k
    inside = float(spline.t[degree]), float(spline.t[-degree - 1])
    size = inside[1] - inside[0]
    for parameter in (first, last):
        near = np.abs(spline.t - parameter) < 1e-12 * size
        if near.any():
            parameter = float(spline.t[near][0])
        missing = degree - int(near.sum())
        if missing > 0:
            spline = spline.insert_knot(min(max(parameter, inside[0]), inside[1]), missing)
    begin = int(np.searchsorted(spline.t, first - 1e-12 * size, side="left"))
    end = int(np.searchsorted(spline.t, last + 1e-12 * size, side="right"))
    knots = spline.t[begin:end]
    # Inside the curve a full knot is met ``degree`` times; at its ends it stands once more.
    inner = knots[(knots > knots[0]) & (knots < knots[-1])]
    offset = int(np.searchsorted(spline.t, knots[0], side="right")) - degree - 1
    knots = np.concatenate([[knots[0]] * (degree + 1), inner, [knots[-1]] * (degree + 1)])
    controls = spline.c[offset : offset + len(knots) - degree - 1]
    weights = None
    if controls.shape[1] == 4:
        weights = tuple(float(w) for w in controls[:, 3])
        controls = controls[:, :3] / controls[:, 3:]
    leg = CurveLeg(
        to=place(controls[-1]),
        controls=tuple(place(point) for point in controls[1:-1]) or (place((controls[0] + controls[-1]) / 2),),
        degree=degree,
        knots=tuple(float(knot) for knot in knots),
        weights=weights,
    )
    if len(controls) == 2:
        # A straight stretch of degree 1 still has one control between its ends.
        leg = leg.model_copy(update={"degree": 2, "knots": None, "weights": None})
    return place(controls[0]), leg


@dataclass(frozen=True)
class Halves:
    """A line's legs before and after a place on it."""

    before: tuple[AnyLeg, ...]
    point: Point3
    after: tuple[AnyLeg, ...]


def halves(line: Line, chainage: float) -> Halves:
    """Return a line's legs before and after a chainage. A rounding that is cut through becomes a leg of its own."""
    at = 0.0
    parts = line_parts(line)
    for number, part in enumerate(parts):
        if chainage <= at + part.span.length or number == len(parts) - 1:
            break
        at += part.span.length
    distance = min(max(chainage - at, 0.0), part.span.length)
    if part.rounding and WELD < distance < part.span.length - WELD:
        return halves(unrounded(line, part.leg), chainage)
    legs, begins = list(line.legs), leg_begins(line)
    if part.rounding:
        # At the end of a rounding: on the leg before or after it.
        i = part.leg if distance <= WELD else (part.leg + 1) % len(legs)
        near = part.span.at(np.array([distance]))[0][0]
        span = spans_of(legs[i], begins[i])[-1 if distance <= WELD else 0]
        order = len(spans_of(legs[i], begins[i])) - 1 if distance <= WELD else 0
        distance = _distance_on(span, near)
    else:
        i, order, distance = part.leg, part.order, distance + part.low
        span = spans_of(legs[i], begins[i])[order]
    whole = spans_of(legs[i], begins[i])
    first, second = _leg_halves(legs[i], whole, order, distance)
    point = place(span.at(np.array([distance]))[0][0])
    if first:
        first[-1] = first[-1].model_copy(update={"to": point})
    if second:
        second[-1] = second[-1].model_copy(update={"to": legs[i].to, "round": legs[i].round})
    elif first:
        point = legs[i].to
        first[-1] = first[-1].model_copy(update={"to": point})
    else:
        point = begins[i]
    return Halves((*legs[:i], *first), point, (*second, *legs[i + 1 :]))


def _distance_on(span: Span, near: Array) -> float:
    low, high = 0.0, span.length
    for _ in range(100):
        a, b = low + (high - low) / 3, high - (high - low) / 3
        p, q = span.at(np.array([a, b]))[0]
        low, high = (low, b) if np.linalg.norm(p - near) < np.linalg.norm(q - near) else (a, high)
    return (low + high) / 2


def _leg_halves(leg: AnyLeg, spans: Sequence[Span], order: int, distance: float) -> tuple[list[AnyLeg], list[AnyLeg]]:
    """Return a leg cut at a distance on one of its spans; a whole leg where the cut lies at its end."""
    if order == 0 and distance <= WELD:
        return [], [leg]
    if order == len(spans) - 1 and distance >= spans[-1].length - WELD:
        return [leg.model_copy(update={"round": None})], []
    first: list[AnyLeg] = [span_leg(span, 0.0, span.length) for span in spans[:order]]
    second: list[AnyLeg] = [span_leg(span, 0.0, span.length) for span in spans[order + 1 :]]
    here = spans[order]
    if distance > WELD:
        first.append(span_leg(here, 0.0, distance))
    if here.length - distance > WELD:
        second.insert(0, span_leg(here, distance, here.length))
    return first, second


def unrounded(line: Line, leg: int) -> Line:
    """Return a line whose rounding after leg ``leg`` is an arc leg of its own; nothing of it moves."""
    parts = line_parts(line)
    number = next(i for i, part in enumerate(parts) if part.rounding and part.leg == leg)
    span = parts[number].span
    ends = span.at(np.array([0.0, span.length]))[0]
    legs, begins = list(line.legs), leg_begins(line)
    after = (leg + 1) % len(legs)
    first = _leg_halves(legs[leg], spans_of(legs[leg], begins[leg]), _last_order(line, leg), _cut(line, leg, ends[0]))[0]
    second = _leg_halves(legs[after], spans_of(legs[after], begins[after]), 0, _cut(line, after, ends[1], first=True))[1]
    arc = span_leg(span, 0.0, span.length)
    second[-1] = second[-1].model_copy(update={"to": legs[after].to, "round": legs[after].round}) if second else arc
    middle = [*first, arc, *second]
    if after == 0:
        return line.model_copy(update={"start": place(ends[1]), "legs": (*second, *legs[1:leg], *first, arc)})
    return line.model_copy(update={"legs": (*legs[:leg], *middle, *legs[after + 1 :])})


def _last_order(line: Line, leg: int) -> int:
    return len(spans_of(line.legs[leg], leg_begins(line)[leg])) - 1


def _cut(line: Line, leg: int, near: Array, first: bool = False) -> float:
    spans = spans_of(line.legs[leg], leg_begins(line)[leg])
    return _distance_on(spans[0] if first else spans[-1], near)


def reverse(line: Line) -> Line:
    """Return a line gone the other way; openings and marks stay where they are on it."""
    length = course_of(line).length
    begins = leg_begins(line)
    legs = [reversed_leg(leg, begin) for leg, begin in zip(line.legs, begins, strict=True)][::-1]
    # The radius at the end of a leg belongs to the corner there.
    radii = [line.legs[i - 1].round for i in range(len(line.legs) - 1, 0, -1)] + [line.legs[-1].round if line.closed else None]
    legs = [leg.model_copy(update={"round": radius}) for leg, radius in zip(legs, radii, strict=True)]
    # Where the start of a closed line is rounded, its chainage begins after the rounding.
    last = line_parts(line)[-1] if line.closed else None
    before = last.span.length if last is not None and last.rounding else 0.0
    openings = []
    for opening in reversed(line.openings):
        at = length - before - opening.at - opening.width
        openings.append(opening.model_copy(update={"at": at % length if line.closed else max(0.0, at)}))
    marks = []
    for mark in reversed(line.marks):
        at = length - before - mark.at
        marks.append(mark.model_copy(update={"at": at % length if line.closed else max(0.0, at)}))
    return line.model_copy(update={"start": line.legs[-1].to, "legs": tuple(legs), "openings": tuple(openings), "marks": tuple(marks)})


def start_at(line: Line, chainage: float) -> Line:
    """Return a closed line that starts at another place; openings and marks stay where they are. Raises ``Refused`` for an open one."""
    if not line.closed:
        raise Refused(f"{line.name} is open: it starts where it starts. Reverse it to go the other way.", "line", "line-open")
    length = course_of(line).length
    parted = halves(line, chainage % length)
    return line.model_copy(
        update={
            "start": parted.point,
            "legs": (*parted.after, *parted.before),
            "openings": tuple(opening.model_copy(update={"at": (opening.at - chainage) % length}) for opening in line.openings),
            "marks": tuple(mark.model_copy(update={"at": (mark.at - chainage) % length}) for mark in line.marks),
        }
    )


def split(line: Line, chainage: float) -> tuple[Line, Line | None]:
    """Return the two lines that a line makes when split at a chainage; a closed one opens there and stays one.

    Raises ``Refused`` at an end, or inside an opening.
    """
    length = course_of(line).length
    for opening in line.openings:
        if opening.at + WELD < chainage < opening.at + opening.width - WELD:
            raise Refused(f"Opening {opening.name} lies there: split beside it.", "at", "opening")
    if line.closed:
        opened = start_at(line, chainage)
        last = opened.legs[-1].model_copy(update={"round": None})
        return opened.model_copy(update={"legs": (*opened.legs[:-1], last), "closed": False}), None
    if not WELD < chainage < length - WELD:
        raise Refused(f"There is nothing to split off at {chainage:.1f}: choose a place between the ends of {line.name}.", "at", "split")
    parted = halves(line, chainage)
    before = (*parted.before[:-1], parted.before[-1].model_copy(update={"round": None}))
    first = line.model_copy(
        update={
            "legs": before,
            "openings": tuple(opening for opening in line.openings if opening.at < chainage - WELD),
            "marks": tuple(mark for mark in line.marks if mark.at <= chainage),
        }
    )
    second = line.model_copy(
        update={
            "start": parted.point,
            "legs": parted.after,
            "openings": tuple(_moved(opening, -chainage) for opening in line.openings if opening.at >= chainage - WELD),
            "marks": tuple(_moved(mark, -chainage) for mark in line.marks if mark.at > chainage),
        }
    )
    return first, second


def _moved(thing: Any, by: float) -> Any:
    return thing.model_copy(update={"at": max(0.0, thing.at + by)})


def join_lines(lines: Sequence[Line], tolerance: float) -> Line:
    """Return one line of several open ones, laid end to end from the first; those that lie the wrong way round are reversed.

    Gaps up to ``tolerance`` mm are closed half way. Raises ``Refused`` where a line is closed or too far off.
    """
    for line in lines:
        if line.closed:
            raise Refused(f"{line.name} is closed: only open lines can be joined.", "lines", "line-closed")
    chain, rest = lines[0], list(lines[1:])
    while rest:
        ways = []
        for index, line in enumerate(rest):
            for at_end in (True, False):
                for turned in (False, True):
                    other = (line.legs[-1].to if turned else line.start) if at_end else (line.start if turned else line.legs[-1].to)
                    own = chain.legs[-1].to if at_end else chain.start
                    ways.append((math.dist(own, other), index, at_end, turned))
        gap, index, at_end, turned = min(ways)
        line = rest.pop(index)
        if gap > tolerance:
            raise Refused(
                f"{line.name} ends {gap:.1f} mm from {lines[0].name}, more than the {tolerance:g} mm that is closed: move it nearer.",
                "lines",
                "gap",
            )
        line = reverse(line) if turned else line
        chain = _chained(chain, line) if at_end else _chained(line, chain, chain)
    if math.dist(chain.start, chain.legs[-1].to) <= tolerance and len(chain.legs) > 1:
        chain = moved_point(chain, len(chain.legs), chain.start).model_copy(update={"closed": True})
    return chain


def _chained(first: Line, second: Line, keeps: Line | None = None) -> Line:
    middle = place((np.array(first.legs[-1].to) + np.array(second.start)) / 2)
    if math.dist(first.legs[-1].to, second.start) > 0:
        first = moved_point(first, len(first.legs), middle)
        second = moved_point(second, 0, middle)
    length = course_of(first).length
    names = {opening.name for opening in first.openings}
    openings = [*first.openings, *(_unique(_moved(opening, length), names) for opening in second.openings)]
    names = {mark.name for mark in first.marks}
    marks = [*first.marks, *(_unique(_moved(mark, length), names) for mark in second.marks)]
    return (keeps or first).model_copy(
        update={"start": first.start, "legs": (*first.legs, *second.legs), "openings": tuple(openings), "marks": tuple(marks)}
    )


def _unique(thing: Opening | Mark, names: set[str]) -> Any:
    name, number = thing.name, 2
    while name in names:
        name, number = f"{thing.name} {number}", number + 1
    return thing.model_copy(update={"name": name})


def moved_point(line: Line, index: int, to: Point3) -> Line:
    """Return a line with one of its points moved; its curves follow in proportion. Points are counted from 0 at the start."""
    begins = leg_begins(line)
    legs = list(line.legs)
    start = line.start
    if index == 0:
        legs[0] = reshaped(legs[0], start, to, legs[0].to if len(legs) > 1 or not line.closed else to)
        start = to
        if line.closed:
            last = len(legs) - 1
            begin = to if last == 0 else begins[last]
            legs[last] = reshaped(legs[last], begins[last], begin, to) if last else legs[last].model_copy(update={"to": to})
    else:
        legs[index - 1] = reshaped(legs[index - 1], begins[index - 1], begins[index - 1], to)
        if index < len(legs):
            legs[index] = reshaped(legs[index], begins[index], to, legs[index].to)
    return line.model_copy(update={"start": start, "legs": tuple(legs)})


def turned(line: Line, turn: float, about: Point3, by: Point3) -> Line:
    """Return a line turned by ``turn`` degrees about an upright axis through ``about`` and moved ``by``."""
    cosine, sine = math.cos(math.radians(turn)), math.sin(math.radians(turn))

    def direct(value: Any) -> Point3:
        return float(cosine * value[0] - sine * value[1]), float(sine * value[0] + cosine * value[1]), float(value[2])

    def move(point: Any) -> Point3:
        return place(np.add(np.add(about, by), direct(np.subtract(point, about))))

    return _carried(line, move, direct)


def mirrored(line: Line, a: Point3, b: Point3) -> Line:
    """Return a line mirrored in the upright plane through two points. Raises ``Refused`` where they are over one another."""
    along = np.array([b[0] - a[0], b[1] - a[1], 0.0])
    size = float(np.linalg.norm(along))
    if size <= WELD:
        raise Refused("The two points of the mirror line are the same on plan: move them apart.", "b", "mirror")
    along /= size
    turn = 2 * np.outer(along, along) - np.diag([1.0, 1.0, -1.0])

    def direct(value: Any) -> Point3:
        return place(turn @ np.asarray(value, dtype=float))

    def move(point: Any) -> Point3:
        return place(np.add(a, direct(np.subtract(point, a))))

    found = _carried(line, move, direct)
    legs = tuple(leg.model_copy(update={"turn": -leg.turn}) if isinstance(leg, HelixLeg) else leg for leg in found.legs)
    return found.model_copy(update={"legs": legs})


def _carried(line: Line, move: Any, direct: Any) -> Line:
    start = move(line.start)
    legs = [mapped(leg, move(leg.to), move, direct, 1.0) for leg in line.legs]
    if line.closed:
        legs[-1] = legs[-1].model_copy(update={"to": start})
    return line.model_copy(update={"start": start, "legs": tuple(legs)})


def simplified(line: Line, tolerance: float) -> tuple[Line, float]:
    """Return a line without the points of its straights that stray no more than ``tolerance`` mm, and how far it strays at most.

    Curves, rounded corners and the ends stay as they are.
    """
    begins = leg_begins(line)
    runs: list[list[Point3]] = []
    out: list[AnyLeg] = []
    strayed = 0.0
    run: list[Point3] = []

    def settle() -> None:
        nonlocal strayed, run
        if not run:
            return
        points = np.array(run)
        whole = line.closed and len(run) == len(line.legs) + 1
        tidy = straightened(points[:-1] if whole else points, whole, tolerance)
        if whole:
            # A closed line keeps its own start unless that lies on a straight.
            runs.append([place(point) for point in tidy])
            tidy = np.vstack([tidy, tidy[:1]])
        strayed = max(strayed, _deviation(points, tidy))
        out.extend(StraightLeg(to=place(point)) for point in tidy[1:])
        run = []

    for leg, begin in zip(line.legs, begins, strict=True):
        if not isinstance(leg, StraightLeg):
            settle()
            out.append(leg)
            continue
        run = [*(run or [begin]), leg.to]
        if leg.round is not None:
            settle()
            out[-1] = out[-1].model_copy(update={"round": leg.round})
    settle()
    start = runs[0][0] if runs else line.start
    return line.model_copy(update={"start": start, "legs": tuple(out)}), strayed


def _deviation(points: Array, tidy: Array) -> float:
    most = 0.0
    for point in points:
        along = tidy[1:] - tidy[:-1]
        square = np.maximum(np.einsum("ij,ij->i", along, along), 1e-300)
        share = np.clip(np.einsum("ij,ij->i", point - tidy[:-1], along) / square, 0, 1)
        away = point - tidy[:-1] - along * share[:, None]
        most = max(most, math.sqrt(float(np.einsum("ij,ij->i", away, away).min())))
    return most
