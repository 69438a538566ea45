"""Rows by rule: items along every line of a layer, group or name as they are along one, with exceptions by hand."""

from __future__ import annotations

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.document.following_fields import written_job
from slow_ribbon.core.job.edits import AddLines, AddRow, AnyEdit, SetGroup, apply, apply_all
from slow_ribbon.core.job.edits.lines import LineChanges, SetLine
from slow_ribbon.core.job.edits.removal import Remove
from slow_ribbon.core.job.job_file import job_from_document
from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.lines import LineBody, line_body
from slow_ribbon.core.rows import RowBody
from slow_ribbon.core.solve import solve

read_edit = TypeAdapter(AnyEdit).validate_python


def edge(name: str, at: float) -> LineBody:
    return line_body([(0, at, 0), (3000, at, 0), (3000, at + 900, 0)], False, name)


def ruled(*lines: LineBody, words: str = "edge", **fields: object) -> Job:
    """Return a job with lines, posts along the first, and a rule that sets them out along every line that has some words in its name."""
    spacing = {"rule": {"kind": "equal-bays", "most": 700}}
    row = RowBody.model_validate({"name": "Posts", "line": "L1", "item": {"kind": "box", "height": 900}, "spacing": spacing} | fields)
    job = apply_all(Job(name="Job"), [AddLines(lines=lines), AddRow(row=row)]).job
    rule = {"name": "Posts", "lines": {"kind": "name", "words": words}, "row": job.rows[0].id}
    return apply(job, read_edit({"kind": "add_row_rule", "rule": rule}))


def on(job: Job) -> list[str]:
    """Return the names of the lines that have a row by rule."""
    return sorted(job.line(row.line).name for row in job.rows if row.rule is not None)


def change(job: Job, number: int, **changes: object) -> Job:
    return apply(job, read_edit({"kind": "set_row", "row": job.rows[number].id, "changes": changes}))


def test_items_stand_along_each_line_as_along_the_first_and_follow_every_change_of_it() -> None:
    job = ruled(edge("Edge 1", 0), edge("Edge 2", 2500), edge("Kerb", 9000))
    assert on(job) == ["Edge 2"]
    job = apply(job, AddLines(lines=(edge("Edge 3", 5000),)))
    assert on(job) == ["Edge 2", "Edge 3"]
    for changes in ({}, {"spacing": {"rule": {"kind": "set-number", "number": 5}}}, {"lift": 40, "turn": {"kind": "line", "by": 30}}):
        job = change(job, 0, **changes) if changes else job
        rows = solve(job).rows
        first, *others = (rows[row.id].out for row in job.rows)
        for other, north in zip(others, (2500, 5000), strict=True):
            # As they stand along the first, moved as its line is moved to the other.
            assert np.allclose(other.positions, first.positions + np.array([0, north, 0]))
            assert np.allclose(other.headings, first.headings)
    # The document says of a row by rule only what is its own, and is read with the rest.
    document = json.loads(written_job(job))
    assert set(document["rows"][1]) <= {"id", "tag", "rule", "name", "line", "group", "held", "from_mark", "to_mark"}
    assert job_from_document(document) == job


def test_what_is_changed_or_removed_by_hand_is_an_exception_and_comes_back_by_the_rule() -> None:
    job = ruled(edge("Edge 1", 0), edge("Edge 2", 2500), edge("Edge 3", 5000))
    job = change(job, 1, name="By the gate", tag="G")
    assert on(job) == ["Edge 2", "Edge 3"]
    made = apply_all(job, [read_edit({"kind": "set_row", "row": job.rows[1].id, "changes": {"lift": 100}})])
    assert any("no longer follows" in notice for notice in made.notices)
    job = apply(made.job, Remove(ids=(made.job.rows[2].id,)))
    assert on(job) == []
    rule = job.row_rules[0]
    assert {job.line(id).name for id in rule.without} == {"Edge 2", "Edge 3"}
    by_hand = job.rows[1].line
    job = apply(job, read_edit({"kind": "set_row_rule", "rule": rule.id, "changes": {"without": [by_hand]}}))
    assert on(job) == ["Edge 3"]
    # The row that others are like goes only with the rule; then they stay as they are.
    with pytest.raises(Refused, match="Still in use by Posts"):
        apply(job, Remove(ids=(job.rows[0].id,)))
    left = apply(job, Remove(ids=(job.rows[0].id,), with_dependents=True))
    assert (left.row_rules, [row.rule for row in left.rows]) == ((), [None, None])
    assert left.rows[1].spacing == job.rows[0].spacing


