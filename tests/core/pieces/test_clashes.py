"""Runs in one another's place, found against boxes whose overlap is plain arithmetic."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, AddSection, AddTypical, NewPlace, NewTypical, apply, apply_all
from slow_ribbon.core.kernel import plain
from slow_ribbon.core.lines import line_body
from slow_ribbon.core.runs import FacingSide, Placing
from slow_ribbon.core.sections import SectionBody
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.solve import clash_checks, clashes, solve

BATTEN = SectionBody(name="Batten", outline=rectangle(40, 60), width=40, height=60)


def crossing(lift: float, aside: float = 0.0) -> Job:
    """A batten along x, its back on y = 0 and its front to y = -40, and one along y across it, lifted, at x from 1000 - 40 on."""
    lines = [
        line_body([(0, 0, 0), (3000, 0, 0)], False, "East"),
        line_body([(1000 + aside, 800, 0), (1000 + aside, -800, 0)], False, "South"),
    ]
    right = FacingSide(kind="right")
    edits: list[Any] = [
        AddLines(lines=tuple(lines)), AddSection(section=BATTEN),
        AddRuns(section="S3", lines=("L1",), placing=Placing(facing=right), name="Low"),
        AddRuns(section="S3", lines=("L2",), placing=Placing(facing=right, lift=lift), name="Across"),
    ]  # fmt: skip
    return apply_all(Job(name="Crossing"), edits).job


@given(st.floats(-80, 80))
def test_what_two_battens_share_where_they_cross(lift: float) -> None:
    found = clashes(solve(crossing(lift)))
    shared = 60 - abs(lift)
    if shared <= 0.2:
        assert shared > 0 or found == []
        return
    (clash,) = found
    assert clash.volume == pytest.approx(40 * 40 * shared, rel=1e-6)
    assert clash.size == pytest.approx((40, 40, shared), rel=1e-6)
    assert clash.middle == pytest.approx((980, -20, 30 + lift / 2), abs=1e-6)
    (check,) = clash_checks(solve(crossing(lift)).job, found)
    assert plain(check.what).startswith("Low and Across overlap here, over 40 mm × 40 mm × ")


def test_what_only_touches_is_no_clash_and_places_are_looked_at_too() -> None:
    assert clashes(solve(crossing(60))) == []
    job = crossing(1000)
    assert clashes(solve(job)) == []
    # The batten across stands in two more places: one lowered onto the other, mirrored, and one beside it.
    places = (NewPlace(name="Down", at=(2000, -800, -1000), mirrored=True), NewPlace(name="Aside", at=(9000, 800, -1000)))
    placed = solve(apply(job, AddTypical(typical=NewTypical(name="Post", lines=("L2",), here="Up", places=places))))
    (clash,) = clashes(placed)
    assert (clash.first, clash.places) == ("R4", ("", "Down"))
    assert clash.volume == pytest.approx(40 * 40 * 60, rel=1e-6)
    assert "Across in Down" in clash_checks(placed.job, [clash])[0].what


def test_what_clashes_as_it_is_drawn_clashes_in_every_place() -> None:
    """Two battens that cross, drawn once and standing in three places, one turned and mirrored: three clashes, each where it stands."""
    job = crossing(20)
    places = (NewPlace(name="Far", at=(0, 9000, 0), turn=90), NewPlace(name="Over", at=(-9000, 0, 500), turn=180, mirrored=True))
    solved = solve(apply(job, AddTypical(typical=NewTypical(name="Cross", lines=("L1", "L2"), here="Here", places=places))))
    found = clashes(solved)
    assert sorted(clash.places for clash in found) == [("Far", "Far"), ("Here", "Here"), ("Over", "Over")]
    (drawn,) = clashes(solve(job))
    for clash in found:
        assert clash.volume == pytest.approx(drawn.volume)
    middles = {clash.places[0]: clash.middle for clash in found}
    x, y, z = drawn.middle
    assert middles["Far"] == pytest.approx((-y, 9000 + x, z))
    # Mirrored along its heading, east, and turned about: what is east comes back east, what is north goes south.
    assert middles["Over"] == pytest.approx((-9000 + x, -y, z + 500))
    # A run that stands by itself where the typical is drawn is reported without a place.
    alone = solve(apply(job, AddTypical(typical=NewTypical(name="One", lines=("L1",), here="Here"))))
    assert sorted(clashes(alone)[0].places) == ["", "Here"]
