"""Corners and cuts against published values (see the sources beside each)."""

from __future__ import annotations

import math

import numpy as np
import pytest
from making import line, mesh, run_cuts

from slow_ribbon.core.runs.pieces.saw_angles import saw_settings
from slow_ribbon.core.runs.pieces.solids import run_solid
from slow_ribbon.core.runs.placement.placing import Placing
from slow_ribbon.core.sections.document.section import EdgeBed, NamedDatum, Section
from slow_ribbon.core.sections.library import from_library, rectangle
from slow_ribbon.core.sections.outline.outline import OutlinePen

# Tables printed with compound-mitre saws for 90° (memory); the others follow from solid
# geometry, tan μ = sin S / tan(C/2), sin β = cos S · cos(C/2).
CORNICE = [
    (90, 38, 31.62, 33.86), (90, 45, 35.26, 30.00),
    (135, 38, 14.31, 17.55), (135, 45, 16.32, 15.70),
    (120, 38, 19.57, 23.20), (120, 45, 22.21, 20.70),
    (60, 38, 46.84, 43.03), (60, 45, 50.77, 37.76),
]  # fmt: skip


@pytest.mark.parametrize(("wall", "spring", "mitre", "bevel"), CORNICE)
@pytest.mark.parametrize("internal", [True, False])
def test_a_sprung_cornice_is_sawn_as_the_tables_say(wall: float, spring: float, mitre: float, bevel: float, internal: bool) -> None:
    run = 100 * math.tan(math.radians(spring))
    outline = OutlinePen(run, 100).line(0, 0).line(12, 0).line(run + 12, 88).line(run + 12, 100).close()
    section = Section(
        id="S1", name="Cornice", outline=outline, width=run + 12, height=100, bed=EdgeBed(edge=0), datum=NamedDatum(name="back-head")
    )
    turn = math.radians(180 - wall) * (1 if internal else -1)
    corner = (2000.0, 0.0)
    path = line([(0, 0), corner, (corner[0] + 2000 * math.cos(turn), 2000 * math.sin(turn))])
    facing = Placing.model_validate({"facing": {"kind": "left"}})
    cuts = run_cuts(path, section, facing)
    mitres, bevels = saw_settings(cuts)
    assert abs(mitres[0, 1]) == pytest.approx(mitre, abs=0.005)
    assert abs(bevels[0, 1]) == pytest.approx(bevel, abs=0.005)
    # The other side of the corner is sawn the other way.
    assert (mitres[1, 0], bevels[1, 0]) == pytest.approx((-mitres[0, 1], -bevels[0, 1]))


def test_skirting_round_a_room(skirting: Section) -> None:
    """18×120 inside 4000×3000, datum bottom-back: arithmetic, depth 18 and two 45° cuts."""
    room = line([(0, 0), (4000, 0), (4000, 3000), (0, 3000)], True)
    cuts = run_cuts(room, skirting, Placing.model_validate({"facing": {"kind": "toward", "point": (2000, 1500, 0)}}))
    assert cuts.long_points == pytest.approx([4000, 3000, 4000, 3000])
    assert cuts.short_points == pytest.approx([3964, 2964, 3964, 2964])
    # Pappus–Guldin, extended to mitred prisms: area × length of the centroid line, to 1e-9.
    assert mesh(run_solid(cuts)).volume == pytest.approx(18 * 120 * 2 * (4000 - 18 + 3000 - 18), rel=1e-9)


@pytest.mark.parametrize("sides", [3, 4, 5, 8, 24])
def test_a_regular_loop_outside(sides: int) -> None:
    """Outer side = inner side + 2·d·tan(180°/n), plane geometry."""
    depth = 40.0
    angles = 2 * np.pi * np.arange(sides) / sides
    points = 3000 * np.column_stack([np.cos(angles), np.sin(angles)])
    section = Section(id="S1", name="Band", outline=rectangle(depth, 90), width=depth, height=90)
    cuts = run_cuts(line(points, True), section, Placing.model_validate({"facing": {"kind": "right"}}))
    assert cuts.long_points == pytest.approx(cuts.line_lengths + 2 * depth * math.tan(math.pi / sides))


def test_a_raked_rail_that_does_not_meet_a_level_one() -> None:
    """60×90, datum at a corner, 90° on plan into 35° rising: 0, 37.68, 90.19 and 74.80 mm (geometry notes, section 4)."""
    rise = math.radians(35)
    path = line([(0, 0, 0), (3000, 0, 0), (3000, 3000 * math.cos(rise), 3000 * math.sin(rise))])
    section = Section(id="S1", name="Rail", outline=rectangle(60, 90), width=60, height=90)
    expected = {(0, 0): 0.0, (60, 0): 37.68, (60, 90): 90.19, (0, 90): 74.80}
    cuts = run_cuts(path, section)
    assert cuts.mismatches[1] == pytest.approx(90.19, abs=0.005)
    course, plane = cuts.course, cuts.planes_begin[1]
    for (x, y), apart in expected.items():
        images = []
        for leg in (0, 1):
            p = course.rights[leg] * x + course.ups[leg] * y
            images.append(p - course.tangents[leg] * (p @ plane) / (course.tangents[leg] @ plane))
        assert float(np.linalg.norm(images[0] - images[1])) == pytest.approx(apart, abs=0.005)


def test_round_tube_weighs_what_the_tables_say() -> None:
    """48.3 × 3.2 in steel of 7850 kg/m³: 3.56 kg/m, EN 10219-2 tables (memory); 0.0246615·t·(D − t)."""
    from slow_ribbon.core.sections.document.section import section_shape

    kilograms = section_shape(from_library("tube-round")).area * 1e-6 * 7850
    assert kilograms == pytest.approx(3.56, abs=0.005)
    assert kilograms == pytest.approx(0.0246615 * 3.2 * (48.3 - 3.2), rel=1e-6)
