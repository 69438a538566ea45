"""What is seen of runs square to a plane, against figures worked out by hand and against projections of all of their corners."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.core.lines.model import Line, line_body, with_id
from slow_ribbon.core.runs.pieces.silhouettes import Silhouette, silhouettes
from slow_ribbon.core.runs.pieces.solids import piece_solid
from slow_ribbon.core.runs.placement.placing import Placing
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.sections.document.section import Section
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.solve.results import SolvedRun
from slow_ribbon.core.solve.solve_kinds import solve_run

UP = np.array([0.0, 0.0, 1.0])
#: 20 wide and 100 high.
BATTEN = Section(id="S1", name="Batten", outline=rectangle(20, 100), width=20, height=100)


def solved(points: list[tuple[float, float, float]], closed: bool = False, **placing: object) -> SolvedRun:
    line: Line = with_id(line_body(points, closed, "Line"), "L1")
    run = Run(id="R1", name="Run", tag="R", line="L1", section="S1", placing=Placing.model_validate(placing))
    return solve_run(run, line, BATTEN)


def area(seen: Silhouette) -> float:
    return shapely.union_all([shapely.Polygon(outline) for outline in seen.outlines]).area


def test_a_straight_is_seen_at_its_length_height_and_depth() -> None:
    run = solved([(0, 500, 0), (2000, 500, 0)])
    (front,) = silhouettes(run.surface(), np.array([1.0, 0.0, 0.0]), UP)
    assert area(front) == pytest.approx(2000 * 100, rel=1e-6)
    # From its end it is its section, and from aside it is foreshortened, with its end beside it.
    (end,) = silhouettes(run.surface(), np.array([0.0, 1.0, 0.0]), UP)
    assert area(end) == pytest.approx(20 * 100, rel=1e-4)
    half = math.radians(60)
    (aslant,) = silhouettes(run.surface(), np.array([math.cos(half), math.sin(half), 0.0]), UP)
    assert area(aslant) == pytest.approx((2000 * math.cos(half) + 20 * math.sin(half)) * 100, rel=1e-4)


def test_the_wall_behind_lies_deeper_than_the_one_before() -> None:
    run = solved([(0, 0, 0), (3000, 0, 0), (3000, 2000, 0), (0, 2000, 0)], closed=True)
    before, _, behind, _ = silhouettes(run.surface(), np.array([1.0, 0.0, 0.0]), UP)
    assert behind.depth - before.depth == pytest.approx(2000, abs=25)


@given(
    corners=st.lists(st.tuples(*[st.integers(-4, 4)] * 2), min_size=3, max_size=5, unique=True),
    bearing=st.integers(0, 359),
    lift=st.integers(-2000, 2000),
)
def test_what_is_seen_spans_what_its_corners_span(corners: list[tuple[int, int]], bearing: int, lift: int) -> None:
    run = solved([(1000.0 * x, 1000.0 * y, 0.0) for x, y in corners], lift=lift)
    across = np.array([math.cos(math.radians(bearing)), math.sin(math.radians(bearing)), 0.0])
    surface = run.surface()
    for index, seen in enumerate(silhouettes(surface, across, UP)):
        flat = (piece_solid(run.cuts, index).vertices - run.origin) @ np.column_stack([across, UP])
        shown = np.concatenate(seen.outlines) if seen.outlines else flat[:0]
        if np.ptp(flat, axis=0).min() < 1 or not len(shown) or (run.cuts.short_points <= 0).any():
            continue
        # Ends that are mitred are no faces, so a piece seen along itself may be seen as less.
        assert (shown.min(axis=0) >= flat.min(axis=0) - 0.02).all()
        assert (shown.max(axis=0) <= flat.max(axis=0) + 0.02).all()
        assert np.ptp(shown[:, 1]) == pytest.approx(100, abs=0.05)
