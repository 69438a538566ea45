"""Curves of facets, laminated, kerfed and sawn from boards: against plane geometry, solids, and figures worked out another way."""

from __future__ import annotations

import io
import math
from typing import Any

import ezdxf
import numpy as np
import pytest
import shapely
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st
from making import bent_lines

from slow_ribbon.core.cutting import run_rows, templates_of
from slow_ribbon.core.cutting.templates import outline_of
from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, AddSection, RunChanges, SetRun, apply, apply_all
from slow_ribbon.core.job.edits.split_join import ReverseLines
from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.lines import ArcLeg, CurveLeg, LineBody, StraightLeg, course_of
from slow_ribbon.core.runs import Placing
from slow_ribbon.core.runs.treatments.curves import Faceted
from slow_ribbon.core.runs.treatments.curves.base import fewest
from slow_ribbon.core.runs.treatments.curves.faceting import deviation
from slow_ribbon.core.sections import SectionBody
from slow_ribbon.core.sections.library import library, rectangle
from slow_ribbon.core.solve import SolvedRun, solve
from slow_ribbon.exports.patterns import patterns_dxf, patterns_svg


def bench(radius: float, turn: float, before: float = 1000.0, after: float = 800.0) -> LineBody:
    """A straight, an arc to the left by ``turn`` degrees, and a straight on from there."""
    angle, half = math.radians(turn), math.radians(turn / 2)
    end = np.array([before + radius * math.sin(angle), radius * (1 - math.cos(angle)), 0.0])
    via = (before + radius * math.sin(half), radius * (1 - math.cos(half)), 0.0)
    last = end + after * np.array([math.cos(angle), math.sin(angle), 0.0])
    legs = (StraightLeg(to=(before, 0, 0)), ArcLeg(via=via, to=tuple(end.tolist())), StraightLeg(to=tuple(last.tolist())))
    return LineBody(name="Bench", start=(0, 0, 0), legs=legs)


def made(body: LineBody, curves: dict[str, Any], deep: float = 20, high: float = 400, side: str = "right") -> SolvedRun:
    section = SectionBody(name="Front", outline=rectangle(deep, high), width=deep, height=high)
    placing = Placing.model_validate({"facing": {"kind": side}})
    edits = [AddLines(lines=(body,)), AddSection(section=section), AddRuns(section="S2", lines=("L1",), placing=placing)]
    changes = RunChanges.model_validate({"curves": curves})
    return solve(apply_all(Job(name="Bench"), [*edits, SetRun(run="R3", changes=changes)]).job).runs["R3"]


@given(st.floats(300, 9000), st.floats(20, 170), st.integers(1, 24), st.sampled_from(["left", "right"]))
def test_facets_are_chords_with_mitres_of_half_their_angle(radius: float, turn: float, count: int, side: str) -> None:
    run = made(bench(radius, turn), {"kind": "faceted", "number": count}, side=side)
    angle = math.radians(turn) / count
    assert run.pieces == count + 2
    # A chord of an arc, and its sagitta: R(1 - cos(φ/2)).
    assert run.course.lengths[1:-1] == pytest.approx(2 * radius * math.sin(angle / 2), rel=1e-9)
    assert run.strays == pytest.approx(radius * (1 - math.cos(angle / 2)), rel=1e-3)
    assert [math.degrees(turn) for turn in run.course.turns[1:]] == pytest.approx(
        [math.degrees(angle) / 2, *[math.degrees(angle)] * (count - 1), math.degrees(angle) / 2]
    )
    assert run.cuts.mismatches.max() < 1e-6
    # The solid is the plan of a ribbon round the polygon, as high as the section.
    corners = np.concatenate([run.course.starts[:, :2], run.course.ends[-1:, :2]])
    ribbon = shapely.LineString(corners).buffer(20 if side == "left" else -20, single_sided=True, join_style="mitre", mitre_limit=50)
    if ribbon.is_valid and run.cuts.short_points.min() > 0:
        assert run.cuts.volumes.sum() == pytest.approx(ribbon.area * 400, rel=1e-6)


