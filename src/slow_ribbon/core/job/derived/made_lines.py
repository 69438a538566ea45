"""Lines that follow something: made from a walk, beside a line, midway between two, or set out for a run."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence, Set

from slow_ribbon.core.job.document.delta import unlike_parts
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, RUNS, AnyThing
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.construction import AnyMade, Offset, SetOut, Walk, stands_on
from slow_ribbon.core.lines.legs import AnyLeg
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.offset import midway, offset
from slow_ribbon.core.lines.parallel import moved_aside
from slow_ribbon.core.lines.walk import walk
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.run import placing_on
from slow_ribbon.core.sections.operations.parametric_sizes import in_row


def made_geometry(job: Job, made: AnyMade, newer: Mapping[str, Line] | None = None) -> tuple[Point3, tuple[AnyLeg, ...], bool]:
    """Return the start, legs and closedness of a line that is made; ``newer`` lines stand in for those of the job, by id."""

    def line_of(id: str) -> Line:
        return newer[id] if newer is not None and id in newer else job.line(id)

    if isinstance(made, Walk):
        walked = walk(made.text, made.start, job.lengths(), made.system or job.units.system)
        return walked.start, walked.legs, walked.closed
    if isinstance(made, Offset):
        line = line_of(made.line)
        start, legs = offset(line, made.distance)
        return start, legs, line.closed
    if isinstance(made, SetOut):
        line = line_of(made.line)
        right, up = datum_beside(job, made, line)
        start, legs = moved_aside(line, right, up)
        return start, legs, line.closed
    return midway(*map(line_of, made.lines))


def datum_beside(job: Job, made: SetOut, line: Line) -> tuple[float, float]:
    """Return how far to the right of a line, and above it, the datum of a run lies, mm, where its section lies from the line as is said."""
    run = job.run(made.run)
    section = job.section(run.section)
    section = section if run.size is None else in_row(section, run.size)
    said = {name: getattr(made, name) for name in ("stand_off", "lift", "stand_off_of", "lift_of")}
    right, up = Placed(section, placing_on(run, line).model_copy(update=said), course_of(line)).datum.tolist()
    return right, up


def _geometry(line: Line) -> tuple[object, ...]:
    return line.start, line.legs, line.closed


def with_system(job: Job, made: AnyMade | None) -> AnyMade | None:
    """Return how a line is made with the units it was written in, so that other units for the job change nothing of it."""
    return made.model_copy(update={"system": job.units.system}) if isinstance(made, Walk) and made.system is None else made


def lines_made(before: Job, after: Job, notices: list[str]) -> Job:
    """Return a job, just edited, with its lines made again that follow what was changed; what no longer follows is noted.

    Raises ``Refused`` where lines follow one another in a circle, or what is followed makes no line.
    """
    # A walk's lengths may have changed without the line.
    measured = before.measures != after.measures
    if before.lines is after.lines and before.runs is after.runs and before.sections is after.sections and not measured:
        return after
    was, now, _ = unlike_parts(before.lines, after.lines)
    old, new = {line.id: line for line in was}, {line.id: line for line in now}
    unlike = _unlike(before.lines, after.lines)
    made = [line for line in after.lines if line.made is not None]
    otherwise = _set_out_otherwise(before, after, made)
    stale = _following(made, unlike | otherwise, measured)
    if not stale:
        return after
    wanted = stale.keys() | {id for on in stale.values() for id in on}
    lines = new | {line.id: line for line in after.some(LINES.group, wanted - new.keys())}
    runs = {run.id for run in after.some(RUNS.group, {line.made.run for line in made if isinstance(line.made, SetOut)})}
    done: set[str] = set()
    remade: dict[str, Line] = {}
    moved: set[str] = set()
    way: list[str] = []

    def remake(id: str) -> None:
        line = lines[id]
        if id in done or line.made is None or id not in stale:
            return
        if id in way:
            names = [lines[one].name for one in [*way[way.index(id) :], id]]
            raise Refused(f"{' follows '.join(names)}: lines cannot follow one another in a circle.", "made", "follow-circle")
        way.append(id)
        previous = old.get(id) if id in unlike else line
        by_hand = previous is not None and previous.made == line.made and _geometry(previous) != _geometry(line)
        if by_hand or not lines.keys() >= set(stale[id]) or (isinstance(line.made, SetOut) and line.made.run not in runs):
            lines[id] = remade[id] = line.model_copy(update={"made": None})
            why = "it was changed by hand" if by_hand else "what it was made from was removed"
            notices.append(f"{line.name} no longer follows: {why}.")
        else:
            for other in stale[id]:
                remake(other)
            if previous != line or measured or id in otherwise or not (unlike | moved).isdisjoint(stale[id]):
                make(line)
        way.pop()
        done.add(id)

    def make(line: Line) -> None:
        assert line.made is not None
        try:
            start, legs, closed = made_geometry(after, line.made, lines)
        except Refused as refused:
            raise Refused(f"{line.name} follows, and cannot: {refused.what}", refused.where, refused.code) from refused
        if _geometry(line) != (start, legs, closed):
            lines[line.id] = remade[line.id] = line.model_copy(update={"start": start, "legs": legs, "closed": closed})
            moved.add(line.id)

    for id in stale:
        look_up()
        remake(id)
    if not remade:
        return after
    return after.model_copy(update={"lines": tuple(remade.get(line.id, line) for line in after.lines)})


def _set_out_otherwise(before: Job, after: Job, made: Sequence[Line]) -> set[str]:
    """Return the ids of the lines set out for a run that is not as it was, or whose section is not."""
    for_runs = {line.id: line.made.run for line in made if isinstance(line.made, SetOut)}
    if not for_runs:
        return set()
    unlike = _unlike(before.runs, after.runs) | _unlike(before.sections, after.sections)
    sections = {run.id: run.section for run in after.some(RUNS.group, set(for_runs.values()))}
    return {line for line, run in for_runs.items() if run in unlike or sections.get(run) in unlike}


def _unlike(before: tuple[AnyThing, ...], after: tuple[AnyThing, ...]) -> set[str]:
    """Return the ids of the things that are not as they were: other, new or gone."""
    was, now, _ = unlike_parts(before, after)
    old, new = {thing.id: thing for thing in was}, {thing.id: thing for thing in now}
    return {id for id in old.keys() | new.keys() if old.get(id) is not new.get(id)}


def _following(made: Sequence[Line], unlike: Set[str], measured: bool) -> dict[str, tuple[str, ...]]:
    """Return those of the lines that are made that have to be looked at again, in their order, each with what it stands on.

    Those that were changed themselves, or stand, directly or through others, on what was; all where measures were.
    """
    on = {line.id: stands_on(line.made) for line in made if line.made is not None}
    followers: dict[str, list[str]] = defaultdict(list)
    for id, others in on.items():
        for other in others:
            followers[other].append(id)
    reached = set(on) if measured else set(unlike)
    left = list(reached)
    while left:
        for id in followers.get(left.pop(), ()):
            if id not in reached:
                reached.add(id)
                left.append(id)
    return {id: others for id, others in on.items() if id in reached}
