"""Lines that are made from something: a walk, a line beside another, midway between two, or set out for a run."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Final

import shapely

from slow_ribbon.core.job.derived.expansion import MEASURES, Expansion, Follow, Gone, Step
from slow_ribbon.core.job.derived.frame_cuts import with_planes
from slow_ribbon.core.job.document.delta import unlike_parts
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, RUNS, SECTIONS
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.construction import AnyMade, FrameBar, FrameOutline, FramePane, Offset, SetOut, StripEdge, Walk
from slow_ribbon.core.lines.frame_panes import frame_panes
from slow_ribbon.core.lines.frames import FrameDivision, bar_ends, bar_places, frame_legs, frame_outline, in_plane, outline_corners
from slow_ribbon.core.lines.legs import AnyLeg, StraightLeg
from slow_ribbon.core.lines.made.midline import midway
from slow_ribbon.core.lines.made.parallel import moved_aside
from slow_ribbon.core.lines.made.strips import strip_edge
from slow_ribbon.core.lines.made.walk import walk
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.offset import offset
from slow_ribbon.core.lines.point_ids import points_inherited
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.run import Run, placing_on
from slow_ribbon.core.sections.operations.parametric_sizes import in_row


def made_geometry(job: Job | Expansion, made: AnyMade) -> tuple[Point3, tuple[AnyLeg, ...], bool]:
    """Return the start, legs and closedness of a line that is made."""
    if isinstance(made, Walk):
        known = job.settings() if isinstance(job, Expansion) else job
        walked = walk(made.text, made.start, known.lengths(), made.system or known.units.system)
        return walked.start, walked.legs, walked.closed
    if isinstance(made, Offset):
        line = job.get(LINES, made.line)
        start, legs = offset(line, made.distance)
        return start, legs, line.closed
    if isinstance(made, FrameOutline):
        return *frame_legs(with_planes(job, made), made.at), True
    if isinstance(made, FrameBar):
        depths = (frame_depth(job, job.get(RUNS, id)) for id in made.uses_runs)
        return *bar_of_frame(job, job.get(LINES, made.line), made.division, made.number, *depths), False
    if isinstance(made, FramePane):
        member, *bars = (frame_depth(job, job.get(RUNS, id)) for id in made.uses_runs)
        panes = panes_of_frame(job, job.get(LINES, made.line), made.division, made.reach, member, *bars)
        if made.number >= len(panes):
            raise Refused(f"The frame has {len(panes)} bays only: divide it anew.", "made.number", "no-pane")
        return *panes[made.number], True
    if isinstance(made, StripEdge):
        line = job.get(LINES, made.line)
        return *strip_edge(line, made.side), line.closed
    if isinstance(made, SetOut):
        line = job.get(LINES, made.line)
        right, up = datum_beside(job, made, line)
        start, legs = moved_aside(line, right, up)
        return start, legs, line.closed
    return midway(*(job.get(LINES, id) for id in made.lines))


def frame_depth(job: Job | Expansion, run: Run) -> float:
    """Return how deep a run's section lies in the plane of a frame, mm: its height, as it is placed there."""
    section = job.get(SECTIONS, run.section)
    return (section if run.size is None else in_row(section, run.size)).height


def bar_of_frame(
    job: Job | Expansion, frame: Line, division: FrameDivision, number: int, member: float, bar: float
) -> tuple[Point3, tuple[AnyLeg, ...]]:
    """Return the start and legs of a bar of a frame, whose members and bars are some depths in its plane, mm.

    Raises ``Refused`` where the line is no frame, or has no room for the bar.
    """
    of = _outline_of(job, frame)
    outline = frame_outline(of)
    places = bar_places(outline, division, member, bar)
    if number >= len(places):
        raise Refused(f"{frame.name} has room for {len(places)} bars only: divide it anew.", "made.number", "no-bar")
    ends = bar_ends(outline, division.way, places[number])
    start, end = (in_plane(of.at, point.tolist()) for point in ends)
    return start, (StraightLeg(to=end),)


