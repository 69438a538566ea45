"""A drawing that is imported again takes the place of what came from it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.job.reissue import RenewedLine, renewed
from slow_ribbon.core.kernel.fields import Id


class RenewLines(Edit):
    """Let a drawing that is imported again take the place of what came from it; ``added`` lines are added by another edit.

    Lines keep their names and what stands on them. Of those ``gone`` from it, what something
    stands on stays and is marked; the rest are removed.
    """

    touches = frozenset({LINES.group})

    kind: Literal["renew_lines"] = "renew_lines"
    file: Annotated[str, Field(min_length=1, max_length=255)]
    renewed: Annotated[tuple[RenewedLine, ...], Field(max_length=50_000, fail_fast=True)] = ()
    gone: Annotated[tuple[Id, ...], Field(max_length=50_000, fail_fast=True)] = ()

    def apply(self, job: Job) -> Job:
        return renewed(job, self.file, self.renewed, self.gone)

    def describe(self, job: Job) -> str:
        moved = sum(line.body is not None for line in self.renewed)
        done = [f"{number} {word}" for number, word in ((moved, "moved"), (len(self.gone), "gone")) if number]
        return f"imported {self.file} again: {', '.join(done) or 'nothing moved'}"[:200]
