"""Runs whose lines rise where they turn: second sections, sections turned, pieces in the corner; and what is kept of them in a job."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st
from making import line, mesh, placings, sections

from slow_ribbon.core.cutting import cutting_list, schedule
from slow_ribbon.core.cutting.cutting_list import section_named
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.apply import apply, apply_all
from slow_ribbon.core.job.edits.lines import AddLines
from slow_ribbon.core.job.edits.mends import mends_of
from slow_ribbon.core.job.edits.points import MoveVertex
from slow_ribbon.core.job.edits.removal import Remove
from slow_ribbon.core.job.edits.runs import AddRuns, RunChanges, SetRun
from slow_ribbon.core.job.edits.sections import AddSection, FreeSection, SectionChanges, SetSection
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.model import Line, line_body
from slow_ribbon.core.runs.pieces.congruence import equal_pieces
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.solids import piece_solid, run_solid, run_surface
from slow_ribbon.core.runs.pieces.trim_pieces import cut
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.placing import Placing
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.treatments.corners import Mitre, Transition
from slow_ribbon.core.sections.document.section import Section, SectionBody, section_shape
from slow_ribbon.core.sections.library import from_library, rectangle
from slow_ribbon.core.solve.solve_kinds import solve_run
from slow_ribbon.core.solve.solver import solve


@st.composite
def rising(draw: st.DrawFn) -> Line:
    """An open line of straights that turns on plan and rises and falls, often both at once."""
    at, heading = np.zeros(3), 0.0
    points = [at]
    for _ in range(draw(st.integers(2, 5))):
        heading += math.radians(draw(st.sampled_from([0, 0, 90, -90, 45, -60, 110])))
        pitch = math.radians(draw(st.sampled_from([0, 0, 12, 35, -20])))
        size = draw(st.floats(2500, 5000))
        at = at + size * np.array([math.cos(heading), math.sin(heading), math.tan(pitch)])
        points.append(at)
    return line([point.tolist() for point in points])


def made(path: Line, section: Section, placing: Placing, raked: Any) -> Cuts:
    course = course_of(path)
    return cut(course, Placed(section, placing, course), Mitre(raked=raked))


def outline_at(cuts: Cuts, index: int) -> Any:
    """Return what a plane square to a piece cuts of its solid in the middle, as trimesh finds it, in the piece's square frame."""
    plain = cuts.plain
    middle = (plain.starts[index] + plain.ends[index]) / 2
    ring = mesh(piece_solid(cuts, index)).section(plane_origin=middle, plane_normal=plain.tangents[index])
    assert ring is not None
    points = [loop - middle for loop in ring.discrete]
    return shapely.union_all([shapely.Polygon(np.column_stack([one @ plain.rights[index], one @ plain.ups[index]])) for one in points])


@pytest.mark.parametrize("raked", ["members", "turned"])
@given(path=rising(), section=sections(), placing=placings())
def test_sections_meet_at_every_corner_and_pieces_fill_the_run(raked: str, path: Line, section: Section, placing: Placing) -> None:
    cuts = made(path, section, placing, raked)
    assume(bool((cuts.short_points > 0).all()))
    assert np.abs(cuts.mismatches).max() < 1e-6
    whole, pieces = mesh(run_solid(cuts)), [mesh(piece_solid(cuts, i)) for i in range(cuts.course.count)]
    assert whole.is_watertight
    assert all(piece.is_watertight and piece.is_winding_consistent for piece in pieces)
    assert cuts.volumes == pytest.approx([piece.volume for piece in pieces], rel=1e-9)
    assert whole.volume == pytest.approx(cuts.volumes.sum(), rel=1e-9)
    for i, piece in enumerate(pieces):
        along = piece.vertices @ cuts.plain.tangents[i]
        assert np.ptp(along) >= cuts.long_points[i] - 1e-6
        # What is reported of a piece's section is what a saw square to it would show.
        lying, found = cuts.lying(i), outline_at(cuts, i)
        drawn = section_shape(lying.section).polygon(1e-3)
        points = shapely.get_coordinates(found.exterior) @ lying.laid
        back = shapely.Polygon(points - points.min(axis=0))
        assert shapely.symmetric_difference(back, drawn).area < 1e-4 * drawn.area
    if raked == "turned":
        assert not cuts.sorts.any()


