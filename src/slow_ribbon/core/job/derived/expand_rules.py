"""Runs made by rules: added for new lines, removed with lines, changed with their rule, detached when changed by hand."""

from __future__ import annotations

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import RUNS
from slow_ribbon.core.job.document.labels import free_tag
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.placement.run_rule import RunRule


def rules_followed(before: Job, after: Job, notices: list[str]) -> Job:
    """Return a job, just edited, with the runs of its rules brought after them; what is no longer by its rule is noted."""
    if not after.rules and not before.rules:
        return after
    if before.lines is after.lines and before.runs is after.runs and before.rules is after.rules:
        return after
    known = {rule.id for rule in after.rules}
    if any(run.rule is not None and run.rule not in known for run in after.runs):
        # The runs of a rule that is gone stay, by themselves.
        runs = tuple(run if run.rule is None or run.rule in known else run.model_copy(update={"rule": None}) for run in after.runs)
        after = after.model_copy(update={RUNS.group: runs})
    old_rules = {rule.id: rule for rule in before.rules}
    old_runs = {run.id: run for run in before.runs}
    for rule in after.rules:
        look_up()
        after = _followed(before, after, rule, old_rules.get(rule.id), old_runs, notices)
    return after


def _followed(before: Job, job: Job, rule: RunRule, was: RunRule | None, old_runs: dict[str, Run], notices: list[str]) -> Job:
    lines = {line.id: line for line in job.lines if rule.lines.has(line)}
    runs = {run.line: run for run in job.runs if run.rule == rule.id}
    without = set(rule.without)
    same = was is not None and was == rule
    by_hand: list[Run] = []
    if same:
        # A run that was taken away, or changed, by hand is an exception from then on.
        lines_before = {line.id for line in before.lines}
        gone = {run.line for run in old_runs.values() if run.rule == rule.id and run.line in lines_before} - runs.keys()
        without |= gone & lines.keys()
        by_hand = [run for run in runs.values() if run.line in lines and old_runs.get(run.id) is not run and not rule.made(run)]
        for run in by_hand:
            notices.append(f"{run.name} no longer follows {rule.name}: it was changed by hand.")
            without.add(run.line)
            job = job.put(run.model_copy(update={"rule": None}))
    without &= {line.id for line in job.lines}
    wanted = [id for id in lines if id not in without]
    if set(rule.without) != without:
        rule = rule.model_copy(update={"without": tuple(line.id for line in job.lines if line.id in without)})
        job = job.put(rule)
    alone = {run.id for run in by_hand}
    left = {line: run for line, run in runs.items() if run.id not in alone}
    over = {run.id for line, run in left.items() if line not in wanted}
    if over:
        job = job.model_copy(update={RUNS.group: tuple(run for run in job.runs if run.id not in over)})
    settings = rule.settings(wanted)
    for line in wanted:
        there = left.get(line)
        if there is None:
            name = f"{rule.name}, {lines[line].name}"[:120]
            job = job.added(RUNS, {"name": name, "tag": free_tag(job, name), "line": line, "rule": rule.id, "group": "", **settings})
        elif not rule.made(there) or (not same and there.placing != settings["placing"]):
            job = job.put(there.model_copy(update=settings))
    return job
