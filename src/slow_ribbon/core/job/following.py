"""Lines that follow something: made from a walk, beside a line, or midway between two."""

from __future__ import annotations

from slow_ribbon.core.job.document import Job
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.lines.construction import Midway, Offset, Walk, stands_on
from slow_ribbon.core.lines.legs import AnyLeg
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.offset import midway, offset
from slow_ribbon.core.lines.walk import walk


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


def lines_made(before: Job, after: Job, notices: list[str]) -> Job:
    # Only lines and measures can make a line that follows another.
    untouched = before.lines is after.lines and before.measures == after.measures
    following = [] if untouched else [line for line in after.lines if line.made is not None]
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
            why = "it was changed by hand" if by_hand else "what it was made from is gone"
            notices.append(f"{line.name} no longer follows: {why}.")
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
        look_up()
        remake(line.id)
    made = tuple(lines[line.id] for line in after.lines)
    return after if all(a is b for a, b in zip(made, after.lines, strict=True)) else after.model_copy(update={"lines": made})
