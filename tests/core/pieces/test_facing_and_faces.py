"""Which side runs face: into a room, away from a wall; and placings said of a face of the section instead of its datum.

That a run is inside its room is given by shapely, of a place in the middle of each piece's own section.
"""

from __future__ import annotations

import math
from typing import Any, Literal

import numpy as np
import pytest
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st
from making import polygons

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, AddSection, Edit, apply, apply_all
from slow_ribbon.core.job.edits.lines import LineChanges, SetLine
from slow_ribbon.core.job.edits.points import MoveVertex
from slow_ribbon.core.job.edits.runs import ExchangeSection, FacingChanges, GiveSettings, PlacingChanges, SetPlacing
from slow_ribbon.core.job.edits.sections import SectionChanges, SetSection
from slow_ribbon.core.job.edits.split_join import ReverseLines, SplitLine
from slow_ribbon.core.job.edits.transform import MirrorLines
from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.lines import line_body
from slow_ribbon.core.runs.placement.placing import FacingRoom, FacingSide, FacingWall, Placing
from slow_ribbon.core.sections.library import from_library
from slow_ribbon.core.solve import solve

SKIRTING = from_library("skirting-chamfered")


def inside(job: Job, room: shapely.Polygon) -> bool:
    """Return whether the middle of every piece of every run lies in a room, on plan."""
    for run in solve(job).runs.values():
        course, placed = run.cuts.course, run.cuts.placed
        middles = (course.starts + course.ends) / 2 + course.rights * placed.centroid[0]
        if not all(room.contains(shapely.Point(*middle[:2])) for middle in middles):
            return False
    return True


@st.composite
def rooms(draw: st.DrawFn) -> tuple[Array, Job]:
    """The corners of a room, and a job in which its walls are open lines between doors, drawn in any direction and order."""
    corners = draw(polygons(least=4, most=9, radius=(4000, 9000)))
    count = len(corners)
    # Doors are in the middles of some walls that are long enough, 900 wide.
    lengths = np.hypot(*(np.roll(corners, -1, axis=0) - corners).T)
    wide = np.flatnonzero(lengths > 1500).tolist()
    assume(len(wide) >= 2)
    doors = sorted(draw(st.sets(st.sampled_from(wide), min_size=2, max_size=4)))
    stretches = []
    for door, after in zip(doors, [*doors[1:], doors[0] + count], strict=True):
        begin, end = (gap(corners, at % count) for at in (door, after))
        stretches.append([begin[1], *(corners[i % count] for i in range(door + 1, after + 1)), end[0]])
    order = draw(st.permutations(range(len(stretches))))
    turned = draw(st.lists(st.booleans(), min_size=len(stretches), max_size=len(stretches)))
    bodies = tuple(
        line_body([(float(x), float(y), 0.0) for x, y in (stretches[i][::-1] if turned[i] else stretches[i])], False, f"Wall {i}")
        for i in order
    )
    return corners, apply_all(Job(name="Room"), [AddLines(lines=bodies), AddSection(section=SKIRTING)]).job


def gap(corners: Array, wall: int) -> tuple[Array, Array]:
    """Return the two sides of a door in the middle of a wall."""
    a, b = corners[wall], corners[(wall + 1) % len(corners)]
    along = (b - a) / np.hypot(*(b - a))
    return (a + b) / 2 - 450 * along, (a + b) / 2 + 450 * along


@given(rooms())
def test_runs_on_all_walls_of_a_room_face_into_it_whatever_way_each_was_drawn(made: tuple[Array, Job]) -> None:
    corners, job = made
    ids = tuple(line.id for line in job.lines)
    section = job.sections[0].id
    job = apply(job, AddRuns(section=section, lines=ids, placing=Placing(facing=FacingRoom(lines=ids))))
    room = shapely.Polygon(corners)
    assert inside(job, room)
    for id in ids:
        job = apply(job, ReverseLines(lines=(id,)))
        assert inside(job, room)
    # Mirrored in place it faces into the mirrored room.
    job = apply(job, MirrorLines(lines=ids, a=(0, 0, 0), b=(0, 1, 0), copies=False))
    assert inside(job, shapely.Polygon(corners * (-1, 1)))


