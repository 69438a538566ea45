"""Frames: outlines cut by planes, their mitred members and bars, and rows that set them out."""

from __future__ import annotations

import io
import math
from typing import Any

import numpy as np
import pytest
import shapely
import trimesh
from examples import examples
from hypothesis import assume, event, given, reject, settings
from hypothesis import strategies as st
from making import mesh
from pydantic import TypeAdapter, ValidationError

from slow_ribbon.core.cutting import cutting_list, schedule_entries
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits import AnyEdit, apply, apply_all
from slow_ribbon.core.job.job_file import job_from_text, job_to_text
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import plain
from slow_ribbon.core.lines.construction import FrameBar
from slow_ribbon.core.lines.frames import FrameBody, frame_outline
from slow_ribbon.core.lines.made.panes import pane_laid
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.setting_out import set_row_out
from slow_ribbon.core.solve.instances import standing_runs
from slow_ribbon.core.solve.solver import Solver, solve
from slow_ribbon.exports.glb import job_glb

read_edit = TypeAdapter(AnyEdit).validate_python
DEEP, WIDE = 90.0, 45.0
BOARD = {
    "name": "Member", "width": WIDE, "height": DEEP, "grows": "kept",
    "outline": {"start": [0, 0], "edges": [{"kind": "straight", "to": to} for to in ([WIDE, 0], [WIDE, DEEP], [0, DEEP], [0, 0])]},
}  # fmt: skip


def edited(job: Job, kind: str, **fields: Any) -> Job:
    return apply(job, read_edit({"kind": kind, **fields}))


def framed(body: dict[str, Any], division: dict[str, Any] | None = None) -> Job:
    job = edited(
        edited(Job(name="j"), "add_section", section=BOARD), "add_lines", lines=[{"name": "Walk", "start": [0, 6000, 0], "legs": WALK}]
    )
    return edited(job, "add_frame", name="Bent", section="S1", body=body, division=division, at=[0, 0, 100])


WALK = [{"kind": "arc", "via": [5000, 7500, 0], "to": [10_000, 6000, 0]}]


def bodies() -> st.SearchStrategy[dict[str, Any]]:
    cut = st.fixed_dictionaries({"up": st.floats(1500, 2600), "along": st.floats(-800, 800), "slope": st.floats(-25, 25)})
    return st.fixed_dictionaries(
        {
            "shape": st.sampled_from(["rectangle", "arch", "segment", "gable", "polygon"]),
            "width": st.floats(1800, 4000),
            "height": st.floats(2000, 3000),
            "eaves": st.floats(1200, 1900),
            "facets": st.integers(5, 9),
            "cuts": st.lists(cut, max_size=2),
        }
    )


@settings(max_examples=examples(40))
@given(bodies())
def test_members_lie_round_the_cut_outline(body: dict[str, Any]) -> None:
    outline = frame_outline(FrameBody.model_validate(body))
    for cut in body["cuts"]:
        points = shapely.get_coordinates(outline)
        rise = math.tan(math.radians(cut["slope"]))
        assert (points[:, 1] <= cut["up"] + (points[:, 0] - cut["along"]) * rise + 1e-6).all()
    corners = shapely.get_coordinates(outline)[:-1]
    sides = np.hypot(*(np.roll(corners, -1, axis=0) - corners).T)
    # What is shorter than its mitres is reported, and is another test's.
    assume(sides.min() > 3 * DEEP)
    inner = outline.buffer(-DEEP, join_style="mitre", mitre_limit=50)
    inside = shapely.get_coordinates(inner)[:-1]
    assume(len(inside) == len(corners))
    solved = solve(framed(body))
    rows = cutting_list(solved)
    assert rows == []
    run = next(iter(solved.runs.values()))
    assert sorted(run.cuts.long_points.tolist()) == pytest.approx(sorted(sides.tolist()), abs=1e-6)
    assert sorted(run.cuts.short_points.tolist()) == pytest.approx(
        sorted(np.hypot(*(np.roll(inside, -1, axis=0) - inside).T).tolist()), abs=1e-4
    )
    # Members that overlapped or left a gap would make another volume.
    assert mesh(run.solid()).volume == pytest.approx((outline.area - inner.area) * WIDE, rel=1e-6)


