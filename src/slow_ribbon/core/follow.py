"""What follows what: measures, the fields that depend on them, and lines made from walks and other lines."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ValidationError

from slow_ribbon.core.derived import midway, offset
from slow_ribbon.core.faults import Refused
from slow_ribbon.core.job import Job, Thing
from slow_ribbon.core.legs import AnyLeg
from slow_ribbon.core.line import Line
from slow_ribbon.core.line_moves import moved_point
from slow_ribbon.core.made import Midway, Offset, Walk, stands_on
from slow_ribbon.core.measures import Formula, Measure, work_out
from slow_ribbon.core.model import Point3
from slow_ribbon.core.walk import walk

#: A field that differs from what its formula gives by less, mm, still follows it.
_SAME = 1e-7
#: Fields that are numbers but no lengths.
_NO_LENGTHS = {"roll", "turn", "bearing", "strength", "index", "degree", "at_page", "scale", "across_pixels", "along_share"}


def followed(before: Job, after: Job) -> Job:
    """Return a job, just edited, with everything brought after it that follows something.

    Fields and lines that were changed by hand stop following. Raises ``Refused`` where a
    measure cannot be worked out, or makes something that cannot be.
    """
    lengths = after.lengths()
    if lengths != before.lengths():
        after = _formulas_set(after, lengths)
    else:
        after = _formulas_kept(after, lengths)
    return _lines_made(before, after)


def _formulas_set(job: Job, lengths: dict[str, float]) -> Job:
    known = {thing.id for thing in job.things()}
    for formula in job.formulas:
        if formula.thing in known:
            job = with_length(job, formula, work_out(formula.text, lengths, formula.system or job.units.system).length)
    return _only_known(job)


def _formulas_kept(job: Job, lengths: dict[str, float]) -> Job:
    if not job.formulas:
        return job
    things = {thing.id: thing for thing in job.things()}
    kept = []
    for formula in job.formulas:
        thing = things.get(formula.thing)
        if thing is None:
            continue
        try:
            value = length_at(thing, formula.field)
        except Refused:
            continue
        if abs(value - work_out(formula.text, lengths, formula.system or job.units.system).length) <= _SAME:
            kept.append(formula)
    return job if len(kept) == len(job.formulas) else job.model_copy(update={"formulas": tuple(kept)})


def _only_known(job: Job) -> Job:
    known = {thing.id for thing in job.things()}
    kept = tuple(formula for formula in job.formulas if formula.thing in known)
    return job if len(kept) == len(job.formulas) else job.model_copy(update={"formulas": kept})


def bound(job: Job, formula: Formula) -> Job:
    """Return the job with a field set to what a text says, and following it where it has measures in it."""
    formula = formula.model_copy(update={"system": formula.system or job.units.system})
    worked = work_out(formula.text, job.lengths(), formula.system or "mm")
    job = with_length(job, formula, worked.length)
    others = tuple(one for one in job.formulas if (one.thing, one.field) != (formula.thing, formula.field))
    return job.model_copy(update={"formulas": (*others, formula) if worked.uses else others})


def _thing(job: Job, id: str) -> Thing:
    for thing in job.things():
        if thing.id == id:
            return thing
    raise Refused(f"There is nothing with the id {id} in this job: it may have been removed.", "thing", "unknown-id")


def length_at(thing: Thing, path: str) -> float:
    """Return a length of a thing by its path. Raises ``Refused`` where there is none."""
    steps = path.split(".")
    if isinstance(thing, Line) and steps[0] == "points":
        return float(_point_of(thing, steps)[int(steps[2])])
    value: Any = thing
    for step in steps:
        if isinstance(value, BaseModel) and step in type(value).model_fields:
            value = getattr(value, step)
        elif isinstance(value, tuple) and step.isdigit() and int(step) < len(value):
            value = value[int(step)]
        else:
            raise Refused(f"There is no length {path} here.", path, "unknown-field")
    if isinstance(value, bool) or not isinstance(value, float | int) or _NO_LENGTHS & set(steps):
        raise Refused(f"{path} is no length, so it cannot follow a measure.", path, "unknown-field")
    return float(value)


def _point_of(line: Line, steps: list[str]) -> Point3:
    if len(steps) == 3 and steps[1].isdigit() and steps[2] in "012":
        points = [line.start, *(leg.to for leg in line.legs)]
        if int(steps[1]) < len(points) - (1 if line.closed else 0):
            return points[int(steps[1])]
    raise Refused(f"{line.name} has no {'.'.join(steps)}.", ".".join(steps), "unknown-field")


def with_length(job: Job, formula: Formula, length: float) -> Job:
    """Return the job with one length of a thing set, checked as the field's own kind. Raises ``Refused``."""
    thing = _thing(job, formula.thing)
    length_at(thing, formula.field)
    steps = formula.field.split(".")
    changed: Any
    if isinstance(thing, Line) and steps[0] == "points":
        point = list(_point_of(thing, steps))
        point[int(steps[2])] = length
        changed = moved_point(thing, int(steps[1]), (point[0], point[1], point[2]))
    else:
        try:
            changed = type(thing).model_validate(_set(thing.model_dump(), steps, length))
        except ValidationError as error:
            first = error.errors()[0]
            raise Refused(
                f"{formula.text!r} comes out as {length:g} mm, which {thing.name} cannot take at {formula.field}: {first['msg'].lower()}.",
                formula.field,
                "measure-unfit",
            ) from error
    group = {"L": "lines", "S": "sections", "R": "runs", "I": "rows", "P": "pictures"}[thing.id[0]]
    things = tuple(changed if old.id == thing.id else old for old in getattr(job, group))
    return job.model_copy(update={group: things})


