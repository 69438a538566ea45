"""Two hands at one job: what each says comes out as it saw it, or is refused; what only follows collides with nothing."""

from __future__ import annotations

from itertools import product
from typing import Any

import numpy as np
import pytest
from examples import examples
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from slow_ribbon.core.job import Job, changed_fields, overlap
from slow_ribbon.core.job.edits import apply, comes_elsewhere, said_by
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.sections.library import from_library
from slow_ribbon.core.solve import solve

read = TypeAdapter(AnyEdit).validate_python


def straight(*ends: tuple[float, float]) -> list[dict[str, Any]]:
    return [{"kind": "straight", "to": [*end, 0]} for end in ends]


def job() -> Job:
    """A wall with a corner, a door and a mark; a closed room; runs, rows and a line beside, which follow them; a rule; a measure."""
    wall = {"name": "Wall", "start": [0, 0, 0], "legs": straight((4000, 0), (4000, 3000), (7000, 3500))}
    room = {"name": "Room", "start": [0, 9000, 0], "legs": straight((5000, 9000), (5000, 13_000), (0, 12_000), (0, 9000)), "closed": True}
    other = {"name": "Other", "start": [7000, 3500, 0], "legs": straight((9000, 3500))}
    edits: list[dict[str, Any]] = [
        {"kind": "add_lines", "lines": [wall, room, other]},
        {"kind": "add_section", "section": from_library("skirting-chamfered").model_dump()},
        {"kind": "add_openings", "line": "L1", "openings": [{"name": "Door", "at": 1000, "width": 900}]},
        {"kind": "add_marks", "line": "L1", "marks": [{"name": "Axis", "at": 5000}]},
        {"kind": "add_runs", "section": "S4", "lines": ["L1", "L2"]},
        {"kind": "set_run", "run": "R7", "changes": {"joints": {"bars": [2500]}}},
        {"kind": "add_row", "row": POSTS},
        {"kind": "add_made", "name": "Beside", "made": {"kind": "offset", "line": "L1", "distance": 300}},
        {"kind": "set_measures", "measures": [{"name": "bay", "text": "900"}, {"name": "lift", "text": "12"}]},
        {"kind": "bind", "formula": {"thing": "R8", "field": "placing.lift", "text": "lift"}},
    ]
    made = Job(name="Two hands")
    for edit in edits:
        made = apply(made, read(edit))
    return made