@given(path=rising(), section=sections(), placing=placings())
def test_a_skin_has_the_normals_of_its_facets(path: Line, section: Section, placing: Placing) -> None:
    cuts = made(path, section, placing, "members")
    assume(bool((cuts.short_points > 0).all()))
    skin = run_surface(cuts)
    corners = skin.vertices[skin.faces]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    across /= np.linalg.norm(across, axis=1)[:, None]
    # Every outline here is a polygon, so that no normal is between two facets.
    assert np.einsum("ij,ij->i", across, skin.normals[skin.faces[:, 0]]) == pytest.approx(np.ones(len(across)), abs=1e-6)


def stair(*corners: Any) -> Line:
    return line(corners)


RISE = 2000 * math.tan(math.radians(35))
#: Level, then up at 35° round a corner, then level again round another one.
DOG_LEG = stair((0, 0, 0), (2000, 0, 0), (2000, 2000, RISE), (4000, 2000, RISE))
BATTEN = Section(id="S1", name="Batten", outline=rectangle(60, 90), width=60, height=90)


def test_of_two_corners_that_turn_against_each_other_the_level_pieces_are_of_the_drawn_section() -> None:
    cuts = made(DOG_LEG, BATTEN, Placing(), "members")
    assert cuts.sorts.tolist() == [0, 1, 0]
    turned = made(stair((0, 0, 0), (2000, 0, 0), (2000, 2000, RISE), (0, 2000, RISE)), BATTEN, Placing(), "members")
    # Round the same way twice it is another section above: its top slopes by as much as twice the rise of its depth.
    assert turned.sorts.tolist() == [0, 1, 2]
    assert turned.seconds[1].section.height == pytest.approx(90 + 2 * 60 * math.tan(math.radians(35)))


def test_a_drawn_section_is_the_first_level_piece_wherever_it_comes() -> None:
    cuts = made(stair((2000, 2000, RISE), (2000, 0, 0), (0, 0, 0)), BATTEN, Placing(), "members")
    assert cuts.sorts.tolist() == [1, 0]
    assert cuts.seconds[0].section.height == pytest.approx(90 * math.cos(math.radians(35)) + 60 * math.sin(math.radians(35)))


def test_gone_the_other_way_a_run_is_made_of_the_same_pieces() -> None:
    points = [*((leg.to) for leg in DOG_LEG.legs)][::-1]
    back = stair(*points, DOG_LEG.start)
    ways = Placing.model_validate({"facing": {"kind": "right"}}), Placing.model_validate({"facing": {"kind": "left"}})
    for raked in ("members", "turned"):
        there, again = (made(path, BATTEN, placing, raked) for path, placing in zip((DOG_LEG, back), ways, strict=True))
        assert again.volumes[::-1] == pytest.approx(there.volumes)
        assert again.long_points[::-1] == pytest.approx(there.long_points)
        assert again.sorts[::-1].tolist() == there.sorts.tolist()


def test_pieces_of_other_sections_are_not_equal_however_alike_their_cuts_are() -> None:
    up = 3000 * math.tan(math.radians(20))
    zigzag = stair((0, 0, 0), (3000, 0, 0), (3000, 3000, up), (6000, 3000, up), (6000, 6000, 2 * up), (9000, 6000, 2 * up))
    cuts = made(zigzag, BATTEN, Placing(), "members")
    assert cuts.sorts.tolist() == [0, 1, 0, 1, 0]
    together = {frozenset(group) for group in equal_pieces(cuts)}
    assert frozenset({1, 3}) in together
    assert all(len({int(cuts.sorts[i]) for i in group}) == 1 for group in together)


def test_what_eases_from_one_pitch_to_another_goes_on_as_it_came_round_the_corner() -> None:
    """The rise eases into a landing by an upright arc: one piece that bends, of the second section all along."""
    path = stair((0, 0, 0), (2000, 0, 0), (2000, 2000, RISE), (2000, 4000, RISE))
    legs = list(path.legs)
    legs[1] = legs[1].model_copy(update={"round": 900.0})
    cuts = made(path.model_copy(update={"legs": tuple(legs)}), BATTEN, Placing(), "members")
    assert cuts.course.count == 2
    assert list(cuts.course.paths) == [1]
    assert np.abs(cuts.mismatches).max() < 1e-6
    assert cuts.sorts.tolist() == [0, 1]
    whole = mesh(run_solid(cuts))
    assert whole.is_watertight
    # Drawn with chords, the arc is a hair fuller or leaner than it is.
    assert whole.volume == pytest.approx(cuts.volumes.sum(), rel=1e-4)


