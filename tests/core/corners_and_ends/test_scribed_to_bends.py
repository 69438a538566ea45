"""Ends shaped to a run that bends: against fibres gone along step by step, and against solids turned by manifold3d."""

from __future__ import annotations

import math
from collections.abc import Callable

import manifold3d
import numpy as np
import pytest
import shapely
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st
from making import line, mesh
from scipy.spatial import cKDTree
from test_scribed_ends import FINE, KEYS, edited, job_of, ring_of, run_of, section_of

from slow_ribbon.core.cutting import cutting_list, patterns_of
from slow_ribbon.core.geometry.bodies import body_of
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.figures import plain
from slow_ribbon.core.lines.legs import AnyLeg, ArcLeg, CurveLeg, HelixLeg, StraightLeg, helix_end
from slow_ribbon.core.lines.model import Line, line_body, with_id
from slow_ribbon.core.runs.pieces.solids import piece_solid
from slow_ribbon.core.sections.document.section import Section, SectionBody
from slow_ribbon.core.sections.library import from_library, rectangle
from slow_ribbon.core.sections.outline.outline import OutlinePen
from slow_ribbon.core.solve.results import SolvedRun
from slow_ribbon.core.solve.solver import solve

STEP, FAR, THIN = 0.5, 250.0, 0.01
#: Tells of points (…, 3) how far inside of what is met they lie, in the plane of its section there, mm; outside with a minus.
Depth = Callable[[Array], Array]


def bent(legs: tuple[AnyLeg, ...], begin: tuple[float, float, float], **more: object) -> Line:
    body = line_body([begin, legs[-1].to], False, "Bend").model_copy(update={"legs": legs, **more})
    return with_id(body, "L2")


def arc(centre: Array, out: Array, way: Array, radius: float, half: float, frame: str) -> Line:
    """An arc about a centre: in its middle it goes ``way``, radius mm ``out`` from it."""
    begin, end = (tuple((centre + radius * (out * math.cos(a) + way * math.sin(a))).tolist()) for a in (-half, half))
    return bent((ArcLeg(to=end, via=tuple((centre + radius * out).tolist())),), begin, frame=frame)


def fibres_of(run: SolvedRun, end: bool, count: int) -> tuple[Array, Array, Array]:
    """Fibres of a run of one straight piece: where they are at the end of its line, outward, and how far outward each goes."""
    course, ring = run.cuts.plain, ring_of(run)
    points = np.random.default_rng(7).uniform(ring.min(axis=0), ring.max(axis=0), size=(20 * count, 2))
    points = points[shapely.contains_xy(shapely.Polygon(ring), points[:, 0], points[:, 1])][:count]
    places = (course.ends[0] if end else course.starts[0]) + points @ np.stack([course.rights[0], course.ups[0]])
    sense = 1.0 if end else -1.0
    return places, sense * course.tangents[0], sense * run.cuts.shaped[0, end].reach(points)


def check_met(places: Array, outward: Array, reached: Array, depth: Depth, by: Array) -> float:
    """Check fibres that stop where they come to something first, and those that go by it ``by`` this much; return how many meet it.

    By a hair's breadth of ``THIN`` what is met may be larger or smaller.
    """
    steps = np.arange(-FAR, FAR, STEP)
    inside = depth(places[:, None] + steps[None, :, None] * outward) > THIN
    meets = inside.any(axis=1)
    high = np.where(meets, steps[inside.argmax(axis=1)], FAR)
    low = high - STEP
    for _ in range(30):
        middle = (low + high) / 2
        there = depth(places + middle[:, None] * outward) > THIN
        low, high = np.where(there, low, middle), np.where(there, middle, high)
    references_of = np.abs(reached - by) < 1e-6
    # None goes on within it; each stops on its skin, or goes by.
    assert (reached <= np.where(meets, high, math.inf) + 1e-3).all()
    assert np.abs(depth(places + reached[:, None] * outward))[~references_of].max(initial=0.0) < 2 * THIN
    return float(meets.mean())


