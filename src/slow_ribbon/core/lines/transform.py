"""Moving lines and their points: a point, turning and moving, mirroring. Curves keep their kind."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.legs import place
from slow_ribbon.core.lines.model import Line, leg_begins


def moved_point(line: Line, index: int, to: Point3) -> Line:
    """Return a line with one of its points moved; its curves follow in proportion. Points are counted from 0 at the start."""
    begins = leg_begins(line)
    legs = list(line.legs)
    start = line.start
    if index == 0:
        legs[0] = legs[0].reshaped(start, to, legs[0].to if len(legs) > 1 or not line.closed else to)
        start = to
        if line.closed:
            last = len(legs) - 1
            begin = to if last == 0 else begins[last]
            legs[last] = legs[last].reshaped(begins[last], begin, to) if last else legs[last].model_copy(update={"to": to})
    else:
        legs[index - 1] = legs[index - 1].reshaped(begins[index - 1], begins[index - 1], to)
        if index < len(legs):
            legs[index] = legs[index].reshaped(begins[index], to, legs[index].to)
    return line.model_copy(update={"start": start, "legs": tuple(legs)})


@dataclass(frozen=True)
class Motion:
    """A similarity without scaling: ``move`` maps points, ``direct`` directions; ``over`` where it mirrors; ``turns`` or only shifts."""

    move: Callable[[Any], Point3]
    direct: Callable[[Any], Point3]
    over: bool = False
    turns: bool = True


def turning(turn: float, about: Point3, by: Point3, times: int = 1) -> Motion:
    """Return the motion that turns by ``turn`` degrees about an upright axis through ``about`` and moves ``by``, ``times`` over."""
    angle = math.radians(turn * times)
    cosine, sine = math.cos(angle), math.sin(angle)
    turned = np.radians(turn * np.arange(times))
    across, along = float(np.cos(turned).sum()), float(np.sin(turned).sum())
    shift = np.array([across * by[0] - along * by[1], along * by[0] + across * by[1], times * by[2]])

    def direct(value: Any) -> Point3:
        return float(cosine * value[0] - sine * value[1]), float(sine * value[0] + cosine * value[1]), float(value[2])

    def move(point: Any) -> Point3:
        return place(np.add(np.add(about, shift), direct(np.subtract(point, about))))

    return Motion(move, direct, turns=angle != 0.0)


def mirroring(a: Point3, b: Point3) -> Motion:
    """Return the motion that mirrors in the upright plane through two points. Raises ``Refused`` where they are over one another."""
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

    return Motion(move, direct, over=True)


def carried_over(line: Line, motion: Motion) -> Line:
    """Return a line's geometry moved by a motion; its curves keep their kind."""
    move, direct = motion.move, motion.direct
    start = move(line.start)
    legs = [leg.mapped(move(leg.to), move, direct, 1.0, motion.over) for leg in line.legs]
    if line.closed:
        legs[-1] = legs[-1].model_copy(update={"to": start})
    return line.model_copy(update={"start": start, "legs": tuple(legs)})
