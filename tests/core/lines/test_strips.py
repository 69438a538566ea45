"""Strips: paths and beds along lines, their areas, joints and edges."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from making import line
from pydantic import TypeAdapter

from slow_ribbon.core.cutting import schedule_entries
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits import AnyEdit, apply, apply_all
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.made.strips import strip_laid
from slow_ribbon.core.solve.solver import solve

read_edit = TypeAdapter(AnyEdit).validate_python


SIDES = [[50, 0], [50, 100], [0, 100], [0, 0]]
BOARD = {
    "name": "Board", "width": 50, "height": 100, "outline": {"start": [0, 0], "edges": [{"kind": "straight", "to": to} for to in SIDES]},
}  # fmt: skip


def edited(job: Job, kind: str, **fields: Any) -> Job:
    return apply(job, read_edit({"kind": kind, **fields}))


def with_strip(one: Any, left: float, right: float, joints: float | None = None) -> Job:
    strip = {"left": left, "right": right, "joints": joints}
    return edited(Job(name="j", lines=(one,), last_number=9), "set_line", line="L1", changes={"strip": strip})


@given(st.floats(0, 900), st.floats(1, 900), st.floats(-2.5, 2.5))
def test_the_area_of_a_strip_with_a_corner(left: float, right: float, turn: float) -> None:
    far = 20_000
    corner = [(0.0, 0.0), (far, 0.0), (far + far * math.cos(turn), far * math.sin(turn))]
    laid = strip_laid(with_strip(line(corner), left, right).line("L1"))
    # Each side of a mitred corner is shorter or longer by the tangent of half the turn.
    wanted = 2 * far * (left + right) + math.tan(turn / 2) * (right**2 - left**2)
    assert laid.region.area == pytest.approx(wanted, rel=1e-6)


def test_the_area_of_a_strip_round_a_circle() -> None:
    radius = 4000
    legs = [{"kind": "arc", "to": [-way * radius, 0, 0], "via": [0, way * radius, 0]} for way in (1, -1)]
    job = edited(Job(name="j"), "add_lines", lines=[{"name": "Ring", "start": [radius, 0, 0], "legs": legs, "closed": True}])
    job = edited(job, "set_line", line="L1", changes={"strip": {"left": 300, "right": 500, "joints": 1000}})
    laid = strip_laid(job.line("L1"))
    assert laid.region.area == pytest.approx(math.pi * (4500**2 - 3700**2), rel=1e-4)
    # 25.13 m round in bays of no more than a metre: as many joints as bays.
    assert len(laid.joints) == 26
    turned = strip_laid(edited(job, "reverse_lines", lines=["L1"]).line("L1"))
    assert turned.region.symmetric_difference(laid.region).area == pytest.approx(0, abs=laid.region.area * 1e-4)


def test_edges_follow_the_strip_and_carry_an_edging() -> None:
    job = edited(with_strip(line([(0, 0), (9000, 0), (9000, 5000)]), 400, 600, 1500), "add_section", section=BOARD)
    job = edited(job, "edge_strip", line="L1", section=job.sections[0].id)
    left, right = job.lines[1:]
    assert [course_of(one).length for one in (left, right)] == pytest.approx([14_000 - 2 * 400, 14_000 + 2 * 600])
    wider = edited(job, "set_line", line="L1", changes={"strip": {"left": 700}})
    assert course_of(wider.line(left.id)).length == pytest.approx(14_000 - 2 * 700)
    back = edited(wider, "reverse_lines", lines=["L1"])
    assert back.line(left.id).points()[::-1] == pytest.approx(wider.line(left.id).points())
    assert [run.line for run in job.runs] == [left.id, right.id]
    entry = next(entry for entry in schedule_entries(solve(job)) if entry.kind == "strip")
    assert entry.area == pytest.approx(strip_laid(job.line("L1")).region.area)
    assert entry.items == 9
    with pytest.raises(Refused, match="drawn already"):
        edited(job, "edge_strip", line="L1", section=job.sections[0].id)
    found = apply_all(job, [read_edit({"kind": "set_line", "line": "L1", "changes": {"strip": None}})])
    assert found.job.line(left.id).made is None
    assert any("the strip that it is an edge of was removed" in notice for notice in found.notices)


@pytest.mark.parametrize(("strip", "said"), [({"left": 0, "right": 0}, "has no width"), ({"left": 9000, "right": 0}, "")])
def test_a_strip_that_cannot_be_is_refused(strip: dict[str, Any], said: str) -> None:
    job = Job(name="j", lines=(line([(0, 0), (3000, 0), (3000, 3000), (0, 3000)]),), last_number=9)
    with pytest.raises(Refused, match=said):
        edited(job, "set_line", line="L1", changes={"strip": strip})
