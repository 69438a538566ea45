"""Figures of lines as the window receives them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import islice, pairwise
from typing import Any, Literal

import numpy as np
import shapely
from typing_extensions import TypedDict

from slow_ribbon.core.job import line_faults
from slow_ribbon.core.job.edits import AnyEdit
from slow_ribbon.core.kernel import CHORD_HEIGHT, SAME_PLACE, Array
from slow_ribbon.core.lines import Course, Hanging, Line, LinePart, course_of, hanging, line_parts, only_straight, pane_laid, strip_laid
from slow_ribbon.core.runs import stretches_between
from slow_ribbon.core.solve import key_of, solve_wall
from slow_ribbon.service.views.sentences import Sentence, sentence_parts

Coordinates = tuple[float, float, float]
Point2 = tuple[float, float]
DrawnOutline = list[int]
"""An outline as it travels: see ``drawn``."""


class BendFigures(TypedDict):
    """A corner of a line by itself: no face, so neither internal nor external."""

    chainage: float
    angle: float


class CordFigures(TypedDict):
    """How a cord hangs: its sag, mm, and where its weight is known its pulls, N: level, at its begin and at its end."""

    sag: float
    level: float | None
    begin: float | None
    end: float | None


class LegFigures(TypedDict):
    """A smooth part of a line. ``leg`` is its leg's number; a rounding lies between that leg and the next."""

    kind: str
    leg: int
    rounding: bool
    begin: float
    end: float
    radius: float | None
    turn: float
    rise: float
    cord: CordFigures | None


class StretchOfLine(TypedDict):
    """A stretch between openings, with the ids of those that bound it."""

    begin: float
    length: float
    after: str | None
    before: str | None


class LineFaultFigures(TypedDict):
    """Something wrong with a line by itself, and the edit that mends it, under the name of the action."""

    kind: str
    what: Sentence
    chainage: float
    point: Coordinates
    action: str
    mend: AnyEdit


class StripFigures(TypedDict):
    """A strip along a line: its area, mm², its ground on plan, and the joints across it, from its left to its right.

    ``grounds`` are outlines, the outer one of each first, then its holes; ``level``: it lies at one height.
    """

    area: float
    grounds: list[list[list[Point2]]]
    joints: list[tuple[Point2, Point2]]
    level: bool


class PaneFigures(TypedDict):
    """A pane in a line: its area, mm², its sides, and the outlines of its parts, across it and up it from its origin, mm.

    ``axes`` are the units across it, up it and out of it; its origin lies in the middle of its thickness.
    """

    of: Literal["glass", "mesh", "boards"]
    thickness: float
    area: float
    sides: Point2
    origin: Coordinates
    axes: list[Coordinates]
    parts: list[list[Point2]]


class LineFigures(TypedDict):
    """A line's figures. ``wall`` is the key of its backdrop's mesh, which lies from ``origin``.

    ``path`` and ``chainages`` draw a line that has curves, within 0.2 mm; a straight-legged one
    is drawn through its points. ``heights`` are (chainage, height) of a line that is not level.
    """

    id: str
    length: float
    plan_length: float
    bends: list[BendFigures]
    legs: list[LegFigures]
    path: list[Coordinates] | None
    chainages: list[float] | None
    heights: list[Point2]
    stretches: list[StretchOfLine]
    rule: Literal["upright", "carried"]
    why: str
    leftover: float
    faults: list[LineFaultFigures]
    strip: StripFigures | None
    pane: PaneFigures | None
    wall: str | None
    wall_footprints: list[list[DrawnOutline]]
    origin: Coordinates


def wall_key(line: Line) -> str:
    """Return the key of a line's backdrop mesh."""
    return key_of("wall", line)


#: Outlines of no more points than this go from point to point where they follow one another.
_FEW_POINTS = 4
#: Places of a profile that is drawn on the rod.
_MOST_HEIGHTS = 5000
#: A line with more legs than this, a brought-in contour say, is not reported leg by leg.
_MOST_LEGS = 3000


