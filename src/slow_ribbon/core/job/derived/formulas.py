"""Fields that follow measures: which they are, their values, and what happens to them when lines change."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import Any, get_args, get_type_hints

import numpy as np
from pydantic import BaseModel, ValidationError

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import Thing
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.expressions import Lengths, key
from slow_ribbon.core.kernel.fields import LENGTH, Point3
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.measures import Formula, Measure, MeasureChange
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.point_ids import index_of_leg, index_of_point, point_ids
from slow_ribbon.core.lines.transform import moved_point
from slow_ribbon.core.sections.document.section import Section
from slow_ribbon.core.sections.document.sizes import OWN
from slow_ribbon.core.sections.operations.parametric_sizes import resized

#: A field that differs from what its formula gives by less, mm, still follows it.
_SAME = 1e-7


def formulas_set(job: Job, lengths: Lengths) -> Job:
    known = {thing.id for thing in job.things()}
    for formula in job.formulas:
        if formula.thing in known:
            job = with_length(job, formula, lengths.work_out(formula.text, formula.system or job.units.system).length)
    kept = tuple(formula for formula in job.formulas if formula.thing in known)
    return job if len(kept) == len(job.formulas) else job.model_copy(update={"formulas": kept})


def sizes_followed(job: Job, lengths: Lengths) -> Job:
    """Return a job, whose measures changed, with the sizes of its sections that follow them."""
    for section in job.sections:
        if any(size.text is not None for size in section.sizes):
            after = resized(section, {}, lengths)
            job = job if after == section else job.put(after)
    return job


def formulas_kept(before: Job, job: Job, lengths: Lengths, notices: list[str]) -> Job:
    """Return the job without formulas that no longer give what stands in their fields; those of untouched things are not looked at."""
    if not job.formulas:
        return job
    old = {thing.id: thing for thing in before.things()}
    things = {thing.id: thing for thing in job.things()}
    bound_before = set(before.formulas)
    kept = []
    for formula in job.formulas:
        thing = things.get(formula.thing)
        if thing is None:
            continue
        if thing is old.get(formula.thing) and formula in bound_before:
            kept.append(formula)
            continue
        try:
            value = length_at(thing, formula.field)
            worked = lengths.work_out(formula.text, formula.system or job.units.system).length
        except Refused as refused:
            notices.append(f"{_field_words(formula)} of {thing.name} no longer follows {formula.text}: {refused.what}")
            continue
        if abs(value - worked) <= _SAME:
            kept.append(formula)
        else:
            notices.append(f"{_field_words(formula)} of {thing.name} no longer follows {formula.text}: it was changed.")
    return job if len(kept) == len(job.formulas) else job.model_copy(update={"formulas": tuple(kept)})


def _field_words(formula: Formula) -> str:
    steps = [step for step in formula.field.split(".") if not step[0].isdigit() and not step[0].isupper()]
    return steps[-1].replace("_", " ").capitalize()


def bound(job: Job, formula: Formula) -> Job:
    """Return the job with a field set to what a text says, and following it where it has measures in it."""
    formula = formula.model_copy(update={"system": formula.system or job.units.system})
    worked = job.lengths().work_out(formula.text, formula.system or "mm")
    job = with_length(job, formula, worked.length)
    others = tuple(one for one in job.formulas if (one.thing, one.field) != (formula.thing, formula.field))
    return job.model_copy(update={"formulas": (*others, formula) if worked.uses else others})


def length_at(thing: Thing, path: str) -> float:
    """Return a length of a thing by its path. Raises ``Refused`` if it does not exist, or what is there is no length.

    Points of a line are named by their numbers (``points.2.0`` is the easting of the third of a line that was never worked on), and
    legs by the point at which they begin; openings and marks by their ids (``openings.O7.width``).
    """
    steps = path.split(".")
    if isinstance(thing, Line) and steps[0] == "points":
        return float(_point_of(thing, steps)[int(steps[2])])
    value: Any = thing
    length = False
    for step in _indexed(thing, steps):
        if isinstance(value, BaseModel) and step in type(value).model_fields:
            length = LENGTH in type(value).model_fields[step].metadata or _may_be_length(type(value), step)
            value = getattr(value, step)
        elif isinstance(value, tuple) and step.isdigit() and int(step) < len(value):
            value = value[int(step)]
        else:
            raise Refused(f"There is no length {path} here.", path, "unknown-field")
    if isinstance(value, bool) or not isinstance(value, float | int) or not length:
        raise Refused(f"{path} is not a length, so it cannot follow a measure.", path, "unknown-field")
    return float(value)


@lru_cache(maxsize=1024)
def _may_be_length(model: type[BaseModel], name: str) -> bool:
    """Return whether a field is typed as a length, or as places made of them, alone or among other kinds."""

    def holds(annotation: Any) -> bool:
        return LENGTH in getattr(annotation, "__metadata__", ()) or any(holds(part) for part in get_args(annotation))

    return holds(get_type_hints(model, include_extras=True)[name])


def _indexed(thing: Thing, steps: list[str]) -> list[str]:
    """Return a path with the id of an opening or a mark, or the number of a leg's point, as its place among them."""
    if isinstance(thing, Line) and len(steps) > 1 and steps[0] == "legs" and steps[1].isdigit():
        return [steps[0], str(index_of_leg(thing, int(steps[1]), ".".join(steps))), *steps[2:]]
    if isinstance(thing, Line) and len(steps) > 1 and steps[0] in ("openings", "marks"):
        ids = [part.id for part in getattr(thing, steps[0])]
        if steps[1] not in ids:
            raise Refused(f"{thing.name} has no {steps[0][:-1]} {steps[1]} any more.", ".".join(steps), "unknown-field")
        return [steps[0], str(ids.index(steps[1])), *steps[2:]]
    return steps


