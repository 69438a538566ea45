"""Edits of the pictures that are traced."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import PICTURES
from slow_ribbon.core.job.document.underlay import PictureBody, scaled
from slow_ribbon.core.job.edits.base import Edit, changed_words, fields_of
from slow_ribbon.core.job.edits.changes import changed
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Coordinate, Id, Model, Name, Point2, Size
from slow_ribbon.core.sections.document.draft import Draft
from slow_ribbon.core.sections.document.section import Section

_TOUCHES = frozenset({PICTURES.group})


class AddPicture(Edit):
    """Lay a picture under the plan, or under a section."""

    touches = _TOUCHES

    kind: Literal["add_picture"] = "add_picture"
    picture: PictureBody

    def apply(self, job: Job) -> Job:
        on = self.picture.on
        if on is not None and _drawn_on(job, on) is None:
            raise Refused(
                f"There is no section {on} in this job for a picture to lie under: it may have been removed.", "picture.on", "unknown-id"
            )
        return job.added(PICTURES, fields_of(self.picture))

    def describe(self, job: Job) -> str:
        under = _drawn_on(job, self.picture.on)
        return f"laid {self.picture.name} under {'the plan' if under is None else under.name}"


def _drawn_on(job: Job, id: Id | None) -> Section | Draft | None:
    """Return the section or the draft with an id."""
    things: tuple[Section | Draft, ...] = (*job.sections, *job.drafts)
    return next((thing for thing in things if thing.id == id), None)


class PictureChanges(Model):
    name: Name | None = None
    east: Coordinate | None = None
    north: Coordinate | None = None
    turn: Annotated[float, Field(ge=-360, le=360)] | None = None
    scale: Annotated[float, Field(gt=0, le=1e6)] | None = None
    strength: Annotated[float, Field(ge=0.05, le=1)] | None = None
    locked: bool | None = None
    shown: bool | None = None


class SetPicture(Edit):
    """Move, turn, fade, lock, show or hide a picture."""

    touches = _TOUCHES

    kind: Literal["set_picture"] = "set_picture"
    picture: Id
    changes: PictureChanges

    def apply(self, job: Job) -> Job:
        return job.put(changed(job.picture(self.picture), self.changes))

    def describe(self, job: Job) -> str:
        return f"changed {changed_words(self.changes)} of {job.picture(self.picture).name}"


class ScalePicture(Edit):
    """Set a picture to scale: two places in it, as they lie in the job now, are ``length`` mm apart."""

    touches = _TOUCHES

    kind: Literal["scale_picture"] = "scale_picture"
    picture: Id
    a: Point2
    b: Point2
    length: Size

    def apply(self, job: Job) -> Job:
        return job.put(scaled(job.picture(self.picture), self.a, self.b, self.length))

    def describe(self, job: Job) -> str:
        return f"set {job.picture(self.picture).name} to scale"