@given(st.integers(1, 9), st.sampled_from(["upright", "level"]))
def test_bars_leave_equal_bays_between_the_members(number: int, way: str) -> None:
    job = framed({"shape": "rectangle", "width": 3000, "height": 2400}, {"way": way, "number": number})
    across = {"upright": 3000.0, "level": 2400.0}[way] - 2 * DEEP
    along = {"upright": 2400.0, "level": 3000.0}[way] - 2 * DEEP
    middles = sorted({"upright": line.start[0] + 1500, "level": line.start[2] - 100}[way] for line in job.lines[2:])
    faces = np.array([DEEP, *(face for middle in middles for face in (middle - DEEP / 2, middle + DEEP / 2)), across + DEEP])
    assert np.diff(faces)[::2] == pytest.approx((across - number * DEEP) / (number + 1))
    solved = solve(job)
    for bar in list(solved.runs.values())[1:]:
        assert bar.cuts.long_points == pytest.approx(along)
    fewer = edited(job, "divide_frame", line="L3", division={"way": way, "number": None, "clear": 700})
    middles = sorted({"upright": line.start[0] + 1500, "level": line.start[2] - 100}[way] for line in fewer.lines[2:])
    assert middles[0] == pytest.approx(DEEP + 700 + DEEP / 2)
    assert np.diff(middles) == pytest.approx(700 + DEEP)
    assert across - (middles[-1] + DEEP / 2 - DEEP) <= 700 + DEEP + 1e-6
    assert len(edited(fewer, "divide_frame", line="L3").lines) == 2


def row_of(job: Job, rule: dict[str, Any], **more: Any) -> dict[str, Any]:
    item = {"kind": "typical", "of": job.typicals[0].id, "called": "Bent", "along": 100, "across": 3000, "height": 2600}
    turn = {"kind": "line", "by": 90, "more": 3, "counted": 0}
    return {"name": "Frames", "line": "L2", "item": item, "spacing": {"rule": rule}, "turn": turn, **more}


def test_frames_stand_where_a_row_sets_them_out() -> None:
    job = framed({"shape": "gable", "width": 3000, "height": 2600, "cuts": [{"up": 2300}]}, {"number": 2})
    assert [row.quantity for row in cutting_list(solve(job))] == []
    job = edited(job, "add_row", row=row_of(job, {"kind": "set-number", "number": 7}))
    row, typical = job.rows[0], job.typicals[0]
    out = set_row_out(row, job.line("L2"))
    assert [place.at for place in typical.places] == [pytest.approx(point) for point in out.positions.tolist()]
    turns = np.radians([place.turn for place in typical.places])
    assert np.cos(turns - out.headings) == pytest.approx(1)
    solved = solve(job)
    # A foot, two sides, two slopes and the level top that the cut leaves; two bars.
    assert sum(one.quantity for one in cutting_list(solved)) == 7 * 8
    assert {one.name: one.items for one in schedule_entries(solved) if one.kind == "item"} == {"Bent": 7}
    # The middle one is square across the line; each piece stands where its frame does.
    tops = [place.carriage.points(np.array([[0.0, 0.0, 2300.0 + 100]]))[0] for run, place in standing_runs(solved) if run.id == "R4"]
    assert np.array(tops) == pytest.approx(out.positions + (0, 0, 2300))
    more = edited(job, "set_row", row=row.id, changes={"spacing": {"rule": {"number": 9}}})
    assert [place.name for place in more.typicals[0].places] == [str(number) for number in range(1, 10)]
    wider = edited(more, "set_made", line="L3", changes={"width": 3300})
    feet = [one for one in cutting_list(solve(wider)) if one.long_point == pytest.approx(3300)]
    assert [one.quantity for one in feet] == [9]
    with pytest.raises(Refused, match="set out by Frames already"):
        edited(job, "add_row", row=row_of(job, {"kind": "set-number", "number": 2}))
    with pytest.raises(Refused, match="contain itself"):
        edited(job, "set_typical", typical=typical.id, changes={"lines": [*typical.lines, "L2"]})
    found = apply_all(job, [read_edit({"kind": "remove", "ids": [row.id]})])
    assert found.job.typicals[0].laid is None
    assert len(found.job.typicals[0].places) == 7
    assert any("the row that set them out was removed" in notice for notice in found.notices)
    gone = apply_all(job, [read_edit({"kind": "remove", "ids": [typical.id]})])
    assert gone.job.rows[0].item.kind == "box"
    assert gone.job.rows[0].item.sides == (100, 3000)
    assert any("sets out boxes of the same size" in notice for notice in gone.notices)