def test_both_pieces_end_on_an_upright_piece_as_long_as_what_ends_on_it() -> None:
    course = course_of(DOG_LEG)
    cuts = cut(course, Placed(BATTEN, Placing(), course), Transition(size=100, proud=10))
    for i in (1, 2):
        assert cuts.planes_begin[i][2] == pytest.approx(0)
        assert cuts.planes_end[i - 1][2] == pytest.approx(0)
    # On plan both stop 50 short of the corner; the one on the rise this much further along it.
    assert cuts.offsets_end[0] == pytest.approx(-50)
    assert cuts.offsets_begin[1] == pytest.approx(50 / math.cos(math.radians(35)))
    solved = solve_run(Run(id="R1", name="Rail", tag="R", line="L1", section="S1", corners=Transition()), DOG_LEG, BATTEN)
    ends = [mesh(piece_solid(cuts, i)).vertices for i in range(3)]
    for corner, (before, after) in zip(solved.corners, ((0, 1), (1, 2)), strict=True):
        at = np.array(corner.point)
        near = [points[np.linalg.norm((points - at)[:, :2], axis=1) < 150][:, 2] for points in (ends[before], ends[after])]
        high = max(map(np.max, near)) - min(map(np.min, near)) + 20
        assert f"{float(round(high, 1))!r}|1" in corner.fitting


def job_of(corners: Any, section: SectionBody | None = None) -> Job:
    body = section or SectionBody(name="Batten", outline=rectangle(60, 90), width=60, height=90)
    wall = line_body([(0, 0, 0), (2000, 0, 0), (2000, 2000, RISE)], False, "Wall")
    return apply_all(
        Job(name="Stair"), [AddLines(lines=(wall,)), AddSection(section=body), AddRuns(section="S2", lines=("L1",), corners=corners)]
    ).job


def size(section: Section) -> Array:
    return np.array([section.width, section.height])


def test_a_second_section_is_put_into_the_job_and_follows() -> None:
    job = job_of(Mitre(raked="members"))
    first, second = job.sections
    assert (second.name, job.runs[0].seconds[0].section) == ("Batten, on the rise", second.id)
    pitch = math.radians(35)
    assert size(second) == pytest.approx([60, 90 * math.cos(pitch) + 60 * math.sin(pitch)])
    # The first made higher, the second follows; so it does the line, pitched otherwise.
    higher = apply_all(job, [SetSection(section=first.id, changes=SectionChanges(height=120))]).job
    assert size(higher.sections[1]) == pytest.approx([60, 120 * math.cos(pitch) + 60 * math.sin(pitch)])
    flatter = apply_all(job, [MoveVertex(line="L1", point=2, to=(2000, 2000, 500))]).job
    pitch = math.atan2(500, 2000)
    assert [one.id for one in flatter.sections] == [first.id, second.id]
    assert size(flatter.sections[1]) == pytest.approx([60, 90 * math.cos(pitch) + 60 * math.sin(pitch)])
    # Level it is of no second section; that one stays, for when the line rises again.
    level = apply_all(job, [MoveVertex(line="L1", point=2, to=(2000, 2000, 0))]).job
    assert level.runs[0].seconds == ()
    again = apply_all(level, [MoveVertex(line="L1", point=2, to=(2000, 2000, RISE))]).job
    assert [one.id for one in again.sections] == [first.id, second.id]
    assert solve(again).checks() == []


def test_pieces_are_listed_and_counted_under_the_section_they_are_of() -> None:
    solved = solve(job_of(Mitre(raked="members")))
    rows = cutting_list(solved)
    assert [(section_named(solved, row), row.tags) for row in rows] == [("Batten", ("B1",)), ("Batten, on the rise", ("B2",))]
    assert [(row.across, row.thick) for row in rows] == [(90, 60), (pytest.approx(solved.job.sections[1].height), pytest.approx(60))]
    totals = schedule(solved)
    assert {id: total.pieces for id, total in totals.sections.items()} == {solved.job.sections[0].id: 1, solved.job.sections[1].id: 1}
    assert sum(total.bar for total in totals.sections.values()) == pytest.approx(totals.job.bar)


