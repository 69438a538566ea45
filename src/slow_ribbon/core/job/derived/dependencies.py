"""Dependencies between the things of a job, and what an edit therefore derives again.

- A thing hangs on what it refers to: a run on its line and section, a row on its line (``Kind.references``). Of
  what is touched so everything is worked out again: its checks, its pieces or items, its rows of the cutting
  list, its totals. All else is taken from the state before (``solve``).
- A field with a formula hangs on the measures named in it, and a walk on those in its text (``formulas``).
- A line that is made hangs on the lines it is made from (``following``).
- A second section hangs on the one it members with, and on the runs that need it (``seconds``).
- A run hangs on runs and rows that its ends are shaped to, or that its joints keep off from or come over (``neighbours``).
- A typical hangs on its lines and on what stands on them, and on measures where a place has one of its own.
"""

from __future__ import annotations

from slow_ribbon.core.job.derived.corner_overrides import corners_found
from slow_ribbon.core.job.derived.expand_rules import rules_followed
from slow_ribbon.core.job.derived.facings import rooms_faced
from slow_ribbon.core.job.derived.formulas import fields_found, formulas_kept, formulas_set, sizes_followed
from slow_ribbon.core.job.derived.made_lines import lines_made
from slow_ribbon.core.job.derived.numbering import pieces_numbered
from slow_ribbon.core.job.derived.place_typicals import places_laid
from slow_ribbon.core.job.derived.raked_members import seconds_made
from slow_ribbon.core.job.derived.run_dependencies import neighbours_found
from slow_ribbon.core.job.document.delta import unlike_parts
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import GROUPS, KINDS, TYPICALS, AnyThing


class Touched(dict[str, list[str]]):
    """The ids of things by their group, in the order of the later state; none of a group that is not named."""

    def __missing__(self, group: str) -> list[str]:
        return []


def touched(before: Job | None, after: Job) -> Touched:
    """Return the things whose figures differ between two states of a job: everything if none is given.

    A thing is touched where it changed itself, or one it refers to is touched.
    """
    if before is None:
        return Touched({group: [thing.id for thing in getattr(after, group)] for group in GROUPS})
    found = Touched()
    every: set[str] = set()
    for kind in KINDS:
        things = getattr(after, kind.group)
        if kind is TYPICALS:
            found[kind.group] = _typicals_touched(before, after, every)
            continue
        own = _changed(getattr(before, kind.group), things)
        if every:
            found[kind.group] = [thing.id for thing in things if thing.id in own or not every.isdisjoint(kind.references(thing))]
        else:
            found[kind.group] = list(own)
        every.update(found[kind.group])
    return found


def _of_what_is_there(job: Job) -> Job:
    """Return the job without acceptances of checks of things that are gone."""
    if not job.accepted:
        return job
    there = {thing.id for thing in job.things()}
    left = tuple(one for one in job.accepted if one.thing in there)
    return job if len(left) == len(job.accepted) else job.model_copy(update={"accepted": left})


def _typicals_touched(before: Job, after: Job, every: set[str]) -> list[str]:
    """Return the typicals that come out otherwise; ``every`` are the ids of all else that is touched."""
    if not after.typicals:
        return []
    own = _changed(before.typicals, after.typicals)
    measured = before.measures != after.measures or before.formulas != after.formulas
    lines = set(every)
    for group in ("runs", "rows"):
        was, now, _ = unlike_parts(getattr(before, group), getattr(after, group))
        lines.update(thing.line for thing in (*was, *now, *after.some(group, every)))
    return [
        typical.id
        for typical in after.typicals
        if typical.id in own or not lines.isdisjoint(typical.lines) or (measured and any(place.own for place in typical.places))
    ]


def _changed(before: tuple[AnyThing, ...], after: tuple[AnyThing, ...]) -> dict[str, None]:
    was, now, _ = unlike_parts(before, after)
    old = {thing.id: thing for thing in was}
    return {thing.id: None for thing in now if old.get(thing.id) != thing}


def followed(before: Job, after: Job, whole: bool = True) -> tuple[Job, tuple[str, ...]]:
    """Return a job, just edited, with everything brought after it that follows something, and in words what no longer does.

    Fields and lines that were changed by hand stop following. A part of a job, which is not the ``whole`` of it, gets no new sections
    or numbers of pieces.
    Raises ``Refused`` where a
    measure cannot be worked out, or makes something that cannot be.
    """
    notices: list[str] = []
    lengths = after.lengths()
    after = fields_found(before, after)
    if lengths is not before.lengths() and lengths != before.lengths():
        after = sizes_followed(formulas_set(after, lengths), lengths)
    else:
        after = formulas_kept(before, after, lengths, notices)
    after = corners_found(before, lines_made(before, after, notices), notices)
    after = rules_followed(before, after, notices)
    after = rooms_faced(before, after, notices)
    if whole:
        after = seconds_made(before, after, notices)
    after = neighbours_found(before, after, notices, whole)
    if whole:
        after = pieces_numbered(before, after)
    after = places_laid(before, after, notices)
    after = _of_what_is_there(after)
    return after, tuple(notices)
