"""Strips: a path or a bed along a line, as it lies on plan, and the ground that closed lines enclose."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.tolerances import NEARLY_WHOLE, SEARCH_DEVIATION
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import AnyLeg
from slow_ribbon.core.lines.model import Line, Strip
from slow_ribbon.core.lines.offset import offset


@dataclass(frozen=True)
class StripLaid:
    """A strip as it lies on plan: its region, mm, and the chainages of the joints across it."""

    region: shapely.Polygon | shapely.MultiPolygon
    joints: Array


def path_on_plan(line: Line) -> shapely.LineString | shapely.LinearRing:
    """Return a line as it lies on plan, by chords that stray from it by less than can be measured."""
    points = course_of(line).flattened(SEARCH_DEVIATION)[1][:, :2]
    return shapely.LinearRing(points) if line.closed else shapely.LineString(points)


def check_strip(line: Line) -> None:
    """Raise ``Refused`` where a line's strip has no width, or cannot lie along it."""
    strip = line.strip
    if strip is None:
        return
    if strip.left + strip.right <= WELD:
        raise Refused(f"The strip along {line.name} has no width: give it one to the left, to the right or both.", "strip", "no-width")
    strip_laid(line)


@kept_with
def strip_laid(line: Line) -> StripLaid:
    """Return the strip along a line as it lies. Raises ``Refused`` where the line has none, or bends too sharply for its width."""
    strip = line.strip
    if strip is None:
        raise Refused(f"{line.name} has no strip along it: give it a width first.", "strip", "no-strip")
    middle = line
    if abs(strip.right - strip.left) > WELD:
        start, legs = offset(line, (strip.right - strip.left) / 2)
        middle = line.model_copy(update={"start": start, "legs": legs, "strip": None})
    # Shapes that are cut off square at the ends of the line, and pointed at its corners.
    region = path_on_plan(middle).buffer((strip.left + strip.right) / 2, cap_style="flat", join_style="mitre", mitre_limit=10.0)
    if region.is_empty:
        raise Refused(f"{line.name} goes straight up: on plan a strip has nothing to lie along.", "strip", "upright")
    return StripLaid(region, _joints(line, strip))


def strip_edge(line: Line, side: Literal["left", "right"]) -> tuple[Point3, tuple[AnyLeg, ...]]:
    """Return the start and legs of an edge of a line's strip. Raises ``Refused`` where the line has none."""
    strip = line.strip
    if strip is None:
        raise Refused(f"{line.name} has no strip along it: give it a width first.", "made", "no-strip")
    return offset(line, strip.right if side == "right" else -strip.left)


def _joints(line: Line, strip: Strip) -> Array:
    """Return where joints lie across a strip: in equal bays, no wider than is said; none at the ends of an open line."""
    if strip.joints is None:
        return np.zeros(0)
    length = course_of(line).length
    bays = max(1, math.ceil(length / strip.joints - NEARLY_WHOLE))
    places = np.linspace(0.0, length, bays + 1)[:-1]
    return places if line.closed and bays > 1 else places[1:]


@kept_with
def enclosed(line: Line) -> shapely.Polygon:
    """Return the ground that a closed line encloses on plan.

    Raises ``Refused`` where it is open, encloses nothing, or crosses itself, with the place.
    """
    if not line.closed:
        raise Refused(f"{line.name} is open, and encloses nothing: close it on its card, or choose a closed line.", "line", "open-line")
    ring = shapely.Polygon(path_on_plan(line))
    if ring.convex_hull.area <= WELD**2:
        raise Refused(f"{line.name} encloses no ground: on plan it goes out and back. Choose another line.", "line", "no-ground")
    if not ring.is_valid:
        place = shapely.is_valid_reason(ring).partition("[")[2].rstrip("]").split()
        where = f" at {float(place[0]):.0f}, {float(place[1]):.0f}" if len(place) == 2 else ""
        raise Refused(
            f"{line.name} crosses itself{where}, so what it encloses is not clear: move its points apart.", "line", "crosses-itself"
        )
    return ring
