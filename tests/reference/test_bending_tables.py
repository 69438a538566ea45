"""Bending tables bent again: a tube fed, turned and bent as a table says meets the line that it was made from.

Source: how a tube bender's figures are defined (feed, turn of the plane, angle and radius of the bend: YBC data; common practice, no
source). The bender here is three lines of rotation by themselves, with nothing of the code under test.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from making import bent_line

from slow_ribbon.core.cutting import bends_of
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.legs import ArcLeg, StraightLeg
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.sections.document.section import Section
from slow_ribbon.core.sections.library import from_library
from slow_ribbon.core.solve.solve_kinds import solve_run

TUBE = Section(id="S1", **dict(from_library("tube-round")))


def bent_again(cuts: Cuts, table: Any) -> Array:
    """Return where each part of a tube begins and where the last ends, (k + 1, 3), bent by a table from where the piece begins."""
    place, along = cuts.plain.starts[0].copy(), cuts.plain.tangents[0].copy()
    up = cuts.placed.bed_up
    # To the right on the table and out of it, at the beginning of the piece.
    right = np.array([up[1], -up[0]])
    sideways, upward = (cuts.plain.rights[0] * way[0] + cuts.plain.ups[0] * way[1] for way in (right, up))
    toward = None
    places = [place.copy()]
    for part in table:
        if part.toward is None:
            place = place + along * part.length
        else:
            if toward is None:
                toward = sideways * math.cos(math.radians(part.toward)) + upward * math.sin(math.radians(part.toward))
            else:
                turn = math.radians(part.plane)
                # Seen along travel, from right to up.
                toward = toward * math.cos(turn) + np.cross(toward, along) * math.sin(turn)
            angle = math.radians(part.turn)
            assert part.length == pytest.approx(part.radius * angle)
            place = place + part.radius * (along * math.sin(angle) + toward * (1 - math.cos(angle)))
            along, toward = (
                along * math.cos(angle) + toward * math.sin(angle),
                toward * math.cos(angle) - along * math.sin(angle),
            )
        places.append(place.copy())
    return np.array(places)


@st.composite
def tubes(draw: st.DrawFn) -> Any:
    """A line through space, every corner of it rounded, with an arc at its end now and then; frames upright or carried."""
    at = np.zeros(3)
    legs: list[Any] = []
    for _ in range(draw(st.integers(2, 6))):
        # Whole degrees: a kink of less than 0.01° is no corner, and no bend either (geometry notes, section 1).
        heading, pitch = math.radians(draw(st.integers(-180, 180))), math.radians(draw(st.sampled_from([0, 0, 20, -35, 50])))
        size = draw(st.floats(600, 1500))
        at = at + size * np.array([math.cos(heading) * math.cos(pitch), math.sin(heading) * math.cos(pitch), math.sin(pitch)])
        legs.append(StraightLeg(to=tuple(at.tolist()), round=draw(st.floats(60, 140))))
    if draw(st.booleans()):
        before = np.array(legs[-2].to)
        ahead = (at - before) / np.linalg.norm(at - before)
        aside = np.cross(ahead, [0.3, 0.2, 1.0])
        aside /= np.linalg.norm(aside)
        # It goes on smoothly: an arc of 90° in a plane of its own.
        legs[-1] = legs[-1].model_copy(update={"round": None})
        via = at + 400 * (ahead * math.sin(math.pi / 4) + aside * (1 - math.cos(math.pi / 4)))
        legs.append(ArcLeg(via=tuple(via.tolist()), to=tuple((at + 400 * (ahead + aside)).tolist())))
    else:
        legs[-1] = legs[-1].model_copy(update={"round": None})
    return bent_line((0, 0, 0), legs, frame="carried")


@given(tubes(), st.floats(-180, 180))
def test_a_tube_bent_by_its_table_meets_its_line(path: Any, roll: float) -> None:
    run = Run.model_validate({"id": "R1", "name": "Tube", "tag": "T", "line": "L1", "section": "S1", "placing": {"roll": roll}})
    try:
        solved = solve_run(run, path, TUBE)
    except Refused:
        # Two roundings that do not fit on one leg.
        assume(False)
    assume(solved.pieces == 1)
    table = bends_of(solved, 0)
    assume(len(table) > 0)
    found = bent_again(solved.cuts, table)
    along = np.concatenate([[0.0], np.cumsum([part.length for part in table])])
    assert along[-1] == pytest.approx(solved.course.length)
    assert np.abs(found - solved.course.paths[0].at(along).points).max() < 0.01