def test_bars_lie_anew_where_the_sections_of_the_frame_change() -> None:
    job = framed({"shape": "rectangle", "width": 3000, "height": 2400}, {"number": 2})
    wide = edited(job, "set_section", section="S1", changes={"height": 150})
    deep = wide.section("S1").height
    assert deep == 150
    bay = (3000 - 2 * deep - 2 * deep) / 3
    assert sorted(line.start[0] + 1500 for line in wide.lines[2:]) == pytest.approx([1.5 * deep + bay, 2.5 * deep + 2 * bay])


def test_held_frames_and_others_in_turn_keep_to_their_row() -> None:
    job = framed({"shape": "arch", "width": 2600, "height": 2400, "facets": 5})
    post = {"kind": "round", "diameter": 90, "height": 2000}
    row = row_of(job, {"kind": "set-number", "number": 6}, pattern={"others": [{"item": post}], "turns": "AB"})
    job = edited(job, "add_row", row=row)
    assert len(job.typicals[0].places) == 3
    held = edited(job, "hold_item", row=job.rows[0].id, at=0, out=True)
    assert len(held.typicals[0].places) < 6
    out = set_row_out(held.rows[0], held.line("L2"))
    assert [place.at for place in held.typicals[0].places] == [pytest.approx(point) for point in out.positions[out.dealt == 0].tolist()]


BAD: list[tuple[dict[str, Any], str]] = [
    ({"body": {"height": 2000, "cuts": [{"up": -5}]}}, "leaves nothing of the frame"),
    ({"body": {"height": 2000, "cuts": [{"up": 2500, "keep": "above"}]}}, "leaves nothing of the frame"),
    ({"body": {"width": 500, "height": 2000, "shape": "rectangle"}, "division": {"number": 9}}, "find no room"),
    ({"section": "S9"}, "no section S9"),
]


@pytest.mark.parametrize(("wrong", "said"), BAD)
def test_what_cannot_be_framed_is_refused(wrong: dict[str, Any], said: str) -> None:
    job = edited(Job(name="j"), "add_section", section=BOARD)
    with pytest.raises(Refused, match=said):
        edited(job, "add_frame", **{"name": "Bent", "section": "S1", **wrong})


def test_what_lies_in_a_frame_stays_where_it_is_once_that_is_changed_by_hand() -> None:
    filled = edited(framed({"shape": "rectangle", "width": 3000, "height": 2400}, {"number": 1}), "fill_frame", line="L3", pane={})
    found = apply_all(filled, [read_edit({"kind": "move_vertex", "line": "L3", "point": 2, "to": [1500, 0, 2600]})])
    assert [line.made for line in found.job.lines] == [None] * len(filled.lines)
    assert [(line.start, line.legs) for line in found.job.lines[2:]] == [(line.start, line.legs) for line in filled.lines[2:]]
    assert any("the frame that it lies in" in notice for notice in found.notices)


def panes_listed(job: Job) -> list[tuple[str, int, float]]:
    listed = [one for one in schedule_entries(solve(job)) if one.kind in ("pane", "board")]
    return [(plain(one.name), one.items or (one.total.pieces if one.total else 0), one.area or 0.0) for one in listed]


