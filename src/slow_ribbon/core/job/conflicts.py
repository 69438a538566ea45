"""Differences between two states of a job, field by field, and whether two edits touch the same fields."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from slow_ribbon.core.job.derived.corner_overrides import corners_on
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import Thing
from slow_ribbon.core.kernel.expressions import key
from slow_ribbon.core.kernel.fields import Model
from slow_ribbon.core.kernel.measures import Formula
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.placement.run import Run


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
    lines = {line.id: (line, there.get(line.id)) for line in before.lines}
    for thing in before.things():
        other = there.get(thing.id)
        if other is None:
            found.add(thing.id)
        else:
            own: set[str] = set()
            _differences(thing.id, thing, other, own)
            if isinstance(thing, Run) and isinstance(other, Run) and _corners_follow(thing, other, lines):
                own = {path for path in own if not _within(path, f"{thing.id}.own_corners")}
            found |= own
    return found - {_path_of(formula) for formula in set(before.formulas) & set(after.formulas)}


def _within(path: str, field: str) -> bool:
    return path == field or path.startswith(f"{field}.")


def _corners_follow(run: Run, other: Run, lines: Mapping[str, tuple[Line, Thing | None]]) -> bool:
    """Return whether corners made in ways of their own are those that they were, by the points of the line as it is now."""
    was, now = lines.get(run.line, (None, None))
    if was is None or not isinstance(now, Line) or run.line != other.line or run.own_corners == other.own_corners:
        return False
    return was is not now and corners_on(run, was, now).own_corners == other.own_corners


def _path_of(formula: Formula) -> str:
    """Return the path of the field that follows a formula."""
    group, _, rest = formula.field.partition(".")
    if group != "points":
        return f"{formula.thing}.{formula.field}"
    point, _, axis = rest.partition(".")
    return f"{formula.thing}.start.{axis}" if point == "0" else f"{formula.thing}.legs.{int(point) - 1}.to.{axis}"


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


def _by_name(group: str, before: Mapping[str, Any], after: Mapping[str, Any], found: set[str]) -> None:
    for name, one in before.items():
        path = f"{group}.{name.replace('.', ':')}"
        if name not in after:
            found.add(path)
        else:
            _differences(path, one, after[name], found)


def _differences(path: str, before: Any, after: Any, found: set[str]) -> None:
    if before is after or before == after:
        return
    if isinstance(before, Model) and type(before) is type(after):
        for name in type(before).model_fields:
            mark = type(before).following.get(name)
            if mark is not None and (
                mark.where is None or (getattr(before, mark.where) is not None and getattr(after, mark.where) is not None)
            ):
                # It follows, or is remembered, and is touched by nobody.
                continue
            _differences(f"{path}.{name}", getattr(before, name), getattr(after, name), found)
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
