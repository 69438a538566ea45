"""Edits that accept a check with a reason, and take that back."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import StringConstraints

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Accepted, Id

_Key = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{16}$")]


class AcceptCheck(Edit):
    """Accept a check, as it is shown, with a reason; accepted before, it has the new reason."""

    touches = frozenset({"accepted"})

    kind: Literal["accept_check"] = "accept_check"
    accepted: Accepted

    def apply(self, job: Job) -> Job:
        job.thing(self.accepted.thing)
        others = tuple(one for one in job.accepted if (one.thing, one.check) != (self.accepted.thing, self.accepted.check))
        return job.model_copy(update={"accepted": (*others, self.accepted)})

    def describe(self, job: Job) -> str:
        return f"accepted a check of {job.thing(self.accepted.thing).name}: {self.accepted.reason}"[:200]


class WithdrawAcceptance(Edit):
    """Let a check that was accepted count again."""

    touches = frozenset({"accepted"})

    kind: Literal["withdraw_acceptance"] = "withdraw_acceptance"
    thing: Id
    check: _Key

    def apply(self, job: Job) -> Job:
        left = tuple(one for one in job.accepted if (one.thing, one.check) != (self.thing, self.check))
        if len(left) == len(job.accepted):
            raise Refused("This check is not accepted: the acceptance may have been withdrawn already.", "check", "unknown-id")
        return job.model_copy(update={"accepted": left})

    def describe(self, job: Job) -> str:
        return f"no longer accepts a check of {job.thing(self.thing).name}"
