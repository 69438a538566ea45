"""Edits of lines that are made from something: walked, offset, midway; the boundary of a region."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final, Literal

from pydantic import TypeAdapter, ValidationError

from slow_ribbon.core.job.derived.made_lines import made_geometry, with_system
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, RUNS
from slow_ribbon.core.job.document.named_places import NamedPlace
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.job.edits.changes import KindChanges, PointChange, changed, changes_model
from slow_ribbon.core.job.edits.lines import lines_added
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Id, Name, Point2, Some
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.construction import AnyMade, FrameBar, FrameOutline, FramePane, Made, Midway, Offset, SetOut, StripEdge, Walk
from slow_ribbon.core.lines.model import Line, LineBody
from slow_ribbon.core.lines.region import region
from slow_ribbon.core.runs.placement.placing import FacingSide, Placing
from slow_ribbon.core.runs.placement.run import Run, placing_on

_TOUCHES = frozenset({LINES.group})
_MADE: TypeAdapter[AnyMade] = TypeAdapter(Made)


class AddMade(Edit):
    """Add a line that is walked, lies beside another or midway between two; it ``follows`` or is made once."""

    touches = _TOUCHES

    kind: Literal["add_made"] = "add_made"
    name: Name
    made: Made
    follows: bool = True

    def apply(self, job: Job) -> Job:
        made = with_system(job, self.made)
        assert made is not None  # an edit that adds a line says how
        start, legs, closed = made_geometry(job, made)
        keeps: Made | None = made if self.follows else None
        return lines_added(job, [LineBody(name=self.name, start=start, legs=legs, closed=closed, made=keeps)])

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return tuple(NamedPlace(line, "way") for line in self.made.stands_on())

    def describe(self, job: Job) -> str:
        return f"added line {self.name}"


if TYPE_CHECKING:
    MadeChanges = KindChanges
else:
    MadeChanges = changes_model(
        __name__,
        "MadeChanges",
        "What is changed of how a line is made; with another ``kind`` all of that kind.",
        (Walk, Offset, Midway, SetOut, StripEdge, FrameOutline, FrameBar, FramePane),
        start=PointChange,
        at=PointChange,
    )


class SetMade(Edit):
    """Change how a line is made, or with nothing let it follow no more."""

    touches = _TOUCHES

    kind: Literal["set_made"] = "set_made"
    line: Id
    changes: MadeChanges | None = None

    def apply(self, job: Job) -> Job:
        look_up()
        return job.put(_made_otherwise(job, job.line(self.line), self.changes))

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        said = (getattr(self.changes, "line", None), *(getattr(self.changes, "lines", None) or ()))
        made = job.line(self.line).made
        lines = dict.fromkeys((*(made.stands_on() if made is not None else ()), *(line for line in said if isinstance(line, str))))
        return tuple(NamedPlace(line, "way") for line in lines)

    def describe(self, job: Job) -> str:
        name = job.line(self.line).name
        return f"{name} no longer follows what it was made from" if self.changes is None else f"changed how {name} is made"


def _made_otherwise(job: Job, line: Line, changes: MadeChanges | None) -> Line:
    if changes is None:
        return line.model_copy(update={"made": None})
    if line.made is None or changes.kind not in (None, line.made.kind):
        try:
            made = _MADE.validate_python(changes.model_dump(exclude_unset=True))
        except ValidationError as error:
            first = error.errors(include_url=False)[0]
            raise Refused(f"{line.name} cannot be made this way: {first['msg'].lower()}.", "changes", "invalid") from error
        return line.model_copy(update={"made": with_system(job, made)})
    if "text" in changes.model_fields_set and "system" not in changes.model_fields_set:
        # What is written again is written in the units the job has now.
        changes = MadeChanges.model_validate({**changes.model_dump(exclude_unset=True), "system": job.units.system})
    return line.model_copy(update={"made": changed(line.made, changes)})


class SetLineOut(Edit):
    """Set a line out for a run, where the run's datum lies, and let the run lie on it; the measures to its faces become the line's.

    So the line is that of the datum, bends and lengths are given on it, and it follows where the section changes.
    """

    touches = frozenset({LINES.group, RUNS.group, "formulas"})

    kind: Literal["set_line_out"] = "set_line_out"
    run: Id

    def apply(self, job: Job) -> Job:
        look_up()
        run = job.run(self.run)
        line = job.line(run.line)
        _check_set_out(run, line)
        said = {name: getattr(run.placing, name) for name in _MEASURED}
        made = SetOut(line=line.id, run=run.id, **said)
        start, legs, closed = made_geometry(job, made)
        kept = {name: getattr(line, name) for name in ("frame", "spread", "right", "group")}
        if len(legs) == len(line.legs):
            # Its points are those of the other line beside it: corners of their own stay where they are.
            kept |= {name: getattr(line, name) for name in ("point_ids", "next_point")}
        name = f"{line.name}, set out"[:120]
        job = lines_added(job, [LineBody(name=name, start=start, legs=legs, closed=closed, made=made, **kept)])
        new = job.lines[-1].id
        # Which side it faces is settled: what that hangs on, a room or a wall, belongs to the line it was on.
        side = FacingSide(kind="right" if placing_on(run, line).facing.is_right(course_of(line)) else "left")
        plain = {name: Placing.model_fields[name].default for name in _MEASURED}
        job = job.put(run.model_copy(update={"line": new, "placing": run.placing.model_copy(update={"facing": side, **plain})}))
        formulas = tuple(
            formula.model_copy(update={"thing": new, "field": formula.field.replace("placing", "made")})
            if formula.thing == run.id and formula.field in ("placing.stand_off", "placing.lift")
            else formula
            for formula in job.formulas
        )
        return job.model_copy(update={"formulas": formulas})

    def describe(self, job: Job) -> str:
        return f"set a line out for {job.run(self.run).name}"


#: What is said of a run's placing by measures from its line.
_MEASURED: Final = ("stand_off", "lift", "stand_off_of", "lift_of")


def _check_set_out(run: Run, line: Line) -> None:
    """Raise ``Refused`` where no line can be set out for a run."""
    if all(getattr(run.placing, name) == Placing.model_fields[name].default for name in _MEASURED):
        raise Refused(f"The datum of {run.name} lies on {line.name} already: first set the offset of one of its faces.", "run", "set-out")
    if run.rule is not None:
        raise Refused(f"{run.name} is made by a rule: detach it from the rule first.", "run", "set-out")
    if run.stretches is not None or (line.openings and run.openings == "break"):
        raise Refused(f"{run.name} ends at the openings of {line.name}, which another line does not have.", "run", "set-out")
    if run.joints is not None and run.joints.at is not None:
        raise Refused(f"The joints of {run.name} were placed by hand on {line.name}: let a rule place them first.", "run", "set-out")


class AddRegion(Edit):
    """Add the boundary of the region that holds a point on plan, made of the lines round it; all lines where left out."""

    touches = _TOUCHES

    kind: Literal["add_region"] = "add_region"
    name: Name
    point: Point2
    lines: Some | None = None

    def apply(self, job: Job) -> Job:
        lines = job.lines if self.lines is None else [job.line(id) for id in self.lines]
        start, legs = region(lines, self.point)[0]
        return lines_added(job, [LineBody(name=self.name, start=start, legs=legs, closed=True)])

    def describe(self, job: Job) -> str:
        return f"added line {self.name}"
