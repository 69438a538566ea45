"""Edits of strips: an edging along both sides of a path or a bed."""

from __future__ import annotations

from typing import Final, Literal

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, RUNS
from slow_ribbon.core.job.document.labels import free_tag
from slow_ribbon.core.job.document.named_places import NamedPlace
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.job.edits.lines import lines_added
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Id, Name
from slow_ribbon.core.lines.construction import StripEdge
from slow_ribbon.core.lines.made.strips import strip_edge
from slow_ribbon.core.lines.model import LineBody
from slow_ribbon.core.runs.placement.placing import FacingSide, Placing

_SIDES: Final[tuple[Literal["left", "right"], ...]] = ("left", "right")


class EdgeStrip(Edit):
    """Run a section along both edges of a line's strip; the edges follow the line and its widths."""

    touches = frozenset({LINES.group, RUNS.group})

    kind: Literal["edge_strip"] = "edge_strip"
    line: Id
    section: Id
    size: Name | None = None

    def apply(self, job: Job) -> Job:
        line = job.line(self.line)
        job.section(self.section)
        if line.strip is None:
            raise Refused(f"{line.name} has no strip along it: give it a width first.", "line", "no-strip")
        for side in _SIDES:
            if any(other.made == StripEdge(line=line.id, side=side) for other in job.lines):
                raise Refused(f"The {side} edge of {line.name} is drawn already: run the section along that line.", "line", "edged")
            start, legs = strip_edge(line, side)
            name = f"{line.name}, {side} edge"[:120]
            made = StripEdge(line=line.id, side=side)
            job = lines_added(job, [LineBody(name=name, start=start, legs=legs, closed=line.closed, made=made, group=line.group)])
            # It shows its face to the path, and lies outside it.
            facing = FacingSide(kind="right" if side == "left" else "left")
            run = {"name": f"{line.name}, {side} edging"[:120], "line": job.lines[-1].id, "section": self.section, "size": self.size}
            job = job.added(RUNS, {**run, "tag": free_tag(job, "Edging"), "placing": Placing(facing=facing)})
        return job

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return (NamedPlace(self.line, "way"),)

    def describe(self, job: Job) -> str:
        return f"edged {job.line(self.line).name}"