@settings(max_examples=examples(20))
@given(bent_lines(), st.floats(0.5, 60))
def test_facets_keep_to_their_deviation_and_no_fewer_would(path: Any, most: float) -> None:
    course = course_of(path)
    flat = Faceted(deviation=most).course_of(course)
    assert not flat.paths
    assert (np.abs(np.linalg.norm(flat.tangents, axis=1) - 1) < 1e-9).all()
    assert (np.abs(np.einsum("ij,ij->i", flat.rights, flat.tangents)) < 1e-9).all()
    # Ends and corners stay where they are, and no piece is off the line by more.
    assert flat.starts[0] == pytest.approx(course.starts[0])
    assert flat.ends[-1] == pytest.approx(course.ends[-1])
    for number, piece in course.paths.items():
        at = float(course.begins[number])
        marks = [begin - at for begin in flat.begins.tolist() if at - 1e-6 <= begin < at + piece.length - 1e-6] + [piece.length]
        assert deviation(piece, np.array(marks)) <= most + 1e-9
        for low, high, span in piece.ranges():
            inside = [mark for mark in marks if low - 1e-6 <= mark <= high + 1e-6]
            if not span.straight and len(piece.ranges()) == 1 and len(inside) > 2:
                assert deviation(piece, np.linspace(low, high, len(inside) - 1)) > most


def test_facets_the_other_way_round_and_closed() -> None:
    """Reversed they are the same pieces; round a closed line they close."""
    ring = LineBody(
        name="Ring", start=(2000, 0, 0), closed=True,
        legs=(ArcLeg(via=(0, 2000, 0), to=(-2000, 0, 0)), ArcLeg(via=(0, -2000, 0), to=(2000, 0, 0))),
    )  # fmt: skip
    # Two halves of one circle are one curve.
    run = made(ring, {"kind": "faceted", "number": 16})
    assert run.pieces == 16
    for few in (1, 2):
        with pytest.raises(Refused, match="at least 3"):
            made(ring, {"kind": "faceted", "number": few})
    assert [(row.quantity, round(math.degrees(run.course.turns[0]), 6)) for row in run_rows(run)] == [(16, 22.5)]
    body = bench(1500, 100)
    section = SectionBody(name="Front", outline=rectangle(20, 400), width=20, height=400)
    edits = [AddLines(lines=(body,)), AddSection(section=section), AddRuns(section="S2", lines=("L1",))]
    job = apply_all(
        Job(name="B"), [*edits, SetRun(run="R3", changes=RunChanges.model_validate({"curves": {"kind": "faceted", "number": 5}}))]
    ).job
    before, after = solve(job).runs["R3"], solve(apply(job, ReverseLines(lines=("L1",)))).runs["R3"]
    assert sorted(before.cuts.long_points) == pytest.approx(sorted(after.cuts.long_points))
    assert before.cuts.volumes.sum() == pytest.approx(after.cuts.volumes.sum())


@given(st.floats(300, 9000), st.floats(20, 170), st.integers(2, 24), st.sampled_from(["left", "right"]))
def test_fitted_facets_touch_the_line_and_all_corners_are_alike(radius: float, turn: float, count: int, side: str) -> None:
    """A polygon about an arc: sides 2R·tan(φ/2), its corners R(1/cos(φ/2) − 1) off; the first and the last go on in line."""
    run = made(bench(radius, turn), {"kind": "faceted", "number": count, "fit": "fitted"}, side=side)
    plain = made(bench(radius, turn), {"kind": "bent"}, side=side)
    angle = math.radians(turn) / count
    assert run.pieces == count + 1
    assert [math.degrees(one) for one in run.course.turns[1:]] == pytest.approx([turn / count] * count, rel=1e-6)
    half = radius * math.tan(angle / 2)
    assert run.course.lengths[1:-1] == pytest.approx(2 * half, rel=1e-6)
    first, last = (part[1] - part[0] for part in (plain.course.paths[0].ranges()[0], plain.course.paths[0].ranges()[-1]))
    assert (run.course.lengths[0], run.course.lengths[-1]) == pytest.approx((first + half, last + half), rel=1e-6)
    assert run.strays == pytest.approx(radius * (1 / math.cos(angle / 2) - 1), rel=1e-4)
    # Of other facets as far off as that there are no fewer; of one corner less they would be further off.
    assert run.strays is not None
    by_deviation = made(bench(radius, turn), {"kind": "faceted", "deviation": run.strays * (1 + 1e-6), "fit": "fitted"}, side=side)
    assert by_deviation.pieces == run.pieces
    assert run.cuts.mismatches.max() < 1e-6


