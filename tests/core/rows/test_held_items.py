"""Items held by hand: the others space themselves around them, and they stay where they are whatever is done to their line."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import pytest
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st
from making import line
from pydantic import TypeAdapter

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits import AnyEdit, apply
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.rows.row_set_out import RowSetOut
from slow_ribbon.core.rows.setting_out import set_row_out
from slow_ribbon.core.solve.solver import solve

read_edit = TypeAdapter(AnyEdit).validate_python
read_row = TypeAdapter(Row).validate_python
POST = {"kind": "box", "along": 60, "across": 60, "height": 900}
BALL = {"kind": "round", "diameter": 90, "height": 700}


def job_of(points: Sequence[tuple[float, ...]], rule: dict[str, Any], closed: bool = False, **spacing: Any) -> Job:
    row = {"id": "I1", "name": "Posts", "tag": "P", "line": "L1", "item": POST, "spacing": {"rule": rule, **spacing}}
    return Job(name="j", lines=(line(points, closed),), rows=(read_row({**row, "pattern": {"others": [{"item": BALL}]}}),), last_number=9)


def edited(job: Job, kind: str, **fields: Any) -> Job:
    return apply(job, read_edit({"kind": kind, **fields}))


def out_of(job: Job) -> RowSetOut:
    row = job.rows[0]
    return set_row_out(row, job.line(row.line))


@given(st.floats(2000, 12_000), st.floats(0.05, 0.95), st.floats(300, 1500))
def test_others_space_themselves_around_what_is_held(length: float, share: float, most: float) -> None:
    at = share * length
    job = edited(job_of([(0, 0), (length, 0)], {"kind": "equal-bays", "most": most}), "hold_item", row="I1", at=at, to=at)
    sides = [np.linspace(a, b, math.ceil((b - a) / most - 1e-9) + 1) for a, b in ((0, at), (at, length))]
    out = out_of(job)
    assert out.chainages == pytest.approx(np.concatenate([sides[0], sides[1][1:]]), abs=1e-6)
    (held,) = out.held.values()
    assert out.chainages[held] == pytest.approx(at)


RULES: list[dict[str, Any]] = [
    {"kind": "set-number", "number": 7},
    {"kind": "nearest-bays", "near": 830},
    {"kind": "equal-bays", "most": 790},
    {"kind": "fixed-centres", "centres": 610},
    {"kind": "fixed-centres", "centres": 610, "origin": "end"},
    {"kind": "fixed-centres", "centres": 610, "origin": "centred"},
    {"kind": "clear-gap", "gap": 140},
]


@pytest.mark.parametrize("rule", RULES)
@pytest.mark.parametrize("numbers", [[2], [1, 4], [0, 3]])
def test_items_held_where_they_stand_change_nothing(rule: dict[str, Any], numbers: list[int]) -> None:
    job = job_of([(0, 0), (5000, 0)], rule, inset_start=120, inset_end=260)
    before = out_of(job).chainages
    for number in numbers:
        job = edited(job, "hold_item", row="I1", at=float(before[number]), item="B")
    out = out_of(job)
    assert out.chainages == pytest.approx(before, abs=1e-6)
    assert sorted(out.held.values()) == numbers
    assert np.flatnonzero(out.dealt).tolist() == numbers


@given(st.floats(0.1, 0.9), st.floats(60, 400))
def test_a_clear_gap_is_nowhere_wider_beside_an_item_that_is_held(share: float, gap: float) -> None:
    at = share * 5000
    job = edited(job_of([(0, 0), (5000, 0)], {"kind": "clear-gap", "gap": gap}), "hold_item", row="I1", at=at, to=at)
    chainages = out_of(job).chainages
    assert at == pytest.approx(float(chainages[np.abs(chainages - at).argmin()]))
    clear = np.diff(np.concatenate([[-30], chainages, [5030]])) - 60
    assert clear.max() <= gap + 1e-6


def test_an_item_is_exchanged_turned_and_left_out_where_it_stands() -> None:
    job = job_of([(0, 0), (4000, 0)], {"kind": "set-number", "number": 5})
    before = out_of(job).chainages
    job = edited(job, "hold_item", row="I1", at=2010, item="B", turn=30)
    out = out_of(job)
    assert out.chainages.tolist() == before.tolist()
    assert out.dealt.tolist() == [0, 0, 1, 0, 0]
    assert np.degrees(out.headings).tolist() == pytest.approx([0, 0, 30, 0, 0])
    job = edited(job, "hold_item", row="I1", at=3000, out=True)
    assert out_of(job).chainages.tolist() == [0, 1000, 2000, 4000]
    # What is said of one that is held already is said of it, and it is moved.
    job = edited(job, "hold_item", row="I1", at=2000.3, to=2500)
    assert len(job.rows[0].held) == 2
    out = out_of(job)
    assert out.dealt[out.held[job.rows[0].held[0].mark]] == 1
    assert 2500 in out.chainages
    job = edited(job, "let_items_go", row="I1")
    assert job.rows[0].held == ()
    assert job.line("L1").marks == ()
    assert out_of(job).chainages.tolist() == before.tolist()


@pytest.mark.parametrize("held", [[700.0], [700.0, 5200.0]])
def test_items_are_held_on_a_ring(held: list[float]) -> None:
    square = [(0.0, 0.0), (2000.0, 0.0), (2000.0, 2000.0), (0.0, 2000.0)]
    job = job_of(square, {"kind": "equal-bays", "most": 900}, closed=True)
    for at in held:
        job = edited(job, "hold_item", row="I1", at=at, to=at)
    out = out_of(job)
    for number, at in zip(out.held.values(), held, strict=True):
        assert out.chainages[number] == pytest.approx(at)
    bays = np.diff(np.sort([*out.chainages, *(out.chainages + 8000)]))
    assert bays.min() > 1
    assert bays.max() <= 900 + 1e-6


def place_of(job: Job) -> tuple[list[float], float, int]:
    """Return where the item that is held stands, the direction that it is turned in, and which one it is."""
    out = next(set_row_out(row, job.line(row.line)) for row in job.rows if row.held)
    (number,) = out.held.values()
    return out.positions[number].tolist(), float(np.degrees(out.headings[number])) % 180, int(out.dealt[number])


@settings(max_examples=examples(30), deadline=None)
@given(st.floats(0.02, 0.98), st.floats(-80, 80), st.sampled_from(["A", "B"]))
def test_what_is_held_stays_when_its_line_is_worked_on(share: float, turn: float, letter: str) -> None:
    job = job_of([(0, 0), (5000, 0), (5000, 4000)], {"kind": "nearest-bays", "near": 800})
    job = edited(job, "hold_item", row="I1", at=share * 9000, to=share * 9000, turn=turn, item=letter)
    where = place_of(job)
    line_id = "L1"

    def same(other: Job) -> None:
        there = place_of(other)
        assert there[0] == pytest.approx(where[0], abs=1e-6)
        assert abs((there[1] - where[1] + 90) % 180 - 90) < 1e-6
        assert there[2] == where[2]

    same(edited(job, "reverse_lines", lines=[line_id]))
    put_in = edited(job, "insert_vertex", line=line_id, after=0, at=[2500, 0, 0])
    same(put_in)
    same(edited(put_in, "remove_vertex", line=line_id, point=3))
    parted = edited(job, "split_line", line=line_id, at=4400.0)
    same(parted)
    assert sum(len(row.held) for row in parted.rows) == 1
    same(edited(parted, "join_lines", lines=[one.id for one in parted.lines]))


def test_what_lost_its_place_is_kept_and_reported() -> None:
    job = edited(job_of([(0, 0), (4000, 0)], {"kind": "set-number", "number": 5}), "hold_item", row="I1", at=2000, item="B")
    with pytest.raises(Refused, match="held at that place: let it go first"):
        edited(job, "remove_marks", line="L1", marks=[job.rows[0].held[0].mark])
    gone = job.put(job.line("L1").model_copy(update={"marks": ()}))
    assert [check.kind for check in solve(gone).checks()] == ["no-place"]
    assert out_of(gone).dealt.tolist() == [0, 0, 0, 0, 0]
    opened = edited(job, "add_openings", line="L1", openings=[{"name": "Gate", "at": 1500, "width": 1000}])
    assert "stands in an opening" in " ".join(check.what for check in solve(opened).checks())
    with pytest.raises(Refused, match="cannot be held beyond its end"):
        edited(job, "hold_item", row="I1", at=2000, to=4500)


def test_whatever_is_said_of_an_item_that_is_held_is_solved_anew() -> None:
    job = job_of([(0, 0), (4000, 0)], {"kind": "set-number", "number": 5})
    keys = {solve(job).rows["I1"].key}
    for more in ({}, {"item": "B"}, {"turn": 20}, {"out": True}):
        job = edited(job, "hold_item", row="I1", at=2000, **more)
        keys.add(solve(job).rows["I1"].key)
    assert len(keys) == 5


def test_what_holds_an_item_is_nothing_to_others_and_goes_with_its_row() -> None:
    """Joints over marks do not come there; without its row the line has no mark that nobody sees."""
    job = edited(job_of([(0, 0), (4000, 0)], {"kind": "set-number", "number": 5}), "hold_item", row="I1", at=2000, to=2300)
    assert job.line("L1").named_marks == ()
    assert len(job.line("L1").marks) == 1
    gone = edited(job, "remove", ids=["I1"])
    assert gone.line("L1").marks == ()
    assert edited(gone, "move_vertex", line="L1", point=1, to=[1000, None, None]).line("L1").legs[0].to[0] == 1000


@pytest.mark.parametrize("by", [0, 90, 37])
def test_a_clear_gap_beside_a_held_item_counts_how_it_is_turned(by: float) -> None:
    job = job_of([(0, 0), (5000, 0)], {"kind": "clear-gap", "gap": 100})
    slat = {"kind": "box", "along": 90, "across": 20, "height": 900}
    job = edited(job, "set_row", row="I1", changes={"item": slat, "turn": {"by": by}})
    chainages = out_of(edited(job, "hold_item", row="I1", at=2222, to=2222)).chainages
    wide = 90 * abs(math.cos(math.radians(by))) + 20 * abs(math.sin(math.radians(by)))
    assert (np.diff(chainages) - wide).max() <= 100 + 1e-6
