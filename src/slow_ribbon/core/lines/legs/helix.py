"""Screw lines about an axis."""

from __future__ import annotations

import math
from typing import Any, Literal

import numpy as np

from slow_ribbon.core.geometry.curves import Curve, ScrewSpan
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.tolerances import NO_LENGTH, SAME_SHARE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.legs.arc import ArcLeg
from slow_ribbon.core.lines.legs.base import Direction, LegBase, Move, Turn, place
from slow_ribbon.core.lines.legs.of_span import leg_of


class HelixLeg(LegBase):
    """A screw line about the axis through ``centre``.

    ``turn`` is in degrees, right-handed about ``axis``; the leg rises along the axis by as much
    as ``to`` lies above its beginning.
    """

    words = "a helix"
    sheared = False

    kind: Literal["helix"] = "helix"
    centre: Point3
    axis: Direction = (0.0, 0.0, 1.0)
    turn: Turn

    def spans(self, begin: Point3, where: str = "") -> list[Curve]:
        return [_helix(self, np.array(begin, dtype=float), where)]

    def carried(self, move: Move, direct: Move, grow: float, over: bool) -> dict[str, Any]:
        return {"centre": move(self.centre), "axis": direct(self.axis), "turn": -self.turn if over else self.turn}

    def backward(self) -> dict[str, Any]:
        return {"turn": -self.turn}


@leg_of.register
def _(span: ScrewSpan, low: float, high: float) -> LegBase:
    points = span.at(np.array([(low + high) / 2, high]))[0]
    turn = math.degrees(span.turn * (high - low) / span.length)
    if span.radius_of_arc is not None and turn < 359.999:
        return ArcLeg(to=place(points[1]), via=place(points[0]))
    return HelixLeg(to=place(points[1]), centre=place(span.centre), axis=place(np.cross(span.u, span.v)), turn=turn)


def _helix(leg: HelixLeg, begin: Array, where: str) -> ScrewSpan:
    axis, centre, end = np.array(leg.axis), np.array(leg.centre), np.array(leg.to)
    size = float(np.linalg.norm(axis))
    if size < NO_LENGTH:
        raise Refused("The helix has no axis: give its direction, such as 0, 0, 1 for upright.", f"{where}.axis", "helix-axis")
    axis = axis / size
    out = begin - centre
    out = out - axis * float(out @ axis)
    radius = float(np.linalg.norm(out))
    turn = math.radians(leg.turn)
    if radius <= WELD or abs(turn) * radius <= WELD:
        what = "begins on its axis: it has no radius" if radius <= WELD else "has no turn"
        raise Refused(f"The helix {what}. Move the axis or give it a turn.", f"{where}.turn", "helix-flat")
    u = out / radius
    if turn < 0:
        v, angle = np.cross(u, axis), -turn
    else:
        v, angle = np.cross(axis, u), turn
    rise = float((end - begin) @ axis)
    reached = centre + axis * float((begin - centre) @ axis) + radius * (u * math.cos(angle) + v * math.sin(angle)) + axis * rise
    off = float(np.linalg.norm(reached - end))
    if off > max(WELD, SAME_SHARE * radius):
        raise Refused(
            f"After {leg.turn:g}° the helix is {off:.3g} mm from where the leg is said to end: put its end right, or its turn.",
            f"{where}.to",
            "helix-end",
        )
    return ScrewSpan(
        centre=centre + axis * float((begin - centre) @ axis), u=u, v=v, axis=axis, radius=radius, turn=angle, climb=rise, kind="helix"
    )


def helix_end(begin: Point3, centre: Point3, axis: Direction, turn: float, rise: float) -> Point3:
    """Return where a helix from ``begin`` ends after ``turn`` degrees and ``rise`` mm along its axis."""
    c, z = np.array(centre), np.array(axis) / np.linalg.norm(axis)
    out = np.array(begin) - c
    along = z * float(out @ z)
    u = out - along
    angle = math.radians(turn)
    return place(c + along + u * math.cos(angle) + np.cross(z, u) * math.sin(angle) + z * rise)
