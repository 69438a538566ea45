"""Runs along curves: solids, fibres, frames, pinches, roundings, openings; whatever the curve."""

from __future__ import annotations

import math

import numpy as np
import pytest
from examples import examples
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from making import bent_line, bent_lines, line, mesh, placings, run_cuts, sections

from slow_ribbon.core.cutting.cutting_list import cutting_list
from slow_ribbon.core.geometry.curves import run_on
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.kernel.arrays import CHORD_HEIGHT
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import plain
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import ArcLeg, CurveLeg, HelixLeg, StraightLeg, helix_end
from slow_ribbon.core.lines.model import Line, LineBody, Opening, with_id
from slow_ribbon.core.lines.split_join import reverse
from slow_ribbon.core.lines.validate import check_line
from slow_ribbon.core.runs.making.checks import run_checks
from slow_ribbon.core.runs.pieces import drawn_pieces
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.solids import piece_solid, run_solid, run_surface
from slow_ribbon.core.runs.pieces.trim_pieces import cut
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.placing import FacingPoint, Placing
from slow_ribbon.core.runs.placement.run import Run, run_course
from slow_ribbon.core.runs.placement.stretches import Between
from slow_ribbon.core.runs.treatments.joints import Joints
from slow_ribbon.core.sections.document.section import NamedDatum, Section, section_shape
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.solve.solve_kinds import solve_run

SKIRTING = Section(id="S1", name="Skirting", outline=rectangle(18, 120), width=18, height=120)
LEFT = Placing.model_validate({"facing": {"kind": "left"}})


@settings(max_examples=examples(60))
@given(bent_lines(), sections(), placings())
def test_bent_runs_are_watertight_and_their_pieces_fill_them(path: Line, section: Section, placing: Placing) -> None:
    cuts = run_cuts(path, section, placing)
    run = Run(id="R1", name="r", tag="A", line="L1", section="S1")
    checks = run_checks(run, cuts)
    assume(not any(check.severity == "fault" and check.kind != "mismatch" for check in checks))
    whole = mesh(run_solid(cuts))
    assert whole.is_watertight
    assert whole.volume > 0
    pieces = [mesh(piece_solid(cuts, i)) for i in range(cuts.course.count)]
    assert all(piece.is_watertight for piece in pieces)
    # Flattened finely, a solid holds nearly what its fibres say; where a curve ends in a needle the cut across a
    # flat side is itself much curved, and the solid draws it straight; a sharp corner comes near that.
    if not any(check.kind == "needle" for check in checks):
        fine = mesh(piece_solid(cuts, 0, chord_height=0.01))
        assert fine.volume == pytest.approx(cuts.volumes[0], rel=3e-2)
    assert (cuts.short_points <= cuts.long_points + 1e-9).all()
    surface = run_surface(cuts)
    corners = surface.vertices[surface.faces]
    outward = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    turned = np.einsum("ij,ij->i", outward, surface.normals[surface.faces[:, 0]])
    assert np.mean(turned > -1e-6) > 0.995


