"""Patterns and turning: the items' corners in space, compared with where each should be by matrices written out here."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st
from making import line
from pydantic import TypeAdapter
from scipy.spatial import cKDTree

from slow_ribbon.core.job.attachments import turned_round
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.transform import moved_lines
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.model import Line, Opening
from slow_ribbon.core.lines.transform import mirroring
from slow_ribbon.core.rows.items import ITEMS, BroughtItem, TypicalItem
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.rows.placement import covered
from slow_ribbon.core.rows.row_set_out import RowSetOut
from slow_ribbon.core.rows.setting_out import set_row_out

read = TypeAdapter(Row).validate_python


def row(item: dict[str, Any] | None = None, centres: float = 700, **more: Any) -> Row:
    spacing = {"rule": {"kind": "nearest-bays", "near": centres}, **more.pop("spacing", {})}
    item = item or {"kind": "box", "along": 60, "across": 30, "height": 900}
    return read({"id": "I1", "name": "Posts", "tag": "P", "line": "L1", "item": item, "spacing": spacing, **more})


def matrix(heading: float, tilt: Array) -> Array:
    """Return the matrix of an item that is turned about the upright axis, then tilted, by Rodrigues' formula."""
    cosine, sine = math.cos(heading), math.sin(heading)
    upright = np.array([[cosine, -sine, 0], [sine, cosine, 0], [0, 0, 1]])
    angle = math.hypot(*tilt)
    if angle == 0:
        return upright
    x, y = tilt / angle
    cross = np.array([[0, 0, y], [0, 0, -x], [-y, x, 0]])
    leaned: Array = (np.eye(3) + math.sin(angle) * cross + (1 - math.cos(angle)) * cross @ cross) @ upright
    return leaned


def matrices(out: RowSetOut) -> list[Array]:
    return [matrix(float(heading), tilt) for heading, tilt in zip(out.headings, out.tilts, strict=True)]


def corners(posts: Row, out: RowSetOut) -> list[Array]:
    """Return the corners of every item in space; of round parts their middles, since they have no corners."""
    uses, found = posts.uses(), []
    for position, turned, letter in zip(out.positions, matrices(out), out.dealt.tolist(), strict=True):
        rings = [ring.mean(axis=0)[None] if part.round else ring for part in uses[letter].item.parts for ring in part.rings()]
        found.append(np.concatenate(rings) @ turned.T + position)
    return found


def same(one: list[Array], other: list[Array], off: float = 1e-5) -> bool:
    """Return whether items have the same corners, each in whatever order."""
    return len(one) == len(other) and all(float(np.max(cKDTree(a).query(b)[0])) < off for a, b in zip(one, other, strict=True))


angles = st.floats(-170, 170).map(lambda angle: round(angle, 3))
lengths = st.floats(-300, 300).map(lambda length: round(length, 2))
seats = st.fixed_dictionaries({"along": lengths, "across": lengths, "up": lengths})
#: Of a typical what stands is another's.
kinds = st.sampled_from([kind.model_fields["kind"].default for kind in ITEMS if kind not in (TypicalItem, BroughtItem)])
items = kinds.map(lambda kind: {"kind": kind, "height": 850})
others = st.fixed_dictionaries({"item": items, "seat": seats, "shift": lengths, "stand_off": lengths, "lift": lengths, "turn": angles})
turns = st.fixed_dictionaries(
    {
        "kind": st.sampled_from(["line", "toward"]),
        "by": angles,
        "more": st.one_of(st.just(0.0), angles),
        "about": st.sampled_from(["up", "along", "across"]),
        "counted": st.sampled_from([1, -1, 0, 3, -2]),
        "stands": st.sampled_from(["plumb", "slope"]),
    }
).map(lambda turn: {**turn, "point": (700, 9000)} if turn["kind"] == "toward" else turn)


@st.composite
def rows(draw: st.DrawFn, chance: bool = True) -> Row:
    more = draw(st.lists(others, max_size=2))
    letters = "ABC"[: len(more) + 1]
    pattern = {
        "others": more,
        "turns": draw(st.text(letters, min_size=1, max_size=5)),
        "counted": draw(st.sampled_from(["start", "end"])),
        **{field: draw(st.one_of(st.none(), st.sampled_from(letters))) for field in ("at_ends", "at_corners", "at_openings")},
    }
    turn = draw(turns) | ({"chance": draw(st.sampled_from([0, 30])), "seed": draw(st.integers(0, 99))} if chance else {})
    place = {"seat": draw(seats), "stand_off": draw(lengths), "lift": draw(lengths)}
    corner = draw(st.sampled_from(["carry", "restart"]))
    return row(draw(items), centres=900, spacing={"corners": corner}, turn=turn, pattern=pattern, **place)