POSTS = {
    "name": "Post",
    "line": "L1",
    "item": {"kind": "round", "diameter": 60, "height": 900},
    "spacing": {"rule": {"kind": "fixed-centres", "centres": 700}, "inset_start": 150},
}
JOB = job()
RUN, RING = JOB.runs[0].id, JOB.runs[1].id
ROW = JOB.rows[0].id
DOOR, AXIS = JOB.line("L1").openings[0].id, JOB.line("L1").marks[0].id
BESIDE = JOB.lines[-1].id
#: One edit at least of every kind that can be made to lines, and to what stands on them.
EDITS: list[dict[str, Any]] = [
    {"kind": "move_vertex", "line": "L1", "point": 1, "to": [4100, 50, None]},
    {"kind": "move_vertex", "line": "L1", "point": 3, "to": [7000, 3700, None]},
    {"kind": "insert_vertex", "line": "L1", "after": 0, "at": [2500, 400, 0]},
    {"kind": "insert_vertex", "line": "L1", "after": 2, "at": [5500, 3000, 0]},
    {"kind": "remove_vertex", "line": "L1", "point": 1},
    {"kind": "set_closed", "line": "L1", "closed": True},
    {"kind": "set_closed", "line": "L2", "closed": False},
    {"kind": "round_corners", "line": "L1", "points": [2], "radius": 400},
    {"kind": "round_corners", "line": "L2", "points": [0], "radius": 400},
    {"kind": "set_leg", "line": "L1", "leg": 1, "changes": {"kind": "arc", "via": [4400, 1500, 0]}},
    {"kind": "bend_leg", "line": "L1", "leg": 0, "radius": 9000, "side": "left"},
    {"kind": "add_openings", "line": "L1", "openings": [{"name": "Hatch", "at": 5200, "width": 400}]},
    {"kind": "set_opening", "line": "L1", "opening": DOOR, "changes": {"width": 1000}},
    {"kind": "set_opening", "line": "L1", "opening": DOOR, "changes": {"at": 1200}},
    {"kind": "remove_openings", "line": "L1", "openings": [DOOR]},
    {"kind": "add_marks", "line": "L1", "marks": [{"name": "End", "at": 6000}]},
    {"kind": "set_mark", "line": "L1", "mark": AXIS, "changes": {"at": 5100}},
    {"kind": "remove_marks", "line": "L1", "marks": [AXIS]},
    {"kind": "split_line", "line": "L1", "at": 6000},
    {"kind": "split_line", "line": "L2", "at": 6000},
    {"kind": "join_lines", "lines": ["L1", "L3"]},
    {"kind": "reverse_lines", "lines": ["L1"]},
    {"kind": "reverse_lines", "lines": ["L2"]},
    {"kind": "start_line_at", "line": "L2", "at": 5000},
    {"kind": "start_line_at", "line": "L2", "at": 2500},
    {"kind": "mirror_lines", "lines": ["L1"], "a": [0, 0, 0], "b": [0, 1, 0], "copies": False},
    {"kind": "copy_lines", "lines": ["L1"], "by": [0, -2000, 0], "copies": False},
    {"kind": "copy_lines", "lines": ["L1"], "by": [0, -2000, 0], "copies": True},
    {"kind": "add_made", "name": "Aside", "made": {"kind": "offset", "line": "L1", "distance": -250}},
    {"kind": "set_made", "line": BESIDE, "changes": {"distance": 350}},
    {"kind": "set_line", "line": "L1", "changes": {"wall": {"height": 2400, "thickness": 100, "side": "left"}}},
    {"kind": "set_line", "line": "L1", "changes": {"name": "North wall"}},
    {"kind": "rename_job", "name": "Other"},
    {"kind": "set_measures", "measures": [{"was": "bay", "text": "950"}]},
    {"kind": "set_measures", "measures": [{"was": "lift", "text": "15"}]},
    {"kind": "bind", "formula": {"thing": "L1", "field": "points.3.0", "text": "8 * bay"}},
    {"kind": "bind", "formula": {"thing": ROW, "field": "spacing.inset_end", "text": "bay / 4"}},
    {"kind": "set_section", "section": "S4", "changes": {"height": 150}},
    {"kind": "add_section", "section": from_library("picture-rail").model_dump()},
    {"kind": "add_runs", "section": "S4", "lines": ["L1"], "placing": {"lift": 500}},
    {"kind": "set_placing", "runs": [RUN], "changes": {"facing": {"kind": "left"}}},
    {"kind": "set_placing", "runs": [RING], "changes": {"facing": {"kind": "left"}}},
    {"kind": "set_placing", "runs": [RUN], "changes": {"stand_off": 10}},
    {"kind": "set_placing", "runs": [RUN], "changes": {"lift": 40}},
    {"kind": "set_run", "run": RUN, "changes": {"first_end": {"kind": "angled", "turn": 30}}},
    {"kind": "set_run", "run": RUN, "changes": {"last_end": {"kind": "returned"}}},
    {"kind": "set_run", "run": RUN, "changes": {"joints": {"bars": [2100]}}},
    {"kind": "set_run", "run": RUN, "changes": {"joints": {"at": [2500, 4800]}}},
    {"kind": "set_run", "run": RING, "changes": {"joints": {"bars": [4200], "at": [2000, 7000]}}},
    {"kind": "set_run", "run": RUN, "changes": {"corners": {"kind": "butt", "through": "after"}}},
    {"kind": "set_run", "run": RUN, "changes": {"stretches": [{"after": DOOR, "before": None}]}},
    {"kind": "set_run", "run": RUN, "changes": {"name": "Skirting 2"}},
    {"kind": "set_corners", "run": RUN, "points": [1], "changes": {"kind": "gap", "gap": 8}},
    {"kind": "set_corners", "run": RUN, "points": [2], "changes": {"kind": "gap", "gap": 4}},
    {"kind": "set_corners", "run": RING, "points": [3], "changes": {"kind": "gap", "gap": 4}},
    {"kind": "give_settings", "run": RING, "runs": [RUN]},
    {"kind": "number_anew", "runs": [RUN]},
    {"kind": "set_note", "run": RUN, "numbers": [2], "text": "by the door"},
    {"kind": "add_row", "row": {**POSTS, "name": "Lamp", "line": "L2"}},
    {"kind": "set_row", "row": ROW, "changes": {"spacing": {"inset_start": 300}}},
    {"kind": "set_row", "row": ROW, "changes": {"spacing": {"rule": {"centres": 650}}}},
    {"kind": "set_row", "row": ROW, "changes": {"item": {"height": 1000}}},
    {"kind": "set_row", "row": ROW, "changes": {"stand_off": 60}},
    {"kind": "set_group", "ids": [RUN], "group": "Hall"},
    {"kind": "remove", "ids": [ROW]},
]


