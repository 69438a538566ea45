"""What refers to a part of a line still means it after the line was worked on; turning a line round moves nothing."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from examples import examples
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from making import bent_lines, line, polygons
from pydantic import TypeAdapter

from slow_ribbon.core.job.document.document import Job, check_job
from slow_ribbon.core.job.edits.apply import apply_all
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.placement.run import run_course
from slow_ribbon.core.sections.document.section import Section
from slow_ribbon.core.sections.library import from_library
from slow_ribbon.core.solve.solver import solve

read = TypeAdapter(AnyEdit).validate_python


def edited(job: Job, *edits: dict[str, Any]) -> Job:
    return apply_all(job, [read(edit) for edit in edits], confirmed=True).job


def job_with(*lines: Line, key: str = "skirting-chamfered") -> Job:
    """A job of lines and one section, S9."""
    body = from_library(key)
    section = Section(id="S9", **{name: getattr(body, name) for name in type(body).model_fields})
    numbered = tuple(one.model_copy(update={"id": f"L{number}", "name": f"line {number}"}) for number, one in enumerate(lines, 1))
    return Job(name="job", lines=numbered, sections=(section,), last_number=20)


def figures(job: Job) -> tuple[Any, ...]:
    """All that a workshop is given, whichever way a line was drawn: pieces with both their ends, items, checks."""
    solved = solve(job)
    pieces = []
    for run in solved.runs.values():
        cuts: Cuts = run.cuts
        for i in range(cuts.course.count):
            ends = sorted([tuple(np.abs(np.round((run.mitres[i, k], run.bevels[i, k]), 5))) for k in (0, 1)])
            pieces.append((run.id, *np.round((cuts.long_points[i], cuts.short_points[i], cuts.volumes[i] / 1e3), 3), *ends))
    counts = sorted((row.id, len(row.out.chainages)) for row in solved.rows.values())
    return sorted(pieces), counts, sorted(check.kind for check in solved.checks())


def substance(job: Job) -> tuple[list[Array], list[Array]]:
    """Where everything is: the corners of every run's solid and the places of every row's items, sorted."""
    solved = solve(job)
    runs = []
    for run in solved.runs.values():
        cuts = run.cuts
        points = cuts.placed.points(cuts.placed.shape.flat().points)
        both = [cuts.images(i, points, end) for i in range(cuts.course.count) for end in (False, True)]
        runs.append(in_order(np.concatenate(both)))
    return runs, [in_order(row.out.positions) for row in solved.rows.values()]


def in_order(points: Array) -> Array:
    kept = np.round(points, 4) + 0.0
    return np.asarray(points[np.lexsort(kept.T)])


def same_places(one: Array, other: Array, within: float = 2e-5) -> bool:
    """Return whether two sets of points are the same, in whatever order."""
    if one.shape != other.shape:
        return False
    from scipy.spatial import cKDTree

    if not len(one):
        return True
    there, back = cKDTree(other).query(one)[0], cKDTree(one).query(other)[0]
    return float(max(np.max(there), np.max(back))) < within


spacings = st.fixed_dictionaries(
    {
        "rule": st.one_of(
            st.fixed_dictionaries({"kind": st.just("equal-bays"), "most": st.floats(300, 1500)}),
            st.fixed_dictionaries(
                {"kind": st.just("fixed-centres"), "centres": st.floats(300, 1500), "origin": st.sampled_from(["start", "centred", "end"])}
            ),
            st.fixed_dictionaries({"kind": st.just("nearest-bays"), "near": st.floats(300, 1500)}),
            st.fixed_dictionaries({"kind": st.just("set-number"), "number": st.integers(1, 9)}),
            st.fixed_dictionaries({"kind": st.just("clear-gap"), "gap": st.floats(150, 900)}),
        ),
        "measured": st.sampled_from(["along", "plan"]),
        "inset_start": st.sampled_from([0, 40, 150]),
        "inset_end": st.sampled_from([0, 90]),
        "first": st.booleans(),
        "last": st.booleans(),
        "corners": st.sampled_from(["carry", "restart"]),
    }
)
rows = st.fixed_dictionaries(
    {
        "name": st.just("Posts"),
        "line": st.just("L1"),
        "spacing": spacings,
        "item": st.just({"kind": "box", "along": 60, "across": 90, "height": 900}),
        "seat": st.fixed_dictionaries({"along": st.sampled_from([0, 15]), "across": st.sampled_from([0, -25])}),
        "turn": st.sampled_from([{"kind": "line"}, {"kind": "bearing", "bearing": 25}]),
        "stand_off": st.sampled_from([0, 120]),
    }
)
placings = st.fixed_dictionaries(
    {
        "facing": st.sampled_from([{"kind": "left"}, {"kind": "right"}, {"kind": "toward", "point": [900, 700, 0]}]),
        "hand": st.sampled_from(["left", "right"]),
        "roll": st.sampled_from([0, 12, -80]),
        "stand_off": st.sampled_from([0, 30]),
        "lift": st.sampled_from([0, 45]),
    }
)
closed_lines = polygons(4, 7).map(lambda points: line(points, True))
tilted = st.tuples(polygons(4, 6), st.lists(st.floats(-300, 900), min_size=6, max_size=6)).map(
    lambda both: line(np.column_stack([both[0], both[1][: len(both[0])]])).model_copy(update={"frame": "carried"})
)


CORNERS = [
    {"kind": "mitre"},
    *({"kind": "butt", "through": piece} for piece in ("before", "after")),
    *({"kind": "cope", "coped": piece} for piece in ("before", "after")),
]


@settings(max_examples=examples(30))
@given(st.one_of(bent_lines(), closed_lines, tilted), placings, rows, st.booleans(), st.sampled_from(CORNERS))
def test_reversing_a_line_changes_no_figure_and_moves_nothing(path: Line, placing: Any, row: Any, door: bool, corners: Any) -> None:
    job = job_with(path.model_copy(update={"wall": {"height": 2400, "thickness": 100, "side": "left"}}).model_validate(path.model_dump()))
    length = course_of(job.lines[0]).length
    edits: list[dict[str, Any]] = [
        {"kind": "add_runs", "section": "S9", "lines": ["L1"], "placing": placing, "corners": corners},
        {"kind": "add_row", "row": row},
    ]
    if door:
        edits.insert(0, {"kind": "add_openings", "line": "L1", "openings": [{"name": "D", "at": length * 0.31, "width": length * 0.07}]})
    try:
        job = edited(job, *edits)
    except Refused:
        assume(False)
    # A leg that doubles back, or a piece that is swallowed, has no solid to compare.
    assume(not any(check.kind in ("folded", "swallowed", "pinched", "twisted") for check in solve(job).checks()))
    back = edited(job, {"kind": "reverse_lines", "lines": ["L1"]})
    check_job(back)
    assert figures(back)[1:] == figures(job)[1:]
    for one, other in zip(figures(job)[0], figures(back)[0], strict=True):
        assert one[0] == other[0]
        assert np.array(one[1:4]) == pytest.approx(np.array(other[1:4]), abs=2e-3)
    for ours, theirs in zip((*substance(job)[0], *substance(job)[1]), (*substance(back)[0], *substance(back)[1]), strict=True):
        assert same_places(ours, theirs)
    again = edited(back, {"kind": "reverse_lines", "lines": ["L1"]})
    assert again.runs == job.runs
    assert again.rows == job.rows


def test_what_follows_a_reversed_line_stays_too() -> None:
    job = job_with(line([(0, 0), (4000, 0), (4000, 3000)]).model_copy(update={"wall": None}))
    job = edited(
        job,
        {"kind": "set_line", "line": "L1", "changes": {"wall": {"height": 2400, "thickness": 100, "side": "left"}}},
        {"kind": "add_made", "name": "beside", "made": {"kind": "offset", "line": "L1", "distance": 250}},
        {"kind": "add_runs", "section": "S9", "lines": ["L21"], "placing": {"facing": {"kind": "left"}}},
        {"kind": "add_row", "row": {"name": "P", "line": "L21", "item": {"kind": "round", "diameter": 60, "height": 9},
            "spacing": {"rule": {"kind": "fixed-centres", "centres": 700}}, "stand_off": 40}},
    )  # fmt: skip
    back = edited(job, {"kind": "reverse_lines", "lines": ["L1"]})
    assert back.line("L21").made is not None
    assert back.line("L1").wall.side == "right"  # type: ignore[union-attr]  # it has one
    for ours, theirs in zip((*substance(job)[0], *substance(job)[1]), (*substance(back)[0], *substance(back)[1]), strict=True):
        assert same_places(ours, theirs)


def covered(job: Job, run: str = "R") -> Array:
    """Places every 10 mm along what the runs whose tags begin alike cover, (n, 3)."""
    found = []
    for one in job.runs:
        course = run_course(one, job.line(one.line))
        for i in range(course.count):
            s = np.arange(5.0, float(course.lengths[i]), 10.0)
            path = course.paths.get(i)
            found.append(path.at(s).points if path else course.starts[i] + np.outer(s, course.tangents[i]))
    return np.concatenate(found) if found else np.zeros((0, 3))


def within(one: Array, other: Array) -> bool:
    """Return whether all places of one lie on the other, which is checked every 10 mm."""
    from scipy.spatial import cKDTree

    return not len(one) or bool(np.max(cKDTree(other).query(one)[0]) < 10.01)


@pytest.mark.parametrize("at", [3100, 8000, 8700, 2400])
def test_a_closed_line_that_opens_beside_an_opening_keeps_its_stretches(at: float) -> None:
    """The opening comes to lie at the line's other end, and bounds its stretch there no more."""
    job = job_with(line([(0, 0), (6000, 0), (6000, 4000), (0, 4000)], True))
    doors = [{"name": f"D{n}", "at": chainage, "width": 700} for n, chainage in enumerate((2400, 8000, 13200))]
    job = edited(job, {"kind": "add_openings", "line": "L1", "openings": doors})
    first, second, _ = (opening.id for opening in job.line("L1").openings)
    job = edited(job, {"kind": "add_runs", "section": "S9", "lines": ["L1"], "stretches": [{"after": first, "before": second}]})
    before = covered(job)
    after = covered(edited(job, {"kind": "split_line", "line": "L1", "at": at}))
    assert within(before, after)
    assert within(after, before)