def test_fitted_facets_round_a_ring_and_where_they_cannot_be() -> None:
    ring = LineBody(
        name="Ring", start=(2000, 0, 0), closed=True,
        legs=(ArcLeg(via=(0, 2000, 0), to=(-2000, 0, 0)), ArcLeg(via=(0, -2000, 0), to=(2000, 0, 0))),
    )  # fmt: skip
    run = made(ring, {"kind": "faceted", "number": 16, "fit": "fitted"})
    assert run.pieces == 16
    assert run.course.lengths == pytest.approx(4000 * math.tan(math.pi / 16))
    assert [(row.quantity, round(math.degrees(run.course.turns[0]), 6)) for row in run_rows(run)] == [(16, 22.5)]
    bow = LineBody(name="S", start=(0, 0, 0), legs=(CurveLeg(controls=((1000, 900, 0), (2000, -900, 0)), to=(3000, 0, 0)),))
    with pytest.raises(Refused, match="bends one way in a plane"):
        made(bow, {"kind": "faceted", "number": 5, "fit": "fitted"})
    with pytest.raises(Refused, match="too few"):
        made(bench(900, 170), {"kind": "faceted", "number": 1, "fit": "fitted"})


def cutting_list_of(run: SolvedRun) -> Any:
    return run_rows(run)


def test_too_many_facets_are_refused_where_it_is_said() -> None:
    with pytest.raises(Refused, match="more than 500 pieces"):
        made(bench(9000, 170), {"kind": "faceted", "deviation": 1e-4})
    assert fewest(lambda count: count >= 37) == 37


@given(st.floats(400, 5000), st.floats(10, 175), st.floats(8, 60), st.floats(1, 10), st.sampled_from(["left", "right"]))
def test_leaves_are_as_long_as_the_arcs_they_lie_in(radius: float, turn: float, deep: float, leaf: float, side: str) -> None:
    run = made(bench(radius, turn), {"kind": "laminated", "leaf": leaf, "allowance": 25, "ratio": 1}, deep, side=side)
    found = run.curvatures[0]
    assert found is not None
    count = math.ceil(deep / leaf - 1e-9)
    assert found.leaf == pytest.approx(deep / count)
    # The arc is to the left: a section on the left is on its inside.
    inside = radius - deep if side == "left" else radius
    assert found.form == pytest.approx(inside)
    outer = [inside + deep / count * (number + 1) for number in range(count)]
    assert list(found.leaves) == pytest.approx([1800 + math.radians(turn) * one + 50 for one in outer])


def test_leaves_too_thick_for_their_form_and_bends_out_of_a_plane_say_so() -> None:
    run = made(bench(300, 90), {"kind": "laminated", "leaf": 4})
    (check,) = run.checks
    assert (check.kind, check.severity) == ("tight", "fault")
    assert "Take leaves of" in check.remedy
    # As thin as it says they bend.
    assert made(bench(300, 90), {"kind": "laminated", "leaf": 3}).checks == ()
    crooked = LineBody(
        name="Rail", start=(0, 0, 0), frame="carried",
        legs=(StraightLeg(to=(1500, 0, 0), round=400), StraightLeg(to=(1500, 1500, 0), round=400), StraightLeg(to=(1500, 1500, 1500))),
    )  # fmt: skip
    run = made(crooked, {"kind": "laminated", "leaf": 2}, 30, 30)
    assert [(check.kind, check.severity) for check in run.checks] == [("uncurved", "warning")]
    assert run.curvatures == (None,)
    tight = made(bench(300, 90), {"kind": "bent", "least": 350})
    assert [check.kind for check in tight.checks] == ["tight"]
    assert made(bench(300, 90), {"kind": "bent", "least": 300}).checks == ()