def path() -> Line:
    """A line with corners, a slope and a door."""
    found = line([(0, 0, 0), (4000, 500, 0), (4500, 4000, 1500), (9000, 4200, 1200)])
    return found.model_copy(update={"openings": (Opening(id="O1", name="Door", at=1500, width=800),)})


@settings(max_examples=examples(60), deadline=None)
@given(rows())
def test_a_line_gone_the_other_way_leaves_every_item_where_it_stands(posts: Row) -> None:
    job = Job(name="j", lines=(path(),), rows=(posts,), last_number=9)
    turned = turned_round(job, ["L1"])
    before, after = set_row_out(posts, job.line("L1")), set_row_out(turned.row("I1"), turned.line("L1"))
    assert same(corners(posts, before), corners(turned.row("I1"), after)[::-1])
    again = turned_round(turned, ["L1"])
    assert same(corners(posts, before), corners(again.row("I1"), set_row_out(again.row("I1"), again.line("L1"))))


@settings(max_examples=examples(60), deadline=None)
@given(rows(chance=False))
def test_a_line_seen_in_a_mirror_shows_the_items_mirrored(posts: Row) -> None:
    job = Job(name="j", lines=(path(),), rows=(posts,), last_number=9)
    there = moved_lines(job, ["L1"], mirroring((300.0, 0.0, 0.0), (1300.0, 800.0, 0.0)))
    before, after = set_row_out(posts, job.line("L1")), set_row_out(there.row("I1"), there.line("L1"))
    way = np.array([1000.0, 800.0]) / math.hypot(1000, 800)
    over = 2 * np.outer(way, way) - np.eye(2)
    images = [np.column_stack([(one[:, :2] - (300, 0)) @ over.T + (300, 0), one[:, 2]]) for one in corners(posts, before)]
    # Where a round footprint clears an opening is searched for with a polygon that is not mirrored with it.
    assert same(images, corners(there.row("I1"), after), 0.2)


@settings(max_examples=examples(60), deadline=None)
@given(rows())
def test_the_seat_of_each_item_sits_where_the_row_has_it(posts: Row) -> None:
    course, out = course_of(path()), set_row_out(posts, path())
    uses = posts.uses()
    for chainage, position, turned, letter in zip(out.chainages, out.positions, matrices(out), out.dealt.tolist(), strict=True):
        along, right, up = uses[letter].seat
        seat = position + turned @ (along, -right, up)
        off = seat - course.points_at(np.array([chainage]))[0]
        use = uses[letter]
        assert math.hypot(off[0], off[1]) == pytest.approx(math.hypot(use.shift, use.stand_off), abs=1e-6)
        assert off[2] == pytest.approx(use.lift, abs=1e-6)


@given(st.text("ABC", min_size=1, max_size=6), st.integers(1, 12), st.sampled_from(["start", "end"]), st.sampled_from([None, "A", "C"]))
def test_items_come_in_turn(turns: str, count: int, counted: str, ends: str | None) -> None:
    more = [{"item": {"kind": "round", "diameter": 40, "height": 700}}] * 2
    posts = row(pattern={"others": more, "turns": turns, "counted": counted, "at_ends": ends}, spacing={})
    posts = posts.model_copy(update={"spacing": posts.spacing.model_copy(update={"rule": set_number(count)})})
    order = [turns[number % len(turns)] for number in range(count)]
    order = order if counted == "start" else order[::-1]
    if ends:
        order[0] = order[-1] = ends
    dealt = set_row_out(posts, line([(0, 0), (5000, 0)])).dealt.tolist()
    assert "".join(chr(65 + letter) for letter in dealt) == "".join(order)


def set_number(number: int) -> Any:
    return row(spacing={"rule": {"kind": "set-number", "number": number}}).spacing.rule


