"""Lines set out so that a face of a run lies where it is measured to, and stay so when the section changes."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from slow_ribbon.core.cutting.cutting_list import cutting_list
from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import (
    AddLines,
    AddOpenings,
    AddRuns,
    AddSection,
    PlacingChanges,
    Remove,
    SectionChanges,
    SetLineOut,
    SetMeasures,
    SetPlacing,
    SetSection,
    apply_all,
)
from slow_ribbon.core.job.edits.construction import SetMade
from slow_ribbon.core.job.edits.corners import SetCorners
from slow_ribbon.core.job.edits.measures import Bind
from slow_ribbon.core.job.edits.points import MoveVertex, RoundCorners
from slow_ribbon.core.job.edits.runs import RunChanges, SetRun
from slow_ribbon.core.job.edits.split_join import ReverseLines
from slow_ribbon.core.job.edits.transform import MirrorLines
from slow_ribbon.core.job.job_file import job_from_text, job_to_text
from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.kernel.measures import Formula, MeasureChange
from slow_ribbon.core.lines import Opening, line_body
from slow_ribbon.core.lines.construction import SetOut
from slow_ribbon.core.runs import FacingSide, Placing
from slow_ribbon.core.runs.placement.placing import FacingPoint
from slow_ribbon.core.sections.library import from_library
from slow_ribbon.core.solve import solve

LEVEL = [(0.0, 0.0, 900.0), (3000.0, 0.0, 900.0), (3000.0, 2000.0, 900.0), (5000.0, 3500.0, 900.0)]
HOOP = [(0.0, 0.0, 0.0), (0.0, 0.0, 1000.0), (1200.0, 0.0, 1000.0), (1200.0, 0.0, 0.0)]
RAMP = [(0.0, 0.0, 0.0), (2000.0, 1000.0, 0.0), (6000.0, 3000.0, 500.0), (7000.0, 3500.0, 500.0)]
SHAPES = {"level": (LEVEL, False), "hoop": (HOOP, False), "ramp": (RAMP, False), "ring": ([*LEVEL, (0.0, 4000.0, 900.0)], True)}


def made(points: Any, closed: bool, key: str, placing: Placing, *edits: Any) -> Job:
    first = (
        AddLines(lines=(line_body(points, closed, "Course"),)),
        AddSection(section=from_library(key)),
        AddRuns(section="S2", lines=("L1",), placing=placing, name="Rail"),
    )
    return apply_all(Job(name="Set out"), [*first, *edits]).job


def corners(job: Job) -> Any:
    """The solid of the run, as the places of its pieces' vertices about the origin."""
    run = solve(job).runs["R3"]
    return run.surface().vertices + run.origin


@given(
    st.sampled_from(sorted(SHAPES)),
    st.sampled_from(["tube-square", "tube-round", "skirting-ogee", "handrail-mopstick"]),
    st.sampled_from(["datum", "front", "middle", "back"]),
    st.sampled_from(["datum", "top", "middle", "bottom"]),
    st.floats(-60, 60),
    st.floats(-60, 60),
    st.sampled_from(["left", "right"]),
    st.floats(-80, 80),
    st.booleans(),
)
def test_setting_out_moves_nothing_and_neither_does_what_follows(
    shape: str, key: str, across: Any, up: Any, away: float, lift: float, side: Any, roll: float, other: bool
) -> None:
    """The run set out has the solid of the run placed by its faces, by the placing's own way; so it has after each further change."""
    points, closed = SHAPES[shape]
    placing = Placing(stand_off=away, lift=lift, stand_off_of=across, lift_of=up, facing=FacingSide(kind=side), roll=roll)
    assume(across != "datum" or up != "datum" or away or lift)
    placed = made(points, closed, key, placing)
    out = apply_all(placed, [SetLineOut(run="R3")]).job
    assert out.run("R3").line == "L4"
    assert out.run("R3").placing.stand_off_of == "datum"
    changes: list[Any] = [SetSection(section="S2", changes=SectionChanges(width=55.0))]
    if other:
        changes += [MoveVertex(line="L1", point=1, to=[None, None, points[1][2] + (250.0 if shape in ("hoop",) else 0.0)])]
    if shape != "hoop":
        changes += [ReverseLines(lines=("L1",)), MirrorLines(lines=("L1",), a=(0, 0, 0), b=(1000, 300, 0), copies=False)]
    for change in [None, *changes]:
        if change is not None:
            placed, out = apply_all(placed, [change]).job, apply_all(out, [change]).job
        assert isinstance(out.line("L4").made, SetOut), change
        one, two = corners(placed), corners(out)
        assert one.shape == two.shape
        assert np.abs(np.sort(one, axis=0) - np.sort(two, axis=0)).max() < 1e-6


