"""Making edits of the points and legs of one line."""

from __future__ import annotations

import math

import numpy as np
from pydantic import TypeAdapter, ValidationError

from slow_ribbon.core.geometry.curves import ScrewSpan
from slow_ribbon.core.job.edits.changes import LegChanges
from slow_ribbon.core.job.edits.lines import BendLeg, InsertVertex, RoundCorners, ShapeLeg, TurnLeg, UnshapeLeg
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.fillets import line_parts
from slow_ribbon.core.lines.leg_curves import spans_of
from slow_ribbon.core.lines.legs import AnyLeg, ArcLeg, CurveLeg, HelixLeg, Leg, PassPoint, StraightLeg, ThroughLeg, helix_end, place
from slow_ribbon.core.lines.model import Line, leg_begins
from slow_ribbon.core.lines.split_join import halves
from slow_ribbon.core.lines.transform import moved_point
from slow_ribbon.core.lines.walk import tangent_arc
from slow_ribbon.core.sections.profile import Array


def point_count(line: Line) -> int:
    """Return how many points a line has."""
    return len(line.legs) + (0 if line.closed else 1)


def known_point(line: Line, index: int) -> int:
    if index >= point_count(line):
        raise Refused(f"{line.name} has {point_count(line)} points; there is no point {index + 1}.", "index", "unknown-point")
    return index


def known_leg(line: Line, leg: int) -> int:
    if leg >= len(line.legs):
        raise Refused(f"{line.name} has {len(line.legs)} legs; there is no leg {leg + 1}.", "leg", "unknown-leg")
    return leg


def inserted(line: Line, edit: InsertVertex) -> Line:
    if edit.leg > len(line.legs) or (edit.leg == len(line.legs) and line.closed):
        raise Refused(f"{line.name} has {len(line.legs)} legs; there is no leg {edit.leg + 1}.", "leg", "unknown-leg")
    legs = list(line.legs)
    if edit.leg == len(legs):
        return line.model_copy(update={"legs": (*legs, StraightLeg(to=edit.at))})
    old = legs[edit.leg]
    if isinstance(old, StraightLeg):
        legs[edit.leg : edit.leg + 1] = [StraightLeg(to=edit.at), old]
        return line.model_copy(update={"legs": tuple(legs)})
    # A curve is cut where it comes nearest to the place, and keeps its shape; then the new point is moved there.
    plain = line.model_copy(update={"openings": (), "marks": ()})
    chainage = _nearest_on_leg(plain, edit.leg, edit.at)
    parted = halves(plain, chainage)
    cut = line.model_copy(update={"legs": (*parted.before, *parted.after)})
    return moved_point(cut, len(parted.before), edit.at) if math.dist(parted.point, edit.at) > WELD else cut


def _nearest_on_leg(line: Line, leg: int, place_near: Point3) -> float:
    at, best = 0.0, (math.inf, 0.0)
    for part in line_parts(line):
        if part.leg == leg and not part.rounding:
            places = np.linspace(0, part.span.length, 2001)[1:-1]
            away = np.linalg.norm(part.span.at(places)[0] - np.array(place_near), axis=1)
            nearest = int(np.argmin(away))
            best = min(best, (float(away[nearest]), at + float(places[nearest])))
        at += part.span.length
    return best[1]


def removed(line: Line, index: int) -> Line:
    known_point(line, index)
    least = 2 if not line.closed else 3 if all(isinstance(leg, StraightLeg) for leg in line.legs) else 2
    if point_count(line) <= least:
        kind = "A closed" if line.closed else "An open"
        raise Refused(f"{kind} line keeps at least {least} points; remove the whole line instead.", "index", "line-short")
    legs = list(line.legs)
    if index == 0:
        if line.closed:
            legs[-1] = StraightLeg(to=legs[0].to, round=legs[0].round)
        return line.model_copy(update={"start": legs[0].to, "legs": tuple(legs[1:])})
    if index == len(legs):
        legs.pop()
        legs[-1] = legs[-1].model_copy(update={"round": None})
        return line.model_copy(update={"legs": tuple(legs)})
    before, after = legs[index - 1], legs[index]
    legs[index - 1 : index + 1] = [_one_leg(line, before, after, index)]
    return line.model_copy(update={"legs": tuple(legs)})


def _one_leg(line: Line, before: AnyLeg, after: AnyLeg, index: int) -> AnyLeg:
    """Return the leg that takes the place of two: two parts of one circle make one arc again."""
    begin = leg_begins(line)[index - 1]
    if isinstance(before, ArcLeg) and isinstance(after, ArcLeg) and math.dist(begin, after.to) > WELD:
        (first,), (second,) = spans_of(before, begin), spans_of(after, before.to)
        if isinstance(first, ScrewSpan) and isinstance(second, ScrewSpan) and math.dist(first.centre, second.centre) < 1e-3:
            return ArcLeg(to=after.to, via=before.to, round=after.round)
    return StraightLeg(to=after.to, round=after.round)


