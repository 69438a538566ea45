"""The letters that begin the tags of pieces and items."""

from __future__ import annotations

from slow_ribbon.core.job import Job
from slow_ribbon.core.row import Row
from slow_ribbon.core.run import Run


def tagged_things(job: Job) -> list[Run | Row]:
    """Return the runs and rows of a job."""
    return [*job.runs, *job.rows]


def free_tag(job: Job, name: str) -> str:
    """Return letters for piece tags, taken from a name and not used in the job yet."""
    used = {thing.tag for thing in tagged_things(job)}
    letters = [letter for letter in name.upper() if "A" <= letter <= "Z"] or ["A"]
    alphabet = [chr(ord("A") + index) for index in range(26)]
    for tag in [letters[0], *(letters[0] + second for second in [*letters[1:], *alphabet])]:
        if tag not in used:
            return tag
    return next(a + b + c for a in alphabet for b in alphabet for c in alphabet if a + b + c not in used)
