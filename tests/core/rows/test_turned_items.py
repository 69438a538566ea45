"""Items turned from an outline: volumes by the theorem of Pappus against what lies between levels, and against trimesh."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.core.rows.items import TurnedItem
from slow_ribbon.core.sections.library import Entry, library
from slow_ribbon.core.sections.outline.outline import Outline, OutlinePen, circle


def half(steps: list[tuple[float, float]]) -> Outline:
    """Return half of what is turned, from (how much higher, radius) each: straight from one to the next, its left side on the axis."""
    pen, height = OutlinePen(0, 0).line(steps[0][1], 0), 0.0
    for rise, radius in steps:
        height += rise
        pen = pen.line(radius, height)
    return pen.line(0, height).close()


profiles = st.lists(st.tuples(st.floats(5, 200), st.floats(8, 120)), min_size=1, max_size=8)


@given(profiles, st.floats(100, 3000))
def test_the_volume_is_that_of_pappus(steps: list[tuple[float, float]], height: float) -> None:
    item = TurnedItem(outline=half(steps), height=height)
    (part,) = item.parts
    between = sum(
        math.pi / 12 * (b.height - a.height) * (a.along**2 + a.along * b.along + b.along**2)
        for a, b in zip(part.levels, part.levels[1:], strict=False)
    )
    assert item.volume == pytest.approx(between, rel=1e-9)
    rings = [(level.along / 2, level.height) for level in part.levels]
    mesh = trimesh.creation.revolve(np.array([(0, rings[0][1]), *rings, (0, rings[-1][1])]), sections=400)
    assert item.volume == pytest.approx(mesh.volume, rel=1e-3)
    assert item.sides[0] == pytest.approx(2 * max(radius for _, radius in steps) * item.scale)
    assert part.levels[-1].height == pytest.approx(height)


def test_a_ball_and_a_ring() -> None:
    """A full circle beside its axis is a torus, 2π²Rr² (general reference); here its left side touches it, R = r."""
    ball = TurnedItem(outline=circle(50), height=100)
    assert ball.volume == pytest.approx(2 * math.pi**2 * 50**3, rel=1e-9)
    assert ball.circle == pytest.approx(200)


@pytest.mark.parametrize("entry", library()[:40:2], ids=lambda entry: str(entry.key))
def test_any_section_can_be_turned(entry: Entry) -> None:
    section = entry.section
    item = TurnedItem(outline=section.outline, height=section.height, of=section.name)
    assert item.scale == pytest.approx(1)
    assert item.volume > 0
    assert 0 < item.slim[0] <= item.sides[0] + 1e-9
    assert item.name.startswith(section.name)