def depth_in(outline: shapely.Polygon, points: Array) -> Array:
    """How far inside an outline points (…, 2) lie, mm."""
    shapely.prepare(outline)
    within = shapely.contains_xy(outline, points[..., 0], points[..., 1])
    near = shapely.box(*outline.buffer(1).bounds)
    close = shapely.contains_xy(near, points[..., 0], points[..., 1])
    found = np.ones(points.shape[:-1])
    found[close] = shapely.distance(outline.exterior, shapely.points(points[close]))
    return np.where(within, found, -found)


@settings(max_examples=examples(15), deadline=None)
@given(
    st.sampled_from(KEYS), st.sampled_from(KEYS), st.sampled_from([250.0, 600.0, 2000.0]), st.floats(-180, 180), st.floats(-60, 60),
    st.floats(0, 360), st.tuples(st.floats(-30, 60), st.floats(-15, 15)), st.booleans(), st.booleans(),
)  # fmt: skip
def test_every_fibre_stops_where_it_comes_to_the_arc_first(
    mine: str, theirs: str, radius: float, heading: float, pitch: float, roll: float, at: tuple[float, float], level: bool, reverse: bool
) -> None:
    turn, lean = math.radians(heading + 0.123), 0.0 if level else math.radians(pitch + 0.0456)
    way = np.array([math.cos(turn) * math.cos(lean), math.sin(turn) * math.cos(lean), math.sin(lean)])
    if abs(way[0]) > math.cos(math.radians(25)):
        return
    side = np.cross([0.0, 0.0, 1.0], way) / math.cos(lean)
    out = (
        side * (1 if roll < 180 else -1)
        if level
        else math.cos(math.radians(roll)) * side + math.sin(math.radians(roll)) * np.cross(way, side)
    )
    middle = np.array([at[0] + 0.0789, at[1], 0.0])
    centre = middle - radius * out
    other = arc(centre, out, way, radius, min(1500 / radius, math.radians(100)), "upright" if level else "carried")
    job = job_of(line([(-2000, 0, 0), (0, 0, 0)]), other, section_of(mine, "S1"), section_of(theirs, "S2"), reverse)
    run, bend = run_of(job), run_of(job, "R3")
    end = not reverse
    if (0, end) not in run.cuts.shaped:
        assert [check.kind for check in run.checks] == ["unfinished"]
        return
    # The arc's section in its cylinder: how far from the axis, and along it.
    path = bend.cuts.plain.paths[0]
    frame = path.at(np.array([path.length / 2]))
    ring = bend.cuts.placed.points(bend.cuts.placed.shape.flat(0.002).points[: bend.cuts.placed.shape.flat(0.002).loop_sizes[0]])
    around = middle + ring @ np.stack([frame.rights[0], frame.ups[0]]) - centre
    axis = np.cross(out, way)
    turned = np.column_stack([around @ out, around @ axis])
    outline = shapely.Polygon(turned)

    def depth(points: Array) -> Array:
        away = points - centre
        along = away @ axis
        flat = away - along[..., None] * axis
        found = depth_in(outline, np.stack([np.linalg.norm(flat, axis=-1), along], axis=-1))
        return np.where(flat @ out > 0, found, -1.0)

    places, outward, reached = fibres_of(run, end, 100)
    # What goes by ends in the plane that the arc's middle goes along, square to how the fibre comes to it.
    (met,) = job.run("R4").near.met
    travel = np.cross(met.up, met.right)
    toward = outward - travel * (outward @ travel)
    check_met(places, outward, reached, depth, -(places @ toward) / (outward @ toward))
    # Its solid has nothing in common with the arc's, turned by manifold3d about its axis, and is as large as all its fibres.
    found = piece_solid(run.cuts, 0, chord_height=FINE)
    assert mesh(found).is_watertight
    piece = body_of(found.vertices, found.faces)
    assert piece.volume() == pytest.approx(run.cuts.volumes[0], rel=1e-4)
    section = manifold3d.CrossSection([turned if shapely.LinearRing(turned).is_ccw else turned[::-1]])
    # No further round than a chord of the ring would come into it again.
    solid = manifold3d.Manifold.revolve(section, 4000, 48.0).rotate([0.0, 0.0, -24.0])
    solid = solid.transform(np.column_stack([out, way, axis, centre]))
    assert (piece ^ solid).volume() < 1e-4 * piece.volume()


