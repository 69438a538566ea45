"""Tags of pieces: they stay with a piece whatever is done elsewhere, a new piece gets a new one, and none is ever used for another."""

from __future__ import annotations

from typing import Any

import numpy as np
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from slow_ribbon.core.cutting import cutting_list
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.apply import apply_all
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.job.job_file import job_from_text, job_to_text
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.solve.solver import Solver, solve

read = TypeAdapter(AnyEdit).validate_python
POINTS = [(0, 0, 0), (3000, 0, 0), (3000, 2500, 0), (6500, 2500, 0), (6500, 6000, 0), (0, 6000, 0)]


def edited(job: Job, *edits: Any) -> Job:
    return apply_all(job, [read(edit) for edit in edits]).job


def job_of(closed: bool = False, **run: Any) -> Job:
    line = {"name": "Wall", "start": POINTS[0], "closed": closed, "legs": [{"kind": "straight", "to": to} for to in POINTS[1:]]}
    if closed:
        line["legs"].append({"kind": "straight", "to": POINTS[0]})  # type: ignore[attr-defined]  # a list of legs
    square = {"start": (0, 0), "edges": [{"kind": "straight", "to": to} for to in ((20, 0), (20, 100), (0, 100), (0, 0))]}
    section = {"name": "Board", "outline": square, "width": 20, "height": 100}
    return edited(
        Job(name="Room"),
        {"kind": "add_lines", "lines": [line]},
        {"kind": "add_section", "section": section},
        {"kind": "add_runs", "section": "S2", "lines": ["L1"], "name": "Board", **run},
    )


def tags(job: Job) -> list[str]:
    return list(solve(job).runs["R3"].tags)


def where(job: Job) -> dict[str, tuple[float, ...]]:
    """Return where each piece begins and ends, either way round, by its tag."""
    run = solve(job).runs["R3"]
    ends = [sorted([run.course.starts[i].round(3).tolist(), run.course.ends[i].round(3).tolist()]) for i in range(run.pieces)]
    return {tag: tuple(np.ravel(pair).tolist()) for tag, pair in zip(run.tags, ends, strict=True)}


def test_a_corner_put_in_renames_only_what_it_parts() -> None:
    job = job_of()
    assert tags(job) == ["B1", "B2", "B3", "B4", "B5"]
    parted = edited(job, {"kind": "insert_vertex", "line": "L1", "after": 2, "at": (4800, 1900, 0)})
    assert tags(parted) == ["B1", "B2", "B6", "B7", "B4", "B5"]
    # Taken out again it is one piece, which is neither of the two, nor what was there before.
    assert tags(edited(parted, {"kind": "remove_vertex", "line": "L1", "point": parted.line("L1").point_ids[3]})) == [
        "B1",
        "B2",
        "B8",
        "B4",
        "B5",
    ]
    # A corner moved changes two pieces, which stay what they are.
    assert tags(edited(parted, {"kind": "move_vertex", "line": "L1", "point": 1, "to": (3200, 0, 0)})) == tags(parted)
    # So do all of them when the whole is moved, turned about or started elsewhere.
    assert tags(edited(parted, {"kind": "reverse_lines", "lines": ["L1"]})) == tags(parted)[::-1]
    # And they are in the list, in the job's file, and the same however it is solved.
    assert [tag for row in cutting_list(solve(parted)) for tag in row.tags] == ["B1", "B2", "B6", "B7", "B4", "B5"]
    assert job_from_text(job_to_text(parted)) == parted
    assert list(Solver().solve(parted, solve(job)).runs["R3"].tags) == tags(parted)


def test_an_opening_parts_a_piece_and_leaves_the_others() -> None:
    job = job_of(closed=True)
    opened = edited(job, {"kind": "add_openings", "line": "L1", "openings": [{"name": "Door", "at": 3600, "width": 900}]})
    assert tags(opened) == ["B1", "B7", "B8", "B3", "B4", "B5", "B6"]
    more = edited(opened, {"kind": "add_openings", "line": "L1", "openings": [{"name": "Gate", "at": 1000, "width": 800}]})
    assert tags(more) == ["B9", "B10", "B7", "B8", "B3", "B4", "B5", "B6"]
    door = opened.lines[0].openings[0].id
    # A door that is moved along its wall is the same door, and what is beside it the same pieces.
    moved = edited(more, {"kind": "set_opening", "line": "L1", "opening": door, "changes": {"at": 3900}})
    assert tags(moved) == tags(more)


