"""Lines drawn once that stand in several places: one window's, which the others are like.

Terms
-----
typical
    some lines with all that is on them, drawn once. As they are drawn they stand *here*, the first of their places.
place
    where the typical's base point comes to stand, how far the typical is turned there about an upright axis, and
    whether it is mirrored. A place may be left out, and may have measures of its own.
heading
    the direction on plan in which the typical is drawn: along its wall. What mirrors exchanges the two ends of it.
laid
    places that come of a grid or of a line, and follow it.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, ClassVar, Final, Literal

import numpy as np
from pydantic import Field, ValidationError

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Angle, Coordinate, Distance, Follows, GroupName, Id, Index, Model, Name, Point3, Size
from slow_ribbon.core.kernel.tolerances import FLAT, ROUNDING
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import place
from slow_ribbon.core.lines.model import Line, leg_begins
from slow_ribbon.core.lines.transform import Motion

#: What the last column of a list of places may say.
_MIRRORED: Final = {"": False, "no": False, "0": False, "mirrored": True, "m": True, "yes": True, "1": True}
#: So many places are asked about before they are made, and the most there may be.
MANY_PLACES: Final = 1000
MOST_PLACES: Final = 10_000


class OwnMeasure(Model):
    """A measure of the job that has another length in one place, mm."""

    name: Name
    length: Coordinate


class PlaceBody(Model):
    """A place of a typical: where its base point stands, mm, turned by ``turn`` degrees anticlockwise, and first mirrored where it is.

    Without ``stands`` it is left out.
    """

    name: Name
    at: Point3
    turn: Angle = 0.0
    mirrored: bool = False
    stands: bool = True
    own: Annotated[tuple[OwnMeasure, ...], Field(max_length=20)] = ()


class Place(PlaceBody):
    """A place of a typical in a job. ``laid`` counts those that come of a grid or a line, from 0.

    Where these are is remembered: a line that became too short for them leaves them where they were.
    """

    following: ClassVar = {name: Follows("laid", remembered=True) for name in ("at", "turn", "laid")}

    id: Id | None = None
    laid: Index | None = None


class Grid(Model):
    """Places in rows: this many along x, along y and in height, at centres in mm; the first of all is where the typical is drawn."""

    kind: Literal["grid"] = "grid"
    counts: tuple[
        Annotated[int, Field(ge=1, le=MOST_PLACES)],
        Annotated[int, Field(ge=1, le=MOST_PLACES)],
        Annotated[int, Field(ge=1, le=MOST_PLACES)],
    ]
    centres: tuple[Coordinate, Coordinate, Coordinate] = (0.0, 0.0, 0.0)


class PlacesAlong(Model):
    """Places along a line: at ``first`` mm from its start and this many at ``centres`` from there, each turned with the line.

    The typical's heading is the way the line goes there, turned by ``turn`` degrees more.
    """

    kind: Literal["along"] = "along"
    line: Id
    first: Distance = 0.0
    centres: Size
    count: Annotated[int, Field(ge=1, le=MOST_PLACES)]
    turn: Angle = 0.0


AnyLaid = Grid | PlacesAlong
Layout = Annotated[Grid | PlacesAlong, Field(discriminator="kind")]


class TypicalBody(Model):
    """Lines that stand in several places. ``here`` names the first, as they are drawn; without ``here_stands`` it is left out.

    ``base`` is the point that a place gives, mm; ``heading`` the direction on plan that is exchanged in a mirror, degrees from x.
    """

    name: Name
    lines: Annotated[tuple[Id, ...], Field(min_length=1, max_length=1000)]
    base: Point3 = (0.0, 0.0, 0.0)
    heading: Angle = 0.0
    here: Name = "1"
    here_stands: bool = True
    places: Annotated[tuple[Place, ...], Field(max_length=MOST_PLACES, fail_fast=True)] = ()
    laid: Layout | None = None
    group: GroupName = ""


class Typical(TypicalBody):
    """A typical of a job."""

    id: Id


@dataclass(frozen=True)
class Carriage:
    """How a typical is carried to a place: points x (k, 3) go to ``x @ matrix.T + shift``, mm. ``over`` where it mirrors."""

    matrix: Array
    shift: Array
    over: bool

    def points(self, points: Array) -> Array:
        """Return places carried over, (k, 3) or (3,)."""
        return points @ self.matrix.T + self.shift

    def back(self, points: Array) -> Array:
        """Return where places carried over came from."""
        return (points - self.shift) @ self.matrix

    @property
    def turn(self) -> float:
        """How far it is turned about the upright axis after it was mirrored, radians anticlockwise."""
        x, y = self.matrix[:2, 1]
        return math.atan2(-x, y) + 0.0

    def motion(self) -> Motion:
        """Return it as lines are moved by."""
        return Motion(
            lambda point: place(self.points(np.asarray(point, dtype=float))),
            lambda way: place(self.matrix @ np.asarray(way, dtype=float)),
            self.over,
        )


def carriage(typical: TypicalBody, to: PlaceBody) -> Carriage:
    """Return how a typical is carried to a place."""
    matrix = _mirrored_turn(to.turn + 2 * typical.heading) if to.mirrored else _turned(to.turn)
    return Carriage(matrix, np.asarray(to.at) - matrix @ np.asarray(typical.base), to.mirrored)


@lru_cache(maxsize=4096)
def _turned(degrees: float) -> Array:
    angle = math.radians(degrees)
    # Quarter turns leave what is square exactly square.
    cosine, sine = (round(value) + 0.0 if abs(value - round(value)) < ROUNDING else value for value in (math.cos(angle), math.sin(angle)))
    return np.array([[cosine, -sine, 0.0], [sine, cosine, 0.0], [0.0, 0.0, 1.0]])


@lru_cache(maxsize=4096)
def _mirrored_turn(degrees: float) -> Array:
    """Return what mirrors in x and then turns; about a heading h, with R(h) X R(-h) = R(2h) X."""
    return _turned(degrees) @ np.diag([-1.0, 1.0, 1.0])


HERE: Final = Carriage(np.eye(3), np.zeros(3), False)


def heading_of(lines: Sequence[Line]) -> float:
    """Return the direction on plan in which some lines are drawn, degrees: that of the first leg that goes anywhere on plan; else 0."""
    for line in lines:
        for begin, leg in zip(leg_begins(line), line.legs, strict=True):
            x, y = leg.to[0] - begin[0], leg.to[1] - begin[1]
            if math.hypot(x, y) > WELD:
                return math.degrees(math.atan2(y, x))
    return 0.0


def laid_out(laid: AnyLaid, base: Point3, heading: float, along: Line | None = None) -> list[tuple[Point3, float]]:
    """Return where the base point of a typical stands in each place of a grid or along a line, and its turn there, degrees.

    Raises ``Refused`` where a line is too short for them, or upright where one is to stand.
    """
    count = math.prod(laid.counts) if isinstance(laid, Grid) else laid.count
    if count > MOST_PLACES:
        raise Refused(f"That would be {count:,} places; {MOST_PLACES:,} is the most.", "laid", "too-many")
    if isinstance(laid, Grid):
        steps = [np.arange(count) * step for count, step in zip(laid.counts, laid.centres, strict=True)]
        for axis, count, step in zip("xyz", laid.counts, laid.centres, strict=True):
            if count > 1 and step == 0:
                raise Refused(f"{count} places along {axis} need centres other than 0.", f"laid.centres.{'xyz'.index(axis)}", "no-centres")
        z, y, x = (grid.ravel() for grid in np.meshgrid(*reversed(steps), indexing="ij"))
        points = np.column_stack([x, y, z]) + np.asarray(base)
        return [(place(point), 0.0) for point in points[1:]]
    assert along is not None
    course = course_of(along)
    chainages = laid.first + laid.centres * np.arange(laid.count)
    if not along.closed and chainages[-1] > course.length + ROUNDING:
        fit = int((course.length - laid.first) // laid.centres) + 1 if laid.first <= course.length else 0
        what = f"{along.name} has room for {fit} of the {laid.count} places: use fewer, or closer centres."
        raise Refused(what, "laid.count", "no-room")
    if along.closed and chainages[-1] - laid.first >= course.length:
        what = f"{along.name} goes round once in {laid.count} places at these centres: use fewer, or closer centres."
        raise Refused(what, "laid.count", "no-room")
    inside = np.asarray(chainages % course.length if along.closed else np.minimum(chainages, course.length), dtype=float)
    stations = course.at(inside)
    flat = np.hypot(stations.tangents[:, 0], stations.tangents[:, 1])
    if (flat < FLAT).any():
        raise Refused(f"{along.name} is upright where a place would be: on plan it has no direction there.", "laid.line", "upright")
    turns = np.degrees(np.arctan2(stations.tangents[:, 1], stations.tangents[:, 0])) + laid.turn - heading
    turns = (turns + 180) % 360 - 180
    return [(place(point), float(turn)) for point, turn in zip(stations.points, turns, strict=True)]


def _with_point(cell: str) -> str:
    """Return a figure of a list with a point for its decimal comma. Raises ``ValueError`` where the comma may part thousands instead."""
    if re.search(r"\d,\d{3}(\D|$)", cell):
        raise ValueError(f"{cell!r} may have a decimal comma or one that parts thousands; write it without the comma, or with a point.")
    return re.sub(r"(?<=\d),(?=\d)", ".", cell)


def places_listed(text: str, base: Point3, length: Callable[[str], float]) -> list[PlaceBody]:
    """Return the places that a list gives, one in each row: name; east; north; height; turned by, in degrees; mirrored.

    Columns are parted by semicolons or tabs, or by commas where there is neither; what is left out at the end is as drawn.
    ``length`` reads a length, mm. Raises ``Refused`` with the row that cannot be read, counted from 1.
    """
    found = []
    for number, row in enumerate(text.splitlines(), start=1):
        if not row.strip():
            continue
        parting = next((sign for sign in ("\t", ";") if sign in row), ",")
        name, *cells = (cell.strip() for cell in row.split(parting))
        where = f"text.{number}"
        if not 2 <= len(cells) <= 5 or not name:
            what = (
                f"Row {number} of the list is {row.strip()[:60]!r}: it needs a name, how far east and how far north, parted by semicolons."
            )
            raise Refused(what, where, "places-listed")
        cells += [""] * (5 - len(cells))
        try:
            at = [length(_with_point(cell)) if cell else drawn for cell, drawn in zip(cells[:3], base, strict=True)]
            turn = float(cells[3].rstrip("°").replace(",", ".")) if cells[3] else 0.0
            if cells[4].lower() not in _MIRRORED:
                raise ValueError(f"{cells[4]!r} is not understood; write mirrored, or nothing")
            found.append(PlaceBody(name=name, at=place(at), turn=turn, mirrored=_MIRRORED[cells[4].lower()]))
        except ValidationError as error:
            first = error.errors(include_url=False)[0]
            what = f"Row {number} of the list, {name}: {first['loc'][0]} is not valid: {first['msg'].lower()}."
            raise Refused(what, where, "places-listed") from error
        except ValueError as error:
            said = error.what if isinstance(error, Refused) else str(error)
            raise Refused(f"Row {number} of the list, {name}: {said}", where, "places-listed") from error
    if not found:
        raise Refused("The list is empty: write a place in each row.", "text", "places-listed")
    return found


def place_names(pattern: str, count: int, taken: Sequence[str] = ()) -> list[str]:
    """Return this many names for places that go on counting from one: W2, W3 after W1; none of those taken.

    >>> place_names("W1", 3), place_names("Bay", 2), place_names("W09", 2, ["W10"])
    (['W2', 'W3', 'W4'], ['Bay 2', 'Bay 3'], ['W11', 'W12'])
    """
    stem = pattern.rstrip("0123456789")
    digits = pattern[len(stem) :]
    number, stem = (int(digits), stem) if digits else (1, f"{pattern} ")
    known, found = set(taken), list[str]()
    while len(found) < count:
        number += 1
        name = f"{stem}{number:0{len(digits)}d}"
        if name not in known:
            found.append(name)
    return found


__all__ = [
    "HERE",
    "MANY_PLACES",
    "MOST_PLACES",
    "AnyLaid",
    "Carriage",
    "Grid",
    "Layout",
    "OwnMeasure",
    "Place",
    "PlaceBody",
    "PlacesAlong",
    "Typical",
    "TypicalBody",
    "carriage",
    "heading_of",
    "laid_out",
    "place_names",
    "places_listed",
]  # fmt: skip
