"""The job cut across a line: what stands where a line passes, in the plane square to it.

A section of a run on that line is there as it is drawn; runs of other lines, and walls, are cut by the plane as they come.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
import shapely

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import SAME_DRAWN
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.typicals.carriage import HERE, Carriage
from slow_ribbon.core.runs.pieces.solids import Surface, run_surface
from slow_ribbon.core.solve.instances import standing_runs
from slow_ribbon.core.solve.results import Solved, SolvedRun
from slow_ribbon.core.solve.solve_kinds import solve_wall

#: How finely curves are cut, mm.
_FINE: Final = 0.2
#: How far from the line runs are looked for, mm.
REACH: Final = 4000.0
#: A section and what is cut of it differ by less, as a share of its area, where nothing is cut off: by chords.
_WHOLE: Final = 0.01


@dataclass(frozen=True)
class Plane:
    """A plane across a line: a point of it, and the units along the line, to the right of travel and up, (3,) each."""

    point: Array
    tangent: Array
    right: Array
    up: Array

    def carried_back(self, carriage: Carriage) -> Plane:
        """Return the plane as it lies to what is drawn, where it lies so to that carried to its place."""
        ways = (way @ carriage.matrix for way in (self.tangent, self.right, self.up))
        return Plane(carriage.back(self.point), *ways)


@dataclass(frozen=True)
class CutThing:
    """What the plane cuts of a run, or of the wall behind a line: rings (k, 2) of places to the right of the line and up, mm.

    Inside is what an odd number of rings goes round.
    """

    thing: str
    wall: bool
    rings: tuple[Array, ...]


@dataclass(frozen=True)
class CutAcross:
    """A cut across a line: the plane, the ids of the runs on that line that pass there, and what stands within reach.

    ``others``: walls, and the runs of other lines. ``cuts``: the runs of that line as they are there with all that is cut, at corners,
    joints and ends; ``drawn``: the sections of those that pass, as they are placed.
    """

    plane: Plane
    along: tuple[str, ...]
    others: tuple[CutThing, ...]
    cuts: tuple[CutThing, ...]
    drawn: tuple[CutThing, ...]

    @property
    def upright(self) -> bool:
        """Whether up in the cut is up: heights in it are heights above the line."""
        return bool(self.plane.up[2] > 1 - SAME_DRAWN)

    def whole(self, run: str) -> bool:
        """Return whether the cut through a run that passes is its section as drawn, and nothing else."""
        areas = [sum(_area(ring) for one in things if one.thing == run for ring in one.rings) for things in (self.cuts, self.drawn)]
        return abs(areas[0] - areas[1]) <= _WHOLE * areas[1]


def cut_across(solved: Solved, line: Line, chainage: float) -> CutAcross:
    """Return the job cut across a line at a chainage, mm. Raises ``Refused`` where the line has no such place."""
    course = course_of(line)
    if not 0 <= chainage <= course.length + SAME_DRAWN:
        raise Refused(
            f"{line.name} is {figure(course.length, 3)} long: there is no chainage {figure(chainage, 3)}.", "chainage", "no-place"
        )
    station = course.just_before(chainage) if chainage >= course.length and not line.closed else course.at(np.array([chainage]))
    plane = Plane(*(np.asarray(part[0]) for part in (station.points, station.tangents, station.rights, station.ups)))
    along: list[str] = []
    others: list[CutThing] = []
    cuts: list[CutThing] = []
    drawn: list[CutThing] = []
    for run in solved.runs.values():
        look_up()
        own = _line_of(solved.job, run)
        if own == line.id:
            if _passes(run.course, chainage):
                along.append(run.id)
                # As it lies on the piece that is there; at a corner, on the one that begins.
                placed = run.cuts.placed.at(chainage)
                if run.cuts.leans is not None:
                    placed = placed.leaned(run.cuts.leans[run.course.leg_at(np.array([chainage]))[0][0]])
                drawn.append(CutThing(run.id, False, tuple(placed.points(ring) for ring in placed.shape.rings(_FINE))))
            if _near(run.course, plane.point):
                cuts.extend(_cut(run.id, False, run, plane))
        elif _near(run.course, plane.point):
            others.extend(_cut(run.id, False, run, plane))
    for run, place in standing_runs(solved):
        # Where a run is as it is drawn it was looked at above.
        if place.carriage is HERE:
            continue
        look_up()
        there = plane.carried_back(place.carriage)
        if _near(run.course, there.point):
            others.extend(_cut(run.id, False, run, there))
    for other in solved.job.lines:
        if other.wall is not None and _near(course_of(other), plane.point):
            look_up()
            others.extend(_cut(other.id, True, solve_wall(other), plane))
    return CutAcross(plane, tuple(along), tuple(others), tuple(cuts), tuple(drawn))


def _area(ring: Array) -> float:
    """Return the area in a ring (k, 2), of holes too: in the sum over a thing both are counted alike."""
    x, y = ring.T
    return abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2


def _line_of(job: Job, run: SolvedRun) -> str:
    return job.run(run.id).line


def _passes(course: Course, chainage: float) -> bool:
    """Return whether a course, broken as a run breaks, has a piece at a chainage."""
    at = np.array([chainage, chainage - course.length, chainage + course.length])[:, None]
    return bool(np.any((at >= course.begins - SAME_DRAWN) & (at <= course.begins + course.lengths + SAME_DRAWN)))


def _near(course: Course, point: Array) -> bool:
    points = np.concatenate([course.starts, course.ends, *(path.at_chords.points for path in course.paths.values())])
    return bool(np.all(points.min(axis=0) - REACH <= point) and np.all(point <= points.max(axis=0) + REACH))


def _cut(thing: str, wall: bool, run: SolvedRun, plane: Plane) -> list[CutThing]:
    rings = surface_cut(run_surface(run.cuts, run.origin, _FINE), run.origin, plane)
    # Only what is in sight: rings that begin within reach of the line.
    near = tuple(ring for ring in rings if float(np.abs(ring).min(axis=0).max()) <= REACH)
    return [CutThing(thing, wall, near)] if near else []


def surface_cut(surface: Surface, origin: Array, plane: Plane) -> list[Array]:
    """Return the rings (k, 2) in which a plane cuts a closed surface whose places are given from ``origin``."""
    places = surface.vertices + (origin - plane.point)
    # A vertex in the plane itself counts as beyond it: the surface is cut a hair before.
    off = places @ plane.tangent
    off = np.where(np.abs(off) < SAME_DRAWN * 1e-3, SAME_DRAWN * 1e-3, off)
    flat = np.column_stack([places @ plane.right, places @ plane.up])
    faces = surface.faces[np.abs(np.sign(off[surface.faces]).sum(axis=1)) < 3]
    if not len(faces):
        return []
    ends = []
    for a, b in ((0, 1), (1, 2), (2, 0)):
        first, second = faces[:, a], faces[:, b]
        with np.errstate(divide="ignore", invalid="ignore"):
            share = off[first] / (off[first] - off[second])
        crosses = off[first] * off[second] < 0
        ends.append((crosses, flat[first] + np.where(crosses, share, 0.0)[:, None] * (flat[second] - flat[first])))
    # Of the three sides of a face exactly two are crossed.
    crossed = np.stack([end[0] for end in ends], axis=1)
    points = np.stack([end[1] for end in ends], axis=1)
    order = np.argsort(~crossed, axis=1, kind="stable")[:, :2]
    sides = np.take_along_axis(points, order[:, :, None], axis=1)
    sides = np.round(sides / SAME_DRAWN) * SAME_DRAWN
    sides = sides[np.abs(sides[:, 0] - sides[:, 1]).max(axis=1) > 0]
    if not len(sides):
        return []
    area = shapely.build_area(shapely.multilinestrings([shapely.linestrings(sides)])[0])
    return [shapely.get_coordinates(ring)[:-1] for part in shapely.get_parts(area) for ring in (part.exterior, *part.interiors)]
