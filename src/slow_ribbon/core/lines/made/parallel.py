"""A line moved aside in its own frame: to its right and up, as seen along it, its corners where the moved legs meet."""

from __future__ import annotations

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.tolerances import NO_LEAN
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import AnyLeg, place
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.offset import offset
from slow_ribbon.core.lines.transform import Motion, carried_over


def moved_aside(line: Line, right: float, up: float) -> tuple[Point3, tuple[AnyLeg, ...]]:
    """Return the start and legs of a line that lies ``right`` mm to the right of a line and ``up`` mm above it, in its frames.

    A line that lies in a plane, its frames' right or up square to that all along (a level line, a hoop, a ramp in one upright
    plane), is offset in the plane and moved square to it. Any other goes only to its sides, on plan. Raises ``Refused`` as
    ``offset``, and where it cannot go up.
    """
    course = course_of(line)
    chainages = course.flattened(1.0)[0]
    here = course.at(np.unique(np.concatenate([chainages, (chainages[1:] + chainages[:-1]) / 2])))
    if _one_way(here.ups):
        return _in_plane(line, here.ups[0], right, here.ups[0] * up)
    if _one_way(here.rights):
        # To the right of travel, seen from where the frames' left is up, is up in the frames.
        return _in_plane(line, -here.rights[0], up, here.rights[0] * right)
    if abs(up) <= WELD and course.rule == "upright":
        return offset(line, right)
    raise Refused(
        f"{line.name} turns on plan and rises too: a line beside it can be set out to its sides only, not up or down.", "run", "set-out"
    )


def _one_way(directions: Array) -> bool:
    return bool(np.linalg.norm(np.cross(directions, directions[0]), axis=1).max() <= NO_LEAN and (directions @ directions[0]).min() > 0)


def _in_plane(line: Line, normal: Array, distance: float, shift: Array) -> tuple[Point3, tuple[AnyLeg, ...]]:
    """Return a line of a plane offset in that, to the right of travel as seen against its normal (3,), and shifted by (3,)."""
    turn = _level(normal)
    about = np.array(line.start)

    def over(matrix: Array, by: Array) -> Motion:
        return Motion(lambda point: place(about + matrix @ (np.asarray(point) - about) + by), lambda way: place(matrix @ np.asarray(way)))

    level = carried_over(line, over(turn, np.zeros(3)))
    if distance:
        start, legs = offset(level, distance)
        level = level.model_copy(update={"start": start, "legs": legs})
    found = carried_over(level, over(turn.T, shift))
    return found.start, found.legs


def _level(normal: Array) -> Array:
    """Return the rotation (3, 3) that takes a unit to straight up."""
    if normal[2] > 1 - NO_LEAN**2:
        return np.eye(3)
    across = np.eye(3)[int(np.argmin(np.abs(normal)))]
    first = np.cross(across, normal)
    first /= np.linalg.norm(first)
    return np.array([first, np.cross(normal, first), normal])
