"""What a row keeps clear of: paths and beds along other lines, the ground of closed ones, the items of other rows."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from slow_ribbon.core.kernel.fields import Distance, Id, Model
from slow_ribbon.core.kernel.tolerances import SEARCH_DEVIATION
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.made.strips import enclosed, path_on_plan, strip_laid
from slow_ribbon.core.lines.model import Line


class ClearOf(Model):
    """What a row keeps clear of, a line or a row given by its id, and how far from it, mm.

    Of a line: the strip along it, or else the ground that it encloses, or else the line itself.
    """

    of: Id
    by: Distance = 0.0


class Obstacle(Model):
    """The ground on plan that is kept clear, found whenever what it is of changes: well-known binary (ISO 19125-1), in hexadecimal."""

    of: Id
    ground: str

    @property
    def region(self) -> BaseGeometry:
        return _decoded(self.ground)


@lru_cache(maxsize=1024)
def _decoded(ground: str) -> BaseGeometry:
    return shapely.from_wkb(ground)


def obstacle(of: str, ground: BaseGeometry, by: float) -> Obstacle:
    """Return what a row that keeps some distance from some ground keeps clear of."""
    # A ground of no width keeps nothing clear by itself.
    return Obstacle(of=of, ground=shapely.to_wkb(ground.buffer(by) if by > 0 else ground.buffer(0), hex=True))


def ground_of(line: Line) -> BaseGeometry:
    """Return what is kept clear of a line on plan, without any distance: its strip, or what it encloses, or itself."""
    if line.strip is not None:
        return strip_laid(line).region
    return enclosed(line) if line.closed else path_on_plan(line)


def stretches_under(line: Line, obstacles: tuple[Obstacle, ...]) -> list[tuple[float, float]]:
    """Return the stretches of a line, (begin chainage, length), that lie on the ground of obstacles on plan."""
    if not obstacles:
        return []
    course = course_of(line)
    chainages, points = course.flattened(SEARCH_DEVIATION)
    if line.closed:
        chainages, points = np.append(chainages, course.length), np.vstack([points, points[:1]])
    ground = shapely.union_all([one.region for one in obstacles])
    chords = shapely.linestrings(np.stack([points[:-1, :2], points[1:, :2]], axis=1))
    parts, owners = shapely.get_parts(shapely.intersection(chords, ground), return_index=True)
    found: list[tuple[float, float]] = []
    for part, chord in zip(parts, owners.tolist(), strict=True):
        begin, end = points[chord, :2], points[chord + 1, :2]
        ends, square = shapely.get_coordinates(part), float((end - begin) @ (end - begin))
        if not len(ends):
            continue
        # An upright chord lies on the ground as a whole.
        low, high = np.sort((ends[[0, -1]] - begin) @ (end - begin) / square) if square > 0 else (0.0, 1.0)
        run = chainages[chord + 1] - chainages[chord]
        found.append((float(chainages[chord] + low * run), float(chainages[chord] + high * run)))
    merged: list[tuple[float, float]] = []
    for low, high in sorted(found):
        if merged and low <= merged[-1][1] + WELD:
            merged[-1] = merged[-1][0], max(high, merged[-1][1])
        else:
            merged.append((low, high))
    return [(low, high - low) for low, high in merged if high - low > WELD]
