"""Edits of the legs of a line: their kinds, the points that shape them, how they leave."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Literal

import numpy as np
from pydantic import TypeAdapter, ValidationError

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.named_places import NamedPlace
from slow_ribbon.core.job.edits.base import LineEdit
from slow_ribbon.core.job.edits.changes import KindChanges, PointChange, changes_model, merged_point
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Index, Point3
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import NO_LEAN, ROUNDING
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.legs import (
    LEGS,
    AnyLeg,
    ArcLeg,
    HelixLeg,
    Leg,
    RadiusOfArc,
    StraightLeg,
    Turn,
    helix_end,
    place,
)  # fmt: skip
from slow_ribbon.core.lines.made.walk import tangent_arc
from slow_ribbon.core.lines.model import Line, leg_begins
from slow_ribbon.core.lines.point_ids import index_of_leg, point_ids
from slow_ribbon.core.lines.transform import moved_point

_LEG: TypeAdapter[AnyLeg] = TypeAdapter(Leg)


class LegEdit(LineEdit):
    """Something that can be done to one leg of a line, by the point at which it begins."""

    leg: Index

    def known(self, line: Line) -> int:
        """Return which leg it is, counted from 0. Raises ``Refused`` where the line has no such leg."""
        return index_of_leg(line, self.leg)

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return (NamedPlace(self.line, "leg", self.leg),)

    def says(self, job: Job) -> set[str]:
        index = self.known(job.line(self.line))
        ids = point_ids(job.line(self.line))
        ends = ids[index], ids[(index + 1) % len(ids)]
        return {f"{self.line}.legs.{self.leg}", *(f"{self.line}.points.{id}" for id in ends)}

    def name(self, job: Job) -> str:
        return f"leg {self.known(job.line(self.line)) + 1} of {super().name(job)}"


if TYPE_CHECKING:
    LegChanges = KindChanges
else:
    LegChanges = changes_model(
        __name__,
        "LegChanges",
        "What is changed of a leg; with another ``kind`` it becomes another leg with the same ends and rounding.",
        LEGS,
        to=PointChange,
        via=PointChange,
        centre=PointChange,
    )


class SetLeg(LegEdit):
    """Change a leg, or make it another one: straight, an arc, a curve, a helix, a cord. It may end elsewhere than before."""

    kind: Literal["set_leg"] = "set_leg"
    changes: LegChanges

    def reshape(self, line: Line) -> Line:
        """Return the line with what is said of the leg: of another kind it keeps its end and its rounding."""
        index, changes = self.known(line), self.changes
        old = line.legs[index]
        said = {name: getattr(changes, name) for name in changes.model_fields_set}
        to = said.pop("to", None)
        kind = said.pop("kind", None) or old.kind
        end = old.to if to is None else place(merged_point(old.to, to))
        known = {name: getattr(old, name) for name in (type(old).model_fields if kind == old.kind else ("round",))}
        for name, value in said.items():
            before = known.get(name)
            if isinstance(value, tuple) and None in value and isinstance(before, tuple):
                value = merged_point(before, value)
            known[name] = value
        try:
            leg = _LEG.validate_python({**known, "kind": kind, "to": end})
        except ValidationError as error:
            first = error.errors(include_url=False)[0]
            where = ".".join(["changes", *(str(part) for part in first["loc"][1:])])
            raise Refused(f"Leg {index + 1} of {line.name} is not valid: {first['msg'].lower()}.", where, "invalid") from error
        return _with_leg(line, index, leg)

    def describe(self, job: Job) -> str:
        kind = next((leg for leg in LEGS if leg.model_fields["kind"].default == self.changes.kind), None)
        return f"changed {self.name(job)}" if kind is None else f"made {self.name(job)} {kind.words}"


class ShapeLeg(LegEdit):
    """Move a point that shapes a leg, counted from 0 along it: where an arc or a smooth curve passes, a control; sharp or smooth there."""

    kind: Literal["shape_leg"] = "shape_leg"
    point: Index
    to: PointChange | None = None
    sharp: bool | None = None

    def reshape(self, line: Line) -> Line:
        index = self.known(line)
        at = _shape_point(line, index, self.point)
        if self.to is not None:
            at = place(merged_point(at, self.to))
        return _with_leg(line, index, line.legs[index].with_shape_point(self.point, at, self.sharp))

    def describe(self, job: Job) -> str:
        return f"shaped {self.name(job)}"


class UnshapeLeg(LegEdit):
    """Remove a point that shapes a smooth curve or a curve by controls."""

    kind: Literal["unshape_leg"] = "unshape_leg"
    point: Index

    def reshape(self, line: Line) -> Line:
        index = self.known(line)
        _shape_point(line, index, self.point)
        leg = line.legs[index].without_shape_point(self.point)
        if leg is None:
            what = f"Leg {index + 1} of {line.name} needs that point: make the leg another kind instead."
            raise Refused(what, "point", "leg-point")
        return _with_leg(line, index, leg)

    def describe(self, job: Job) -> str:
        return f"removed a point of {self.name(job)}"


def _shape_point(line: Line, index: int, point: int) -> Point3:
    points = line.legs[index].shape_points()
    if point >= len(points):
        raise Refused(f"Leg {index + 1} of {line.name} has {len(points)} points that shape it.", "point", "unknown-point")
    return points[point]


class BendLeg(LegEdit):
    """Make a leg an arc of a radius, bulging left or right of its straight, the short way or the long way round.

    Of a leg that is an arc already, what is left out stays; another becomes a short arc bulging
    left, of three quarters of the distance between its ends.
    """

    kind: Literal["bend_leg"] = "bend_leg"
    radius: RadiusOfArc | None = None
    side: Literal["left", "right"] | None = None
    long: bool | None = None

    def reshape(self, line: Line) -> Line:
        index = self.known(line)
        begin, end = np.array(leg_begins(line)[index]), np.array(line.legs[index].to)
        chord = end - begin
        size = float(np.linalg.norm(chord))
        radius, side, long = self._completed(line.legs[index], begin, size)
        if radius * 2 < size * (1 - ROUNDING):
            raise Refused(
                f"Leg {index + 1} of {line.name} is {figure(size)} from end to end: no arc of radius {figure(radius, 3)} spans it. "
                f"The smallest that does is {figure(size / 2, 2)}.",
                "radius",
                "radius-small",
            )
        flat = math.hypot(chord[0], chord[1])
        # Upright legs bulge in the plane of east and height.
        across = np.array([-chord[1], chord[0], 0.0]) / flat if flat > WELD else np.array([-1.0, 0.0, 0.0])
        if side == "right":
            across = -across
        depth = math.sqrt(max(0.0, radius**2 - size**2 / 4))
        sagitta = radius + depth if long else radius - depth
        via = (begin + end) / 2 + across * sagitta
        return _with_leg(line, index, ArcLeg(to=line.legs[index].to, via=place(via), round=line.legs[index].round))

    def describe(self, job: Job) -> str:
        return f"bent {self.name(job)}"

    def _completed(self, leg: AnyLeg, begin: Array, size: float) -> tuple[float, str, bool]:
        """Return the radius, side and way round, what is not said being that of the arc there is, or of a short one bulging left."""
        radius, side, long = 0.75 * size, "left", False
        if isinstance(leg, ArcLeg):
            span = leg.screw(place(begin))
            radius, long = span.radius, span.turn > math.pi
            chord, out = np.subtract(leg.to, begin), np.subtract(leg.via, begin)
            flat = math.hypot(chord[0], chord[1]) > WELD
            side = "left" if (float(chord[0] * out[1] - chord[1] * out[0]) if flat else -float(out[0])) >= 0 else "right"
            if self.long is not None and self.long != long and self.radius is None:
                # Half a circle has no long way round.
                radius = max(radius, size / 2 + 0.01)
        return (
            radius if self.radius is None else self.radius,
            side if self.side is None else self.side,
            long if self.long is None else self.long,
        )


class TurnLeg(LegEdit):
    """Make a leg a screw line: ``turn`` degrees (to the right with a minus) about an upright axis, between its ends."""

    kind: Literal["turn_leg"] = "turn_leg"
    turn: Turn

    def reshape(self, line: Line) -> Line:
        index = self.known(line)
        begin, end = leg_begins(line)[index], line.legs[index].to
        half = math.radians(self.turn) / 2
        chord = np.subtract(end, begin)[:2]
        if abs(math.sin(half)) < NO_LEAN or float(np.linalg.norm(chord)) < WELD:
            raise Refused(
                "A whole turn comes back over its beginning: give a turn that is not a multiple of 360°, or draw it as a walk.",
                "turn",
                "turn",
            )
        # The axis lies on the bisector of the chord, at half the chord over tan of half the turn.
        left = np.array([-chord[1], chord[0]])
        middle = np.add(begin[:2], end[:2]) / 2 + left / (2 * math.tan(half))
        centre = (float(middle[0]), float(middle[1]), begin[2])
        reached = helix_end(begin, centre, (0.0, 0.0, 1.0), self.turn, end[2] - begin[2])
        return _with_leg(line, index, HelixLeg(to=end if math.dist(end, reached) < WELD else reached, centre=centre, turn=self.turn))

    def describe(self, job: Job) -> str:
        return f"made {self.name(job)} a helix"


class MakeTangent(LegEdit):
    """Make the leg after a point leave in the direction in which the leg before comes in, as an arc to its own end."""

    kind: Literal["make_tangent"] = "make_tangent"

    def reshape(self, line: Line) -> Line:
        index = self.known(line)
        if index == 0 and not line.closed:
            raise Refused("The first leg of an open line has no leg before it to leave in line with.", "leg", "unknown-leg")
        begin = leg_begins(line)[index]
        before = line.legs[index - 1].spans(leg_begins(line)[index - 1])[-1]
        along = before.at(np.array([before.length]))[1][0]
        old = line.legs[index]
        found = tangent_arc(begin, along, old.to) or StraightLeg(to=old.to)
        legs = list(line.legs)
        legs[index] = found.model_copy(update={"round": old.round})
        # Where it now leaves in line there is no corner to round.
        legs[index - 1] = legs[index - 1].model_copy(update={"round": None})
        return line.model_copy(update={"legs": tuple(legs)})

    def describe(self, job: Job) -> str:
        return f"made {self.name(job)} tangent"


def _with_leg(line: Line, index: int, leg: AnyLeg) -> Line:
    legs = list(line.legs)
    begin = leg_begins(line)[index]
    try:
        leg.spans(begin, "changes")
    except Refused as refused:
        raise Refused(f"Leg {index + 1} of {line.name}: {refused.what}", refused.where, refused.code) from refused
    end = leg.to
    if math.dist(end, legs[index].to) <= WELD:
        legs[index] = leg.model_copy(update={"to": legs[index].to})
        return line.model_copy(update={"legs": tuple(legs)})
    moved = moved_point(line, (index + 1) % len(legs) if line.closed else index + 1, end)
    legs = list(moved.legs)
    legs[index] = leg
    return moved.model_copy(update={"legs": tuple(legs)})
