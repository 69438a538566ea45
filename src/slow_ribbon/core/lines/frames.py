"""Frames: an upright outline of straight members, cut by planes, and the bars that divide it.

A frame is drawn in the upright plane through its place that faces south: *along* is to the east of the middle of its foot, *up* is up.

Terms
-----
facet
    one of the straight members that stand for a curve.
cut
    a plane square to the frame's own, that takes away all to one side of it: level, or at a slope.
bar
    a member that divides a frame, upright or level, from the outline's one side to the other.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Final, Literal

import numpy as np
import shapely
from pydantic import Field
from shapely.geometry.base import BaseGeometry

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Coordinate, Distance, Id, Model, Point3, Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.legs import StraightLeg

FrameShape = Literal["rectangle", "arch", "segment", "gable", "polygon"]

#: Larger than any frame, mm: how far the plane of a cut reaches.
_FAR: Final = 1e7
#: What is smaller, mm, is no member: corners that are nearer to one another are one.
_LEAST_MEMBER: Final = 1.0


class FrameCut(Model):
    """A plane that cuts a frame: through ``along`` and ``up``, mm, rising by ``slope`` degrees to the east; what is ``keep`` it stays.

    With the id of a run ``under`` whose foot it lies, it is the plane on which that run's section stands where it passes the frame.
    """

    up: Coordinate
    along: Coordinate = 0.0
    slope: Annotated[float, Field(ge=-90, le=90, allow_inf_nan=False)] = 0.0
    keep: Literal["below", "above"] = "below"
    under: Id | None = None


class FrameBody(Model):
    """The outline of a frame, mm, before it is cut.

    *rectangle*; *arch*: upright to a half circle, or to a flatter arc where it is lower than half its width; *segment*: an arc from one
    end of the foot to the other; *gable*: upright to the ``eaves``, then to the ridge; *polygon* of as many equal sides as it has
    ``facets``, standing on one of them, as high as it is. Arcs are made of ``facets`` equal members.
    """

    shape: FrameShape = "arch"
    width: Size = 3000.0
    height: Size = 2600.0
    eaves: Distance = 2000.0
    facets: Annotated[int, Field(ge=3, le=60)] = 8
    cuts: Annotated[tuple[FrameCut, ...], Field(max_length=8)] = ()


def frame_outline(body: FrameBody) -> shapely.Polygon:
    """Return the outline of a frame, (along, up), cut as it is said.

    Raises ``Refused`` where nothing is left, or it falls into parts.
    """
    left: BaseGeometry = shapely.Polygon(_whole(body))
    for number, cut in enumerate(body.cuts):
        left = left.intersection(_half_plane(cut))
        if left.is_empty or left.area < _LEAST_MEMBER**2:
            what = f"The cut at {figure(cut.up)} leaves nothing of the frame: move it, or keep what is to its other side."
            raise Refused(what, f"made.cuts.{number}", "cut-away")
        if len(shapely.get_parts(left)) > 1:
            raise Refused(f"The cut at {figure(cut.up)} leaves the frame in parts: move it.", f"made.cuts.{number}", "cut-away")
    corners = outline_corners(shapely.get_coordinates(left)[:-1])
    if len(corners) < 3:
        raise Refused("The cuts leave a frame without a corner: move one of them.", "made.cuts", "cut-away")
    return shapely.Polygon(corners)


def frame_legs(body: FrameBody, at: Point3) -> tuple[Point3, tuple[StraightLeg, ...]]:
    """Return the start and legs of a frame's closed line, the middle of its foot at a place: from its first corner to the east."""
    points = [in_plane(at, point) for point in shapely.get_coordinates(frame_outline(body).exterior)[:-1].tolist()]
    return points[0], tuple(StraightLeg(to=to) for to in (*points[1:], points[0]))


def in_plane(at: Point3, point: Sequence[float]) -> Point3:
    """Return where a point (along, up) of a frame lies, the middle of whose foot stands at a place."""
    return at[0] + point[0], at[1], at[2] + point[1]


def bar_ends(outline: shapely.Polygon, way: Literal["upright", "level"], at: float) -> tuple[Array, Array]:
    """Return the ends (2,) of a bar's line across an outline, at a place along it, or a height. Raises ``Refused`` where it misses it."""
    far = shapely.LineString([(at, -_FAR), (at, _FAR)] if way == "upright" else [(-_FAR, at), (_FAR, at)])
    met = shapely.get_coordinates(outline.intersection(far))
    axis = 1 if way == "upright" else 0
    if len(met) < 2 or float(np.ptp(met[:, axis])) < _LEAST_MEMBER:
        raise Refused(f"A bar at {figure(at)} misses the frame: divide the frame anew.", "made", "no-bar")
    order = np.argsort(met[:, axis])
    return met[order[0]], met[order[-1]]


