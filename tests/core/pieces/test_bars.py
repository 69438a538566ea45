"""Bars counted: every piece fits, none is opened in vain, and never further from the least number than best-fit decreasing may be."""

from __future__ import annotations

import math
from itertools import product

import pytest
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st

from slow_ribbon.core.cutting.bars import bars_needed


def least(pieces: list[int], bar: int) -> int:
    """Return the least number of bars, all ways of sharing out a few pieces looked at."""
    for count in range(1, len(pieces) + 1):
        for ways in product(range(count), repeat=len(pieces)):
            if all(sum(piece for piece, way in zip(pieces, ways, strict=True) if way == one) <= bar for one in range(count)):
                return count
    return 0


@settings(max_examples=examples(60), deadline=None)
@given(st.lists(st.integers(200, 4200), min_size=1, max_size=6))
def test_a_first_count_is_near_the_least(pieces: list[int]) -> None:
    """At most 11/9 of the least, and 6/9 (Dósa 2007)."""
    counted = bars_needed([(float(piece), 1) for piece in pieces], [4200.0])
    assert least(pieces, 4200) <= counted.bars[4200] <= math.floor((11 * least(pieces, 4200) + 6) / 9)


@settings(max_examples=examples(100), deadline=None)
@given(
    st.lists(st.tuples(st.floats(50, 6500), st.integers(1, 30)), min_size=1, max_size=30),
    st.lists(st.sampled_from([2400.0, 3000.0, 3600.0, 4200.0, 4800.0, 6000.0]), min_size=1, unique=True),
    st.floats(0, 6),
)
def test_what_is_sawn_comes_from_the_bars(sawn: list[tuple[float, int]], bars: list[float], kerf: float) -> None:
    counted = bars_needed(sawn, bars, kerf)
    fit = [(length, number) for length, number in sawn if length <= max(bars)]
    assert counted.too_long == sum(number for _, number in sawn) - sum(number for _, number in fit)
    stock = sum(bar * number for bar, number in counted.bars.items())
    pieces = sum(number for _, number in fit)
    opened = sum(counted.bars.values())
    assert stock + 1e-3 * opened >= sum(length * number for length, number in fit) + kerf * (pieces - opened)
    assert opened <= pieces
    assert set(counted.bars) <= set(bars)


@pytest.mark.parametrize(("sawn", "bars", "expected"), [
    # Whole bars; a cut between two halves leaves no room for the second half.
    ([(4200.0, 3)], [4200.0], {4200.0: 3}),
    ([(2100.0, 2)], [4200.0], {4200.0: 2}),
    ([(2098.5, 2)], [4200.0], {4200.0: 1}),
])  # fmt: skip
def test_a_saw_cut_is_made_between_two_pieces_and_none_after_the_last(
    sawn: list[tuple[float, int]], bars: list[float], expected: dict[float, int]
) -> None:
    assert bars_needed(sawn, bars, 3.0).bars == expected
