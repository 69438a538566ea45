"""Cords with items on them: worked figures, a chain of bars in equilibrium, and hangers down to one level."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter
from scipy.optimize import minimize

from slow_ribbon.core.cutting import item_places, schedule_entries
from slow_ribbon.core.geometry.catenary import CordSpan
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits import AnyEdit, apply
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import CordLeg, hanging
from slow_ribbon.core.lines.legs.loaded_cord import LoadedCord, loaded_cord
from slow_ribbon.core.rows.on_cords import loaded_cords
from slow_ribbon.core.rows.setting_out import set_row_out
from slow_ribbon.core.solve.solver import solve

read_edit = TypeAdapter(AnyEdit).validate_python


def loaded(span: CordSpan, weight: float, places: list[float], load: float) -> LoadedCord:
    found = loaded_cord(span, weight, places, load)
    assert found is not None
    return found


def span_of(leg: CordLeg) -> CordSpan:
    (span,) = leg.spans((0.0, 0.0, 0.0))
    assert isinstance(span, CordSpan)
    return span


def test_three_loads_on_a_cord_of_hardly_any_weight() -> None:
    """6 m, three loads of 10 N at the quarter points, sag 0.5 m: H = M/f of the simple beam, 30 N·m / 0.5 m = 60 N."""
    # Two slopes of the funicular polygon are 15/60 and 5/60: so long is the cord.
    quarters = [1500 * math.hypot(1, slope) for slope in (15 / 60, 5 / 60, 5 / 60, 15 / 60)]
    span = span_of(CordLeg(to=(6000, 0, 0), length=sum(quarters)))
    found = loaded(span, 1e-4, np.cumsum(quarters)[:3].tolist(), 10.0)
    assert found.pulls.level == pytest.approx(60, rel=1e-4)
    assert found.sag == pytest.approx(500, rel=1e-4)
    assert (found.pulls.begin, found.pulls.end) == pytest.approx((math.hypot(60, 15),) * 2, rel=1e-4)
    assert found.points[:, 0] == pytest.approx([1500, 3000, 4500], rel=1e-4)


@given(st.floats(800, 20_000), st.floats(-2000, 2000), st.floats(0.03, 0.6), st.floats(0.1, 40), st.floats(0.1, 80), st.integers(0, 12))
def test_pulls_at_the_ends_hold_all_of_the_weight(
    level: float, height: float, share: float, weight: float, load: float, number: int
) -> None:
    leg = CordLeg(to=(level, 0, height), sag=share * level, weight=weight)
    span = span_of(leg)
    places = np.linspace(0, span.length, number + 2)[1:-1].tolist()
    found = loaded(span, weight, places, load)
    begin, end = (math.sqrt(pull**2 - found.pulls.level**2) for pull in (found.pulls.begin, found.pulls.end))
    whole = weight * span.length / 1000 + load * number
    # Either end may pull down where the lowest point lies beyond it.
    assert min(abs(a * begin + b * end - whole) for a in (1, -1) for b in (1, -1)) == pytest.approx(0, abs=1e-5 * whole)
    alone = hanging(span, leg)
    assert alone is not None
    assert alone.pulls is not None
    if not number:
        assert found.pulls.level == pytest.approx(alone.pulls.level, rel=1e-6)


@settings(max_examples=examples(8), deadline=None)
@given(st.floats(2000, 9000), st.floats(-800, 800), st.floats(0.05, 0.3), st.floats(0.5, 6), st.floats(2, 40), st.integers(1, 4))
def test_a_chain_of_bars_hangs_where_its_energy_is_least(
    level: float, height: float, share: float, weight: float, load: float, number: int
) -> None:
    """The cord as 60 stiff bars, whose joints are found by minimising its potential energy with the ends held (scipy)."""
    span = span_of(CordLeg(to=(level, 0, height), sag=share * level))
    bars = 60
    at = [round(bars * (i + 1) / (number + 1)) for i in range(number)]
    found = loaded(span, weight, [span.length * i / bars for i in at], load)
    bar = span.length / bars
    loads = np.full(bars - 1, weight * bar / 1000)
    loads[np.array(at) - 1] += load

    def joints(angles: Array) -> Array:
        return np.cumsum(bar * np.column_stack([np.cos(angles), np.sin(angles)]), axis=0)

    def energy(angles: Array) -> tuple[float, Array]:
        # Each bar lifts all joints from its end on.
        carried = np.concatenate([np.cumsum(loads[::-1])[::-1], [0.0]])
        return float(loads @ joints(angles)[:-1, 1]) / 1000, carried * bar * np.cos(angles) / 1000

    ends = {"type": "eq", "fun": lambda angles: (joints(angles)[-1] - (level, height)) / 1000}
    begin = np.interp(np.arange(bars), [0, bars - 1], [-0.6, 0.6]) + math.atan2(height, level)
    least: Any = minimize
    hung = least(energy, begin, jac=True, constraints=[ends], method="SLSQP", options={"maxiter": 2000, "ftol": 1e-14})
    assert hung.success
    assert joints(hung.x)[np.array(at) - 1] == pytest.approx(found.points, abs=span.length * 2e-3)


def festoon(**more: Any) -> Job:
    spans = [{"kind": "cord", "to": [x, 0, z], "sag": 400, "weight": 2, "allowance": 250} for x, z in ((6000, 4000), (13_000, 4400))]
    lamp = {"kind": "lamp", "diameter": 200, "height": 200, "hanger": 150}
    row = {
        "name": "Lamps",
        "line": "L1",
        "item": lamp,
        "spacing": {"rule": {"kind": "equal-bays", "most": 900}, "corners": "restart"},
        **more,
    }
    job = apply(Job(name="j"), read_edit({"kind": "add_lines", "lines": [{"name": "Cord", "start": [0, 0, 4200], "legs": spans}]}))
    return apply(job, read_edit({"kind": "add_row", "row": row}))


def test_hangers_reach_down_to_one_level() -> None:
    job = festoon(hang_to=3000)
    out = set_row_out(job.rows[0], job.line("L1"))
    heights = course_of(job.line("L1")).points_at(out.chainages)[:, 2]
    assert out.positions[:, 2] == pytest.approx(3000)
    hangers = [one.hanger for one in item_places(solve(job))]
    # The shade is 200 high, and hangs by the rest.
    assert hangers == pytest.approx((heights - 3000 - 200).tolist())
    assert solve(job).checks() == []
    cord = next(entry for entry in schedule_entries(solve(job)) if entry.kind == "cord")
    assert cord.total is not None
    assert cord.total.bar == pytest.approx(course_of(job.line("L1")).length + 4 * 250)


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"hang_to": 3900}, "too low here"),
        ({"least_level": 3500}, "below the least level"),
        ({"hang_to": 3000, "item": {"kind": "round", "height": 200}}, "no hanger"),
    ],
)
def test_what_hangs_too_low_is_reported(more: dict[str, Any], said: str) -> None:
    assert [check.what for check in solve(festoon(**more)).checks() if said in check.what]


def test_a_row_says_what_its_items_pull() -> None:
    job = festoon(weight_each=12)
    out = set_row_out(job.rows[0], job.line("L1"))
    found = [(leg, cord) for leg, cord in loaded_cords(job.rows[0], out, job.line("L1")) if cord is not None]
    assert [leg for leg, _ in found] == [0, 1]
    # Those over the masts hang on these.
    assert sum(len(cord.points) for _, cord in found) == len(out.chainages) - 3
    assert all(cord.pulls.level > 30 for _, cord in found)
    assert loaded_cords(festoon().rows[0], out, job.line("L1")) == []


@given(st.floats(1e-6, 1e6), st.floats(1e-6, 1e6), st.floats(1e-3, 5), st.integers(1, 30))
def test_a_row_of_any_weights_is_shown(weight: float, load: float, share: float, number: int) -> None:
    span = span_of(CordLeg(to=(5000, 0, 300), sag=share * 5000))
    found = loaded_cord(span, weight, np.linspace(0, span.length, number + 2)[1:-1].tolist(), load)
    # What cannot be worked out is reported at the row, and hinders nothing else.
    if found is not None:
        assert np.isfinite([found.pulls.level, found.pulls.begin, found.pulls.end, found.sag, found.strays]).all()