def panes_of_frame(
    job: Job | Expansion, frame: Line, division: FrameDivision | None, reach: float, member: float, bar: float = 0.0
) -> list[tuple[Point3, tuple[AnyLeg, ...]]]:
    """Return the starts and legs of the closed lines round the panes of a frame.

    Parameters
    ----------
    division
        How bars divide it; None: it is one bay.
    reach
        How far the panes' edges reach into the members and bars, mm.
    member, bar
        How deep the members and bars are in the frame's plane, mm.

    Raises ``Refused`` where the line is no frame, or a bay has no room.
    """
    of = _outline_of(job, frame)
    found: list[tuple[Point3, tuple[AnyLeg, ...]]] = []
    for pane in frame_panes(frame_outline(of), division, reach, member, bar):
        start, *others = (in_plane(of.at, point) for point in outline_corners(shapely.get_coordinates(pane)[:-1]).tolist())
        found.append((start, tuple(StraightLeg(to=to) for to in (*others, start))))
    return found


def _outline_of(job: Job | Expansion, frame: Line) -> FrameOutline:
    if not isinstance(frame.made, FrameOutline):
        what = f"{frame.name} is no frame any more: remove its bars and panes, or undo what was done to it."
        raise Refused(what, "made.line", "no-frame")
    return with_planes(job, frame.made)


def datum_beside(job: Job | Expansion, made: SetOut, line: Line) -> tuple[float, float]:
    """Return how far to the right of a line, and above it, the datum of a run lies, mm, where its section lies from the line as is said."""
    run = job.get(RUNS, made.run)
    section = job.get(SECTIONS, run.section)
    section = section if run.size is None else in_row(section, run.size)
    said = {name: getattr(made, name) for name in ("stand_off", "lift", "stand_off_of", "lift_of")}
    right, up = Placed(section, placing_on(run, line).model_copy(update=said), course_of(line)).datum.tolist()
    return right, up


def with_system(job: Job, made: AnyMade | None) -> AnyMade | None:
    """Return how a line is made with the units it was written in, so that other units for the job change nothing of it."""
    return made.model_copy(update={"system": job.units.system}) if isinstance(made, Walk) and made.system is None else made


def _follows(expansion: Expansion, line: Line) -> Iterator[Follow]:
    made = line.made
    assert made is not None  # the step concerns no other
    if made.uses_measures:
        yield MEASURES, None
    yield from ((id, None) for id in made.stands_on())
    for id in made.uses_runs:
        yield id, "room"
        run = expansion.find(RUNS, id)
        if run is not None:
            yield run.section, None
            if isinstance(made, FrameOutline):
                yield run.line, None


def _derived(expansion: Expansion, line: Line) -> Line:
    assert line.made is not None  # the step concerns no other
    made = line.made
    if any(expansion.find(LINES, id) is None for id in made.stands_on()):
        raise Gone("what it was made from")
    if isinstance(made, StripEdge) and expansion.get(LINES, made.line).strip is None:
        raise Gone("the strip that it is an edge of")
    if isinstance(made, FrameBar | FramePane) and not isinstance(expansion.get(LINES, made.line).made, FrameOutline):
        raise Gone("the frame that it lies in")
    if any(expansion.find(RUNS, id) is None for id in made.uses_runs):
        raise Gone("what it was made from")
    try:
        start, legs, closed = made_geometry(expansion, made)
    except Refused as refused:
        raise Refused(f"{line.name} follows, and cannot: {refused.what}", refused.where, refused.code) from refused
    if (line.start, line.legs, line.closed) == (start, legs, closed):
        return line
    made_again = line.model_copy(update={"start": start, "legs": legs, "closed": closed})
    was = expansion.earlier(LINES, line.id)
    # Where a document is read the numbers are those that were written.
    return made_again if was is None or expansion.reads else points_inherited(was, made_again)


def points_numbered(before: Job, after: Job) -> Job:
    """Return a job whose lines, where an edit made them otherwise, have the numbers of their points that they had before."""
    if before.lines is after.lines:
        return after
    was, now, _ = unlike_parts(before.lines, after.lines)
    old = {line.id: line for line in was}
    for line in now:
        earlier = old.get(line.id)
        if earlier is not None and (earlier.start, earlier.legs, earlier.closed) != (line.start, line.legs, line.closed):
            numbered = points_inherited(earlier, line)
            after = after if numbered is line else after.put(numbered)
    return after


def _circle(names: Sequence[str]) -> Refused:
    return Refused(f"{' follows '.join(names)}: lines cannot follow one another in a circle.", "made", "follow-circle")


#: The geometry of lines that are made.
MADE_LINES: Final = Step(
    name="made",
    kind=LINES,
    concerns=lambda line: line.made is not None,
    follows=_follows,
    derive=_derived,
    where="made",
    circle=_circle,
)
