"""The job cut across a line: areas checked by shapely and by the section itself, places by arithmetic, and trimesh's own slices."""

from __future__ import annotations

import io
import math
from typing import Any
from xml.etree import ElementTree

import ezdxf
import numpy as np
import pytest
import shapely
import trimesh
from examples import examples
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from making import bent_lines, run_cuts

from slow_ribbon.core.geometry.bodies import body_of
from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, AddSection, apply_all
from slow_ribbon.core.job.edits.lines import LineChanges, SetLine
from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.lines import Line, Opening, line_body
from slow_ribbon.core.runs.pieces.solids import run_surface
from slow_ribbon.core.runs.placement.placing import FacingSide, Placing
from slow_ribbon.core.sections.document.section import Section, section_shape
from slow_ribbon.core.sections.library import from_library
from slow_ribbon.core.solve import cut_across, solve
from slow_ribbon.core.solve.cross_section import Plane, surface_cut
from slow_ribbon.demo.ferry_house import ferry_house
from slow_ribbon.exports.across import across_dxf, across_svg


def area(rings: tuple[Array, ...]) -> float:
    """Return the area inside an odd number of rings."""
    whole: shapely.geometry.base.BaseGeometry = shapely.Polygon()
    for ring in rings:
        whole = whole.symmetric_difference(shapely.Polygon(ring))
    return float(whole.area)


def test_what_stands_beside_a_line_is_cut_where_it_is() -> None:
    skirting, tube = from_library("skirting-chamfered"), from_library("tube-square")
    wall = LineChanges.model_validate({"wall": {"height": 2500, "thickness": 120, "side": "left"}})
    lines = (
        line_body([(0, 0, 0), (5000, 0, 0)], False, "Wall"),
        line_body([(5000, -600, 900), (0, -600, 900)], False, "Rail"),
        line_body([(2000, -3000, 400), (2000, 3000, 400)], False, "Along the plane"),
    )
    facing = Placing(facing=FacingSide(kind="right"))
    job = apply_all(
        Job(name="Job"),
        [
            AddLines(lines=lines), AddSection(section=skirting), AddSection(section=tube), SetLine(line="L1", changes=wall),
            AddRuns(section="S4", lines=("L1",), placing=facing), AddRuns(section="S5", lines=("L2",), placing=facing),
        ],
    ).job  # fmt: skip
    cut = cut_across(solve(job), job.line("L1"), 1500.0)
    assert cut.along == ("R6",)
    assert cut.plane.point == pytest.approx((1500, 0, 0))
    rail, wall_cut = cut.others
    assert (rail.thing, rail.wall, wall_cut.thing, wall_cut.wall) == ("R7", False, "L1", True)
    # A tube is two rings; both about a place 600 to the right and 900 up.
    assert len(rail.rings) == 2
    shape = section_shape(tube)
    # Its rounded corners are cut as they are drawn, in chords.
    assert area(rail.rings) == pytest.approx(shape.area, rel=1e-2)
    assert np.mean(shapely.Polygon(rail.rings[0]).bounds) == pytest.approx((600 + 900) / 2)
    left, low, right, high = shapely.Polygon(wall_cut.rings[0]).bounds
    assert (left, low, right, high) == pytest.approx((-120, 0, 0, 2500), abs=1e-3)
    # The other way round the other one is what else stands there.
    across = cut_across(solve(job), job.line("L2"), 3500.0)
    assert [one.thing for one in across.others] == ["R6", "L1"]
    assert area(across.others[0].rings) == pytest.approx(section_shape(skirting).area, abs=1e-2)
    with pytest.raises(Refused) as refused:
        cut_across(solve(job), job.line("L1"), 6000.0)
    assert refused.value.code == "no-place"


def test_a_run_that_breaks_at_an_opening_does_not_pass_there() -> None:
    body = line_body([(0, 0, 0), (5000, 0, 0)], False, "Wall").model_copy(update={"openings": (Opening(name="Door", at=2000, width=900),)})
    job = apply_all(
        Job(name="Job"), [AddLines(lines=(body,)), AddSection(section=from_library("picture-rail")), AddRuns(section="S3", lines=("L1",))]
    ).job
    for chainage, along in ((0.0, 1), (1999.0, 1), (2400.0, 0), (2901.0, 1), (5000.0, 1)):
        assert len(cut_across(solve(job), job.line("L1"), chainage).along) == along