@given(st.data(), st.booleans())
def test_a_run_kept_to_stretches_stays_there_whatever_is_done_to_its_line(data: st.DataObject, closed: bool) -> None:
    path = line([(0, 0), (6000, 0), (6000, 4000), (0, 4000)], closed)
    job = job_with(path)
    length = course_of(path).length
    doors = [{"name": f"D{n}", "at": length * share, "width": 700} for n, share in enumerate((0.12, 0.4, 0.66, 0.9 if closed else 0.85))]
    job = edited(job, {"kind": "add_openings", "line": "L1", "openings": doors})
    from slow_ribbon.core.runs.placement.stretches import stretches_between

    stretches = [one.between.model_dump() for one in stretches_between(job.line("L1"), length)]
    kept = data.draw(st.lists(st.sampled_from(stretches), min_size=1, max_size=3, unique_by=str))
    job = edited(job, {"kind": "add_runs", "section": "S9", "lines": ["L1"], "stretches": kept})
    before = covered(job)
    for _ in range(data.draw(st.integers(1, 4))):
        target = data.draw(st.sampled_from([one.id for one in job.lines]))
        here = job.line(target)
        size = course_of(here).length
        at = size * data.draw(st.floats(0.02, 0.98))
        way = data.draw(st.sampled_from(["reverse", "start", "split", "join", "rename", "move"]))
        edit: dict[str, Any] = {"kind": "reverse_lines", "lines": [target]}
        if way == "start" and here.closed:
            edit = {"kind": "start_line_at", "line": target, "at": at}
        elif way == "split":
            edit = {"kind": "split_line", "line": target, "at": at}
        elif way == "join" and len(job.lines) > 1:
            edit = {
                "kind": "join_lines",
                "lines": data.draw(st.permutations([one.id for one in job.lines if not one.closed])),
                "tolerance": 1,
            }
        elif way == "move" and here.openings:
            opening = data.draw(st.sampled_from(here.openings))
            edit = {"kind": "set_opening", "line": target, "opening": opening.id, "changes": {"name": f"N{data.draw(st.integers(0, 99))}"}}
        try:
            job = edited(job, edit)
        except Refused:
            continue
        check_job(job)
        after = covered(job)
        # At a split and at a join the places every 10 mm begin again, and each end has one.
        assert within(before, after)
        assert within(after, before), edit


