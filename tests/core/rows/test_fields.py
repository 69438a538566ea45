"""Fields: closed lines filled on a grid or by chance, kept clear of paths, islands and other rows."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import pytest
import shapely
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st
from making import line
from pydantic import TypeAdapter, ValidationError
from scipy.spatial import cKDTree

from slow_ribbon.core.cutting import item_places
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits import AnyEdit, apply, apply_all
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.row_set_out import RowSetOut
from slow_ribbon.core.rows.setting_out import set_row_out
from slow_ribbon.core.solve.solver import solve

read_edit = TypeAdapter(AnyEdit).validate_python
SHRUB = {"kind": "tree", "diameter": 600, "height": 800, "stem": 0}
TREE = {"kind": "tree", "diameter": 2400, "height": 4500}
SQUARE = [(0, 0), (9000, 0), (9000, 6000), (0, 6000)]

Ring = list[tuple[float, float]]


@st.composite
def borders(draw: st.DrawFn) -> Ring:
    """Draw a closed line that does not cross itself: points round a middle, at any distance from it."""
    reaches = draw(st.lists(st.floats(1500, 6000), min_size=3, max_size=9))
    angles = np.linspace(0, 2 * np.pi, len(reaches), endpoint=False)
    ring = [(reach * math.cos(angle), reach * math.sin(angle)) for reach, angle in zip(reaches, angles.tolist(), strict=True)]
    return ring if draw(st.booleans()) else ring[::-1]


def other(points: Sequence[tuple[float, ...]], closed: bool = False) -> Line:
    return line(points, closed).model_copy(update={"id": "L2"})


def job_of(border: Sequence[tuple[float, ...]], filling: dict[str, Any], *lines: Line, **more: Any) -> Job:
    job = Job(name="j", lines=(line(border, True), *lines), last_number=9)
    return edited(job, "add_row", row={"name": "Shrubs", "line": "L1", "item": SHRUB, "spacing": SPACED, "filling": filling, **more})


SPACED = {"rule": {"kind": "equal-bays", "most": 1000}}


def edited(job: Job, kind: str, **fields: Any) -> Job:
    return apply(job, read_edit({"kind": kind, **fields}))


def out_of(job: Job, number: int = 0) -> RowSetOut:
    row = job.rows[number]
    return set_row_out(row, job.line(row.line))


def spots(out: RowSetOut) -> set[tuple[float, ...]]:
    return {tuple(point) for point in (np.round(out.positions[:, :2], 3) + 0.0).tolist()}


@settings(max_examples=examples(40))
@given(borders(), st.floats(0, 400), st.floats(300, 900), st.integers(0, 1000))
def test_a_field_by_chance_keeps_its_distance_and_leaves_no_free_place(border: Ring, inset: float, apart: float, seed: int) -> None:
    island = [(-300, -300), (300, -300), (300, 300), (-300, 300)]
    filling = {"kind": "chance", "apart": apart, "inset": inset, "seed": seed}
    job = job_of(border, filling, other(island, True), clear_of=[{"of": "L2", "by": 150}])
    found = out_of(job).positions[:, :2]
    ground = shapely.Polygon(border)
    points = shapely.points(found)
    assert (shapely.distance(ground.exterior, points) >= inset - 1e-6).all()
    assert shapely.covers(ground, points).all()
    assert (shapely.distance(shapely.Polygon(island), points) >= 150 - 0.2).all()
    if len(found) > 1:
        assert np.asarray(cKDTree(found).query(found, k=2)[0])[:, 1].min() >= apart
    # What no disc covers is no wider than what a disc's polygon leaves out.
    free = ground.difference(ground.exterior.buffer(inset + 1)).difference(
        shapely.box(-300, -300, 300, 300).buffer(151, join_style="mitre")
    )
    left = free.difference(shapely.union_all(shapely.buffer(points, apart * 1.001, quad_segs=64)))
    assert left.area == pytest.approx(0, abs=1e-3)
    assert np.array_equal(out_of(job_of(border, filling, other(island, True), clear_of=[{"of": "L2", "by": 150}])).positions[:, :2], found)


@given(st.floats(2000, 9000), st.floats(2000, 9000), st.floats(0, 360), st.floats(0, 400), st.floats(250, 900), st.booleans())
def test_rows_along_a_side_are_counted_as_by_hand(
    wide: float, deep: float, bearing: float, inset: float, step: float, turned: bool
) -> None:
    along, between = step, 1.3 * step
    counts = [(size - 2 * inset) / one for size, one in ((wide, along), (deep, between))]
    if any(abs(count - round(count)) < 1e-6 for count in counts):
        return
    cosine, sine = math.cos(math.radians(bearing)), math.sin(math.radians(bearing))
    border = [(x * cosine - y * sine, x * sine + y * cosine) for x, y in ((0, 0), (wide, 0), (wide, deep), (0, deep))]
    side = [0, 1]
    border, side = (border[::-1], [3, 2]) if turned else (border, side)
    filling = {"kind": "grid", "along": along, "between": between, "side": side, "inset": inset}
    found = out_of(job_of(border, filling)).positions[:, :2] @ np.array([(cosine, -sine), (sine, cosine)])
    rows = inset + between * np.arange(math.floor(counts[1]) + 1)
    places = (wide - along * math.floor(counts[0])) / 2 + along * np.arange(math.floor(counts[0]) + 1)
    wanted = np.array([(x, y) for y in rows for x in places])
    assert len(found) == len(wanted)
    assert np.max(cKDTree(wanted).query(found)[0]) < 1e-6


@settings(max_examples=examples(40))
@given(borders(), st.floats(0, 360), st.booleans(), st.sampled_from(["grid", "chance"]))
def test_a_border_gone_the_other_way_or_begun_elsewhere_changes_nothing(border: Ring, bearing: float, staggered: bool, kind: str) -> None:
    grid: dict[str, Any] = {"bearing": bearing, "staggered": staggered, "side": [0, 1] if bearing > 180 else None}
    filling = grid if kind == "grid" else {"seed": 4}
    job = job_of(border, {"kind": kind, "along" if kind == "grid" else "apart": 700, "inset": 100, **filling})
    before = spots(out_of(job))
    assert spots(out_of(edited(job, "reverse_lines", lines=["L1"]))) == before
    assert spots(out_of(edited(job, "start_line_at", line="L1", at=1234.5))) == before or kind == "grid"


@given(st.floats(-180, 180), st.floats(0, 360))
def test_a_grid_turns_with_its_border(turn: float, bearing: float) -> None:
    job = job_of(SQUARE, {"kind": "grid", "along": 900, "between": 1100, "bearing": bearing})
    before = out_of(job).positions[:, :2]
    turned = edited(job, "copy_lines", lines=["L1"], turn=turn, copies=False)
    cosine, sine = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    after = out_of(turned).positions[:, :2] @ np.array([(cosine, -sine), (sine, cosine)])
    assert len(after) == len(before)
    assert np.max(cKDTree(before).query(after)[0]) < 1e-3


def test_trees_keep_clear_of_a_path_as_it_moves() -> None:
    path = other([(-1000, 3000), (10_000, 3200)])
    job = Job(name="j", lines=(line(SQUARE, True), path), last_number=9)
    job = edited(job, "set_line", line="L2", changes={"strip": {"left": 500, "right": 700}})
    filling = {"kind": "chance", "apart": 800}
    row = {"name": "Trees", "line": "L1", "item": TREE, "spacing": SPACED, "filling": filling}
    job = edited(job, "add_row", row={**row, "clear_of": [{"of": "L2", "by": 300}]})
    begin = np.array([-1000.0, 3000.0])
    for north in (3200.0, 500.0):
        job = edited(job, "move_vertex", line="L2", point=1, to=[10_000, north, 0])
        found = out_of(job).positions[:, :2]
        way = np.array([10_000.0, north]) - begin
        right = (found - begin) @ np.array([way[1], -way[0]]) / np.hypot(way[0], way[1])
        assert len(found) > 30
        assert ((right >= 700 + 300 - 1e-6) | (right <= -500 - 300 + 1e-6)).all()
        assert (right > 0).any()
        assert (right < 0).any()
    # Without its strip the path is a line, and without the path there is nothing to keep clear of.
    bare = edited(job, "set_line", line="L2", changes={"strip": None})
    assert out_of(bare).count > out_of(job).count
    without = apply_all(bare, [read_edit({"kind": "remove", "ids": ["L2"]})])
    assert without.job.rows[0].clear_of == ()
    assert any("keeps clear of one thing less" in notice for notice in without.notices)


def test_a_row_along_a_line_keeps_clear_of_a_path_that_crosses_it() -> None:
    job = Job(name="j", lines=(line([(0, 0), (10_000, 0)]), other([(5000, -4000), (5000, 4000)])), last_number=9)
    job = edited(job, "set_line", line="L2", changes={"strip": {"left": 600, "right": 600}})
    post = {"kind": "box", "along": 100, "across": 100, "height": 900}
    row = {"name": "Posts", "line": "L1", "item": post, "spacing": SPACED, "clear_of": [{"of": "L2", "by": 50}]}
    out = out_of(edited(job, "add_row", row=row))
    # Two stretches of 4300 each, in equal bays of no more than 1000.
    assert out.chainages == pytest.approx([*np.linspace(0, 4300, 6), *np.linspace(5700, 10_000, 6)])
    corner = edited(job, "add_row", row={**row, "clear_of": [], "line": "L2", "corner_clearance": 0})
    assert out_of(corner).count == 9


def test_a_row_keeps_clear_of_the_items_of_another_and_of_corners() -> None:
    job = Job(name="j", lines=(line([(0, 0), (6000, 0), (6000, 6000)]), other([(0, 200), (5000, 200)])), last_number=9)
    post = {"kind": "box", "along": 300, "across": 600, "height": 900}
    thin = {"kind": "round", "diameter": 20, "height": 900}
    job = edited(
        job, "add_row", row={"name": "Posts", "line": "L2", "item": post, "spacing": {"rule": {"kind": "set-number", "number": 3}}}
    )
    row = {"name": "Bars", "line": "L1", "item": thin, "spacing": {"rule": {"kind": "fixed-centres", "centres": 100}}}
    job = edited(job, "add_row", row={**row, "clear_of": [{"of": job.rows[0].id, "by": 40}], "corner_clearance": 500})
    out = out_of(job, 1)
    posts = shapely.union_all([shapely.box(x - 150, -100, x + 150, 500) for x in (0, 2500, 5000)])
    assert (shapely.distance(posts, shapely.points(out.positions[:, :2])) >= 40 + 10 - 0.02).all()
    assert not ((out.chainages > 5500) & (out.chainages < 6500)).any()
    assert (out.chainages > 5200).any()
    with pytest.raises(Refused, match="circle"):
        edited(job, "set_row", row=job.rows[0].id, changes={"clear_of": [{"of": job.rows[1].id, "by": 0}]})


def test_kinds_are_dealt_in_their_shares_and_sizes_lie_within_limits() -> None:
    filling = {"kind": "chance", "apart": 100, "smallest": 0.6, "largest": 1.2, "seed": 3}
    job = job_of(SQUARE, filling, pattern={"others": [{"item": TREE}], "turns": "AAAB"})
    out = out_of(job)
    assert np.mean(out.dealt == 1) == pytest.approx(0.25, abs=0.03)
    assert 0.6 <= out.sizes.min() < 0.62
    assert 1.18 < out.sizes.max() <= 1.2
    found = list(item_places(solve(job)))
    assert len(found) == out.count
    assert all(one.chainage is None for one in found)
    assert [one.size for one in found] == out.sizes.tolist()
    with pytest.raises(ValidationError, match="larger than the largest"):
        job_of(SQUARE, {**filling, "smallest": 1.5})


def test_a_field_lies_in_the_plane_of_its_border() -> None:
    border = [(0, 0, 100), (8000, 0, 500), (8000, 5000, 1500), (0, 5000, 1100)]
    at = out_of(job_of(border, {"kind": "grid", "along": 1000, "between": 1000})).positions
    assert at[:, 2] == pytest.approx(100 + at[:, 0] * 0.05 + at[:, 1] * 0.2)


BAD: list[tuple[dict[str, Any], str]] = [
    ({"border": [(0, 0), (5000, 5000), (5000, 0), (0, 5000)]}, "crosses itself at 2500, 2500"),
    ({"closed": False}, "is open"),
    ({"filling": {"kind": "chance", "apart": 1}}, "is the most"),
    ({"filling": {"kind": "grid", "along": 10, "between": 4}}, "is the most"),
    ({"border": [(0, 0), (90_000, 90_000), (90_000, 90_010)], "filling": {"kind": "chance", "apart": 9}}, "so far spread out"),
    ({"border": [(0, 0), (90_000, 90_000), (90_000, 90_010)], "filling": {"kind": "grid", "along": 9, "between": 9}}, "so far spread out"),
    ({"border": [(0, 0, 0), (5000, 0, 0), (5000, 0, 3000), (0, 0, 3000)]}, "encloses no ground"),
    ({"clear_of": [{"of": "L1", "by": 5}]}, "of itself or of its own border"),
    ({"clear_of": [{"of": "L77", "by": 5}]}, "no line or row L77"),
    ({"pattern": {"turns": "AC"}}, "no item C"),
]


@pytest.mark.parametrize(("wrong", "said"), BAD)
def test_what_cannot_be_filled_is_refused(wrong: dict[str, Any], said: str) -> None:
    job = Job(name="j", lines=(line(wrong.pop("border", SQUARE), wrong.pop("closed", True)),), last_number=9)
    row = {"name": "Shrubs", "line": "L1", "item": SHRUB, "spacing": SPACED, "filling": {"kind": "chance"}, **wrong}
    with pytest.raises(Refused, match=said):
        edited(job, "add_row", row=row)


def test_a_field_with_no_ground_is_reported_and_one_whose_side_is_gone() -> None:
    job = job_of(SQUARE, {"kind": "grid", "side": [1, 2], "inset": 100})
    row = job.rows[0].id
    assert [check.kind for check in solve(edited(job, "set_row", row=row, changes={"filling": {"inset": 3001}})).checks()] == ["no-room"]
    gone = edited(job, "remove_vertex", line="L1", point=2)
    assert [check.kind for check in solve(gone).checks()] == ["no-place"]
    with pytest.raises(Refused, match="fills a field"):
        edited(job, "hold_item", row=row, at=0)
    along = edited(job, "set_row", row=row, changes={"filling": None})
    assert out_of(along).chainages[1] == pytest.approx(1000)
