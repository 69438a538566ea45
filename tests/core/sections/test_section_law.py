"""A section that is another from some chainage on: each piece is cut as one of its own section, corner by corner."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import pytest
from making import line

from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.trim_pieces import cut
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.placing import Placing
from slow_ribbon.core.runs.treatments.corners import Butt, Mitre, Treatment
from slow_ribbon.core.sections.document.section import Section, section_shape
from slow_ribbon.core.sections.law import Constant, SectionLaw
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.sections.outline.profile import Shape


def board(width: float, height: float) -> Section:
    return Section(id="S1", name="Board", outline=rectangle(width, height), width=width, height=height)


@dataclass(frozen=True)
class Stepped:
    """One outline up to a chainage, another from there on: a law that only this test has."""

    first: Shape
    second: Shape
    step: float
    constant = False

    def at(self, chainage: float) -> Shape:
        return self.first if chainage < self.step else self.second


LOW, TALL = board(18, 95), board(30, 145)
#: Up a ramp, level, round a corner of 60°.
PATH = line([(0, 0, 0), (2000, 0, 300), (4000, 0, 300), (5000, 1700, 300)])
PLACING = Placing(roll=12, stand_off=4)


def cuts(law: SectionLaw, section: Section, corners: Treatment) -> Cuts:
    course = course_of(PATH)
    return cut(course, Placed(section, PLACING, course, law), corners)


@pytest.mark.parametrize("corners", [Mitre(), Butt(through="before"), Butt(through="after")], ids=["mitre", "before", "after"])
def test_each_piece_is_cut_as_one_of_its_own_section(corners: Treatment) -> None:
    low, tall = section_shape(LOW), section_shape(TALL)
    step = float(course_of(PATH).begins[1])
    found = cuts(Stepped(low, tall, step), LOW, corners)
    mitred = isinstance(corners, Mitre)
    for whole, pieces in ((cuts(Constant(low), LOW, corners), [0]), (cuts(Constant(tall), TALL, corners), [1, 2])):
        # What a butted piece stops on is the face of the other, which here is of another section; so it is looked at by itself.
        alike = pieces if mitred else [i for i in pieces if i == 2]
        for name in ("long_points", "short_points", "line_lengths", "volumes"):
            assert getattr(found, name)[alike] == pytest.approx(getattr(whole, name)[alike]), name
    # The plane of a mitre is the corner's and not the section's.
    assert not mitred or found.planes_begin == pytest.approx(cuts(Constant(low), LOW, corners).planes_begin)


def test_a_piece_stops_on_the_face_of_the_section_that_is_there() -> None:
    """On plan, upright boards 18 and 30 thick at a square corner: the one that runs through goes on for the other's thickness."""
    path = line([(0, 0), (1000, 0), (1000, 800)])
    course = course_of(path)
    law = Stepped(section_shape(LOW), section_shape(TALL), 1000)
    through = cut(course, Placed(LOW, Placing(), course, law), Butt(through="before"))
    low, tall = (Placed(board, Placing(), course).points(section_shape(board).flat().points)[:, 0] for board in (LOW, TALL))
    assert np.ptp(tall) == pytest.approx(30)
    # The first runs on to the far face of the second; travel along x ends where that reaches furthest to its right.
    assert through.offsets_end[0] == pytest.approx(tall.max())
    # The second begins at the face of the first that looks toward it.
    assert through.offsets_begin[1] == pytest.approx(-low.min(), abs=1e-9)


def test_a_constant_law_leaves_a_section_the_very_same() -> None:
    course = course_of(PATH)
    placed = Placed(LOW, PLACING, course)
    assert placed.constant
    assert placed.at(1234.0) is placed