@given(st.data())
def test_a_door_put_in_or_taken_out_leaves_a_run_on_its_stretch(data: st.DataObject) -> None:
    job = job_with(line([(0, 0), (10_000, 0)]))
    doors = [{"name": f"D{n}", "at": at, "width": 800} for n, at in enumerate((2000, 5000, 8000))]
    job = edited(job, {"kind": "add_openings", "line": "L1", "openings": doors})
    after, before = job.line("L1").openings[0].id, job.line("L1").openings[1].id
    job = edited(job, {"kind": "add_runs", "section": "S9", "lines": ["L1"], "stretches": [{"after": after, "before": before}]})
    assert covered(job)[:, 0].min() > 2800
    at = data.draw(st.floats(0, 9500))
    new = {"name": "new", "at": at, "width": 300}
    try:
        more = edited(job, {"kind": "add_openings", "line": "L1", "openings": [new]})
    except Refused:
        assume(False)
    stays = covered(job)[:, 0]
    inside = (stays > at - 11) & (stays < at + 311)
    assert within(covered(job)[~inside], covered(more))
    assert within(covered(more), covered(job))
    gone = data.draw(st.sampled_from(job.line("L1").openings))
    fewer = edited(job, {"kind": "remove_openings", "line": "L1", "openings": [gone.id]})
    # What it was kept to it still is; where a door beside it has gone, the stretch has grown.
    assert within(covered(job), covered(fewer))
    reach = covered(fewer)[:, 0]
    assert (reach.min() < 2000) == (gone.id == after)
    assert (reach.max() > 5000) == (gone.id == before)


