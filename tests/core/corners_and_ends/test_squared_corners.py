"""Sharp corners squared off: two cuts an end, no point beyond what is said, no more and no less than the mitres cut off there."""

from __future__ import annotations

import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from making import line, mesh, sections

from slow_ribbon.core.geometry.bodies import body_of
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.model import Opening
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.solids import piece_solid
from slow_ribbon.core.runs.pieces.trim_pieces import cut
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.placing import Placing
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.treatments.corners import Mitre, Squared, Treatment
from slow_ribbon.core.sections.document.section import Section
from slow_ribbon.core.sections.library import from_library, rectangle
from slow_ribbon.core.solve.solve_kinds import solve_run

BOARD = Section(id="S1", name="Board", outline=rectangle(20, 100), width=20, height=100)


def sharp(angle: float, way: Treatment, section: Section = BOARD, side: str = "right") -> Cuts:
    """Return two legs of 3 m that leave an angle of this many degrees between them."""
    turn = math.radians(180 - angle)
    path = line([(0, 0, 0), (3000, 0, 0), (3000 + 3000 * math.cos(turn), 3000 * math.sin(turn), 0)])
    course = course_of(path)
    return cut(course, Placed(section, Placing.model_validate({"facing": {"kind": side}}), course), way)


def test_a_needle_of_20_degrees_is_cut_off_at_30() -> None:
    """Arithmetic: mitred, the outer edge of a board 20 thick reaches 20·cot(10°) = 113.43 past the corner."""
    needle, blunt = (sharp(20, way) for way in (Mitre(), Squared(past=30)))
    assert needle.long_points == pytest.approx([3000 + 20 / math.tan(math.radians(10))] * 2)
    assert blunt.long_points == pytest.approx([3030, 3030])
    assert blunt.short_points == pytest.approx([3000, 3000])
    # What is left out is a wedge: half of what the point is beyond the cut, by how thick it is there, by the height.
    beyond = 20 / math.tan(math.radians(10)) - 30
    wedge = beyond * (20 - 30 * math.tan(math.radians(10))) / 2 * 100
    assert needle.volumes - blunt.volumes == pytest.approx([wedge, wedge], rel=1e-6)
    # Where no point reaches so far it is a mitre, to the last bit.
    plain, same = (sharp(90, way) for way in (Mitre(), Squared(past=30)))
    assert same.long_points.tolist() == plain.long_points.tolist()
    assert not same.shaped


@given(st.floats(8, 60), st.floats(0, 80), sections(), st.sampled_from(["left", "right"]))
def test_a_squared_end_is_what_two_planes_leave_of_the_piece(angle: float, past: float, section: Section, side: str) -> None:
    mitred, blunt = (sharp(angle, way, section, side) for way in (Mitre(), Squared(past=past)))
    assume(bool((blunt.short_points > 100).all()))
    for i, sense in ((0, 1.0), (1, -1.0)):
        body = mesh(piece_solid(mitred, i))
        solid = body_of(body.vertices, body.faces)
        along = mitred.course.tangents[i] * -sense
        corner = mitred.course.ends[0]
        expected = solid.trim_by_plane(along.tolist(), float(along @ corner) - past)
        found = mesh(piece_solid(blunt, i))
        assert found.is_watertight
        assert found.volume == pytest.approx(expected.volume(), rel=1e-6)
        assert blunt.volumes[i] == pytest.approx(expected.volume(), rel=1e-6)
        assert float((found.vertices @ along).min()) >= float(along @ corner) - past - 1e-6


def test_a_needle_offers_to_be_squared_and_an_opening_round_a_corner_is_reported() -> None:
    section = Section(id="S1", **dict(from_library("skirting-square")))
    turn = math.radians(160)
    path = line([(0, 0, 0), (3000, 0, 0), (3000 + 3000 * math.cos(turn), 3000 * math.sin(turn), 0)])
    run = Run(id="R1", name="Board", tag="B", line="L1", section="S1")
    (needle,) = [check for check in solve_run(run, path, section).checks if check.kind == "needle"]
    assert needle.mends == ("squared",)
    blunt = run.model_copy(update={"corners": Squared(), "external": Squared()})
    assert not solve_run(blunt, path, section).checks
    # A door of 900 that begins 400 before the corner.
    door = path.model_copy(update={"openings": (Opening(id="O1", name="Door", at=2600, width=900),)})
    (wide,) = solve_run(run, door, section).checks
    assert (wide.kind, wide.severity, wide.chainage) == ("wide-opening", "warning", 3000)
    assert "900.0|1" in wide.what
    assert "400.0|1" in wide.what
    assert not solve_run(run.model_copy(update={"openings": "pass", "corners": Squared(), "external": Squared()}), door, section).checks