def bar_places(outline: shapely.Polygon, division: FrameDivision, member: float, bar: float) -> list[float]:
    """Return where the middles of bars lie, mm: a number of them with equal clear bays between, or clear bays of a width from the first.

    ``member`` and ``bar`` are how wide the frame's members and the bars are in its plane.
    """
    axis = 0 if division.way == "upright" else 1
    points = shapely.get_coordinates(outline)[:, axis]
    low, high = float(points.min()) + member, float(points.max()) - member
    if division.number is not None:
        clear = (high - low - division.number * bar) / (division.number + 1)
        count = division.number
    else:
        clear = division.clear
        count = max(0, math.ceil((high - low) / (clear + bar) - 1)) if clear + bar > 0 else 0
    if clear <= 0 or count > MOST_BARS:
        what = f"{count} bars {figure(bar)} wide find no room in {figure(high - low)}: use fewer, or slimmer ones."
        raise Refused(what, "division", "no-room")
    return [low + (number + 1) * clear + (number + 0.5) * bar for number in range(count)]


#: No frame is divided by more bars.
MOST_BARS: Final = 200


class FrameDivision(Model):
    """How a frame is divided: by a ``number`` of bars in equal bays, or else in ``clear`` bays from its foot or its west side, mm."""

    way: Literal["upright", "level"] = "upright"
    number: Annotated[int, Field(ge=1, le=MOST_BARS)] | None = 3
    clear: Size = 400.0


def _whole(body: FrameBody) -> list[tuple[float, float]]:
    """Return the corners of a frame before it is cut, anticlockwise from its west foot, which is how it is seen from the south."""
    half, high = body.width / 2, body.height
    if body.shape == "rectangle":
        return [(-half, 0.0), (half, 0.0), (half, high), (-half, high)]
    if body.shape == "gable":
        eaves = min(body.eaves, high - WELD)
        return [(-half, 0.0), (half, 0.0), (half, eaves), (0.0, high), (-half, eaves)]
    if body.shape == "polygon":
        turns = 2 * np.pi * (np.arange(body.facets) + 0.5) / body.facets - np.pi / 2
        around = np.column_stack([np.cos(turns), np.sin(turns)])
        around -= (0.0, around[:, 1].min())
        around *= high / float(np.ptp(around[:, 1]))
        return [(x, y) for x, y in np.roll(around, 1, axis=0).tolist()]
    rise = high if body.shape == "segment" else min(half, high)
    spring = high - rise
    # The circle through both springings that rises so far above them.
    radius = (half**2 + rise**2) / (2 * rise)
    begin = math.asin(min(1.0, half / radius))
    reach = begin if rise <= half else math.pi - begin
    angles = np.linspace(reach, -reach, body.facets + 1)
    arc = [(radius * math.sin(angle), spring + rise - radius + radius * math.cos(angle)) for angle in angles.tolist()]
    foot = [(-half, 0.0), (half, 0.0)] if spring > WELD else []
    return [*foot, *arc]


def _half_plane(cut: FrameCut) -> shapely.Polygon:
    angle = math.radians(cut.slope)
    way, up = np.array([math.cos(angle), math.sin(angle)]), np.array([-math.sin(angle), math.cos(angle)])
    here, side = np.array([cut.along, cut.up]), -1.0 if cut.keep == "below" else 1.0
    begin, end = here - way * _FAR, here + way * _FAR
    return shapely.Polygon([begin, end, end + side * up * _FAR, begin + side * up * _FAR])


def outline_corners(points: Array) -> Array:
    """Return the corners of an outline (n, 2), anticlockwise, without those in one place or in line; the lowest to the west first."""
    kept: list[Array] = []
    for point in points if _area(points) > 0 else points[::-1]:
        if not kept or np.hypot(*(point - kept[-1])) >= _LEAST_MEMBER:
            kept.append(point)
    if len(kept) > 1 and np.hypot(*(kept[0] - kept[-1])) < _LEAST_MEMBER:
        kept.pop()
    found = np.array(kept)
    before, after = found - np.roll(found, 1, axis=0), np.roll(found, -1, axis=0) - found
    turns = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    found = found[np.abs(turns) > WELD * np.hypot(before[:, 0], before[:, 1])]
    if not len(found):
        return found
    first = int(np.lexsort((found[:, 0], np.round(found[:, 1] / WELD)))[0])
    return np.roll(found, -first, axis=0)


def _area(points: Array) -> float:
    x, y = points.T
    return float(x @ np.roll(y, -1) - y @ np.roll(x, -1)) / 2