@settings(max_examples=examples(25))
@given(bent_lines(), sections(), placings(), st.data())
def test_places_on_a_piece_are_those_of_its_spans_and_what_is_carried_along_it_ends_in_its_cuts(
    path: Line, section: Section, placing: Placing, data: st.DataObject
) -> None:
    cuts = run_cuts(path, section, placing)
    assume(not any(check.severity == "fault" for check in run_checks(Run(id="R1", name="r", tag="A", line="L1", section="S1"), cuts)))
    points = cuts.placed.points(section_shape(section).flat().points)
    for i, piece in cuts.course.paths.items():
        # Beyond its ends too, where it keeps the bend it ends with.
        s = np.array(data.draw(st.lists(st.floats(-0.2, 1.2), min_size=1, max_size=9))) * piece.length
        here, begin = piece.at(s), np.cumsum([0.0, *(span.length for span in piece.spans)])
        for k, at in enumerate(s):
            number = min(int(np.searchsorted(begin[1:-1], at + piece.low, side="right")), len(piece.spans) - 1)
            place, along, bend = (one[0] for one in run_on(piece.spans[number], np.array([at + piece.low - begin[number]])))
            assert np.allclose(here.points[k], place, atol=1e-6)
            assert np.allclose(here.tangents[k], along, atol=1e-9)
            assert np.allclose(here.bends[k], [bend @ here.rights[k], bend @ here.ups[k]], atol=1e-9)
        carried = drawn_pieces.carried(cuts, i, points)
        for ring, plane, corner in ((0, cuts.planes_begin, cuts.course.starts), (-1, cuts.planes_end, cuts.course.ends)):
            assert np.abs((carried.points[ring] - corner[i]) @ plane[i]).max() < 1e-6
        # Between its cuts the section is the section, square to travel, as far as nothing leans.
        if cuts.ends_straight(i, False) and cuts.ends_straight(i, True):
            for ring, place in zip(carried.points[1:-1], piece.at_chords.points[1:-1], strict=True):
                assert np.allclose(np.hypot(*(ring - place).T[:2]) ** 2 + (ring - place).T[2] ** 2, (points**2).sum(axis=1), atol=1e-6)


@settings(max_examples=examples(60))
@given(bent_lines(), st.data())
def test_frames_are_square_and_places_are_where_chainages_say(path: Line, data: st.DataObject) -> None:
    course = course_of(path)
    s = np.sort(np.array(data.draw(st.lists(st.floats(0, 1), min_size=2, max_size=12)))) * course.length
    here = course.at(s)
    frames = np.stack([here.rights, here.ups, here.tangents], axis=1)
    assert np.matmul(frames, frames.transpose(0, 2, 1)) == pytest.approx(np.broadcast_to(np.eye(3), frames.shape), abs=1e-9)
    assert np.cross(here.rights, here.ups) == pytest.approx(-here.tangents, abs=1e-9)
    if course.rule == "upright":
        assert here.rights[:, 2] == pytest.approx(np.zeros(len(s)), abs=1e-12)
    # Along a millimetre of the line a place moves a millimetre along the tangent.
    ahead = course.at(np.minimum(s + 1e-3, course.length))
    step = np.linalg.norm(ahead.points - here.points, axis=1)
    assert step == pytest.approx(np.minimum(1e-3, course.length - s), abs=1e-8)
    check_line(path)


@given(st.floats(200, 4000), st.floats(0.3, 1.9 * math.pi), st.booleans())
def test_pappus_along_an_arc_to_1e_9(radius: float, turn: float, left: bool) -> None:
    """Area × arc length at the centroid (Pappus–Guldin), to 1e-9."""
    via, end = ((radius * math.cos(a), radius * math.sin(a), 0.0) for a in (turn / 2, turn))
    path = bent_line((radius, 0, 0), [ArcLeg(to=end, via=via)])
    cuts = run_cuts(path, SKIRTING, Placing.model_validate({"facing": {"kind": "left" if left else "right"}}))
    # Anticlockwise, left of travel is inside.
    centroid = radius - 9 if left else radius + 9
    assert cuts.volumes[0] == pytest.approx(18 * 120 * centroid * turn, rel=1e-9)
    inner, outer = sorted((radius * turn, (radius - 18 if left else radius + 18) * turn))
    assert cuts.long_points[0] == pytest.approx(outer, rel=1e-9)
    assert cuts.short_points[0] == pytest.approx(inner, rel=1e-9)


