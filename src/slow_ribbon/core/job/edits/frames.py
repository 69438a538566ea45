"""Edits of frames: made with its members as a typical that rows set out, and divided by bars."""

from __future__ import annotations

from typing import Any, Final, Literal

from slow_ribbon.core.job.derived.made_lines import bar_of_frame, frame_depth
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, RUNS, TYPICALS
from slow_ribbon.core.job.document.labels import free_tag
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.job.edits.lines import lines_added
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Id, Name, Point3
from slow_ribbon.core.lines.construction import FrameBar, FrameOutline
from slow_ribbon.core.lines.frames import FrameBody, FrameDivision, bar_places, frame_legs, frame_outline
from slow_ribbon.core.lines.model import Line, LineBody
from slow_ribbon.core.runs.placement.placing import FacingSide, Placing
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.treatments.ends import ScribedTo
from slow_ribbon.core.sections.document.section import NamedDatum

_TOUCHES = frozenset({LINES.group, RUNS.group, TYPICALS.group})
#: How sections stand on the lines of a frame, whichever way these lean: right of them is to the south.
_IN_PLANE: Final[dict[str, Any]] = {"frame": "carried", "right": (0.0, -1.0, 0.0)}


class AddFrame(Edit):
    """Add a frame: its outline, its members of a section round it, mitred, and a typical of it, which stands nowhere until it is set out.

    The section's height lies in the frame's plane, inward, and its width square to it, half to either side.
    """

    touches = _TOUCHES

    kind: Literal["add_frame"] = "add_frame"
    name: Name
    at: Point3 = (0.0, 0.0, 0.0)
    body: FrameBody = FrameBody()
    section: Id
    size: Name | None = None
    division: FrameDivision | None = None
    bar: Id | None = None

    def apply(self, job: Job) -> Job:
        job.section(self.section)
        start, legs = frame_legs(self.body, self.at)
        made = FrameOutline(at=self.at, **{name: getattr(self.body, name) for name in FrameBody.model_fields})
        job = lines_added(job, [LineBody(name=self.name, start=start, legs=legs, closed=True, made=made, **_IN_PLANE)])
        line = job.lines[-1]
        job = job.added(RUNS, _run(job, f"{self.name}, members"[:120], line.id, self.section, self.size, "middle-foot"))
        typical: dict[str, Any] = {"name": self.name, "lines": (line.id,), "base": self.at, "here": "0", "here_stands": False}
        job = job.added(TYPICALS, typical)
        return job if self.division is None else _divided(job, line, self.division, self.bar or self.section)

    def describe(self, job: Job) -> str:
        return f"made the frame {self.name}"


class DivideFrame(Edit):
    """Divide a frame by bars of a section, instead of those that it has; with no division it has none."""

    touches = _TOUCHES

    kind: Literal["divide_frame"] = "divide_frame"
    line: Id
    division: FrameDivision | None = None
    section: Id | None = None

    def apply(self, job: Job) -> Job:
        line = job.line(self.line)
        bars = {one.id for one in job.lines if isinstance(one.made, FrameBar) and one.made.line == line.id}
        known = next((run.section for run in job.runs if run.line in bars), None)
        job = job.model_copy(
            update={
                "runs": tuple(run for run in job.runs if run.line not in bars),
                "lines": tuple(one for one in job.lines if one.id not in bars),
                "typicals": tuple(
                    one.model_copy(update={"lines": tuple(id for id in one.lines if id not in bars)}) for one in job.typicals
                ),
            }
        )
        section = self.section or known or _members(job, line).section
        return job if self.division is None else _divided(job, line, self.division, section)

    def describe(self, job: Job) -> str:
        return f"divided {job.line(self.line).name}" if self.division else f"took the bars out of {job.line(self.line).name}"


def _divided(job: Job, line: Line, division: FrameDivision, section: str) -> Job:
    """Return the job with bars in a frame, shaped to its members, that stand where its typical does."""
    if not isinstance(line.made, FrameOutline):
        raise Refused(f"{line.name} is no frame: only a frame is divided by bars.", "line", "no-frame")
    members = _members(job, line)
    member, bar = frame_depth(job, members), job.section(section).height
    count = len(bar_places(frame_outline(line.made), division, member, bar))
    bars = []
    for number in range(count):
        # Lines and runs get their ids one after another.
        own = f"{RUNS.letter}{job.last_number + count + number + 1}"
        start, legs = bar_of_frame(line, division, number, member, bar)
        made = FrameBar(line=line.id, division=division, number=number, members=members.id, bar=own)
        bars.append(LineBody(name=f"{line.name}, bar {number + 1}"[:120], start=start, legs=legs, made=made, **_IN_PLANE))
    job = lines_added(job, bars)
    ids = tuple(one.id for one in job.lines[len(job.lines) - count :])
    shaped = {"first_end": ScribedTo(to=members.id), "last_end": ScribedTo(to=members.id)}
    for number, id in enumerate(ids, start=1):
        job = job.added(RUNS, {**_run(job, f"{line.name}, bar {number}"[:120], id, section, None, "middle"), **shaped})
    typicals = tuple(one.model_copy(update={"lines": (*one.lines, *ids)}) if line.id in one.lines else one for one in job.typicals)
    return job.model_copy(update={"typicals": typicals})


def _members(job: Job, line: Line) -> Run:
    """Return the run of a frame's members. Raises ``Refused`` where it has none."""
    found = next((run for run in job.runs if run.line == line.id), None)
    if found is None:
        raise Refused(f"{line.name} has no members: run a section along it first.", "line", "no-members")
    return found


def _run(job: Job, name: str, line: str, section: str, size: str | None, datum: Any) -> dict[str, Any]:
    placing = Placing(facing=FacingSide(kind="left"), datum=NamedDatum(name=datum))
    return {"name": name, "line": line, "section": section, "size": size, "tag": free_tag(job, name), "placing": placing}