#: An open line whose ends are nearer than this, mm, and than a tenth of its length, is closed by moving its end.
NEARLY = 50.0


def made_closed(line: Line, closed: bool) -> Line:
    if line.closed == closed:
        return line
    if not closed:
        last = line.legs[-1].model_copy(update={"round": None})
        return line.model_copy(update={"closed": False, "legs": (*line.legs[:-1], last)})
    gap = math.dist(line.start, line.legs[-1].to)
    if gap <= min(NEARLY, course_of(line).length / 10) and len(line.legs) > 1:
        return moved_point(line, len(line.legs), line.start).model_copy(update={"closed": True})
    return line.model_copy(update={"closed": True, "legs": (*line.legs, StraightLeg(to=line.start))})


def leg_set(line: Line, index: int, leg: AnyLeg) -> Line:
    legs = list(line.legs)
    begin = leg_begins(line)[index]
    try:
        spans_of(leg, begin, "changes")
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


def leg_changed(line: Line, index: int, changes: LegChanges) -> Line:
    """Return a line with what is said of a leg: of another kind it keeps its end and its rounding."""
    old = line.legs[index]
    said = {name: getattr(changes, name) for name in changes.model_fields_set}
    to = said.pop("to", None)
    kind = said.pop("kind", None) or old.kind
    end = old.to if to is None else place([b if a is None else a for a, b in zip(to, old.to, strict=True)])
    known = {name: getattr(old, name) for name in (type(old).model_fields if kind == old.kind else ("round",))}
    for name, value in said.items():
        before = known.get(name)
        if isinstance(value, tuple) and None in value and isinstance(before, tuple):
            value = tuple(a if b is None else b for a, b in zip(before, value, strict=True))
        known[name] = value
    try:
        leg = _LEG.validate_python({**known, "kind": kind, "to": end})
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        where = ".".join(["changes", *(str(part) for part in first["loc"][1:])])
        raise Refused(f"Leg {index + 1} of {line.name} cannot be that: {first['msg'].lower()}.", where, "invalid") from error
    return leg_set(line, index, leg)


_LEG: TypeAdapter[AnyLeg] = TypeAdapter(Leg)


def shaped(line: Line, edit: ShapeLeg) -> Line:
    """Return a line with a point that shapes one of its legs moved."""
    index = known_leg(line, edit.leg)
    leg = line.legs[index]
    points = _shape_points(line, index, edit.point)
    if edit.to is not None:
        points[edit.point] = place([b if a is None else a for a, b in zip(edit.to, points[edit.point], strict=True)])
    if isinstance(leg, ArcLeg):
        return leg_set(line, index, leg.model_copy(update={"via": points[0]}))
    if isinstance(leg, CurveLeg):
        return leg_set(line, index, leg.model_copy(update={"controls": tuple(points)}))
    assert isinstance(leg, ThroughLeg)  # no other leg has points that shape it
    sharp = [one.sharp for one in leg.points]
    if edit.sharp is not None:
        sharp[edit.point] = edit.sharp
    passed = tuple(PassPoint(at=at, sharp=one) for at, one in zip(points, sharp, strict=True))
    return leg_set(line, index, leg.model_copy(update={"points": passed}))


def unshaped(line: Line, edit: UnshapeLeg) -> Line:
    """Return a line without a point that shapes one of its legs."""
    index = known_leg(line, edit.leg)
    leg = line.legs[index]
    points = _shape_points(line, index, edit.point)
    del points[edit.point]
    if isinstance(leg, ThroughLeg):
        return leg_set(line, index, leg.model_copy(update={"points": leg.points[: edit.point] + leg.points[edit.point + 1 :]}))
    if isinstance(leg, CurveLeg) and leg.knots is None and leg.weights is None and points:
        degree = None if leg.degree is None else min(leg.degree, len(points) + 1)
        return leg_set(line, index, leg.model_copy(update={"controls": tuple(points), "degree": degree}))
    raise Refused(f"Leg {index + 1} of {line.name} needs that point: make the leg another kind instead.", "point", "leg-point")


def _shape_points(line: Line, index: int, point: int) -> list[Point3]:
    leg = line.legs[index]
    points: list[Point3] = []
    if isinstance(leg, ArcLeg):
        points = [leg.via]
    elif isinstance(leg, CurveLeg):
        points = list(leg.controls)
    elif isinstance(leg, ThroughLeg):
        points = [one.at for one in leg.points]
    if point >= len(points):
        raise Refused(f"Leg {index + 1} of {line.name} has {len(points)} points that shape it.", "point", "unknown-point")
    return points


