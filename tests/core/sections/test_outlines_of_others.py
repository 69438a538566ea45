"""Outlines made of others, against shapely at fine chords and closed forms; edges stay what they are."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
import pytest
import shapely
from hypothesis import assume, example, given
from hypothesis import strategies as st

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddSection, apply, apply_all
from slow_ribbon.core.job.edits.outline_boolean import AddPolygon, CircleShape, CombineOutline, RectangleShape, SectionShape, TurnOutline
from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.sections.document.section import SectionBody, section_shape
from slow_ribbon.core.sections.edges.arc import Arc
from slow_ribbon.core.sections.edges.curve import BezierEdge
from slow_ribbon.core.sections.library import from_library, library, rectangle
from slow_ribbon.core.sections.operations.boolean import How, combined
from slow_ribbon.core.sections.outline.profile import shape_of

KEYS = [entry.key for entry in library()]
hows: st.SearchStrategy[How] = st.sampled_from(["join", "cut", "common"])


def board(width: float = 60, height: float = 40) -> Job:
    return apply(
        Job(name="Job"), AddSection(section=SectionBody(name="Board", outline=rectangle(width, height), width=width, height=height))
    )


def topology(region: shapely.Geometry) -> tuple[int, int]:
    """Return how many parts and holes it has."""
    parts = [part for part in shapely.get_parts(region) if part.area > 1e-3]
    return len(parts), sum(shapely.get_num_interior_rings(part) for part in parts)


@given(st.sampled_from(KEYS), st.sampled_from(KEYS), hows, st.floats(-0.9, 0.9), st.floats(-0.9, 0.9), st.sampled_from([0, 90, 33.0]))
@example("handrail-moulded", "tube-round", "cut", 0.5, 0.5, 0)
@example("square-bar-16-16", "coping-weathered", "cut", 0, 0, 0)
def test_what_two_sections_make_is_what_shapely_makes_of_fine_chords(
    one: str, other: str, how: How, across: float, up: float, turn: float
) -> None:
    first = section_shape(from_library(one))
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    second = section_shape(from_library(other)).mapped(np.array([[c, -s], [s, c]]), np.array([across, up]) * first.box[2:])
    a, b = first.polygon(0.0005), second.polygon(0.0005)
    fine = {"join": shapely.union, "cut": shapely.difference, "common": shapely.intersection}[how](a, b, grid_size=1e-6)
    parts = [part for part in shapely.get_parts(fine) if part.area > 0.1]
    # Slivers, slits and places where they just touch are no question of arcs and curves.
    assume(all(topology(fine.buffer(by)) == topology(fine) for by in (-0.02, 0.02)))
    if len(parts) != 1:
        with pytest.raises(Refused) as refused:
            combined(first, second, how)
        assert refused.value.code in ("several-parts", "nothing-left")
        return
    shape = shape_of(*combined(first, second, how))
    size = max(*first.box, *second.box)
    assert shape.area == pytest.approx(fine.area, rel=1e-3, abs=2e-3 * size)
    assert shape.polygon(0.0005).symmetric_difference(fine).area < 4e-3 * size


def test_a_groove_a_rebate_and_a_drip_are_cut_exactly() -> None:
    job = board()
    rebate = CombineOutline(section="S1", how="cut", other=RectangleShape(width=10, height=15, at=(50, 25)))
    job = apply(job, rebate)
    assert section_shape(job.section("S1")).area == pytest.approx(60 * 40 - 150, abs=1e-9)
    job = apply(job, CombineOutline(section="S1", how="cut", other=CircleShape(radius=4, at=(20, 0))))
    shape = section_shape(job.section("S1"))
    assert shape.area == pytest.approx(60 * 40 - 150 - math.pi * 16 / 2, abs=1e-6)
    (arc,) = (edge for edge in shape.loops[0] if isinstance(edge, Arc))
    assert float(np.hypot(*arc.u)) == pytest.approx(4, abs=1e-9)
    # A hole quite inside, and one more that opens it.
    job = apply(job, CombineOutline(section="S1", how="cut", other=CircleShape(radius=5, at=(30, 20))))
    assert len(job.section("S1").holes) == 1
    job = apply(job, CombineOutline(section="S1", how="cut", other=RectangleShape(width=4, height=30, at=(28, 20))))
    assert job.section("S1").holes == ()


def test_a_cornice_is_built_up_of_two_mouldings_and_keeps_its_curves() -> None:
    job = apply_all(
        Job(name="Job"),
        [
            AddSection(section=from_library("skirting-chamfered")),
            AddSection(section=from_library("picture-rail")),
            CombineOutline(section="S1", how="join", other=SectionShape(section="S2", at=(18, 60))),
        ],
    ).job
    whole, one, other = (section_shape(from_library(key)) for key in ("skirting-chamfered", "skirting-chamfered", "picture-rail"))
    assert section_shape(job.section("S1")).area == pytest.approx(one.area + other.area, abs=1e-5)
    arcs = [type(edge) for edge in other.loops[0]].count(Arc)
    assert [type(edge) for edge in section_shape(job.section("S1")).loops[0]].count(Arc) == arcs
    assert whole.area == one.area


def test_mirrored_twice_and_turned_round_it_is_what_it_was() -> None:
    for key in ("cornice-sprung", "tube-square", "handrail-moulded"):
        job = apply(Job(name="Job"), AddSection(section=from_library(key)))
        before = section_shape(job.section("S1"))
        once = apply(job, TurnOutline(section="S1", mirrored=True))
        shape = section_shape(once.section("S1"))
        assert shape.area == pytest.approx(before.area, rel=1e-12)
        assert shape.centroid[0] == pytest.approx(before.box[2] - before.centroid[0])
        again = section_shape(apply(once, TurnOutline(section="S1", mirrored=True)).section("S1"))
        assert again.polygon(0.01).symmetric_difference(before.polygon(0.01)).area < 1e-3
        quarter = section_shape(apply(job, TurnOutline(section="S1", turn=90)).section("S1"))
        assert quarter.box[2:] == pytest.approx(before.box[3:1:-1])
        assert [type(edge) for edge in quarter.loops[0]].count(BezierEdge) == [type(edge) for edge in before.loops[0]].count(BezierEdge)


@given(st.integers(3, 40), st.floats(5, 500), st.sampled_from(["flats", "corners"]))
def test_regular_polygons_have_the_area_of_their_formula(sides: int, across: float, over: Literal["flats", "corners"]) -> None:
    job = apply(Job(name="Job"), AddPolygon(name="Newel", sides=sides, across=across, over=over))
    # n/2 · R² · sin(360°/n), and by the inscribed circle n · r² · tan(180°/n).
    r = across / 2
    wanted = sides / 2 * r * r * math.sin(2 * math.pi / sides) if over == "corners" else sides * r * r * math.tan(math.pi / sides)
    section = job.section("S1")
    assert section_shape(section).area == pytest.approx(wanted, rel=1e-9)
    if over == "flats" and sides % 2 == 0:
        assert section.height == pytest.approx(across)


@pytest.mark.parametrize(
    ("edit", "code"),
    [
        (CombineOutline(section="S1", how="cut", other=RectangleShape(width=100, height=100, at=(-10, -10))), "nothing-left"),
        (CombineOutline(section="S1", how="common", other=CircleShape(radius=5, at=(200, 0))), "nothing-left"),
        (CombineOutline(section="S1", how="join", other=CircleShape(radius=5, at=(200, 0))), "several-parts"),
        (CombineOutline(section="S1", how="cut", other=RectangleShape(width=10, height=60, at=(20, -5))), "several-parts"),
        (CombineOutline(section="S1", how="cut", other=SectionShape(section="S9")), "unknown-id"),
    ],
)
def test_what_makes_no_one_piece_is_refused(edit: CombineOutline, code: str) -> None:
    with pytest.raises(Refused) as refused:
        apply(board(), edit)
    assert refused.value.code == code
