"""Second sections, which member with a run's own where it rises as it turns: made when they are needed, and kept after what they follow."""

from __future__ import annotations

from typing import Final

import numpy as np

from slow_ribbon.core.job.derived.expansion import Expansion, Gone, Step
from slow_ribbon.core.job.document.following_fields import computed_fields
from slow_ribbon.core.job.document.kinds import LINES, RUNS, SECTIONS
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.runs.making.split_into_pieces import pieced
from slow_ribbon.core.runs.placement.run import Run, Second
from slow_ribbon.core.runs.treatments.corners import Mitre, Treatment
from slow_ribbon.core.sections.document.section import Member, Section
from slow_ribbon.core.sections.operations.affine_member import member_fields, same_image
from slow_ribbon.core.sections.operations.parametric_sizes import in_row


def _drawn(section: Section, first: Section, member: Member) -> Section:
    """Return a second section as it is drawn after its first."""
    first = first if member.size is None else in_row(first, member.size)
    computed = computed_fields(section.model_copy(update={"member": member}), "member") - {"outline", "width", "height"}
    plain = {name: Section.model_fields[name].get_default(call_default_factory=True) for name in computed}
    return section.model_copy(update={**plain, **member_fields(first, np.reshape(member.matrix, (2, 2))), "member": member})


def _raked(run: Run) -> bool:
    """Return whether any corner of a run is made so that a second section members there."""
    # Asked of thousands of runs at every edit.
    return _members(run.corners) or _members(run.external) or any(_members(one.made) for one in run.own_corners)


def _members(way: Treatment) -> bool:
    return isinstance(way, Mitre) and way.raked == "members"


def _images(expansion: Expansion, run: Run) -> list[Array]:
    """Return the matrices (2, 2) of the second sections that a run needs, in order of travel."""
    section = expansion.get(SECTIONS, run.section)
    return [lying.image for lying in pieced(run, expansion.get(LINES, run.line), section).cuts.seconds]


def _with_seconds(expansion: Expansion, run: Run) -> Run:
    """Return a run with the second sections that it needs; those that are not in the job yet are added to it."""
    if not expansion.whole:
        return run
    left = [one for one in run.seconds if expansion.find(SECTIONS, one.section) is not None]
    gone = [one for one in run.seconds if expansion.find(SECTIONS, one.section) is None]
    made: list[Second] = []
    for image in _images(expansion, run) if _raked(run) else []:
        member = Member(of=run.section, size=run.size, matrix=tuple((np.ravel(image) + 0.0).tolist()))
        there = next((one for one in expansion.all(SECTIONS) if _is(one.member, member)), None)
        if there is None:
            there = _one_to_redraw(expansion, run, left)
            first = expansion.get(SECTIONS, run.section)
            if there is not None:
                there = _drawn(there, first, member)
                expansion.put(there)
            else:
                was = expansion.earlier(SECTIONS, gone[0].section) if gone else None
                if was is not None and _is(was.member, member):
                    what = f"{run.name} uses it where the line rises: change how its corners are made first (run card, corners)."
                    raise Refused(what, "ids", "in-use")
                there = _added(expansion, first, member)
        left = [one for one in left if one.section != there.id]
        made.append(Second(section=there.id, matrix=member.matrix))
    return run if tuple(made) == run.seconds else run.model_copy(update={"seconds": tuple(made)})


def _is(member: Member | None, other: Member) -> bool:
    return member is not None and (member.of, member.size) == (other.of, other.size) and same_image(member.matrix, other.matrix)


def _one_to_redraw(expansion: Expansion, run: Run, left: list[Second]) -> Section | None:
    """Return the first of some second sections of a run that no other run is made of: it is drawn again where another is needed."""
    runs = expansion.all(RUNS)
    for one in left:
        section: Section = expansion.get(SECTIONS, one.section)
        others = any(other.id != run.id and one.section in (other.section, *(more.section for more in other.seconds)) for other in runs)
        if section.member is not None and not others:
            return section
    return None


def _added(expansion: Expansion, first: Section, member: Member) -> Section:
    """Return a new second section of the job."""
    names = {section.name for section in expansion.all(SECTIONS)}
    name, number = f"{first.name}, on the rise"[:120], 1
    while name in names:
        number += 1
        name = f"{first.name[:90]}, on the rise {number}"
    blank = first.model_copy(update={"id": "S0", "name": name, "shop": None, "stock": None})
    drawn = _drawn(blank, first, member)
    added: Section = expansion.add(SECTIONS, {field: getattr(drawn, field) for field in Section.model_fields if field != "id"})
    return added


def _derived(expansion: Expansion, section: Section) -> Section:
    member = section.member
    assert member is not None  # the step concerns no other
    first = expansion.find(SECTIONS, member.of)
    if first is None or (member.size is not None and all(row.name != member.size for row in first.range)):
        raise Gone("the section it members with")
    return _drawn(section, first, member)


#: What second sections are like, after those that they member with.
SECOND_SECTIONS: Final = Step(
    name="drawn",
    kind=SECTIONS,
    concerns=lambda section: section.member is not None,
    follows=lambda _, section: ((section.member.of, None),),
    derive=_derived,
    where="member",
    maker=lambda expansion, section: f" {expansion.get(SECTIONS, section.member.of).name}",
)
#: Which second sections runs are made of.
SECONDS: Final = Step(
    name="seconds",
    kind=RUNS,
    concerns=lambda run: bool(run.seconds) or _raked(run),
    follows=lambda _, run: ((run.line, None), (run.section, None), *((one.section, None) for one in run.seconds)),
    derive=_with_seconds,
)
