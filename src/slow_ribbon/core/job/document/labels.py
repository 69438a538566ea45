"""The letters that begin the tags of pieces and items."""

from __future__ import annotations

from itertools import product

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.runs.placement.run import Run


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
    for size in (3, 4):
        for more in product(alphabet, repeat=size):
            if (tag := "".join(more)) not in used:
                return tag
    raise Refused("All tags of up to four letters are in use: remove runs or rows, or start another job.", "tag", "tags-used-up")
