"""What an edit changes of a job: the things whose figures differ afterwards.

- A thing is touched with what it refers to: a run with its line and section, a row with its line (``Kind.references``). Of what is
  touched everything is worked out again: its checks, its pieces or items, its rows of the cutting list, its totals. All else is taken
  from the state before (``solve``). What follows from other things was brought after them before (``derive_again``), and is changed.
- A typical is touched with its lines and what stands on them, and with measures where a place has one of its own.
"""

from __future__ import annotations

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
