"""Drafts: outlines that are drawn but are no sections yet. They are kept with the job and cannot be run."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from slow_ribbon.core.kernel.fields import Id, Model, Name
from slow_ribbon.core.sections.outline.outline import Outline


class DraftBody(Model):
    """An outline as far as it is drawn, open or crossing itself, with its holes; it is empty before its first edge.

    ``section`` is the one it is meant for, if any.
    """

    name: Name
    outline: Outline | None = None
    holes: Annotated[tuple[Outline, ...], Field(max_length=50)] = ()
    section: Id | None = None


class Draft(DraftBody):
    """A draft of a job."""

    id: Id