def test_a_ring_has_no_seam_wherever_it_starts() -> None:
    whole = None
    for start in (0.0, 1.0, 2.5):
        x, y = 1000 * math.cos(start), 1000 * math.sin(start)
        half = [(1000 * math.cos(start + a), 1000 * math.sin(start + a), 0.0) for a in (0.5 * math.pi, math.pi, 1.5 * math.pi)]
        ring = bent_line((x, y, 0), [ArcLeg(to=half[1], via=half[0]), ArcLeg(to=(x, y, 0), via=half[2])], closed=True)
        cuts = run_cuts(ring, SKIRTING, LEFT)
        solid = mesh(run_solid(cuts))
        assert solid.is_watertight
        assert cuts.course.count == 1
        assert not cuts.open_begin().any()
        assert solid.euler_number == 0  # a ring has one hole
        whole = whole or cuts.volumes.sum()
        assert cuts.volumes.sum() == pytest.approx(whole, rel=1e-12)


def test_a_goal_post_and_a_bent_tube_come_out_untwisted() -> None:
    """Up, across, down: the section keeps the same side of the post's plane all the way."""
    post = bent_line(
        (0, 0, 0), [StraightLeg(to=(0, 0, 2100), round=150), StraightLeg(to=(900, 0, 2100), round=150), StraightLeg(to=(900, 0, 0))]
    )
    course = course_of(post)
    assert course.rule == "carried"
    assert course.why == "a leg is within 1° of vertical"
    ups = course.at(np.linspace(0, course.length, 200)).ups
    assert ups == pytest.approx(np.broadcast_to(ups[0], ups.shape), abs=1e-9)
    assert abs(ups[0] @ np.array([0, 1, 0])) == pytest.approx(1)
    assert run_cuts(post, SKIRTING).mismatches.max() == 0
    space = line([(0, 0, 0), (1000, 0, 0), (1000, 1000, 0), (1000, 1000, 1000), (0, 1000, 1000)])
    for radius in (None, 200.0):
        rounded = tuple(leg.model_copy(update={"round": radius}) for leg in space.legs[:-1]) + space.legs[-1:]
        bent = course_of(space.model_copy(update={"legs": rounded}))
        # Corner by corner the smallest rotation, and round an arc the same.
        assert bent.rights_end[-1] == pytest.approx(course_of(space).rights[-1], abs=1e-9)


def test_what_is_left_twisted_is_spread_where_asked() -> None:
    loop = line([(0, 0, 0), (1000, 0, 0), (1000, 1000, 400), (0, 1000, 900)], True).model_copy(update={"frame": "carried"})
    course = course_of(loop)
    assert abs(course.leftover) > 0.05
    even = course_of(loop.model_copy(update={"spread": True}))
    assert even.leftover == 0
    home = even.at(np.array([even.length - 1e-9, 0.0]))
    twisted, straight = run_cuts(loop, SKIRTING), run_cuts(loop.model_copy(update={"spread": True}), SKIRTING)
    assert straight.mismatches.max() < 0.2 * twisted.mismatches.max()
    assert np.isfinite(home.points).all()


def test_a_pinch_is_reported_with_its_place_and_the_radius_that_would_do() -> None:
    tight = bent_line((0, 0, 0), [StraightLeg(to=(1000, 0, 0), round=12), StraightLeg(to=(1000, 1000, 0))])
    run = Run(id="R1", name="r", tag="A", line="L1", section="S1", placing=LEFT)
    (check,) = solve_run(run, tight, SKIRTING).checks
    assert (check.kind, check.severity, check.piece) == ("pinched", "fault", 0)
    assert "radius is 12 mm" in plain(check.what)
    assert "18 mm" in plain(check.remedy)
    assert 985 < check.chainage < 1010
    away = Placing.model_validate({"facing": {"kind": "right"}})
    assert solve_run(run.model_copy(update={"placing": away}), tight, SKIRTING).checks == ()


