"""Kerfed, laminated, segmental and faceted work against handbooks' constructions and tables (see the source beside each)."""

from __future__ import annotations

import math
from typing import Any

import pytest

from slow_ribbon.core.cutting import cutting_list
from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, AddSection, RunChanges, SetRun, apply_all
from slow_ribbon.core.lines import ArcLeg, LineBody
from slow_ribbon.core.runs import FacingSide, Placing
from slow_ribbon.core.runs.treatments.curves.base import Curvature
from slow_ribbon.core.sections import SectionBody
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.solve import Solved, SolvedRun, solve

INCH = 25.4


def arc_job(radius: float, turn: float, deep: float, curves: Any, side: str = "right", high: float = 150.0) -> Solved:
    """A board that bends to the left about zero, its back on the line unless it faces to the inside."""
    legs = []
    parts = 1 if turn < 360 else 2
    for k in range(parts):
        via, to = (math.radians(turn * (k + share) / parts) for share in (0.5, 1.0))
        legs.append(ArcLeg(via=(radius * math.cos(via), radius * math.sin(via), 0), to=(radius * math.cos(to), radius * math.sin(to), 0)))
    if parts == 2:
        legs[-1] = legs[-1].model_copy(update={"to": (radius, 0.0, 0.0)})
    body = LineBody(name="Arc", start=(radius, 0, 0), legs=tuple(legs), closed=parts == 2)
    section = SectionBody(name="Board", outline=rectangle(deep, high), width=deep, height=high)
    placing = Placing(facing=FacingSide.model_validate({"kind": side}))
    edits = [AddLines(lines=(body,)), AddSection(section=section), AddRuns(section="S2", lines=("L1",), placing=placing)]
    made = SetRun(run="R3", changes=RunChanges.model_validate({"curves": curves}))
    return solve(apply_all(Job(name="Job"), [*edits, made]).job)


def arc(radius: float, turn: float, deep: float, curves: Any, side: str = "right") -> SolvedRun:
    return arc_job(radius, turn, deep, curves, side).runs["R3"]


def curvature(run: SolvedRun) -> Curvature:
    (found,) = run.curvatures
    assert found is not None
    return found


@pytest.mark.parametrize(("radius", "thick", "kerf", "web"), [(12, 0.75, 0.125, 0.125), (24, 1.0, 0.1, 0.125), (48, 1.25, 0.125, 0.1875)])
def test_kerfs_come_as_far_apart_as_the_joiners_trial_tells(radius: float, thick: float, kerf: float, web: float) -> None:
    """Ellis, Modern Practical Joinery, 1902 (memory): one kerf is sawn in a waste piece, the radius of the curve is marked off from it, and
    the end lifted till the kerf closes: as far as it has risen at the mark, so far apart the kerfs come.

    The piece then turns about the foot of the kerf, by the angle whose tangent is the kerf over its depth; inches.
    """
    # The mark is as far from the kerf as the curve's radius at its foot, about which the piece turns.
    rise = (radius - web) * math.tan(2 * math.atan(kerf / 2 / (thick - web)))
    # Kerfed from the inside, with the outside of the bend, which keeps its length, on the line: the face is to the inside.
    run = arc(radius * INCH, 180, thick * INCH, {"kind": "kerfed", "kerf": kerf * INCH, "web": web * INCH}, side="left")
    ((count, centres),) = curvature(run).kerfs
    # The trial lets the angle be a tangent, and no part of a kerf can be sawn.
    assert centres == pytest.approx(rise * INCH, rel=0.03)
    assert count == pytest.approx(math.pi * (radius - web) / rise, abs=1 + 0.03 * math.pi * radius / rise)


def test_the_kerfs_of_a_half_round_together_are_the_difference_of_its_arcs() -> None:
    """The rule of the difference (common practice, no source), worked for a half circle.

    Outside radius 300, board 22 thick, web 3, saw 3 mm.

    Outer arc π·300 = 942.48; at the foot of the kerfs, 19 deep, π·281 = 882.79: 59.69 to be taken out by cuts of 3 mm is 20 of them.
    """
    run = arc(300, 180, 22, {"kind": "kerfed", "kerf": 3, "web": 3}, side="left")
    ((count, centres),) = curvature(run).kerfs
    assert count == 20
    # The piece turns about the foot of each kerf, 3 mm inside the outer face: that fibre, π·297 = 933.05, keeps its length.
    assert centres == pytest.approx(933.053 / 20, abs=1e-3)


def test_the_leaves_of_a_bow_are_the_arcs_they_lie_in() -> None:
    """Plane geometry, a worked example: a quarter of a ring 600 mm inside, of five leaves 6 mm thick.

    75 mm for the clamps at both ends.

    The outside of the leaves is at 606, 612, 618, 624 and 630: arcs of 951.90, 961.33, 970.75, 980.18 and 989.60 and 150 more each.
    """
    run = arc(600, 90, 30, {"kind": "laminated", "leaf": 6, "allowance": 75})
    found = curvature(run)
    assert found.leaves == pytest.approx([1101.90, 1111.33, 1120.75, 1130.18, 1139.60], abs=0.01)
    assert found.leaf == pytest.approx(6)
    assert found.form == pytest.approx(600)
    # A leaf bends dry to a hundred times its thickness: common practice, no source.
    assert not run.checks
    assert [check.kind for check in arc(590, 90, 30, {"kind": "laminated", "leaf": 6}).checks] == ["tight"]


#: Sides of a ring of this many straight segments over the radius to the middle of their outsides: tables of segmented turning (memory);
#: 2·tan(180°/n).
SEGMENTS = [(6, 1.1547), (8, 0.8284), (12, 0.5359), (16, 0.3978), (18, 0.3527), (24, 0.2633)]


@pytest.mark.parametrize(("count", "side"), SEGMENTS)
def test_a_ring_of_straight_segments_is_as_the_turners_table_says(count: int, side: float) -> None:
    """Fitted facets touch the ring; each is cut at 180°/n."""
    curves = {"kind": "faceted", "number": count, "fit": "fitted"}
    (row,) = cutting_list(arc_job(250, 360, 20, curves, side="left", high=18))
    assert row.quantity == count
    assert row.long_point / 250 == pytest.approx(side, abs=6e-5)
    assert {round(abs(angle), 6) for angle in (row.begin.mitre, row.end.mitre, row.begin.bevel, row.end.bevel)} == {
        0.0,
        round(180 / count, 6),
    }


def test_the_felloes_of_a_wheel_come_out_of_planks_as_wide_as_geometry_says() -> None:
    """Plane geometry, a worked example: a rim 1200 mm over all and 80 mm deep of six felloes, each an arc of 60° cut out of one plank.

    Its length is the outer chord, 2·600·sin 30° = 600, and its width 600 − 520·cos 30° = 149.67.
    """
    rim = arc(520, 360, 80, {"kind": "sawn", "board": 149.7})
    assert {tuple(round(one, 2) for one in found.board or ()) for found in rim.curvatures if found} == {(600.0, 149.67)}
    assert rim.pieces == 6
    # A plank a hair narrower takes seven.
    assert arc(520, 360, 80, {"kind": "sawn", "board": 149.6}).pieces > 6
