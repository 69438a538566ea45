"""Lines that follow something: made from a walk, beside a line, or midway between two."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence, Set

from slow_ribbon.core.job.delta import unlike_parts
from slow_ribbon.core.job.document import Job
from slow_ribbon.core.job.kinds import LINES
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.lines.construction import Midway, Offset, Walk, stands_on
from slow_ribbon.core.lines.legs import AnyLeg
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.offset import midway, offset
from slow_ribbon.core.lines.walk import walk


def made_geometry(
    job: Job, made: Walk | Offset | Midway, newer: Mapping[str, Line] | None = None
) -> tuple[Point3, tuple[AnyLeg, ...], bool]:
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
    return midway(*map(line_of, made.lines))


def _geometry(line: Line) -> tuple[object, ...]:
    return line.start, line.legs, line.closed


def with_system(job: Job, made: Walk | Offset | Midway | None) -> Walk | Offset | Midway | None:
    """Return how a line is made with the units it was written in, so that other units for the job change nothing of it."""
    return made.model_copy(update={"system": job.units.system}) if isinstance(made, Walk) and made.system is None else made


def lines_made(before: Job, after: Job, notices: list[str]) -> Job:
    """Return a job, just edited, with its lines made anew that follow what was changed; what no longer follows is noted.

    Raises ``Refused`` where lines follow one another in a circle, or what is followed makes no line.
    """
    # Only lines and measures can make a line that follows another. A walk's lengths may have changed without the line.
    measured = before.measures != after.measures
    if before.lines is after.lines and not measured:
        return after
    was, now, _ = unlike_parts(before.lines, after.lines)
    old, new = {line.id: line for line in was}, {line.id: line for line in now}
    unlike = {id for id in old.keys() | new.keys() if old.get(id) is not new.get(id)}
    stale = _following([line for line in after.lines if line.made is not None], unlike, measured)
    if not stale:
        return after
    wanted = stale.keys() | {id for on in stale.values() for id in on}
    lines = new | {line.id: line for line in after.some(LINES.group, wanted - new.keys())}
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
        if by_hand or not lines.keys() >= set(stale[id]):
            lines[id] = remade[id] = line.model_copy(update={"made": None})
            why = "it was changed by hand" if by_hand else "what it was made from is gone"
            notices.append(f"{line.name} no longer follows: {why}.")
        else:
            for other in stale[id]:
                remake(other)
            if previous != line or measured or not (unlike | moved).isdisjoint(stale[id]):
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
