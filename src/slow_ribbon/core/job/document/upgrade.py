"""Job documents of earlier versions brought up to date, each step from one version to the next.

Version 2 gives openings and marks ids, by which rows, runs kept to stretches and formulas refer
to them (by name and by number before), and lets roll follow the hand: a section seen mirrored
tilts mirrored. Version 3 keeps of lines that were imported what they are found again by. Version 4 holds nothing that is computed,
and says of a run, not of its facing, on which side its room lies.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from typing import Any, Final

from pydantic import ValidationError

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.placement.placing import Placing, RoomSide
from slow_ribbon.core.runs.placement.stretches import stretches_between

VERSION: Final = 4


def brought_up_to_date(data: Mapping[str, Any]) -> Mapping[str, Any]:
    """Return a document as this version writes it. Raises ``Refused`` for a version that is not known."""
    version = data.get("version")
    if version == VERSION:
        return data
    if isinstance(version, int) and not isinstance(version, bool) and version > VERSION:
        raise Refused(
            f"The job file is of version {version}; this program reads up to version {VERSION}. Open it with a newer one.",
            "version",
            "job-version",
        )
    while version != VERSION:
        step = _STEPS.get(version) if isinstance(version, int) and not isinstance(version, bool) else None
        if step is None:
            said = f"is of version {json.dumps(version)[:40]}, which does not exist" if version is not None else "does not say its version"
            what = f"The job file {said}: it is a whole number from 1 to {VERSION}."
            raise Refused(what, "version", "job-version")
        data = step(data)
        version = data["version"]
    return data


def _ids(data: Mapping[str, Any]) -> dict[str, Any]:
    """Version 1 to 2."""
    job = dict(data)
    number = job.get("last_number", 0)
    names: dict[tuple[str, str], str] = {}
    order: dict[tuple[str, str, str], str] = {}
    lines: dict[str, Line] = {}
    raw_lines = []
    for raw in _list(job, "lines"):
        raw = dict(raw)
        for group, letter in (("openings", "O"), ("marks", "M")):
            parts = []
            for index, part in enumerate(_list(raw, group)):
                number += 1
                parts.append({**part, "id": f"{letter}{number}"})
                order[raw.get("id", ""), group, str(index)] = f"{letter}{number}"
                if group == "marks":
                    names[raw.get("id", ""), part.get("name", "")] = f"{letter}{number}"
            if parts:
                raw[group] = parts
        raw_lines.append(raw)
        lines[raw.get("id", "")] = _line(raw)
    job["lines"] = raw_lines
    job["rows"] = [_row(dict(raw), names) for raw in _list(job, "rows")]
    job["runs"] = [_run(dict(raw), lines) for raw in _list(job, "runs")]
    job["formulas"] = [_formula(dict(raw), order) for raw in _list(job, "formulas")]
    return {**job, "version": 2, "last_number": number}


def _list(data: Mapping[str, Any], name: str) -> list[Any]:
    value = data.get(name) or []
    if not isinstance(value, list) or not all(isinstance(one, dict) for one in value):
        raise Refused(f"The job file is wrong at {name}: a list is needed there.", name, "job-field")
    return value


def _line(raw: Mapping[str, Any]) -> Line:
    try:
        return Line.model_validate(raw)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        where = ".".join(str(part) for part in first["loc"])
        raise Refused(f"The job file is wrong at line {raw.get('id')}, {where}: {first['msg']}.", where, "job-field") from error


def _row(row: dict[str, Any], names: Mapping[tuple[str, str], str]) -> dict[str, Any]:
    for field in ("from_mark", "to_mark"):
        if row.get(field) is not None:
            row[field] = names.get((row.get("line", ""), row[field]), "M0")
    return row


def _run(run: dict[str, Any], lines: Mapping[str, Line]) -> dict[str, Any]:
    line = lines.get(run.get("line", ""))
    if line is None:
        return run
    if run.get("stretches"):
        course = course_of(line)
        known = stretches_between(line, course.length)
        run["stretches"] = [known[number].between.model_dump() for number in run["stretches"] if number < len(known)] or None
    placing = run.get("placing") or {}
    if placing.get("roll"):
        try:
            placed = Placing.model_validate(_without_right({"placing": placing})["placing"])
        except ValidationError:
            # What is wrong with it is reported when the whole is read.
            return run
        room: RoomSide = "right" if (_facing(run) or {}).get("right", True) else "left"
        facing = placed.facing.side_on(line, room)
        mirrored = (not facing.is_right(course_of(line))) != (placed.hand == "left")
        if mirrored:
            run["placing"] = {**placing, "roll": -placed.roll}
    return run


def _formula(formula: dict[str, Any], order: Mapping[tuple[str, str, str], str]) -> dict[str, Any]:
    group, _, rest = str(formula.get("field", "")).partition(".")
    index, _, field = rest.partition(".")
    id = order.get((formula.get("thing", ""), group, index))
    return {**formula, "field": f"{group}.{id}.{field}"} if id is not None else formula


def _derived(data: Mapping[str, Any]) -> dict[str, Any]:
    """Version 3 to 4. What is computed is left out or worked out anew when it is read."""
    runs = []
    for run in _list(data, "runs"):
        facing = _facing(run)
        computed = {"near", "seconds"}
        if facing is not None and facing.get("kind") == "room":
            run = {**run, "room_side": "right" if facing.get("right", True) else "left"}
        runs.append(_without_right({name: value for name, value in run.items() if name not in computed}))
    return {**data, "version": 4, "runs": runs, "rules": [_without_right(rule) for rule in _list(data, "rules")]}


def _facing(thing: Mapping[str, Any]) -> Mapping[str, Any] | None:
    placing = thing.get("placing")
    facing = placing.get("facing") if isinstance(placing, Mapping) else None
    return facing if isinstance(facing, Mapping) else None


def _without_right(thing: dict[str, Any]) -> dict[str, Any]:
    """Return a run or a rule whose facing does not say where the room is."""
    facing = _facing(thing)
    if facing is None or facing.get("kind") != "room":
        return thing
    facing = {name: value for name, value in facing.items() if name != "right"}
    return {**thing, "placing": {**thing["placing"], "facing": facing}}


_STEPS: Mapping[int, Callable[[Mapping[str, Any]], dict[str, Any]]] = {
    1: _ids,
    2: lambda data: {**data, "version": 3},
    3: _derived,
}