def test_a_curve_that_meets_a_straight_at_an_angle_tells_how_far_the_pieces_miss() -> None:
    """Cut in the plane that halves the tangents: on the line they meet, and away from it the curve leaves the plane's straight."""
    path = bent_line((0, 0, 0), [StraightLeg(to=(2000, 0, 0)), ArcLeg(to=(2000, 3000, 0), via=(2400, 1500, 0))])
    near, far = (run_cuts(path, Section(id="S1", name="s", outline=rectangle(d, 90), width=d, height=90), LEFT) for d in (10, 40))
    assert 0 < near.mismatches[1] < far.mismatches[1] < 1
    # Of second order in the depth.
    assert far.mismatches[1] / near.mismatches[1] == pytest.approx(16, rel=0.1)


@given(st.floats(1, 3000), st.floats(20, 160))
def test_a_radius_fits_or_the_largest_that_does_is_reported(radius: float, turn: float) -> None:
    angle = math.radians(turn)
    corner = bent_line(
        (0, 0, 0), [StraightLeg(to=(1000, 0, 0), round=radius), StraightLeg(to=(1000 + 800 * math.cos(angle), 800 * math.sin(angle), 0))]
    )
    largest = 800 / math.tan(angle / 2)
    if radius < largest - 0.02:
        course = course_of(corner)
        assert course.length == pytest.approx(1800 - 2 * radius * math.tan(angle / 2) + radius * angle, rel=1e-9)
        assert course.count == 1
    elif radius > largest + 0.02:
        with pytest.raises(Refused) as refused:
            check_line(corner)
        assert refused.value.code == "round-large"
        answer = float(str(refused.value).split("fits there is ")[1].split(" mm")[0])
        assert answer == pytest.approx(largest, abs=0.02)


def test_a_corner_between_a_straight_and_an_arc_is_rounded_too() -> None:
    path = bent_line((0, 0, 0), [StraightLeg(to=(2000, 0, 0), round=150), ArcLeg(to=(2000, 3000, 0), via=(2600, 1500, 0))])
    course = course_of(path)
    assert course.count == 1
    s = np.linspace(0, course.length, 4000)
    tangents = course.at(s).tangents
    assert np.linalg.norm(np.diff(tangents, axis=0), axis=1).max() < 0.02


def test_openings_break_a_run_and_stretches_can_be_taken_alone() -> None:
    room = line([(0, 0), (4000, 0), (4000, 3000), (0, 3000)], True)
    room = room.model_copy(
        update={"openings": (Opening(id="O1", name="D1", at=1000, width=900), Opening(id="O2", name="D2", at=13_500, width=1000))}
    )
    run = Run(id="R1", name="r", tag="A", line="L1", section="S1", placing=LEFT)
    course = run_course(run, room)
    assert course.count == 5
    assert course.lengths.sum() == pytest.approx(14_000 - 1900)
    assert course.free.tolist() == [True, True, False, False, False]
    assert run_course(run.model_copy(update={"openings": "pass"}), room).count == 4
    alone = run_course(run.model_copy(update={"stretches": (Between(after="O2", before="O1"),)}), room)
    assert alone.lengths.sum() == pytest.approx(500)
    assert mesh(run_solid(run_cuts_of(run, room))).body_count == 2
    with pytest.raises(Refused, match="an opening that bounded it was removed"):
        run_course(run.model_copy(update={"stretches": (Between(after="O3", before="O1"),)}), room)


def run_cuts_of(run: Run, path: Line) -> Cuts:
    return solve_run(run, path, SKIRTING).cuts


def test_a_run_parted_square_is_the_same_solid() -> None:
    path = bent_line(
        (0, 0, 0), [StraightLeg(to=(1000, 0, 0)), ArcLeg(to=(1000, 1000, 0), via=(1500, 500, 0)), StraightLeg(to=(0, 1000, 0))]
    )
    course = course_of(path)
    parted = course.parted([300, 1200, 1700])
    assert parted.count == 4
    assert parted.lengths.sum() == pytest.approx(course.length)
    assert parted.free.tolist() == [True, False, False, False]
    assert not parted.turns.any()
    run = Run(id="R1", name="r", tag="A", line="L1", section="S1", placing=LEFT)
    whole, parts = solve_run(run, path, SKIRTING), solve_run(run, path, SKIRTING, course=parted)
    assert parts.cuts.volumes.sum() == pytest.approx(whole.cuts.volumes.sum(), rel=1e-9)
    one, other = mesh(whole.solid()), mesh(parts.solid())
    assert other.is_watertight
    assert other.volume == pytest.approx(one.volume, rel=1e-4)


