"""The free ends of a run finished: which is made how, and the course with the small pieces that it is returned by."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, Final

import numpy as np

from slow_ribbon.core.kernel.arrays import Array, Flags
from slow_ribbon.core.kernel.tolerances import CONTACT, NO_LENGTH, SAME_PLACE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.runs.end_surfaces.planes import EndSurface
from slow_ribbon.core.runs.end_surfaces.scribe_model import ScribeTarget
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.treatments.ends import Finish, FreeEnd, NoCut, SquareEnd
from slow_ribbon.core.sections.outline.profile import Shape

PLAIN: Final = SquareEnd()


@dataclass(frozen=True)
class Finishing:
    """What becomes of a course of m pieces: ``course`` is it with its returns.

    ``ways``: how free ends are made that are not plainly square, by their piece and whether it is its end. ``normals`` and ``offsets``: the
    planes of those that are cut, normals with a positive part along travel. ``met``: what they meet. ``returns`` (m,): which pieces are
    returns; ``mitred`` (m,): which pieces begin at the corner of one. ``refused``: why ends are cut square that are meant otherwise.
    ``hollows``: how far it stays open behind ends, mm, where it does.
    """

    course: Course
    ways: Mapping[tuple[int, bool], Finish]
    normals: Mapping[tuple[int, bool], Array]
    offsets: Mapping[tuple[int, bool], float]
    returns: Flags
    mitred: Flags
    refused: Mapping[tuple[int, bool], str] = field(default_factory=dict)
    met: Mapping[tuple[int, bool], ScribeTarget] = field(default_factory=dict)
    hollows: Mapping[tuple[int, bool], float] = field(default_factory=dict)


def finished(course: Course, run: Run, right: bool) -> Finishing:
    """Return how the free ends of a run's course are made; ``right`` says whether it faces right."""
    ways = {end: way for end, way in free_ends(course, run).items() if way != PLAIN}
    nothing = np.zeros(course.count, dtype=bool)
    if not ways:
        return Finishing(course, {}, {}, {}, nothing, nothing)
    refused: dict[tuple[int, bool], str] = {}
    for (i, end), way in ways.items():
        if way.return_depth is not None and way.past and i in course.paths:
            refused[i, end] = "it goes past its line only where it ends straight, so that its return is at the end of the line"
    course, ways, returns, mitred, moved = _with_returns(course, ways, right)
    refused = {(moved[i], end): why for (i, end), why in refused.items()}
    normals: dict[tuple[int, bool], Array] = {}
    offsets: dict[tuple[int, bool], float] = {}
    for (i, end), way in ways.items():
        if way.return_depth is not None:
            continue
        tangent, across, up = (
            (course.tangents_end[i], course.rights_end[i], course.ups_end[i])
            if end
            else (course.tangents[i], course.rights[i], course.ups[i])
        )
        sense = 1.0 if end else -1.0
        try:
            normal = sense * way.normal(sense * tangent, across if right else -across, up)
        except NoCut as none:
            refused[i, end] = str(none)
            normal = tangent
            offsets[i, end] = sense * way.past
        else:
            offsets[i, end] = sense * way.beyond(sense * tangent)
        normals[i, end] = normal / np.linalg.norm(normal)
    return Finishing(course, ways, normals, offsets, returns, mitred, refused, _met(course, run, ways))


def _met(course: Course, run: Run, ways: Mapping[tuple[int, bool], Finish]) -> dict[tuple[int, bool], ScribeTarget]:
    """Return what the scribed ends of a run meet."""
    found: dict[tuple[int, bool], ScribeTarget] = {}
    for i, end in ways:
        at = float(course.begins[i] + (course.lengths[i] if end else 0.0))
        near = [
            one
            for one in run.near.met
            if abs(one.at - at) < SAME_PLACE or (course.closed and abs(one.at - at % course.length) < SAME_PLACE)
        ]
        if near:
            found[i, end] = near[0]
    return found


def end_surfaces(
    finishing: Finishing, course: Course, lying: Callable[[int], tuple[Shape, bool]], right: bool
) -> tuple[Finishing, dict[tuple[int, bool], EndSurface]]:
    """Return the surfaces of the ends that are no planes, and how ends are made with why some of them are not as they are meant.

    ``course`` has the frames of the pieces as they lie; ``lying`` returns the section of a piece in these, and whether it is as drawn.
    """
    surfaces: dict[tuple[int, bool], EndSurface] = {}
    refused, hollows = dict(finishing.refused), {}
    for (i, end), way in finishing.ways.items():
        path = course.paths.get(i)
        place, tangent, across, up = (
            (course.ends[i], course.tangents_end[i], course.rights_end[i], course.ups_end[i])
            if end
            else (course.starts[i], course.tangents[i], course.rights[i], course.ups[i])
        )
        shape, drawn = lying(i)
        free = FreeEnd(
            place=place, tangent=tangent, right=across, up=up, sense=1.0 if end else -1.0, shape=shape, right_front=right,
            straight=float(course.lengths[i]) if path is None else float(path.straights[end]), drawn=drawn,
            met=finishing.met.get((i, end)),
        )  # fmt: skip
        try:
            surface = way.surface(free)
        except NoCut as none:
            refused[i, end] = str(none)
            continue
        if surface is not None and path is not None and _into(surface, free) > free.straight + NO_LENGTH:
            refused[i, end] = "it bends where it would be shaped"
        elif surface is not None:
            surfaces[i, end] = surface
            if (hollow := surface.left_open(shape.spread if surface.curved else shape.flat().points)) > CONTACT:
                hollows[i, end] = hollow
    return replace(finishing, refused=refused, hollows=hollows), surfaces


