"""Edits of corners of a run that are made in ways of their own."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import RUNS
from slow_ribbon.core.job.document.named_places import NamedPlace
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.job.edits.changes import Changes, changed
from slow_ribbon.core.job.edits.runs import CornersChanges
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Id
from slow_ribbon.core.lines.point_ids import point_ids
from slow_ribbon.core.runs.placement.run import OwnCorner


class OwnCornerChanges(Changes):
    made: CornersChanges | None = None


class SetCorners(Edit):
    """Change how some corners of a run are made, by the points of its line; with nothing they are made as the run's others."""

    touches = frozenset({RUNS.group})

    kind: Literal["set_corners"] = "set_corners"
    run: Id
    points: Annotated[tuple[Annotated[int, Field(ge=0)], ...], Field(min_length=1, max_length=10_000, fail_fast=True)]
    changes: CornersChanges | None = None

    def apply(self, job: Job) -> Job:
        run = job.run(self.run)
        line = job.line(run.line)
        ids = point_ids(line)
        own = {one.point: one for one in run.own_corners}
        for index, point in enumerate(self.points):
            if point not in ids:
                raise Refused(f"{line.name} has no such point any more: pick the corner again.", f"points.{index}", "unknown-point")
            if self.changes is None:
                own.pop(point, None)
            else:
                was = own.get(point, OwnCorner(point=point, made=run.corners))
                own[point] = changed(was, OwnCornerChanges(made=self.changes))
        return job.put(run.model_copy(update={"own_corners": tuple(own[point] for point in sorted(own))}))

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        # Which piece goes on, and to which side it is cut, is said by the way of the line.
        line = job.run(self.run).line
        return NamedPlace(line, "order"), *(NamedPlace(line, "point", point) for point in self.points)

    def describe(self, job: Job) -> str:
        what = "a corner" if len(self.points) == 1 else f"{len(self.points)} corners"
        return f"changed how {what} of {job.run(self.run).name} {'is' if len(self.points) == 1 else 'are'} made"
