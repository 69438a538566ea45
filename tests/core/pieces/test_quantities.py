"""Weights and painted areas: against solids measured by trimesh, formulas of mensuration, and published tables of steel sections."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st
from making import mesh
from pydantic import TypeAdapter

from slow_ribbon.core.cutting import cutting_list, schedule_entries
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.apply import apply_all
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.runs.pieces.quantities import painted_areas, weights
from slow_ribbon.core.runs.pieces.solids import piece_solid
from slow_ribbon.core.sections.document.constraints import Hidden
from slow_ribbon.core.sections.document.materials import DENSITIES
from slow_ribbon.core.sections.document.section import SectionBody
from slow_ribbon.core.sections.library import from_library, library, rectangle
from slow_ribbon.core.solve.results import SolvedRun
from slow_ribbon.core.solve.solver import Solver, solve
from slow_ribbon.demo import ferry_house

read = TypeAdapter(AnyEdit).validate_python


def measured(run: SolvedRun, piece: int) -> tuple[float, float]:
    """Return the volume of a piece's solid, and the area of its faces but those of its two ends, by trimesh."""
    body = mesh(piece_solid(run.cuts, piece, None, 0.005))
    flat = run.cuts.flat(0.005)
    at_end = np.zeros(len(body.faces), dtype=bool)
    for end in (False, True):
        ring = run.cuts.images(piece, run.cuts.placed.points(flat.points), end)
        near = np.linalg.norm(body.vertices[:, None] - ring[None], axis=2).min(axis=1) < 1e-3
        at_end |= near[body.faces].all(axis=1)
    return float(body.volume), float(body.area_faces[~at_end].sum())


@pytest.mark.parametrize("run", ["Skirting, door to door", "Skirting, south-east", "Cornice", "Fence capping", "Gate tie", "Gate hoop"])
def test_pieces_of_the_demo_weigh_and_are_painted_as_their_solids_say(run: str) -> None:
    """Mitred, coped, bent and scribed. Of tubes the weight alone is compared: their solids have an inside too."""
    solved = solve(ferry_house())
    (made,) = (solved.runs[one.id] for one in solved.job.runs if one.name == run)
    every = np.arange(made.pieces)
    kilograms, areas = weights(made.cuts, every), painted_areas(made.cuts, every)
    for piece in every.tolist()[:12]:
        volume, area = measured(made, piece)
        assert kilograms[piece] == pytest.approx(volume * 1e-9 * DENSITIES[made.section.material].mean, rel=1e-3)
        if len(made.cuts.placed.shape.loops) == 1:
            assert areas[piece] == pytest.approx(area, rel=1e-3)


def job_of(line: dict[str, Any], section: dict[str, Any], **run: Any) -> Job:
    edits = [
        {"kind": "add_lines", "lines": [line]},
        {"kind": "add_section", "section": section},
        {"kind": "add_runs", "section": "S2", "lines": ["L1"], **run},
    ]
    return apply_all(Job(name="Job"), [read(edit) for edit in edits]).job


@settings(max_examples=examples(25), deadline=None)
@given(st.lists(st.tuples(st.floats(600, 3000), st.floats(-900, 900), st.floats(-300, 300)), min_size=2, max_size=4), st.data())
def test_any_mitred_run_is_painted_as_its_solids_say(steps: list[tuple[float, float, float]], data: st.DataObject) -> None:
    """Lines that turn and rise as they like: the section leans or twists at corners, which changes how long its faces are."""
    keys = sorted({entry.key for entry in library() if not entry.section.holes})
    section = from_library(data.draw(st.sampled_from(keys))).model_dump()
    points = np.cumsum(np.array([(0.0, 0.0, 0.0), *steps]), axis=0).tolist()
    line = {"name": "Line", "start": points[0], "legs": [{"kind": "straight", "to": point} for point in points[1:]]}
    (run,) = solve(job_of(line, section)).runs.values()
    if any(check.kind in ("swallowed", "pinched") for check in run.checks):
        return
    areas = painted_areas(run.cuts, np.arange(run.pieces))
    for piece in range(run.pieces):
        assert areas[piece] == pytest.approx(measured(run, piece)[1], rel=2e-3), (steps, piece, run.checks)


