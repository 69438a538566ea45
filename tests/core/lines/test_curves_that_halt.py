"""Curves whose speed vanishes somewhere, and curves of hostile figures: read, exact, and bounded."""

from __future__ import annotations

import math
import subprocess
import sys
import warnings
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st
from making import bent_line
from scipy.integrate import IntegrationWarning, quad
from scipy.interpolate import BSpline

from slow_ribbon.core.geometry.curves import MOST_PARTS, flattening
from slow_ribbon.core.geometry.splines import halts, settled
from slow_ribbon.core.job.lint import line_faults
from slow_ribbon.core.kernel.arrays import CHORD_HEIGHT, Array
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import AnyLeg, CurveLeg, StraightLeg
from slow_ribbon.core.lines.legs.curve import smooth_cubics
from slow_ribbon.core.lines.validate import check_line, surely_sound
from slow_ribbon.core.runs.making.checks import run_checks
from slow_ribbon.core.runs.placement.placing import FacingSide, Placing
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.sections.document.section import NamedDatum, Section
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.solve.solve_kinds import solve_run

Point = tuple[float, float, float]
MIDDLE = Section(id="S1", name="s", outline=rectangle(40, 60), width=40, height=60, datum=NamedDatum(name="middle"))
RUN = Run(id="R1", name="r", tag="A", line="L1", section="S1", placing=Placing(facing=FacingSide(kind="right")))


def length_of(points: list[Point]) -> float:
    """The length of a Bézier curve by scipy's adaptive quadrature, in parts between which it may stand still."""
    curve = BSpline([0.0] * len(points) + [1.0] * len(points), np.array(points), len(points) - 1)
    rate = curve.derivative()
    marks = np.linspace(0, 1, 41)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", IntegrationWarning)
        parts = [quad(lambda t: float(np.linalg.norm(rate(t))), a, b, epsabs=1e-11, limit=400)[0] for a, b in pairwise(marks)]
    return math.fsum(parts)


coordinates = st.floats(-3000, 3000).map(lambda value: round(value, 3))
points = st.tuples(coordinates, coordinates, st.sampled_from([0.0, 0.0, 250.0]))


@st.composite
def halting(draw: st.DrawFn) -> list[Point]:
    """Controls of which some are doubled, tripled, drawn back into an end or nearly so, all on one straight, or folded back."""
    controls = draw(st.lists(points, min_size=4, max_size=6, unique=True))
    way = draw(st.sampled_from(["begin", "end", "both", "inside", "near", "straight", "cusp"]))
    if way in ("begin", "both"):
        controls[1] = controls[0]
    if way in ("end", "both"):
        controls[-2] = controls[-1]
    if way == "inside":
        controls[2] = controls[1]
    if way == "near":
        x, y, z = controls[0]
        controls[1] = (x + draw(st.sampled_from([1e-9, 1e-6, 1.2e-3, 0.05])), y, z)
    if way == "straight":
        controls = [(value, 2 * value, 0.0) for value, _, _ in controls]
    if way == "cusp":
        controls = [(0.0, 0.0, 0.0), (3000.0, 1000.0, 0.0), (0.0, 1000.0, 0.0), (3000.0, 0.0, 0.0)]
    return controls