def test_two_runs_share_a_second_section_until_one_of_them_needs_another() -> None:
    job = job_of(Mitre(raked="members"))
    other = line_body([(0, 5000, 0), (2000, 5000, 0), (2000, 7000, RISE)], False, "Other wall")
    both = apply_all(job, [AddLines(lines=(other,)), AddRuns(section="S2", lines=("L5",), corners=Mitre(raked="members"))]).job
    assert [run.seconds for run in both.runs] == [job.runs[0].seconds] * 2
    moved = apply_all(both, [MoveVertex(line="L5", point=2, to=(2000, 7000, 600))]).job
    assert len(moved.sections) == 3
    assert moved.runs[0].seconds == job.runs[0].seconds
    assert moved.runs[1].seconds[0].section == moved.sections[2].id


def test_a_second_section_is_drawn_after_the_first_and_not_by_hand() -> None:
    job = job_of(Mitre(raked="members"))
    second = job.sections[1]
    with pytest.raises(Refused, match="uses it where the line rises"):
        apply_all(job, [Remove(ids=(second.id,))])
    named = apply_all(job, [SetSection(section=second.id, changes=SectionChanges(name="Rake", material="oak"))]).job
    assert section_named(solve(named), cutting_list(solve(named))[1]) == "Rake"
    # Figures that another machine worked out, a hair otherwise, are drawn again when something else of it is said.
    hair = second.model_copy(update={"width": second.width + 1e-11})
    came = job.model_copy(update={"sections": (job.sections[0], hair)})
    renamed = apply_all(came, [SetSection(section=second.id, changes=SectionChanges(name="Rake"))]).job
    assert (renamed.sections[1].name, renamed.sections[1].width) == ("Rake", second.width)
    # Let stand by itself it can be; the run gets another. Changed by hand it is let stand by itself.
    by_hand = SetSection(section=second.id, changes=SectionChanges(height=200))
    free, changed = apply_all(job, [FreeSection(section=second.id), by_hand]), apply_all(job, [by_hand])
    assert changed.notices == ("Batten, on the rise no longer follows Batten: it was changed by hand.",)
    assert free.job == changed.job
    assert [one.member is None for one in free.job.sections] == [True, True, False]
    assert free.job.runs[0].seconds[0].section == free.job.sections[2].id
    # Its first gone, with the run, it stays as it is.
    gone = apply_all(job, [Remove(ids=("S2",), with_dependents=True)])
    assert [(one.id, one.member) for one in gone.job.sections] == [(second.id, None)]
    assert gone.notices == ("Batten, on the rise no longer follows: the section it members with was removed.",)


def test_a_section_of_arcs_that_lies_on_a_slanting_edge_has_a_second_that_does_too() -> None:
    sprung = from_library("cornice-sprung")
    job = job_of(Mitre(raked="members"), sprung)
    first, second = job.sections
    assert (first.bed.kind, second.bed.kind) == ("edge", "edge")
    # Pieces lie on it as a saw has them: nothing of the section is under the table.
    solved = solve(job)
    assert solved.runs["R3"].cuts.mismatches == pytest.approx([0, 0], abs=1e-6)
    run = solved.runs["R3"]
    lying = run.cuts.lying(1)
    flat = lying.points(lying.shape.flat().points) @ lying.bed_up
    assert int((flat < flat.min() + 0.01).sum()) >= 2


def test_a_corner_that_does_not_member_is_reported_with_the_ways_out() -> None:
    checks = solve(job_of(Mitre())).checks()
    assert [(check.kind, check.mends) for check in checks] == [("mismatch", ("members", "turned", "transition"))]
    assert "60.0|1" in checks[0].remedy
    assert "35.0°" in checks[0].remedy
    for corners in (Mitre(raked="members"), Mitre(raked="turned"), Transition()):
        assert solve(job_of(corners)).checks() == []
    # Each way out comes as an edit, which leaves nothing to report.
    job, run = job_of(Mitre()), solve(job_of(Mitre())).runs["R3"]
    mends = mends_of(checks[0], run.line, [(corner.chainage, corner.vertex) for corner in run.corners])
    assert [mend.action for mend in mends] == ["Make a second section", "Turn the section", "Put a piece in the corner"]
    assert [solve(apply(job, mend.edit)).checks() for mend in mends] == [[], [], []]
    # A change of the way changes nothing else of the job.
    back = apply_all(
        job_of(Mitre(raked="members")), [SetRun(run="R3", changes=RunChanges(corners={"raked": "told"}, external={"raked": "told"}))]
    ).job
    assert solve(back).checks()[0].kind == "mismatch"
