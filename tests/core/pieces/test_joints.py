"""Joints along legs: no part longer than a bar or shorter than the least, their sums, the same whichever way the line runs."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st
from making import bent_lines, line, mesh, polygons
from pydantic import TypeAdapter

from slow_ribbon.core.cutting import cutting_list, describe_cut
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.apply import apply_all
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import plain
from slow_ribbon.core.lines.legs import ArcLeg
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.pieces.solids import piece_solid, run_solid
from slow_ribbon.core.runs.treatments.joints import Joints, joints_along
from slow_ribbon.core.sections.document.section import Section, SectionBody
from slow_ribbon.core.sections.library import from_library, rectangle
from slow_ribbon.core.solve.results import SolvedRun
from slow_ribbon.core.solve.solver import solve

read = TypeAdapter(AnyEdit).validate_python
BOARD = Section(id="S1", name="Board", outline=rectangle(20, 100), width=20, height=100)
ways = st.fixed_dictionaries(
    {
        "made": st.sampled_from(["butt", "scarf", "plumb", "finger", "socket"]),
        "slope": st.floats(1, 12),
        "overlap": st.floats(0, 60),
        "placed": st.sampled_from(["equal", "full", "waste"]),
        "bars": st.lists(st.floats(1500, 6000), min_size=1, max_size=4),
        "least": st.sampled_from([0, 0, 300, 900]),
        "clear": st.sampled_from([0, 0, 200, 600]),
        "shift": st.sampled_from([0, 0, 250]),
        "from_end": st.booleans(),
    }
)


def job_of(path: Line, joints: Any, section: Section = BOARD, **more: Any) -> Job:
    edits = [{"kind": "add_runs", "section": "S1", "lines": ["L1"], "joints": joints, **more}]
    return apply_all(Job(name="Job", lines=(path,), sections=(section,), last_number=1), [read(edit) for edit in edits]).job


def solved(path: Line, joints: Any, section: Section = BOARD, **more: Any) -> SolvedRun:
    (run,) = solve(job_of(path, joints, section, **more)).runs.values()
    return run


@settings(max_examples=examples(400))
@given(st.floats(100, 40_000), st.floats(-50, 200), st.floats(-50, 200), ways)
def test_parts_are_no_longer_than_a_bar_and_no_shorter_than_the_least(length: float, before: float, after: float, way: Any) -> None:
    joints = Joints.model_validate(way)
    here, there = joints.added(20)
    try:
        places = joints_along(length, before, after, joints, 20)
    except Refused:
        # Never where this many parts, all equal, would do and nothing is asked besides.
        count = math.ceil((length + before + after) / max(1.0, joints.longest - here - there)) + 1
        plain = joints.placed == "equal" and not joints.shift and not joints.least and not joints.clear
        assert not plain or (length + before + after) / count < here + there + 50
        return
    assert places == sorted(places)
    if not places:
        assert length + before + after <= joints.longest + 1e-6
        return
    ends = np.array([0.0, *places, length])
    sawn = np.diff(ends) + [before, *[there] * len(places)] + [*[here] * len(places), after]
    assert sawn.max() <= joints.longest + 1e-6
    assert sawn.min() >= joints.least - 1e-6
    assert min(places) >= joints.clear - 1e-6
    assert max(places) <= length - joints.clear + 1e-6
    # Every joint adds what both pieces have beyond it: nothing else is lost or found.
    assert sawn.sum() == pytest.approx(length + before + after + len(places) * (here + there))
    if joints.placed == "equal" and not joints.shift and np.ptp(sawn) > 1e-6:
        # Unequal only where equal parts would come too near a corner, which is refused instead, or be too short.
        assert sawn.min() == pytest.approx(max(joints.least, joints.clear))
    if joints.placed == "full" and not joints.shift and not joints.least and not joints.clear:
        whole = sawn[::-1] if joints.from_end else sawn
        assert whole[:-1] == pytest.approx(np.full(len(places), joints.longest))


def test_the_least_is_left_of_the_bars_that_leave_the_least() -> None:
    """By trying all choices of as many bars, which shares nothing with how they are found."""
    from itertools import combinations_with_replacement

    bars = (2400, 3000, 3600, 4200)
    for length in range(4300, 25_000, 777):
        places = joints_along(length, 0, 0, Joints(bars=bars, placed="waste"), 20)
        count = len(places) + 1
        best = min(sum(some) - length for some in combinations_with_replacement(bars, count) if sum(some) >= length)
        parts = np.diff([0, *places, length])
        waste = sum(min(bar for bar in bars if bar >= part - 1e-6) - part for part in parts.tolist())
        assert waste == pytest.approx(best)
        assert count == math.ceil(length / 4200)


@settings(max_examples=examples(25))
@given(st.one_of(bent_lines(), polygons(4, 6).map(lambda points: line(points * 3, True))), ways)
def test_jointed_runs_are_whole_and_the_same_whichever_way_they_run(path: Line, way: Any) -> None:
    job = job_of(path, way)
    (one,) = solve(job).runs.values()
    if any(check.kind in ("swallowed", "pinched", "folded") for check in one.checks):
        return
    assert one.cuts.course.lengths.sum() == pytest.approx(one.course.length)
    if not any(check.kind == "no-joints" for check in one.checks):
        assert one.cuts.long_points.max() <= max(way["bars"]) + 0.02 or any(check.kind == "too-long" for check in one.checks)
    whole = mesh(run_solid(one.cuts))
    assert whole.is_watertight
    pieces = [mesh(piece_solid(one.cuts, i)) for i in range(one.pieces)]
    # Bends are drawn in chords, which a leaning cut meets a little otherwise from either side.
    assert sum(piece.volume for piece in pieces) == pytest.approx(whole.volume, rel=1e-5 if one.course.paths else 1e-9)
    back = apply_all(job, [read({"kind": "reverse_lines", "lines": ["L1"]})]).job
    (other,) = solve(back).runs.values()
    there = np.sort(one.course.length - np.array(other.joints))
    if not one.course.closed:
        assert there == pytest.approx(np.array(one.joints), abs=1e-5)
    assert sorted(other.cuts.long_points) == pytest.approx(sorted(one.cuts.long_points), abs=1e-4)


def test_a_cornice_of_a_hall_is_made_of_bars_with_its_scarfs_reported() -> None:
    body = from_library("cornice-stepped")
    cornice = Section(id="S1", **{name: getattr(body, name) for name in SectionBody.model_fields})
    hall = line([(0, 0, 0), (0, 9000, 0), (6000, 9000, 0), (6000, 0, 0)], True)
    job = job_of(hall, {"bars": [4200], "made": "scarf"}, cornice)
    rows = cutting_list(solve(job))
    assert sum(row.quantity for row in rows) == 10
    assert {describe_cut(row.begin) for row in rows} | {describe_cut(row.end) for row in rows} >= {"scarf 1 in 8"}
    # Equal parts, each with half a scarf, 4 × its depth, beyond every joint: (9000 + 4·4·70)/3 and (6000 + 2·4·70)/2.
    assert {round(row.long_point, 1) for row in rows} == {round((9000 + 16 * cornice.width) / 3, 1), 3000 + 4 * cornice.width}


def test_joints_by_hand_stay_where_they_are_put_and_are_reported_what_is_wrong() -> None:
    path = line([(0, 0, 0), (9000, 0, 0), (9000, 3000, 0)])
    job = job_of(path, {"bars": [4200], "least": 500})
    run = next(iter(solve(job).runs))
    moved = apply_all(job, [read({"kind": "set_run", "run": run, "changes": {"joints": {"at": [4500, 8800]}}})]).job
    one = solve(moved).runs[run]
    assert one.joints == (4500, 8800)
    assert sorted(check.kind for check in one.checks) == ["too-long", "too-long", "too-short"]
    # What is given to another run is how they are made, not where by hand.
    two = apply_all(moved, [read({"kind": "add_runs", "section": "S1", "lines": ["L1"]})]).job
    given = apply_all(two, [read({"kind": "give_settings", "run": run, "runs": [two.runs[-1].id]})]).job
    assert given.runs[-1].joints == job.run(run).joints
    again = apply_all(moved, [read({"kind": "set_run", "run": run, "changes": {"joints": {"at": None}}})]).job
    assert again == job
    scarfed = apply_all(job, [read({"kind": "set_run", "run": run, "changes": {"joints": {"made": "scarf"}}})]).job
    assert scarfed.run(run).joints == Joints(bars=(4200,), least=500, made="scarf")
    none = apply_all(job, [read({"kind": "set_run", "run": run, "changes": {"joints": None}})]).job
    assert solve(none).runs[run].pieces == 2


def test_what_cannot_be_jointed_is_reported_where_and_left_in_one_length() -> None:
    one = solved(line([(0, 0, 0), (5000, 0, 0)]), {"bars": [4200], "clear": 2600})
    assert one.pieces == 1
    assert [check.kind for check in one.checks] == ["no-joints", "too-long"]
    short = solved(line([(0, 0, 0), (5000, 0, 0)]), {"bars": [100], "made": "socket", "overlap": 200})
    assert [check.kind for check in short.checks] == ["no-joints", "too-long"]


def test_a_ring_is_jointed_where_it_begins_too() -> None:
    around = Line.model_validate(
        {"id": "L1", "name": "Ring", "start": (2000, 0, 0), "closed": True,
         "legs": [{"kind": "arc", "to": (-2000, 0, 0), "via": (0, 2000, 0)}, {"kind": "arc", "to": (2000, 0, 0), "via": (0, -2000, 0)}]}
    )  # fmt: skip
    one = solved(around, {"bars": [4200]})
    # The line is 4000·π round; the longest fibre of a board that stands outside it more, and no bar is shorter than that.
    parts = math.ceil(4040 * math.pi / 4200)
    assert one.pieces == parts
    assert one.cuts.line_lengths == pytest.approx(np.full(parts, 4000 * math.pi / parts))


@given(st.lists(st.floats(50, 8950), min_size=1, max_size=6, unique=True), st.floats(500, 8500), st.booleans())
def test_joints_by_hand_stay_where_they_are_when_a_line_is_split_joined_or_turned(places: list[float], at: float, turned: bool) -> None:
    if any(abs(place - at) < 1 for place in places):
        return
    path = line([(0, 0, 0), (9000, 0, 0)])
    job = job_of(path, {"bars": [60_000], "at": sorted(places)})

    def standing(job: Job) -> list[float]:
        found = [run.course.points_at(np.array(run.joints))[:, 0] for run in solve(job).runs.values() if run.joints]
        return sorted(np.concatenate(found).tolist()) if found else []

    expected = standing(job)
    halves = apply_all(job, [read({"kind": "split_line", "line": "L1", "at": at})]).job
    assert standing(halves) == pytest.approx(expected, abs=1e-6)
    if turned:
        halves = apply_all(halves, [read({"kind": "reverse_lines", "lines": [halves.lines[1].id]})]).job
        assert standing(halves) == pytest.approx(expected, abs=1e-6)
    whole = apply_all(halves, [read({"kind": "join_lines", "lines": [one.id for one in halves.lines]})]).job
    if not turned:
        assert len(whole.runs) == 1
    assert standing(whole) == pytest.approx(expected, abs=1e-6)


def test_joints_by_hand_stay_where_they_are_when_a_closed_line_starts_elsewhere() -> None:
    room = line([(0, 0, 0), (9000, 0, 0), (9000, 6000, 0), (0, 6000, 0)], True)
    job = job_of(room, {"bars": [60_000], "at": [3000, 12_500, 29_000]})
    moved = apply_all(job, [read({"kind": "start_line_at", "line": "L1", "at": 11_000})]).job
    places = [np.sort(run.course.points_at(np.array(run.joints)), axis=0) for one in (job, moved) for run in solve(one).runs.values()]
    assert places[0] == pytest.approx(places[1])
    assert moved.runs[0].joints is not None
    assert moved.runs[0].joints.at == (1500, 18_000, 22_000)


def test_a_plumb_joint_on_a_slope_is_upright_and_leaves_no_gap() -> None:
    """A rail 100 high at a slope of 3 in 4 is sawn 75 longer at each joint than at one square to it (arithmetic), from bars that reach."""
    ramp = line([(0, 0, 0), (6400, 0, 4800)])
    run = solved(ramp, {"bars": [4200], "made": "plumb"})
    (joint,) = run.joints
    assert run.cuts.planes_begin[1] == pytest.approx([1, 0, 0])
    assert run.cuts.planes_end[0] == pytest.approx([1, 0, 0])
    pieces = [mesh(piece_solid(run.cuts, i)) for i in range(2)]
    assert sum(piece.volume for piece in pieces) == pytest.approx(mesh(run_solid(run.cuts)).volume)
    assert run.cuts.long_points.sum() == pytest.approx(8000 + 75)
    assert joint == pytest.approx(4000)
    rows = cutting_list(solve(job_of(ramp, {"bars": [4200], "made": "plumb"})))
    assert {describe_cut(row.begin) for row in rows} | {describe_cut(row.end) for row in rows} == {"square", "plumb joint"}
    # Where a line is level it is square.
    level = solved(line([(0, 0, 0), (8000, 0, 0)]), {"bars": [4200], "made": "plumb"})
    assert level.cuts.planes_begin[1] == pytest.approx([1, 0, 0])
    assert level.cuts.long_points == pytest.approx([4000, 4000])


@settings(max_examples=examples(40))
@given(st.floats(1000, 20_000), st.floats(0, 120), ways)
def test_what_is_trimmed_off_the_ends_of_pieces_is_off_the_bars(length: float, trim: float, way: Any) -> None:
    path = line([(0, 0, 0), (length, 0, 0)])
    saw = read({"kind": "set_saw", "changes": {"trim": trim}})
    job = apply_all(job_of(path, way), [saw]).job
    run = solve(job).runs["R2"]
    longest = max(way["bars"])
    if any(check.kind == "no-joints" for check in run.checks):
        assert not trim or any("trimmed" in check.what for check in run.checks)
        return
    assert (run.cuts.long_points + 2 * trim <= longest + 1e-6).all()
    assert not any(check.kind == "too-long" for check in run.checks)
    # As if the bars had been typed this much shorter.
    shorter = {**way, "bars": [bar - 2 * trim for bar in way["bars"]]}
    assert run.cuts.line_lengths == pytest.approx(solved(path, shorter).cuts.line_lengths)
    # Nothing trimmed any more it is as it was; what is not jointed goes by no saw.
    again = apply_all(job, [read({"kind": "set_saw", "changes": {"trim": 0}})]).job
    assert solve(again).runs["R2"].cuts.line_lengths == pytest.approx(solved(path, way).cuts.line_lengths)
    assert apply_all(job_of(path, None), [saw]).job.run("R2") == job_of(path, None).run("R2")


def test_what_leaves_nothing_of_the_bars_is_reported_and_joints_by_hand_are_held_to_what_is_left() -> None:
    saw = {"kind": "set_saw", "changes": {"trim": 500}}
    path = line([(0, 0, 0), (6000, 0, 0)])
    (check,) = solve(apply_all(job_of(path, {"bars": [900]}), [read(saw)]).job).runs["R2"].checks[:1]
    assert check.kind == "no-joints"
    assert "nothing is left" in check.what
    # Two parts of 3 m from bars of 3.6 m: they would be sawn 4 m long.
    run = solve(apply_all(job_of(path, {"bars": [3600], "at": [3000]}), [read(saw)]).job).runs["R2"]
    assert [check.kind for check in run.checks] == ["too-long", "too-long"]
    assert "500 mm at either end" in plain(run.checks[0].what)


@settings(max_examples=examples(40))
@given(
    st.floats(300, 2000),
    st.floats(30, 340),
    st.booleans(),
    st.sampled_from(["butt", "finger"]),
    st.sampled_from(["equal", "full", "waste"]),
)
def test_no_part_of_what_bends_is_longer_than_a_bar_outside_of_the_bend(
    radius: float, turn: float, ring: bool, made: str, placed: str
) -> None:
    bar = 900.0
    legs: tuple[ArcLeg, ...]
    if ring:
        legs = (ArcLeg(to=(0, 2 * radius, 0), via=(radius, radius, 0)), ArcLeg(to=(0, 0, 0), via=(-radius, radius, 0)))
    else:
        half = math.radians(turn) / 2
        end, via = (((radius * math.sin(a), radius - radius * math.cos(a), 0.0)) for a in (2 * half, half))
        legs = (ArcLeg(to=end, via=via),)
    path = line([(0, 0), (1, 0), (1, 1)] if ring else [(0, 0), (1, 0)], closed=ring).model_copy(update={"legs": legs})
    run = solved(path, {"bars": [bar], "made": made, "overlap": 40, "placed": placed, "least": 100})
    if any(check.kind == "no-joints" for check in run.checks):
        assert placed != "equal"
        return
    assert run.cuts.long_points.max() <= bar + 1e-6
    assert not any(check.kind == "too-long" for check in run.checks)
    # No more of them than are needed: of their outer fibres, each joint adding its overlap.
    outer = radius + 20 if run.cuts.long_points[0] > run.cuts.line_lengths[0] + 1e-9 else radius
    whole = outer * (2 * math.pi if ring else math.radians(turn))
    more = 40.0 if made == "finger" else 0.0
    assert run.pieces <= max(1, math.ceil((whole + (0 if ring else -more) - 1e-6) / (bar - more))) + (0 if placed == "equal" else 1)
