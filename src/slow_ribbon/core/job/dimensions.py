"""Dimensions asked between any two places: distance, angle, chainage, radius."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from scipy.optimize import brentq, minimize
from scipy.spatial import cKDTree

from slow_ribbon.core.geometry.frames import angle_between
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Distance, Id, Model, Point3
from slow_ribbon.core.kernel.tolerances import NO_LEAN, NO_LENGTH, SAME_PLACE
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import place
from slow_ribbon.core.lines.model import Line


class Spot(Model):
    """A place: on a line at a chainage, or a point by itself."""

    line: Id | None = None
    chainage: Distance | None = None
    point: Point3 | None = None


class Figure(Model):
    """One figure: its name, its value, and whether that is a length in mm or an angle in degrees."""

    name: str
    value: float
    kind: Literal["length", "angle"]


def dimensions(job: Job, a: Spot, b: Spot) -> list[Figure]:
    """Return the figures between two places.

    The distance, on plan too and the rise where they differ; between places on lines the angle
    the lines make there; along one line the difference in chainage, the shorter way round too
    where it is closed; the radius where a line bends there; the nearest distance between two lines.
    """
    places: list[Array] = []
    tangents: list[Array | None] = []
    radii: list[float | None] = []
    for spot, where in ((a, "a"), (b, "b")):
        if spot.line is None or spot.chainage is None:
            if spot.point is None:
                raise Refused("A place is on a line at a chainage, or a point by itself.", where, "spot")
            places.append(np.array(spot.point))
            tangents.append(None)
            radii.append(None)
            continue
        course = course_of(job.line(spot.line))
        here = course.at(np.array([min(spot.chainage, course.length)]))
        bend = float(np.hypot(*here.bends[0]))
        places.append(here.points[0])
        tangents.append(here.tangents[0])
        radii.append(1 / bend if bend > NO_LEAN else None)
    across = places[1] - places[0]
    plan, true = float(np.hypot(across[0], across[1])), float(np.linalg.norm(across))
    found = [Figure(name="distance", value=true, kind="length")]
    if abs(across[2]) > SAME_PLACE:
        found.append(Figure(name="on plan", value=plan, kind="length"))
        found.append(Figure(name="rise", value=float(across[2]), kind="length"))
    else:
        found.append(Figure(name="east", value=float(across[0]), kind="length"))
        found.append(Figure(name="north", value=float(across[1]), kind="length"))
    if plan > SAME_PLACE:
        bearing = math.degrees(math.atan2(across[0], across[1])) % 360
        found.append(Figure(name="bearing", value=bearing, kind="angle"))
    if tangents[0] is not None and tangents[1] is not None:
        turn = math.degrees(float(angle_between(tangents[0][None], tangents[1][None])[0]))
        found.append(Figure(name="angle between", value=min(turn, 180 - turn), kind="angle"))
    if a.line is not None and a.line == b.line and a.chainage is not None and b.chainage is not None:
        along = abs(b.chainage - a.chainage)
        found.append(Figure(name="along the line", value=along, kind="length"))
        course = course_of(job.line(a.line))
        if course.closed:
            found.append(Figure(name="the other way round", value=course.length - along, kind="length"))
    elif a.line is not None and b.line is not None:
        found.append(Figure(name="lines apart at least", value=_apart(job, a.line, b.line), kind="length"))
    for name, radius in zip(("radius at the first", "radius at the second"), radii, strict=True):
        if radius is not None:
            found.append(Figure(name=name, value=radius, kind="length"))
    return found


def place_on(line: Line, chainage: float, touched_from: Point3 | None = None) -> tuple[float, Point3]:
    """Return a place on a line, with its chainage: at a chainage, or near it where a straight from a point touches on plan.

    Raises ``Refused`` where no such straight touches the line near by.
    """
    course = course_of(line)
    chainage = min(max(chainage, 0.0), course.length)
    if touched_from is not None:
        begin = np.array(touched_from[:2])

        def aside(at: float) -> float:
            here = course.at(np.array([at]))
            across, along = here.points[0, :2] - begin, here.tangents[0, :2]
            return float(across[0] * along[1] - across[1] * along[0])

        # The nearest change of side within a share of the line to either side.
        for reach in (0.002, 0.01, 0.05):
            low, high = max(0.0, chainage - reach * course.length), min(course.length, chainage + reach * course.length)
            if aside(low) * aside(high) < 0:
                touched = float(brentq(aside, low, high, xtol=NO_LENGTH))
                # At a corner the sides change too, without the straight running along the line.
                if abs(aside(touched)) < 1e-3:
                    chainage = touched
                    break
        else:
            raise Refused("No straight from there touches the line at this place.", "touched_from", "touch")
    return chainage, place(course.at(np.array([chainage])).points[0])


def _apart(job: Job, first: str, second: str) -> float:
    """Return the least distance between two lines: the nearest of many places on both, then the nearest near by."""
    courses = [course_of(job.line(id)) for id in (first, second)]
    samples = []
    for course in courses:
        chainages = np.unique(np.concatenate([course.flattened(1.0)[0], np.linspace(0, course.length, 1001)]))
        samples.append((chainages, course.points_at(chainages)))
    found_at = cKDTree(samples[1][1]).query(samples[0][1])
    distances, nearest = np.asarray(found_at[0]), np.asarray(found_at[1])
    best = int(np.argmin(distances))
    places = [best, int(nearest[best])]
    bounds = []
    for (chainages, _), at in zip(samples, places, strict=True):
        bounds.append((float(chainages[max(0, at - 1)]), float(chainages[min(len(chainages) - 1, at + 1)])))

    def square(at: Array) -> float:
        p, q = (course.points_at(np.array([value]))[0] for course, value in zip(courses, at, strict=True))
        return float((p - q) @ (p - q))

    begin = np.array([chainages[at] for (chainages, _), at in zip(samples, places, strict=True)])
    found = minimize(square, begin, method="Nelder-Mead", bounds=bounds, options={"xatol": 1e-6, "fatol": 1e-12})
    return math.sqrt(min(float(found.fun), float(distances[best]) ** 2))
