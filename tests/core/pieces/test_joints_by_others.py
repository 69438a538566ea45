"""Joints that come over marks, openings or posts, or keep off from another run's: against every way there is, and arithmetic."""

from __future__ import annotations

from itertools import combinations, pairwise
from typing import Any

import manifold3d
import numpy as np
import pytest
from examples import examples
from hypothesis import given, reject, settings
from hypothesis import strategies as st
from making import line, run_cuts
from pydantic import TypeAdapter

from slow_ribbon.core.geometry.bodies import body_of
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.apply import apply_all
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.runs.pieces.solids import piece_solid
from slow_ribbon.core.runs.treatments.joints import Joints, joints_along
from slow_ribbon.core.sections.document.section import Section, SectionBody
from slow_ribbon.core.sections.library import from_library, rectangle
from slow_ribbon.core.solve.solver import solve

read = TypeAdapter(AnyEdit).validate_python
BOARD = Section(id="S9", name="Board", outline=rectangle(20, 100), width=20, height=100)
#: What a square joint, a scarf and a socket add to the pieces before and after them, of a board 20 thick.
KINDS: dict[str, dict[str, Any]] = {"butt": {}, "scarf": {"slope": 4.0}, "socket": {"overlap": 40.0}}
figures = st.floats(-50, 200)
ways = st.fixed_dictionaries(
    {
        "made": st.sampled_from(list(KINDS)),
        "placed": st.sampled_from(["equal", "full", "waste"]),
        "bars": st.lists(st.floats(1500, 5000), min_size=1, max_size=3),
        "least": st.sampled_from([0.0, 300.0, 900.0]),
        "clear": st.sampled_from([0.0, 200.0]),
        "from_end": st.booleans(),
        "apart": st.sampled_from([50.0, 300.0]),
    }
)


def joints_of(way: Any) -> Joints:
    return Joints.model_validate({**way, **KINDS[way["made"]]})


def sawn(places: Any, length: float, before: float, after: float, joints: Joints) -> list[float]:
    here, there = joints.added(20)
    ends = [(-before, 0.0), *((place, 0.0) for place in places), (length + after, 0.0)]
    parts = [b - a for (a, _), (b, _) in pairwise(ends)]
    return [part + (there if k else 0.0) + (here if k < len(parts) - 1 else 0.0) for k, part in enumerate(parts)]


def good(places: Any, length: float, before: float, after: float, joints: Joints) -> bool:
    parts = sawn(places, length, before, after, joints)
    inside = all(joints.clear - 1e-6 <= place <= length - joints.clear + 1e-6 for place in places)
    return inside and all(max(joints.least, joints.clear) - 1e-6 <= part <= joints.longest + 1e-6 and part > 0 for part in parts)


@settings(max_examples=examples(600), deadline=None)
@given(st.floats(3000, 14_000), figures, figures, ways, st.lists(st.floats(1, 13_999), max_size=9, unique=True))
def test_joints_over_supports_are_the_best_of_all_there_could_be(
    length: float, before: float, after: float, way: Any, only: list[float]
) -> None:
    joints, only = joints_of(way), sorted(at for at in only if at < length)
    every = [some for count in range(1, 10) for some in combinations(only, count) if good(some, length, before, after, joints)]
    try:
        found = joints_along(length, before, after, joints, 20, only=only)
    except Refused:
        found = None
    if found is None:
        assert not every
        return
    if not found:
        assert length + before + after <= joints.longest + 1e-6
        return
    assert set(np.round(found, 6)) <= set(np.round(only, 6))
    assert good(found, length, before, after, joints)
    fewest = min(map(len, every))

    def left(places: Any) -> float:
        return sum(min(bar for bar in joints.bars if bar >= part - 1e-6) - part for part in sawn(places, length, before, after, joints))

    def spread(places: Any) -> float:
        return float(np.var(sawn(places, length, before, after, joints)))

    if joints.placed == "waste":
        assert left(found) <= min(map(left, every)) + 0.01
    else:
        assert len(found) == fewest
        few = [some for some in every if len(some) == fewest]
        if joints.placed == "equal":
            assert spread(found) <= min(map(spread, few)) + 1e-3
        else:
            in_order = (lambda some: tuple(length - at for at in reversed(some))) if joints.from_end else tuple
            assert in_order(found) == pytest.approx(max(map(in_order, few)))


