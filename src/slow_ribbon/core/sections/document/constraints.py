"""Constraints that hold in an outline while it is drawn: edges level or square, points midway, lengths, radii and angles.

Terms
-----
place
    a loop (0 the outline, from 1 on its holes) and the index of a point in it, or of the edge that begins there.
held
    something that stays true of an outline whatever is moved (``sketch.constraint_solver`` sees to it).
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from pydantic import Field

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.expressions import MeasureText
from slow_ribbon.core.kernel.fields import Index, Model, Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.units import System
from slow_ribbon.core.sections.document.conditions import (
    Condition,
    OutlineNumbers,
    OutlinePlace,
    between,
    cross,
    dot,
    off_angle,
    radius_of,
    size,
)

#: An angle inside a corner, degrees.
Inside = Annotated[float, Field(gt=0, lt=360, allow_inf_nan=False)]


class ConstraintBase(Model, ABC):
    """Something that is held true of an outline."""

    #: Whether it speaks of edges, by the points at which they begin, and not of points.
    of_edges: ClassVar[bool] = False
    #: Whether it holds of what takes the place of an edge that is gone.
    outlives_edge: ClassVar[bool] = False
    #: Whether it goes on from the end of a cut where a corner that it speaks of is cut off.
    outlives_corner: ClassVar[bool] = False

    @abstractmethod
    def words(self) -> str:
        """Return the constraint in words; edges and points are counted from 1."""

    @abstractmethod
    def conditions(self, numbers: OutlineNumbers) -> list[Condition]:
        """Return what must be zero. Raises ``Refused`` where it cannot be said of the outline."""

    def right_way_round(self, numbers: OutlineNumbers) -> bool:
        """Return whether the outline, in which its conditions are zero, is as it says, and not the other way round."""
        return True


def _at(place: OutlinePlace, what: str = "point") -> str:
    return f"{what} {place[1] + 1}" + (f" of hole {place[0]}" if place[0] else "")


class Level(ConstraintBase):
    """Two points as high as one another: an edge level where they are its ends."""

    outlives_corner: ClassVar = True

    kind: Literal["level"] = "level"
    a: OutlinePlace
    b: OutlinePlace

    def words(self) -> str:
        return f"{_at(self.a)} and {_at(self.b)} level"

    def conditions(self, numbers: OutlineNumbers) -> list[Condition]:
        return [Condition((numbers.point(self.a)[1], numbers.point(self.b)[1]), lambda x: x[0] - x[1])]


class Upright(ConstraintBase):
    """Two points one over the other: an edge upright where they are its ends."""

    outlives_corner: ClassVar = True

    kind: Literal["upright"] = "upright"
    a: OutlinePlace
    b: OutlinePlace

    def words(self) -> str:
        return f"{_at(self.a)} and {_at(self.b)} upright"

    def conditions(self, numbers: OutlineNumbers) -> list[Condition]:
        return [Condition((numbers.point(self.a)[0], numbers.point(self.b)[0]), lambda x: x[0] - x[1])]


class Square(ConstraintBase):
    """Two straight edges at a right angle."""

    of_edges: ClassVar = True

    kind: Literal["square"] = "square"
    a: OutlinePlace
    b: OutlinePlace

    def words(self) -> str:
        return f"{_at(self.a, 'edge')} square to {_at(self.b, 'edge')}"

    def conditions(self, numbers: OutlineNumbers) -> list[Condition]:
        ends = (*numbers.straight(self.a), *numbers.straight(self.b))
        return [Condition(ends, lambda x: between(dot, x[2:4] - x[:2], x[6:8] - x[4:6]))]


class Parallel(ConstraintBase):
    """Two straight edges parallel."""

    of_edges: ClassVar = True

    kind: Literal["parallel"] = "parallel"
    a: OutlinePlace
    b: OutlinePlace

    def words(self) -> str:
        return f"{_at(self.a, 'edge')} parallel to {_at(self.b, 'edge')}"

    def conditions(self, numbers: OutlineNumbers) -> list[Condition]:
        ends = (*numbers.straight(self.a), *numbers.straight(self.b))
        return [Condition(ends, lambda x: between(cross, x[2:4] - x[:2], x[6:8] - x[4:6]))]


class Equal(ConstraintBase):
    """Two straight edges of one length, or two arcs of one radius."""

    of_edges: ClassVar = True

    kind: Literal["equal"] = "equal"
    a: OutlinePlace
    b: OutlinePlace

    def words(self) -> str:
        return f"{_at(self.a, 'edge')} equal to {_at(self.b, 'edge')}"

    def conditions(self, numbers: OutlineNumbers) -> list[Condition]:
        if numbers.is_round(self.a):
            return [Condition((*numbers.arc(self.a), *numbers.arc(self.b)), lambda x: radius_of(x[:5]) - radius_of(x[5:]))]
        ends = (*numbers.straight(self.a), *numbers.straight(self.b))
        return [Condition(ends, lambda x: size(x[2:4] - x[:2]) - size(x[6:8] - x[4:6]))]


class Tangent(ConstraintBase):
    """The edges that meet at a point go on into one another."""

    kind: Literal["tangent"] = "tangent"
    point: OutlinePlace

    def words(self) -> str:
        return f"tangent at {_at(self.point)}"

    def conditions(self, numbers: OutlineNumbers) -> list[Condition]:
        some, both = numbers.around(self.point)
        return [Condition(some, lambda x: between(cross, *both(x)))]

    def right_way_round(self, numbers: OutlineNumbers) -> bool:
        some, both = numbers.around(self.point)
        return float(dot(*both(numbers.x[list(some)]))) > 0


class Halfway(ConstraintBase):
    """A point midway between two others."""

    kind: Literal["midway"] = "midway"
    point: OutlinePlace
    a: OutlinePlace
    b: OutlinePlace

    def words(self) -> str:
        return f"{_at(self.point)} midway between {_at(self.a)} and {_at(self.b)}"

    def conditions(self, numbers: OutlineNumbers) -> list[Condition]:
        some = (*numbers.point(self.point), *numbers.point(self.a), *numbers.point(self.b))
        return [Condition(some, lambda x: x[:2] - (x[2:4] + x[4:6]) / 2)]


class Symmetric(ConstraintBase):
    """The whole symmetric: point i of each loop is the mirror image of point ``through − i`` of it, counted round."""

    kind: Literal["symmetric"] = "symmetric"
    axis: Literal["upright", "level"]
    through: Annotated[tuple[Index, ...], Field(min_length=1, max_length=51)]

    def words(self) -> str:
        return f"symmetric about {'an upright' if self.axis == 'upright' else 'a level'} axis"

    def conditions(self, numbers: OutlineNumbers) -> list[Condition]:
        counts = numbers.counts()
        if len(self.through) != len(counts):
            raise Refused("It cannot be held symmetric: a hole has come or gone.", "held", "held-place")
        across, along = (0, 1) if self.axis == "upright" else (1, 0)
        found: list[Condition] = []
        middle: tuple[int, int] | None = None
        for loop, (through, count) in enumerate(zip(self.through, counts, strict=True)):
            for i in range(count):
                j = (through - i) % count
                edge, mate = (loop, i), (loop, (j - 1) % count)
                if i <= j:
                    a, b = numbers.point((loop, i)), numbers.point((loop, j))
                    if i != j:
                        found.append(Condition((a[along], b[along]), lambda x: x[0] - x[1]))
                    # All pairs have one middle: that of the first.
                    if middle is None:
                        middle = (a[across], b[across])
                    else:
                        found.append(Condition((a[across], b[across], *middle), lambda x: (x[0] + x[1] - x[2] - x[3]) / 2))
                if edge <= mate:
                    found.extend(numbers.mirrored(edge, mate, across, along))
        return found


class Hidden(ConstraintBase):
    """An edge that is hidden, against a wall say, and not painted; it moves as any other."""

    of_edges: ClassVar = True
    outlives_edge: ClassVar = True

    kind: Literal["hidden"] = "hidden"
    edge: OutlinePlace

    def words(self) -> str:
        return f"{_at(self.edge, 'edge')} hidden, not painted"

    def conditions(self, numbers: OutlineNumbers) -> list[Condition]:
        numbers.check(self.edge)
        return []


class FiguredBase(ConstraintBase):
    """A constraint with a figure: a length, a radius or an angle."""

    if TYPE_CHECKING:
        value: float

    def measured(self, numbers: OutlineNumbers) -> float:
        """Return the value now, mm or degrees. Raises ``Refused`` where it does not exist."""
        (condition,) = self.conditions(numbers)
        return float(condition.rates(numbers.x)[0][0]) + self.value


class Apart(FiguredBase):
    """How far two points are apart: straight, or only across, or only up."""

    kind: Literal["length"] = "length"
    a: OutlinePlace
    b: OutlinePlace
    way: Literal["straight", "across", "up"] = "straight"
    value: Size
    #: The sizes it follows, if any, and the units that bare numbers in it are of.
    text: MeasureText | None = None
    system: System | None = None

    def words(self) -> str:
        how = {"straight": "", "across": " across", "up": " up"}[self.way]
        return f"{followed_words(self.text)}{figure(self.value, 3)}{how} from {_at(self.a)} to {_at(self.b)}"

    def conditions(self, numbers: OutlineNumbers) -> list[Condition]:
        some, value = (*numbers.point(self.a), *numbers.point(self.b)), self.value
        if self.way == "straight":
            return [Condition(some, lambda x: size(x[2:4] - x[:2]) - value)]
        axis = 0 if self.way == "across" else 1
        sense = 1 if numbers.x[some[2 + axis]] >= numbers.x[some[axis]] else -1
        return [Condition((some[axis], some[2 + axis]), lambda x: sense * (x[1] - x[0]) - value)]


class Radius(FiguredBase):
    """The radius of an arc."""

    of_edges: ClassVar = True
    outlives_edge: ClassVar = True

    kind: Literal["radius"] = "radius"
    edge: OutlinePlace
    value: Size
    text: MeasureText | None = None
    system: System | None = None

    def words(self) -> str:
        return f"{followed_words(self.text)}radius {figure(self.value, 3)} of {_at(self.edge, 'arc')}"

    def conditions(self, numbers: OutlineNumbers) -> list[Condition]:
        return [Condition(numbers.arc(self.edge), lambda x: radius_of(x) - self.value)]


class CornerAngle(FiguredBase):
    """The angle between the edges at a point, inside the section."""

    kind: Literal["angle"] = "angle"
    point: OutlinePlace
    value: Inside

    def words(self) -> str:
        return f"{self.value:.6g}° at {_at(self.point)}"

    def conditions(self, numbers: OutlineNumbers) -> list[Condition]:
        some, both = numbers.around(self.point)
        angle = math.radians(self.value) * numbers.sense(self.point[0])
        return [Condition(some, lambda x: off_angle(*both(x), angle))]

    def measured(self, numbers: OutlineNumbers) -> float:
        some, both = numbers.around(self.point)
        into, out = both(numbers.x[list(some)])
        turn = math.degrees(math.atan2(-float(cross(out, into)), -float(dot(out, into))))
        return (turn * numbers.sense(self.point[0])) % 360

    def right_way_round(self, numbers: OutlineNumbers) -> bool:
        return abs((self.measured(numbers) - self.value + 180) % 360 - 180) <= 1


Figured = Annotated[Apart | Radius | CornerAngle, Field(discriminator="kind")]
Constraint = Annotated[
    Level | Upright | Square | Parallel | Equal | Tangent | Halfway | Symmetric | Hidden | Apart | Radius | CornerAngle,
    Field(discriminator="kind"),
]


def followed_words(text: str | None) -> str:
    """Return the text that a figure follows, in words that go before it."""
    return "" if text is None else f"{text} = "
