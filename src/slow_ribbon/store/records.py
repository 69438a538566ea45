"""What the repository of jobs gives and takes: jobs as they stand, their history and list, changes, and who makes them."""

from __future__ import annotations

import datetime
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Final

from slow_ribbon.core.job import Job, JobDelta
from slow_ribbon.core.job.edits import Edit


class Unknown(LookupError):
    """No job, or no original, has this id."""


class Conflict(Exception):
    """An edit was made against a revision that is no longer current.

    ``changes`` says, oldest first, what has happened between ``base`` and ``current``.
    """

    def __init__(self, base: int, current: int, changes: list[str]) -> None:
        super().__init__("the job has changed")
        self.base = base
        self.current = current
        self.changes = changes


@dataclass(frozen=True)
class Summary:
    """A line of the list of jobs: ``said`` and ``author`` describe its last change; ``faults`` are unknown until it was worked out."""

    id: str
    name: str
    put_away: bool
    changes: int
    lines: int
    runs: int
    rows: int
    changed_at: datetime.datetime
    revision: int
    said: str
    author: str | None
    faults: int | None
    warnings: int | None


@dataclass(frozen=True)
class Author:
    """Who changes a job: the window it comes from, and the name that somebody gave themselves there."""

    window: str | None = None
    name: str | None = None


NOBODY: Final = Author()


@dataclass(frozen=True)
class Opened:
    """A job as it stands: ``undo`` and ``redo`` say in words what each would take back or bring back.

    ``made`` is the revision that a change made, or had made before where it came twice. ``change`` is what it changed
    of the job ``parent``.
    """

    id: str
    revision: int
    job: Job
    undo: str | None
    redo: str | None
    made: int | None = None
    parent: Job | None = field(default=None, compare=False, repr=False)
    change: JobDelta | None = field(default=None, compare=False, repr=False)


@dataclass(frozen=True)
class Past:
    """A revision in the history; ``undone`` where the job does not stand on it now."""

    number: int
    said: str
    made_at: datetime.datetime
    current: bool
    undone: bool
    author: str | None


@dataclass(frozen=True)
class Changed:
    """What a change makes of a job: the document, the edits that led to it, what they said, and its faults and warnings."""

    job: Job
    edits: Sequence[Edit]
    said: list[str]
    checks: tuple[int, int] | None = None


#: From the current document, and the older one a change was made against where that is another,
#: to what it makes of the current one; None where the two cannot be brought together.
Change = Callable[[Job, Job | None], Changed | None]
