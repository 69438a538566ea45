"""Edits of frames: made with their members as a typical that rows set out, divided by bars, and filled."""

from __future__ import annotations

from typing import Any, Final, Literal

from slow_ribbon.core.job.derived.frame_cuts import with_planes
from slow_ribbon.core.job.derived.made_lines import bar_of_frame, frame_depth, panes_of_frame
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, RUNS, TYPICALS
from slow_ribbon.core.job.document.labels import free_tag
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.job.edits.lines import lines_added
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Coordinate, Id, Name, Point3
from slow_ribbon.core.lines.construction import FrameBar, FrameOutline, FramePane
from slow_ribbon.core.lines.frames import FrameBody, FrameDivision, bar_places, frame_legs, frame_outline
from slow_ribbon.core.lines.model import Line, LineBody, Pane
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
    pane: Pane | None = None
    reach: Coordinate = 0.0

    def apply(self, job: Job) -> Job:
        job.section(self.section)
        made = FrameOutline(at=self.at, **{name: getattr(self.body, name) for name in FrameBody.model_fields})
        start, legs = frame_legs(with_planes(job, made), self.at)
        job = lines_added(job, [LineBody(name=self.name, start=start, legs=legs, closed=True, made=made, **_IN_PLANE)])
        line = job.lines[-1]
        job = job.added(RUNS, _run(job, f"{self.name}, members"[:120], line.id, self.section, self.size, "middle-foot"))
        typical: dict[str, Any] = {"name": self.name, "lines": (line.id,), "base": self.at, "here": "0", "here_stands": False}
        job = job.added(TYPICALS, typical)
        job = job if self.division is None else _divided(job, line, self.division, self.bar or self.section)
        return job if self.pane is None else _filled(job, line, self.pane, self.reach)

    def describe(self, job: Job) -> str:
        return f"made the frame {self.name}"


class DivideFrame(Edit):
    """Divide a frame by bars of a section, instead of those that it has; with no division it has none. Its panes fill its new bays."""

    touches = _TOUCHES

    kind: Literal["divide_frame"] = "divide_frame"
    line: Id
    division: FrameDivision | None = None
    section: Id | None = None

    def apply(self, job: Job) -> Job:
        line = job.line(self.line)
        panes = _panes(job, line)
        bars = {one.id for one in job.lines if isinstance(one.made, FrameBar) and one.made.line == line.id}
        known = next((run.section for run in job.runs if run.line in bars), None)
        job = _without(job, bars | {one.id for one, _ in panes})
        section = self.section or known or _members(job, line).section
        job = job if self.division is None else _divided(job, line, self.division, section)
        pane, reach = next(((one.pane, made.reach) for one, made in panes), (None, 0.0))
        return job if pane is None else _filled(job, line, pane, reach)

    def describe(self, job: Job) -> str:
        return f"divided {job.line(self.line).name}" if self.division else f"took the bars out of {job.line(self.line).name}"


class FillFrame(Edit):
    """Put a pane in every bay of a frame, its edges ``reach`` mm into members and bars, instead of those it has; without one it is open."""

    touches = _TOUCHES

    kind: Literal["fill_frame"] = "fill_frame"
    line: Id
    pane: Pane | None = None
    reach: Coordinate = 0.0

    def apply(self, job: Job) -> Job:
        line = job.line(self.line)
        panes = _panes(job, line)
        if self.pane is None or not panes:
            job = _without(job, {one.id for one, _ in panes})
            return job if self.pane is None else _filled(job, line, self.pane, self.reach)
        # As many bays as before: the panes stay the lines that they are.
        for one, made in panes:
            job = job.put(one.model_copy(update={"pane": self.pane, "made": made.model_copy(update={"reach": self.reach})}))
        return job

    def describe(self, job: Job) -> str:
        name = job.line(self.line).name
        return f"took the panes out of {name}" if self.pane is None else f"filled {name} with {self.pane.of}"


