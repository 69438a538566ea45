"""Joining loose edges against ezdxf.edgeminer, a general library's own joining."""

from __future__ import annotations

import math

import numpy as np
import pytest
from ezdxf import edgeminer
from ezdxf.math import Vec3
from hypothesis import given
from hypothesis import strategies as st
from making import polygons

from slow_ribbon.core.geometry.chaining import JoinedEdges
from slow_ribbon.core.geometry.chaining import join as join_loose
from slow_ribbon.core.geometry.edge_graph import Loose
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused


def join(begins: Array, ends: Array, tolerance: float) -> JoinedEdges:
    return join_loose(Loose(begins, ends), tolerance)


def shuffled(begins: Array, ends: Array, seed: int) -> tuple[Array, Array]:
    random = np.random.default_rng(seed)
    order = random.permutation(len(begins))
    begins, ends = begins[order].copy(), ends[order].copy()
    turned = random.random(len(begins)) < 0.5
    begins[turned], ends[turned] = ends[turned].copy(), begins[turned].copy()
    return begins, ends


def edges_of(points: Array, closed: bool) -> tuple[Array, Array]:
    spatial = np.column_stack([points, np.zeros(len(points))])
    return (spatial, np.roll(spatial, -1, axis=0)) if closed else (spatial[:-1], spatial[1:])


def corners(points: Array) -> set[tuple[float, float]]:
    return {(round(float(x), 3), round(float(y), 3)) for x, y, *_ in points}


def as_sets(joined: JoinedEdges) -> set[tuple[bool, frozenset[tuple[float, float]]]]:
    return {(chain.closed, frozenset(corners(chain.points))) for chain in joined.chains}


@given(st.lists(st.tuples(polygons(), st.booleans()), min_size=1, max_size=6), st.integers(0, 1000))
def test_the_same_chains_as_edgeminer(parts: list[tuple[Array, bool]], seed: int) -> None:
    placed = [(points + (index * 40_000, 0), closed) for index, (points, closed) in enumerate(parts)]
    pieces = [edges_of(points, closed) for points, closed in placed]
    begins, ends = shuffled(np.concatenate([b for b, _ in pieces]), np.concatenate([e for _, e in pieces]), seed)
    ours = join(begins, ends, 0.01)
    edges = [edgeminer.make_edge(Vec3(b), Vec3(e)) for b, e in zip(begins, ends, strict=True)]
    deposit = edgeminer.Deposit(edges, gap_tol=0.01)
    theirs = set()
    for chain in edgeminer.find_all_simple_chains(deposit):
        closed = len(chain) > 2 and edgeminer.is_loop(chain, gap_tol=0.01)
        theirs.add((closed, frozenset(corners(np.array([v for edge in chain for v in (tuple(edge.start), tuple(edge.end))])))))
    assert as_sets(ours) == theirs
    assert as_sets(ours) == {(closed, frozenset(corners(points))) for points, closed in placed}


@given(polygons(), st.integers(0, 1000), st.floats(0.05, 0.9))
def test_gaps_up_to_the_tolerance_are_closed_and_corners_put_right(points: Array, seed: int, gap: float) -> None:
    begins, ends = edges_of(points, True)
    along = (ends - begins) / np.linalg.norm(ends - begins, axis=1)[:, None]
    short = ends - along * gap  # every edge stops short of its corner
    joined = join(*shuffled(begins, short, seed), 1.0)
    assert [chain.closed for chain in joined.chains] == [True]
    assert len(joined.gaps) == len(points)
    assert joined.gaps == pytest.approx(gap)
    # Edges run on to where their straights cross: the true corner.
    found = joined.chains[0].points[:, :2]
    before = along[np.arange(len(points)) - 1]
    for corner, first, second in zip(points, before, along, strict=True):
        # Where two edges hardly turn, their straights cross anywhere: there the gap is halved instead.
        if np.linalg.norm(np.cross(first, second)) > 0.01:
            assert np.min(np.linalg.norm(found - corner, axis=1)) < 1e-6
    assert not any(chain.closed for chain in join(begins, short, gap * 0.9).chains)


def test_doubled_edges_count_once_and_points_on_straights_go() -> None:
    square = np.array([(0, 0), (500, 0), (1000, 0), (1000, 1000), (0, 1000)], dtype=float)
    begins, ends = edges_of(square, True)
    joined = join(np.concatenate([begins, ends[:2]]), np.concatenate([ends, begins[:2]]), 1)
    assert joined.doubled == 2
    assert joined.dropped_points == 1
    assert len(joined.chains) == 1
    assert len(joined.chains[0].points) == 4


@given(
    polygons(),
    st.integers(0, 1000),
    st.sampled_from([0.0, 0.002, 0.01, 0.4]),
    st.sampled_from([0.0, 0.3]),
    st.lists(st.integers(0, 8), min_size=1, max_size=4),
)
def test_rooms_with_edges_drawn_again_a_hair_aside_are_closed_rooms(
    points: Array, seed: int, aside: float, gap: float, again: list[int]
) -> None:
    begins, ends = edges_of(points, True)
    along = (ends - begins) / np.linalg.norm(ends - begins, axis=1)[:, None]
    ends = ends - along * gap
    which = np.unique(np.array(again) % len(points))
    across = np.column_stack([-along[:, 1], along[:, 0], along[:, 2]])[which] * aside
    random = np.random.default_rng(seed)
    # Some of them no further than half as far, and a little along too.
    shift = across * random.uniform(0.5, 1, (len(which), 1)) + along[which] * random.uniform(-aside, aside, (len(which), 1)) / 2
    joined = join(*shuffled(np.concatenate([begins, begins[which] + shift]), np.concatenate([ends, ends[which] + shift]), seed), 1.0)
    assert [(chain.closed, len(chain.points)) for chain in joined.chains] == [(True, len(points))]
    assert joined.doubled + joined.overlaps >= len(which)
    apart = np.linalg.norm(joined.chains[0].points[:, None, :2] - points[None], axis=2).min(axis=1)
    assert apart.max() < 2


