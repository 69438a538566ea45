"""What an edit says of a thing: only what was changed of it, field by field.

A field left out stays as it is; one set to nothing is taken away, where it can be. A place says
only the coordinates that were changed. Where a thing's kind changes (a box to a round post, equal
bays to fixed centres) what the new kind needs and is not said is taken over from the old.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from functools import lru_cache
from typing import Annotated, Any, ClassVar, Literal, Optional, TypeVar, Union

from pydantic import FailFast, Field, TypeAdapter, ValidationError, create_model, model_validator

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Coordinate, Model

PointChange = tuple[Coordinate | None, Coordinate | None, Coordinate | None]
"""A place of which only some coordinates are said; the others stay."""


class Changes(Model):
    """What is changed of something; a whole one may stand for all its fields."""

    #: The models it may be said of, by their kind, where there are several.
    kinds: ClassVar[dict[str, type[Model]]] = {}

    @model_validator(mode="before")
    @classmethod
    def _of_a_whole(cls, data: Any) -> Any:
        return data.model_dump() if isinstance(data, Model) and not isinstance(data, cls) else data


class KindChanges(Changes):
    """What is changed of something that may be of several kinds."""

    kind: str | None = None


def said(path: str, changes: Model) -> set[str]:
    """Return the paths of the fields, below ``path``, that changes say something of."""
    found: set[str] = set()
    for name in changes.model_fields_set:
        value, field = getattr(changes, name), f"{path}.{name}"
        if name == "kind":
            # Another kind takes the place of the whole.
            found.add(path)
        elif isinstance(value, Changes):
            found |= said(field, value)
        elif isinstance(value, tuple) and None in value:
            found |= {f"{field}.{axis}" for axis, coordinate in enumerate(value) if coordinate is not None}
        else:
            found.add(field)
    return found


def merged_point(old: Sequence[float], change: Sequence[Any]) -> tuple[Any, ...]:
    """Return a place of which only some coordinates are said: the others stay."""
    return tuple(was if said is None else said for was, said in zip(old, change, strict=True))


_M = TypeVar("_M", bound=Model)

#: Fields that may be taken away; elsewhere setting nothing is an error.
NULLABLE = frozenset(
    {
        "wall",
        "strip",
        "pane",
        "filling",
        "hang_to",
        "least_level",
        "weight_each",
        "side",
        "size",
        "across",
        "up",
        "least",
        "most",
        "stretches",
        "joints",
        "number",
        "deviation",
        "at",
        "from_mark",
        "to_mark",
        "begin",
        "end",
        "sag",
        "length",
        "round",
        "degree",
        "knots",
        "weights",
        "system",
        "row",
        "off_from",
        "weight",
        "pull",
        "at_ends",
        "at_corners",
        "at_openings",
    }
)


def changed(thing: _M, changes: Model, where: str = "changes", nullable: Collection[str] = NULLABLE) -> _M:
    """Return a thing with what a changes model says of it. Raises ``Refused``, with the place in the edit, where that cannot be."""
    update: dict[str, Any] = {}
    for name in changes.model_fields_set:
        value, place = getattr(changes, name), f"{where}.{name}"
        if value is None and name not in nullable:
            raise Refused(f"{name.replace('_', ' ').capitalize()} cannot be empty here.", place, "null")
        if name not in type(thing).model_fields:
            if value is None:
                continue
            raise Refused(f"There is no {name.replace('_', ' ')} here to change.", place, "unknown-field")
        value = _merged(getattr(thing, name), value)
        try:
            update[name] = _field(type(thing), name).validate_python(value)
        except ValidationError as error:
            first = error.errors(include_url=False)[0]
            at = ".".join([place, *(str(part) for part in first["loc"])])
            raise Refused(f"{name.replace('_', ' ').capitalize()} is not valid: {first['msg'].lower()}.", at, "invalid") from error
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
    """Return the new value of a field: plain data where only a part of it was given."""
    if isinstance(new, Changes):
        said = {name: getattr(new, name) for name in new.model_fields_set}
        known = {name: getattr(old, name) for name in type(old).model_fields} if isinstance(old, Model) else {}
        if said.get("kind", known.get("kind")) != known.get("kind"):
            known = _taken_over(known, type(new).kinds.get(said["kind"], Model))
        return {**known, **{name: _merged(known.get(name), value) for name, value in said.items()}}
    if isinstance(new, tuple) and isinstance(old, tuple) and len(old) == len(new) and None in new:
        return merged_point(old, new)
    return new


def _taken_over(known: Mapping[str, Any], kind: type[Model]) -> dict[str, Any]:
    """Return the fields that a value of another kind takes over from the one it replaces: those alike, and else the usual ones."""
    like: Mapping[str, tuple[str, ...]] = getattr(kind, "like", {})
    alike = {name: known[old] for name, olds in like.items() for old in reversed(olds) if old in known}
    return {**getattr(kind, "usual", {}), **alike}


def changes_model(module: str, name: str, message: str, kinds: Sequence[type[Model]], **fields: Any) -> type[KindChanges]:
    """Return the changes model of a field that may hold several kinds of model: every field of any of them, none of which must be said.

    It must stand in ``module`` under its name: edits that hold one travel to other processes, where it is looked for there.
    ``fields`` are those that are said otherwise than they stand: places, of which only some coordinates are.
    """
    types: dict[str, list[Any]] = {}
    for kind in kinds:
        for field, info in kind.model_fields.items():
            if field != "kind" and field not in fields:
                # Where to stop looking at a list that is wrong is no part of what it may hold, and cannot stand in a union.
                held = [one for one in info.metadata if not isinstance(one, FailFast)]
                types.setdefault(field, []).append(Annotated[info.annotation, *held] if held else info.annotation)
    found: dict[str, Any] = {"kind": (Literal[tuple(kind.model_fields["kind"].default for kind in kinds)] | None, None)}
    for field, those in types.items():
        different = [one for number, one in enumerate(those) if one not in those[:number]]
        found[field] = (Optional[different[0] if len(different) == 1 else Union[tuple(different)]], None)  # noqa: UP007, UP045  # made of the kinds
    found |= {field: (said | None, None) for field, said in fields.items()}
    model = create_model(name, __base__=KindChanges, __module__=module, __doc__=message, **found)
    model.kinds = {kind.model_fields["kind"].default: kind for kind in kinds}
    return model
