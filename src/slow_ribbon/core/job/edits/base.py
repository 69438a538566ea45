"""What an edit is: the only way a job changes.

Each edit is a small plain command that says as little as was done: what a *changes* model
leaves out stays as it is (see ``changes``), so that edits of different fields never undo one
another, in whatever order they come. What it does to a job, and how that is said in the
history, stands on its own class.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from typing import Any, ClassVar

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES
from slow_ribbon.core.job.document.named_places import NamedPlace
from slow_ribbon.core.kernel.fields import Id, Model
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.point_ids import point_ids


class Edit(Model, ABC):
    """Something that can be done to a job."""

    kind: str
    #: The fields of the job that the edit itself may change, besides ``last_number``; what follows from them is not among them.
    touches: ClassVar[frozenset[str]]

    @abstractmethod
    def apply(self, job: Job) -> Job:
        """Return the job after the edit, not yet checked. Raises ``Refused``, with the place in the edit, where it cannot be made."""

    @abstractmethod
    def describe(self, job: Job) -> str:
        """Return the edit in words, for the history; ``job`` is the job before it."""

    def notices(self, before: Job, after: Job) -> tuple[str, ...]:
        """Return sentences about the edit besides that it was made: what it did less exactly than asked, say."""
        return ()

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        """Return the places on lines of ``job`` that the edit names by number, chainage, end or side: where it is carried on to a later
        state of the job they must still be the same."""
        return ()

    def says(self, job: Job) -> set[str]:
        """Return the paths of fields of ``job`` that the edit says or depends on, whether it changes their values there or not
        (``changed_fields``): what somebody else made of them meanwhile is not to be undone."""
        return set()

    def kept(self) -> bytes:
        """Return the edit as it is kept with what it led to, JSON."""
        return self.model_dump_json(exclude_unset=True).encode()


class LineEdit(Edit):
    """Something that can be done to one line, by itself."""

    touches = frozenset({LINES.group})

    line: Id

    def apply(self, job: Job) -> Job:
        look_up()
        return job.put(self.reshape(job.line(self.line)))

    @abstractmethod
    def reshape(self, line: Line) -> Line:
        """Return the line after the edit."""

    def name(self, job: Job) -> str:
        """Return the name of the line."""
        return job.line(self.line).name


def shape_of_leg(line: Line, leg: int) -> set[str]:
    """Return the paths of the fields of a leg, counted from 0, besides where it ends and how that is rounded: those that shape it."""
    names = {*type(line.legs[leg]).model_fields, "kind"} - {"to", "round"}
    return {f"{line.id}.legs.{point_ids(line)[leg]}.{name}" for name in names}


def fields_of(body: Model) -> dict[str, Any]:
    """Return the fields of a model, as they are."""
    return {name: getattr(body, name) for name in type(body).model_fields}


def changed_words(changes: Model) -> str:
    """Return the fields that a changes model says something of, in words."""
    names = [name.replace("_", " ") for name in type(changes).model_fields if name in changes.model_fields_set]
    return " and ".join(names) or "nothing"


def several(job: Job, lines: Sequence[str]) -> str:
    """Return some lines in words: the name of one, or how many."""
    return job.line(lines[0]).name if len(lines) == 1 else f"{len(lines)} lines"