def test_a_ring_of_round_bar_is_painted_as_a_torus() -> None:
    """4π²·R·r about its axis (Pappus–Guldin, second theorem), and weighs 2π²·R·r²·ρ."""
    legs = [{"kind": "arc", "via": [0, 500 * side, 0], "to": [-500 * side, 0, 0]} for side in (1, -1)]
    ring = {"name": "Ring", "start": [500, 0, 0], "legs": legs, "closed": True}
    bar = from_library("round-bar-20")
    solved = solve(job_of(ring, bar.model_dump()))
    (row,) = cutting_list(solved)
    assert row.quantity * row.painted == pytest.approx(4 * math.pi**2 * 500 * 10, rel=1e-9)
    assert row.quantity * row.weight == pytest.approx(2 * math.pi**2 * 500 * 100 * 7850e-9, rel=1e-9)


def test_a_hidden_back_is_not_painted() -> None:
    """Of boards mitred round a corner, their backs at the wall: two rectangles as long as the wall, and as high as the board, less."""
    board = SectionBody(name="Board", outline=rectangle(40, 100), width=40, height=120)
    wall = {"name": "Wall", "start": [0, 0, 0], "legs": [{"kind": "straight", "to": to} for to in ([0, 2000, 0], [3000, 2000, 0])]}
    plain, hidden = (
        painted_areas(run.cuts, np.arange(2))
        for held in ((), ({"kind": "hidden", "edge": [0, 3]},))
        for run in solve(job_of(wall, {**board.model_dump(), "held": held})).runs.values()
    )
    assert plain - hidden == pytest.approx([2000 * 120, 3000 * 120])
    # Round this corner the boards face its inside: front, top and foot are shorter there.
    assert hidden == pytest.approx([120 * (long - 40) + 2 * 40 * (long - 20) for long in (2000, 3000)])


def test_weights_and_areas_of_the_schedule_are_those_of_its_pieces() -> None:
    solved = solve(ferry_house())
    rows = cutting_list(solved)
    entries = list(schedule_entries(solved))
    together = sum(row.quantity * row.weight for row in rows), sum(row.quantity * row.painted for row in rows)
    (job,) = [entry for entry in entries if entry.kind == "job"]
    assert (job.weight, job.painted) == pytest.approx(together)
    for kind in ("run", "section"):
        of = [entry for entry in entries if entry.kind == kind]
        assert sum(entry.weight or 0 for entry in of) == pytest.approx(together[0])
        assert sum(entry.painted or 0 for entry in of) == pytest.approx(together[1])


def test_another_material_and_a_hidden_edge_are_other_weights_and_areas_at_once() -> None:
    """One solver, as the service has it, which keeps what is as it was: neither changes any length."""
    board = SectionBody(name="Board", outline=rectangle(40, 100), width=40, height=100, material="softwood")
    wall = {"name": "Wall", "start": [0, 0, 0], "legs": [{"kind": "straight", "to": [2000, 0, 0]}]}
    solver, job = Solver(), job_of(wall, board.model_dump())
    (before,) = cutting_list(solver.solve(job))
    steel = apply_all(job, [read({"kind": "set_section", "section": "S2", "changes": {"material": "steel"}})]).job
    (heavier,) = cutting_list(solver.solve(steel))
    assert (before.weight, heavier.weight) == pytest.approx((0.04 * 0.1 * 2 * 420, 0.04 * 0.1 * 2 * 7850))
    section = steel.section("S2")
    hidden = section.model_copy(update={"held": (Hidden(edge=(0, 3)),)})
    (barer,) = cutting_list(solver.solve(steel.model_copy(update={"sections": (hidden,)})))
    assert heavier.painted - barer.painted == pytest.approx(100 * 2000)
