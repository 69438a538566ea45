"""Making edits: from a job and an edit to the changed job, or a refusal that leaves everything as it was."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass

from slow_ribbon.core.job.derived.dependencies import touched
from slow_ribbon.core.job.derived.derive import derive_again
from slow_ribbon.core.job.document.document import Job, check_thing
from slow_ribbon.core.job.document.kinds import KINDS, Thing
from slow_ribbon.core.job.document.labels import tagged_things
from slow_ribbon.core.job.document.named_places import remade
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.lines.typicals.typical import Typical
from slow_ribbon.core.rows.model import Row


@dataclass(frozen=True)
class Applied:
    """A job after an edit, and sentences about it: what no longer follows, say."""

    job: Job
    notices: tuple[str, ...]


def apply(job: Job, edit: Edit, confirmed: bool = False) -> Job:
    """Return the job after one edit, checked.

    ``confirmed`` allows a row of 100,000 items or more, and a thousand places or more. Raises ``Refused``, with the place in
    the edit, where the edit cannot be made; the job given is never changed.

    >>> from slow_ribbon.core.job.edits.lines import AddLines
    >>> from slow_ribbon.core.lines.model import line_body
    >>> job = apply(Job(name="Stair"), AddLines(lines=(line_body([(0, 0, 0), (900, 0, 0)], False, "Landing"),)))
    >>> job.line("L1").name, job.last_number
    ('Landing', 1)
    """
    return _applied(job, edit, confirmed).job


def _applied(job: Job, edit: Edit, confirmed: bool) -> Applied:
    look_up()
    after, notices = derive_again(job, edit.apply(job))
    _check_touched(job, after, confirmed)
    return Applied(after, (*edit.notices(job, after), *notices))


@dataclass(frozen=True)
class AppliedAll:
    """A job after several edits made as one: what each said, and sentences about them."""

    job: Job
    said: list[str]
    notices: tuple[str, ...]


def apply_all(job: Job, edits: Sequence[Edit], confirmed: bool = False) -> AppliedAll:
    """Return the job after several edits made as one. Raises ``Refused`` as ``apply`` does."""
    words: list[str] = []
    notices: list[str] = []
    for edit in edits:
        words.append(edit.describe(job))
        applied = _applied(job, edit, confirmed)
        job = applied.job
        notices.extend(applied.notices)
    return AppliedAll(job, words, tuple(notices))


def said_by(job: Job, edits: Sequence[Edit]) -> set[str]:
    """Return the paths of fields that edits of a job say or depend on; of those that speak of what others made, none."""
    known = {thing.id for thing in job.things()}
    found: set[str] = set()
    for edit in edits:
        with suppress(Refused):
            found |= {path for path in edit.says(job) if path.partition(".")[0] in known or path == "measures"}
    return found


def comes_elsewhere(was: Job, now: Job, edits: Sequence[Edit]) -> bool:
    """Return whether a point, a chainage, an end or a side that edits of one state of a job name is another place in a later state.

    Where an edit cannot be made in both, those after it are not looked at: making them says why.
    """
    for edit in edits:
        look_up()
        try:
            if remade(was, now, edit.named_places(was)):
                return True
            was, now = edit.apply(was), edit.apply(now)
        except Refused:
            return False
    return False


def _check_touched(before: Job, after: Job, confirmed: bool) -> None:
    """Check the things that are new or changed, and those that stand on them; nothing is looked at in groups that are as they were."""
    if before.runs is not after.runs or before.rows is not after.rows:
        tags = [tagged.tag for tagged in tagged_things(after)]
        if len(set(tags)) != len(tags):
            twice = next(tag for tag in tags if tags.count(tag) > 1)
            what = f"The tag {twice} is used by another run or row. Choose another."
            raise Refused(what, "tag", "tag-twice")
    again = touched(before, after)
    old = {thing.id: thing for group in ("rows", "typicals") if again[group] for thing in getattr(before, group)}
    for kind in KINDS:
        things = after.some(kind.group, again[kind.group])
        sound = kind.sound(things)
        for thing in things:
            if thing.id not in sound:
                look_up()
                check_thing(after, thing, confirmed or _confirmed_before(old.get(thing.id), thing))


def _confirmed_before(was: Thing | None, thing: Thing) -> bool:
    """Return whether the number of items of a row, or of places of a typical, was confirmed before and is not larger now."""
    if isinstance(was, Row) and isinstance(thing, Row):
        return was.spacing == thing.spacing
    return isinstance(was, Typical) and isinstance(thing, Typical) and len(thing.places) <= len(was.places)
