"""Fields: the ground within a closed line filled with items."""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.made.strips import enclosed
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.point_ids import point_ids
from slow_ribbon.core.rows.filling import FillingBase, Ground
from slow_ribbon.core.rows.model import Row, RowBody, numbered_uses
from slow_ribbon.core.rows.placement import stood_at
from slow_ribbon.core.rows.row_set_out import RowSetOut


def ground_of_field(row: Row, line: Line) -> Ground:
    """Return the ground that a field fills. Raises ``Refused`` where its line is open or crosses itself."""
    inset = 0.0 if row.filling is None else row.filling.inset
    region: BaseGeometry = enclosed(line)
    if inset > WELD:
        region = region.buffer(-inset, join_style="mitre", mitre_limit=10.0)
    if row.obstacles:
        region = region.difference(shapely.union_all([one.region for one in row.obstacles]))
    # Where an obstacle touches the border a line or a point may be left of it.
    whole = [part for part in shapely.get_parts(region) if part.area > 0]
    return Ground(shapely.MultiPolygon(whole), dict(zip(point_ids(line), line.points()[:, :2], strict=True)))


def set_field_out(row: Row, filling: FillingBase, line: Line) -> RowSetOut:
    """Return the items of a field; none where its inset and what it keeps clear of leave no ground."""
    ground = ground_of_field(row, line)
    flat = np.zeros((0, 2)) if ground.region.is_empty else filling.points(ground)
    count = len(flat)
    middle, slope = _plane(line)
    heading = filling.heading(ground)
    way = np.array([math.cos(heading), math.sin(heading)])
    used, numbers = numbered_uses(row)
    dealt = filling.dealt(np.array([ord(letter) - 65 for letter in row.pattern.turns]), count)
    sizes = filling.sizes(count)
    points = np.column_stack([flat, middle[2] + (flat - middle[:2]) @ slope])
    tangents = np.broadcast_to([*way, way @ slope], (count, 3))
    found = stood_at(row.turn, used, (points, tangents, np.full(count, heading)), numbers[dealt], sizes=sizes)
    return RowSetOut(
        chainages=np.zeros(count), positions=found.positions, headings=found.headings, tilts=found.tilts, dealt=dealt, stretches=(),
        begins=(), lengths=(), ring=False, held={}, sizes=sizes, hangers=np.zeros(count), area=float(ground.region.area),
    )  # fmt: skip


def _plane(line: Line) -> tuple[Array, Array]:
    """Return the plane that lies nearest to a line's points: a point (3,) of it, and how much it rises to the east and to the north."""
    points = line.points()
    middle = points.mean(axis=0)
    away = points - middle
    slope, *_ = np.linalg.lstsq(away[:, :2], away[:, 2], rcond=None)
    return middle, np.asarray(slope)


def side_is_there(row: RowBody, line: Line) -> bool:
    """Return whether the side of its border that a field's rows lie along is still there, if it has one."""
    side = None if row.filling is None else row.filling.side_points
    return side is None or set(side) <= set(point_ids(line))