@settings(max_examples=examples(1500), deadline=None)
@given(st.floats(3000, 30_000), figures, figures, ways, st.lists(st.floats(0, 30_000), max_size=12))
def test_joints_keep_off_from_others(length: float, before: float, after: float, way: Any, off: list[float]) -> None:
    joints = joints_of(way)
    try:
        plain = joints_along(length, before, after, joints, 20)
    except Refused:
        reject()
    try:
        found = joints_along(length, before, after, joints, 20, off=off)
    except Refused:
        found = None
    if found is None:
        # It is not said lightly: no way of this many parts, or one more, keeps off at a grid of places.
        assert off
        grid = [at for at in np.linspace(0, length, 13)[1:-1].tolist() if all(abs(at - other) >= joints.apart for other in off)]
        some = (one for count in (len(plain), len(plain) + 1) for one in combinations(grid, count))
        assert not any(good(one, length, before, after, joints) for one in some)
        return
    assert all(abs(at - other) >= joints.apart - 1e-6 for at in found for other in off)
    assert good(found, length, before, after, joints) or found == []
    if all(abs(at - other) >= joints.apart for at in plain for other in off):
        assert found == plain


def job_of(*edits: Any, length: float = 10_000) -> Job:
    job = Job(name="Wall", lines=(line([(0, 0, 0), (length, 0, 0)]),), sections=(BOARD,), last_number=9)
    return apply_all(job, [read(edit) for edit in edits]).job


def run(name: str, **joints: Any) -> Any:
    return {"kind": "add_runs", "section": "S9", "lines": ["L1"], "name": name, "joints": {"bars": [4200], **joints}}


def joints_in(job: Job, id: str) -> list[float]:
    return list(solve(job).runs[id].joints)


def test_a_second_rail_is_staggered_from_the_first_and_follows_it() -> None:
    job = job_of(run("Cornice"), run("Rail", off_from="R10", apart=500))
    first, second = joints_in(job, "R10"), joints_in(job, "R11")
    assert first == pytest.approx([10_000 / 3, 20_000 / 3])
    assert len(second) == 2
    assert min(abs(a - b) for a in first for b in second) == pytest.approx(500)
    # The first is jointed elsewhere, the line made longer, the second's way changed: they keep off again.
    for edit in (
        {"kind": "set_run", "run": "R10", "changes": {"joints": {"at": [2900, 6900]}}},
        {"kind": "move_vertex", "line": "L1", "point": 1, "to": [11_300, None, None]},
        {"kind": "set_run", "run": "R11", "changes": {"joints": {"placed": "full"}}},
        {"kind": "reverse_lines", "lines": ["L1"]},
    ):
        job = apply_all(job, [read(edit)]).job
        first, second = joints_in(job, "R10"), joints_in(job, "R11")
        assert min(abs(a - b) for a in first for b in second) >= 500 - 1e-6
        assert not [check for check in solve(job).runs["R11"].checks if check.kind in ("no-joints", "too-long")]
    with pytest.raises(Refused) as refused:
        apply_all(job, [read({"kind": "set_run", "run": "R10", "changes": {"joints": {"off_from": "R11"}}})])
    assert refused.value.code == "joints-circle"
    gone = apply_all(job, [read({"kind": "remove", "ids": ["R10"]})])
    joints = gone.job.run("R11").joints
    assert joints is not None
    assert joints.off_from is None
    assert "no longer keep off from other joints" in " ".join(gone.notices)