def _panes(job: Job, line: Line) -> list[tuple[Line, FramePane]]:
    """Return the lines round a frame's panes, with how these are made."""
    return [(one, one.made) for one in job.lines if isinstance(one.made, FramePane) and one.made.line == line.id]


def _without(job: Job, lines: set[str]) -> Job:
    """Return a job without some lines and the runs along them; no typical has them any more."""
    typicals = tuple(one.model_copy(update={"lines": tuple(id for id in one.lines if id not in lines)}) for one in job.typicals)
    kept_lines = tuple(one for one in job.lines if one.id not in lines)
    return job.model_copy(
        update={"runs": tuple(run for run in job.runs if run.line not in lines), "lines": kept_lines, "typicals": typicals}
    )


def _divided(job: Job, line: Line, division: FrameDivision, section: str) -> Job:
    """Return the job with bars in a frame, shaped to its members, that stand where its typical does."""
    if not isinstance(line.made, FrameOutline):
        raise Refused(f"{line.name} is no frame: only a frame is divided by bars.", "line", "no-frame")
    members = _members(job, line)
    member, bar = frame_depth(job, members), job.section(section).height
    count = len(bar_places(frame_outline(with_planes(job, line.made)), division, member, bar))
    bars = []
    for number in range(count):
        # Lines and runs get their ids one after another.
        own = f"{RUNS.letter}{job.last_number + count + number + 1}"
        start, legs = bar_of_frame(job, line, division, number, member, bar)
        made = FrameBar(line=line.id, division=division, number=number, members=members.id, bar=own)
        bars.append(LineBody(name=f"{line.name}, bar {number + 1}"[:120], start=start, legs=legs, made=made, **_IN_PLANE))
    job, ids = _with_lines(job, line, bars)
    shaped = {"first_end": ScribedTo(to=members.id), "last_end": ScribedTo(to=members.id)}
    for number, id in enumerate(ids, start=1):
        job = job.added(RUNS, {**_run(job, f"{line.name}, bar {number}"[:120], id, section, None, "middle"), **shaped})
    return job


def _filled(job: Job, line: Line, pane: Pane, reach: float) -> Job:
    """Return the job with a pane in every bay of a frame."""
    members = _members(job, line)
    # All bars of a frame are of one section.
    first = next((one.made for one in job.lines if isinstance(one.made, FrameBar) and one.made.line == line.id), None)
    division, bar = (None, None) if first is None else (first.division, first.bar)
    depths = [frame_depth(job, run) for run in (members, *([] if bar is None else [job.run(bar)]))]
    panes = []
    for number, (start, legs) in enumerate(panes_of_frame(job, line, division, reach, *depths)):
        made = FramePane(line=line.id, reach=reach, division=division, number=number, members=members.id, bar=bar)
        name = f"{line.name}, pane {number + 1}"[:120]
        panes.append(LineBody(name=name, start=start, legs=legs, closed=True, made=made, pane=pane, **_IN_PLANE))
    return _with_lines(job, line, panes)[0]


def _with_lines(job: Job, line: Line, bodies: list[LineBody]) -> tuple[Job, tuple[str, ...]]:
    """Return the job with lines in a frame, which stand wherever it does, and their ids."""
    job = lines_added(job, bodies)
    ids = tuple(one.id for one in job.lines[len(job.lines) - len(bodies) :])
    typicals = tuple(one.model_copy(update={"lines": (*one.lines, *ids)}) if line.id in one.lines else one for one in job.typicals)
    return job.model_copy(update={"typicals": typicals}), ids


def _members(job: Job, line: Line) -> Run:
    """Return the run of a frame's members. Raises ``Refused`` where it has none."""
    found = next((run for run in job.runs if run.line == line.id), None)
    if found is None:
        raise Refused(f"{line.name} has no members: run a section along it first.", "line", "no-members")
    return found


def _run(job: Job, name: str, line: str, section: str, size: str | None, datum: Any) -> dict[str, Any]:
    placing = Placing(facing=FacingSide(kind="left"), datum=NamedDatum(name=datum))
    return {"name": name, "line": line, "section": section, "size": size, "tag": free_tag(job, name), "placing": placing}