def test_rows_between_marks_and_formulas_mean_the_same_places_afterwards() -> None:
    job = job_with(line([(0, 0), (6000, 0), (6000, 4000)]), line([(12_000, 4000), (6000, 4000)]))
    job = edited(
        job,
        {"kind": "set_measures", "measures": [{"name": "door", "text": "900"}]},
        {
            "kind": "add_openings",
            "line": "L1",
            "openings": [{"name": "A", "at": 500, "width": 700}, {"name": "B", "at": 2000, "width": 600}],
        },
        {"kind": "add_marks", "line": "L1", "marks": [{"name": "m", "at": 3000}, {"name": "n", "at": 8000}]},
    )
    b = job.line("L1").openings[1].id
    m, n = (mark.id for mark in job.line("L1").marks)
    row = {
        "name": "P",
        "line": "L1",
        "item": {"kind": "round", "diameter": 60, "height": 9},
        "spacing": {"rule": {"kind": "equal-bays", "most": 700}},
    }
    job = edited(
        job,
        {"kind": "bind", "formula": {"thing": "L1", "field": f"openings.{b}.width", "text": "door - 300"}},
        {"kind": "bind", "formula": {"thing": "L1", "field": "points.2.1", "text": "door + 3100"}},
        {"kind": "add_row", "row": {**row, "from_mark": m, "to_mark": n}},
    )
    places = substance(job)[1][0]
    for edit in (
        {"kind": "set_mark", "line": "L1", "mark": m, "changes": {"name": "renamed"}},
        {"kind": "reverse_lines", "lines": ["L1"]},
        {"kind": "insert_vertex", "line": "L1", "after": 1, "at": (3000, 0, 0)},
        {"kind": "join_lines", "lines": ["L1", "L2"], "tolerance": 1},
        {"kind": "remove_openings", "line": "L1", "openings": [job.line("L1").openings[0].id]},
    ):
        job = edited(job, edit)
        assert same_places(substance(job)[1][0], places), edit
        assert len(job.formulas) == 2, edit
    wider = edited(job, {"kind": "set_measures", "measures": [{"name": "door", "text": "1000"}]})
    assert [opening.width for opening in wider.line("L1").openings] == [700]
    assert (6000, 4100, 0) in [wider.line("L1").start, *(leg.to for leg in wider.line("L1").legs)]
    with pytest.raises(Refused, match="set out from or to"):
        edited(job, {"kind": "remove_marks", "line": "L1", "marks": [m]})


@given(polygons(4, 7), st.sampled_from(["left", "right", "toward"]), st.floats(0, 180))
def test_mirrored_in_place_a_run_inside_the_room_stays_inside(points: Array, side: str, degrees: float) -> None:
    job = job_with(line(points, True))
    facing = {"kind": side, "point": [10, 20, 0]} if side == "toward" else {"kind": side}
    job = edited(
        job,
        {"kind": "set_line", "line": "L1", "changes": {"wall": {"height": 2400, "thickness": 100, "side": "left"}}},
        {"kind": "add_runs", "section": "S9", "lines": ["L1"], "placing": {"facing": facing, "roll": 7}},
    )
    b = [1000 * math.cos(math.radians(degrees)), 1000 * math.sin(math.radians(degrees)), 0]
    there = edited(job, {"kind": "mirror_lines", "lines": ["L1"], "a": [0, 0, 0], "b": b, "copies": False})
    along = np.array(b) / 1000
    mirror = 2 * np.outer(along, along) - np.diag([1.0, 1.0, -1.0])
    assert same_places(substance(there)[0][0], in_order(substance(job)[0][0] @ mirror.T), within=1e-4)
    assert there.line("L1").wall.side == "right"  # type: ignore[union-attr]  # it has one
    moved = edited(job, {"kind": "copy_lines", "lines": ["L1"], "by": [50_000, -3000, 0], "copies": False})
    assert same_places(substance(moved)[0][0], in_order(substance(job)[0][0] + (50_000, -3000, 0)), within=1e-4)
