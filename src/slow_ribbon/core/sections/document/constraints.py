"""Constraints that hold in an outline while it is drawn: edges level or square, points midway, lengths, radii and angles.

Terms
-----
place
    a loop (0 the outline, from 1 on its holes) and the index of a point in it, or of the edge that begins there.
held
    something that stays true of an outline whatever is moved (``settling`` sees to it).
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from slow_ribbon.core.kernel.expressions import MeasureText
from slow_ribbon.core.kernel.fields import Index, Model, Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.units import System

OutlinePlace = tuple[Index, Index]
#: An angle inside a corner, degrees.
Inside = Annotated[float, Field(gt=0, lt=360, allow_inf_nan=False)]


class Level(Model):
    """Two points as high as one another: an edge level where they are its ends."""

    kind: Literal["level"] = "level"
    a: OutlinePlace
    b: OutlinePlace


class Upright(Model):
    """Two points one over the other: an edge upright where they are its ends."""

    kind: Literal["upright"] = "upright"
    a: OutlinePlace
    b: OutlinePlace


class Square(Model):
    """Two straight edges at a right angle."""

    kind: Literal["square"] = "square"
    a: OutlinePlace
    b: OutlinePlace


class Parallel(Model):
    """Two straight edges parallel."""

    kind: Literal["parallel"] = "parallel"
    a: OutlinePlace
    b: OutlinePlace


class Equal(Model):
    """Two straight edges of one length, or two arcs of one radius."""

    kind: Literal["equal"] = "equal"
    a: OutlinePlace
    b: OutlinePlace


class Tangent(Model):
    """The edges that meet at a point go on into one another."""

    kind: Literal["tangent"] = "tangent"
    point: OutlinePlace


class Halfway(Model):
    """A point midway between two others."""

    kind: Literal["midway"] = "midway"
    point: OutlinePlace
    a: OutlinePlace
    b: OutlinePlace


class Symmetric(Model):
    """The whole symmetric: point i of each loop is the mirror image of point ``through − i`` of it, counted round."""

    kind: Literal["symmetric"] = "symmetric"
    axis: Literal["upright", "level"]
    through: Annotated[tuple[Index, ...], Field(min_length=1, max_length=51)]


class Hidden(Model):
    """An edge that is hidden, against a wall say, and not painted; it moves as any other."""

    kind: Literal["hidden"] = "hidden"
    edge: OutlinePlace


class Apart(Model):
    """How far two points are apart: straight, or only across, or only up."""

    kind: Literal["length"] = "length"
    a: OutlinePlace
    b: OutlinePlace
    way: Literal["straight", "across", "up"] = "straight"
    value: Size
    #: The sizes it follows, if any, and the units that bare numbers in it are of.
    text: MeasureText | None = None
    system: System | None = None


class Radius(Model):
    """The radius of an arc."""

    kind: Literal["radius"] = "radius"
    edge: OutlinePlace
    value: Size
    text: MeasureText | None = None
    system: System | None = None


class CornerAngle(Model):
    """The angle between the edges at a point, inside the section."""

    kind: Literal["angle"] = "angle"
    point: OutlinePlace
    value: Inside


Figured = Annotated[Apart | Radius | CornerAngle, Field(discriminator="kind")]
Constraint = Annotated[
    Level | Upright | Square | Parallel | Equal | Tangent | Halfway | Symmetric | Hidden | Apart | Radius | CornerAngle,
    Field(discriminator="kind"),
]


def words_of(held: Any) -> str:
    """Return the constraint in words; edges and points are counted from 1."""

    def at(place: OutlinePlace, what: str) -> str:
        return f"{what} {place[1] + 1}" + (f" of hole {place[0]}" if place[0] else "")

    match held:
        case Level(a=a, b=b):
            return f"{at(a, 'point')} and {at(b, 'point')} level"
        case Upright(a=a, b=b):
            return f"{at(a, 'point')} and {at(b, 'point')} upright"
        case Square(a=a, b=b):
            return f"{at(a, 'edge')} square to {at(b, 'edge')}"
        case Parallel(a=a, b=b):
            return f"{at(a, 'edge')} parallel to {at(b, 'edge')}"
        case Equal(a=a, b=b):
            return f"{at(a, 'edge')} equal to {at(b, 'edge')}"
        case Tangent(point=point):
            return f"tangent at {at(point, 'point')}"
        case Halfway(point=point, a=a, b=b):
            return f"{at(point, 'point')} midway between {at(a, 'point')} and {at(b, 'point')}"
        case Hidden(edge=edge):
            return f"{at(edge, 'edge')} hidden, not painted"
        case Symmetric(axis=axis):
            return f"symmetric about {'an upright' if axis == 'upright' else 'a level'} axis"
        case Apart(a=a, b=b, way=way, value=value, text=text):
            how = {"straight": "", "across": " across", "up": " up"}[way]
            return f"{followed_words(text)}{figure(value, 3)}{how} from {at(a, 'point')} to {at(b, 'point')}"
        case Radius(edge=edge, value=value, text=text):
            return f"{followed_words(text)}radius {figure(value, 3)} of {at(edge, 'arc')}"
        case CornerAngle(point=point, value=value):
            return f"{value:.6g}° at {at(point, 'point')}"
    raise AssertionError(held)


def followed_words(text: str | None) -> str:
    """Return the text that a figure follows, in words that go before it."""
    return "" if text is None else f"{text} = "