def line_shown(line: Line) -> LineFigures:
    """Return a line's figures."""
    course = course_of(line)
    bent = course.turns > 0
    path: list[Coordinates] | None = None
    places: list[float] | None = None
    if course.paths:
        places, path = path_shown(line)
        plan = np.array(path)
    else:
        plan = np.array([line.start, *(leg.to for leg in line.legs)])
    steps = plan[1:, :2] - plan[:-1, :2]
    plan_length = float(np.hypot(steps[:, 0], steps[:, 1]).sum())
    return LineFigures(
        id=line.id,
        length=figure(course.length),
        plan_length=figure(plan_length),
        bends=[
            BendFigures(chainage=chainage, angle=angle)
            for chainage, angle in zip(_rounded(course.begins[bent], 4), _rounded(180 - np.degrees(course.turns[bent]), 4), strict=True)
        ],
        legs=legs_shown(line),
        path=path,
        chainages=places,
        heights=_heights(course, line),
        stretches=[
            StretchOfLine(begin=figure(one.begin), length=figure(one.length), after=one.between.after, before=one.between.before)
            for one in stretches_between(line, course.length)
        ],
        rule=course.rule,
        why=course.why,
        leftover=figure(np.degrees(course.leftover)),
        faults=[
            LineFaultFigures(
                kind=fault.kind,
                what=sentence_parts(fault.what),
                chainage=figure(fault.chainage),
                point=place(fault.point),
                action=fault.action,
                mend=fault.mend,
            )
            for fault in line_faults(line)
        ],
        strip=_strip(line, course),
        pane=pane_shown(line),
        wall=wall_key(line) if line.wall else None,
        wall_footprints=drawn_together(solve_wall(line).footprints) if line.wall else [],
        origin=place(course.starts[0]),
    )


def _strip(line: Line, course: Course) -> StripFigures | None:
    if line.strip is None:
        return None
    laid = strip_laid(line)
    here = course.at(laid.joints)
    rights = here.rights[:, :2]
    ends = np.stack([here.points[:, :2] - rights * line.strip.left, here.points[:, :2] + rights * line.strip.right], axis=1)
    return StripFigures(
        area=figure(laid.region.area),
        grounds=[
            [flats(shapely.get_coordinates(ring)) for ring in (part.exterior, *part.interiors)] for part in shapely.get_parts(laid.region)
        ],
        joints=[(left, right) for left, right in (flats(one) for one in ends)],
        level=len(_heights(course, line)) == 0,
    )


def pane_shown(line: Line) -> PaneFigures | None:
    """Return the figures of the pane in a line; None where it has none."""
    laid = pane_laid(line)
    if laid is None:
        return None
    return PaneFigures(
        of=laid.pane.of,
        thickness=laid.pane.thickness,
        area=figure(laid.outline.area),
        sides=(figure(laid.sides[0]), figure(laid.sides[1])),
        origin=place(laid.origin),
        axes=[(float(x), float(y), float(z)) for x, y, z in laid.axes],
        parts=[flats(shapely.get_coordinates(part)[:-1]) for part in laid.parts],
    )


def path_shown(line: Line) -> tuple[list[float], list[Coordinates]]:
    """Return a line's polyline for drawing: chainages and places from its start on."""
    course = course_of(line)
    return _from_start(course, *course.flattened(CHORD_HEIGHT))


def legs_shown(line: Line) -> list[LegFigures]:
    """Return the smooth parts of a line; none for a brought-in contour of thousands of straights."""
    return _legs(line, line_parts(line)) if len(line.legs) <= _MOST_LEGS or not only_straight(line) else []


def _from_start(course: Course, chainages: Array, points: Array) -> tuple[list[float], list[Coordinates]]:
    """Return a course's polyline from chainage 0 on; a closed line's first corner may lie further along."""
    if course.closed and chainages[0] > 0:
        over = int(np.searchsorted(chainages, course.length))
        start = course.points_at(np.zeros(1))
        chainages = np.concatenate([[0.0], chainages[over:] - course.length, chainages[:over], [course.length]])
        points = np.concatenate([start, points[over:], points[:over], start])
    return _rounded(chainages, 4), _rounded(points, 4)


def _cord(found: Hanging | None) -> CordFigures | None:
    if found is None:
        return None
    pulls = found.pulls
    if pulls is None:
        return CordFigures(sag=figure(found.sag), level=None, begin=None, end=None)
    return CordFigures(sag=figure(found.sag), level=pulls.level, begin=pulls.begin, end=pulls.end)


