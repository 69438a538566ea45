"""Runs and rows made by rules: added for new lines, removed with lines, changed with their rule, detached when changed by hand."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any, Final

from slow_ribbon.core.job.derived.expansion import Expansion, Follow, Gone, Step
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, ROW_RULES, ROWS, RULES, RUNS, Kind
from slow_ribbon.core.job.document.labels import free_tag
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.items import TypicalItem
from slow_ribbon.core.rows.model import LIKE, Row
from slow_ribbon.core.rows.row_rule import RowRule
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.placement.run_rule import RunRule

AnyRule = RunRule | RowRule


@dataclass(frozen=True)
class _Making:
    """What rules of a kind make: things of the kind ``made`` along the lines that ``takes`` returns True for, each with some ``fields``."""

    rules: Kind[Any]
    made: Kind[Any]
    takes: Callable[[Job, Any, Line], bool]
    fields: Callable[[Job, Any], Mapping[str, object]]


def _row_goes_along(job: Job, rule: RowRule, line: Line) -> bool:
    """Return whether a rule's row can be set out along a line as well: it is not its own, and encloses the ground that is filled."""
    row = job.find(ROWS, rule.row)
    return row is not None and line.id != row.line and (row.filling is None or line.closed)


_MAKINGS: Final = (
    _Making(RULES, RUNS, lambda _, __, ___: True, lambda _, rule: {"section": rule.section}),
    _Making(ROW_RULES, ROWS, _row_goes_along, lambda job, rule: {name: getattr(job.row(rule.row), name) for name in LIKE}),
)


def made_by_rules(before: Job, after: Job) -> Job:
    """Return a job, just edited, in which every line of a rule has what the rule makes, and no other; what it is like follows.

    A line from which that was removed by hand is an exception of the rule from then on.
    """
    for making in _MAKINGS:
        groups = (LINES.group, making.made.group, making.rules.group)
        rules = getattr(after, making.rules.group)
        if not rules or all(getattr(before, group) is getattr(after, group) for group in groups):
            continue
        old_rules = {rule.id: rule for rule in getattr(before, making.rules.group)}
        for rule in rules:
            look_up()
            after = _with_made(before, after, making, rule, old_rules.get(rule.id))
    return after


def _with_made(before: Job, job: Job, making: _Making, rule: AnyRule, was: AnyRule | None) -> Job:
    group = making.made.group
    lines = {line.id: line for line in job.lines if rule.lines.has(line) and making.takes(job, rule, line)}
    made = {thing.line: thing for thing in getattr(job, group) if thing.rule == rule.id}
    made_before = [thing for thing in getattr(before, group) if thing.rule == rule.id]
    without = set(rule.without)
    if was == rule:
        lines_before = {line.id for line in before.lines}
        without |= ({thing.line for thing in made_before if thing.line in lines_before} - made.keys()) & lines.keys()
    settled = _except(job.lines, rule, without)
    wanted = [id for id in lines if id not in without]
    over = {thing.id for line, thing in made.items() if line not in lines or line in without}
    if over:
        job = job.model_copy(update={group: tuple(thing for thing in getattr(job, group) if thing.id not in over)})
    if {thing.line for thing in made_before} != set(wanted) and settled is rule:
        # Another object, by which all that it made is looked at again: its lines bound a room together.
        settled = rule.model_copy()
    job = job if settled is rule else job.put(settled)
    for line in wanted:
        if line not in made:
            name = f"{rule.name}, {lines[line].name}"[:120]
            more = {"line": line, "rule": rule.id, "group": "", **making.fields(job, rule)}
            job = job.added(making.made, {"name": name, "tag": free_tag(job, name), **more})
    return job


def _except(lines: Iterable[Line], rule: Any, without: Collection[str]) -> Any:
    """Return a rule with some of the lines of the job left out, in their order."""
    there = tuple(line.id for line in lines if line.id in without)
    return rule if there == rule.without else rule.model_copy(update={"without": there})


def _run_derived(expansion: Expansion, run: Run) -> Run:
    rule = expansion.find(RULES, run.rule or "")
    if rule is None:
        raise Gone
    facing = rule.placing.facing
    ruled = {one.line for one in expansion.all(RUNS) if one.rule == rule.id} if facing.into_room else set()
    settings = rule.settings(line.id for line in expansion.all(LINES) if line.id in ruled) if ruled else rule.settings(())
    return run if all(getattr(run, name) == value for name, value in settings.items()) else run.model_copy(update=settings)


def _row_derived(expansion: Expansion, row: Row) -> Row:
    rule = expansion.find(ROW_RULES, row.rule or "")
    if rule is None:
        raise Gone
    like = expansion.get(ROWS, rule.row)
    if any(isinstance(use.item, TypicalItem) for use in like.uses()):
        what = f"{like.name} sets a typical out, which stands where one row puts it: remove the rule {rule.name}, or choose another item."
        raise Refused(what, "row.item", "typical-by-rule")
    settings = {name: getattr(like, name) for name in LIKE}
    # Nothing keeps clear of itself or of the line that it stands on, where the row that it is like may do so.
    settings["clear_of"] = tuple(one for one in like.clear_of if one.of not in (row.id, row.line))
    return row if all(getattr(row, name) == value for name, value in settings.items()) else row.model_copy(update=settings)


def _row_follows(expansion: Expansion, row: Row) -> Iterator[Follow]:
    rule = expansion.find(ROW_RULES, row.rule or "")
    yield row.rule or "", None
    if rule is not None:
        yield rule.row, None


def _detached_from(making: _Making) -> Callable[[Expansion, Any], None]:
    """Return what excepts the line of a thing that was changed by hand from its rule, which else would make it another."""

    def detached(expansion: Expansion, thing: Run | Row) -> None:
        for rule in expansion.all(making.rules):
            was = expansion.earlier(making.made, thing.id)
            if was is not None and was.rule == rule.id:
                expansion.put(_except(expansion.all(LINES), rule, {*rule.without, thing.line}))

    return detached


def _maker_of(making: _Making) -> Callable[[Expansion, Any], str]:
    return lambda expansion, thing: f" {expansion.get(making.rules, thing.rule or '').name}"


#: What runs by rule are like.
RUNS_BY_RULE: Final = Step(
    name="rule",
    kind=RUNS,
    concerns=lambda run: run.rule is not None,
    follows=lambda _, run: ((run.rule, None),),
    derive=_run_derived,
    where="rule",
    detached=_detached_from(_MAKINGS[0]),
    maker=_maker_of(_MAKINGS[0]),
)
#: What rows by rule are like.
ROWS_BY_RULE: Final = Step(
    name="row rule",
    kind=ROWS,
    concerns=lambda row: row.rule is not None,
    follows=_row_follows,
    derive=_row_derived,
    where="rule",
    detached=_detached_from(_MAKINGS[1]),
    maker=_maker_of(_MAKINGS[1]),
)