def test_other_items_stand_at_corners_and_openings() -> None:
    more = [{"item": {"kind": "round", "diameter": 60, "height": 700}}, {"item": {"kind": "bollard", "height": 700}}]
    posts = row(centres=500, spacing={"corners": "restart"}, pattern={"others": more, "at_corners": "B", "at_openings": "C"})
    out = set_row_out(posts, path())
    ends = np.cumsum(course_of(path()).lengths)[:-1]
    on_corners = [bool(np.abs(ends - chainage).min() < 1e-6) for chainage in out.chainages]
    beside = [int(np.flatnonzero(out.chainages < 1900).max()), int(np.flatnonzero(out.chainages > 1900).min())]
    assert out.dealt.tolist() == [1 if corner else 2 if number in beside else 0 for number, corner in enumerate(on_corners)]
    assert sum(on_corners) == 2


@pytest.mark.parametrize("about", ["up", "along", "across"])
@pytest.mark.parametrize(("counted", "still"), [(1, 0.0), (-1, 7.0), (0, 3.5), (3, 2.0), (-2, 6.0)])
def test_each_item_is_turned_by_so_much_more_than_the_one_before(about: str, counted: int, still: float) -> None:
    posts = row(centres=700, turn={"kind": "line", "more": 6, "about": about, "counted": counted})
    turned = matrices(set_row_out(posts, line([(0, 0), (4900, 0)])))
    assert len(turned) == 8
    axis = {"along": 0, "across": 1, "up": 2}[about]
    for number, one in enumerate(turned):
        angle = math.radians(6 * (number - still))
        # The axis itself stays, and the others turn about it.
        assert one[:, axis] == pytest.approx(np.eye(3)[axis], abs=1e-9)
        assert one[(axis + 2) % 3, (axis + 1) % 3] == pytest.approx(math.sin(angle), abs=1e-9)


def test_items_stand_square_to_the_slope() -> None:
    slope = line([(0, 0, 0), (3000, 4000, 2000)])
    along = np.array([3000, 4000, 2000]) / math.hypot(3000, 4000, 2000)
    for turned in matrices(set_row_out(row(turn={"kind": "line", "stands": "slope"}), slope)):
        assert turned[:, 0] == pytest.approx(along)
        assert turned[2, 1] == pytest.approx(0, abs=1e-9)


def test_items_turn_toward_a_point() -> None:
    out = set_row_out(row(turn={"kind": "toward", "point": (2000, 5000)}), line([(0, 0), (4000, 0)]))
    for position, turned in zip(out.positions, matrices(out), strict=True):
        away = np.array([2000, 5000, 0]) - position
        assert turned[:, 0] == pytest.approx(away / np.linalg.norm(away))


def test_chance_is_the_same_again_and_does_not_change_what_stood_before() -> None:
    turn = {"kind": "bearing", "bearing": 90, "chance": 25, "seed": 4}
    short, again, long = (set_row_out(row(turn=turn), line([(0, 0), (end, 0)])).headings for end in (7000, 7000, 14_000))
    assert short.tolist() == again.tolist() == long[: len(short)].tolist()
    assert np.abs(np.degrees(short)).max() <= 25
    assert len(set(np.round(short, 6).tolist())) == len(short)
    other = set_row_out(row(turn={**turn, "seed": 5}), line([(0, 0), (7000, 0)])).headings
    assert other.tolist() != short.tolist()


@settings(max_examples=examples(40), deadline=None)
@given(rows())
def test_no_item_of_a_pattern_stands_in_an_opening(posts: Row) -> None:
    """A post on a straight clears the strip that the door makes across the line, however it is turned."""
    straight = line([(0, 0), (9000, 0)]).model_copy(update={"openings": (Opening(id="O1", name="Door", at=4000, width=900),)})
    out = set_row_out(posts, straight)
    for position, heading, tilt, letter in zip(out.positions, out.headings, out.tilts, out.dealt.tolist(), strict=True):
        left, _, right, _ = covered(posts.uses()[letter], position, float(heading), tilt).bounds
        # A corner may reach in by less than its area can be told from nothing.
        assert right <= 4000.05 or left >= 4899.95


def test_a_letter_without_an_item_is_refused() -> None:
    with pytest.raises(Refused, match="has no item C: add it"):
        set_row_out(row(pattern={"turns": "AC"}), line([(0, 0), (4000, 0)]))
