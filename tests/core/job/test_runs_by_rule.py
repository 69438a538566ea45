"""Runs by rule: on every line of a layer, group or name, those that come later too, with exceptions by hand."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRule, AddSection, RuleChanges, RunChanges, SetGroup, SetRule, SetRun, apply, apply_all
from slow_ribbon.core.job.edits.lines import LineChanges, SetLine
from slow_ribbon.core.job.edits.removal import Remove
from slow_ribbon.core.job.edits.runs import PlacingChanges, SetPlacing
from slow_ribbon.core.job.edits.split_join import ReverseLines, SplitLine
from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.lines import LineBody, LinesBy, line_body
from slow_ribbon.core.lines.model import Source
from slow_ribbon.core.runs import Placing, RunRuleBody
from slow_ribbon.core.runs.placement.placing import FacingRoom
from slow_ribbon.core.sections.library import from_library
from slow_ribbon.core.solve import solve


def wall(name: str, at: float, layer: str = "") -> LineBody:
    body = line_body([(0, at, 0), (3000, at, 0)], False, name)
    return body.model_copy(update={"source": Source(file="plan.dxf", content="0" * 64, layer=layer)}) if layer else body


def ruled(by: LinesBy, *lines: LineBody, placing: Placing | None = None) -> Job:
    """Return a job with lines, two sections and a rule for the first; ids go on from 3 and the rule's after its lines'."""
    rule = RunRuleBody(name="Skirting", lines=by, section="S1", placing=placing or Placing())
    sections = [AddSection(section=from_library(key)) for key in ("skirting-chamfered", "picture-rail")]
    return apply_all(Job(name="Job"), [*sections, AddLines(lines=lines), AddRule(rule=rule)]).job


def on(job: Job) -> set[str]:
    """Return the names of the lines that have a run by rule."""
    return {job.line(run.line).name for run in job.runs if run.rule is not None}


def test_every_line_of_a_layer_has_its_run_those_that_come_later_too() -> None:
    job = ruled(LinesBy(kind="layer", words="WALLS"), wall("A", 0, "WALLS"), wall("B", 1000, "DOORS"))
    assert on(job) == {"A"}
    job = apply(job, AddLines(lines=(wall("C", 2000, "WALLS"), wall("D", 3000))))
    assert on(job) == {"A", "C"}
    assert {run.section for run in job.runs} == {"S1"}
    # Split, both parts have one; gone, its run is gone.
    job = apply(job, SplitLine(line=job.lines[0].id, at=1000))
    assert len(job.runs) == 3
    job = apply(job, Remove(ids=(next(line.id for line in job.lines if line.name == "C"),), with_dependents=True))
    assert len(job.runs) == 2
    assert job.rules[0].without == ()


def test_groups_and_names_say_which_lines_whatever_becomes_of_them() -> None:
    job = ruled(LinesBy(kind="group", words="Hall"), wall("A", 0), wall("B", 1000))
    assert on(job) == set()
    job = apply(job, SetGroup(ids=("L3", "L4"), group="Hall"))
    assert on(job) == {"A", "B"}
    job = apply(job, SetGroup(ids=("L4",), group=""))
    assert on(job) == {"A"}
    job = apply(job, SetRule(rule="U5", changes=RuleChanges(lines=LinesBy(kind="name", words="b"))))
    assert on(job) == {"B"}
    job = apply(job, SetLine(line="L3", changes=LineChanges(name="A bay")))
    assert on(job) == {"A bay", "B"}


def test_a_change_of_the_rule_changes_its_runs_and_a_change_by_hand_makes_an_exception() -> None:
    job = ruled(LinesBy(kind="name", words="wall"), wall("Wall 1", 0), wall("Wall 2", 1000), wall("Wall 3", 2000))
    runs = {job.line(run.line).name: run.id for run in job.runs}
    job = apply(job, SetRule(rule="U6", changes=RuleChanges(section="S2", placing=PlacingChanges(lift=900))))
    assert {(run.section, run.placing.lift) for run in job.runs} == {("S2", 900.0)}
    assert {run.id for run in job.runs} == set(runs.values())
    # A name and a tag are its own.
    job = apply(job, SetRun(run=runs["Wall 1"], changes=RunChanges(name="By the door", tag="XX")))
    assert job.rules[0].without == ()
    made = apply_all(job, [SetPlacing(runs=(runs["Wall 2"],), changes=PlacingChanges(lift=1000))])
    assert any("no longer follows" in notice for notice in made.notices)
    job = apply(made.job, Remove(ids=(runs["Wall 3"],)))
    assert on(job) == {"Wall 1"}
    assert {job.line(id).name for id in job.rules[0].without} == {"Wall 2", "Wall 3"}
    # What is left out stays as it is, and comes back when the rule is set so.
    job = apply(job, SetRule(rule="U6", changes=RuleChanges(openings="pass")))
    assert {run.id: run.openings for run in job.runs} == {runs["Wall 1"]: "pass", runs["Wall 2"]: "break"}
    job = apply(job, SetRule(rule="U6", changes=RuleChanges(without=(job.run(runs["Wall 2"]).line,))))
    assert on(job) == {"Wall 1", "Wall 3"}
    # Without the rule its runs stay.
    job = apply(job, Remove(ids=("U6",)))
    assert (len(job.runs), on(job)) == (3, set())
    with pytest.raises(Refused) as refused:
        apply(job, SetRule(rule="U6", changes=RuleChanges(name="Gone")))
    assert refused.value.code == "unknown-id"


def test_runs_by_rule_face_into_the_room_that_their_lines_bound_together() -> None:
    lines = (
        line_body([(0, 0, 0), (4000, 0, 0), (4000, 3000, 0)], False, "Wall 1"),
        line_body([(0, 3000, 0), (0, 500, 0)], False, "Wall 2"),
    )
    job = ruled(LinesBy(kind="name", words="wall"), *lines, placing=Placing(facing=FacingRoom()))
    for _ in range(2):
        solved = solve(job)
        middles = []
        for run in job.runs:
            course, right = solved.runs[run.id].course, solved.runs[run.id].cuts.placed.right
            middles.append((course.starts + course.ends)[0] / 2 + course.rights[0] * (50 if right else -50))
        assert all(0 < x < 4000 and 0 < y < 3000 for x, y, _ in middles)
        assert on(job) == {"Wall 1", "Wall 2"}
        job = apply(job, ReverseLines(lines=(job.lines[1].id,)))
    # A line that bounds no room with the others comes all the same, and that is reported.
    made = apply_all(job, [AddLines(lines=(line_body([(2000, -500, 0), (2000, 9000, 0)], False, "Wall 3"),))])
    assert on(made.job) == {"Wall 1", "Wall 2", "Wall 3"}
    assert any("keeps facing" in notice for notice in made.notices)


@given(st.lists(st.tuples(st.sampled_from(["add", "remove", "rename"]), st.integers(0, 5)), max_size=12))
def test_whatever_is_done_to_lines_those_of_the_rule_have_a_run_and_no_others(acts: list[tuple[str, int]]) -> None:
    job = ruled(LinesBy(kind="name", words="wall"), wall("Wall", 0))
    for count, (act, number) in enumerate(acts):
        if act == "add" or not job.lines:
            job = apply(job, AddLines(lines=(wall("Wall" if number % 2 else "Edge", 1000.0 * count),)))
        elif act == "remove":
            job = apply(job, Remove(ids=(job.lines[number % len(job.lines)].id,), with_dependents=True))
        else:
            line = job.lines[number % len(job.lines)]
            job = apply(job, SetLine(line=line.id, changes=LineChanges(name="Edge" if line.name == "Wall" else "Wall")))
        assert sorted(run.line for run in job.runs) == sorted(line.id for line in job.lines if line.name == "Wall")