def _point_of(line: Line, steps: list[str]) -> Point3:
    if len(steps) == 3 and steps[1].isdigit() and steps[2] in "012":
        index = index_of_point(line, int(steps[1]), ".".join(steps))
        return line.legs[index - 1].to if index else line.start
    raise Refused(f"{line.name} has no {'.'.join(steps)}.", ".".join(steps), "unknown-field")


def with_length(job: Job, formula: Formula, length: float) -> Job:
    """Return the job with one length of a thing set, checked as the field's own kind. Raises ``Refused``."""
    thing = job.thing(formula.thing)
    length_at(thing, formula.field)
    steps = formula.field.split(".")
    changed: Any
    if isinstance(thing, Line) and steps[0] == "points":
        point = list(_point_of(thing, steps))
        point[int(steps[2])] = length
        changed = moved_point(thing, index_of_point(thing, int(steps[1]), formula.field), (point[0], point[1], point[2]))
    else:
        try:
            changed = type(thing).model_validate(_set(thing.model_dump(), _indexed(thing, steps), length))
        except ValidationError as error:
            first = error.errors()[0]
            raise Refused(
                f"{formula.text!r} comes out as {figure(length, 3)}, which {thing.name} cannot take at "
                f"{formula.field}: {first['msg'].lower()}.",
                formula.field,
                "measure-unfit",
            ) from error
        if isinstance(thing, Section) and (thing.held or thing.sizes) and formula.field in OWN:
            changed = resized(thing, {formula.field: length}, job.lengths())
    return job.put(changed)


def _set(data: Any, steps: list[str], value: float) -> Any:
    if not steps:
        return value
    if isinstance(data, dict):
        return {**data, steps[0]: _set(data[steps[0]], steps[1:], value)}
    at = int(steps[0])
    return [*data[:at], _set(data[at], steps[1:], value), *data[at + 1 :]]


def measured(job: Job, changes: Sequence[MeasureChange]) -> tuple[Measure, ...]:
    """Return the job's measures with some added, changed or removed. Raises ``Refused`` for one that is not there.

    What is written again is in the units the job has now; those of an unchanged text stay.
    """
    measures: list[Measure | None] = list(job.measures)
    places = {key(one.name): i for i, one in enumerate(job.measures)}
    for index, change in enumerate(changes):
        wanted = change.was or change.name
        place = f"measures.{index}"
        if wanted is None:
            raise Refused("A measure needs a name.", f"{place}.name", "measure-name")
        at = places.get(key(wanted))
        if at is None and (change.was is not None or change.remove):
            raise Refused(f"There is no measure {wanted} in this job: it may have been removed.", place, "unknown-id")
        if change.remove:
            assert at is not None
            measures[at] = None
            del places[key(wanted)]
            continue
        if at is None:
            if change.text is None:
                raise Refused(f"Measure {wanted} needs a length.", f"{place}.text", "measure")
            places[key(wanted)] = len(measures)
            measures.append(Measure(name=wanted, text=change.text, system=change.system or job.units.system))
            continue
        update: dict[str, Any] = {"name": change.name} if change.name is not None else {}
        was = measures[at]
        assert was is not None  # what was removed has no place any more
        if change.text is not None and change.text != was.text:
            update |= {"text": change.text, "system": change.system or job.units.system}
        measures[at] = was.model_copy(update=update)
        if change.name is not None:
            del places[key(wanted)]
            places.setdefault(key(change.name), at)
    return tuple(one for one in measures if one is not None)


def fields_found(before: Job, after: Job) -> Job:
    """Return a job whose formulas mean the same points, legs, openings and marks as before lines were worked on."""
    if not after.formulas or before.lines is after.lines:
        return after
    old = {line.id: line for line in before.lines}
    new = {line.id: line for line in after.lines}
    fresh = [line for line in after.lines if line.id not in old]
    moved = []
    for formula in after.formulas:
        was, now = old.get(formula.thing), new.get(formula.thing)
        if was is None or was is now:
            moved.append(formula)
            continue
        touched = [line for line in after.lines if old.get(line.id) is not line] if now is None else [now, *fresh]
        moved.append(_found_again(formula, was, touched))
    return after.model_copy(update={"formulas": tuple(moved)}) if moved != list(after.formulas) else after


def _found_again(formula: Formula, was: Line, lines: Sequence[Line]) -> Formula:
    steps = formula.field.split(".")
    group, index = steps[0], steps[1] if len(steps) > 1 else ""
    for line in lines:
        if group in ("openings", "marks") and any(part.id == index for part in getattr(line, group)):
            return formula.model_copy(update={"thing": line.id})
        if group in ("points", "legs") and index.isdigit():
            id = _point_found(int(index), group == "legs", was, line)
            if id is not None:
                return formula.model_copy(update={"thing": line.id, "field": ".".join([group, str(id), *steps[2:]])})
    return formula


def _point_found(id: int, leg: bool, was: Line, line: Line) -> int | None:
    """Return the number, on a line that another became or was parted or joined into, of a point of that, or of the beginning of its leg."""
    old, new = point_ids(was), point_ids(line)
    if id not in old:
        return None
    index = old.index(id)
    if line.id != was.id and not set(old) & set(new):
        # Joined to another line its points have other numbers, and lie where they did.
        places = line.points()
        away = np.abs(places - was.points()[index]).max(axis=1)
        return new[int(np.argmin(away))] if away.min() == 0 else None
    if not leg:
        return id if id in new else None
    # Gone the other way a leg begins where it ended.
    ends = {id, old[(index + 1) % len(old)]}
    return next((a for a, b in zip(new, (*new[1:], *new[:1]), strict=True) if {a, b} == ends), None)
