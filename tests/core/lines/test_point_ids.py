"""Numbers of points: they stay with their points whatever is done to a line, and are given once."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits import apply, apply_all
from slow_ribbon.core.job.edits.lines import AddLines
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.job.job_file import job_from_text, job_to_text
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.model import Line, line_body
from slow_ribbon.core.lines.point_ids import point_ids

read = TypeAdapter(AnyEdit).validate_python
#: An eight, which comes by its middle twice: two of its points lie in one place.
EIGHT = [(0, 0, 0), (3000, 0, 0), (1500, 1500, 0), (0, 3000, 0), (3000, 3000, 0), (1500, 1500, 0)]
BENT = [(0, 0, 0), (4000, 0, 0), (4000, 3000, 0), (7000, 3500, 0), (9000, 1000, 500)]


def job_of(points: list[tuple[int, int, int]], closed: bool) -> Job:
    return apply(Job(name="Points"), AddLines(lines=(line_body(points, closed, "Line"),)))


def places(line: Line) -> dict[int, tuple[float, ...]]:
    return dict(zip(point_ids(line), (tuple(place) for place in line.points().tolist()), strict=True))


def moves(line: Line, data: st.DataObject) -> dict[str, Any]:
    """Return an edit that moves no point, drawn for a line as it is."""
    point = st.sampled_from(point_ids(line))
    at = st.integers(10, 8000)
    return data.draw(
        st.one_of(
            st.fixed_dictionaries({"kind": st.just("insert_vertex"), "after": point, "at": st.tuples(at, at, st.just(0))}),
            st.fixed_dictionaries({"kind": st.just("remove_vertex"), "point": point}),
            st.fixed_dictionaries({"kind": st.just("start_line_at"), "at": at}),
            st.fixed_dictionaries({"kind": st.just("split_line"), "at": at}),
            st.fixed_dictionaries({"kind": st.just("set_closed"), "closed": st.booleans()}),
            st.fixed_dictionaries({"kind": st.just("round_corners"), "points": st.tuples(point), "radius": st.integers(20, 90)}),
            st.fixed_dictionaries({"kind": st.just("simplify_lines"), "tolerance": st.just(5.0)}),
            st.just({"kind": "reverse_lines"}),
        )
    )


@given(st.booleans(), st.sampled_from([EIGHT, BENT]), st.data())
def test_a_number_stays_with_its_point_and_is_never_given_again(
    closed: bool, points: list[tuple[int, int, int]], data: st.DataObject
) -> None:
    job = job_of(points, closed)
    given: dict[int, tuple[float, ...]] = places(job.line("L1"))
    #: Which of two points in one place is which is told by its neighbours.
    for _ in range(data.draw(st.integers(1, 6))):
        edit = moves(job.line("L1"), data)
        of = {"lines": ("L1",)} if edit["kind"] in ("reverse_lines", "simplify_lines") else {"line": "L1"}
        before = job.line("L1")
        try:
            job = apply(job, read({**edit, **of}))
        except Refused:
            continue
        for line in job.lines:
            for id, place in places(line).items():
                assert given.setdefault(id, place) == pytest.approx(place, abs=1e-6), edit
        line = job.line("L1")
        assert len(set(point_ids(line))) == len(point_ids(line))
        if edit["kind"] == "remove_vertex":
            assert set(point_ids(line)) == set(point_ids(before)) - {edit["point"]}
        if edit["kind"] == "reverse_lines":
            assert set(point_ids(line)) == set(point_ids(before))
            # The same two beside each other, even where two points lie in one place.
            assert _neighbours(line) == _neighbours(before)
        assert job_from_text(job_to_text(job)) == job
        # The parts of a line that was split are two lines from there on.
        job = job.model_copy(update={"lines": (job.line("L1"),)})


def _neighbours(line: Line) -> set[frozenset[int]]:
    ids = point_ids(line)
    pairs = zip(ids, (*ids[1:], *ids[:1]), strict=True)
    return {frozenset(pair) for pair in (pairs if line.closed else list(pairs)[:-1])}


@given(st.sampled_from([900, 4000, 5500]), st.booleans())
def test_a_line_split_and_joined_again_numbers_each_point_once(at: int, turned: bool) -> None:
    job = apply(job_of(BENT, False), read({"kind": "split_line", "line": "L1", "at": at}))
    other = job.lines[1].id
    if turned:
        job = apply(job, read({"kind": "reverse_lines", "lines": [other]}))
    for lines in (["L1", other], [other, "L1"]):
        joined = apply(job, read({"kind": "join_lines", "lines": lines})).lines[0]
        assert len(set(point_ids(joined))) == len(point_ids(joined)) == len(joined.points())
        # What kept its name kept its numbers.
        kept = places(job.line(joined.id))
        assert {id: places(joined)[id] for id in kept} == kept


def test_what_follows_keeps_its_points_when_a_point_comes_into_the_line_it_follows() -> None:
    job = apply(
        job_of(BENT, False), read({"kind": "add_made", "name": "Beside", "made": {"kind": "offset", "line": "L1", "distance": 200}})
    )
    before = places(job.lines[1])
    # In the middle of a straight: nothing of the line beside it moves.
    job = apply(job, read({"kind": "insert_vertex", "line": "L1", "after": 0, "at": [2000, 0, 0]}))
    after = places(job.lines[1])
    assert {id: after[id] for id in before} == before
    assert len(after) == len(before) + 1


def test_a_formula_stays_with_its_point() -> None:
    edits = [
        {"kind": "set_measures", "measures": [{"name": "bay", "text": "900"}]},
        {"kind": "bind", "formula": {"thing": "L1", "field": "points.3.0", "text": "8 * bay"}},
        {"kind": "insert_vertex", "line": "L1", "after": 1, "at": [4000, 1000, 0]},
        {"kind": "remove_vertex", "line": "L1", "point": 0},
        {"kind": "reverse_lines", "lines": ["L1"]},
        {"kind": "set_measures", "measures": [{"was": "bay", "text": "950"}]},
    ]
    job = apply_all(job_of(BENT, False), [read(edit) for edit in edits]).job
    assert places(job.line("L1"))[3] == (7600, 3500, 0)
    gone = apply_all(job, [read({"kind": "remove_vertex", "line": "L1", "point": 3})])
    assert not gone.job.formulas
    assert any("no longer follows 8 * bay" in notice for notice in gone.notices)


@pytest.mark.parametrize(
    "numbers", [{"point_ids": [0, 1]}, {"point_ids": [0, 1, 1, 2, 3], "next_point": 9}, {"point_ids": [0, 1, 2, 3, 9], "next_point": 9}]
)
def test_numbers_that_are_not_one_for_each_point_are_refused(numbers: dict[str, Any]) -> None:
    body = line_body(BENT, False, "Line").model_dump() | numbers
    with pytest.raises(Refused, match="leave out point_ids and next_point"):
        apply(Job(name="Points"), read({"kind": "add_lines", "lines": [body]}))
