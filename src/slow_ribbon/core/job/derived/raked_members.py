"""Second sections, which member with a run's own where it rises as it turns: made when they are needed, and kept after what they follow."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

import numpy as np

from slow_ribbon.core.job.document.delta import unlike_parts
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import SECTIONS
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.runs.making.split_into_pieces import pieced
from slow_ribbon.core.runs.placement.run import Run, Second
from slow_ribbon.core.runs.treatments.corners import Mitre
from slow_ribbon.core.sections.document.section import Member, Section
from slow_ribbon.core.sections.operations.affine_member import member_fields, same_image
from slow_ribbon.core.sections.operations.parametric_sizes import in_row

#: What of a second section follows; its name, its material, its group and where it is kept are its own.
SECOND_FOLLOWS: Final = ("outline", "holes", "width", "height", "wall", "grows", "stretching", "datum", "bed", "held", "sizes", "range")


def seconds_made(before: Job, after: Job, notices: list[str]) -> Job:
    """Return a job, just edited, with a second section for every piece of a run that needs one, and those that are there brought after
    what they follow.

    Raises ``Refused`` where one was drawn on by hand, or was removed and is still needed.
    """
    if before.sections is after.sections and before.runs is after.runs and before.lines is after.lines:
        return after
    after = _followed(before, after, notices)
    for run in _looked_at(before, after):
        look_up()
        after = _with_seconds(before, after, run)
    return after


def _followed(before: Job, after: Job, notices: list[str]) -> Job:
    """Return the job with the second sections drawn again whose first is another now."""
    if before.sections is after.sections:
        return after
    was, now, _ = unlike_parts(before.sections, after.sections)
    old = {section.id: section for section in was}
    changed = {section.id for section in (*was, *now) if old.get(section.id) is not section} | old.keys() - {one.id for one in now}
    known = {section.id: section for section in after.sections}
    for section in after.sections:
        member = section.member
        if member is None or changed.isdisjoint({section.id, member.of}):
            continue
        look_up()
        first = known.get(member.of)
        if first is None or (member.size is not None and all(row.name != member.size for row in first.range)):
            notices.append(f"{section.name} no longer follows: the section it members with was removed.")
            after = after.put(section.model_copy(update={"member": None}))
            continue
        drawn = _drawn(section, first, member)
        if drawn == section:
            continue
        previous = old.get(section.id)
        # By what was changed, and not by the figures: those of another machine may differ in the last bit.
        by_hand = previous is not None and any(getattr(previous, name) != getattr(section, name) for name in SECOND_FOLLOWS)
        if by_hand and previous is not None and previous.member == member and member.of not in changed:
            what = f"{section.name} members with {first.name} and follows it: change that one, or detach this one."
            raise Refused(what, "section", "follows")
        after = after.put(drawn)
    return after


def _drawn(section: Section, first: Section, member: Member) -> Section:
    """Return a second section as it is drawn after its first."""
    first = first if member.size is None else in_row(first, member.size)
    plain = {name: Section.model_fields[name].get_default(call_default_factory=True) for name in SECOND_FOLLOWS if name != "outline"}
    fields = {name: value for name, value in plain.items() if name not in ("width", "height")}
    return section.model_copy(update={**fields, **member_fields(first, np.reshape(member.matrix, (2, 2))), "member": member})


def _looked_at(before: Job, after: Job) -> Iterator[Run]:
    """Yield the runs that may need other second sections than they have."""
    old_runs, new_runs, _ = unlike_parts(before.runs, after.runs)
    old = {run.id: run for run in old_runs}
    runs = {run.id for run in new_runs if old.get(run.id) != run}
    touched = set()
    for group in ("lines", "sections"):
        was, now, _ = unlike_parts(getattr(before, group), getattr(after, group))
        known = {thing.id: thing for thing in was}
        touched |= {thing.id for thing in now if known.get(thing.id) is not thing} | known.keys() - {thing.id for thing in now}
    for run in after.runs:
        asked = run.id in runs or not touched.isdisjoint({run.line, run.section, *(one.section for one in run.seconds)})
        if asked and (run.seconds or _raked(run)):
            yield run


def _raked(run: Run) -> bool:
    """Return whether any corner of a run is made so that a second section members there."""
    ways = (run.corners, run.external, *(one.made for one in run.own_corners))
    return any(isinstance(way, Mitre) and way.raked == "members" for way in ways)


def _images(job: Job, run: Run) -> list[Array]:
    """Return the matrices (2, 2) of the second sections that a run needs, in order of travel."""
    return [lying.image for lying in pieced(run, job.line(run.line), job.section(run.section)).cuts.seconds]


def _with_seconds(before: Job, job: Job, run: Run) -> Job:
    """Return the job in which a run has the second sections that it needs."""
    known = {section.id: section for section in job.sections}
    left = [one for one in run.seconds if one.section in known]
    made: list[Second] = []
    for image in _images(job, run) if _raked(run) else []:
        member = Member(of=run.section, size=run.size, matrix=tuple((np.ravel(image) + 0.0).tolist()))
        there = next((one for one in job.sections if _is(one.member, member)), None)
        if there is None:
            there = _one_to_redraw(job, run, left)
            if there is not None:
                job = job.put(_drawn(there, known[run.section], member))
            else:
                gone = [one for one in run.seconds if one.section not in known]
                if gone and any(_is(section.member, member) for section in before.sections if section.id == gone[0].section):
                    what = f"{run.name} uses it where the line rises: change how its corners are made first (run card, corners)."
                    raise Refused(what, "ids", "in-use")
                job, there = _added(job, known[run.section], member)
        left = [one for one in left if one.section != there.id]
        made.append(Second(section=there.id, matrix=member.matrix))
    return job if tuple(made) == run.seconds else job.put(run.model_copy(update={"seconds": tuple(made)}))


def _is(member: Member | None, other: Member) -> bool:
    return member is not None and (member.of, member.size) == (other.of, other.size) and same_image(member.matrix, other.matrix)


def _one_to_redraw(job: Job, run: Run, left: list[Second]) -> Section | None:
    """Return the first of some second sections of a run that no other run is made of: it is drawn again where another is needed."""
    for one in left:
        section = next(section for section in job.sections if section.id == one.section)
        others = any(other.id != run.id and one.section in (other.section, *(more.section for more in other.seconds)) for other in job.runs)
        if section.member is not None and not others:
            return section
    return None


def _added(job: Job, first: Section, member: Member) -> tuple[Job, Section]:
    """Return the job with a new second section, and that."""
    names = {section.name for section in job.sections}
    name, number = f"{first.name}, on the rise"[:120], 1
    while name in names:
        number += 1
        name = f"{first.name[:90]}, on the rise {number}"
    blank = first.model_copy(update={"id": "S0", "name": name, "shop": None, "stock": None})
    drawn = _drawn(blank, first, member)
    job = job.added(SECTIONS, {field: getattr(drawn, field) for field in Section.model_fields if field != "id"})
    return job, job.sections[-1]
