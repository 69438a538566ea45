"""Outlines as they travel: read back by their definition, each is what was sent to a tenth of a millimetre."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.service.views.lines import DrawnOutline, drawn, drawn_in_a_row

places = st.floats(-1e6, 1e6).map(lambda value: round(value, 3))
outlines = st.lists(st.tuples(places, places), min_size=1, max_size=12).map(lambda points: np.array(points, dtype=float))


def summed(numbers: DrawnOutline, times: int) -> list[list[float]]:
    """Return points whose differences, or second differences, some numbers are, in mm."""
    points = np.array(numbers, dtype=float).reshape(-1, 2)
    for _ in range(times):
        points = np.cumsum(points, axis=0)
    return (points / 10).tolist()  # type: ignore[no-any-return]  # a list of lists


@given(st.lists(outlines, max_size=5))
def test_second_differences_give_the_outline_back(some: list[np.ndarray]) -> None:
    for numbers, points in zip(drawn(some), some, strict=True):
        assert np.allclose(summed(numbers, 2), points, atol=0.0501)


@given(st.lists(st.lists(outlines, max_size=3), max_size=4))
def test_outlines_in_a_row_go_on_from_the_middle_of_the_one_before(groups: list[list[np.ndarray]]) -> None:
    middle = np.zeros(2)
    for drawings, group in zip(drawn_in_a_row(groups), groups, strict=True):
        for numbers, points in zip(drawings, group, strict=True):
            first, rest = numbers[:2], numbers[2:]
            steps = np.array(summed(rest, 1 if len(points) > 4 else 0)).reshape(-1, 2)
            begin = middle + np.array(first) / 10
            found = begin + np.concatenate([np.zeros((1, 2)), np.cumsum(steps, axis=0)])
            assert found == pytest.approx(points, abs=0.0501)
            middle = found[len(found) // 2 - 1]