@pytest.mark.parametrize("of", ["glass", "boards"])
def test_panes_stay_in_frames_that_are_moved_turned_mirrored_copied_or_cut_loose(of: str) -> None:
    job = edited(framed({"shape": "gable", "width": 3000, "height": 2400}, {"number": 1}), "fill_frame", line="L3", pane={"of": of})
    typical = job.typicals[0].id
    job = edited(job, "set_typical", typical=typical, changes={"here_stands": True})
    lines = list(job.typicals[0].lines)
    counts, areas = sum(one[1] for one in panes_listed(job)), sum(one[2] for one in panes_listed(job))
    assert counts > 0

    def kept(after: Job, times: int = 1) -> None:
        listed = panes_listed(after)
        assert sum(one[1] for one in listed) == times * counts
        assert sum(one[2] for one in listed) == pytest.approx(times * areas)

    # Shifted the frame stays one, with all that lies in it, whether or not that is moved by name.
    for some in (lines, ["L3"]):
        shifted = edited(job, "copy_lines", lines=some, by=[700, 300, 40], copies=False)
        assert [line.made is not None for line in shifted.lines] == [line.made is not None for line in job.lines]
        assert np.array(shifted.line("L3").start) == pytest.approx(np.add(job.line("L3").start, (700, 300, 40)))
        for before, after in zip(job.lines[2:], shifted.lines[2:], strict=True):
            assert np.array(after.start) == pytest.approx(np.add(before.start, (700, 300, 40)))
        kept(shifted)
        kept(edited(shifted, "set_made", line="L3", changes={"at": [None, 0, None]}))
    turned = edited(job, "copy_lines", lines=lines, by=[0, 0, 0], turn=33, about=[0, 0, 0], copies=False)
    assert all(line.made is None for line in turned.lines)
    kept(turned)
    kept(edited(job, "mirror_lines", lines=lines, a=[1, 2, 0], b=[50, 80, 0], copies=False))
    kept(edited(job, "copy_lines", lines=lines, by=[4000, 0, 0]), 2)
    placed = edited(job, "add_places", typical=typical, places=[{"name": "2", "at": [9000, 0, 100], "turn": 40, "mirrored": True}])
    kept(placed, 2)
    kept(edited(placed, "cut_loose", typical=typical, places=[placed.typicals[0].places[-1].id]), 2)
    # Each where it is: its volume, by another library, from the file that is written.
    written = trimesh.load_scene(io.BytesIO(job_glb(solve(turned))), file_type="glb")
    middle = np.mean([mesh.centroid for name, mesh in instances(written) if "pane" in name], axis=0) * 1000
    upright = trimesh.load_scene(io.BytesIO(job_glb(solve(job))), file_type="glb")
    before = np.mean([mesh.centroid for name, mesh in instances(upright) if "pane" in name], axis=0) * 1000
    angle = math.radians(33)
    # glTF is y up.
    x, y = before[0], -before[2]
    assert middle == pytest.approx(
        [x * math.cos(angle) - y * math.sin(angle), before[1], -(x * math.sin(angle) + y * math.cos(angle))], abs=0.01
    )


@pytest.mark.parametrize(
    ("kind", "fields", "said"),
    [
        ("set_closed", {"closed": False}, "must stay closed"),
        ("move_vertex", {"point": 1, "to": [None, 400, None]}, "must stay flat"),
        ("move_vertex", {"point": 1, "to": [-3000, None, 1000]}, "must not cross itself"),
        ("set_line", {"changes": {"pane": {"of": "boards", "board": 1}}}, "greater than or equal to 5"),
    ],
)
def test_a_pane_says_what_its_line_must_be(kind: str, fields: dict[str, Any], said: str) -> None:
    legs = [{"kind": "straight", "to": [x, 0, z]} for x, z in ((2000, 0), (2000, 1500), (0, 1500), (0, 0))]
    job = edited(Job(name="j"), "add_lines", lines=[{"name": "Pane", "start": [0, 0, 0], "legs": legs, "closed": True, "pane": {}}])
    [(name, count, area)] = panes_listed(job)
    assert (name, count) == ("Pane, glass 8 mm, 2000 mm × 1500 mm", 1)
    assert area == pytest.approx(3e6)
    with pytest.raises((Refused, ValidationError), match=said):
        edited(job, kind, line="L1", **fields)
    assert panes_listed(edited(job, "set_line", line="L1", changes={"pane": None})) == []


