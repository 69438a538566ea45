"""Edits of drafts: outlines kept while they are no sections yet."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import DRAFTS, PICTURES, SECTIONS
from slow_ribbon.core.job.edits.base import Edit, fields_of
from slow_ribbon.core.job.edits.outline_boolean import with_outline
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Id, Name
from slow_ribbon.core.sections.document.draft import DraftBody
from slow_ribbon.core.sections.outline.outline import Outline
from slow_ribbon.core.sections.outline.profile import shape_of

if TYPE_CHECKING:
    from slow_ribbon.core.sections.document.draft import Draft


class KeepDraft(Edit):
    """Keep an outline as a draft, whatever state it is in."""

    touches = frozenset({DRAFTS.group})

    kind: Literal["keep_draft"] = "keep_draft"
    draft: DraftBody

    def apply(self, job: Job) -> Job:
        return job.added(DRAFTS, fields_of(self.draft))

    def describe(self, job: Job) -> str:
        return f"kept {self.draft.name} as a draft"


class SetDraft(Edit):
    """Change what is drawn of a draft, or its name."""

    touches = frozenset({DRAFTS.group})

    kind: Literal["set_draft"] = "set_draft"
    draft: Id
    outline: Outline | None = None
    holes: Annotated[tuple[Outline, ...] | None, Field(max_length=50)] = None
    name: Name | None = None

    def apply(self, job: Job) -> Job:
        changes = {field: value for field in ("outline", "holes", "name") if (value := getattr(self, field)) is not None}
        return job.put(draft_of(job, self.draft).model_copy(update=changes))

    def describe(self, job: Job) -> str:
        return f"changed the draft {draft_of(job, self.draft).name}"


class SectionOfDraft(Edit):
    """Make a draft what it is meant for: the outline of its section, or a section of its own; the draft goes."""

    touches = frozenset({DRAFTS.group, SECTIONS.group, PICTURES.group})

    kind: Literal["section_of_draft"] = "section_of_draft"
    draft: Id

    def apply(self, job: Job) -> Job:
        draft = draft_of(job, self.draft)
        if draft.outline is None:
            raise Refused("Nothing is drawn yet: draw its outline first.", "draft", "outline-open")
        left, low, right, high = shape_of(draft.outline, draft.holes).box
        meant = next((section for section in job.sections if section.id == draft.section), None)
        job = job.model_copy(update={"drafts": tuple(one for one in job.drafts if one.id != draft.id)})
        if meant is not None:
            return _pictures_moved(job, draft.id, meant.id).put(with_outline(meant, draft.outline, draft.holes))
        body = {"name": draft.name, "outline": draft.outline, "holes": draft.holes, "width": right - left, "height": high - low}
        job = job.added(SECTIONS, body)
        return _pictures_moved(job, draft.id, job.sections[-1].id)

    def describe(self, job: Job) -> str:
        draft = draft_of(job, self.draft)
        meant = next((section for section in job.sections if section.id == draft.section), None)
        return f"made {draft.name} a section" if meant is None else f"gave {meant.name} the outline of its draft"


def _pictures_moved(job: Job, draft: Id, section: Id) -> Job:
    """Return a job in which what lay under a draft lies under a section."""
    if all(picture.on != draft for picture in job.pictures):
        return job
    pictures = (picture.model_copy(update={"on": section}) if picture.on == draft else picture for picture in job.pictures)
    return job.model_copy(update={"pictures": tuple(pictures)})


def draft_of(job: Job, id: str) -> Draft:
    """Return a draft by its id. Raises ``Refused`` if it does not exist."""
    for draft in job.drafts:
        if draft.id == id:
            return draft
    raise Refused(f"There is no draft {id} in this job: it may have been removed.", "draft", "unknown-id")
