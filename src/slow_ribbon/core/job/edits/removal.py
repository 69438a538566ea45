"""Removing things, with those that depend on them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import GROUPS, Thing, kind_of
from slow_ribbon.core.job.document.named_places import NamedPlace, both_ends
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Id
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.runs.placement.run import Run


class Remove(Edit):
    """Remove things of any kind. What stands on a removed line or section goes only ``with_dependents``."""

    touches = frozenset(GROUPS)

    kind: Literal["remove"] = "remove"
    ids: Annotated[tuple[Id, ...], Field(min_length=1, max_length=50_000, fail_fast=True)]
    with_dependents: bool = False

    def apply(self, job: Job) -> Job:
        known = {thing.id for thing in job.things()}
        for index, id in enumerate(self.ids):
            if id not in known:
                what = f"There is nothing with the id {id} in this job: it may have been removed already."
                raise Refused(what, f"ids.{index}", "unknown-id")
        also = dependents(job, self.ids)
        if also and not self.with_dependents:
            names = ", ".join(thing.name for thing in also[:3]) + (f" and {len(also) - 3} more" if len(also) > 3 else "")
            raise Refused(f"Still in use by {names}. Remove those too, or keep this.", "ids", "in-use")
        gone = {*self.ids, *(thing.id for thing in also)}
        # A picture goes with what is traced over it.
        gone.update(picture.id for picture in job.pictures if picture.on in gone)
        # What held items of a row goes with it, or nobody could take it off the line again.
        for row in job.rows:
            if row.id in gone and row.held:
                job = job.put(job.line(row.line).without_holds({one.mark for one in row.held}))
        groups = {group: getattr(job, group) for group in GROUPS}
        return job.model_copy(
            update={
                group: tuple(thing for thing in things if thing.id not in gone)
                for group, things in groups.items()
                if any(thing.id in gone for thing in things)
            }
        )

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        # What goes along the whole of a line that was split since would go from a part of it only.
        return tuple(
            place for thing in job.things() if thing.id in self.ids and isinstance(thing, Run | Row) for place in both_ends(thing.line)
        )

    def describe(self, job: Job) -> str:
        names = {thing.id: thing.name for thing in job.things()}
        return f"removed {names.get(self.ids[0], self.ids[0])}" if len(self.ids) == 1 else f"removed {len(self.ids)} things"


def dependents(job: Job, ids: Sequence[str]) -> list[Thing]:
    """Return the things that cannot be without some others, or without one another in turn, and are not among them."""
    gone = set(ids)
    also: list[Thing] = []
    # What is referred to comes first among the kinds, so that once through is enough.
    for thing in job.things():
        if thing.id not in gone and not gone.isdisjoint(kind_of(thing).references(thing)):
            gone.add(thing.id)
            also.append(thing)
    return also