@given(polygons(), st.booleans())
def test_a_closed_line_bounds_its_room_by_itself(corners: Array, turned: bool) -> None:
    points = [(float(x), float(y), 0.0) for x, y in (corners[::-1] if turned else corners)]
    room = Placing(facing=FacingRoom())
    job = apply_all(
        Job(name="Room"),
        [
            AddLines(lines=(line_body(points, True, "Room"),)),
            AddSection(section=SKIRTING),
            AddRuns(section="S2", lines=("L1",), placing=room),
        ],
    ).job
    assert inside(job, shapely.Polygon(corners))


def walls(*edits: Edit) -> Job:
    """Return a job with a wall of two legs and a straight one, a section and what edits make of it."""
    lines = (
        line_body([(0, 0, 0), (4000, 0, 0), (4000, 3000, 0)], False, "Corner"),
        line_body([(0, 0, 0), (0, 3000, 0)], False, "Straight"),
    )
    return apply_all(Job(name="Job"), [AddLines(lines=lines), AddSection(section=SKIRTING), *edits]).job


def test_what_bounds_no_room_is_refused_with_what_to_do_and_lines_that_change_are_looked_at_again() -> None:
    room = Placing(facing=FacingRoom())
    with pytest.raises(Refused) as refused:
        walls(AddRuns(section="S3", lines=("L2",), placing=room))
    assert (refused.value.code, refused.value.where) == ("no-room", "facing")
    # A corner bounds one with the straight between its ends.
    job = walls(AddRuns(section="S3", lines=("L1",), placing=room))
    assert inside(job, shapely.Polygon([(0, 0), (4000, 0), (4000, 3000)]))
    # Pulled to the other side, so is its room.
    job = apply(job, MoveVertex(line="L1", point=2, to=(4000, -3000, 0)))
    assert inside(job, shapely.Polygon([(0, 0), (4000, 0), (4000, -3000)]))
    # Pulled straight it bounds none any more: it stays as it was, and that is reported.
    made = apply_all(job, [MoveVertex(line="L1", point=2, to=(8000, 0, 0))])
    assert any("does not enclose a room" in notice for notice in made.notices)
    assert made.job.run("R4").placing.facing == job.run("R4").placing.facing
    # Split, each part goes on facing the same way.
    job = apply(job, SplitLine(line="L1", at=2000))
    assert inside(job, shapely.Polygon([(0, 0), (4000, 0), (4000, -3000)]))


@pytest.mark.parametrize("side", ["left", "right"])
def test_away_from_the_wall_is_the_side_it_does_not_stand_on(side: Literal["left", "right"]) -> None:
    with pytest.raises(Refused) as refused:
        walls(AddRuns(section="S3", lines=("L1",), placing=Placing(facing=FacingWall())))
    assert refused.value.code == "no-wall"
    wall = SetLine(line="L1", changes=LineChanges.model_validate({"wall": {"height": 2500, "thickness": 100, "side": side}}))
    job = walls(wall, AddRuns(section="S3", lines=("L1",), placing=Placing(facing=FacingWall())))
    assert solve(job).runs["R4"].cuts.placed.right == (side == "left")
    job = apply(job, ReverseLines(lines=("L1",)))
    assert solve(job).runs["R4"].cuts.placed.right == (side == "right")
    with pytest.raises(Refused) as refused:
        apply(job, SetLine(line="L1", changes=LineChanges(wall=None)))
    assert refused.value.code == "no-wall"


OF: dict[str, Any] = {"top": (1, max), "bottom": (1, min), "front": (0, max), "back": (0, min)}