def test_equal_bent_pieces_are_grouped_and_mirrored_ones_are_not() -> None:
    from slow_ribbon.core.job.document.document import Job
    from slow_ribbon.core.job.edits.apply import apply_all
    from slow_ribbon.core.job.edits.lines import AddLines
    from slow_ribbon.core.job.edits.runs import AddRuns
    from slow_ribbon.core.job.edits.sections import AddSection
    from slow_ribbon.core.lines.model import LineBody
    from slow_ribbon.core.sections.library import from_library
    from slow_ribbon.core.solve.solver import solve

    # Bays of a fence, of which the second and third bend to opposite sides: turned end for end a
    # handrail, alike on both sides, fits either; a skirting, which is not, fits only its own.
    legs: list[StraightLeg | ArcLeg] = []
    for x, side in ((0, 1), (4000, 1), (8000, -1)):
        legs.append(ArcLeg(to=(x + 2000, 0, 0), via=(x + 1000, -400 * side, 0)))
        legs.append(StraightLeg(to=(x + 4000, 0, 0)))
    body = LineBody(name="wave", start=(0, 0, 0), legs=tuple(legs))
    edits: list[Edit] = [
        AddLines(lines=(body,)),
        AddSection(section=from_library("handrail-moulded")),
        AddSection(section=from_library("skirting-chamfered")),
        AddRuns(section="S2", lines=("L1",), name="H"),
        AddRuns(section="S3", lines=("L1",), name="K"),
    ]
    job = apply_all(Job(name="wave"), edits).job
    listed = [row for row in cutting_list(solve(job)) if row.bends]
    assert [row.tags for row in listed] == [("H1",), ("H3", "H5"), ("K1",), ("K3",), ("K5",)]
    (bend,) = listed[1].bends
    assert (bend.kind, bend.side) == ("arc", "toward the left")
    assert bend.radius == pytest.approx(1450)


@given(bent_lines(level=True), st.floats(-8000, 8000), st.floats(-8000, 8000))
def test_facing_a_point_is_being_on_its_side_of_a_curve(path: Line, x: float, y: float) -> None:
    course = course_of(path)
    s = np.linspace(0, course.length, 1500)
    here = course.at(s)
    away = np.array([x, y, 0]) - here.points
    distances = np.linalg.norm(away[:, :2], axis=1)
    nearest = int(np.argmin(distances))
    # Near an end or a corner more than one frame has a say.
    assume(
        5 < nearest < len(s) - 5
        and distances[nearest] > 60
        and np.linalg.norm(here.tangents[nearest - 4] - here.tangents[nearest + 4]) < 0.1
    )
    assert FacingPoint(kind="toward", point=(x, y, 0)).is_right(course) == (float(here.rights[nearest] @ away[nearest]) > 0)


def test_a_helix_between_its_ends_and_one_that_is_not() -> None:
    start = (1000.0, 0.0, 0.0)
    wrong = bent_line(start, [HelixLeg(to=(0, 1000, 300), centre=(0, 0, 0), turn=91)])
    with pytest.raises(Refused, match="helix is"):
        check_line(wrong)
    check_line(bent_line(start, [HelixLeg(to=helix_end(start, (0, 0, 0), (0, 0, 1), 90, 300), centre=(0, 0, 0), turn=90)]))