def near_path(run: SolvedRun) -> Depth:
    """What lies in a run of one piece that bends: by the nearest place of its line, found step by step and by Newton's."""
    path = run.cuts.plain.paths[0]
    outline = shapely.Polygon(run.cuts.lying(0).framed.outer_ring(0.002))
    coarse = np.linspace(0, path.length, 3000)
    spots = path.at(coarse).points
    tree = cKDTree(spots)

    def depth(points: Array) -> Array:
        flat = points.reshape(-1, 3)
        away, nearest = tree.query(flat, distance_upper_bound=150)
        rows = np.flatnonzero(np.isfinite(away))
        s = coarse[np.asarray(nearest)[rows]]
        for _ in range(6):
            here = path.at(s)
            off = flat[rows] - here.points
            bend = here.rights * here.bends[:, :1] + here.ups * here.bends[:, 1:]
            s = s + np.einsum("ij,ij->i", off, here.tangents) / np.maximum(0.2, 1 - np.einsum("ij,ij->i", off, bend))
        here = path.at(s)
        off = flat[rows] - here.points
        found = np.full(len(flat), -1.0)
        across = np.stack([np.einsum("ij,ij->i", off, here.rights), np.einsum("ij,ij->i", off, here.ups)], axis=-1)
        found[rows] = depth_in(outline, across)
        return found.reshape(points.shape[:-1])

    return depth


@pytest.mark.parametrize("reverse", [False, True])
@pytest.mark.parametrize("shape", ["helix", "curve", "straight, arc, straight"])
def test_it_is_shaped_to_helices_curves_and_where_a_bend_begins(shape: str, reverse: bool) -> None:
    if shape == "helix":
        # 60° round about an axis on this side, rising, it is where the rail ends.
        axis, centre = (0.0, 0.0, 1.0), (-800.0, 0.0, 0.0)
        begin = helix_end((20.0, 0.0, 0.0), centre, axis, -60, -250)
        legs: tuple[AnyLeg, ...] = (HelixLeg(to=helix_end(begin, centre, axis, 120, 500), centre=centre, axis=axis, turn=120),)
    elif shape == "curve":
        begin = (30.0, -800.0, -100.0)
        controls = ((250.0, -300.0, -50.0), (-150.0, 100.0, 20.0), (0.0, 500.0, 40.0))
        legs = (CurveLeg(to=(-40.0, 900.0, 100.0), controls=controls),)
    else:
        # The rail's middle comes just where the arc begins.
        begin = (0.0, -800.0, 0.0)
        legs = (
            StraightLeg(to=(0.0, 5.0, 0.0)),
            ArcLeg(to=(300.0, 305.0, 0.0), via=(300 * (1 - math.cos(math.pi / 4)), 5 + 300 * math.sin(math.pi / 4), 0.0)),
            StraightLeg(to=(900.0, 305.0, 0.0)),
        )
    for mine, theirs in (("handrail-moulded", "handrail-moulded"), ("dado-rail", "skirting-torus")):
        job = job_of(line([(-2000, 0, 0), (0, 0, 0)]), bent(legs, begin), section_of(mine, "S1"), section_of(theirs, "S2"), reverse)
        run = run_of(job)
        places, outward, reached = fibres_of(run, not reverse, 60)
        (met,) = job.run("R4").near.met
        travel = np.cross(met.up, met.right)
        toward = outward - travel * (outward @ travel)
        assert check_met(places, outward, reached, near_path(run_of(job, "R3")), -(places @ toward) / (outward @ toward)) > 0.2