def bent(line: Line, edit: BendLeg) -> Line:
    index = known_leg(line, edit.leg)
    begin, end = np.array(leg_begins(line)[index]), np.array(line.legs[index].to)
    chord = end - begin
    size = float(np.linalg.norm(chord))
    edit = _completed(line.legs[index], begin, size, edit)
    assert edit.radius is not None  # it has just been completed
    if edit.radius * 2 < size * (1 - 1e-12):
        raise Refused(
            f"Leg {edit.leg + 1} of {line.name} is {figure(size)} from end to end: no arc of radius {figure(edit.radius, 3)} spans it. "
            f"The smallest that does is {figure(size / 2, 2)}.",
            "radius",
            "radius-small",
        )
    flat = math.hypot(chord[0], chord[1])
    # Upright legs bulge in the plane of east and height.
    across = np.array([-chord[1], chord[0], 0.0]) / flat if flat > WELD else np.array([-1.0, 0.0, 0.0])
    if edit.side == "right":
        across = -across
    depth = math.sqrt(max(0.0, edit.radius**2 - size**2 / 4))
    sagitta = edit.radius + depth if edit.long else edit.radius - depth
    via = (begin + end) / 2 + across * sagitta
    return leg_set(line, index, ArcLeg(to=line.legs[index].to, via=place(via), round=line.legs[index].round))


def _completed(leg: AnyLeg, begin: Array, size: float, edit: BendLeg) -> BendLeg:
    """Return what is said of an arc with what is not: that of the arc there is, or a short one bulging left."""
    radius, side, long = 0.75 * size, "left", False
    if isinstance(leg, ArcLeg):
        span = spans_of(leg, place(begin))[0]
        assert isinstance(span, ScrewSpan)  # an arc is one
        radius, long = span.radius, span.turn > math.pi
        chord, out = np.subtract(leg.to, begin), np.subtract(leg.via, begin)
        flat = math.hypot(chord[0], chord[1]) > WELD
        side = "left" if (float(chord[0] * out[1] - chord[1] * out[0]) if flat else -float(out[0])) >= 0 else "right"
        if edit.long is not None and edit.long != long and edit.radius is None:
            # Half a circle has no long way round.
            radius = max(radius, size / 2 + 0.01)
    given = {name: value for name in ("radius", "side", "long") if (value := getattr(edit, name)) is not None}
    return edit.model_copy(update={"radius": radius, "side": side, "long": long, **given})


def screwed(line: Line, edit: TurnLeg) -> Line:
    index = known_leg(line, edit.leg)
    begin, end = leg_begins(line)[index], line.legs[index].to
    half = math.radians(edit.turn) / 2
    chord = np.subtract(end, begin)[:2]
    if abs(math.sin(half)) < 1e-9 or float(np.linalg.norm(chord)) < WELD:
        raise Refused(
            "A whole turn comes back over its beginning: give a turn that is not a multiple of 360°, or draw it as a walk.", "turn", "turn"
        )
    # The axis lies on the bisector of the chord, at half the chord over tan of half the turn.
    left = np.array([-chord[1], chord[0]])
    middle = np.add(begin[:2], end[:2]) / 2 + left / (2 * math.tan(half))
    centre = (float(middle[0]), float(middle[1]), begin[2])
    reached = helix_end(begin, centre, (0.0, 0.0, 1.0), edit.turn, end[2] - begin[2])
    return leg_set(line, index, HelixLeg(to=end if math.dist(end, reached) < WELD else reached, centre=centre, turn=edit.turn))


def made_tangent(line: Line, leg: int) -> Line:
    index = known_leg(line, leg)
    if index == 0 and not line.closed:
        raise Refused("The first leg of an open line has no leg before it to leave in line with.", "leg", "unknown-leg")
    begin = leg_begins(line)[index]
    before = spans_of(line.legs[index - 1], leg_begins(line)[index - 1])[-1]
    along = before.at(np.array([before.length]))[1][0]
    old = line.legs[index]
    found = tangent_arc(begin, along, old.to) or StraightLeg(to=old.to)
    legs = list(line.legs)
    legs[index] = found.model_copy(update={"round": old.round})
    # Where it now leaves in line there is no corner to round.
    legs[index - 1] = legs[index - 1].model_copy(update={"round": None})
    return line.model_copy(update={"legs": tuple(legs)})


def rounded(line: Line, edit: RoundCorners) -> Line:
    wanted = range(0 if line.closed else 1, len(line.legs)) if edit.points is None else edit.points
    legs = list(line.legs)
    for point in wanted:
        known_point(line, point)
        if not line.closed and point in (0, len(legs)):
            raise Refused(f"Point {point + 1} of {line.name} is an end, not a corner: it has no radius.", "points", "round")
        index = point - 1 if point else len(legs) - 1
        if edit.points is None and edit.radius is not None and not _is_corner(line, point):
            continue
        legs[index] = legs[index].model_copy(update={"round": edit.radius})
    return line.model_copy(update={"legs": tuple(legs)})


def _is_corner(line: Line, point: int) -> bool:
    begins = leg_begins(line)
    before = spans_of(line.legs[point - 1], begins[point - 1])[-1]
    after = spans_of(line.legs[point], begins[point])[0]
    t1, t2 = before.at(np.array([before.length]))[1][0], after.at(np.zeros(1))[1][0]
    return float(np.linalg.norm(t1 - t2)) > math.radians(0.01)
