"""Curves against closed forms and general libraries: lengths, points, frames."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
from geomdl import NURBS, BSpline, operations
from geomdl.operations import length_curve
from hypothesis import assume, given
from hypothesis import strategies as st
from making import bent_line
from scipy.integrate import quad
from scipy.interpolate import CubicSpline, splev

from slow_ribbon.core.geometry.catenary import CordSpan
from slow_ribbon.core.geometry.curves import ScrewSpan
from slow_ribbon.core.geometry.framed_path import Stations
from slow_ribbon.core.geometry.parametric import ParametricSpan
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import ArcLeg, CordLeg, CurveLeg, HelixLeg, PassPoint, ThroughLeg, helix_end

angles = st.floats(0.05, 1.95 * math.pi)


@given(st.floats(10, 1e5), angles)
def test_an_arc_by_plane_geometry(radius: float, turn: float) -> None:
    """Length Rφ, sagitta R(1 − cos(φ/2)), chord 2R sin(φ/2): plane geometry."""
    via, end = ((radius * math.cos(a), radius * math.sin(a), 0.0) for a in (turn / 2, turn))
    (arc,) = ArcLeg(to=end, via=via).spans((radius, 0, 0))
    assert isinstance(arc, ScrewSpan)
    assert arc.length == pytest.approx(radius * turn, rel=1e-8)
    ends = arc.at(np.array([0, arc.length / 2, arc.length]))[0]
    assert math.dist(ends[0], ends[2]) == pytest.approx(2 * radius * math.sin(turn / 2), rel=1e-8, abs=1e-6)
    chord = (ends[0] + ends[2]) / 2
    assert np.linalg.norm(ends[1] - chord) == pytest.approx(radius * (1 - math.cos(turn / 2)), rel=1e-8, abs=1e-6)


def test_a_helix_turn() -> None:
    """√((2πR)² + H²) a turn: any calculus text."""
    start = (700.0, 0.0, 0.0)
    end = helix_end(start, (0, 0, 0), (0, 0, 1), 360, 250)
    (screw,) = HelixLeg(to=end, centre=(0, 0, 0), turn=360).spans(start)
    assert screw.length == pytest.approx(math.hypot(2 * math.pi * 700, 250), rel=1e-12)


@pytest.mark.parametrize(
    ("leg", "parameter", "length"),
    [
        # Level supports 4000 apart, sag 400: y = a(cosh(x/a) − 1) solved numerically.
        (CordLeg(to=(4000, 0, 0), sag=400), 5065.297, 4104.747),
        # 5200 apart and 600 different in height, cord 5600: √(L² − v²) = 2a sinh(h/2a).
        (CordLeg(to=(5200, 0, 600), length=5600), 4032.969, 5600.0),
    ],
)
def test_catenaries(leg: CordLeg, parameter: float, length: float) -> None:
    (cord,) = leg.spans((0, 0, 0))
    assert isinstance(cord, CordSpan)
    assert cord.parameter == pytest.approx(parameter, abs=1e-3)
    assert cord.length == pytest.approx(length, abs=1e-3)
    assert cord.at(np.array([cord.length]))[0][0] == pytest.approx(leg.to, abs=1e-6)


@given(st.floats(500, 20_000), st.floats(-0.6, 0.6), st.floats(0.002, 0.8))
def test_a_cord_is_the_closed_form_of_the_catenary(across: float, slope: float, sag: float) -> None:
    end = (across, 0.0, slope * across)
    (cord,) = CordLeg(to=end, sag=sag * across).spans((0, 0, 0))
    assert isinstance(cord, CordSpan)
    s = np.linspace(0, cord.length, 200)
    points, tangents, _ = cord.at(s)
    a, low = cord.parameter, cord.lowest
    closed = a * (np.cosh((points[:, 0] - low) / a) - math.cosh(low / a))
    assert points[:, 2] == pytest.approx(closed, abs=1e-6 * across)
    assert np.max(points[:, 0] * slope - points[:, 2]) == pytest.approx(sag * across, rel=2e-4)
    # The tension of a cord is level everywhere the same: ds/dx·dz/ds grows as s.
    assert np.diff(tangents[:, 2] / tangents[:, 0]) == pytest.approx(np.diff(s) / a, rel=1e-6, abs=1e-12)
    again = CordLeg(to=end, length=cord.length).spans((0, 0, 0))[0]
    assert again.at(np.array([cord.length / 3]))[0][0] == pytest.approx(cord.at(np.array([cord.length / 3]))[0][0], abs=1e-4)


controls = st.lists(st.tuples(*[st.floats(-5000, 5000)] * 3), min_size=4, max_size=9).filter(
    lambda points: min(math.dist(a, b) for a, b in pairwise(points)) > 50
)


@given(controls, st.integers(2, 4), st.data())
def test_rational_curves_against_geomdl(points: list[tuple[float, float, float]], degree: int, data: st.DataObject) -> None:
    degree = min(degree, len(points) - 1)
    weights = data.draw(st.lists(st.floats(0.3, 3), min_size=len(points), max_size=len(points)))
    theirs = NURBS.Curve()
    theirs.degree = degree
    theirs.ctrlpts = [list(point) for point in points]
    theirs.weights = weights
    inner = len(points) - degree
    theirs.knotvector = [0.0] * (degree + 1) + [i / inner for i in range(1, inner)] + [1.0] * (degree + 1)
    leg = CurveLeg(to=points[-1], controls=tuple(points[1:-1]), degree=degree, weights=tuple(weights))
    spans = leg.spans(points[0])
    # A curve that stands still and turns back comes in parts; those are held to scipy elsewhere.
    assume(len(spans) == 1)
    ours = spans[0]
    assert isinstance(ours, ParametricSpan)
    parameters = np.linspace(0, 1, 23)
    assert ours.curve(parameters)[0] == pytest.approx(np.array(theirs.evaluate_list(parameters.tolist())), abs=1e-6)
    first = np.array([operations.tangent(theirs, u, normalize=True)[1] for u in (0.1, 0.45, 0.9)])
    rates = ours.curve(np.array([0.1, 0.45, 0.9]))[1]
    assert rates / np.linalg.norm(rates, axis=1)[:, None] == pytest.approx(first, abs=1e-6)
    # Their length is that of chords: it comes up to ours from below as they are made finer.
    theirs.sample_size = 2000
    assert 0 <= 1 - length_curve(theirs) / ours.length < 1e-4


def test_a_plain_b_spline_against_geomdl_and_scipy() -> None:
    points = [(0.0, 0.0, 0.0), (800.0, 1200.0, 300.0), (2000.0, -500.0, 900.0), (3100.0, 700.0, 200.0), (4000.0, 0.0, 0.0)]
    theirs = BSpline.Curve()
    theirs.degree = 3
    theirs.ctrlpts = [list(point) for point in points]
    theirs.knotvector = [0, 0, 0, 0, 0.4, 1, 1, 1, 1]
    leg = CurveLeg(to=points[-1], controls=tuple(points[1:-1]), degree=3, knots=tuple(theirs.knotvector))
    (ours,) = leg.spans(points[0])
    assert isinstance(ours, ParametricSpan)
    exact, _ = quad(lambda u: float(np.linalg.norm(theirs.derivatives(u, 1)[1])), 0, 1, points=[0.4], epsabs=1e-9, limit=200)
    assert ours.length == pytest.approx(exact, abs=1e-6)


@given(st.lists(st.tuples(st.floats(-900, 900), st.floats(-900, 900)), min_size=2, max_size=8))
def test_smooth_curves_against_scipy(offsets: list[tuple[float, float]]) -> None:
    points = np.array([(1000.0 * i + x, y, 0.0) for i, (x, y) in enumerate(offsets)])
    assume(len(points) >= 3 and np.linalg.norm(np.diff(points, axis=0), axis=1).min() >= 20)
    leg = ThroughLeg(to=tuple(points[-1]), points=tuple(PassPoint(at=tuple(point)) for point in points[1:-1]))
    (ours,) = leg.spans(tuple(points[0]))
    assert isinstance(ours, ParametricSpan)
    theirs = CubicSpline(ours.knots, points, bc_type="natural")
    u = np.linspace(ours.knots[0], ours.knots[-1], 60)
    assert ours.curve(u)[0] == pytest.approx(theirs(u), abs=1e-6)
    exact = sum(quad(lambda v: float(np.linalg.norm(theirs(v, 1))), a, b, epsabs=1e-9)[0] for a, b in pairwise(ours.knots))
    assert ours.length == pytest.approx(exact, abs=1e-6)
    # Half the length lies at half the length.
    half = ours.at(np.array([ours.length / 2]))[0][0]
    upper = float(ours.parameters(np.array([ours.length / 2]))[0])
    assert theirs(upper) == pytest.approx(half, abs=1e-6)
    # It is its own B-spline, as scipy's parametric splines evaluate it.
    assert pytest.approx(theirs(u), abs=1e-6) == np.array(splev(u, (ours.spline.t, ours.spline.c.T, 3))).T


def test_carried_frames_on_a_helix_turn_as_the_torsion_does() -> None:
    """A frame without twist lags behind the screw's own by its torsion times its length: τ = h/(R² + h²), h the rise a radian."""
    start, radius, rise = (1000.0, 0.0, 0.0), 1000.0, 3000.0
    end = helix_end(start, (0, 0, 0), (0, 0, 1), 720, rise)
    line = bent_line(start, [HelixLeg(to=end, centre=(0, 0, 0), turn=720)], frame="carried")
    course = course_of(line)
    h = rise / (4 * math.pi)
    torsion = h / (radius**2 + h**2)
    for share in (0.1, 0.37, 0.8, 1.0):
        s = share * course.length
        here = course.at(np.array([s]))
        normal = -np.array([math.cos(share * 4 * math.pi), math.sin(share * 4 * math.pi), 0])
        begin = course.at(np.array([0.0]))
        first = math.atan2(float(normal_at(begin, np.array([-1.0, 0, 0]))[1]), float(normal_at(begin, np.array([-1.0, 0, 0]))[0]))
        now = math.atan2(float(normal_at(here, normal)[1]), float(normal_at(here, normal)[0]))
        turned = (now - first) % (2 * math.pi)
        assert min(abs(turned - torsion * s % (2 * math.pi)), abs((2 * math.pi - turned) - torsion * s % (2 * math.pi))) < 1e-5


def normal_at(here: Stations, normal: Array) -> Array:
    return np.array([here.rights[0] @ normal, here.ups[0] @ normal])
