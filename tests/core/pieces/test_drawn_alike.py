"""Runs that are drawn alike are reported so, and no others: any run against itself elsewhere, and against one changed a little."""

from __future__ import annotations

from typing import Any

import pytest
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st
from making import bent_lines, line, polygons

from slow_ribbon.core.job.derived.derive import derive_again
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.transform import carried_over, turning
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.sections.document.section import Section
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.solve import drawn_as, solve
from slow_ribbon.core.solve.results import SolvedRun

BOARD = Section(id="S1", name="Board", outline=rectangle(20, 60), width=20, height=60)
WAYS: tuple[dict[str, Any], ...] = (
    {},
    {"corners": {"kind": "cope"}},
    {"corners": {"kind": "block", "size": 30}, "last_end": {"kind": "rounded", "radius": 8}},
    {"joints": {"bars": [1500], "made": "scarf"}, "placing": {"roll": 12.0}},
)


def solved(path: Line, way: dict[str, Any], section: Section = BOARD, name: str = "Run") -> SolvedRun:
    run = Run.model_validate({"id": "R1", "name": name, "tag": name[:2].upper(), "line": path.id, "section": "S1", **way})
    job = Job(name="Job", lines=(path,), sections=(section,), runs=(run,), last_number=9)
    return solve(derive_again(Job(name="Job"), job)[0]).runs["R1"]


@settings(max_examples=examples(15), deadline=None)
@given(
    st.one_of(bent_lines(), polygons(4, 6).map(lambda points: line(points, True))),
    st.sampled_from(WAYS),
    st.tuples(*[st.floats(-1e6, 1e6)] * 3),
)
def test_a_run_is_drawn_as_it_is_elsewhere_and_not_as_another(path: Line, way: dict[str, Any], by: Any) -> None:
    one = solved(path, way)
    away = solved(carried_over(path, turning(0.0, (0, 0, 0), by)).model_copy(update={"id": "L7"}), way, name="Other")
    if drawn_as(one) == drawn_as(away):
        # Whatever is said to be alike is.
        assert one.surface().vertices == pytest.approx(away.surface().vertices, abs=1e-4)
        assert (one.surface().faces == away.surface().faces).all()
        assert (one.surface().pieces == away.surface().pieces).all()
    wider = solved(path, way, BOARD.model_copy(update={"width": 20.001}))
    raised = solved(path, {**way, "placing": {**way.get("placing", {}), "lift": 0.001}})
    for other in (wider, raised):
        assert drawn_as(one) != drawn_as(other)


def test_equal_rooms_are_drawn_alike_whatever_they_are_called() -> None:
    """A grid of rooms at whole millimetres: one mesh for all of them."""
    found = set()
    for x, y in ((0, 0), (5000, 0), (12_345, 70_000)):
        room = line([(x, y, 0), (x + 4000, y, 0), (x + 4000, y + 3000, 0), (x, y + 3000, 0)], True)
        found.add(drawn_as(solved(room, WAYS[1], name=f"Room {x}")))
    assert len(found) == 1


@pytest.mark.parametrize(
    "change", [{"corners": {"kind": "butt"}}, {"placing": {"facing": {"kind": "left"}}}, {"first_end": {"kind": "level"}}]
)
def test_another_way_is_drawn_otherwise(change: dict[str, Any]) -> None:
    path = line([(0, 0, 0), (2000, 0, 400), (2000, 1500, 400)])
    assert drawn_as(solved(path, {})) != drawn_as(solved(path, change))
