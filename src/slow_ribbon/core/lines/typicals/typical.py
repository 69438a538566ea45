"""Lines drawn once that stand in several places: one window's, which the others are like.

Terms
-----
typical
    some lines with all that is on them, drawn once. As they are drawn they stand *here*, the first of their places.
place
    where the typical's base point stands, how far the typical is turned there about an upright axis, and
    whether it is mirrored. A place may be left out, and may have measures of its own.
heading
    the direction on plan in which the typical is drawn: along its wall. What mirrors exchanges the two ends of it.
laid
    places laid out by a grid, along a line or by a row, which follow it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, ClassVar, Final, Literal

from pydantic import Field

from slow_ribbon.core.kernel.fields import Angle, Coordinate, Distance, Follows, GroupName, Id, Index, Model, Name, Point3, Size

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
    """A place of a typical in a job. ``laid`` numbers those laid out by a grid or along a line, from 0.

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

    @property
    def follows(self) -> str | None:
        """The id of the line that the places follow; None where they follow none."""
        return None

    @property
    def place_count(self) -> int:
        """How many places there are, the one where the typical is drawn with them."""
        return math.prod(self.counts)


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

    @property
    def follows(self) -> str:
        return self.line

    @property
    def place_count(self) -> int:
        return self.count


class PlacesOfRow(Model):
    """Places where the items of a row stand that are this typical: the row says how far apart, and how they are turned."""

    kind: Literal["row"] = "row"
    row: Id

    @property
    def follows(self) -> str | None:
        return None


AnyLaid = Grid | PlacesAlong
Layout = Annotated[Grid | PlacesAlong | PlacesOfRow, Field(discriminator="kind")]


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