def test_bends_of_a_hoop_are_reported_on_the_middle_of_its_tube() -> None:
    """Its faces 1200 apart and bent to 200 outside: 1200 − 400 between the bends, and 200 less half the tube to its middle."""
    front = Placing(stand_off_of="front", facing=FacingSide(kind="right"))
    placed = made(HOOP, False, "tube-square", front, RoundCorners(line="L1", radius=200.0))
    job = apply_all(placed, [SetLineOut(run="R3")]).job
    ((answer, on_line),) = [(row.centroid_length, row.line_length) for row in cutting_list(solve(placed))]
    assert answer == pytest.approx(solve(job).runs["R3"].cuts.line_lengths[0])
    assert answer is not None
    assert answer < on_line - 50
    for size in (40.0, 60.0):
        job = apply_all(job, [SetSection(section="S2", changes=SectionChanges(width=size, height=size))]).job
        assert np.ptp(job.line("L4").points(), axis=0) == pytest.approx([1200 - size, 0, 1000 - size / 2])
        low, high = corners(job).min(axis=0), corners(job).max(axis=0)
        assert float(high[0] - low[0]) == pytest.approx(1200)
        ((bends, developed, long_point),) = [(row.bends, row.centroid_length, row.long_point) for row in cutting_list(solve(job))]
        # Along the middle of the tube it is as long as its line now is; outside by half the tube more about each bend.
        assert developed == pytest.approx(sum(bend.length for bend in bends))
        assert long_point == pytest.approx(sum(bend.length for bend in bends) + math.pi * size / 2)
        middle = 200 - size / 2
        radii = [bend.radius for bend in bends]
        assert radii == [None, pytest.approx(middle), None, pytest.approx(middle), None]
        assert [bend.length for bend in bends] == pytest.approx([800, middle * math.pi / 2, 800, middle * math.pi / 2, 800])


def test_measures_go_along_and_what_it_follows_may_go() -> None:
    job = made(
        LEVEL, False, "handrail-mopstick", Placing(facing=FacingSide(kind="right"), lift_of="top"),
        SetMeasures(measures=(MeasureChange(name="clear", text="60"),)),
        SetPlacing(runs=("R3",), changes=PlacingChanges(stand_off_of="back")),
        Bind(formula=Formula(thing="R3", field="placing.stand_off", text="clear + 10")),
        SetLineOut(run="R3"),
    )  # fmt: skip
    assert [(one.thing, one.field) for one in job.formulas] == [("L4", "made.stand_off")]
    before = job.line("L4").points()
    job = apply_all(job, [SetMeasures(measures=(MeasureChange(name="clear", text="80"),))]).job
    # The first leg runs east, its right is south.
    assert (job.line("L4").points() - before)[0] == pytest.approx([0, -20, 0])
    assert job.line("L4").made == SetOut(line="L1", run="R3", stand_off=90.0, stand_off_of="back", lift_of="top")
    higher = apply_all(job, [SetMade(line="L4", changes={"lift": 100.0})]).job
    assert (higher.line("L4").points() - job.line("L4").points())[0] == pytest.approx([0, 0, 100])
    gone = apply_all(job, [Remove(ids=("R3",))])
    assert gone.job.line("L4").made is None
    assert "no longer follows" in gone.notices[0]
    free = apply_all(job, [MoveVertex(line="L4", point=0, to=(0, 0, 0))])
    assert free.job.line("L4").made is None
    assert "changed by hand" in free.notices[0]


def test_a_run_on_a_line_set_out_for_it_is_no_circle_whatever_else_it_derives() -> None:
    """Own corners, joints, second sections and a room stand on the line that follows the run; the job reads back as it is."""
    rake = {"kind": "mitre", "raked": "members"}
    changes = RunChanges(joints={"bars": [1500]}, corners=rake, external=rake)
    for edits in (
        [SetRun(run="R3", changes=changes), SetCorners(run="R3", points=(1,), changes={"kind": "butt"})],
        [SetPlacing(runs=("R3",), changes=PlacingChanges(facing={"kind": "room"}))],
    ):
        job = made(LEVEL, False, "handrail-mopstick", Placing(lift_of="top"), SetPlacing(runs=("R3",), changes=PlacingChanges(lift=900)))
        job = apply_all(job, [SetLineOut(run="R3"), *edits, MoveVertex(line="L1", point=0, to=(-300.0, -200.0, None))]).job
        assert job.run("R3").line == "L4"
        assert job.line("L4").made is not None
        assert job_from_text(job_to_text(job)) == job


def test_what_cannot_be_set_out_says_why() -> None:
    front = Placing(stand_off_of="front", facing=FacingPoint(point=(2000, 3000, 0)))
    rising = [(0.0, 0.0, 0.0), (2000.0, 0.0, 500.0), (2000.0, 2000.0, 1000.0)]
    for job, words in (
        (made(LEVEL, False, "tube-square", Placing()), "first set the offset"),
        (made(LEVEL, False, "tube-square", front, AddOpenings(line="L1", openings=(Opening(name="Door", at=500, width=900),))), "openings"),
        (made(rising, False, "tube-square", Placing(lift=100, lift_of="top")), "to its sides only"),
        (made(LEVEL, False, "tube-square", front, SetLineOut(run="R3")), "first set the offset"),
    ):
        with pytest.raises(Refused, match=words):
            apply_all(job, [SetLineOut(run="R3")])
    # To a side of what rises and turns it goes.
    aside = apply_all(made(rising, False, "tube-square", Placing(stand_off=100)), [SetLineOut(run="R3")]).job
    assert aside.line("L4").points()[0] == pytest.approx([0, -100, 0])