def name(edit: dict[str, Any]) -> str:
    return f"{edit['kind']} {edit.get('line') or edit.get('run') or edit.get('row') or ''} {str(edit.get('changes', ''))[:40]}"


def made(job: Job, edit: dict[str, Any]) -> Job | None:
    try:
        return apply(job, read(edit))
    except Refused:
        return None


def carried_on(mine: Job, edit: dict[str, Any], theirs: Job) -> bool:
    """Return whether an edit, which makes one state of the job, is made in another too: as the service decides."""
    own = changed_fields(JOB, mine) | said_by(JOB, [read(edit)])
    return not overlap(own, changed_fields(JOB, theirs)) and not comes_elsewhere(JOB, theirs, [read(edit)])


def substance(job: Job) -> list[tuple[float, ...]]:
    """Where everything is, and how it ends, by name: nothing of ids, numbers or the way that lines go."""
    solved = solve(job)
    found: list[tuple[Any, ...]] = []
    for run in solved.runs.values():
        vertices, cuts = run.solid().vertices + run.origin, run.cuts
        middle = np.average(vertices, axis=0)
        found.append((*middle, *np.ptp(vertices, axis=0), float(cuts.volumes.sum()), *sorted(cuts.long_points), *sorted(cuts.volumes)))
    for row in solved.rows.values():
        places = row.out.positions
        found.append((*places.mean(axis=0), *places.min(axis=0), len(places), job.row(row.id).item.height))
    found += [(opening.width,) for line in job.lines for opening in line.openings]
    return sorted(tuple(round(float(figure), 1) + 0.0 for figure in one) for one in found)


@pytest.mark.parametrize("edit", EDITS, ids=name)
def test_nothing_that_only_follows_is_touched(edit: dict[str, Any]) -> None:
    """What an edit touches is what it changes by itself; what is brought after it besides stops following, or goes, and nothing else."""
    wanted = read(edit)
    by_itself, whole = changed_fields(JOB, wanted.apply(JOB)), changed_fields(JOB, apply(JOB, wanted))
    more = {path for path in whole - by_itself if not overlap([path], by_itself)}
    assert {path.rpartition(".")[2] for path in more} <= {"made", "rule"}, more


def test_edits_of_different_things_are_carried_on() -> None:
    """An opening on a line, and the joints of the run along it."""
    opening = {"kind": "add_openings", "line": "L1", "openings": [{"name": "Hatch", "at": 5200, "width": 400}]}
    joints = {"kind": "set_run", "run": RUN, "changes": {"joints": {"bars": [2100]}}}
    for first, second in ((opening, joints), (joints, opening)):
        theirs, mine = apply(JOB, read(first)), apply(JOB, read(second))
        assert not overlap(changed_fields(JOB, mine), changed_fields(JOB, theirs))
        assert not comes_elsewhere(JOB, theirs, [read(second)])


