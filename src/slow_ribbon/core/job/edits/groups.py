"""Putting things in groups, to find them by."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import GROUPS
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import GroupName, Id


class SetGroup(Edit):
    """Put things of any kind in a group by its name; an empty one takes them out of theirs."""

    touches = frozenset(GROUPS)

    kind: Literal["set_group"] = "set_group"
    ids: Annotated[tuple[Id, ...], Field(min_length=1, max_length=50_000, fail_fast=True)]
    group: GroupName

    def apply(self, job: Job) -> Job:
        missing = set(self.ids)
        update = {}
        for field in GROUPS:
            things = getattr(job, field)
            if any(thing.id in missing for thing in things):
                update[field] = tuple(thing.model_copy(update={"group": self.group}) if thing.id in missing else thing for thing in things)
                missing -= {thing.id for thing in things}
        if missing:
            index = next(index for index, id in enumerate(self.ids) if id in missing)
            what = f"There is nothing with the id {self.ids[index]} in this job: it may have been removed already."
            raise Refused(what, f"ids.{index}", "unknown-id")
        return job.model_copy(update=update)

    def describe(self, job: Job) -> str:
        what = job.thing(self.ids[0]).name if len(self.ids) == 1 else f"{len(self.ids)} things"
        return f"put {what} in the group {self.group}" if self.group else f"took {what} out of its group"