def test_a_frame_that_loses_its_room_says_so() -> None:
    job = framed({"shape": "rectangle", "width": 3000, "height": 2400}, {"number": 5})
    with pytest.raises(Refused, match="find no room"):
        edited(job, "set_made", line="L3", changes={"width": 400})
    with pytest.raises(Refused, match="leaves nothing"):
        edited(job, "set_made", line="L3", changes={"cuts": [{"up": 0}]})
    with pytest.raises(Refused, match="has no members"):
        edited(job, "divide_frame", line="L2", division={"number": 2})


@settings(max_examples=examples(40))
@given(bodies(), st.sampled_from(["upright", "level"]), st.integers(0, 4), st.floats(-8, 12), st.sampled_from(["glass", "boards"]))
def test_panes_fill_the_bays_between_members_and_bars(body: dict[str, Any], way: str, number: int, reach: float, of: str) -> None:
    division = {"way": way, "number": number} if number else None
    asked = {"of": of, "board": 110, "gap": 6, "way": way, "thickness": 8}
    try:
        job = edited(framed(body, division), "fill_frame", line="L3", pane=asked, reach=reach)
    except Refused:
        # A frame that is too small for its bars and panes is another test's.
        reject()
    panes = [laid for line in job.lines if (laid := pane_laid(line)) is not None]
    assert len(panes) == number + 1
    outline = shapely.affinity.translate(frame_outline(FrameBody.model_validate(body)), 0, 100)
    # What is open, worked out another way: every member and bar as a rectangle of its own taken out of the outline.
    corners = shapely.get_coordinates(outline)
    solid = [shapely.LineString(corners[i : i + 2]).buffer(DEEP, cap_style="square", single_sided=True) for i in range(len(corners) - 1)]
    solid += [shapely.LineString(np.array(line.points())[:, [0, 2]]).buffer(DEEP / 2, cap_style="square") for line in bars_of(job)]
    opened = [part for part in shapely.get_parts(outline.difference(shapely.union_all(solid))) if part.area > 50]
    assume(len(opened) == number + 1)
    for pane in panes:
        assert np.array(pane.axes) == pytest.approx(np.array([(1, 0, 0), (0, 0, 1), (0, -1, 0)]))
        centroid = shapely.affinity.translate(pane.outline.centroid, pane.origin[0], pane.origin[2])
        bay = min(opened, key=lambda part: part.centroid.distance(centroid))
        assert pane.outline.area == pytest.approx(bay.buffer(reach, join_style="mitre", mitre_limit=50).area, rel=1e-4, abs=30)
        if of == "boards":
            parts = shapely.union_all(pane.parts)
            assert parts.area == pytest.approx(sum(part.area for part in pane.parts))
            assert parts.difference(pane.outline.buffer(1e-6)).area == pytest.approx(0, abs=1e-3)
            sides = [part.bounds[2] - part.bounds[0] if way == "upright" else part.bounds[3] - part.bounds[1] for part in pane.parts]
            assert max(sides) <= 110 + 1e-6
            # What is left open between boards is gaps only, and between no more boards than are needed.
            assert len(pane.parts) <= math.ceil((pane.sides[0 if way == "upright" else 1]) / 116) + 1
    solved = solve(job)
    entries = [one for one in schedule_entries(solved) if one.kind in ("pane", "board")]
    assert entries == []
    job = edited(job, "set_typical", typical=job.typicals[0].id, changes={"here_stands": True})
    entries = [one for one in schedule_entries(solve(job)) if one.kind in ("pane", "board")]
    assert sum(one.area or 0 for one in entries) == pytest.approx(sum(pane.outline.area for pane in panes))
    if of == "boards":
        assert sum(one.total.pieces for one in entries if one.total) == sum(len(pane.parts) for pane in panes)
    # Its own mesh, read by another library.
    written = trimesh.load_scene(io.BytesIO(job_glb(solve(job))), file_type="glb")
    volume = sum(mesh.volume * 1e9 for name, mesh in instances(written) if "pane" in name)
    assert volume == pytest.approx(8 * sum(part.area for pane in panes for part in pane.parts), rel=1e-3)


def bars_of(job: Job) -> list[Line]:
    return [line for line in job.lines if isinstance(line.made, FrameBar)]