def test_scarfs_round_a_ring_that_is_no_circle_fit_and_are_drawn_as_they_are() -> None:
    """A stadium that begins where a straight does: at the joint there one piece goes on in the arc, the other in the straight."""
    legs = (
        StraightLeg(to=(0.0, 500.0, 0.0)),
        ArcLeg(to=(600.0, 500.0, 0.0), via=(300.0, 800.0, 0.0)),
        StraightLeg(to=(600.0, 0.0, 0.0)),
        ArcLeg(to=(0.0, 0.0, 0.0), via=(300.0, -300.0, 0.0)),
    )
    path = line([(0, 0), (1, 0), (1, 1)], closed=True).model_copy(update={"legs": legs})
    placed = Placed(SKIRTING, Placing(), course_of(path))
    parted = course_of(path).parted([0.0, 950.0, 1900.0])
    cuts = cut(parted, placed, joints=Joints(bars=(1500,), made="scarf"))
    whole = cut(course_of(path), placed)
    assert cuts.volumes.sum() == pytest.approx(whole.volumes.sum(), rel=1e-3)
    # What both pieces at a joint have in their plane is the same.
    points = placed.points(placed.shape.flat().points)
    for i in range(3):
        assert cuts.images(i, points, end=False) == pytest.approx(cuts.images((i - 1) % 3, points, end=True), abs=1e-6)
    for i in range(3):
        assert mesh(piece_solid(cuts, i, chord_height=0.02)).volume == pytest.approx(cuts.volumes[i], rel=2e-3)


@settings(max_examples=examples(25))
@given(
    st.floats(200, 900), st.floats(-300, 300), st.floats(500, 1500), st.floats(20, 120), st.floats(20, 90),
    st.sampled_from(["left", "right"]),
)  # fmt: skip
def test_what_twists_strongly_is_drawn_as_large_as_it_is_both_ways(
    lean: float, aside: float, high: float, deep: float, wide: float, side: str
) -> None:
    """A curve that goes up steeply as it turns: upright frames wind round it.

    Its volume is area × its length, as its datum is the middle.
    """
    curve = CurveLeg(to=(lean, 600, high), controls=((0, aside, high * 0.6), (lean, 600 - aside, high * 0.4)))
    path = bent_line((0, 0, 0), [curve], frame="upright")
    section = Section(id="S1", name="Slat", outline=rectangle(deep, wide), width=deep, height=wide, datum=NamedDatum(name="middle"))
    try:
        course = course_of(path)
    except Refused:
        assume(False)
    assume(float(np.abs(course.paths[0].bending[1]).max()) * max(deep, wide) < 1)
    placing = Placing.model_validate({"facing": {"kind": side}})
    drawn = []
    for way in (path, reverse(path)):
        cuts = run_cuts(way, section, placing)
        assume(
            not any(
                check.kind in ("pinched", "swallowed")
                for check in run_checks(Run(id="R1", name="r", tag="A", line="L1", section="S1"), cuts)
            )
        )
        whole = mesh(run_solid(cuts))
        assert whole.is_watertight
        assert whole.volume == pytest.approx(deep * wide * course.length, rel=4e-3)
        assert mesh(piece_solid(cuts, 0)).volume == pytest.approx(whole.volume, rel=1e-9)
        drawn.append(whole.volume)
    assert drawn[0] == pytest.approx(drawn[1], rel=1e-3)


@pytest.mark.parametrize("height", [0.0, 690.0, -12_345.6])
def test_a_level_curve_does_not_twist_however_high_it_lies(height: float) -> None:
    """What rounding leaves of a rational curve's rise is no twist: as many places are drawn, at the same volume."""
    leg = CurveLeg(to=(4000, 0, height), controls=((1200, 800, height), (2800, 400, height)), weights=(1, 0.8, 1.2, 1))
    path = with_id(LineBody(name="Curve", start=(0, 0, height), legs=(leg,)), "L1")
    cuts = run_cuts(path, Section(id="S1", name="Board", outline=rectangle(18, 120), width=18, height=120))
    assert not cuts.course.paths[0].twists
    assert len(run_solid(cuts).vertices) == 4 * len(cuts.course.paths[0].flattened(CHORD_HEIGHT, 120))
