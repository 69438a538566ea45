"""Settings at the saw: steps with the error they make, the stop, and which edge is longest, against points on the pieces' solids."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from slow_ribbon.core.cutting import as_held, at_the_saw, cutting_list, schedule
from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, AddSection, apply, apply_all
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.job.edits.saw import SawChanges, SetSaw
from slow_ribbon.core.job.job_file import job_from_text, job_to_text
from slow_ribbon.core.kernel import Saw
from slow_ribbon.core.lines import line_body
from slow_ribbon.core.runs import FacingSide, Placing
from slow_ribbon.core.sections import SectionBody
from slow_ribbon.core.sections.library import from_library, rectangle
from slow_ribbon.core.solve import solve
from slow_ribbon.exports.csv import schedule_rows

read = TypeAdapter(AnyEdit).validate_python
WIDE, HIGH = 24.0, 90.0
BOARD = SectionBody(name="Board", outline=rectangle(WIDE, HIGH), width=WIDE, height=HIGH)


def listed(turn: float, rise: float, side: Any, roll: float = 0.0) -> tuple[Any, Any]:
    """A board round a corner of this many degrees that also changes pitch, and its rows; the piece before it is looked at."""
    angle = math.radians(turn)
    points = [(0, 0, 0), (2000, 0, 0), (2000 + 1500 * math.cos(angle), 1500 * math.sin(angle), rise)]
    placing = Placing(facing=FacingSide(kind=side), roll=roll)
    edits = [
        AddLines(lines=(line_body(points, False, "Wall"),)),
        AddSection(section=BOARD),
        AddRuns(section="S2", lines=("L1",), placing=placing),
    ]
    job = apply_all(Job(name="Saw"), edits).job
    solved = solve(job)
    return solved, next(row for row in cutting_list(solved) if row.pieces == (0,))


@given(st.floats(-120, 120), st.sampled_from([0.0, 300.0, -500.0]), st.sampled_from(["left", "right"]), st.sampled_from([0.0, 38.0, -90.0]))
def test_which_edge_is_longest_is_so_on_the_piece(turn: float, rise: float, side: str, roll: float) -> None:
    if abs(turn) < 2:
        return
    solved, row = listed(turn, rise, side, roll)
    run = solved.runs["R3"]
    placed = run.cuts.placed
    up = placed.bed_up
    left = np.array([-up[1], up[0]])
    # The four edges of the board as it lies: how far each goes at the end of the piece.
    corners = {(s, u): left * s * row.across / 2 + up * u * row.thick / 2 for s in (-1, 1) for u in (-1, 1)}
    middle = np.array([sum(placed.furthest(np.array([way, -way])) * (1, -1)) / 2 for way in (np.array([1.0, 0.0]), np.array([0.0, 1.0]))])
    reach = {key: float(run.cuts.piece_fibres(0, (middle + offset)[None])[1][0]) for key, offset in corners.items()}
    said = at_the_saw(row, Saw()).end.long
    by_side = (reach[1, 1] + reach[1, -1]) - (reach[-1, 1] + reach[-1, -1])
    by_height = (reach[1, 1] + reach[-1, 1]) - (reach[1, -1] + reach[-1, -1])
    if abs(by_side) > 0.1:
        assert f"at the {row.left if by_side > 0 else row.right}" in said
    if abs(by_height) > 0.1:
        assert ("on its upper side" if by_height > 0 else "underneath") in said


@given(st.floats(3, 150), st.sampled_from([0.0, 400.0]), st.sampled_from(["left", "right"]), st.sampled_from([0.1, 0.25, 0.5, 1.0]))
def test_the_error_of_steps_is_how_far_the_cut_plane_goes_astray(turn: float, rise: float, side: str, step: float) -> None:
    _, row = listed(turn, rise, side)
    setting = at_the_saw(row, Saw(step=step)).end
    for angle, exact in ((setting.mitre, row.end.mitre), (setting.bevel, row.end.bevel)):
        assert abs(angle - exact) <= step / 2 + 1e-9
        assert angle / step == pytest.approx(round(angle / step), abs=1e-6)

    def plane(mitre: float, bevel: float) -> Any:
        """Where the plane of a cut passes the four edges, by its normal turned about the table's axes one after the other."""
        m, b = math.radians(mitre), math.radians(bevel)
        tilt = np.array([[math.cos(b), 0, -math.sin(b)], [0, 1, 0], [math.sin(b), 0, math.cos(b)]])
        swing = np.array([[math.cos(m), -math.sin(m), 0], [math.sin(m), math.cos(m), 0], [0, 0, 1]])
        normal = swing @ tilt @ np.array([1.0, 0, 0])
        return np.array([-(normal[1] * s * row.across / 2 + normal[2] * u * row.thick / 2) / normal[0] for s in (-1, 1) for u in (-1, 1)])

    astray = plane(setting.mitre, setting.bevel) - plane(row.end.mitre, row.end.bevel)
    assert setting.off == pytest.approx(float(np.ptp(astray)), abs=1e-9)
    exact = at_the_saw(row, Saw()).end
    assert (exact.mitre, exact.bevel, exact.off) == (row.end.mitre, row.end.bevel, 0.0)


