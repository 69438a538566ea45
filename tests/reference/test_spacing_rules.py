"""Spacing rules and ways of measuring against arithmetic and plane geometry that share no code with them."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from making import bent_line, line

from slow_ribbon.core.geometry.trace import Trace
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import ArcLeg, CordLeg, HelixLeg, StraightLeg, helix_end
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.rows.row_set_out import RowSetOut
from slow_ribbon.core.rows.setting_out import set_row_out


def out_of(path: Line, rule: dict[str, Any], width: float = 20.0, **spacing: Any) -> RowSetOut:
    item = {"kind": "box", "along": width, "across": 20, "height": 900}
    row = {"id": "I1", "tag": "B", "name": "Balusters", "line": "L1", "item": item, "spacing": {"rule": rule, **spacing}}
    return set_row_out(Row.model_validate(row), path)


def straight(length: float, rise: float = 0.0) -> Line:
    return line([(0, 0, 0), (length, 0, rise)])


def steps(out: RowSetOut) -> Array:
    return np.asarray(np.linalg.norm(np.diff(out.positions, axis=0), axis=1))


def test_twenty_balusters_close_2400_between_posts() -> None:
    """Clear 2400 between posts, balusters 20 wide, gap at most 100: 20 balusters, gap 95.238 (arithmetic of the rule; common practice)."""
    out = out_of(straight(2400), {"kind": "clear-gap", "gap": 100})
    assert len(out.chainages) == 20
    assert out.stretches[0].gap == pytest.approx(95.238, abs=5e-4)
    faces = np.concatenate([[0.0], np.sort(np.concatenate([out.positions[:, 0] - 10, out.positions[:, 0] + 10])), [2400.0]])
    assert np.diff(faces)[::2] == pytest.approx(out.stretches[0].gap)


@given(st.floats(100, 20_000), st.floats(5, 200), st.floats(20, 400), st.sampled_from([0.0, 7.0]))
def test_clear_gaps_are_equal_none_wider_than_asked_and_none_needless(length: float, width: float, gap: float, seat: float) -> None:
    item = {"kind": "box", "along": width, "across": 20, "height": 900}
    data = {"id": "I1", "tag": "B", "name": "Balusters", "line": "L1", "item": item, "seat": {"along": seat}}
    out = set_row_out(Row.model_validate({**data, "spacing": {"rule": {"kind": "clear-gap", "gap": gap}}}), straight(length))
    count = len(out.chainages)
    middles = np.sort(out.positions[:, 0])
    faces = np.concatenate([[0.0], np.column_stack([middles - width / 2, middles + width / 2]).ravel(), [length]])
    gaps = np.diff(faces)[::2]
    assert gaps == pytest.approx(gaps[0], abs=1e-6)
    assert gaps.max() <= gap + 1e-5
    # One item fewer would leave gaps that are too wide.
    assert not count or (length - (count - 1) * width) / count > gap - 1e-5


@given(st.floats(50, 20_000), st.floats(20, 5000))
def test_nearest_bays_are_the_nearest_of_their_number(length: float, near: float) -> None:
    """bays = max(1, round(L'/c)); of the bays one more or fewer give, none would be as near in number of bays."""
    out = out_of(straight(length), {"kind": "nearest-bays", "near": near})
    bays = out.stretches[0].bays
    assert abs(length / near - bays) <= 0.5 + 1e-6 or bays == 1
    assert steps(out) == pytest.approx(length / bays)


@pytest.mark.parametrize("closed", [False, True])
@pytest.mark.parametrize("number", [1, 2, 7])
def test_a_set_number_has_one_bay_fewer_and_as_many_on_a_ring(number: int, closed: bool) -> None:
    path = line([(0, 0), (3000, 0), (3000, 2000), (0, 2000)], closed)
    out = out_of(path, {"kind": "set-number", "number": number})
    length = course_of(path).length
    assert len(out.chainages) == number
    assert np.diff(out.chainages) == pytest.approx(length / (number if closed else max(1, number - 1)))


@given(st.floats(500, 9000), st.floats(-6000, 6000), st.floats(50, 700), st.sampled_from(["start", "centred", "end"]))
def test_on_plan_a_raked_line_is_measured_by_its_level_run(level: float, rise: float, centres: float, origin: str) -> None:
    """Along a straight of pitch p distance on plan is distance along it times cos p."""
    out = out_of(straight(level, rise), {"kind": "fixed-centres", "centres": centres, "origin": origin}, measured="plan")
    assert len(out.chainages) == math.floor(level / centres + 1e-9) + 1
    assert np.diff(out.positions[:, 0]) == pytest.approx(centres)
    over = level - (len(out.chainages) - 1) * centres
    assert out.positions[0, 0] == pytest.approx({"start": 0.0, "centred": over / 2, "end": over}[origin], abs=1e-6)


def test_on_plan_a_helix_is_its_circle_and_a_cord_its_level_span() -> None:
    """A helix of radius R that rises steadily goes round its circle: bays on plan are arcs Rφ. A cord's supports lie a span apart."""
    start = (900.0, 0.0, 0.0)
    turn = HelixLeg(to=helix_end(start, (0, 0, 0), (0, 0, 1), 300, 2700), centre=(0, 0, 0), turn=300)
    out = out_of(bent_line(start, [turn]), {"kind": "equal-bays", "most": 240}, measured="plan", inset_start=100, inset_end=50)
    angles = np.unwrap(np.arctan2(out.positions[:, 1], out.positions[:, 0]))
    run = 900 * math.radians(300) - 150
    assert len(angles) == math.ceil(run / 240) + 1
    assert np.diff(angles) * 900 == pytest.approx(run / (len(angles) - 1), abs=1e-6)
    assert angles[0] * 900 == pytest.approx(100, abs=1e-6)
    cord = bent_line((0.0, 0.0, 0.0), [CordLeg(to=(6000, 0, 800), sag=900)])
    lamps = out_of(cord, {"kind": "fixed-centres", "centres": 609.6, "origin": "centred"}, measured="plan")
    assert np.diff(lamps.positions[:, 0]) == pytest.approx(609.6, abs=1e-6)
    assert lamps.positions[0, 0] == pytest.approx((6000 - 9 * 609.6) / 2, abs=1e-6)


@given(st.floats(500, 8000), st.floats(20, 355), st.floats(0.05, 0.8))
def test_chords_of_an_arc_are_twice_its_radius_by_the_sine_of_half_their_angle(radius: float, degrees: float, share: float) -> None:
    """Chord 2R sin(φ/2) (plane geometry): fixed panels stand φ = 2 asin(c/2R) apart, equal ones φ/n."""
    angle = math.radians(degrees)
    to, via = ((radius * math.cos(a), radius * math.sin(a), 0.0) for a in (angle, angle / 2))
    path = bent_line((radius, 0.0, 0.0), [ArcLeg(to=to, via=via)])
    panel = share * radius
    step = 2 * math.asin(panel / (2 * radius))
    assume(0.001 < (angle / step) % 1 < 0.999)
    fixed = out_of(path, {"kind": "fixed-centres", "centres": panel}, measured="chord")
    assert len(fixed.chainages) == math.floor(angle / step) + 1
    assert steps(fixed) == pytest.approx(panel, abs=1e-6)
    assert np.diff(fixed.chainages) == pytest.approx(radius * step, abs=1e-5)
    centred = out_of(path, {"kind": "fixed-centres", "centres": panel, "origin": "centred"}, measured="chord")
    assert steps(centred) == pytest.approx(panel, abs=1e-6)
    assert centred.chainages[0] == pytest.approx(radius * angle - centred.chainages[-1], abs=1e-4)
    equal = out_of(path, {"kind": "equal-bays", "most": panel}, measured="chord")
    bays = math.ceil(angle / step)
    # A last bay whose end is nearer, straight, than a whole panel counts as a part of one by its straight length.
    assert equal.stretches[0].bays == bays
    assert steps(equal) == pytest.approx(2 * radius * math.sin(angle / bays / 2), abs=1e-5)


def test_chords_far_from_the_origin_are_as_true_as_figures_are_there_and_cost_no_more() -> None:
    for away in (0.0, 1e6, 1e8):

        def points_at(places: Array, away: float = away) -> Array:
            return np.column_stack([away + 900 * np.cos(places / 900), away + 900 * np.sin(places / 900), 0 * places])

        trace = Trace(points_at, np.linspace(0, 1500, 40))
        assert len(trace._nodes) < 400
        place = trace.first_beyond(0.0, 300.0, 1e-9)
        assert place == pytest.approx(900 * 2 * math.asin(300 / 1800), abs=max(1e-7, away * 1e-14))


panels = st.floats(150, 1400)
turns = st.lists(st.tuples(st.floats(300, 3000), st.floats(-2.4, 2.4)), min_size=1, max_size=5)


@given(turns, panels, st.sampled_from(["start", "centred", "end"]))
def test_panels_round_corners_touch_end_to_end_at_the_first_place_they_can(
    path: list[tuple[float, float]], panel: float, origin: str
) -> None:
    points, heading = [(0.0, 0.0)], 0.0
    for length, turn in path:
        points.append((points[-1][0] + length * math.cos(heading), points[-1][1] + length * math.sin(heading)))
        heading += turn
    way = bent_line((0.0, 0.0, 0.0), [StraightLeg(to=(x, y, 0.0)) for x, y in points[1:]])
    out = out_of(way, {"kind": "fixed-centres", "centres": panel, "origin": origin}, measured="chord")
    assert steps(out) == pytest.approx(panel, abs=1e-6)
    # Dense samples of the polyline, made by hand: between two items nothing beyond the first lies a panel away before the second does.
    ends = np.array(points)
    lengths = np.linalg.norm(np.diff(ends, axis=0), axis=1)
    marks = np.concatenate([[0.0], np.cumsum(lengths)])
    order = out.chainages if origin != "end" else out.chainages[::-1]
    for a, b in pairwise(order.tolist()):
        between = np.linspace(a, b, 200)[1:-1]
        xy = np.column_stack([np.interp(between, marks, ends[:, axis]) for axis in (0, 1)])
        here = np.array([np.interp(a, marks, ends[:, axis]) for axis in (0, 1)])
        assert np.linalg.norm(xy - here, axis=1).max() <= panel + 1e-5
    if origin == "centred":
        assert np.linalg.norm(out.positions[0, :2] - ends[0]) <= panel + 1e-6


sizes = st.sampled_from([0.0, 120.0, 333.3])


@given(st.lists(st.floats(700, 6000), min_size=1, max_size=4), st.floats(150, 1500), sizes, sizes, st.booleans())
def test_bays_next_to_ends_and_corners_have_sizes_of_their_own(
    lengths: list[float], most: float, end: float, corner: float, number: bool
) -> None:
    """Laid by hand: each leg less its two own bays is filled with the fewest equal bays; where none are asked nothing changes."""
    # A staircase on plan, so that each leg ends at a corner.
    points = np.cumsum([(0.0, 0.0), *((length, 0) if n % 2 == 0 else (0, length) for n, length in enumerate(lengths))], axis=0)
    wanted, marks = [0.0], [0.0]
    rule = {"kind": "set-number", "number": 6} if number else {"kind": "equal-bays", "most": most}
    for n, length in enumerate(lengths):
        own = [end if n == 0 else corner, end if n == len(lengths) - 1 else corner]
        middle = length - sum(own)
        bays = 5 - sum(1 for one in own if one) if number else math.ceil(middle / most - 1e-9)
        steps_there = [*own[:1], *([middle / bays] * bays), *own[1:]]
        wanted += (marks[-1] + np.cumsum([step for step in steps_there if step])).tolist()
        marks.append(marks[-1] + length)
    own_bays = {"end_bay": end, "corner_bay": corner}
    way = line([(x, y, 0) for x, y in points.tolist()])
    out = out_of(way, rule, corners="restart", **own_bays)
    assert out.chainages == pytest.approx(np.array(wanted), abs=1e-6)
    back = out_of(line([(x, y, 0) for x, y in points[::-1].tolist()]), rule, corners="restart", **own_bays)
    assert marks[-1] - back.chainages[::-1] == pytest.approx(out.chainages, abs=1e-6)


@given(st.floats(800, 5000), st.floats(0.3, 2.8), st.floats(100, 400), st.floats(100, 300))
def test_bays_of_their_own_are_measured_as_the_others_are(radius: float, sweep: float, most: float, end: float) -> None:
    """On an arc, from item to item: chords of 2R sin(φ/2) (plane geometry)."""
    at = [(radius * math.cos(turn), radius * math.sin(turn), 0.0) for turn in (0.0, sweep / 2, sweep)]
    arc = bent_line(at[0], [ArcLeg(via=at[1], to=at[2])])
    assume(radius * sweep > 2 * end + most)
    out = out_of(arc, {"kind": "equal-bays", "most": most}, measured="chord", end_bay=end)
    bays = steps(out)
    assert bays[[0, -1]] == pytest.approx(end, abs=1e-6)
    assert bays[1:-1] == pytest.approx(bays[1], abs=1e-5)
    turned = 2 * np.arcsin(bays / (2 * radius))
    assert turned.sum() == pytest.approx(sweep, abs=1e-7)


def test_bays_next_to_openings_and_those_without_room() -> None:
    door = {"id": "O1", "name": "Door", "at": 3000, "width": 1000}
    wall = Line.model_validate({**line([(0, 0, 0), (8000, 0, 0)]).model_dump(), "openings": [door]})
    out = out_of(wall, {"kind": "equal-bays", "most": 700}, opening_bay=250)
    near = out.chainages[np.abs(out.chainages - 3500) < 800]
    # Items 20 wide stand outside the opening by half of that.
    assert near == pytest.approx([2740, 2990, 4010, 4260])
    assert [stretch.end_bays for stretch in out.stretches] == [(250,), (250,)]
    short = out_of(straight(500), {"kind": "equal-bays", "most": 700}, end_bay=250)
    assert (short.stretches[0].crowded, short.chainages.tolist()) == (True, [0, 500])
    few = out_of(straight(5000), {"kind": "set-number", "number": 3}, end_bay=250)
    assert (few.stretches[0].crowded, few.chainages.tolist()) == (True, [0, 2500, 5000])
    ring = out_of(line([(0, 0), (900, 0), (900, 900)], True), {"kind": "equal-bays", "most": 300}, end_bay=100)
    assert not ring.stretches[0].end_bays


@pytest.mark.parametrize("number", [3, 5, 12])
def test_equal_panels_round_a_circle_make_a_regular_polygon(number: int) -> None:
    """Side 2R sin(180°/n) (plane geometry)."""
    half = ArcLeg(via=(0, 1000, 0), to=(-1000, 0, 0))
    ring = bent_line((1000.0, 0.0, 0.0), [half, ArcLeg(via=(0, -1000, 0), to=(1000, 0, 0))], closed=True)
    out = out_of(ring, {"kind": "set-number", "number": number}, measured="chord")
    closed = np.vstack([out.positions, out.positions[:1]])
    assert np.linalg.norm(np.diff(closed, axis=0), axis=1) == pytest.approx(2000 * math.sin(math.pi / number), abs=1e-6)


def test_an_upright_line_has_nothing_on_plan_to_measure() -> None:
    from slow_ribbon.core.kernel.errors import Refused

    with pytest.raises(Refused, match="no length on plan") as refused:
        out_of(line([(0, 0, 0), (0, 0, 3000)]), {"kind": "fixed-centres", "centres": 500}, measured="plan")
    assert refused.value.where == "spacing.measured"


@pytest.mark.parametrize("measured", ["along", "plan", "chord"])
@pytest.mark.parametrize(
    "rule", [{"kind": "clear-gap", "gap": 20}, {"kind": "fixed-centres", "centres": 100}, {"kind": "set-number", "number": 3}]
)
def test_insets_that_take_all_of_a_line_leave_a_single_place(rule: dict[str, object], measured: str) -> None:
    out = out_of(line([(0, 0), (900, 0)]), rule, measured=measured, inset_start=900)
    assert list(out.chainages) in ([], [pytest.approx(900)])