def test_joints_come_over_marks_openings_and_posts() -> None:
    marks = {"kind": "add_marks", "line": "L1", "marks": [{"name": f"Stud {at}", "at": at} for at in (400, 2100, 3900, 4100, 7300, 9900)]}
    openings = {
        "kind": "add_openings",
        "line": "L1",
        "openings": [{"name": "A", "at": 3000, "width": 900}, {"name": "B", "at": 6500, "width": 1000}],
    }
    spacing = {"rule": {"kind": "fixed-centres", "centres": 700}}
    posts = {
        "kind": "add_row",
        "row": {
            "name": "Posts",
            "line": "L1",
            "openings": "pass",
            "spacing": spacing,
            "item": {"kind": "box", "along": 60, "across": 60, "height": 900},
        },
    }
    job = job_of(marks, openings, run("Rail", over="marks", placed="full"))
    rail = next(one.id for one in job.runs)
    assert joints_in(apply_all(job, [read({"kind": "set_run", "run": rail, "changes": {"openings": "pass"}})]).job, rail) == [4100, 7300]
    over = {"kind": "set_run", "run": rail, "changes": {"openings": "pass", "joints": {"over": "openings"}}}
    assert joints_in(apply_all(job, [read(over)]).job, rail) == [3450, 7000]
    job = apply_all(job, [read(posts), read({"kind": "set_run", "run": rail, "changes": {"openings": "pass"}})]).job
    row = job.rows[0].id
    job = apply_all(job, [read({"kind": "set_run", "run": rail, "changes": {"joints": {"over": "items", "row": row}}})]).job
    assert joints_in(job, rail) == pytest.approx([4200, 8400])
    # They follow the posts; and where none are near enough it is reported, with what to do.
    wider = apply_all(job, [read({"kind": "set_row", "row": row, "changes": {"spacing": {"rule": {"centres": 1900}}}})]).job
    assert joints_in(wider, rail) == pytest.approx([3800, 7600])
    far = apply_all(job, [read({"kind": "set_row", "row": row, "changes": {"spacing": {"rule": {"centres": 4900}}}})]).job
    answer = [check for check in solve(far).runs[rail].checks if check.kind == "no-joints"]
    assert "over what they are to come over" in answer[0].what
    gone = apply_all(job, [read({"kind": "remove", "ids": [row]})])
    joints = gone.job.run(rail).joints
    assert joints is not None
    assert joints.over == "anywhere"
    with pytest.raises(Refused, match="choose the row"):
        apply_all(gone.job, [read({"kind": "set_run", "run": rail, "changes": {"joints": {"over": "items"}}})])


@settings(max_examples=examples(25), deadline=None)
@given(st.floats(2, 12), st.floats(4300, 12_000), st.booleans(), st.sampled_from(["dado-rail", "skirting-ogee", "handrail-moulded"]))
def test_scarfed_pieces_fit_one_another_without_overlap_or_gap(slope: float, length: float, from_end: bool, key: str) -> None:
    """Solids cut with solids (manifold3d): nothing in common, and together the whole length."""
    body = from_library(key)
    section = Section.model_validate({**SectionBody.model_validate(body.model_dump()).model_dump(), "id": "S9"})
    joints = {"made": "scarf", "slope": slope, "from_end": from_end}
    job = Job(name="Wall", lines=(line([(0, 0, 0), (length, 0, 0)]),), sections=(section,), last_number=9)
    cuts = solve(apply_all(job, [read(run("Rail", **joints))]).job).runs["R10"].cuts
    pieces = []
    for index in range(cuts.course.count):
        found = piece_solid(cuts, index, chord_height=0.02)
        pieces.append(body_of(found.vertices, found.faces))
    assert len(pieces) > 1
    whole = pieces[0]
    for before, piece in pairwise(pieces):
        assert piece.status() == manifold3d.Error.NoError
        assert (before ^ piece).volume() < 1e-6 * piece.volume()
        whole += piece
    stick = piece_solid(run_cuts(line([(0, 0, 0), (length, 0, 0)]), section), 0, chord_height=0.02)
    plain = body_of(stick.vertices, stick.faces)
    assert whole.volume() == pytest.approx(plain.volume(), rel=1e-6)
    assert (plain - whole).volume() < 1e-6 * plain.volume()
    # Each cut is at the slope: a scarf is this many times as long as the section is thick as it lies.
    thick = float(np.ptp(cuts.placed.thickness))
    added = np.array(cuts.long_points) - np.diff([0.0, *cuts.course.begins[1:], length])
    assert added[0] == pytest.approx(slope * thick / 2, abs=1e-6)