def test_the_stop_is_kept_with_the_job() -> None:
    solved, row = listed(90, 0, "right")
    # On the right of a turn to the left: the outside, longest at the face; the board lies on its back, its top to the left.
    assert [at_the_saw(row, Saw(stop=stop)).stop for stop in ("long", "short")] == [2024.0, 2000.0]
    fence = at_the_saw(row, Saw(stop="fence"))
    assert fence.stop == pytest.approx(float(row.picture[1][2, 0] - row.picture[1][3, 0]))
    assert 2000.0 <= fence.stop <= 2024.0
    job = apply(solved.job, SetSaw.model_validate({"kind": "set_saw", "changes": {"step": 0.5}}))
    job = apply(job, SetSaw.model_validate({"kind": "set_saw", "changes": {"stop": "fence"}}))
    assert job.saw == Saw(step=0.5, stop="fence")
    assert job_from_text(job_to_text(job)) == job


def test_allowances_are_in_the_stop_and_in_what_is_cut_from_stock() -> None:
    """Arithmetic: three pieces of 2, 1 and 1 m between butts, a saw of 3 mm, 5 mm to be trimmed off either end."""
    points = [(0, 0, 0), (2000, 0, 0), (2000, 1000, 0), (3000, 1000, 0)]
    job = apply_all(
        Job(name="Job"),
        [
            AddLines(lines=(line_body(points, False, "L"),)),
            AddSection(section=SectionBody(name="Batten", outline=rectangle(20, 60), width=20, height=60)),
            AddRuns(section="S2", lines=("L1",)),
        ],
    ).job
    plain = solve(job)
    allowed = solve(apply_all(job, [SetSaw(changes=SawChanges(kerf=3, trim=5))]).job)
    for before, after in zip(cutting_list(plain), cutting_list(allowed), strict=True):
        # The piece in its place is what it was; sawn it is longer.
        assert (before.long_point, before.short_point) == (after.long_point, after.short_point)
        stops = [at_the_saw(row, solved.job.saw).stop for row, solved in ((before, plain), (after, allowed))]
        assert stops[1] - stops[0] == pytest.approx(10)
    total = schedule(allowed).job
    assert total.from_stock(allowed.job.saw) == pytest.approx(total.bar + 3 * (3 + 2 * 5))
    assert schedule(plain).job.from_stock(plain.job.saw) == pytest.approx(total.bar)
    (answer,) = (row for row in schedule_rows(allowed) if row["kind"] == "job")
    assert float(answer["from_stock_mm"]) - float(answer["bar_length_mm"]) == pytest.approx(39)


@pytest.mark.parametrize("side", ["left", "right"])
@pytest.mark.parametrize("corner", [90.0, 135.0, 60.0])
@pytest.mark.parametrize("key", ["cornice-sprung", "cove-sprung"])
def test_a_cornice_held_against_the_fence_is_cut_to_half_the_corner_with_no_bevel(key: str, corner: float, side: str) -> None:
    """Plain geometry: held as it hangs, its head on the table, the mitre of a level corner is upright, half of what the line turns by."""
    turn = math.radians(180 - corner)
    legs = [{"kind": "straight", "to": (4000, 0, 0)}, {"kind": "straight", "to": (4000 + 4000 * math.cos(turn), 4000 * math.sin(turn), 0)}]
    job = apply_all(
        Job(name="Hall"),
        [
            read({"kind": "add_lines", "lines": [{"name": "Wall", "start": (0, 0, 0), "legs": legs}]}),
            read({"kind": "add_section", "section": from_library(key).model_dump()}),
            read({"kind": "add_runs", "section": "S2", "lines": ["L1"], "placing": {"facing": {"kind": side}}}),
        ],
    ).job
    lying = [as_held(row, job.saw) for row in cutting_list(solve(job))]
    held = apply_all(job, [read({"kind": "set_saw", "changes": {"sprung": True}})]).job
    sprung = [as_held(row, held.saw) for row in cutting_list(solve(held))]
    for one, other in zip(lying, sprung, strict=True):
        # Lying on its back both angles are needed; they are of one plane, and the piece is as long.
        assert one.long_point == other.long_point
        # A piece faces right as its line goes: with its head down its back is at the fence when it lies end for end.
        ends = (other.begin, other.end) if side == "left" else (other.end, other.begin)
        for a, b in zip((one.begin, one.end), ends, strict=True):
            assert b.bevel == pytest.approx(0, abs=1e-9)
            assert abs(b.mitre) == pytest.approx(0 if a.square else (180 - corner) / 2)
            assert a.square or abs(a.bevel) > 1
        assert (other.left, other.right) == ("back", "front")
        # The back lies on the wall, which is the line.
        stop = at_the_saw(other, Saw(sprung=True, stop="fence")).stop
        assert stop == pytest.approx(one.line_length)
        # What is longest at an end, by the drawing and in words.
        setting = at_the_saw(other, held.saw)
        for end, answer in ((False, setting.begin), (True, setting.end)):
            if answer.long:
                upper = other.picture[1][:, 0] * (1 if end else -1)
                at_back, at_front = (upper[2], upper[1]) if end else (upper[3], upper[0])
                assert answer.long == f"long at the {'back' if at_back > at_front else 'front'}"
        # Seen from above, the drawing is as long as the piece is at its edges.
        along = np.concatenate([side[:, 0] for side in other.picture])
        assert np.ptp(along) >= other.long_point - 1e-6