def _into(surface: EndSurface, end: FreeEnd) -> float:
    """Return how far into its piece an end is shaped, from the end of its line, mm."""
    return float((-end.sense * surface.reach(end.shape.flat().points)).max())


def free_ends(course: Course, run: Run) -> dict[tuple[int, bool], Finish]:
    """Return how each free end is made, by its piece and whether it is its end."""
    if run.first_end == run.last_end == run.opening_ends == PLAIN:
        return {}
    found: dict[tuple[int, bool], Finish] = {}
    for i in np.flatnonzero(course.free).tolist():
        before = (i - 1) % course.count
        starts = not course.closed and course.begins[i] <= WELD
        ends = not course.closed and course.begins[before] + course.lengths[before] >= course.length - WELD
        found[i, False] = run.first_end if starts else run.opening_ends
        found[before, True] = run.last_end if ends else run.opening_ends
    return found


def _with_returns(
    course: Course, ways: Mapping[tuple[int, bool], Finish], right: bool
) -> tuple[Course, dict[tuple[int, bool], Finish], Flags, Flags, list[int]]:
    """Return a course with a leg for each return, the ways by its pieces, which are returns and begin at their corners, and where each
    piece has gone.

    The frame of a piece turns with it about its up, so that the sections always meet.
    """
    names = ("starts", "ends", "tangents", "rights", "ups", "tangents_end", "rights_end", "ups_end", "lengths", "begins", "turns", "free")
    arrays: dict[str, Any] = {name: getattr(course, name).copy() for name in names}
    front = 1.0 if right else -1.0
    order: list[int] = []
    added: dict[str, list[Any]] = {name: [] for name in names}
    mitred_old: set[int] = set()

    def leg(start: Array, tangent: Array, across: Array, up: Array, length: float, begin: float, turn: float, free: bool) -> int:
        end = start + tangent * length
        row = (start, end, tangent, across, up, tangent, across, up, length, begin, turn, free)
        for name, value in zip(names, row, strict=True):
            added[name].append(value)
        return course.count + len(added["starts"]) - 1

    for i in range(course.count):
        first, last = ways.get((i, False)), ways.get((i, True))
        if first is not None and first.return_depth is not None:
            deep = first.return_depth
            t, r, n = arrays["tangents"][i], arrays["rights"][i], arrays["ups"][i]
            if i not in course.paths:
                arrays["starts"][i] -= t * first.past
                arrays["lengths"][i] += first.past
                arrays["begins"][i] -= first.past
            toward = front * r
            start = arrays["starts"][i] - toward * deep
            order.append(leg(start, toward, -front * t, n, deep, float(arrays["begins"][i]) - deep, 0.0, True))
            arrays["free"][i], arrays["turns"][i] = False, math.pi / 2
            mitred_old.add(i)
        order.append(i)
        if last is not None and last.return_depth is not None:
            deep = last.return_depth
            t, r, n = arrays["tangents_end"][i], arrays["rights_end"][i], arrays["ups_end"][i]
            if i not in course.paths:
                arrays["ends"][i] += t * last.past
                arrays["lengths"][i] += last.past
            begin = float(arrays["begins"][i] + arrays["lengths"][i])
            order.append(leg(arrays["ends"][i].copy(), -front * r, front * t, n, deep, begin, math.pi / 2, False))
    if not added["starts"]:
        nothing = np.zeros(course.count, dtype=bool)
        return course, dict(ways), nothing, nothing, list(range(course.count))
    taken = np.array(order)
    rows = {name: np.concatenate([arrays[name], np.array(added[name])])[taken] for name in names}
    moved = [order.index(i) for i in range(course.count)]
    new = replace(course, **rows, paths={moved[i]: path for i, path in course.paths.items()})
    returns = taken >= course.count
    mitred = (returns & ~new.free) | np.isin(taken, list(mitred_old))
    return new, {(moved[i], end): way for (i, end), way in ways.items()}, returns, mitred, moved
