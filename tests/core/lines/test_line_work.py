"""Working on lines: what is split, reversed, mirrored, moved or made from others is where it should be, exactly."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from examples import examples
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from making import bent_line, bent_lines, line, polygons
from pydantic import TypeAdapter

from slow_ribbon.core.job.dimensions import Spot, dimensions, place_on
from slow_ribbon.core.job.document.document import Job, check_job
from slow_ribbon.core.job.edits.apply import apply, apply_all
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.job.lint import line_faults
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import ArcLeg, StraightLeg
from slow_ribbon.core.lines.made.midline import midway
from slow_ribbon.core.lines.model import Line, Mark, Opening
from slow_ribbon.core.lines.offset import offset
from slow_ribbon.core.lines.region import region
from slow_ribbon.core.lines.simplify import simplified
from slow_ribbon.core.lines.split_join import halves, join_lines, moved_by, reverse, split, start_at
from slow_ribbon.core.lines.transform import mirroring, moved_point, turning
from slow_ribbon.core.lines.validate import check_line
from slow_ribbon.demo import ferry_house

read = TypeAdapter(AnyEdit).validate_python
shares = st.floats(0.02, 0.98)


def places(path: Line, count: int = 60) -> Array:
    course = course_of(path)
    return course.points_at(np.linspace(0, course.length, count))


def edited(job: Job, *edits: dict[str, Any]) -> Job:
    found = apply_all(job, [read(edit) for edit in edits]).job
    check_job(found)
    return found


ROUNDED = bent_line(
    (0, 0, 0),
    [
        StraightLeg(to=(4000, 0, 0), round=500),
        StraightLeg(to=(4000, 3000, 0)),
        ArcLeg(to=(0, 3000, 0), via=(2000, 5000, 0)),
        StraightLeg(to=(0, 0, 0), round=200),
    ],
    closed=True,
)


@settings(max_examples=examples(60))
@given(bent_lines(), shares)
def test_the_two_parts_of_a_split_line_are_the_line(path: Line, share: float) -> None:
    length = course_of(path).length
    first, second = split(path, share * length)
    assert second is not None
    assert course_of(first).length + course_of(second).length == pytest.approx(length, abs=1e-6)
    assert first.legs[-1].to == second.start
    s = np.linspace(0, length, 41)
    low = s <= share * length
    both = np.concatenate([course_of(first).points_at(s[low]), course_of(second).points_at(s[~low] - share * length)])
    assert both == pytest.approx(course_of(path).points_at(s), abs=1e-5)


@given(shares)
def test_a_closed_line_started_elsewhere_is_the_same_loop(share: float) -> None:
    length = course_of(ROUNDED).length
    moved = start_at(ROUNDED, share * length)
    check_line(moved)
    s = np.linspace(0, length * 0.999, 50)
    assert course_of(moved).points_at(s) == pytest.approx(course_of(ROUNDED).points_at((s + share * length) % length), abs=1e-4)


@settings(max_examples=examples(60))
@given(bent_lines(), st.floats(-180, 180))
def test_reversed_mirrored_and_turned_lines_lie_where_they_should(path: Line, turn: float) -> None:
    here = places(path)
    assert places(reverse(path))[::-1] == pytest.approx(here, abs=1e-6)
    assert places(moved_by(path, mirroring((0, 0, 0), (1, 1, 0))))[:, [1, 0, 2]] == pytest.approx(here, abs=1e-6)
    cosine, sine = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    matrix = np.array([[cosine, -sine, 0], [sine, cosine, 0], [0, 0, 1]])
    assert places(moved_by(path, turning(turn, (0, 0, 0), (10, 20, 30)))) == pytest.approx(here @ matrix.T + (10, 20, 30), abs=1e-6)


def test_openings_and_marks_stay_where_they_are_on_a_reversed_line() -> None:
    for path in (ROUNDED, line([(0, 0), (3000, 0), (3000, 4000)])):
        placed = path.model_copy(update={"openings": (Opening(name="D", at=1000, width=900),), "marks": (Mark(name="M", at=2500),)})
        back = reverse(placed)
        for at, again in ((1000.0, back.openings[0].at + 900), (1900.0, back.openings[0].at), (2500.0, back.marks[0].at)):
            before, after = course_of(placed).points_at(np.array([at])), course_of(back).points_at(np.array([again]))
            assert after == pytest.approx(before, abs=1e-6)
        assert reverse(back).openings == placed.openings


@settings(max_examples=examples(60))
@given(bent_lines(), st.data())
def test_moving_a_point_moves_it_and_leaves_the_others(path: Line, data: st.DataObject) -> None:
    points = [path.start, *(leg.to for leg in path.legs)]
    index = data.draw(st.integers(0, len(points) - 1))
    to = (points[index][0] + 137.0, points[index][1] - 61.0, points[index][2])
    moved = moved_point(path, index, to)
    again = [moved.start, *(leg.to for leg in moved.legs)]
    # A helix keeps its turn: whether its new ends suit it is checked, and refused with the distance.
    assume(not any(leg.kind == "helix" for leg in path.legs))
    check_line(moved)
    assert again[index] == to
    assert again[:index] + again[index + 1 :] == points[:index] + points[index + 1 :]
    assert moved_point(moved, index, points[index]).start == path.start


def test_joined_lines_turn_round_and_close_their_gaps() -> None:
    first = line([(0, 0), (1000, 0)])
    second = line([(2000, 800), (1000.4, 0.3)]).model_copy(update={"openings": (Opening(name="D", at=100, width=200),)})
    third = line([(-0.2, 0), (-500, 900)])
    joined = join_lines([first, second, third], 1.0).line
    assert [leg.to for leg in joined.legs][-1] == (2000, 800, 0)
    assert joined.start == (-500, 900, 0)
    course = course_of(joined)
    # Turned round with its line, the opening is as far from the far end as it was from its start.
    assert course.length - joined.openings[0].at - 200 == pytest.approx(100, abs=0.6)
    with pytest.raises(Refused, match=r"0\.5 mm"):
        join_lines([first, second], 0.1)


@given(polygons(4, 8, (2500, 6000)), st.floats(-300, 300))
def test_an_offset_loop_is_at_its_distance_everywhere(points: Array, distance: float) -> None:
    """A loop of straights: area grows by length × distance and the corners' d²·tan(θ/2) (Steiner's formula for mitred offsets)."""
    assume(abs(distance) > 1)
    loop = line(points, True)
    try:
        start, legs = offset(loop, distance)
    except Refused:
        assume(False)
    moved = loop.model_copy(update={"start": start, "legs": legs})
    one, other = course_of(loop), course_of(moved)
    # On every leg the two are parallel, the distance apart.
    assert other.tangents == pytest.approx(one.tangents, abs=1e-9)
    across = np.einsum("ij,ij->i", other.starts - one.starts, one.rights)
    assert across == pytest.approx(np.full(one.count, distance), abs=1e-6)


def test_offsets_of_arcs_and_curves() -> None:
    start, legs = offset(ROUNDED, 150)
    moved = ROUNDED.model_copy(update={"start": start, "legs": legs})
    check_line(moved)
    radii = sorted(part.span.radius for part in _arcs(moved))
    # Anticlockwise, right is outside: every arc about the same centre, 150 further out.
    assert radii == pytest.approx([350, 650, 2150])
    with pytest.raises(Refused, match="vanish"):
        offset(ROUNDED, -600)
    curve = bent_line((0, 0, 0), [StraightLeg(to=(1000, 0, 0)), *_wave()])
    start, legs = offset(curve, 120)
    moved_points = places(curve.model_copy(update={"start": start, "legs": legs}), 400)
    known = places(curve, 20_000)
    away = np.sqrt(((moved_points[:, None] - known[None]) ** 2).sum(axis=2)).min(axis=1)
    assert away == pytest.approx(np.full(400, 120), abs=0.02)


def _wave() -> list[Any]:
    from slow_ribbon.core.lines.legs import PassPoint, ThroughLeg

    return [ThroughLeg(to=(5000, 0, 0), points=(PassPoint(at=(2300, 700, 0)), PassPoint(at=(3700, -600, 0))), begin=(1, 0, 0))]


def _arcs(path: Line) -> list[Any]:
    from slow_ribbon.core.lines.fillets import line_parts

    return [part for part in line_parts(path) if part.span.kind == "arc"]


def test_midway_between_two_arcs_is_an_arc() -> None:
    inner = bent_line((1000, 0, 0), [ArcLeg(to=(0, 1000, 0), via=(1000 * math.cos(0.7), 1000 * math.sin(0.7), 0))])
    outer = bent_line((0, 2000, 0), [ArcLeg(to=(2000, 0, 0), via=(2000 * math.cos(0.7), 2000 * math.sin(0.7), 0))])
    start, legs, closed = midway(inner, outer)
    assert (start, closed, legs[0].kind) == ((1000 * 1.5, 0, 0), False, "arc")
    assert np.linalg.norm(places(bent_line(start, legs)), axis=1) == pytest.approx(np.full(60, 1500), abs=1e-6)
    start, legs, _ = midway(line([(0, 0), (1000, 0), (2000, 500)]), line([(0, 400), (2000, 400)]))
    assert [leg.kind for leg in legs] == ["straight", "straight"]


def test_the_edge_of_a_region_is_made_of_the_lines_round_it() -> None:
    lines = [
        line([(0, 0), (5000, 0)]),
        line([(1000, -500), (1000, 4000)]),
        line([(-100, 2000), (5000, 2500)]),
        bent_line((3000, -1000, 0), [ArcLeg(to=(3000, 5000, 0), via=(4000, 2000, 0))]),
    ]
    ((start, legs),) = region(lines, (2000, 1000))
    edge = bent_line(start, legs, closed=True)
    check_line(edge)
    assert sorted(leg.kind for leg in legs) == ["arc", "straight", "straight", "straight"]
    # The circle through (3000, ∓…) has its centre at (−1000, 2000) and radius 5000.
    (arc,) = _arcs(edge)
    assert arc.span.radius == pytest.approx(5000, abs=1e-3)
    with pytest.raises(Refused, match="No lines enclose"):
        region(lines, (9000, 9000))


@given(st.floats(0.5, 20))
def test_a_simpler_line_strays_no_more_than_it_may(tolerance: float) -> None:
    random = np.random.default_rng(5)
    x = np.linspace(0, 10_000, 400)
    path = line(np.column_stack([x, 300 * np.sin(x / 900) + random.normal(0, 1, 400)]))
    simpler, strays = simplified(path, tolerance)
    assert strays <= tolerance + 1e-9
    assert len(simpler.legs) < len(path.legs)
    assert (simpler.start, simpler.legs[-1].to) == (path.start, path.legs[-1].to)


def test_every_fault_of_a_line_is_reported_and_mended_by_its_action() -> None:
    bad: dict[str, list[tuple[float, float]]] = {
        "crosses": [(0, 0), (3000, 0), (3000, 2000), (1500, -1500)],
        "nearly-closed": [(0, 0), (3000, 0), (3000, 2000), (0, 2000), (0, 12)],
        "tiny-leg": [(0, 0), (3000, 0), (3000.9, 0.5), (5000, 2000)],
        "kink": [(0, 0), (3000, 0), (6000, 30)],
    }
    for kind, points in bad.items():
        body = {"name": kind, "start": (*points[0], 0), "legs": [{"kind": "straight", "to": (*point, 0)} for point in points[1:]]}
        job = edited(Job(name="faults"), {"kind": "add_lines", "lines": [body]})
        found = [fault for fault in line_faults(job.lines[0]) if fault.kind == kind]
        assert found, kind
        assert found[0].action
        mended = apply(job, found[0].mend)
        assert not [fault for fault in line_faults(mended.lines[0]) if fault.kind == kind], kind
        assert len(found[0].mend.describe(job)) > 5


def test_a_kink_at_a_curve_is_mended_by_leaving_in_line() -> None:
    path = bent_line((0, 0, 0), [StraightLeg(to=(2000, 0, 0)), ArcLeg(to=(3000, 400, 0), via=(2538.0, 104.2, 0))])
    job = Job(name="x", lines=(path,), last_number=1)
    (fault,) = line_faults(path)
    assert fault.kind == "kink"
    assert course_of(apply(job, fault.mend).lines[0]).count == 1


def test_what_follows_a_split_or_joined_line_follows_on() -> None:
    job = ferry_house()
    parts = edited(job, {"kind": "split_line", "line": "L4", "at": 9500})
    new = next(line.id for line in parts.lines if line.id not in {old.id for old in job.lines})
    assert len([run for run in parts.runs if run.line == new]) == 3
    assert len({run.tag for run in parts.runs}) == len(parts.runs)
    whole = edited(parts, {"kind": "join_lines", "lines": ["L4", new], "tolerance": 1})
    assert len(whole.runs) == len(job.runs)
    assert course_of(whole.line("L4")).length == pytest.approx(course_of(job.line("L4")).length)
    with pytest.raises(Refused, match="Opening South door"):
        edited(job, {"kind": "split_line", "line": "L3", "at": 4000})


def test_reversing_moves_nothing_that_stands_on_a_line() -> None:
    from slow_ribbon.core.solve.solver import solve

    job = ferry_house()
    back = edited(job, {"kind": "reverse_lines", "lines": ["L4", "L6"]})
    before, after = solve(job), solve(back)
    for id in ("R16", "R17", "R18"):
        one, other = before.runs[id].cuts, after.runs[id].cuts
        assert sorted(other.long_points) == pytest.approx(sorted(one.long_points))
    posts, again = before.rows["I19"].out.positions, after.rows["I19"].out.positions
    assert again[::-1] == pytest.approx(posts, abs=1e-6)


def test_legs_become_arcs_helices_and_cords_by_their_figures() -> None:
    body = {"name": "l", "start": (0, 0, 0), "legs": [{"kind": "straight", "to": (1000, 0, 0)}, {"kind": "straight", "to": (3000, 0, 500)}]}
    job = edited(Job(name="legs"), {"kind": "add_lines", "lines": [body]})
    bent = edited(job, {"kind": "bend_leg", "line": "L1", "leg": 0, "radius": 700, "side": "left"})
    assert course_of(bent.lines[0]).at(np.array([1.0])).bends[0] == pytest.approx([1 / 700, 0], abs=1e-9)
    long = edited(job, {"kind": "bend_leg", "line": "L1", "leg": 0, "radius": 700, "side": "right", "long": True})
    assert course_of(long.lines[0]).length > course_of(bent.lines[0]).length + 1000
    with pytest.raises(Refused, match=r"smallest that does is 500 mm"):
        edited(job, {"kind": "bend_leg", "line": "L1", "leg": 0, "radius": 400, "side": "left"})
    screw = edited(job, {"kind": "turn_leg", "line": "L1", "leg": 1, "turn": 180})
    assert course_of(screw.lines[0]).length == pytest.approx(1000 + math.hypot(1000 * math.pi, 500))
    cord = {"kind": "cord", "to": (3000, 0, 500), "length": 2000}
    with pytest.raises(Refused, match=r"ends are 2061\.6 mm apart"):
        edited(job, {"kind": "set_leg", "line": "L1", "leg": 1, "changes": cord})
    hung = edited(job, {"kind": "set_leg", "line": "L1", "leg": 1, "changes": {**cord, "length": 2200}})
    assert course_of(hung.lines[0]).length == pytest.approx(3200)


@pytest.mark.parametrize(
    ("leg", "code"),
    [
        ({"kind": "arc", "to": (1000, 0, 0), "via": (500, 0, 0)}, "arc-flat"),
        ({"kind": "curve", "to": (1000, 0, 0), "controls": [(500, 300, 0)], "degree": 3}, "curve-degree"),
        ({"kind": "curve", "to": (1000, 0, 0), "controls": [(500, 300, 0)], "degree": 2, "knots": [0, 0, 0, 1, 1]}, "curve-knots"),
        ({"kind": "curve", "to": (1000, 0, 0), "controls": [(500, 300, 0)], "degree": 2, "knots": [0, 0, 1, 1, 1, 1]}, "curve-knots"),
        ({"kind": "curve", "to": (1000, 0, 0), "controls": [(500, 300, 0)], "weights": [1, -1, 1]}, "curve-weights"),
        ({"kind": "through", "to": (1000, 0, 0), "points": [{"at": (1000, 0, 0)}]}, "leg-zero"),
        ({"kind": "helix", "to": (1000, 0, 0), "centre": (500, 0, 0), "turn": 0}, "helix-flat"),
        ({"kind": "cord", "to": (0, 0, 1000), "sag": 100}, "cord"),
        ({"kind": "cord", "to": (1000, 0, 0)}, "cord"),
    ],
)
def test_legs_that_cannot_be_are_refused_at_their_place(leg: dict[str, Any], code: str) -> None:
    with pytest.raises(Refused) as refused:
        edited(Job(name="x"), {"kind": "add_lines", "lines": [{"name": "l", "start": (0, 0, 0), "legs": [leg]}]})
    assert refused.value.code == code
    assert refused.value.where.startswith("legs.0")
    assert "Leg 1 of l" in refused.value.what


def test_dimensions_between_places() -> None:
    job = ferry_house()
    figures = {one.name: one.value for one in dimensions(job, Spot(line="L3", chainage=0.0), Spot(line="L3", chainage=19_440.7075))}
    assert figures["distance"] == pytest.approx(math.dist((0, 0), (15_800, 4600)), abs=0.01)
    assert figures["radius at the second"] == pytest.approx(3400)
    assert figures["along the line"] + figures["the other way round"] == pytest.approx(course_of(job.line("L3")).length)
    apart = {one.name: one.value for one in dimensions(job, Spot(line="L4", chainage=10.0), Spot(line="L5", chainage=9000.0))}
    assert apart["lines apart at least"] == pytest.approx(1700, abs=1e-3)
    with pytest.raises(Refused, match="A place is"):
        dimensions(job, Spot(), Spot(point=(0, 0, 0)))


def test_halves_of_a_rounding_keep_the_line_where_it_is() -> None:
    # The first corner's arc lies from 3500 − 0 on; cut through it becomes a leg of its own.
    length = course_of(ROUNDED).length
    for at in (3300 + 100.0, 3300 + 400.0, length - 50.0):
        parted = halves(ROUNDED, at)
        assert np.array(parted.point) == pytest.approx(course_of(ROUNDED).points_at(np.array([at]))[0], abs=1e-6)


@given(st.floats(-3000, 3000), st.floats(-4000, -100), st.floats(0.3, 0.7))
def test_a_straight_touches_a_circle_where_plane_geometry_says(east: float, north: float, about: float) -> None:
    """The tangent from a point at distance d from a circle of radius R is √(d² − R²) long, and square to the radius."""
    radius, centre = 1000.0, np.array([0.0, 2500.0])
    arc = bent_line((radius, 2500, 0), [ArcLeg(to=(-radius, 2500, 0), via=(0, 2500 - radius, 0))])
    begin = np.array([east, north])
    away = centre - begin
    reach = math.asin(radius / math.hypot(*away))
    # Of the two straights that touch the circle, the one on the right touches the lower half here too.
    turn = math.atan2(away[1], away[0]) - reach
    touch = begin + np.array([math.cos(turn), math.sin(turn)]) * math.sqrt(away @ away - radius**2)
    angle = math.atan2(touch[1] - 2500, touch[0]) % (2 * math.pi)
    assume(math.radians(190) < angle < math.radians(350))
    true = (2 * math.pi - angle) * radius
    chainage, point = place_on(arc, true + (about - 0.5) * 100, (east, north, 0.0))
    assert chainage == pytest.approx(true, abs=1e-6)
    assert point == pytest.approx((*touch, 0), abs=1e-6)


def test_no_straight_touches_a_corner() -> None:
    job = ferry_house()
    with pytest.raises(Refused, match="touches"):
        place_on(job.line("L3"), 6600.0, (3000.0, 3000.0, 0.0))
    assert place_on(job.line("L3"), 1e9)[0] == pytest.approx(course_of(job.line("L3")).length)