def _set(data: Any, steps: list[str], value: float) -> Any:
    if not steps:
        return value
    if isinstance(data, dict):
        return {**data, steps[0]: _set(data[steps[0]], steps[1:], value)}
    at = int(steps[0])
    return [*data[:at], _set(data[at], steps[1:], value), *data[at + 1 :]]


def made_geometry(job: Job, made: Walk | Offset | Midway) -> tuple[Point3, tuple[AnyLeg, ...], bool]:
    """Return the start, legs and closedness of a line that is made."""
    if isinstance(made, Walk):
        walked = walk(made.text, made.start, job.lengths(), made.system or job.units.system)
        return walked.start, walked.legs, walked.closed
    if isinstance(made, Offset):
        line = job.line(made.line)
        start, legs = offset(line, made.distance)
        return start, legs, line.closed
    return midway(job.line(made.lines[0]), job.line(made.lines[1]))


def _geometry(line: Line) -> tuple[object, ...]:
    return line.start, line.legs, line.closed


def with_system(job: Job, made: Walk | Offset | Midway | None) -> Walk | Offset | Midway | None:
    """Return how a line is made with the units it was written in, so that other units for the job change nothing of it."""
    return made.model_copy(update={"system": job.units.system}) if isinstance(made, Walk) and made.system is None else made


def measured(job: Job, measures: tuple[Measure, ...]) -> tuple[Measure, ...]:
    """Return measures with the units they were written in: those of an unchanged one stay."""
    old = {(measure.name, measure.text): measure.system for measure in job.measures}
    return tuple(
        measure.model_copy(update={"system": measure.system or old.get((measure.name, measure.text)) or job.units.system})
        for measure in measures
    )


def _lines_made(before: Job, after: Job) -> Job:
    following = [line for line in after.lines if line.made is not None]
    if not following:
        return after
    old = {line.id: line for line in before.lines}
    present = {line.id for line in after.lines}
    lines = {line.id: line for line in after.lines}
    done: set[str] = set()
    way: list[str] = []
    # A walk's lengths may have changed without the line.
    renamed = before.measures != after.measures

    def remake(id: str) -> None:
        line = lines[id]
        if id in done or line.made is None:
            return
        if id in way:
            names = [lines[one].name for one in [*way[way.index(id) :], id]]
            raise Refused(f"{' follows '.join(names)}: lines cannot follow one another in a circle.", "made", "follow-circle")
        way.append(id)
        was = old.get(id)
        by_hand = was is not None and was.made == line.made and _geometry(was) != _geometry(line)
        if by_hand or not set(stands_on(line.made)) <= present:
            lines[id] = line.model_copy(update={"made": None})
        else:
            for other in stands_on(line.made):
                remake(other)
            if was == line and not renamed and all(lines[other] is old.get(other) for other in stands_on(line.made)):
                way.pop()
                done.add(id)
                return
            current = after.model_copy(update={"lines": tuple(lines.values())})
            try:
                start, legs, closed = made_geometry(current, line.made)
            except Refused as refused:
                raise Refused(f"{line.name} follows, and cannot: {refused.what}", refused.where, refused.code) from refused
            if _geometry(line) != (start, legs, closed):
                lines[id] = line.model_copy(update={"start": start, "legs": legs, "closed": closed})
        way.pop()
        done.add(id)

    for line in following:
        remake(line.id)
    made = tuple(lines[line.id] for line in after.lines)
    return after if all(a is b for a, b in zip(made, after.lines, strict=True)) else after.model_copy(update={"lines": made})