def test_rows_by_rule_keep_clear_of_what_the_first_does_but_not_of_their_own_line() -> None:
    job = ruled(edge("Edge 1", 0), edge("Edge 2", 2500), line_body([(1500, -500, 0), (1500, 9000, 0)], False, "Path"))
    every = [row.out.count for row in solve(job).rows.values()]
    path, second = job.lines[2].id, job.lines[1].id
    job = change(job, 0, clear_of=[{"of": path, "by": 400}, {"of": second, "by": 100}])
    assert [one.of for one in job.rows[1].clear_of] == [path]
    assert all(solve(job).rows[row.id].out.count <= count for row, count in zip(job.rows, every, strict=True))
    for row in solve(job).rows.values():
        assert not any(abs(x - 1500) < 400 for x, _, _ in row.out.positions)


@pytest.mark.parametrize("turned", [[0], [1], [0, 1], [1, 2], [0, 1, 2]])
@pytest.mark.parametrize("kind", ["reverse_lines", "mirror_lines"])
def test_rows_by_rule_stay_where_they_are_when_some_of_their_lines_are_turned(kind: str, turned: list[int]) -> None:
    spacing = {"rule": {"kind": "fixed-centres", "centres": 800}, "inset_start": 90}
    job = ruled(*(edge(f"Edge {n}", 2500 * n) for n in range(3)), spacing=spacing, stand_off=120, seat={"along": 20})
    across = {"a": (0, 0, 0), "b": (0, 1000, 0), "copies": False} if kind == "mirror_lines" else {}
    lines = [job.lines[number].id for number in turned]
    after = apply(job, read_edit({"kind": kind, "lines": lines, **across}))
    figures = [{row.line: solve(one).rows[row.id].out.positions for row in one.rows} for one in (job, after)]
    for line, positions in figures[0].items():
        mirrored = kind == "mirror_lines" and line in lines
        expected = positions * ([-1, 1, 1] if mirrored else 1)
        found = figures[1][line]
        assert np.allclose(found[np.lexsort(found.T)], expected[np.lexsort(expected.T)])
    # Those on lines that were not turned are alike from then on as well.
    if len(turned) == 1:
        first = next(row for row in after.rows if row.id == after.row_rules[0].row)
        after = change(after, after.rows.index(first), lift=70)
        assert sorted(row.lift for row in after.rows) == [0, 70, 70]


def test_a_field_by_rule_fills_closed_lines_alone_and_what_cannot_be_by_rule_is_refused() -> None:
    bed = line_body([(0, 0, 0), (3000, 0, 0), (3000, 2000, 0)], True, "Edge 1")
    job = ruled(bed, edge("Edge 2", 2500), filling={"kind": "grid", "along": 500, "between": 500})
    assert on(job) == []
    job = apply(job, AddLines(lines=(bed.model_copy(update={"name": "Edge 3"}),)))
    assert on(job) == ["Edge 3"]
    assert len({row.out.count for row in solve(job).rows.values()}) == 1
    by_rule = job.rows[1].id
    with pytest.raises(Refused, match="made by a rule itself"):
        apply(job, read_edit({"kind": "add_row_rule", "rule": {"name": "More", "lines": {"kind": "name", "words": "x"}, "row": by_rule}}))
    typical = read_edit({"kind": "add_typical", "typical": {"name": "Gate", "lines": [job.lines[1].id]}})
    job = apply(change(job, 0, filling=None), typical)
    assert on(job) == ["Edge 2", "Edge 3"]
    with pytest.raises(Refused, match="stands where one row puts it"):
        change(job, 0, item={"kind": "typical", "of": job.typicals[0].id, "called": "Gate"})


@given(st.lists(st.tuples(st.sampled_from(["add", "remove", "rename", "group"]), st.integers(0, 5)), max_size=10))
def test_whatever_is_done_to_lines_those_of_the_rule_have_a_row_and_no_others(acts: list[tuple[str, int]]) -> None:
    job = ruled(edge("First", 0), edge("Edge", 2000))
    for number, (act, which) in enumerate(acts):
        others = job.lines[1:]
        if act == "add" or not others:
            job = apply(job, AddLines(lines=(edge("Edge" if which % 2 else "Kerb", 2000.0 * (number + 2)),)))
            continue
        line = others[which % len(others)]
        if act == "remove":
            job = apply(job, Remove(ids=(line.id,), with_dependents=True))
        elif act == "rename":
            job = apply(job, SetLine(line=line.id, changes=LineChanges(name="Kerb" if line.name == "Edge" else "Edge")))
        else:
            job = apply(job, SetGroup(ids=(line.id,), group="North"))
        assert sorted(row.line for row in job.rows[1:]) == sorted(line.id for line in job.lines if line.name == "Edge")
        assert {row.spacing for row in job.rows} == {job.rows[0].spacing}