@given(halting())
@example([(0.0, 101.0, 0.0), (0.0, 101.0, 0.0), (0.0, 0.0, 0.0), (0.0, 0.062, 0.0)])
@example([(-2602.0, 0.0, 0.0), (-2602.0, 0.0, 0.0), (-1569.0, 0.0, 0.0), (1063.0, 0.0, 0.0), (1042.0, 0.0, 0.0)])
def test_their_lengths_are_those_of_quadrature_and_their_tangents_limits(controls: list[Point]) -> None:
    chords = [math.dist(a, b) for a, b in pairwise(controls)]
    assume(max(chords) > 100 and math.dist(controls[0], controls[-1]) > 1)
    # A handle of a few millimetres turns the curve within micrometres, which a chord does not show.
    assume(all(chord < 0.1 or chord > 20 for chord in chords))
    spans = CurveLeg(to=controls[-1], controls=tuple(controls[1:-1])).spans(controls[0])
    assert sum(span.length for span in spans) == pytest.approx(length_of(controls), abs=3e-3, rel=1e-9)
    at: Array = np.array(controls[0])
    for span in spans:
        s = np.concatenate([[0.0], np.geomspace(1e-9, span.length, 40)])
        s = np.minimum(np.concatenate([s, span.length - s]), span.length)
        places, tangents, curvatures = span.at(s)
        assert np.isfinite(curvatures).all()
        assert np.linalg.norm(tangents, axis=1) == pytest.approx(np.ones(len(s)), abs=1e-9)
        assert places[0] == pytest.approx(at, abs=2e-3)
        at = places[len(s) // 2 - 1]
        assert len(flattening(span, 0.2)) <= MOST_PARTS + 1
        if not all(chord < 1e-3 or chord > 20 for chord in chords):
            # A handle that is short but not nothing turns the curve within nanometres.
            continue
        # The tangent is the limit of the chords.
        near = span.at(np.array([0.0, 1e-6, span.length - 1e-6, span.length]))
        for a, b, end in ((0, 1, 0), (2, 3, 3)):
            chord = near[0][b] - near[0][a]
            assert np.linalg.norm(chord / np.linalg.norm(chord) - near[1][end]) < 0.25
    assert at == pytest.approx(np.array(controls[-1]), abs=2e-3)


@given(st.lists(st.one_of(halting().map(lambda controls: controls[:4]), st.lists(points, min_size=4, max_size=4)), min_size=1, max_size=6))
def test_curves_worked_out_together_are_those_worked_out_alone(curves: list[list[Point]]) -> None:
    """Lengths, chords and places; those that stand still between their ends are left to be taken apart."""
    legs = [CurveLeg(to=end, controls=(first, second)) for _, first, second, end in curves]
    begins = [curves[0][0], *(leg.to for leg in legs)]
    together = smooth_cubics(begins[0], legs)
    for number, (begin, leg) in enumerate(zip(begins, legs, strict=False)):
        controls = np.array([begin, *leg.controls, leg.to])
        if np.ptp(controls, axis=0).max() <= WELD:
            assert number not in together
            continue
        alone = leg.spans(begin)
        assert (number in together) == (not halts_inside(controls))
        if number not in together:
            continue
        one, other = together[number], alone[0]
        assert one.length == pytest.approx(other.length, abs=1e-7)
        # What may be coarser is as it is drawn.
        assert one.drawn(5.0)[0] is one.drawn(1e9)[0] is one.drawn(CHORD_HEIGHT)[0]
        for chord_height in (0.02, CHORD_HEIGHT):
            (places, points_one, ways_one), (known, points_other, _) = one.drawn(chord_height), other.drawn(chord_height)
            assert len(places) == pytest.approx(len(known), abs=2)
            if len(places) == len(known):
                assert places == pytest.approx(known, abs=1e-3)
                assert points_one == pytest.approx(points_other, abs=1e-3)
            assert np.linalg.norm(ways_one, axis=1) == pytest.approx(np.ones(len(places)), abs=1e-9)
            assert one.at(places)[0] == pytest.approx(points_one, abs=1e-4)
        for last in (False, True):
            assert one.direction(last) == pytest.approx(other.direction(last), abs=1e-9)
            end = other.length if last else 0.0
            assert one.at(np.array([end]))[0][0] == pytest.approx(controls[3 if last else 0], abs=1e-9)


def halts_inside(controls: Array) -> bool:
    return bool(halts(settled(BSpline([0.0] * 4 + [1.0] * 4, controls, 3))))


def test_an_ordinary_drawing_programs_curve_is_a_run_without_a_corner() -> None:
    """M0 0 C0 0 2000 1000 3000 1000: its handle drawn back into its first point."""
    path = bent_line((0, 0, 0), [CurveLeg(to=(3000, 1000, 0), controls=((0, 0, 0), (2000, 1000, 0)))])
    course = course_of(path)
    assert course.count == 1
    assert course.length == pytest.approx(length_of([(0, 0, 0), (0, 0, 0), (2000, 1000, 0), (3000, 1000, 0)]), abs=1e-6)
    assert course.tangents[0] == pytest.approx(np.array([2, 1, 0]) / math.sqrt(5))
    solved = solve_run(RUN, path, MIDDLE)
    assert solved.checks == ()
    # Its long point: 20 mm outside the whole turn of the curve, which is atan(1/2) one way.
    assert solved.cuts.long_points[0] == pytest.approx(course.length + 20 * math.atan(0.5), abs=1e-4)
    assert solved.cuts.short_points[0] == pytest.approx(course.length - 20 * math.atan(0.5), abs=1e-4)


def test_a_true_cusp_is_a_corner_and_a_curve_that_folds_back_a_check() -> None:
    cusp = bent_line((0, 0, 0), [CurveLeg(to=(3000, 0, 0), controls=((3000, 1000, 0), (0, 1000, 0)))])
    assert course_of(cusp).count == 2
    assert math.degrees(course_of(cusp).turns[1]) == pytest.approx(180, abs=1e-3)
    fold = bent_line((0, 0, 0), [CurveLeg(to=(2000, 0, 0), controls=((3000, 0, 0), (-1000, 0, 0)))])
    assert course_of(fold).count == 3
    assert {fault.kind for fault in line_faults(fold)} >= {"folds"}
    assert "folded" in {check.kind for check in run_checks(RUN, solve_run(RUN, fold, MIDDLE).cuts)}


def test_a_pinch_where_the_curvature_jumps_at_a_knot_is_reported() -> None:
    """Degree 2 with an inner knot: the curvature jumps there, and is greatest just beside it."""
    controls: list[Point] = [(0, 0, 0), (1000, 0, 0), (1030, 30, 0), (1030, 1000, 0)]
    leg = CurveLeg(to=controls[-1], controls=tuple(controls[1:-1]), degree=2)
    span = leg.spans(controls[0])[0]
    s = np.linspace(0, span.length, 40_001)
    tightest = 1 / float(np.linalg.norm(span.at(s)[2], axis=1).max())
    for wide, pinched in ((1.9 * tightest, False), (2.1 * tightest, True)):
        section = Section(id="S1", name="s", outline=rectangle(1, 1), width=wide, height=10, datum=NamedDatum(name="middle"))
        path = bent_line((0, 0, 0), [leg])
        kinds = [check.kind for check in solve_run(RUN, path, section).checks]
        assert ("pinched" in kinds) == pinched, (wide, tightest)


HOSTILE = """
import resource, sys
resource.setrlimit(resource.RLIMIT_AS, (2 * 1024**3, 2 * 1024**3))
sys.path.insert(0, "tests/core")
from making import bent_line
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.legs import CurveLeg
from slow_ribbon.core.lines.validate import check_line
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.sections.document.section import Section
from slow_ribbon.core.solve.solve_kinds import solve_run

section = Section(id="S1", name="s", outline=rectangle(40, 60), width=40, height=60)
run = Run(id="R1", name="r", tag="A", line="L1", section="S1")
hostile = [
    ((1e10, 0, 0), ((1e-9, 0, 0), (0, 1e-9, 0))),
    ((3000, 1000, 0), ((1.2e-3, 0, 0), (2000, 1000, 0))),
    ((3000, 1000, 0), ((1e-300, 0, 0), (-1e10, 1e10, 1e10))),
    ((1, 0, 0), ((1e9, 1e-9, 0), (-1e9, 1e9, 0), (1e9, -1e9, 0))),
    ((0.002, 0, 0), ((1e-4, 1e-4, 0), (5e-4, 1e-3, 0))),
]
for end, controls in hostile:
    for weights in (None, (1.0, 1e-9, *(1e9,) * (len(controls) - 1), 1.0)):
        path = bent_line((0, 0, 0), [CurveLeg(to=end, controls=controls, weights=weights)])
        try:
            check_line(path)
            solved = solve_run(run, path, section)
            solved.surface()
        except Refused:
            pass
print("well")
"""


def test_curves_of_hostile_figures_stay_within_two_gigabytes() -> None:
    done = subprocess.run([sys.executable, "-c", HOSTILE], capture_output=True, text=True, check=False)
    assert done.stdout == "well\n", done.stderr[-3000:]


def test_a_straight_beside_a_halting_curve_meets_it_in_line() -> None:
    legs: list[AnyLeg] = [CurveLeg(to=(3000, 1000, 0), controls=((0, 0, 0), (2000, 1000, 0))), StraightLeg(to=(5000, 1000, 0))]
    assert course_of(bent_line((0, 0, 0), legs)).count == 1


@given(st.lists(halting().filter(lambda controls: len(controls) == 4), min_size=1, max_size=4), st.booleans())
def test_what_is_surely_sound_is_found_sound_and_never_halts(curves: list[list[Point]], closed: bool) -> None:
    start = begin = curves[0][0]
    legs: list[CurveLeg] = []
    for _, first, second, end in curves:
        legs.append(CurveLeg(to=start if closed and len(legs) == len(curves) - 1 else end, controls=(first, second)))
    line = bent_line(start, legs, closed)
    if surely_sound([line]):
        check_line(line)
        for leg in legs:
            assert not halts(BSpline([0.0] * 4 + [1.0] * 4, np.array([begin, *leg.controls, leg.to]), 3))
            begin = leg.to


def test_a_smooth_line_of_curves_is_surely_sound() -> None:
    # A circle of four, as drawings have it, each of which turns by a quarter.
    k = 4 / 3 * (math.sqrt(2) - 1)
    turned = [(500, 0), (0, 500), (-500, 0), (0, -500), (500, 0)]
    legs = []
    for (ax, ay), (bx, by) in pairwise(turned):
        legs.append(CurveLeg(to=(bx, by, 0), controls=((ax - k * ay, ay + k * ax, 0), (bx + k * by, by - k * bx, 0))))
    assert surely_sound([bent_line((500, 0, 0), legs, True)]) == {"L1"}