def instances(scene: trimesh.Scene) -> list[tuple[str, trimesh.Trimesh]]:
    return [
        (node, scene.geometry[name].copy().apply_transform(at)) for node in scene.graph.nodes_geometry for at, name in [scene.graph[node]]
    ]


def test_panes_follow_their_frame_and_are_counted_wherever_it_stands() -> None:
    glass = {"of": "glass", "thickness": 8}
    job = edited(
        framed({"shape": "rectangle", "width": 3000, "height": 2400}, {"number": 2}), "fill_frame", line="L3", pane=glass, reach=12
    )
    job = edited(job, "add_row", row=row_of(job, {"kind": "set-number", "number": 5}))
    wide = (3000 - 4 * DEEP) / 3 + 24

    def panes(job: Job) -> list[tuple[Any, Any, Any]]:
        return [(plain(one.name), one.items, one.area or 0.0) for one in schedule_entries(solve(job)) if one.kind == "pane"]

    high = 2400 - 2 * DEEP + 24
    [(name, items, area)] = panes(job)
    assert name == f"Bent, glass 8 mm, {wide:.0f} mm × {high:.0f} mm"
    assert (items, area) == (15, pytest.approx(15 * wide * high))
    [(_, items, area)] = panes(edited(job, "set_made", line="L3", changes={"width": 3600}))
    assert (items, area) == (15, pytest.approx(15 * (wide + 200) * high))
    [(_, items, _)] = panes(edited(job, "divide_frame", line="L3", division={"number": 4}))
    assert items == 25
    [(_, items, _)] = panes(edited(job, "divide_frame", line="L3"))
    assert items == 5
    assert panes(edited(job, "fill_frame", line="L3")) == []
    boards = edited(job, "fill_frame", line="L3", pane={"of": "boards", "board": 100, "gap": 0, "way": "level", "thickness": 20})
    [entry] = [one for one in schedule_entries(solve(boards)) if one.kind == "board"]
    assert entry.total is not None
    assert entry.total.pieces == 15 * math.ceil((2400 - 2 * DEEP) / 100 - 1e-9)
    assert job_from_text(job_to_text(boards)) == boards
    # What was kept of the job with glass is not taken for that with boards.
    solver = Solver()
    with_glass = solver.solve(job)
    assert list(schedule_entries(solver.solve(boards, with_glass))) == list(schedule_entries(solve(boards)))
    with pytest.raises(Refused, match="no room for a pane in bay 1"):
        edited(job, "fill_frame", line="L3", pane=glass, reach=-2000)
    with pytest.raises(Refused, match="has no members"):
        edited(job, "fill_frame", line="L2", pane=glass)


@settings(max_examples=examples(40))
@given(
    st.floats(-80, 80), st.floats(-0.4, 0.4), st.floats(-600, 600), st.floats(1500, 2300), st.floats(-300, 300),
    st.sampled_from(["gable", "rectangle", "arch"]), st.sampled_from(["left", "right"]), st.booleans(),
)  # fmt: skip
def test_a_frame_is_cut_by_the_underside_of_a_run(
    heading: float, rise: float, aside: float, up: float, stand_off: float, shape: str, side: str, ring: bool
) -> None:
    job = framed({"shape": shape, "width": 3000, "height": 2600})
    way = np.array([math.cos(math.radians(heading)), math.sin(math.radians(heading)), rise])
    middle = np.array([aside, aside / 2, 100 + up])
    begin, end = (middle - 5000 * way).tolist(), (middle + 5000 * way).tolist()
    legs = [{"kind": "straight", "to": end}]
    if ring:
        # Round and back on the far side of the frame: the leg over it is not the first.
        corner = (middle + 5000 * way + 9000 * np.array([-way[1], way[0], 0])).tolist()
        legs = [{"kind": "straight", "to": to} for to in (begin, end, corner)]
        begin = corner
    job = edited(job, "add_lines", lines=[{"name": "Beam", "start": begin, "legs": legs, "closed": ring}])
    beam = {"facing": {"kind": side}, "stand_off": stand_off, "datum": {"kind": "named", "name": "middle"}}
    job = edited(job, "add_runs", section="S1", lines=[job.lines[-1].id], placing=beam)
    under = job.runs[-1].id
    try:
        cut = edited(job, "set_made", line="L3", changes={"cuts": [{"up": 0, "under": under}]})
    except Refused as refused:
        event(refused.code)
        reject()
    outline = shapely.Polygon(np.array(cut.line("L3").points())[:, [0, 2]])
    # Where the solid of the run stands over the frame's plane, as another library cuts it: nothing of it in the frame, and it touches.
    beam_solved = solve(cut).runs[under]
    solid = mesh(beam_solved.solid()).apply_translation(beam_solved.origin)
    over = solid.section(plane_origin=[0, 0, 0], plane_normal=[0, 1, 0])
    if over is None:
        reject()
    # Of a ring the other legs may pass through the plane too.
    crossing = middle - way * middle[1] / way[1] if abs(way[1]) > 1e-9 else middle
    faces = [shapely.Polygon(path[:, [0, 2]]).buffer(0) for path in over.discrete]
    met = min(faces, key=lambda face: face.distance(shapely.Point(crossing[[0, 2]])))
    assert outline.buffer(-1e-3).intersection(met).area == pytest.approx(0, abs=1e-3)
    if met.intersection(shapely.Polygon(np.array(job.line("L3").points())[:, [0, 2]]).buffer(-1)).area > 10:
        assert outline.distance(met) == pytest.approx(0, abs=1e-3)
        assert outline.area < shapely.Polygon(np.array(job.line("L3").points())[:, [0, 2]]).area


