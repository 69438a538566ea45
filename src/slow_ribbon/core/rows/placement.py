"""Where a row's items stand: positions, headings and tilts, and what they cover on plan."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
import shapely
from scipy.spatial.transform import Rotation
from shapely.geometry.base import BaseGeometry

from slow_ribbon.core.kernel.arrays import Array, Indices
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import NO_LEAN
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.rows.items.parts import hull_on_plan
from slow_ribbon.core.rows.model import Use
from slow_ribbon.core.rows.orientation import Turning

#: By how many sides a quarter of a round item is drawn where others keep clear of it.
_QUARTER: Final = 16


@dataclass(frozen=True)
class Stood:
    """Items that stand: positions (n, 3) of the middle of each one's foot, headings (n,) and tilts (n, 2), radians.

    An item is turned by its heading about the upright axis, and then by its tilt.
    """

    positions: Array
    headings: Array
    tilts: Array


def stand(turn: Turning, use: Use, course: Course, chainages: Array) -> tuple[Array, Array]:
    """Return the positions (n, 3) and headings (n,) of one of a row's items at places (n,) that are looked at, and have no number."""
    found = stood(turn, [use], course, chainages, np.zeros(len(chainages), dtype=int), numbered=False)
    return found.positions, found.headings


def stood(
    turn: Turning,
    uses: Sequence[Use],
    course: Course,
    chainages: Array,
    dealt: Indices,
    further: Array | float = 0.0,
    numbered: bool = True,
) -> Stood:
    """Return how items stand that sit at chainages (n,); ``dealt`` (n,) says which of the ``uses`` each is.

    ``further``: how much more each is turned by hand, radians.
    """
    return stood_at(turn, uses, _on_line(course, chainages), dealt, further, numbered)


def stood_at(
    turn: Turning,
    uses: Sequence[Use],
    places: tuple[Array, Array, Array],
    dealt: Indices,
    further: Array | float = 0.0,
    numbered: bool = True,
    sizes: Array | None = None,
) -> Stood:
    """Return how items stand that sit at places: points (n, 3), tangents (n, 3) and headings (n,), as ``stood``.

    ``sizes`` (n,): how large each is, as a share of its item's size, where not all are as large as that.
    """
    points, tangents, line_headings = places
    shifts = np.array([use.shift for use in uses])[dealt]
    asides = np.array([use.stand_off for use in uses])[dealt]
    lifts = np.array([use.lift for use in uses])[dealt]
    seats = np.array([use.seat for use in uses])[dealt]
    cosine, sine = np.cos(line_headings), np.sin(line_headings)
    points = points + np.column_stack([shifts * cosine + asides * sine, shifts * sine - asides * cosine, lifts])
    headings = turn.headings(line_headings, points, numbered) + np.array([use.turn for use in uses])[dealt] + further
    tilts = np.zeros((len(points), 2))
    # A seat is measured across to the right, the item's own third axis goes to the left.
    own = seats * (1, -1, 1)
    if sizes is not None:
        own = own * sizes[:, None]
    if not turn.tilts:
        cosine, sine = np.cos(headings), np.sin(headings)
        seated = np.column_stack([own[:, 0] * cosine - own[:, 1] * sine, own[:, 0] * sine + own[:, 1] * cosine, own[:, 2]])
    elif len(points):
        turned = _turned(turn, tangents, line_headings, headings, numbered)
        seated, (headings, tilts) = turned.apply(own), _parted(turned)
    else:
        seated = own
    return Stood(points - seated, headings, tilts)


def _on_line(course: Course, chainages: Array) -> tuple[Array, Array, Array]:
    """Return the points (n, 3), tangents (n, 3) and headings (n,) of a line at chainages, at a corner those of its bisector."""
    index, along = course.leg_at(chainages)
    here = course.at(chainages)
    # An item on a corner stands to the bisector of the two legs, found from either of them.
    after = (index + 1) % course.count
    begins = (along <= WELD) & (course.turns[index] > 0)
    ends = (course.lengths[index] - along <= WELD) & (course.turns[after] > 0)
    tangents = np.where(begins[:, None], here.tangents + course.tangents_end[index - 1], here.tangents)
    tangents = np.where(ends[:, None], here.tangents + course.tangents[after], tangents)
    flat = np.hypot(tangents[:, 0], tangents[:, 1])
    # On an upright leg the line gives no direction on plan; the frame's right does.
    rights = here.rights
    level = np.where((flat > NO_LEAN)[:, None], tangents[:, :2], np.stack([-rights[:, 1], rights[:, 0]], axis=1))
    return here.points, tangents, np.arctan2(level[:, 1], level[:, 0])