def test_a_saddle_on_a_bend_is_listed_drawn_and_follows() -> None:
    """A tube to the outside of a ring of tube: by the quarter that lies on its middle plane it is the saddle to the ring's cylinder."""
    body = SectionBody.model_validate(from_library("tube-round").model_dump())
    tube = Section.model_validate({**body.model_dump(), "id": "S1", "width": 40, "height": 40})
    out, way = np.array([-1.0, 0.0, 0.0]), np.array([0.0, 1.0, 0.0])
    ring = arc(np.array([500.0, 0.0, 0.0]), out, way, 500.0, math.radians(120), "upright")
    placing = {"facing": {"kind": "left"}, "stand_off_of": "middle", "lift_of": "middle"}
    job = job_of(line([(-2000, 0, 0), (0, 0, 0)]), ring, tube, tube, placing=placing)
    job = edited(job, {"kind": "set_placing", "runs": ["R3"], "changes": placing}).job
    run = run_of(job)
    # On the middle plane the outside of the ring is a circle of 520 mm about its centre; above the line both are at their tops.
    at = np.linspace(-20, 20, 9)
    level = 500 - np.sqrt(520**2 - at**2)
    assert run.cuts.shaped[0, True].reach(np.column_stack([at, np.zeros(9)])) == pytest.approx(level, abs=0.01)
    upright = run.cuts.shaped[0, True].reach(np.column_stack([np.zeros(9), at]))
    assert upright == pytest.approx(-np.sqrt(400 - at**2), abs=0.25)
    assert run.cuts.long_points[0] == pytest.approx(2000, abs=0.25)
    row = next(row for row in cutting_list(solve(job)) if row.run == "R4")
    assert row.end.shaped == "scribed"
    (pattern,) = patterns_of(solve(job))
    assert pattern.height == pytest.approx(40 * math.pi)
    # Round the tube it is deepest where its sides meet the ring on the middle plane.
    assert np.ptp(pattern.face[:, 0]) == pytest.approx(math.sqrt(520**2 - 20**2) - 500, abs=0.1)
    # Two tubes to one ring, one a quarter on, are one piece twice; the ring is made of thicker tube, and both follow.
    second = {"kind": "add_lines", "lines": [line_body([(500, 2500, 0), (500, 500, 0)], False, "Second").model_dump()]}
    made = edited(job, second).job
    more = {"kind": "add_runs", "section": "S1", "lines": [made.lines[-1].id], "placing": placing}
    more["last_end"] = {"kind": "scribed", "to": "R3"}
    both = edited(made, more).job
    first, other = (run_of(both, id) for id in ("R4", both.runs[-1].id))
    assert first.cuts.shaped[0, True] == other.cuts.shaped[0, True]
    assert first.cuts.volumes[0] == pytest.approx(other.cuts.volumes[0], rel=1e-6)
    thick = edited(both, {"kind": "set_section", "section": "S2", "changes": {"width": 60, "height": 60}}).job
    for id in ("R4", both.runs[-1].id):
        assert run_of(thick, id).cuts.shaped[0, True].reach(np.zeros((1, 2))) == pytest.approx([-30], abs=0.01)
    # Cut loose from what bends where it comes along it: reported, and square.
    along = edited(job, {"kind": "move_vertex", "line": "L1", "point": 1, "to": [-20, 3000, None]}).job
    assert [check.kind for check in run_of(along).checks] == ["unfinished"]


