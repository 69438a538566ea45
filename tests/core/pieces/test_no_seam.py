"""A closed line has no seam: its pieces are the same wherever it starts and whichever way it goes, with doors or without."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddOpenings, AddRuns, AddSection, RunChanges, SetRun, apply, apply_all
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.job.edits.split_join import JoinLines, ReverseLines, SplitLine, StartLineAt
from slow_ribbon.core.lines import ArcLeg, CurveLeg, LineBody, Opening, StraightLeg, course_of
from slow_ribbon.core.runs.pieces.curve_fabrication import curvature_of
from slow_ribbon.core.sections import SectionBody
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.solve import solve

CURVES: list[dict[str, Any]] = [
    {"kind": "bent"},
    {"kind": "faceted", "number": 5},
    {"kind": "faceted", "deviation": 4.0},
    {"kind": "faceted", "number": 4, "fit": "fitted"},
    {"kind": "laminated", "leaf": 4.0},
    {"kind": "kerfed", "kerf": 3.0, "web": 3.0},
    {"kind": "sawn", "board": 150.0},
]
JOINTS: list[dict[str, Any] | None] = [
    None,
    {"bars": [4200]},
    {"bars": [4200, 3600, 3000], "placed": "waste"},
    {"bars": [4200], "placed": "full"},
    {"bars": [4200], "made": "scarf", "shift": 300},
    {"bars": [4200], "made": "finger", "overlap": 15, "least": 800, "clear": 200},
]


def room(long: float, wide: float, radius: float) -> LineBody:
    """A room with rounded corners, as a line that starts where a straight begins."""
    corners = ((0.0, 0.0), (long, 0.0), (long, wide), (0.0, wide))
    ways = ((1, 0), (0, 1), (-1, 0), (0, -1))
    legs: list[Any] = []
    for i, (x, y) in enumerate((*corners[1:], corners[0])):
        (ax, ay), (bx, by) = ways[i], ways[(i + 1) % 4]
        legs.append(StraightLeg(to=(x - radius * ax, y - radius * ay, 0)))
        part = radius * (1 - math.sqrt(0.5))
        legs.append(ArcLeg(via=(x - part * (ax - bx), y - part * (ay - by), 0), to=(x + radius * bx, y + radius * by, 0)))
    return LineBody(name="Room", start=(radius, 0, 0), legs=tuple(legs), closed=True)


def made(body: LineBody, curves: dict[str, Any], joints: dict[str, Any] | None, doors: list[tuple[float, float]]) -> Job:
    section = SectionBody(name="Skirting", outline=rectangle(18, 90), width=18, height=90)
    changes = RunChanges.model_validate({"curves": curves, "joints": joints})
    edits = [AddLines(lines=(body,)), AddSection(section=section), AddRuns(section="S2", lines=("L1",)), SetRun(run="R3", changes=changes)]
    job = apply_all(Job(name="Room"), edits).job
    openings = tuple(Opening(name=f"Door {at}", at=at, width=wide) for at, wide in doors)
    return apply(job, AddOpenings(line="L1", openings=openings)) if doors else job


def pieces(job: Job) -> list[tuple[float, ...]]:
    """What a shop makes of a run, in an order that does not depend on where its line starts."""
    run = solve(job).runs[job.runs[0].id]
    cuts = run.cuts
    rows = []
    for i in range(cuts.course.count):
        curved = curvature_of(job.runs[0], cuts, i)
        more = (
            ()
            if curved is None
            else (*sorted(curved.leaves), *(figure for kerf in sorted(curved.kerfs) for figure in kerf), *(curved.board or ()))
        )
        rows.append(
            tuple(
                round(float(figure), 4)
                for figure in (cuts.long_points[i], cuts.short_points[i], cuts.line_lengths[i], cuts.volumes[i], *more)
            )
        )
    return sorted(rows)


def same(first: Job, second: Job) -> None:
    one, other = (solve(job).runs[job.runs[0].id] for job in (first, second))
    assert one.pieces == other.pieces
    assert {check.kind for check in one.checks} == {check.kind for check in other.checks}
    for row, there in zip(pieces(first), pieces(second), strict=True):
        assert row == pytest.approx(there, rel=1e-6, abs=2e-3)


@settings(max_examples=examples(40))
@given(st.data())
def test_pieces_are_the_same_wherever_a_closed_line_starts(data: st.DataObject) -> None:
    draw = data.draw
    body = room(draw(st.floats(5000, 9000)), draw(st.floats(4000, 6000)), draw(st.floats(700, 1500)))
    curves, joints = draw(st.sampled_from(CURVES)), draw(st.sampled_from(JOINTS))
    doors = draw(st.sampled_from([[(1500.0, 900.0)], [(1500.0, 900.0), (9000.0, 1000.0)], []]))
    if not doors:
        # Where a ring's first joint comes is the user's to say: by the start of its line.
        joints = None
    job = made(body, curves, joints, doors)
    length = course_of(job.line("L1")).length
    free = [low for low in np.linspace(0, length, 97)[:-1].tolist() if not any(at - 1 < low < at + wide + 1 for at, wide in doors)]
    other = apply(job, StartLineAt(line="L1", at=draw(st.sampled_from(free))))
    same(job, other)
    if draw(st.booleans()):
        other = apply(other, ReverseLines(lines=("L1",)))
    same(job, other)


def test_a_rounded_room_runs_from_door_to_door_in_one_piece() -> None:
    body = room(6000, 4000, 500)
    job = made(body, {"kind": "bent"}, None, [(1000.0, 900.0)])
    length = course_of(job.line("L1")).length
    for at in (0.0, 200.0, 3000.0, 5400.0):
        run = solve(apply(job, StartLineAt(line="L1", at=at))).runs["R3"]
        assert run.cuts.line_lengths.tolist() == pytest.approx([length - 900])
    bars = {"bars": [4200]}
    parts = [pieces(apply(made(body, {"kind": "bent"}, bars, [(1000.0, 900.0)]), StartLineAt(line="L1", at=at))) for at in (0.0, 3000.0)]
    assert len(parts[0]) == 5
    for one, other in zip(*parts, strict=True):
        assert one == pytest.approx(other)
    assert min(row[2] for row in parts[0]) > 3600


def test_joints_by_hand_are_all_the_joints_of_a_ring() -> None:
    run = solve(made(room(6000, 4000, 500), {"kind": "bent"}, {"bars": [20_000], "at": [1000.0, 7000.0]}, [])).runs["R3"]
    assert sorted(run.cuts.line_lengths.tolist()) == pytest.approx(sorted([6000.0, run.course.length - 6000]))


@settings(max_examples=examples(12))
@given(st.floats(0.1, 0.9), st.sampled_from(["arc", "curve"]))
def test_a_curve_that_is_split_and_joined_again_is_one(share: float, kind: str) -> None:
    bent: Any = (
        ArcLeg(via=(3000, 1000, 0), to=(5000, 4000, 0))
        if kind == "arc"
        else CurveLeg(controls=((3000, 0, 0), (5000, 1500, 0)), to=(5000, 4000, 0))
    )
    body = LineBody(name="Bench", start=(-1000, 0, 0), legs=(StraightLeg(to=(0, 0, 0)), bent, StraightLeg(to=(5000, 6000, 0))))
    for curves in ({"kind": "faceted", "number": 6}, {"kind": "kerfed", "kerf": 3.0, "web": 3.0}):
        job = made(body, curves, None, [])
        length = course_of(job.line("L1")).length
        split = apply(job, SplitLine(line="L1", at=1000 + share * (length - 3000)))
        lines = tuple(line.id for line in split.lines)
        whole = apply(split, JoinLines(lines=lines))
        same(job, whole)


@settings(max_examples=examples(20))
@given(st.floats(50, 900), st.floats(300, 1500), st.sets(st.integers(0, 3)), st.booleans())
def test_reversed_with_its_start_rounded_nothing_on_a_closed_line_moves(
    radius: float, centres: float, rounded: set[int], twice: bool
) -> None:
    corners = [(0.0, 0.0), (6000.0, 0.0), (6000.0, 4000.0), (0.0, 4000.0)]
    ends = [*corners[1:], corners[0]]
    # The corner at the end of the last leg is where the line starts.
    legs = tuple(StraightLeg(to=(*end, 0.0), round=radius if number in rounded | {3} else None) for number, end in enumerate(ends))
    body = LineBody(name="Room", start=(0, 0, 0), legs=legs, closed=True)
    row = {
        "kind": "add_row",
        "row": {
            "name": "Post",
            "line": "L1",
            "item": {"kind": "round", "diameter": 60, "height": 900},
            "spacing": {"rule": {"kind": "equal-bays", "most": centres}},
        },
    }
    made_row = TypeAdapter(AnyEdit).validate_python(row)
    job = apply(made(body, {"kind": "bent"}, {"bars": [20_000], "at": [1000.0, 7000.0]}, []), made_row)
    places = apply(job, AddOpenings(line="L1", openings=(Opening(name="Door", at=2500, width=900),)))
    for before in (job, places):
        after = apply(before, ReverseLines(lines=("L1",)))
        after = apply(after, ReverseLines(lines=("L1",))) if twice else after
        items, moved = (np.array(sorted(next(iter(solve(one).rows.values())).out.positions.round(6).tolist())) for one in (before, after))
        assert moved == pytest.approx(items, abs=1e-5)
        same(before, after)
        door = [
            tuple(course_of(one.line("L1")).points_at(np.array([opening.at + 450]))[0].round(6))
            for one in (before, after)
            for opening in one.line("L1").openings
        ]
        assert len(set(door)) <= 1
