"""Rows on real lines: rings, seams, stretches too short, and what stands clear of openings, by shapely and by search."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
from examples import examples
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st
from making import bent_line, line
from pydantic import TypeAdapter

from slow_ribbon.core.cutting import schedule
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import AnyLeg, ArcLeg, StraightLeg
from slow_ribbon.core.lines.model import Line, Opening
from slow_ribbon.core.rows.checks import row_checks
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.rows.placement import covered as covered_by
from slow_ribbon.core.rows.row_set_out import RowSetOut
from slow_ribbon.core.rows.setting_out import set_row_out
from slow_ribbon.core.solve.solver import solve

POST = {"kind": "round", "diameter": 60, "height": 900}


def row(spacing: dict[str, Any], **more: Any) -> Row:
    data = {"id": "I1", "name": "Posts", "tag": "P", "line": "L1", "item": POST, "spacing": spacing, **more}
    return TypeAdapter(Row).validate_python(data)


def equal(most: float, **more: Any) -> dict[str, Any]:
    return {"rule": {"kind": "equal-bays", "most": most}, **more}


def fixed(centres: float, origin: str = "start", **more: Any) -> dict[str, Any]:
    return {"rule": {"kind": "fixed-centres", "centres": centres, "origin": origin}, **more}


def ring(radius: float = 1000) -> Line:
    half = ArcLeg(via=(0, radius, 0), to=(-radius, 0, 0))
    return bent_line((radius, 0, 0), [half, ArcLeg(via=(0, -radius, 0), to=(radius, 0, 0))], closed=True)


def rounded(corners: list[tuple[float, float]], radius: float) -> Line:
    path = line(corners, True)
    return path.model_copy(update={"legs": tuple(leg.model_copy(update={"round": radius}) for leg in path.legs)})


@pytest.mark.parametrize("corners", ["carry", "restart"])
def test_a_closed_line_without_corners_has_as_many_items_as_bays(corners: str) -> None:
    """A circle of R 1000 in bays of at most 1100: 6 of 1047, none of them in the place of another."""
    for path in (ring(), rounded([(0, 0), (2000, 0), (2000, 1500), (0, 1500)], 300)):
        out = set_row_out(row(equal(1100, corners=corners)), path)
        assert len(out.chainages) == math.ceil(course_of(path).length / 1100)
        assert out.ring
        apart = np.linalg.norm(out.positions[:, None] - out.positions[None], axis=2) + np.eye(len(out.positions)) * 1e6
        assert apart.min() > 500


def test_a_loop_with_one_corner_has_one_item_there() -> None:
    """A teardrop: restarted at its only corner, the row begins and ends in the same place."""
    angle = math.asin(1000 / 2500)
    reach = math.sqrt(2500**2 - 1000**2)
    x, y = reach * math.cos(angle), reach * math.sin(angle)
    legs: list[AnyLeg] = [StraightLeg(to=(x, -y, 0)), ArcLeg(via=(3500, 0, 0), to=(x, y, 0)), StraightLeg(to=(0, 0, 0))]
    path = bent_line((0, 0, 0), legs, closed=True)
    assert course_of(path).count == 1
    out = set_row_out(row(equal(900, corners="restart")), path)
    first = np.linalg.norm(out.positions - np.array(path.start), axis=1) < 1e-3
    assert first.sum() == 1


@pytest.mark.parametrize(
    ("length", "count", "centres"),
    [(4000, 4, (1000,)), (3900, 4, (900, 1000)), (3100, 4, (100, 1000)), (800, 1, (800,)), (1500, 2, (500, 1000))],
)
@pytest.mark.parametrize("origin", ["start", "centred", "end"])
def test_fixed_centres_round_a_loop(length: float, count: int, centres: tuple[float, ...], origin: str) -> None:
    """4000 round at 1000: four bays and nothing left over; at 3900 one of 900, which is among the centres."""
    side = length / 4
    path = line([(0, 0), (side, 0), (side, side), (0, side)], True)
    job = Job(name="j", lines=(path,), rows=(row(fixed(1000, origin)),), last_number=9)
    answer = schedule(solve(job)).rows["I1"]
    assert (answer.count, answer.left_over) == (count, 0)
    assert answer.centres == pytest.approx(centres)
    out = solve(job).rows["I1"].out
    bays = np.diff(np.sort(out.chainages), append=np.sort(out.chainages)[0] + length)
    assert sorted({round(float(bay), 6) for bay in bays}) == pytest.approx(centres)
    if origin != "centred":
        # Counted onward or backward from the start, the start has an item.
        assert np.isclose(np.mod(out.chainages + 1e-9, length), 0, atol=1e-6).any()


def test_what_a_ring_has_no_use_for_is_reported_and_openings_give_it_ends() -> None:
    path = line([(0, 0), (4000, 0), (4000, 3000), (0, 3000)], True)
    idle = row(equal(1000, inset_start=100, first=False))
    out = set_row_out(idle, path)
    (check,) = row_checks(idle, out, path)
    assert (check.kind, check.severity) == ("no-ends", "warning")
    assert "inset at the start" in check.what
    assert "first item" in check.what
    door = path.model_copy(update={"openings": (Opening(id="O1", name="D", at=1000, width=900),)})
    opened = set_row_out(idle, door)
    assert not opened.ring
    assert row_checks(idle, opened, door) == ()
    assert opened.begins == pytest.approx((1930,))
    assert opened.chainages[0] == pytest.approx(1930 + 100 + opened.stretches[0].centres)


@given(st.floats(0.01, 250), st.floats(150, 400))
def test_a_stretch_too_short_is_a_check_at_its_place_and_all_else_stands(sliver: float, inset: float) -> None:
    """An opening beside a corner leaves a sliver of 0.05 mm, say: the rest of the row is set out, and the job solved."""
    path = line([(0, 0), (5000, 0), (5000, 4000)])
    path = path.model_copy(update={"openings": (Opening(id="O1", name="D", at=5000 + sliver + 30, width=900),)})
    posts = row(equal(1000, inset_start=inset, inset_end=inset, corners="restart"))
    solved = solve(Job(name="j", lines=(path,), rows=(posts,), last_number=9))
    out = solved.rows["I1"].out
    assert [stretch.short for stretch in out.stretches] == [False, True, False]
    (check,) = solved.checks()
    assert (check.kind, check.severity, check.thing) == ("no-room", "fault", "I1")
    assert check.chainage == pytest.approx(5000 + sliver / 2)
    assert len(out.chainages) == sum(len(stretch.places) for stretch in out.stretches)
    assert len(out.stretches[2].places) > 1


items = st.one_of(
    st.fixed_dictionaries({"kind": st.just("box"), "along": st.floats(20, 900), "across": st.floats(20, 900), "height": st.just(900)}),
    st.fixed_dictionaries({"kind": st.just("round"), "diameter": st.floats(20, 600), "height": st.just(900)}),
)
turns = st.one_of(st.just({"kind": "line"}), st.fixed_dictionaries({"kind": st.just("bearing"), "bearing": st.floats(0, 360)}))
seats = st.fixed_dictionaries({"along": st.floats(-100, 100), "across": st.floats(-100, 100)})


def paths() -> list[Line]:
    arc: list[AnyLeg] = [StraightLeg(to=(4000, 0, 0)), ArcLeg(via=(6000, 828, 0), to=(6828, 2828, 0)), StraightLeg(to=(6828, 9000, 0))]
    return [
        line([(0, 0), (12_000, 0)]),
        line([(0, 0, 0), (8000, 2000, 5000)]),
        line([(0, 0), (6000, 0), (6000, 7000)]),
        bent_line((0, 0, 0), arc),
        line([(0, 0), (5000, 0), (5000, 4000), (0, 4000)], True),
    ]


def covered(posts: Row, out: RowSetOut, number: int) -> shapely.Polygon:
    return covered_by(posts.uses()[out.dealt[number]], out.positions[number], float(out.headings[number]), out.tilts[number])


@settings(max_examples=examples(120))
@given(st.integers(0, 4), items, turns, seats, st.floats(-150, 150), st.floats(0.2, 0.7), st.floats(600, 1400))
def test_no_item_stands_in_an_opening_and_the_nearest_just_clears_it(
    number: int, item: Any, turn: Any, seat: Any, off: float, share: float, width: float
) -> None:
    path = paths()[number]
    length = course_of(path).length
    at = share * (length - width)
    path = path.model_copy(update={"openings": (Opening(id="O1", name="D", at=at, width=width),)})
    posts = row(equal(500), item=item, turn=turn, seat=seat, stand_off=off)
    out = set_row_out(posts, path)
    assume(len(out.chainages) > 1)
    course = course_of(path)
    # What must stay free: as wide as the opening on plan, and as deep across the line as anything of the row reaches.
    places = np.unique(np.concatenate([np.linspace(at, at + width, 400), [s for s in course.begins if at < s < at + width]]))
    reach = abs(off) + 1400.0
    free = shapely.LineString(course.points_at(places)[:, :2]).buffer(reach, cap_style="flat", join_style="mitre")
    straight = number in (0, 1)
    way = shapely.LineString(course.points_at(places)[:, :2])
    straight = number in (0, 1)
    for index in range(len(out.chainages)):
        assert way.intersection(covered(posts, out, index)).length < 1e-3
        # Round a corner a strip as deep as this may reach legs that lie elsewhere; on a straight nothing at all stands in it.
        assert not straight or free.intersection(covered(posts, out, index)).area < 1.0
    if straight:
        # The items at both jambs touch them.
        jambs = shapely.LineString(course.points_at(np.array([at, at + width]))[:, :2]).boundary.geoms
        axis = course.tangents[0][:2] / np.linalg.norm(course.tangents[0][:2])
        ends = [np.array(jamb.coords[0]) @ axis for jamb in jambs]
        reaches = [np.array(covered(posts, out, index).exterior.coords) @ axis for index in range(len(out.chainages))]
        before = [float(one.max()) for one in reaches if one.max() <= ends[0] + 1e-3]
        after = [float(one.min()) for one in reaches if one.min() >= ends[1] - 1e-3]
        assert len(before) + len(after) == len(reaches)
        slack = 0.2 if item["kind"] == "round" else 1e-6
        assert not before or max(before) == pytest.approx(ends[0], abs=slack)
        assert not after or min(after) == pytest.approx(ends[1], abs=slack)


@given(items, turns, st.floats(100, 900), st.floats(30, 150))
@example({"kind": "box", "along": 20.0, "across": 145.0, "height": 900}, {"kind": "line"}, 125.0, 150.0)
def test_beside_a_corner_items_keep_clear_of_an_opening_round_it(item: Any, turn: Any, gap: float, degrees: float) -> None:
    """An opening a little after a corner: what stands before the corner must not reach into it either."""
    angle = math.radians(degrees)
    path = line([(0, 0), (5000, 0), (5000 + 5000 * math.cos(angle), 5000 * math.sin(angle))])
    path = path.model_copy(update={"openings": (Opening(id="O1", name="D", at=5000 + gap, width=1000),)})
    posts = row(fixed(250, "end"), item=item, turn=turn)
    out = set_row_out(posts, path)
    course = course_of(path)
    ends = course.points_at(np.array([5000 + gap, 6000 + gap]))[:, :2]
    way = shapely.LineString(ends)
    for index in np.flatnonzero(out.chainages < 5000 + gap).tolist():
        # Nothing lies across the opening itself.
        assert way.intersection(covered(posts, out, index)).length < 1e-3
