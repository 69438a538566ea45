"""What stands in the places of a typical: its lines with what is on them, as drawn and with the measures that places have of their own."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from slow_ribbon.core.job.derived.derive import derive_again
from slow_ribbon.core.job.derived.run_dependencies import references_of
from slow_ribbon.core.job.document.document import Job, check_thing
from slow_ribbon.core.job.document.kinds import GROUPS, LINES, ROWS, RUNS, SECTIONS, TYPICALS
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.expressions import key
from slow_ribbon.core.kernel.figures import plain
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.measures import Measure
from slow_ribbon.core.lines.typicals.carriage import HERE, Carriage, carriage
from slow_ribbon.core.lines.typicals.typical import OwnMeasure, PlaceBody, Typical


@dataclass(frozen=True)
class VariantPlace:
    """A place where something stands: its name, and how the typical is carried there."""

    name: str
    carriage: Carriage


@kept_with
def standings(typical: Typical) -> dict[tuple[OwnMeasure, ...], list[VariantPlace]]:
    """Return the places of a typical that are not left out, by the measures they have of their own; where it is drawn is the first."""
    found: dict[tuple[OwnMeasure, ...], list[VariantPlace]] = {(): [VariantPlace(typical.here, HERE)] if typical.here_stands else []}
    for place in typical.places:
        if place.stands:
            own = tuple(sorted(place.own, key=lambda one: key(one.name)))
            found.setdefault(own, []).append(VariantPlace(place.name, carriage(typical, place)))
    return found


def drawn_on(job: Job, lines: Iterable[str]) -> tuple[list[str], list[str]]:
    """Return the ids of the runs and of the rows on some lines."""
    on = set(lines)
    return [run.id for run in job.runs if run.line in on], [row.id for row in job.rows if row.line in on]


def part_of_job(job: Job, typical: Typical) -> Job:
    """Return a job of a typical's lines and what stands on them alone, with all that these need."""
    runs, rows = drawn_on(job, typical.lines)
    wanted = set(typical.lines)
    kept_runs, kept_rows = set(runs), set(rows)
    todo = list(wanted)
    while todo:
        line = job.line(todo.pop())
        needed = set(line.made.stands_on()) if line.made is not None else set()
        if line.made is not None:
            kept_runs.update(line.made.uses_runs)
            needed.update(job.run(id).line for id in line.made.uses_runs)
        todo.extend(needed - wanted)
        wanted |= needed
    # What runs and rows go by stands there with them.
    clear = {one.of for row in job.some(ROWS.group, kept_rows) for one in row.clear_of}
    kept_rows |= {row.id for row in job.some(ROWS.group, clear)}
    wanted |= {line.id for line in job.some(LINES.group, clear)}
    going = list(kept_runs)
    while going:
        others = {one for run in job.some(RUNS.group, going) for one in references_of(run)}
        kept_rows |= {row.id for row in job.some(ROWS.group, others)}
        going = [run.id for run in job.some(RUNS.group, others - kept_runs)]
        kept_runs |= set(going)
    wanted |= {row.line for row in job.some(ROWS.group, kept_rows)}
    for run in job.some(RUNS.group, kept_runs):
        wanted.add(run.line)
        wanted.update(run.placing.facing.bounding)
    some = {LINES.group: wanted, RUNS.group: kept_runs, ROWS.group: kept_rows}
    some[SECTIONS.group] = {run.section for run in job.some(RUNS.group, kept_runs)}
    groups = {group: tuple(job.some(group, some.get(group, ()))) for group in GROUPS}
    there = {thing.id for group in some for thing in groups[group]}
    formulas = tuple(one for one in job.formulas if one.thing in there)
    return job.model_copy(update={**groups, TYPICALS.group: (), "formulas": formulas})


def with_own(job: Job, typical: Typical, own: Sequence[OwnMeasure], place: str) -> Job:
    """Return a job of a typical's lines and what stands on them, with some measures as a place has them of its own.

    Raises ``Refused``, naming the place, where a measure is not one of the job or makes something that cannot be.
    """
    part = part_of_job(job, typical)
    wanted = {key(one.name): one for one in own}
    measures = []
    for measure in part.measures:
        mine = wanted.pop(key(measure.name), None)
        measures.append(measure if mine is None else Measure(name=measure.name, text=f"{mine.length!r} mm", system="mm"))
    for missing in wanted.values():
        what = (
            f"{place} has its own value for {missing.name}, and the job has no measure of that name: remove the value, or add the measure."
        )
        raise Refused(what, "own", "unknown-measure")
    try:
        return derive_again(part, part.model_copy(update={"measures": tuple(measures)}), whole=False)[0]
    except Refused as refused:
        raise Refused(f"{place} of {typical.name} cannot have its own measure: {refused.what}", "own", refused.code) from refused


def check_places(job: Job, typical: Typical, places: Sequence[PlaceBody]) -> None:
    """Raise ``Refused`` where a place of a typical cannot have the measures it has of its own, or nothing of the typical hangs on them."""
    for place in places:
        if not place.own:
            continue
        part = with_own(job, typical, place.own, place.name)
        for group, ids in _shapes(job, typical):
            for thing in part.some(group, ids):
                try:
                    check_thing(part, thing)
                except Refused as refused:
                    raise Refused(f"{place.name} cannot have its own measure: {refused.what}", "own", refused.code) from refused
        if all(part.some(group, ids) == job.some(group, ids) for group, ids in _shapes(job, typical)):
            if all(abs(job.lengths()[key(one.name)] - one.length) <= 1e-9 for one in place.own):
                continue
            names = " and ".join(plain(one.name) for one in place.own)
            what = f"Nothing in {typical.name} depends on {names}: let a length of its lines follow it first, then {place.name} can differ."
            raise Refused(what, "own", "unused-measure")


def _shapes(job: Job, typical: Typical) -> list[tuple[str, Sequence[str]]]:
    runs, rows = drawn_on(job, typical.lines)
    return [(LINES.group, typical.lines), (RUNS.group, runs), (ROWS.group, rows), (SECTIONS.group, [job.run(id).section for id in runs])]
