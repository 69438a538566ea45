"""Runs by rule: a section along every line of a layer, of a group, or of a name, now and when lines come later."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from slow_ribbon.core.kernel.fields import Follows, GroupName, Id, Model, Name
from slow_ribbon.core.lines.lines_by import LinesBy
from slow_ribbon.core.runs.placement.placing import FacingRoom, Placing
from slow_ribbon.core.runs.placement.run import external_like
from slow_ribbon.core.runs.treatments.corners import CornersMade, Mitre


class RunRuleBody(Model):
    """A rule before it has an id: which lines, and what each run made by it is like. ``without`` are lines left out by hand."""

    name: Name
    lines: LinesBy
    section: Id
    size: Name | None = None
    placing: Placing = Placing()
    openings: Literal["break", "pass"] = "break"
    corners: CornersMade = Mitre()
    external: CornersMade = Mitre()
    without: Annotated[tuple[Id, ...], Field(max_length=100_000, fail_fast=True)] = ()
    group: GroupName = ""

    @model_validator(mode="before")
    @classmethod
    def _alike(cls, data: Any) -> Any:
        return external_like(data)


class RunRule(RunRuleBody):
    """A rule of a job."""

    following: ClassVar = {"without": Follows(remembered=True)}

    id: Id

    def settings(self, lines: Iterable[str]) -> dict[str, object]:
        """Return the settings of a run made by the rule; ``lines`` are all it is for, which bound a room together where it faces one."""
        placing = self.placing
        if placing.facing.into_room:
            placing = placing.model_copy(update={"facing": FacingRoom(lines=tuple(lines))})
        alike = {name: getattr(self, name) for name in ("section", "size", "openings", "corners", "external")}
        return {**alike, "placing": placing}
