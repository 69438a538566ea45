"""Spacing rules and rows."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from making import line, polygons

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.rows.metrics import AlongLine
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.rows.setting_out import set_row_out
from slow_ribbon.core.rows.spacing import Spacing, set_out


def spacing(**fields: object) -> Spacing:
    return Spacing.model_validate(fields)


def equal(most: float, **more: object) -> Spacing:
    return spacing(rule={"kind": "equal-bays", "most": most}, **more)


def fixed(centres: float, origin: str = "start", **more: object) -> Spacing:
    return spacing(rule={"kind": "fixed-centres", "centres": centres, "origin": origin}, **more)


def row(rule: Spacing, **more: object) -> Row:
    item = {"kind": "box", "along": 90, "across": 60, "height": 1000}
    return Row.model_validate({"id": "I1", "tag": "P", "name": "Posts", "line": "L1", "item": item, "spacing": rule, **more})


@given(st.floats(1, 50_000), st.floats(5, 5000), st.floats(0, 400), st.floats(0, 400))
def test_equal_bays_are_equal_and_no_wider_than_asked(length: float, most: float, start: float, end: float) -> None:
    assume(length - start - end > 1)
    out = set_out(AlongLine(length), equal(most, inset_start=start, inset_end=end))
    assert out.places[0] == pytest.approx(start)
    assert out.places[-1] == pytest.approx(length - end)
    assert np.diff(out.places) == pytest.approx(out.centres)
    assert out.centres <= most * (1 + 1e-8)
    # One bay fewer would be too wide: no needless item.
    assert out.bays == 1 or (length - start - end) / (out.bays - 1) > most


@given(st.floats(1, 50_000), st.floats(5, 5000), st.sampled_from(["start", "centred", "end"]))
def test_fixed_centres_keep_their_distance_and_tell_what_is_left(length: float, centres: float, origin: str) -> None:
    out = set_out(AlongLine(length), fixed(centres, origin))
    assert len(out.places) == math.floor(length / centres + 1e-9) + 1
    assert np.diff(out.places) == pytest.approx(centres)
    assert out.left_start + out.left_end + out.bays * centres == pytest.approx(length, abs=1e-3)
    assert out.left_start + out.left_end < centres
    assert (out.left_start, out.left_end)[{"start": 0, "end": 1}.get(origin, 0)] == pytest.approx(
        0 if origin != "centred" else out.left_end
    )


def test_four_bays_of_600_in_2400() -> None:
    assert len(set_out(AlongLine(2400), equal(600)).places) == 5
    assert len(set_out(AlongLine(0.1 * 3), equal(0.1 + 1e-15)).places) == 4
    assert len(set_out(AlongLine(2400), equal(600, first=False, last=False)).places) == 3


def test_items_round_a_ring_are_as_many_as_bays() -> None:
    """Items at equal spacing round a circle: as many items as bays (common practice)."""
    angles = np.arange(36) * 10
    ring = line(1000 * np.column_stack([np.cos(np.radians(angles)), np.sin(np.radians(angles))]), True)
    out = set_row_out(row(equal(500)), ring)
    assert len(out.chainages) == out.stretches[0].bays == math.ceil(course_of(ring).length / 500)
    assert len(set_row_out(row(fixed(course_of(ring).length / 8)), ring).chainages) == 8


@given(polygons(), st.floats(150, 2500), st.booleans())
def test_a_restart_puts_one_item_at_every_corner(points: Array, most: float, closed: bool) -> None:
    path = line(points, closed)
    course = course_of(path)
    out = set_row_out(row(equal(most, corners="restart")), path)
    bays = sum(stretch.bays for stretch in out.stretches)
    assert len(out.chainages) == (bays if closed else bays + 1)
    for corner in course.starts:
        assert np.sum(np.linalg.norm(out.positions - corner, axis=1) < 1e-6) == 1


@given(polygons(), st.floats(150, 2500))
def test_carried_items_lie_on_the_line_at_their_chainage(points: Array, centres: float) -> None:
    path = line(points)
    course = course_of(path)
    out = set_row_out(row(fixed(centres)), path)
    assert out.positions == pytest.approx(course.points_at(out.chainages), abs=1e-6)
    assert np.diff(out.chainages) == pytest.approx(centres)


def test_the_seat_of_an_item_sits_on_the_line_however_it_is_turned() -> None:
    path = line([(0, 0), (3000, 4000)])
    course = course_of(path)
    seat = {"along": 10, "across": 45, "up": 30}
    for turn in ({"kind": "line"}, {"kind": "bearing", "bearing": 30}):
        out = set_row_out(row(fixed(1000), seat=seat, turn=turn, lift=100), path)
        cosine, sine = np.cos(out.headings), np.sin(out.headings)
        seats = out.positions + np.column_stack([10 * cosine + 45 * sine, 10 * sine - 45 * cosine, np.full(len(cosine), 30.0)])
        assert seats == pytest.approx(course.points_at(out.chainages) + (0, 0, 100), abs=1e-9)
    # A bearing of 30° from north, clockwise, is 60° from east, anticlockwise.
    assert np.degrees(out.headings) == pytest.approx(60)


def test_an_item_at_a_corner_stands_to_its_bisector() -> None:
    out = set_row_out(row(equal(5000, corners="restart")), line([(0, 0), (2000, 0), (2000, 2000)]))
    assert np.degrees(out.headings) == pytest.approx([0, 45, 90])


def test_a_stretch_shorter_than_its_insets_holds_nothing() -> None:
    out = set_out(AlongLine(500), equal(100, inset_start=300, inset_end=300))
    assert (out.short, len(out.places), out.bays) == (True, 0, 0)