@given(
    st.sampled_from(["skirting-chamfered", "cornice-sprung", "handrail-moulded", "tube-round"]),
    st.sampled_from(["top", "bottom", "front", "back"]),
    st.sampled_from(["left", "right"]),
    st.floats(-2000, 2000),
    st.floats(-180, 180),
    st.floats(20, 300),
)
def test_a_face_lies_where_it_is_said_to_and_stays_when_the_section_changes(
    key: str, part: Literal["top", "bottom", "front", "back"], side: Literal["left", "right"], at: float, roll: float, width: float
) -> None:
    section = from_library(key)
    said: dict[str, Any] = {"lift": at, "lift_of": part} if part in ("top", "bottom") else {"stand_off": at, "stand_off_of": part}
    placing = Placing(facing=FacingSide(kind=side), roll=roll, **said)
    job = walls(AddSection(section=section), AddRuns(section="S4", lines=("L2",), placing=placing))
    for edit in (None, SetSection(section="S4", changes=SectionChanges(width=width, height=width * section.height / section.width))):
        job = job if edit is None else apply(job, edit)
        placed = solve(job).runs["R5"].cuts.placed
        axis, of = OF[part]
        # By the places of a fine polygon, seen toward the front.
        points = placed.points(placed.shape.flat(0.0005).points) * (1 if placed.right else -1, 1)
        assert float(of(points[:, axis])) == pytest.approx(at, abs=0.001)


@given(st.sampled_from(["datum", "front", "middle", "back"]), st.sampled_from(["datum", "top", "middle", "bottom"]), st.floats(-90, 90))
def test_to_say_it_of_another_part_moves_nothing(across: Any, up: Any, roll: float) -> None:
    placing = Placing(stand_off=30, lift=900, roll=roll, facing=FacingSide(kind="left"))
    job = walls(AddRuns(section="S3", lines=("L1",), placing=placing))
    before = solve(job).runs["R4"].cuts.placed.shift
    job = apply(job, SetPlacing(runs=("R4",), changes=PlacingChanges(stand_off_of=across, lift_of=up)))
    assert solve(job).runs["R4"].cuts.placed.shift == pytest.approx(before, abs=1e-9)
    assert job.run("R4").placing.lift_of == up


def test_the_outer_faces_of_a_hoop_are_as_far_apart_as_its_line() -> None:
    legs = [(0.0, 0.0, 0.0), (0.0, 0.0, 1000.0), (1200.0, 0.0, 1000.0), (1200.0, 0.0, 0.0)]
    job = apply_all(
        Job(name="Gate"),
        [
            AddLines(lines=(line_body(legs, False, "Hoop"),)),
            AddSection(section=from_library("tube-square")),
            AddRuns(section="S2", lines=("L1",), placing=Placing(stand_off_of="front", facing=FacingSide(kind="right"))),
        ],
    ).job
    for size in (40.0, 60.0):
        job = apply(job, SetSection(section="S2", changes=SectionChanges(width=size, height=size)))
        solid = solve(job).runs["R3"].surface()
        low, high = solid.vertices.min(axis=0), solid.vertices.max(axis=0)
        assert float(high[0] - low[0]) == pytest.approx(1200)
        assert float(high[2]) == pytest.approx(float(low[2]) + 1000)
        assert max(solve(job).runs["R3"].cuts.long_points) == pytest.approx(1200)


def test_settings_are_given_to_others_and_a_section_is_exchanged_in_all_its_runs() -> None:
    placing = Placing(lift=900, roll=5, facing=FacingSide(kind="left"))
    job = walls(
        AddRuns(section="S3", lines=("L1",), placing=placing),
        AddRuns(section="S3", lines=("L2",)),
        AddSection(section=from_library("picture-rail")),
        GiveSettings(run="R4", runs=("R5",)),
    )
    assert job.run("R5").placing == placing
    assert (job.run("R5").line, job.run("R5").name) == ("L2", "Skirting, chamfered, Straight")
    exchanged = apply(job, ExchangeSection(section="S3", by="S6"))
    assert {run.section for run in exchanged.runs} == {"S6"}
    assert [run.section for run in apply(job, ExchangeSection(section="S3", by="S6", runs=("R5",))).runs] == ["S3", "S6"]
    with pytest.raises(Refused) as refused:
        apply(job, ExchangeSection(section="S6", by="S3"))
    assert refused.value.code == "no-runs"
    assert math.isclose(job.run("R4").placing.lift, 900)
    side = SetPlacing(runs=("R4", "R5"), changes=PlacingChanges(facing=FacingChanges(kind="room", lines=("L1", "L2"))))
    assert inside(apply(job, side), shapely.Polygon([(0, 0), (4000, 0), (4000, 3000), (0, 3000)]))
