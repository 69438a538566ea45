"""Runs made by rules: added for new lines, removed with lines, changed with their rule, detached when changed by hand."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from typing import Final

from slow_ribbon.core.job.derived.expansion import Expansion, Gone, Step
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, RULES, RUNS
from slow_ribbon.core.job.document.labels import free_tag
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.placement.run_rule import RunRule


def runs_by_rules(before: Job, after: Job) -> Job:
    """Return a job, just edited, in which every line of a rule has a run of the rule, and no other; what they are like follows.

    A line whose run was removed by hand is an exception of the rule from then on.
    """
    if not after.rules or (before.lines is after.lines and before.runs is after.runs and before.rules is after.rules):
        return after
    old_rules = {rule.id: rule for rule in before.rules}
    for rule in after.rules:
        look_up()
        after = _with_runs(before, after, rule, old_rules.get(rule.id))
    return after


def _with_runs(before: Job, job: Job, rule: RunRule, was: RunRule | None) -> Job:
    lines = {line.id: line for line in job.lines if rule.lines.has(line)}
    runs = {run.line: run for run in job.runs if run.rule == rule.id}
    without = set(rule.without)
    if was == rule:
        lines_before = {line.id for line in before.lines}
        without |= ({run.line for run in before.runs if run.rule == rule.id and run.line in lines_before} - runs.keys()) & lines.keys()
    settled = _except(job.lines, rule, without)
    wanted = [id for id in lines if id not in without]
    over = {run.id for line, run in runs.items() if line not in lines or line in without}
    if over:
        job = job.model_copy(update={RUNS.group: tuple(run for run in job.runs if run.id not in over)})
    if {run.line for run in before.runs if run.rule == rule.id} != set(wanted) and settled is rule:
        # Another object, by which all its runs are looked at again: its lines bound a room together.
        settled = rule.model_copy()
    job = job if settled is rule else job.put(settled)
    for line in wanted:
        if line not in runs:
            name = f"{rule.name}, {lines[line].name}"[:120]
            more = {"line": line, "rule": rule.id, "section": rule.section, "group": ""}
            job = job.added(RUNS, {"name": name, "tag": free_tag(job, name), **more})
    return job


def _except(lines: Iterable[Line], rule: RunRule, without: Collection[str]) -> RunRule:
    """Return a rule with some of the lines of the job left out, in their order."""
    there = tuple(line.id for line in lines if line.id in without)
    return rule if there == rule.without else rule.model_copy(update={"without": there})


def _derived(expansion: Expansion, run: Run) -> Run:
    rule = expansion.find(RULES, run.rule or "")
    if rule is None:
        raise Gone
    facing = rule.placing.facing
    ruled = {one.line for one in expansion.all(RUNS) if one.rule == rule.id} if facing.into_room else set()
    settings = rule.settings(line.id for line in expansion.all(LINES) if line.id in ruled) if ruled else rule.settings(())
    return run if all(getattr(run, name) == value for name, value in settings.items()) else run.model_copy(update=settings)


def _detached(expansion: Expansion, run: Run) -> None:
    """Except the line of a run that was changed by hand from its rule, which else would make it another."""
    for rule in expansion.all(RULES):
        was = expansion.earlier(RUNS, run.id)
        if was is not None and was.rule == rule.id:
            expansion.put(_except(expansion.all(LINES), rule, {*rule.without, run.line}))


def _maker(expansion: Expansion, run: Run) -> str:
    return f" {expansion.get(RULES, run.rule or '').name}"


#: What runs by rule are like.
RUNS_BY_RULE: Final = Step(
    name="rule",
    kind=RUNS,
    concerns=lambda run: run.rule is not None,
    follows=lambda _, run: ((run.rule, None),),
    derive=_derived,
    where="rule",
    detached=_detached,
    maker=_maker,
)
