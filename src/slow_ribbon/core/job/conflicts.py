"""Differences between two states of a job, field by field, and whether two edits touch the same fields."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.kernel.expressions import key
from slow_ribbon.core.kernel.fields import Model, Point3
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.point_ids import point_ids


def changed_fields(before: Job, after: Job) -> set[str]:
    """Return the paths of all fields that differ, ``R3.placing.lift`` say; a thing that is gone is its id alone.

    Things that are new are left out: nobody else can have touched them. So is what only follows
    something else, or is remembered (the numbers in tags): see ``Model.following``; and a field with a formula.
    """
    found: set[str] = set()
    for name in ("name", "units", "saw", "origin", "notes"):
        _differences(name, getattr(before, name), getattr(after, name), found)
    _by_name("measures", {key(one.name): one for one in before.measures}, {key(one.name): one for one in after.measures}, found)
    _by_name("formulas", {f"{f.thing} {f.field}": f for f in before.formulas}, {f"{f.thing} {f.field}": f for f in after.formulas}, found)
    was, now = ({f"{one.thing} {one.check}": one for one in job.accepted} for job in (before, after))
    _by_name("accepted", was, now, found)
    there = {thing.id: thing for thing in after.things()}
    for thing in before.things():
        other = there.get(thing.id)
        if other is None:
            found.add(thing.id)
        elif isinstance(thing, Line) and isinstance(other, Line):
            _line_differences(thing, other, found)
        else:
            _differences(thing.id, thing, other, found)
    return found - {f"{formula.thing}.{formula.field}" for formula in set(before.formulas) & set(after.formulas)}


def _line_differences(before: Line, after: Line, found: set[str]) -> None:
    """Add the paths of a line's fields that differ; those of its points and legs by the numbers of their points (``lines.point_ids``)."""
    if before is after:
        return
    _fields(before.id, before, after, Line.model_fields.keys() - {"start", "legs"}, found)
    if before.made is not None and after.made is not None:
        return
    path = before.id
    ids, others = point_ids(before), point_ids(after)
    kept = set(ids) & set(others)
    if [id for id in ids if id in kept] != [id for id in others if id in kept]:
        found.add(f"{path}.order")
    places, now = _points(before), _points(after)
    legs, legs_now = dict(zip(ids, before.legs, strict=False)), dict(zip(others, after.legs, strict=False))
    for id in ids:
        if id not in kept:
            found.update((f"{path}.points.{id}", f"{path}.legs.{id}"))
            continue
        (place, radius), (place_now, radius_now) = places[id], now[id]
        found.update(f"{path}.points.{id}.{axis}" for axis in range(3) if place[axis] != place_now[axis])
        if radius != radius_now:
            found.add(f"{path}.points.{id}.round")
        leg, leg_now = legs.get(id), legs_now.get(id)
        if type(leg) is not type(leg_now):
            found.add(f"{path}.legs.{id}")
        elif leg is not None and leg_now is not None and leg is not leg_now:
            _fields(f"{path}.legs.{id}", leg, leg_now, set(type(leg).model_fields) - {"to", "round"}, found)


def _points(line: Line) -> dict[int, tuple[Point3, float | None]]:
    """Return the place and the radius of each point of a line, by its number."""
    ends = [(leg.to, leg.round) for leg in line.legs]
    first = (line.start, line.legs[-1].round if line.closed else None)
    return dict(zip(point_ids(line), [first, *ends], strict=False))


def overlap(first: Iterable[str], second: Iterable[str]) -> bool:
    """Return whether two sets of paths have a field in common: the same path, or one within the other."""
    firsts, seconds = set(first), set(second)
    return bool(firsts & (seconds | _above(seconds)) or seconds & _above(firsts))


def _above(paths: Iterable[str]) -> set[str]:
    found: set[str] = set()
    for path in paths:
        steps = path.split(".")
        found.update(".".join(steps[:count]) for count in range(1, len(steps)))
    return found


def _by_name(group: str, before: Mapping[Any, Any], after: Mapping[Any, Any], found: set[str]) -> None:
    for name, one in before.items():
        path = f"{group}.{str(name).replace('.', ':')}"
        if name not in after:
            found.add(path)
        else:
            _differences(path, one, after[name], found)


def _fields(path: str, before: Model, after: Model, names: Iterable[str], found: set[str]) -> None:
    """Add the paths of some fields of a model that differ, without those that follow something or are remembered: nobody touches them."""
    for name in names:
        mark = type(before).following.get(name)
        if mark is None or (mark.where is not None and None in (getattr(before, mark.where), getattr(after, mark.where))):
            _differences(f"{path}.{name}", getattr(before, name), getattr(after, name), found)


def _differences(path: str, before: Any, after: Any, found: set[str]) -> None:
    if before is after or before == after:
        return
    if isinstance(before, Model) and type(before) is type(after):
        _fields(path, before, after, type(before).model_fields, found)
    elif isinstance(before, tuple) and isinstance(after, tuple):
        if before and all(getattr(one, "id", None) is not None for one in (*before, *after)):
            _by_name(path, {one.id: one for one in before}, {one.id: one for one in after}, found)
        elif len(before) == len(after):
            for index, (one, other) in enumerate(zip(before, after, strict=True)):
                _differences(f"{path}.{index}", one, other, found)
        else:
            found.add(path)
    else:
        found.add(path)