def test_a_cut_by_a_run_follows_it() -> None:
    job = framed({"shape": "rectangle", "width": 3000, "height": 2600}, {"number": 1})
    job = edited(job, "fill_frame", line="L3", pane={})
    beam = {"name": "Beam", "start": [-3000, 0, 2300], "legs": [{"kind": "straight", "to": [3000, 0, 2300]}]}
    job = edited(job, "add_lines", lines=[beam])
    job = edited(
        job,
        "add_runs",
        section="S1",
        lines=[job.lines[-1].id],
        placing={"facing": {"kind": "left"}, "datum": {"kind": "named", "name": "middle"}},
    )
    line, under = job.lines[-1].id, job.runs[-1].id
    job = edited(job, "set_made", line="L3", changes={"cuts": [{"up": 0, "under": under}]})

    def tops(job: Job) -> list[float]:
        return [max(point[2] for point in one.points()) for one in job.lines[1 : 2 + 3]]

    top = 2300 - DEEP / 2
    assert tops(job) == pytest.approx([top, top, top - DEEP, top - DEEP])
    raised = edited(job, "move_vertex", line=line, point=0, to=[None, None, 2200])
    raised = edited(raised, "move_vertex", line=line, point=1, to=[None, None, 2200])
    assert tops(raised) == pytest.approx([top - 100, top - 100, top - 100 - DEEP, top - 100 - DEEP])
    deeper = edited(job, "add_section", section={**BOARD, "name": "Deep", "height": 2 * DEEP, "outline": DEEP_OUTLINE})
    deeper = edited(deeper, "set_run", run=under, changes={"section": deeper.sections[-1].id})
    assert tops(deeper)[0] == pytest.approx(2300 - DEEP)
    assert job_from_text(job_to_text(job)) == job
    gone = apply_all(job, [read_edit({"kind": "remove", "ids": [under]})])
    assert tops(gone.job) == pytest.approx(tops(job))
    assert any("what it was made from" in notice for notice in gone.notices)
    with pytest.raises(Refused, match="does not pass over the frame"):
        edited(
            edited(job, "move_vertex", line=line, point=0, to=[-3000, 9000, None]), "move_vertex", line=line, point=1, to=[0, 9000, None]
        )
    with pytest.raises(Refused, match="follow one another in a circle"):
        edited(job, "set_made", line="L3", changes={"cuts": [{"up": 0, "under": "R4"}]})


DEEP_OUTLINE = {
    "start": [0, 0], "edges": [{"kind": "straight", "to": to} for to in ([WIDE, 0], [WIDE, 2 * DEEP], [0, 2 * DEEP], [0, 0])]
}  # fmt: skip
