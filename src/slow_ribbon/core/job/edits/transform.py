"""Edits that move, turn, mirror and copy lines."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.job.attachments import moved_with, turned_over, with_rules_of_rows_kept
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, ROWS, RUNS
from slow_ribbon.core.job.document.named_places import NamedPlace
from slow_ribbon.core.job.edits.base import Edit, several
from slow_ribbon.core.job.edits.lines import lines_added
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Coordinate, Point3, Some
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.units import FARTHEST
from slow_ribbon.core.lines.legs import Turn
from slow_ribbon.core.lines.model import Line, LineBody
from slow_ribbon.core.lines.split_join import moved_by, sides_over
from slow_ribbon.core.lines.transform import Motion, mirroring, turning

_TOUCHES = frozenset({LINES.group, RUNS.group, ROWS.group, "formulas"})


class MirrorLines(Edit):
    """Mirror lines in the upright plane through two points; with ``copies`` the lines stay and new ones are added."""

    touches = _TOUCHES

    kind: Literal["mirror_lines"] = "mirror_lines"
    lines: Some
    a: Point3
    b: Point3
    copies: bool = True

    def apply(self, job: Job) -> Job:
        return _copied(job, self.lines, [mirroring(self.a, self.b)], self.copies)

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        # A copy is of what was seen.
        return tuple(NamedPlace(line, "whole") for line in self.lines) if self.copies else ()

    def describe(self, job: Job) -> str:
        return f"mirrored {several(job, self.lines)}"


class CopyLines(Edit):
    """Copy lines ``times`` times, each copy turned and moved once more than the one before; without ``copies`` move them.

    ``turn`` is in degrees, anticlockwise about the upright axis through ``about``.
    """

    touches = _TOUCHES

    kind: Literal["copy_lines"] = "copy_lines"
    lines: Some
    by: tuple[Coordinate, Coordinate, Coordinate] = (0.0, 0.0, 0.0)
    turn: Turn = 0.0
    about: Point3 = (0.0, 0.0, 0.0)
    times: Annotated[int, Field(ge=1, le=1000)] = 1
    copies: bool = True

    def apply(self, job: Job) -> Job:
        times = range(1, self.times + 1) if self.copies else (self.times,)
        return _copied(job, self.lines, [turning(self.turn, self.about, self.by, time) for time in times], self.copies)

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        # A copy is of what was seen.
        return tuple(NamedPlace(line, "whole") for line in self.lines) if self.copies else ()

    def describe(self, job: Job) -> str:
        return f"{'copied' if self.copies else 'moved'} {several(job, self.lines)}"


def _copied(job: Job, ids: Sequence[str], motions: Sequence[Motion], copies: bool) -> Job:
    """Return the job with lines copied once by each motion, or moved by the first with what stands on them."""
    if len(ids) * len(motions) > 50_000:
        raise Refused(f"That would make {len(ids) * len(motions):,} lines; 50,000 is the most.", "times", "too-many")
    if not copies:
        return moved_lines(job, ids, motions[0])
    bodies = []
    for time, motion in enumerate(motions, 1):
        for id in ids:
            look_up()
            line = job.line(id)
            name = f"{line.name}, copy" if len(motions) == 1 else f"{line.name}, copy {time}"
            changes: dict[str, object] = {"name": name[:120], "made": None, "source": None, "undrawn": ""}
            if motion.over:
                changes.update(sides_over(line))
            copy = _near(moved_by(line, motion)).model_copy(update=changes)
            bodies.append(LineBody(**{field: getattr(copy, field) for field in LineBody.model_fields}))
    return lines_added(job, bodies)


def moved_lines(job: Job, ids: Sequence[str], motion: Motion) -> Job:
    """Return the job with lines moved, with what stands on them. Raises ``Refused`` where they would lie too far away."""
    for id in dict.fromkeys(ids):
        look_up()
        line = job.line(id)
        made = None if line.made is None or motion.turns else line.made.shifted(motion.move, ids)
        job = job.put(_near(moved_by(line, motion)).model_copy(update={"made": made}))
        job = turned_over(job, id, motion.move) if motion.over else moved_with(job, id, motion.move)
    return with_rules_of_rows_kept(job, set(ids)) if motion.over else job


def _near(line: Line) -> Line:
    if max(abs(value) for value in line.start) > FARTHEST:
        raise Refused("It would lie more than ten thousand kilometres away: check the distance.", "by", "far")
    return line