@pytest.mark.parametrize("bent_other", [False, True])
@pytest.mark.parametrize(("low", "open_behind"), [(12.0, 45.0), (40.0, 0.0)])
def test_a_hollow_that_stays_open_behind_an_end_is_reported(bent_other: bool, low: float, open_behind: float) -> None:
    """A lath to the mouth of a channel with lips 5 mm thick: at the height of a lip 45 mm stay open behind it, between the lips nothing."""
    pen = OutlinePen(0, 0)
    corners = ((60, 0), (60, 100), (0, 100), (0, 70), (5, 70), (5, 90), (50, 90), (50, 10), (5, 10), (5, 30), (0, 30))
    for x, y in corners:
        pen.line(x, y)
    channel = Section(id="S2", name="Channel", outline=pen.close(), width=60, height=100)
    lath = Section(id="S1", name="Lath", outline=rectangle(20, 15), width=20, height=15)
    out, way = np.array([-1.0, 0.0, 0.0]), np.array([0.0, 1.0, 0.0])
    ring = arc(np.array([900.0, 0.0, 0.0]), out, way, 900.0, 1.0, "upright")
    other = ring if bent_other else line([(0, -900, 0), (0, 900, 0)])
    # Its mouth to the lath, which comes from the left of its travel.
    placing = {"lift": low, "lift_of": "bottom", "stand_off_of": "middle"}
    job = job_of(line([(-2000, 0, 0), (0, 0, 0)]), other, lath, channel, placing=placing)
    job = edited(job, {"kind": "set_placing", "runs": ["R3"], "changes": {"hand": "left", "facing": {"kind": "right"}}}).job
    run = run_of(job)
    assert (0, True) in run.cuts.shaped
    if not open_behind:
        assert not run.checks
        return
    (check,) = run.checks
    assert check.kind == "unfinished"
    # The lath is 20 mm wide: round the bend its edges come to the lip and the web a little further on.
    found = max(run.cuts.finishing.hollows.values()) if run.cuts.finishing else 0.0
    assert found == pytest.approx(open_behind, abs=0.02 if bent_other else 1e-6)
    assert "is left behind it" in plain(check.what)


@pytest.mark.parametrize("shape", ["stadium", "curve"])
def test_a_ring_is_the_same_wherever_it_begins(shape: str) -> None:
    """A rail to a closed ring, just where the line of that begins, and with it begun elsewhere."""
    ring: tuple[AnyLeg, ...] = (
        (
            StraightLeg(to=(0.0, 500.0, 0.0)),
            ArcLeg(to=(600.0, 500.0, 0.0), via=(300.0, 800.0, 0.0)),
            StraightLeg(to=(600.0, 0.0, 0.0)),
            ArcLeg(to=(0.0, 0.0, 0.0), via=(300.0, -300.0, 0.0)),
        )
        if shape == "stadium"
        else (
            CurveLeg(to=(500.0, -400.0, 0.0), controls=((0.0, -220.0, 0.0), (220.0, -400.0, 0.0))),
            CurveLeg(to=(900.0, 100.0, 0.0), controls=((780.0, -400.0, 0.0), (900.0, -200.0, 0.0))),
            CurveLeg(to=(0.0, 0.0, 0.0), controls=((900.0, 700.0, 0.0), (0.0, 600.0, 0.0))),
        )
    )
    other = with_id(line_body([(0, 0, 0), (1, 0, 0), (1, 1, 0)], True, "Ring").model_copy(update={"legs": ring}), "L2")
    job = job_of(line([(-2000, 20, 0), (0, 0, 0)]), other, section_of("handrail-moulded", "S1"), section_of("handrail-moulded", "S2"))
    points = np.random.default_rng(3).uniform((-57, 0), (0, 41), size=(400, 2))
    found = []
    for at in (None, 300, 900):
        begun = job if at is None else edited(job, {"kind": "start_line_at", "line": "L2", "at": at}).job
        found.append(run_of(begun).cuts.shaped[0, True].reach(points))
    for one in found[1:]:
        # Where it only just passes by an edge it may be reported to meet it, or not.
        assert np.quantile(np.abs(one - found[0]), 0.97) < 0.02
    assert np.ptp(found[0]) > 10