def test_thin_things_and_what_comes_to_nothing() -> None:
    # A plate thinner than the tolerance keeps both its faces, for its edges meet.
    plate = np.array([(0, 0), (500, 0), (500, 0.8), (0, 0.8)], dtype=float)
    assert [(chain.closed, len(chain.points)) for chain in join(*edges_of(plate, True), 1.0).chains] == [(True, 4)]
    # Two strokes from one corner whose free ends meet are one stroke drawn twice.
    stroke = join(np.array([(0.0, 0, 0), (0, 0, 0)]), np.array([(800.0, 0.3, 0), (800, -0.3, 0)]), 1.0)
    assert (len(stroke.chains), stroke.doubled) == (1, 1)
    assert len(stroke.chains[0].edges) == 1
    # Curves between the same ends are the same only where they pass the same middle.
    ends = np.array([(0.0, 0, 0), (0, 0.005, 0), (0, 0, 0)]), np.array([(1000.0, 0, 0), (1000, 0.005, 0), (1000, 0, 0)])
    middles = np.array([(500.0, 200, 0), (500, 200.005, 0), (500, -200, 0)])
    leaving = np.tile(np.array([[0.6, 0.8, 0], [-0.6, 0.8, 0]]), (3, 1, 1))
    bent = join_loose(Loose(*ends, np.ones(3, dtype=bool), leaving, middles), 1.0)
    assert bent.doubled == 1
    assert [(chain.closed, len(chain.edges)) for chain in bent.chains] == [(True, 2)]


def test_a_wide_tolerance_swallows_no_detail() -> None:
    """A pilaster of 30 mm and a short stub stay as they are at a tolerance of 50."""
    points = np.array([(0, 0), (1000, 0), (1000, 30), (1030, 30), (1030, 0), (2000, 0), (2000, 900), (0, 900)], dtype=float)
    begins, ends = edges_of(points, True)
    joined = join(begins, ends, 50)
    assert as_sets(joined) == {(True, frozenset(corners(points)))}
    stub = join(np.array([[0, 0, 0.0]]), np.array([[20, 0, 0.0]]), 50)
    assert len(stub.chains) == 1


def test_three_edges_at_a_point_end_there() -> None:
    begins = np.zeros((3, 3))
    ends = np.array([(100, 0, 0), (0, 100, 0), (-80, -80, 0)], dtype=float)
    joined = join(begins, ends, 1)
    assert len(joined.chains) == 3
    assert [junction.place.tolist() for junction in joined.junctions] == [[0, 0, 0]]


def test_a_thousand_edges_meeting_in_one_point_do_not_explode() -> None:
    angles = np.linspace(0, 2 * np.pi, 20_000, endpoint=False)
    ends = np.column_stack([np.cos(angles), np.sin(angles), np.zeros(len(angles))]) * 1e5
    assert len(join(np.zeros_like(ends), ends, 1).chains) == 20_000


def test_20000_loose_edges_come_out_as_the_right_lines() -> None:
    random = np.random.default_rng(3)
    loops = []
    for index in range(1000):
        angles = 2 * np.pi * (np.arange(20) + random.uniform(0.1, 0.9, 20)) / 20
        middle = np.array([index % 40, index // 40]) * 3000.0
        loops.append(middle + random.uniform(400, 1400) * np.column_stack([np.cos(angles), np.sin(angles)]))
    pieces = [edges_of(points, True) for points in loops]
    begins, ends = shuffled(np.concatenate([b for b, _ in pieces]), np.concatenate([e for _, e in pieces]), 4)
    assert as_sets(join(begins, ends, 1)) == {(True, frozenset(corners(points))) for points in loops}


def test_a_tolerance_out_of_range_and_what_is_no_number_are_refused() -> None:
    one = np.zeros((1, 3))
    for tolerance in (0.001, 51, np.nan):
        with pytest.raises(Refused, match="tolerance"):
            join(one, one + 1, tolerance)
    with pytest.raises(Refused, match="not numbers"):
        join(one * np.nan, one, 1)


@given(
    st.lists(st.floats(-0.9, 0.9), min_size=2, max_size=2), st.integers(0, 3), st.floats(0, 360), st.booleans(), st.sampled_from([1.0, 5.0])
)
def test_a_wall_drawn_again_along_itself_leaves_the_room_closed(
    by: list[float], wall: int, turn: float, back: bool, tolerance: float
) -> None:
    """A rectangle, one side of which is drawn twice, longer or shorter or shifted within the tolerance: still the rectangle."""
    corners = np.array([(0.0, 0, 0), (4000, 0, 0), (4000, 3000, 0), (0, 3000, 0)])
    cosine, sine = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    corners = corners @ np.array([(cosine, sine, 0), (-sine, cosine, 0), (0, 0, 1)])
    begin, end = corners[wall], corners[(wall + 1) % 4]
    along = (end - begin) / np.linalg.norm(end - begin)
    again = (end + along * by[1], begin + along * by[0]) if back else (begin + along * by[0], end + along * by[1])
    found = join(np.vstack([corners, again[0]]), np.vstack([np.roll(corners, -1, axis=0), again[1]]), tolerance)
    (chain,) = found.chains
    assert chain.closed
    assert len(chain.points) == 4
    assert np.abs(np.sort(chain.points, axis=0) - np.sort(corners, axis=0)).max() <= 1.0