def test_joints_number_the_parts_of_the_piece_they_part() -> None:
    job = job_of(joints={"bars": [4200]})
    assert tags(job) == ["B1", "B2", "B3", "B4", "B5", "B6"]
    longer = edited(job, {"kind": "move_vertex", "line": "L1", "point": 5, "to": (-3000, 6000, 0)})
    # The last wall, now 9.5 m long, is of three parts instead of two.
    assert tags(longer) == ["B1", "B2", "B3", "B4", "B7", "B8", "B9"]
    shorter_bars = edited(job, {"kind": "set_run", "run": "R3", "changes": {"joints": {"bars": [3200]}}})
    assert tags(shorter_bars)[:2] == ["B1", "B2"]
    assert len(set(tags(shorter_bars))) == len(tags(shorter_bars))


def test_a_copy_is_numbered_by_itself() -> None:
    parted = edited(job_of(), {"kind": "insert_vertex", "line": "L1", "after": 0, "at": (1000, 200, 0)})
    assert tags(parted) == ["B6", "B7", "B2", "B3", "B4", "B5"]
    both = edited(parted, {"kind": "split_line", "line": "L1", "at": 4000})
    first, second = both.runs
    found = solve(both)
    # The part that keeps the name keeps what is left of its pieces; the other's are its own.
    assert found.runs[first.id].tags[:2] == ("B6", "B7")
    assert [tag[len(second.tag) :] for tag in found.runs[second.id].tags] == [str(i + 1) for i in range(found.runs[second.id].pieces)]


EDITS = st.lists(
    st.one_of(
        st.tuples(st.just("insert"), st.integers(0, 20), st.floats(0.2, 0.8), st.floats(-300, 300)),
        st.tuples(st.just("remove"), st.integers(0, 20)),
        st.tuples(st.just("move"), st.integers(0, 20), st.floats(-400, 400), st.floats(-400, 400)),
        st.tuples(st.just("reverse")),
        st.tuples(st.just("open"), st.floats(0.05, 0.9)),
        st.tuples(st.just("bars"), st.sampled_from([2600, 3300, 4200, 6000])),
        st.tuples(st.just("return"), st.booleans()),
    ),
    min_size=1,
    max_size=7,
)


@settings(max_examples=examples(60))
@given(EDITS, st.booleans())
def test_whatever_is_done_no_tag_is_of_two_pieces_and_what_stays_where_it_is_keeps_its_own(edits: Any, closed: bool) -> None:
    job = job_of(closed, joints={"bars": [4200]})
    #: The highest number that any piece has had.
    highest = 0
    for kind, *rest in edits:
        before = where(job)
        line = job.lines[0]
        count = len(line.points())
        points = line.points()
        made: dict[str, Any]
        if kind == "insert":
            leg = rest[0] % len(line.legs)
            a, b = points[leg], points[(leg + 1) % count]
            at = a + (b - a) * rest[1] + np.array([rest[2], rest[2], 0])
            made = {"kind": "insert_vertex", "line": "L1", "after": leg, "at": at.tolist()}
        elif kind == "remove":
            made = {"kind": "remove_vertex", "line": "L1", "point": rest[0] % count}
        elif kind == "move":
            index = rest[0] % count
            made = {"kind": "move_vertex", "line": "L1", "point": index, "to": (points[index] + [rest[1], rest[2], 0]).tolist()}
        elif kind == "reverse":
            made = {"kind": "reverse_lines", "lines": ["L1"]}
        elif kind == "open":
            length = float(solve(job).runs["R3"].course.length)
            made = {"kind": "add_openings", "line": "L1", "openings": [{"name": "Door", "at": rest[0] * length, "width": 500}]}
        elif kind == "bars":
            made = {"kind": "set_run", "run": "R3", "changes": {"joints": {"bars": [rest[0]]}}}
        else:
            made = {"kind": "set_run", "run": "R3", "changes": {"opening_ends": {"kind": "returned" if rest[0] else "square"}}}
        try:
            job = edited(job, made)
        except Refused:
            continue
        after = where(job)
        assert len(after) == solve(job).runs["R3"].pieces
        lies = {place: tag for tag, place in before.items()}
        highest = max([highest, *(int(tag[1:]) for tag in before)])
        for tag, place in after.items():
            if place in lies:
                assert tag == lies[place]
            elif tag not in before:
                assert int(tag[1:]) > highest