def _legs(line: Line, parts: Sequence[LinePart]) -> list[LegFigures]:
    found, at = [], 0.0
    for part in parts:
        span = part.span
        radius, turn = (None, 0.0) if span.winding is None else span.winding
        found.append(
            LegFigures(
                kind=span.kind,
                leg=part.leg,
                rounding=part.rounding,
                begin=figure(at),
                end=figure(at + span.length),
                radius=None if radius is None else figure(radius),
                turn=figure(math.degrees(turn)),
                rise=figure(span.rise),
                cord=_cord(hanging(span, line.legs[part.leg])),
            )
        )
        at += span.length
    return found


def _heights(course: Course, line: Line) -> list[Point2]:
    """Return (chainage, height) along a line that is not level, for its profile."""
    chainages, points = course.flattened(1.0)
    if np.ptp(points[:, 2]) < SAME_PLACE:
        return []
    at, places = _from_start(course, chainages, points)
    profile = [(chainage, point[2]) for chainage, point in zip(at, places, strict=True)]
    # A profile of more places than the rod has pixels is thinned, its ends kept.
    step = 1 + len(profile) // _MOST_HEIGHTS
    return profile if step == 1 else [*profile[:-1:step], profile[-1]]


def figure(value: float) -> float:
    """Return a number as it is shown: to a ten-thousandth of its unit."""
    return round(float(value), 4) + 0.0


def place(values: Sequence[float] | Array) -> Coordinates:
    """Return three numbers as a place, to a ten-thousandth of a millimetre."""
    return round(float(values[0]), 4), round(float(values[1]), 4), round(float(values[2]), 4)


def flats(points: Array) -> list[Point2]:
    """Return points (n, 2) that are only drawn as a list, to a hundredth of a millimetre."""
    return _rounded(points, 2)


def drawn(outlines: Sequence[Array], share: float = 0.0) -> list[DrawnOutline]:
    """Return outlines (n, 2) as they travel: second differences along each, in tenths of a millimetre, x and y in turn.

    Along a curve these are small and alike, so that an outline takes a third of what its
    coordinates would; adding them up twice gives the outline back. Points are left out where
    what is drawn strays by no more than a ``share`` of its size.
    """
    if not outlines:
        return []
    if share:
        outlines = [_simpler(points, share) if len(points) > 8 else points for points in outlines]
    # All at once: most are of four points, and there are many.
    firsts = np.concatenate([[0], np.cumsum([len(points) for points in outlines])])
    steps = np.round(np.concatenate(outlines) * 10).astype(np.int64)
    for _ in range(2):
        before = np.zeros_like(steps)
        before[1:] = steps[:-1]
        before[firsts[:-1]] = 0
        steps -= before
    numbers: list[int] = steps.ravel().tolist()
    return [numbers[2 * low : 2 * high] for low, high in pairwise(firsts.tolist())]


def drawn_together(groups: Sequence[Sequence[Array]]) -> list[list[DrawnOutline]]:
    """Return groups of outlines as they travel."""
    all_drawn = iter(drawn([outline for group in groups for outline in group]))
    return [list(islice(all_drawn, len(group))) for group in groups]


def drawn_in_a_row(groups: Sequence[Sequence[Array]]) -> list[list[DrawnOutline]]:
    """Return groups of outlines that follow one another, as the pieces of a run do, as they travel: x and y in turn, in tenths of a mm.

    Each begins with how far its first point lies from the middle one of the outline before; the next numbers are differences from point to
    point, and beyond four points second differences, which are small along a curve. Where one piece ends the next begins, so that an
    outline takes half of what its coordinates would.
    """
    found: list[list[DrawnOutline]] = []
    middle = np.zeros((1, 2), dtype=np.int64)
    for group in groups:
        found.append([])
        for points in group:
            tenths = np.round(points * 10).astype(np.int64)
            steps = np.diff(tenths, axis=0)
            if len(tenths) > _FEW_POINTS:
                steps[1:] = np.diff(steps, axis=0)
            found[-1].append(np.concatenate([tenths[:1] - middle, steps]).ravel().tolist())
            middle = tenths[len(tenths) // 2 - 1][None]
    return found


def _simpler(points: Array, share: float) -> Array:
    path = shapely.simplify(shapely.linestrings(points), float(np.ptp(points, axis=0).max()) * share, preserve_topology=False)
    return np.asarray(shapely.get_coordinates(path))


def _rounded(values: Array, places: int) -> list[Any]:
    found: list[Any] = (np.round(values, places) + 0.0).tolist()
    return found