def _turned(turn: Turning, tangents: Array, line_headings: Array, headings: Array, numbered: bool) -> Rotation:
    """Return how items are turned: by their number about an axis of their own, by their heading, and back onto the line's slope."""
    found = Rotation.from_rotvec(np.outer(headings, (0.0, 0.0, 1.0)))
    if numbered and turn.about != "up" and turn.more:
        axis = (1.0, 0.0, 0.0) if turn.about == "along" else (0.0, 1.0, 0.0)
        found = found * Rotation.from_rotvec(np.outer(turn.steps(len(headings)), axis))
    if turn.stands == "slope":
        slopes = np.arctan2(tangents[:, 2], np.hypot(tangents[:, 0], tangents[:, 1]))
        rights = np.column_stack([np.sin(line_headings), -np.cos(line_headings), np.zeros(len(slopes))])
        found = Rotation.from_rotvec(rights * slopes[:, None]) * found
    return found


def _parted(turned: Rotation) -> tuple[Array, Array]:
    """Return rotations as headings (n,) about the upright axis and tilts (n, 2) about level ones, which come after.

    A quaternion is the product of one about a level axis and one about the upright axis, which has its z and w ("swing and twist").
    """
    x, y, z, w = turned.as_quat().T
    halves = np.arctan2(z, w)
    cosine, sine = np.cos(halves), np.sin(halves)
    axes = np.column_stack([x * cosine - y * sine, x * sine + y * cosine])
    size = np.hypot(axes[:, 0], axes[:, 1])
    angles = 2 * np.arctan2(size, np.hypot(z, w))
    return 2 * halves, axes * (angles / np.where(size > 0, size, 1.0))[:, None]


def covered(use: Use, position: Array, heading: float, tilt: Array) -> shapely.Polygon:
    """Return what an item that stands so covers on plan."""
    if not np.any(tilt) or not use.item.parts:
        return use.item.footprint(position[:2], heading)
    turned = Rotation.from_rotvec([*tilt, 0.0]) * Rotation.from_rotvec([0.0, 0.0, heading])
    return shapely.Polygon(hull_on_plan(use.item.parts, turned.as_matrix()) + position[:2])


def ground_covered(uses: Sequence[Use], dealt: Indices, stood: Stood, sizes: Array) -> BaseGeometry:
    """Return what items that stand so cover on plan together, each by its own size; round ones by polygons around them."""
    found: list[BaseGeometry] = []
    for number, use in enumerate(uses):
        these = np.flatnonzero(dealt == number)
        upright = ~stood.tilts[these].any(axis=1)
        plain, tilted = these[upright], these[~upright]
        diameter = use.item.circle
        if diameter is not None:
            reach = sizes[plain] * diameter / 2 / math.cos(math.pi / (4 * _QUARTER))
            found.extend(shapely.buffer(shapely.points(stood.positions[plain, :2]), reach, quad_segs=_QUARTER))
        else:
            corners = np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)]) * np.array(use.item.sides) / 2
            cosine, sine = np.cos(stood.headings[plain]), np.sin(stood.headings[plain])
            turns = np.stack([np.stack([cosine, sine], axis=1), np.stack([-sine, cosine], axis=1)], axis=1)
            placed = np.einsum("ck,nkj->ncj", corners, turns) * sizes[plain, None, None] + stood.positions[plain, None, :2]
            found.extend(shapely.polygons(placed))
        for one in tilted.tolist():
            look_up()
            found.append(covered(use, stood.positions[one], float(stood.headings[one]), stood.tilts[one]))
    return shapely.union_all(found)


def swept(use: Use) -> float:
    """Return how far anything of an item lies from its seat, however it is turned, mm."""
    along, across, up = use.seat
    sides = use.item.sides
    reach = math.hypot(abs(along) + sides[0] / 2, abs(across) + sides[1] / 2)
    return max(reach, math.hypot(reach, max(abs(up), abs(use.item.whole_height - up))))