PAIRS = [(first, second) for first, second in product(range(len(EDITS)), repeat=2) if first != second]


@settings(max_examples=examples(150))
@given(st.sampled_from(PAIRS))
def test_two_edits_come_out_as_they_were_seen_or_one_is_refused(pair: tuple[int, int]) -> None:
    first, second = (EDITS[number] for number in pair)
    theirs, mine = made(JOB, first), made(JOB, second)
    assume(theirs is not None and mine is not None)
    assert theirs is not None
    assert mine is not None
    assume(carried_on(mine, second, theirs) and carried_on(theirs, first, mine))
    carried = made(theirs, second)
    # The other way round: what the first hand did, done to what the second hand saw.
    turned = made(mine, first)
    assume(carried is not None and turned is not None)
    assert carried is not None
    assert turned is not None
    assert substance(carried) == substance(turned), (first, second)


def test_what_names_a_place_is_not_carried_to_another() -> None:
    reversed_ = apply(JOB, read({"kind": "reverse_lines", "lines": ["L1"]}))
    longer = apply(JOB, read({"kind": "insert_vertex", "line": "L1", "after": 0, "at": [2500, 400, 0]}))
    removed = apply(JOB, read({"kind": "remove_vertex", "line": "L1", "point": 1}))
    elsewhere = [
        (reversed_, {"kind": "set_run", "run": RUN, "changes": {"first_end": {"kind": "plumb"}}}),
        (reversed_, {"kind": "set_placing", "runs": [RUN], "changes": {"facing": {"kind": "left"}}}),
        (removed, {"kind": "set_corners", "run": RUN, "points": [1], "changes": {"kind": "gap"}}),
        (reversed_, {"kind": "set_corners", "run": RUN, "points": [1], "changes": {"kind": "butt"}}),
        (longer, {"kind": "bend_leg", "line": "L1", "leg": 0, "radius": 9000}),
        (reversed_, {"kind": "bend_leg", "line": "L1", "leg": 1, "radius": 9000, "side": "left"}),
    ]
    for now, edit in elsewhere:
        assert comes_elsewhere(JOB, now, [read(edit)]), edit
    assert not comes_elsewhere(JOB, longer, [read({"kind": "set_placing", "runs": [RUN], "changes": {"facing": {"kind": "left"}}})])


@pytest.mark.parametrize(
    "mine",
    [
        {"kind": "set_corners", "run": RUN, "points": [1], "changes": {"kind": "gap"}},
        {"kind": "move_vertex", "line": "L1", "point": 2, "to": [None, 3100, None]},
        {"kind": "round_corners", "line": "L1", "points": [2], "radius": 400},
        {"kind": "set_leg", "line": "L1", "leg": 2, "changes": {"kind": "arc", "via": [2500, 3600, 0]}},
        {"kind": "remove_vertex", "line": "L1", "point": 2},
        {"kind": "bind", "formula": {"thing": "L1", "field": "points.3.0", "text": "8 * bay"}},
    ],
    ids=lambda edit: edit["kind"],
)
def test_what_is_done_at_a_point_is_carried_past_a_point_that_another_hand_put_in(mine: dict[str, Any]) -> None:
    """To the same place, by where things are: the other's point stays, and the lines are the same in either order."""
    theirs = {"kind": "insert_vertex", "line": "L1", "after": 0, "at": [2500, 400, 0]}
    longer, seen = apply(JOB, read(theirs)), apply(JOB, read(mine))
    assert carried_on(seen, mine, longer)
    carried, turned = apply(longer, read(mine)), apply(seen, read(theirs))
    assert carried.line("L1").points().tolist() == turned.line("L1").points().tolist()
    assert carried.line("L1").legs == turned.line("L1").legs
    assert substance(carried) == substance(turned)
    assert {tuple(place) for place in longer.line("L1").points().tolist()} - {tuple(map(float, (2500, 400, 0)))} == {
        tuple(place) for place in JOB.line("L1").points().tolist()
    }
