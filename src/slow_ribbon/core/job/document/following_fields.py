"""Fields that follow from other things of a job: which they are, and documents without those that are computed again when read.

A model marks them once (``Model.following``). What is written, what counts as touched by an edit, and what detaches a thing from
what it follows when it is changed by hand are read from these marks.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final

from pydantic_core import to_json

from slow_ribbon.core.job.document.delta import FIELDS, JobDelta
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import GROUPS, KINDS, Thing
from slow_ribbon.core.kernel.fields import Model


def _computed_of(model: type[Model]) -> tuple[frozenset[str], Mapping[str, frozenset[str]]]:
    """Return the fields of a model that are computed always, and those computed where another field is set, by that field."""
    where: dict[str, set[str]] = {}
    for name, mark in model.following.items():
        if not mark.remembered:
            where.setdefault(mark.where or "", set()).add(name)
    return frozenset(where.pop("", set())), {name: frozenset(names) for name, names in where.items()}


_COMPUTED: Final = {kind.model: _computed_of(kind.model) for kind in KINDS}


def computed_fields(thing: Thing, where: str | None = None) -> frozenset[str]:
    """Return the fields of a thing that are computed; with ``where``, those that are because that field is set."""
    always, conditional = _COMPUTED[type(thing)]
    if where is not None:
        return conditional[where]
    for name, names in conditional.items():
        if getattr(thing, name) is not None:
            always |= names
    return always


def same_decisions(thing: Thing, other: Thing) -> bool:
    """Return whether two states of a thing differ in nothing but what is computed."""
    computed = computed_fields(thing)
    if computed != computed_fields(other):
        return False
    return all(getattr(thing, name) == getattr(other, name) for name in type(thing).model_fields if name not in computed)


#: Of each group, the fields that are computed whatever a thing is like, and the fields that say whether more are.
_ALWAYS: Final = {kind.group: set(always) for kind in KINDS if (always := _COMPUTED[kind.model][0])}
_SOMETIMES: Final = {kind.group: where for kind in KINDS if (where := _COMPUTED[kind.model][1])}


def _left_out(group: str, things: tuple[Thing, ...]) -> dict[Any, set[str]]:
    """Return the unwritten fields of some things, by their place in the tuple, for a serialiser to exclude."""
    always = _ALWAYS.get(group, set())
    found: dict[Any, set[str]] = {"__all__": always} if always else {}
    for name, names in _SOMETIMES.get(group, {}).items():
        for index, thing in enumerate(things):
            if getattr(thing, name) is not None:
                found.setdefault(index, set(always)).update(names)
    return found


def written_job(job: Job, indent: int | None = None) -> str:
    """Return the document of a job as JSON: what was decided and what must be remembered, and nothing that is computed."""
    left_out = {group: _left_out(group, getattr(job, group)) for group in GROUPS}
    return job.model_dump_json(indent=indent, exclude={group: found for group, found in left_out.items() if found})


def document_of(job: Job) -> dict[str, Any]:
    """Return the document of a job as plain data."""
    left_out = {group: _left_out(group, getattr(job, group)) for group in GROUPS}
    return job.model_dump(mode="json", exclude={group: found for group, found in left_out.items() if found})


def written_change(before: Job, change: JobDelta) -> bytes:
    """Return the change that a delta makes to the document of ``before``, as JSON.

    Things of which only computed fields changed are left out. Raises ``PydanticSerializationError`` for half a character.
    """
    said: dict[str, Any] = {name: getattr(change, name) for name in FIELDS if name in change.model_fields_set}
    exclude: dict[str, Any] = {}
    for group in GROUPS:
        part = getattr(change, group) if group in change.model_fields_set else None
        if part is None:
            continue
        values = {name: getattr(part, name) for name in part.model_fields_set}
        if "put" in values:
            old = {thing.id: thing for thing in before.some(group, {thing.id for thing in part.put})}
            values["put"] = put = tuple(one for one in part.put if one.id not in old or not same_decisions(old[one.id], one))
            if not put:
                del values["put"]
            elif left_out := _left_out(group, put):
                exclude[group] = {"put": left_out}
        if values:
            said[group] = values
    # Written as it is read: thousands of lines are not made plain data first.
    return to_json(said, exclude=exclude)


def with_blanks(data: Mapping[str, Any]) -> dict[str, Any]:
    """Return a plain document, or a plain delta of one, in which something stands for required fields that are computed."""
    found = dict(data)
    for group, kinds in _BLANKS.items():
        value = data.get(group)
        if isinstance(value, list):
            found[group] = [_filled(thing, kinds) for thing in value]
        elif isinstance(value, Mapping) and isinstance(value.get("put"), list):
            found[group] = {**value, "put": [_filled(thing, kinds) for thing in value["put"]]}
    return found


def _filled(thing: Any, blanks: Mapping[str, Mapping[str, Any]]) -> Any:
    for where, values in blanks.items():
        if isinstance(thing, Mapping) and thing.get(where) is not None:
            thing = {**values, **thing}
    return thing


def _blanks_of(model: type[Model]) -> dict[str, dict[str, Any]]:
    found: dict[str, dict[str, Any]] = {}
    for name, mark in model.following.items():
        if mark.where is not None and mark.blank is not None:
            found.setdefault(mark.where, {})[name] = mark.blank
    return found


_BLANKS: Final = {kind.group: found for kind in KINDS if (found := _blanks_of(kind.model))}


def required_in_documents(schema: dict[str, Any]) -> dict[str, Any]:
    """Return the JSON Schema of the job model as that of a document: what is computed is not required, and what always is not there."""
    for kind in KINDS:
        described = schema["$defs"][kind.model.__name__]
        always, sometimes = _COMPUTED[kind.model]
        optional = always.union(*sometimes.values())
        described["required"] = [name for name in described.get("required", []) if name not in optional]
        for name in always:
            del described["properties"][name]
    schema["$defs"] = {name: schema["$defs"][name] for name in sorted(_named_in(schema["properties"], schema["$defs"]))}
    return schema


def _named_in(part: Any, definitions: Mapping[str, Any], found: set[str] | None = None) -> set[str]:
    """Return the names of the definitions that a part of a schema uses, directly or through others."""
    found = set() if found is None else found
    if isinstance(part, Mapping):
        name = str(part.get("$ref", "")).rpartition("/")[2]
        if name and name not in found:
            found.add(name)
            _named_in(definitions[name], definitions, found)
        for value in part.values():
            _named_in(value, definitions, found)
    elif isinstance(part, list):
        for value in part:
            _named_in(value, definitions, found)
    return found