@given(bent_lines(), st.floats(0.05, 0.95), st.floats(-1, 1), st.floats(-1, 1))
def test_a_plane_cuts_a_run_as_trimesh_slices_it(line: Line, share: float, lean: float, tilt: float) -> None:
    section = Section(
        id="S2", **{name: getattr(from_library("tube-square"), name) for name in type(from_library("tube-square")).model_fields}
    )
    cuts = run_cuts(line, section)
    origin = np.asarray(cuts.course.starts[0])
    surface = run_surface(cuts, origin, 1.0)
    solid = trimesh.Trimesh(surface.vertices, surface.faces, process=True)
    station = cuts.course.at(np.array([share * cuts.course.length]))
    normal = station.tangents[0] + lean * station.rights[0] + tilt * station.ups[0]
    normal = normal / np.linalg.norm(normal)
    right = np.cross(normal, [0.3, 0.5, 0.8])
    assume(float(np.linalg.norm(right)) > 0.1)
    right = right / np.linalg.norm(right)
    plane = Plane(station.points[0], normal, right, np.cross(right, normal))
    rings = surface_cut(surface, origin, plane)
    sides = trimesh.intersections.mesh_plane(solid, normal, station.points[0] - origin) - (station.points[0] - origin)
    flat = np.round(np.stack([sides @ plane.right, sides @ plane.up], axis=-1), 4)
    whole = shapely.build_area(shapely.MultiLineString([side for side in flat.tolist() if side[0] != side[1]]))
    assert area(tuple(rings)) == pytest.approx(float(whole.area), rel=1e-3, abs=0.5)


def test_the_demo_s_hall_is_cut_with_all_that_runs_round_it() -> None:
    solved = solve(ferry_house())
    cut = cut_across(solved, solved.job.line("L3"), 1500.0)
    assert {solved.job.run(id).name for id in cut.along} == {"Picture rail", "Cornice", "Dado rail"}
    assert {solved.job.run(one.thing).name for one in cut.others if not one.wall} == {"Skirting, door to door"}
    assert math.isclose(area(cut.others[0].rings), section_shape(from_library("skirting-chamfered")).area, rel_tol=1e-4)


@settings(max_examples=examples(25), deadline=None)
@given(st.sampled_from(["mitre", "butt", "cope", "gap"]), st.floats(2850, 2999), st.sampled_from(["left", "right"]))
def test_a_run_is_cut_as_it_is_made_near_its_corners(way: str, chainage: float, side: str) -> None:
    """The plane through all its pieces, against what is left of each cut by manifold3d on both sides of it."""
    points = [(0, 0, 0), (3000, 0, 0), (3000, 1500, 0)]
    made = {"kind": way}
    job = apply_all(
        Job(name="Job"),
        [
            AddLines(lines=(line_body(points, False, "Wall"),)), AddSection(section=from_library("skirting-chamfered")),
            AddRuns(
                section="S2", lines=("L1",), placing=Placing(facing=FacingSide(kind=side)), corners=made, external={"kind": "mitre"},
            ),
        ],
    ).job  # fmt: skip
    solved = solve(job)
    cut = cut_across(solved, job.line("L1"), chainage)
    run = solved.runs["R3"]
    found = run.solid()
    whole = body_of(found.vertices + run.origin, found.faces)
    # Turned so that the plane lies level, and sliced there.
    slice_at = whole.rotate((0, -90, 0)).slice(chainage)
    if not cut.cuts:
        # In the gap, or beyond the last piece, there is nothing to cut.
        assert slice_at.area() == pytest.approx(0, abs=0.5)
        return
    (own,) = cut.cuts
    assert area(own.rings) == pytest.approx(slice_at.area(), rel=1e-3, abs=0.5)
    plain = section_shape(job.section("S2")).area
    assert cut.whole("R3") == (abs(slice_at.area() - plain) < 0.01 * plain)
    # Handed over, both files hold the same outlines, and the levels.
    drawn = area(tuple(ring for one in cut.drawn for ring in one.rings))
    svg = ElementTree.fromstring(across_svg(solved, cut, "Cut", 4000))
    named = {kind: svg.findall(f".//{{http://www.w3.org/2000/svg}}path[@class='{kind}']") for kind in ("cut", "drawn", "level")}
    assert sum(_path_area(path.attrib["d"]) for path in named["drawn"]) == pytest.approx(drawn, rel=1e-5)
    assert len(named["cut"]) == len(own.rings)
    document = ezdxf.read(io.StringIO(across_dxf(solved, cut, "Cut", 4000).decode()))
    outlines: list[Any] = list(document.modelspace().query('LWPOLYLINE[layer=="CUT"]'))
    assert [shapely.Polygon(one.get_points("xy")).area for one in outlines] == pytest.approx(
        [shapely.Polygon(ring).area for ring in own.rings]
    )
    assert {text.dxf.text for text in document.modelspace().query('TEXT[layer=="TEXT"]')} >= {"0", "145"}


def _path_area(path: str) -> float:
    return float(shapely.Polygon([tuple(map(float, place.split())) for place in path.strip("MZ").split("L")]).area)