@pytest.mark.parametrize(("radius", "turn", "deep", "kerf", "web"), [(600, 90, 18, 3.2, 3), (1200, 180, 19, 3, 2), (350, 45, 25, 2.5, 4)])
def test_kerfs_close_when_the_piece_is_bent(radius: float, turn: float, deep: float, kerf: float, web: float) -> None:
    """The inside loses as much length as all kerfs together take away, to one kerf: the arc at their foot less the inner, over the kerf."""
    run = made(bench(radius, min(turn, 179.9)), {"kind": "kerfed", "kerf": kerf, "web": web}, deep)
    ((count, centres),) = run.curvatures[0].kerfs  # type: ignore[union-attr]  # it is kerfed
    turned = math.radians(min(turn, 179.9))
    # On the right of an arc to the left the section is outside of the line.
    at_web, at_inside = (radius + deep - web) * turned, radius * turned
    assert (count - 1) * kerf < at_web - at_inside <= count * kerf
    # What lies at the foot of the kerfs keeps its length: it is as long flat as it is bent.
    assert count * centres == pytest.approx(at_web)
    assert [check.kind for check in made(bench(600, 90), {"kind": "kerfed", "kerf": 3, "web": 30}).checks] == ["tight"]


@given(st.floats(400, 4000), st.floats(20, 170), st.floats(20, 120), st.floats(1.05, 4))
def test_segments_fit_on_their_boards_and_fewer_would_not(radius: float, turn: float, deep: float, wider: float) -> None:
    """By plane geometry: the smallest box along its chord around a part of a ring, found by shapely from points on its edges."""
    board = deep * wider
    run = made(bench(radius, turn), {"kind": "sawn", "board": board}, deep, side="left")
    boards = [one.board for one in run.curvatures if one is not None and one.board is not None]
    count = len(boards)
    assert run.pieces == count + 2

    def needed(number: int) -> tuple[float, float]:
        half = math.radians(turn) / number / 2
        ways = np.linspace(-half, half, 801)
        edges = [(radius - off) * np.column_stack([np.sin(ways), np.cos(ways)]) for off in (0.0, deep)]
        left, low, right, high = shapely.MultiPoint(np.concatenate(edges)).bounds
        return right - left, high - low

    if radius - deep < 1:
        return
    assert all(one == pytest.approx(needed(count), abs=1e-3) for one in boards)
    assert needed(count)[1] <= board + 1e-6
    assert count == 1 or needed(count - 1)[1] > board - 1e-6


def test_boards_too_narrow_for_the_section_are_a_fault_and_nothing_is_lost() -> None:
    run = made(bench(1500, 90), {"kind": "sawn", "board": 15})
    assert [(check.kind, check.severity) for check in run.checks] == [("uncurved", "fault")]
    assert run.pieces == 1


@given(st.floats(400, 4000), st.floats(20, 170), st.floats(20, 120), st.sampled_from(["left", "right"]))
def test_templates_are_parts_of_rings(radius: float, turn: float, deep: float, side: str) -> None:
    """The outline of a laminated piece is its band on plan: as large, and as long round, as arcs and straights make it."""
    run = made(bench(radius, turn), {"kind": "laminated", "leaf": 5}, deep, side=side)
    outline = outline_of(run, 0)
    assert outline is not None
    polygon = shapely.Polygon(outline)
    assert polygon.is_valid
    middle = radius + (deep / 2 if side == "right" else -deep / 2)
    assert polygon.area == pytest.approx(deep * (1800 + math.radians(turn) * middle), rel=1e-4)
    assert polygon.length == pytest.approx(2 * (1800 + math.radians(turn) * middle) + 2 * deep, rel=1e-4)
    assert outline.min(axis=0) == pytest.approx((0, 0), abs=1e-9)


