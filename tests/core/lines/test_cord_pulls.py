"""What pulls at a cord under its own weight: against worked figures, and in equilibrium."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.core.geometry.catenary import CordSpan
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.legs import CordLeg, hanging


def span_of(leg: CordLeg) -> CordSpan:
    (span,) = leg.spans((0.0, 0.0, 0.0))
    assert isinstance(span, CordSpan)
    return span


def test_a_cord_between_level_supports() -> None:
    """6000 apart, sag 500, 2 N/m: the catenary solved numerically elsewhere."""
    leg = CordLeg(to=(6000, 0, 0), sag=500, weight=2)
    span = span_of(leg)
    found = hanging(span, leg)
    assert found is not None
    assert found.pulls is not None
    assert span.parameter == pytest.approx(9082.131, abs=1e-3)
    assert span.length == pytest.approx(6109.707, abs=1e-3)
    assert found.sag == pytest.approx(500)
    assert (found.pulls.level, found.pulls.begin, found.pulls.end) == pytest.approx((18.164, 19.164, 19.164), abs=1e-3)


@given(st.floats(500, 30_000), st.floats(-4000, 4000), st.floats(0.02, 1.5), st.floats(0.1, 200))
def test_its_pulls_hold_its_weight(level: float, height: float, share: float, weight: float) -> None:
    leg = CordLeg(to=(level, 0, height), sag=share * level, weight=weight)
    span = span_of(leg)
    found = hanging(span, leg)
    assert found is not None
    assert found.pulls is not None
    # What holds it at its ends pulls along its tangents: together they carry its weight, and balance across it.
    begin, end = span.at(np.array([0.0, span.length]))[1]
    forces = found.pulls.end * end - found.pulls.begin * begin
    assert forces[2] == pytest.approx(weight * span.length / 1000, rel=1e-6)
    assert forces[0] == pytest.approx(0, abs=1e-6 * found.pulls.end)
    assert found.pulls.level == pytest.approx(found.pulls.begin * math.hypot(begin[0], begin[1]), rel=1e-6)
    # Hung by its level pull it is the same cord.
    by_pull = CordLeg(to=leg.to, pull=found.pulls.level, weight=weight)
    assert span_of(by_pull).length == pytest.approx(span.length, rel=1e-9)


def test_what_cannot_hang_is_refused() -> None:
    with pytest.raises(Refused, match="depends on its weight"):
        span_of(CordLeg(to=(4000, 0, 0), pull=50))
    with pytest.raises(Refused, match=r"cannot hold a cord of 40 N/m"):
        span_of(CordLeg(to=(4000, 0, 0), pull=0.5, weight=40))
    with pytest.raises(Refused, match="give one of them"):
        span_of(CordLeg(to=(4000, 0, 0), pull=50, weight=2, sag=400))
