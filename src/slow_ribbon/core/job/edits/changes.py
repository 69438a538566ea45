"""What an edit says of a thing: only what was changed of it, field by field.

A field left out stays as it is; one set to nothing is taken away, where it can be. A place says
only the coordinates that were changed. Where a thing's kind changes (a box to a round post, equal
bays to fixed centres) what the new kind needs and is not said is taken over from the old.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from functools import lru_cache
from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field, TypeAdapter, ValidationError, model_validator

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Angle, Coordinate, Distance, Id, Model, Name, Point3, Size, Tag
from slow_ribbon.core.kernel.units import System
from slow_ribbon.core.lines.legs import Direction, PassPoint, Turn
from slow_ribbon.core.lines.model import FrameRule
from slow_ribbon.core.runs.model import Hand, Stretches
from slow_ribbon.core.sections.model import Bed, Material, NamedPoint

PointChange = tuple[Coordinate | None, Coordinate | None, Coordinate | None]
"""A place of which only some coordinates are said; the others stay."""


class Changes(Model):
    """What is changed of something; a whole one may stand for all its fields."""

    @model_validator(mode="before")
    @classmethod
    def _of_a_whole(cls, data: Any) -> Any:
        return data.model_dump() if isinstance(data, Model) and not isinstance(data, cls) else data


class DatumChanges(Changes):
    kind: Literal["named", "point"] | None = None
    name: NamedPoint | None = None
    x: Coordinate | None = None
    y: Coordinate | None = None


class FacingChanges(Changes):
    kind: Literal["left", "right", "toward"] | None = None
    point: PointChange | None = None


class PlacingChanges(Changes):
    datum: DatumChanges | None = None
    hand: Hand | None = None
    facing: FacingChanges | None = None
    roll: Angle | None = None
    stand_off: Coordinate | None = None
    lift: Coordinate | None = None


class RunChanges(Changes):
    name: Name | None = None
    tag: Tag | None = None
    section: Id | None = None
    openings: Literal["break", "pass"] | None = None
    stretches: Stretches | None = None


class SectionChanges(Changes):
    name: Name | None = None
    width: Size | None = None
    height: Size | None = None
    wall: Size | None = None
    datum: DatumChanges | None = None
    material: Material | None = None
    bed: Bed | None = None


class ItemChanges(Changes):
    kind: Literal["box", "round"] | None = None
    along: Size | None = None
    across: Size | None = None
    diameter: Size | None = None
    height: Size | None = None


class SeatChanges(Changes):
    along: Coordinate | None = None
    across: Coordinate | None = None
    up: Coordinate | None = None


class TurnChanges(Changes):
    kind: Literal["line", "bearing"] | None = None
    bearing: Angle | None = None


class RuleChanges(Changes):
    kind: Literal["equal-bays", "fixed-centres"] | None = None
    most: Size | None = None
    centres: Size | None = None
    origin: Literal["start", "centred", "end"] | None = None


class SpacingChanges(Changes):
    rule: RuleChanges | None = None
    inset_start: Distance | None = None
    inset_end: Distance | None = None
    first: bool | None = None
    last: bool | None = None
    corners: Literal["carry", "restart"] | None = None


class RowChanges(Changes):
    name: Name | None = None
    tag: Tag | None = None
    item: ItemChanges | None = None
    seat: SeatChanges | None = None
    spacing: SpacingChanges | None = None
    turn: TurnChanges | None = None
    stand_off: Coordinate | None = None
    lift: Coordinate | None = None
    openings: Literal["clear", "pass"] | None = None
    from_mark: Id | None = None
    to_mark: Id | None = None
    material: Material | None = None


class WallChanges(Changes):
    height: Size | None = None
    thickness: Size | None = None
    side: Literal["left", "right"] | None = None


class LineChanges(Changes):
    name: Name | None = None
    frame: FrameRule | None = None
    spread: bool | None = None
    wall: WallChanges | None = None
    undrawn: Literal[""] | None = None


class OpeningChanges(Changes):
    name: Name | None = None
    at: Distance | None = None
    width: Annotated[Distance, Field(gt=0, le=1e9)] | None = None


class MarkChanges(Changes):
    name: Name | None = None
    at: Distance | None = None


class LegChanges(Changes):
    """What is changed of a leg; with another ``kind`` it becomes another leg with the same ends and rounding."""

    kind: Literal["straight", "arc", "curve", "through", "helix", "cord"] | None = None
    to: PointChange | None = None
    via: PointChange | None = None
    controls: Annotated[tuple[Point3, ...], Field(min_length=1, max_length=5000)] | None = None
    degree: Annotated[int, Field(ge=1, le=15)] | None = None
    knots: Annotated[tuple[float, ...], Field(max_length=5100)] | None = None
    weights: Annotated[tuple[float, ...], Field(max_length=5002)] | None = None
    points: Annotated[tuple[PassPoint, ...], Field(max_length=5000)] | None = None
    begin: Direction | None = None
    end: Direction | None = None
    centre: PointChange | None = None
    axis: Direction | None = None
    turn: Turn | None = None
    sag: Size | None = None
    length: Size | None = None
    round: Annotated[Distance, Field(gt=0, le=1e9)] | None = None


class MadeChanges(Changes):
    """What is changed of how a line is made; with another ``kind`` all of that kind."""

    kind: Literal["walk", "offset", "midway"] | None = None
    text: Annotated[str, Field(min_length=1, max_length=20_000)] | None = None
    system: System | None = None
    start: PointChange | None = None
    line: Id | None = None
    distance: Coordinate | None = None
    lines: tuple[Id, Id] | None = None


_M = TypeVar("_M", bound=Model)

#: Fields that may be taken away; elsewhere setting nothing is an error.
NULLABLE = frozenset(
    {"wall", "stretches", "from_mark", "to_mark", "begin", "end", "sag", "length", "round", "degree", "knots", "weights", "system"}
)


def changed(thing: _M, changes: Model, where: str = "changes", nullable: Collection[str] = NULLABLE) -> _M:
    """Return a thing with what a changes model says of it. Raises ``Refused``, with the place in the edit, where that cannot be."""
    update: dict[str, Any] = {}
    for name in changes.model_fields_set:
        value, place = getattr(changes, name), f"{where}.{name}"
        if value is None and name not in nullable:
            raise Refused(f"{name.replace('_', ' ').capitalize()} cannot be nothing here.", place, "null")
        if name not in type(thing).model_fields:
            if value is None:
                continue
            raise Refused(f"There is no {name.replace('_', ' ')} here to be changed.", place, "unknown-field")
        value = _merged(getattr(thing, name), value)
        try:
            update[name] = _field(type(thing), name).validate_python(value)
        except ValidationError as error:
            first = error.errors(include_url=False)[0]
            at = ".".join([place, *(str(part) for part in first["loc"])])
            raise Refused(f"{name.replace('_', ' ').capitalize()} cannot be that: {first['msg'].lower()}.", at, "invalid") from error
    return thing.model_copy(update=update)


@lru_cache(maxsize=512)
def _field(model: type[Model], name: str) -> TypeAdapter[Any]:
    field = model.model_fields[name]
    annotation: Any = field.annotation
    for more in field.metadata:
        annotation = Annotated[annotation, more]
    if field.discriminator:
        annotation = Annotated[annotation, Field(discriminator=field.discriminator)]
    return TypeAdapter(annotation)


def _merged(old: Any, new: Any) -> Any:
    """Return what a field becomes: plain data where only a part of it was said."""
    if isinstance(new, Changes):
        said = {name: getattr(new, name) for name in new.model_fields_set}
        known = {name: getattr(old, name) for name in type(old).model_fields} if isinstance(old, Model) else {}
        if said.get("kind", known.get("kind")) != known.get("kind"):
            known = _taken_over(known, said)
        return {**known, **{name: _merged(known.get(name), value) for name, value in said.items()}}
    if isinstance(new, tuple) and isinstance(old, tuple) and len(old) == len(new) and None in new:
        return tuple(a if b is None else b for a, b in zip(old, new, strict=True))
    return new


#: What a new kind takes from the old, in order of preference.
_LIKE: Mapping[str, Mapping[str, tuple[str, ...]]] = {
    "box": {"along": ("diameter",), "across": ("diameter",), "height": ("height",)},
    "round": {"diameter": ("along",), "height": ("height",)},
    "equal-bays": {"most": ("centres",)},
    "fixed-centres": {"centres": ("most",)},
}


def _taken_over(known: Mapping[str, Any], said: Mapping[str, Any]) -> dict[str, Any]:
    kind = said["kind"]
    if kind == "bearing":
        return {"bearing": 0.0}
    like = _LIKE.get(kind, {})
    return {name: known[old] for name, olds in like.items() for old in olds if old in known}
