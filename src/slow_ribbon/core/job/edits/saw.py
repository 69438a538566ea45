"""The edit that says how the saw is set."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.base import Edit, changed_words
from slow_ribbon.core.job.edits.changes import Changes, changed
from slow_ribbon.core.kernel.fields import Distance
from slow_ribbon.core.kernel.saw import Stop


class SawChanges(Changes):
    step: Annotated[float, Field(ge=0, le=5)] | None = None
    stop: Stop | None = None
    sprung: bool | None = None
    kerf: Annotated[Distance, Field(le=50)] | None = None
    trim: Annotated[Distance, Field(le=1000)] | None = None


class SetSaw(Edit):
    """Say in which steps angles are set at the saw, to what its stop is measured, what it takes and leaves, and how cornices are held."""

    touches = frozenset({"saw"})

    kind: Literal["set_saw"] = "set_saw"
    changes: SawChanges

    def apply(self, job: Job) -> Job:
        return job.model_copy(update={"saw": changed(job.saw, self.changes)})

    def describe(self, job: Job) -> str:
        return f"changed the {changed_words(self.changes)} of the saw"
