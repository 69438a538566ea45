"""Edits of lines as wholes: added, and their own fields."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Final, Literal

from pydantic import Field
from pydantic_core import to_json

from slow_ribbon.core.job.attachments import identified
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES
from slow_ribbon.core.job.document.named_places import NamedPlace
from slow_ribbon.core.job.edits.base import Edit, LineEdit, changed_words
from slow_ribbon.core.job.edits.changes import Changes, changed, said
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Distance, Name, Point3, Size
from slow_ribbon.core.lines.model import MOST_LINES, FrameRule, Line, LineBody, with_ids

#: More lines than this are kept once, with what they make of the job, and not with the edit too.
MOST_KEPT: Final = 200


class AddLines(Edit):
    """Add lines; ``origin`` sets where the job's origin lies on the site, while the job has no lines yet."""

    touches = frozenset({LINES.group, "origin"})

    kind: Literal["add_lines"] = "add_lines"
    lines: Annotated[tuple[LineBody, ...], Field(min_length=1, max_length=MOST_LINES, fail_fast=True)]
    origin: Point3 | None = None

    def apply(self, job: Job) -> Job:
        if self.origin is not None and self.origin != job.origin:
            if job.lines:
                raise Refused("The job's place on the site is settled by its first lines and cannot change now.", "origin", "origin")
            job = job.model_copy(update={"origin": self.origin})
        return lines_added(job, self.lines)

    def describe(self, job: Job) -> str:
        return f"added line {self.lines[0].name}" if len(self.lines) == 1 else f"added {len(self.lines)} lines"

    def kept(self) -> bytes:
        """Return the edit as it is kept with what it led to, JSON: of very many lines how many, since they lie beside it."""
        if len(self.lines) <= MOST_KEPT:
            return super().kept()
        return to_json({"kind": self.kind, "origin": self.origin, "added": len(self.lines)})


def lines_added(job: Job, bodies: Sequence[LineBody]) -> Job:
    """Return the job with lines added, that have not been checked."""
    first = job.last_number + 1
    named = job.model_copy(update={"last_number": job.last_number + len(bodies)})
    found, number = identified(named, bodies, anew=True)
    return job.model_copy(update={"lines": job.lines + tuple(with_ids(found, first)), "last_number": number})


class WallChanges(Changes):
    height: Size | None = None
    thickness: Size | None = None
    side: Literal["left", "right"] | None = None


class StripChanges(Changes):
    left: Distance | None = None
    right: Distance | None = None
    joints: Size | None = None


class PaneChanges(Changes):
    of: Literal["glass", "mesh", "boards"] | None = None
    thickness: Size | None = None
    board: Size | None = None
    gap: Distance | None = None
    way: Literal["upright", "level"] | None = None


class LineChanges(Changes):
    name: Name | None = None
    frame: FrameRule | None = None
    spread: bool | None = None
    wall: WallChanges | None = None
    strip: StripChanges | None = None
    pane: PaneChanges | None = None
    undrawn: Literal[""] | None = None


class SetLine(LineEdit):
    """Change a line's name, frame rule, backdrop wall, strip or pane."""

    kind: Literal["set_line"] = "set_line"
    changes: LineChanges

    def reshape(self, line: Line) -> Line:
        return changed(line, self.changes)

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        # A wall stands on one side; a new one on the side that is said, or that is usual. So does a strip.
        sided = self.changes.wall is not None or self.changes.strip is not None
        return (NamedPlace(self.line, "way"),) if sided else ()

    def says(self, job: Job) -> set[str]:
        return said(self.line, self.changes)

    def describe(self, job: Job) -> str:
        return f"changed {changed_words(self.changes)} of {self.name(job)}"
