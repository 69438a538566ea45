"""Walks: a line typed as distances and turns.

A walk is a row of steps, set apart by commas or new lines; ``docs/walks.md`` is its page.

    3000                          go on 3000 in the present heading
    3000 rise 250                 the same on plan, rising 250
    up 2100, down 2100            go upright
    right 90, left 45             turn on plan, degrees
    heading 30                    turn to a bearing, clockwise from north
    round 150                     round the corner made here to a radius
    arc right 90 radius 600       a curve that leaves in the present heading; ``rise`` makes it a screw line
    to (3000; 4000; 0)            a straight leg to a point
    arc to (3000; 0)              an arc that leaves in the present heading; ``through (x; y)`` an arc by a point on it
    curve (500; 0) (900; 300)     a smooth curve through points; ``sharp (x; y)`` makes a corner there
    cord to (5200; 0) sag 400     a hanging cord, by ``sag`` or by ``length``
    home                          a straight leg back to the start, which closes the line
    close                         says that the walk is back at its start

Lengths are written as everywhere, with measures of the job.
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.expressions import work_out
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import NO_LEAN, SAME_SHARE
from slow_ribbon.core.kernel.units import WELD, System
from slow_ribbon.core.lines.legs import AnyLeg, ArcLeg, CordLeg, HelixLeg, PassPoint, StraightLeg, ThroughLeg, helix_end, place

#: A walk that says it closes may miss its start by this much, mm, for the rounding of its figures.
CLOSES = 0.5


@dataclass(frozen=True)
class Walked:
    """What a walk gives. ``heading`` is the direction on plan at its end, radians anticlockwise from east; ``uses`` measures."""

    start: Point3
    legs: tuple[AnyLeg, ...]
    closed: bool
    end: Point3
    heading: float
    uses: frozenset[str]

    @property
    def bearing(self) -> float:
        """The heading in degrees clockwise from north."""
        return (90 - math.degrees(self.heading)) % 360


@dataclass
class _Walker:
    """The state of a walk: its place and its heading."""

    text: str
    start: Point3
    measures: Mapping[str, float]
    system: System
    at: Point3
    heading: float = 0.0
    legs: list[AnyLeg] = field(default_factory=list)
    closed: bool = False
    uses: set[str] = field(default_factory=set)
    place: int = 0

    def refuse(self, what: str, offset: int = 0, code: str = "walk") -> Refused:
        """Return a refusal at a place in the step that is being walked."""
        at = self.place + offset
        return Refused(f"{what} (step {self.text[:at].count(',') + self.text[:at].count(chr(10)) + 1}, place {at + 1})", str(at + 1), code)

    def length(self, text: str, offset: int) -> float:
        if not text.strip():
            raise self.refuse("A length is missing here.", offset)
        try:
            worked = work_out(text.strip(), self.measures, self.system)
        except Refused as refused:
            inner = int(refused.where) - 1 if refused.where.isdigit() else 0
            lead = len(text) - len(text.lstrip())
            # The place is given once, that in the whole walk.
            what = re.sub(r",? at place \d+ of '[^']*'", "", refused.what)
            raise self.refuse(what, offset + lead + inner, refused.code) from refused
        self.uses |= worked.uses
        return worked.length

    def angle(self, text: str, offset: int) -> float:
        plain = text.strip().rstrip("°").strip()
        found = re.fullmatch(r"(-?\d+(?:\.\d*)?|-?\.\d+)(?:\s*/\s*(\d+(?:\.\d*)?))?", plain)
        if not found or (found.group(2) and float(found.group(2)) == 0):
            raise self.refuse(f"{plain!r} is not an angle: write degrees, such as 90, 22.5 or 360/7.", offset)
        return float(found.group(1)) / float(found.group(2) or 1)

    def point(self, text: str, offset: int) -> Point3:
        parts = text.split(";")
        if len(parts) not in (2, 3):
            raise self.refuse("A point is written (east; north) or (east; north; height).", offset)
        values, at = [], offset
        for part in parts:
            values.append(self.length(part, at))
            at += len(part) + 1
        return values[0], values[1], values[2] if len(values) == 3 else self.at[2]

    def go(self, leg: AnyLeg) -> None:
        """Take a leg, and turn to the direction it ends in; upright legs keep the heading."""
        try:
            spans = leg.spans(self.at)
        except Refused as refused:
            raise self.refuse(refused.what, 0, refused.code) from refused
        along = spans[-1].at(np.array([spans[-1].length]))[1][0]
        if math.hypot(along[0], along[1]) > NO_LEAN:
            self.heading = math.atan2(along[1], along[0])
        self.legs.append(leg)
        self.at = leg.to

    def ahead(self, distance: float, rise: float = 0.0) -> Point3:
        x, y, z = self.at
        return x + distance * math.cos(self.heading), y + distance * math.sin(self.heading), z + rise


def walk(text: str, start: Point3 = (0.0, 0.0, 0.0), measures: Mapping[str, float] | None = None, system: System = "mm") -> Walked:
    """Return the legs that a walk gives from ``start``, heading east at first.

    Raises ``Refused`` for a step that cannot be read or walked; ``where`` is its 1-based place
    in the text. A walk that says it closes and does not is refused with the distance it misses by.

    >>> [leg.to for leg in walk("3 m, right 90, 2 m").legs]
    [(3000.0, 0.0, 0.0), (3000.0, -2000.0, 0.0)]
    """
    walker = _Walker(text, start, measures or {}, system, start)
    steps = [(match.start(), match.group()) for match in re.finditer(r"[^,\n]+", text) if match.group().strip()]
    for position, step in steps:
        walker.place = position + len(step) - len(step.lstrip())
        if walker.closed:
            raise walker.refuse("The walk is closed already: nothing can follow.")
        _step(walker, step.strip())
    if not walker.legs:
        walker.place = 0
        raise walker.refuse("The walk goes nowhere yet: give a distance, such as 3000.")
    return Walked(
        start=start, legs=tuple(walker.legs), closed=walker.closed, end=walker.at, heading=walker.heading, uses=frozenset(walker.uses)
    )


_WORD = re.compile(r"[a-z]+", re.IGNORECASE)
_POINT = re.compile(r"\(([^()]*(?:\([^()]*\)[^()]*)*)\)")


def _step(walker: _Walker, step: str) -> None:
    word = _WORD.match(step)
    name = word.group().lower() if word else ""
    rest, offset = (step[len(name) :], len(name)) if name else (step, 0)
    match name:
        case "right" | "left" | "heading":
            angle = walker.angle(rest, offset)
            if name == "heading":
                walker.heading = math.radians(90 - angle)
            else:
                walker.heading += math.radians(angle if name == "left" else -angle)
        case "up" | "down":
            distance = walker.length(rest, offset)
            x, y, z = walker.at
            walker.go(StraightLeg(to=(x, y, z + (distance if name == "up" else -distance))))
        case "round":
            _round(walker, rest, offset)
        case "to":
            walker.go(StraightLeg(to=_only_point(walker, rest, offset)))
        case "arc":
            _arc(walker, rest, offset)
        case "curve":
            _curve(walker, rest, offset)
        case "cord":
            _cord(walker, rest, offset)
        case "home":
            _nothing_more(walker, rest, offset)
            walker.go(StraightLeg(to=walker.start))
            walker.closed = True
        case "close":
            _nothing_more(walker, rest, offset)
            _close(walker)
        case _:
            parts = _parts(step, ("rise",), lead=True)
            distance = walker.length(*parts[""])
            rise = walker.length(*parts["rise"]) if "rise" in parts else 0.0
            if distance < 0:
                raise walker.refuse("A distance is positive: write turn right 180 in place of a minus sign.")
            walker.go(StraightLeg(to=walker.ahead(distance, rise)))


def _parts(text: str, words: tuple[str, ...], offset: int = 0, lead: bool = False) -> dict[str, tuple[str, int]]:
    """Return the text before the first of some words and after each of them, with offsets in the step.

    ``lead``: something must stand before the first word.
    """
    found: dict[str, tuple[str, int]] = {}
    name, begin = "", 0
    for match in re.finditer(r"[A-Za-z]+", text):
        word = match.group().lower()
        # A measure may have one of the words for a name: it is taken once, the first time.
        between = text[begin : match.start()].strip()
        if word in words and word not in found and word != name and (between or not (name or lead)):
            found[name] = (text[begin : match.start()], offset + begin)
            name, begin = word, match.end()
    found[name] = (text[begin:], offset + begin)
    return found


def _only_point(walker: _Walker, text: str, offset: int) -> Point3:
    found = _POINT.search(text)
    if not found or text[: found.start()].strip() or text[found.end() :].strip():
        raise walker.refuse("A point is written (east; north) or (east; north; height).", offset)
    return walker.point(found.group(1), offset + found.start(1))


def _nothing_more(walker: _Walker, rest: str, offset: int) -> None:
    if rest.strip():
        raise walker.refuse(f"Nothing more belongs in this step, but {rest.strip()!r} follows: set a comma before it.", offset)


def _round(walker: _Walker, rest: str, offset: int) -> None:
    radius = walker.length(rest, offset)
    if not walker.legs:
        raise walker.refuse("There is no corner here to round: a leg must come first.")
    if radius <= 0:
        raise walker.refuse("A radius must be more than zero.", offset)
    walker.legs[-1] = walker.legs[-1].model_copy(update={"round": radius})


def _arc(walker: _Walker, rest: str, offset: int) -> None:
    parts = _parts(rest, ("to", "through", "right", "left", "radius", "rise"), offset)
    if "to" in parts:
        end = _only_point(walker, *parts["to"])
        if "through" in parts:
            walker.go(ArcLeg(to=end, via=_only_point(walker, *parts["through"])))
        else:
            walker.go(_tangent_arc(walker, end))
        return
    side = "right" if "right" in parts else "left" if "left" in parts else ""
    if not side or "radius" not in parts:
        raise walker.refuse("An arc is written: arc right 90 radius 600, arc to (x; y), or arc to (x; y) through (x; y).")
    turn = walker.angle(*parts[side])
    radius = walker.length(*parts["radius"])
    rise = walker.length(*parts["rise"]) if "rise" in parts else 0.0
    if radius <= 0 or turn <= 0:
        raise walker.refuse("An arc needs a radius and a turn of more than zero; write right or left for the side.", offset)
    sign = -1 if side == "right" else 1
    x, y, z = walker.at
    centre = (x - sign * radius * math.sin(walker.heading), y + sign * radius * math.cos(walker.heading), z)
    end = helix_end(walker.at, centre, (0.0, 0.0, 1.0), sign * turn, rise)
    if rise == 0 and turn < 360 - NO_LEAN:
        walker.go(ArcLeg(to=end, via=helix_end(walker.at, centre, (0.0, 0.0, 1.0), sign * turn / 2, 0.0)))
    else:
        walker.go(HelixLeg(to=end, centre=centre, turn=sign * turn))


def _tangent_arc(walker: _Walker, end: Point3) -> AnyLeg:
    """Return the arc to a point that leaves in the present heading; straight ahead a straight leg."""
    along = np.array([math.cos(walker.heading), math.sin(walker.heading), 0.0])
    chord = np.subtract(end, walker.at)
    return tangent_arc(walker.at, along, end) or StraightLeg(to=place(np.add(walker.at, chord)))


def tangent_arc(begin: Point3, tangent: Array, end: Point3) -> ArcLeg | None:
    """Return the arc from ``begin`` along ``tangent`` to ``end``; ``None`` where that is a straight or there is no such arc."""
    chord = np.subtract(end, begin)
    size = float(np.linalg.norm(chord))
    if size <= WELD:
        return None
    across = chord - tangent * float(chord @ tangent)
    off = float(np.linalg.norm(across))
    if off < SAME_SHARE * size:
        return None
    side = across / off
    radius = size**2 / (2 * off)
    centre = np.add(begin, side * radius)
    # The middle of the arc lies where the bisector of the chord leaves the circle, on the side travelled.
    angle = 2 * math.atan2(off, float(chord @ tangent))
    middle = centre - side * radius * math.cos(angle / 2) + tangent * radius * math.sin(angle / 2)
    return ArcLeg(to=end, via=place(middle))


def _curve(walker: _Walker, rest: str, offset: int) -> None:
    points: list[PassPoint] = []
    position = 0
    for match in re.finditer(r"\s*(sharp\s*)?" + _POINT.pattern, rest, re.IGNORECASE):
        if rest[position : match.start()].strip():
            break
        points.append(PassPoint(at=walker.point(match.group(2), offset + match.start(2)), sharp=bool(match.group(1))))
        position = match.end()
    if rest[position:].strip() or not points:
        raise walker.refuse("A curve is written by its points: curve (500; 0) (900; 300) sharp (1200; 0) (1500; 400).", offset + position)
    walker.go(ThroughLeg(to=points[-1].at, points=tuple(points[:-1])))


def _cord(walker: _Walker, rest: str, offset: int) -> None:
    parts = _parts(rest, ("to", "rise", "sag", "length"), offset)
    if "to" in parts:
        end = _only_point(walker, *parts["to"])
    else:
        rise = walker.length(*parts["rise"]) if "rise" in parts else 0.0
        end = walker.ahead(walker.length(*parts[""]), rise)
    if ("sag" in parts) == ("length" in parts):
        raise walker.refuse("A cord is written with its sag or its length: cord to (5200; 0) sag 400.")
    size = walker.length(*parts["sag" if "sag" in parts else "length"])
    if size <= 0:
        raise walker.refuse("A sag or a length must be more than zero.", offset)
    walker.go(CordLeg(to=end, sag=size if "sag" in parts else None, length=None if "sag" in parts else size))


def _close(walker: _Walker) -> None:
    if not walker.legs:
        raise walker.refuse("There is nothing to close yet: a leg must come first.")
    gap = math.dist(walker.at, walker.start)
    if gap > CLOSES:
        ways = (("too far west", "too far east"), ("too far south", "too far north"), ("too low", "too high"))
        across = np.subtract(walker.start, walker.at).tolist()
        message = " and ".join(
            f"{figure(abs(off))} {less if off > 0 else more}" for off, (less, more) in zip(across, ways, strict=True) if abs(off) > 0.05
        )
        raise walker.refuse(
            f"The walk does not close: it ends {figure(gap)} from its start, {message}. Correct a figure, or end with home.",
            code="walk-open",
        )
    last = walker.legs[-1]
    before = walker.legs[-2].to if len(walker.legs) > 1 else walker.start
    if gap > 0:
        walker.legs[-1] = last.reshaped(before, before, walker.start)
    walker.closed = True
