"""Differences between two states of a job as plain data, as edits are stored and sent to windows.

A delta is in proportion to the change and not to the job: things that are new or other, whole;
the ids of those that are gone; and the order only where it is not the one that follows of itself
(what was there, in its order, and what is new at the end).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from itertools import compress, count
from operator import is_not
from typing import Any, Final, Generic

from pydantic import create_model
from pydantic_core import to_json

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import GROUPS, KINDS, AnyThing
from slow_ribbon.core.kernel.fields import Id, Model

#: What a job holds besides its things, its format and its version.
FIELDS: Final = tuple(name for name in Job.model_fields if name not in {*GROUPS, "format", "version"})

#: How many things are compared at once.
_STRETCH: Final = 256


class GroupDelta(Model, Generic[AnyThing]):
    """What changed in a group of things: ``put`` are new or changed, ``gone`` no longer there, ``order`` all ids where they moved."""

    put: tuple[AnyThing, ...] = ()
    gone: tuple[Id, ...] = ()
    order: tuple[Id, ...] | None = None


#: Every field of a job may be left out.
_FIELDS: Final[dict[str, Any]] = {
    **{name: (Job.model_fields[name].annotation | None, None) for name in FIELDS},  # type: ignore[operator]  # each has a type
    **{kind.group: (GroupDelta[kind.model] | None, None) for kind in KINDS},  # type: ignore[name-defined]  # known when it runs
}
_Fields: Any = create_model("_Fields", __base__=Model, **_FIELDS)


class JobDelta(_Fields):
    """What changed of a job; what is left out is as it was."""


def delta(before: Job, after: Job) -> JobDelta:
    """Return the difference from one state of a job to another.

    What is the same object is not looked into, so that for an edit this takes little more than
    counting the things.
    """
    changed: dict[str, Any] = {}
    for field in FIELDS:
        was, now = getattr(before, field), getattr(after, field)
        if was is not now and was != now:
            changed[field] = now
    for group in GROUPS:
        was, now = getattr(before, group), getattr(after, group)
        if was is not now and (found := _group_delta(was, now)) is not None:
            changed[group] = found
    return JobDelta.model_construct(_fields_set=set(changed), **changed)


def _group_delta(before: tuple[AnyThing, ...], after: tuple[AnyThing, ...]) -> GroupDelta[Any] | None:
    was, now, tail = unlike_parts(before, after)
    old = {thing.id: thing for thing in was}
    put = [thing for thing in now if old.get(thing.id) != thing]
    there = {thing.id for thing in now}
    gone = [id for id in old if id not in there]
    order = [thing.id for thing in now]
    if not put and not gone and order == list(old):
        return None
    new = [thing.id for thing in put if thing.id not in old]
    # What is new comes at the end of its group; where it stands before others, the order is given.
    follows = [id for id in old if id in there] + new
    said: dict[str, Any] = {"put": tuple(put)} if put else {}
    if gone:
        said["gone"] = tuple(gone)
    if order != follows or (new and tail):
        said["order"] = tuple(thing.id for thing in after)
    whole = {"put": (), "gone": (), "order": None, **said}
    return GroupDelta.model_construct(_fields_set=set(said), **whole)


def with_delta(job: Job, change: JobDelta) -> Job:
    """Return the job that a delta makes of another; what it leaves out is shared."""
    update: dict[str, Any] = {}
    for field in FIELDS:
        if field in change.model_fields_set:
            update[field] = getattr(change, field)
    for group in GROUPS:
        part: GroupDelta[Any] | None = getattr(change, group)
        if part is not None:
            things = {thing.id: thing for thing in getattr(job, group)}
            things.update((thing.id, thing) for thing in part.put)
            update[group] = tuple(_in_order(things, part.gone, part.order))
    return job.model_copy(update=update)


def written(change: JobDelta) -> bytes:
    """Return a delta as JSON, with nothing in it that is left out; what is put is whole.

    Raises ``PydanticSerializationError`` for half a character.
    """
    said: dict[str, Any] = {}
    for name in (*FIELDS, *GROUPS):
        if name in change.model_fields_set:
            value = getattr(change, name)
            said[name] = {part: getattr(value, part) for part in value.model_fields_set} if name in GROUPS and value is not None else value
    # Written as it is read: thousands of lines are not made plain data first.
    return to_json(said)


def put_on(document: Mapping[str, Any], change: Mapping[str, Any]) -> dict[str, Any]:
    """Return the plain document that a delta, as plain data, makes of another: ``with_delta`` for documents of any version."""
    after = dict(document)
    for name, value in change.items():
        if name not in GROUPS:
            after[name] = value
            continue
        things = {thing["id"]: thing for thing in document.get(name, [])}
        things.update((thing["id"], thing) for thing in value.get("put", []))
        after[name] = _in_order(things, value.get("gone", []), value.get("order"))
    return after


def _in_order(things: dict[str, Any], gone: Iterable[str], order: Iterable[str] | None) -> list[Any]:
    for id in gone:
        things.pop(id, None)
    return list(things.values()) if order is None else [things[id] for id in order]


def new_ids(before: Job | None, after: Job) -> list[str]:
    """Return the ids of the things that are new."""
    found: list[str] = []
    for group in GROUPS:
        was, now, _ = unlike_parts(getattr(before, group, ()), getattr(after, group))
        known = {thing.id for thing in was}
        found.extend(thing.id for thing in now if thing.id not in known)
    return found


def unlike_parts(before: tuple[AnyThing, ...], after: tuple[AnyThing, ...]) -> tuple[tuple[AnyThing, ...], tuple[AnyThing, ...], int]:
    """Return two groups without the very things that both begin and end with, and how many those at the end are.

    An edit leaves most of thousands of things as they are, so that little is left to be looked into.
    """
    if before is after:
        return (), (), 0
    head = _alike(before, after, min(len(before), len(after)))
    before, after = before[head:], after[head:]
    tail = _alike(before[::-1], after[::-1], min(len(before), len(after)))
    return before[: len(before) - tail], after[: len(after) - tail], tail


def _alike(before: tuple[AnyThing, ...], after: tuple[AnyThing, ...], most: int) -> int:
    """Return how many things, of this many at most, two groups both begin with."""
    same = 0
    # Whole stretches first: what is the very same is not looked into when tuples are compared.
    while same + _STRETCH <= most and before[same : same + _STRETCH] == after[same : same + _STRETCH]:
        same += _STRETCH
    return same + next(compress(count(), map(is_not, before[same:most], after[same:most])), most - same)