def test_segments_have_templates_that_lie_on_their_boards() -> None:
    section = SectionBody(name="Front", outline=rectangle(60, 40), width=60, height=40)
    edits = [AddLines(lines=(bench(1500, 90),)), AddSection(section=section), AddRuns(section="S2", lines=("L1",))]
    changes = RunChanges.model_validate({"curves": {"kind": "sawn", "board": 140}})
    solved = solve(apply_all(Job(name="B"), [*edits, SetRun(run="R3", changes=changes)]).job)
    (template,) = templates_of(solved)
    board = solved.runs["R3"].curvatures[1].board  # type: ignore[union-attr]  # it is sawn
    assert (template.rest, template.height) == pytest.approx(board, abs=0.05)
    assert template.height <= 140
    # As it is written: the outline in the drawing is that of the template, at full size.
    drawing: Any = ezdxf.read(io.StringIO(patterns_dxf(solved).decode()))
    faces = [np.array(line.get_points("xy")) for line in drawing.modelspace().query("LWPOLYLINE[layer=='FACE']")]
    assert len(faces) == 1
    assert shapely.Polygon(faces[0]).area == pytest.approx(shapely.Polygon(template.face).area, rel=1e-6)
    assert b"sawn from a board" in patterns_svg(solved)


def test_facets_are_mitred_whatever_the_corners_are() -> None:
    """A skirting coped inside goes round a faceted curve in mitres, and is coped at its real corner alone."""
    skirting = next(entry.section for entry in library() if entry.key == "skirting-torus")
    arc = bench(1500, 90)
    end = arc.legs[-1].to
    room = arc.model_copy(update={"legs": (*arc.legs, StraightLeg(to=(end[0] - 1500, end[1], 0)))})
    placing = Placing.model_validate({"facing": {"kind": "left"}})
    edits = [AddLines(lines=(room,)), AddSection(section=skirting), AddRuns(section="S2", lines=("L1",), placing=placing)]
    changes = RunChanges.model_validate({"curves": {"kind": "faceted", "number": 5}, "corners": {"kind": "cope"}})
    run = solve(apply_all(Job(name="Room"), [*edits, SetRun(run="R3", changes=changes)]).job).runs["R3"]
    assert [corner.made for corner in run.corners] == ["mitred"] * 6 + ["coped"]
    assert not any(corner.own for corner in run.corners)
    assert run.checks == ()


def test_templates_of_facets_and_returns_are_the_pieces_as_they_are_mitred() -> None:
    """Quadrilaterals by plane geometry: as long as their long and short points, as wide as the section is deep."""
    body = bench(1500, 90)
    section = SectionBody(name="Front", outline=rectangle(22, 400), width=22, height=400)
    for side in ("left", "right"):
        placing = Placing.model_validate({"facing": {"kind": side}})
        edits = [AddLines(lines=(body,)), AddSection(section=section), AddRuns(section="S2", lines=("L1",), placing=placing)]
        changes = {"curves": {"kind": "faceted", "number": 6}, "last_end": {"kind": "returned", "deep": 30}}
        solved = solve(apply_all(Job(name="B"), [*edits, SetRun(run="R3", changes=RunChanges.model_validate(changes))]).job)
        run, found = solved.runs["R3"], templates_of(solved)
        # The straights before and behind are mitred to facets, and are templates with them.
        assert [(len(one.tags), one.words) for one in found] == [
            (1, "facet"), (2, "facet"), (4, "facet"), (1, "facet"), (1, "return, its grain turned with it"),
        ]  # fmt: skip
        rows = {row.tags: row for row in run_rows(run)}
        for template in found:
            piece = rows[template.tags].pieces[0]
            polygon = shapely.Polygon(template.face)
            assert polygon.area * 400 == pytest.approx(run.cuts.volumes[piece], rel=1e-9)
            along = [abs(float(template.face[k + 1, 0] - template.face[k, 0])) for k in (0, 2)]
            assert sorted(along) == pytest.approx([run.cuts.short_points[piece], run.cuts.long_points[piece]])
            assert template.height == pytest.approx(22)
            assert template.seen == "seen from above"
