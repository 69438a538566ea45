"""Edits of the job itself: its name, its units."""

from __future__ import annotations

from typing import Literal

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.kernel.fields import Name
from slow_ribbon.core.kernel.units import Units


class RenameJob(Edit):
    """Give the job another name."""

    touches = frozenset({"name"})

    kind: Literal["rename_job"] = "rename_job"
    name: Name

    def apply(self, job: Job) -> Job:
        return job.model_copy(update={"name": self.name})

    def describe(self, job: Job) -> str:
        return f"renamed the job {self.name}"


class SetUnits(Edit):
    """Write lengths in other units."""

    touches = frozenset({"units"})

    kind: Literal["set_units"] = "set_units"
    units: Units

    def apply(self, job: Job) -> Job:
        return job.model_copy(update={"units": self.units})

    def describe(self, job: Job) -> str:
        return f"units set to {self.units.system}"
