"""Edits of the rules by which runs and rows are made."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import ROW_RULES, ROWS, RULES, RUNS
from slow_ribbon.core.job.edits.base import Edit, changed_words, fields_of
from slow_ribbon.core.job.edits.changes import Changes, changed
from slow_ribbon.core.job.edits.runs import CornersChanges, PlacingChanges, placing_changed
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Id, Name
from slow_ribbon.core.lines.lines_by import LinesBy
from slow_ribbon.core.rows.row_rule import RowRuleBody
from slow_ribbon.core.runs.placement.run_rule import RunRuleBody

if TYPE_CHECKING:
    from slow_ribbon.core.runs.placement.run_rule import RunRule

_TOUCHES = frozenset({RULES.group, RUNS.group})


class AddRule(Edit):
    """Run a section along every line of a layer, a group or a name, and along those that come later."""

    touches = _TOUCHES

    kind: Literal["add_rule"] = "add_rule"
    rule: RunRuleBody

    def apply(self, job: Job) -> Job:
        job.section(self.rule.section)
        return job.added(RULES, fields_of(self.rule))

    def describe(self, job: Job) -> str:
        return f"let {job.section(self.rule.section).name} run along {self.rule.lines.described()}"


class RuleChanges(Changes):
    name: Name | None = None
    lines: LinesBy | None = None
    section: Id | None = None
    size: Name | None = None
    placing: PlacingChanges | None = None
    openings: Literal["break", "pass"] | None = None
    corners: CornersChanges | None = None
    external: CornersChanges | None = None
    without: tuple[Id, ...] | None = None


class SetRule(Edit):
    """Change a rule; all its runs follow."""

    touches = _TOUCHES

    kind: Literal["set_rule"] = "set_rule"
    rule: Id
    changes: RuleChanges

    def apply(self, job: Job) -> Job:
        rule = rule_of(job, self.rule)
        changes = self.changes
        placing = rule.placing
        if changes.placing is not None:
            placing = placing_changed(placing, changes.placing, job.section(changes.section or rule.section))
            changes = changes.model_copy(update={"placing": None})
            changes.__pydantic_fields_set__.discard("placing")
        return job.put(changed(rule.model_copy(update={"placing": placing}), changes))

    def describe(self, job: Job) -> str:
        return f"changed {changed_words(self.changes)} of the rule {rule_of(job, self.rule).name}"


_ROW_TOUCHES = frozenset({ROW_RULES.group, ROWS.group})


class AddRowRule(Edit):
    """Set items out along every line of a layer, a group or a name as they are along one, and along those that come later."""

    touches = _ROW_TOUCHES

    kind: Literal["add_row_rule"] = "add_row_rule"
    rule: RowRuleBody

    def apply(self, job: Job) -> Job:
        job.row(self.rule.row)
        return job.added(ROW_RULES, fields_of(self.rule))

    def describe(self, job: Job) -> str:
        return f"set items out as {job.row(self.rule.row).name} along {self.rule.lines.described()}"


class RowRuleChanges(Changes):
    name: Name | None = None
    lines: LinesBy | None = None
    row: Id | None = None
    without: tuple[Id, ...] | None = None


class SetRowRule(Edit):
    """Change a rule of rows; all its rows follow."""

    touches = _ROW_TOUCHES

    kind: Literal["set_row_rule"] = "set_row_rule"
    rule: Id
    changes: RowRuleChanges

    def apply(self, job: Job) -> Job:
        return job.put(changed(job.get(ROW_RULES, self.rule), self.changes))

    def describe(self, job: Job) -> str:
        return f"changed {changed_words(self.changes)} of the rule {job.get(ROW_RULES, self.rule).name}"


def rule_of(job: Job, id: str) -> RunRule:
    """Return a rule by its id. Raises ``Refused`` if it does not exist."""
    for rule in job.rules:
        if rule.id == id:
            return rule
    raise Refused(f"There is no rule {id} in this job: it may have been removed.", "rule", "unknown-id")
