"""Rows by rule: items set out along every line of a layer, a group or a name as they are along one, also when lines come later."""

from __future__ import annotations

from typing import Annotated, ClassVar

from pydantic import Field

from slow_ribbon.core.kernel.fields import Follows, Id, Model, Name
from slow_ribbon.core.lines.lines_by import LinesBy


class RowRuleBody(Model):
    """A rule before it has an id: which lines, and the ``row`` that each row made by it is like. ``without`` are lines left out by hand."""

    name: Name
    lines: LinesBy
    row: Id
    without: Annotated[tuple[Id, ...], Field(max_length=100_000, fail_fast=True)] = ()


class RowRule(RowRuleBody):
    """A rule of a job."""

    following: ClassVar = {"without": Follows(remembered=True)}

    id: Id
