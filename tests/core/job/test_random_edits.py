"""Any sequence of edits leaves a job that holds together, or is refused and leaves it alone."""

from __future__ import annotations

import json
import math
import pickle
from typing import Any

import numpy as np
import pytest
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st
from making import check_refusal
from pydantic import TypeAdapter, ValidationError

from slow_ribbon.core.cutting import cutting_list, schedule
from slow_ribbon.core.job.document.document import Job, check_job
from slow_ribbon.core.job.edits.apply import apply
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.job.job_file import job_from_text, job_to_text
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.sections.library import library
from slow_ribbon.core.solve import Solver, solve, typicals_of
from slow_ribbon.demo import ferry_house
from slow_ribbon.exports.csv import cutting_csv

read = TypeAdapter(AnyEdit).validate_python

places = st.integers(-20, 20).map(lambda step: step * 250.0)
points = st.tuples(places, places, st.sampled_from([0.0, 0.0, 0.0, 900.0]))
ids = st.integers(0, 24).map(lambda number: "LSRI"[number % 4] + str(number))
parts = st.integers(1, 24).map(lambda number: "OM"[number % 2] + str(number))
lines = st.integers(1, 24).map(lambda number: f"L{number}")
facings = st.one_of(
    st.sampled_from([{"kind": "left"}, {"kind": "right"}]), st.builds(lambda point: {"kind": "toward", "point": point}, points)
)


def edit(kind: str, **fields: st.SearchStrategy[Any]) -> st.SearchStrategy[dict[str, Any]]:
    return st.fixed_dictionaries({"kind": st.just(kind), **fields})


def body(corners: list[tuple[float, float, float]], closed: bool) -> dict[str, Any]:
    ends = [*corners[1:], corners[0]] if closed else corners[1:]
    return {"name": "Line", "start": corners[0], "legs": [{"kind": "straight", "to": end} for end in ends], "closed": closed}


spacings = st.fixed_dictionaries(
    {
        "rule": st.one_of(
            st.builds(lambda most: {"kind": "equal-bays", "most": most}, st.floats(40, 3000)),
            st.builds(
                lambda centres, origin: {"kind": "fixed-centres", "centres": centres, "origin": origin},
                st.floats(40, 3000),
                st.sampled_from(["start", "centred", "end"]),
            ),
            st.builds(lambda number: {"kind": "set-number", "number": number}, st.integers(1, 60)),
            st.builds(lambda gap: {"kind": "clear-gap", "gap": gap}, st.floats(20, 400)),
        ),
        "measured": st.sampled_from(["along", "plan", "chord"]),
        "inset_start": st.sampled_from([0.0, 50.0, 900.0]),
        "first": st.booleans(),
        "corners": st.sampled_from(["carry", "restart"]),
    }
)
lengths = st.floats(0, 12_000)
texts = st.sampled_from(["900", "a + 300", "b * 2", "a", "0 - a", "1.2 m"])
fields = st.sampled_from(["points.1.0", "openings.0.at", "placing.lift", "width", "spacing.rule.most", "item.height"])
marks = st.fixed_dictionaries({"name": st.sampled_from("ABC"), "at": lengths})
measures = st.fixed_dictionaries({"name": st.sampled_from(["a", "b"]), "text": texts})
openings = st.fixed_dictionaries({"name": st.sampled_from("DE"), "at": lengths, "width": st.floats(50, 2000)})
legs = st.one_of(
    st.builds(lambda to, via: {"kind": "arc", "to": to, "via": via}, points, points),
    st.builds(lambda to, at: {"kind": "through", "to": to, "points": [{"at": one} for one in at]}, points, st.lists(points, max_size=3)),
    st.builds(lambda to, at: {"kind": "curve", "to": to, "controls": at}, points, st.lists(points, min_size=1, max_size=4)),
    st.builds(lambda to, sag: {"kind": "cord", "to": to, "sag": sag}, points, st.floats(20, 3000)),
)
made = st.one_of(
    st.builds(lambda line, distance: {"kind": "offset", "line": line, "distance": distance}, lines, st.floats(-600, 600)),
    st.builds(lambda one, other: {"kind": "midway", "lines": [one, other]}, lines, lines),
    st.builds(
        lambda text: {"kind": "walk", "text": text},
        st.sampled_from(["a, right 90, b, home", "3000, arc left 90 radius 500, 900", "up 900, 2 m"]),
    ),
)
typicals = st.integers(1, 24).map(lambda number: f"T{number}")
spots = st.lists(st.integers(1, 30).map(lambda number: f"W{number}"), min_size=1, max_size=2, unique=True)
own = st.lists(st.fixed_dictionaries({"name": st.sampled_from(["a", "b"]), "length": lengths}), max_size=1)
stands = st.fixed_dictionaries(
    {
        "name": st.sampled_from(["X", "Y", "Z 1"]),
        "at": points,
        "turn": st.sampled_from([0.0, 90.0, -33.0]),
        "mirrored": st.booleans(),
        "own": own,
    }
)
laid = st.one_of(
    st.none(),
    st.builds(lambda n, by: {"kind": "grid", "counts": [n, 1, 2], "centres": [by, 0, 3000]}, st.integers(1, 4), st.floats(-3000, 3000)),
    st.builds(lambda line, by: {"kind": "along", "line": line, "centres": by, "count": 3}, lines, st.floats(100, 3000)),
)
typical = st.fixed_dictionaries(
    {
        "name": st.just("Bay"),
        "lines": st.lists(lines, min_size=1, max_size=2, unique=True),
        "places": st.lists(stands, max_size=2),
        "laid": laid,
    }
)
runs = st.integers(1, 24).map(lambda number: f"R{number}")
ends = st.one_of(
    st.sampled_from(
        [
            {"kind": "square", "past": -20.0}, {"kind": "angled", "turn": 20.0}, {"kind": "plumb"}, {"kind": "level"},
            {"kind": "returned", "deep": 40.0}, {"kind": "rounded", "radius": 4.0}, {"kind": "posted"}, {"kind": "capped", "cap": "Cap"},
        ]
    ),
    st.builds(lambda to: {"kind": "scribed", "to": to}, runs),
    st.builds(lambda to: {"kind": "scribed", "to": to}, runs),
)  # fmt: skip
joints = st.one_of(
    st.none(),
    st.builds(
        lambda made, bar, over, off: {"made": made, "bars": [bar], "over": over, "off_from": off},
        st.sampled_from(["butt", "scarf", "socket"]), st.floats(600, 4000), st.sampled_from(["anywhere", "marks"]),
        st.one_of(st.none(), runs),
    ),
    st.builds(lambda row: {"bars": [2000.0], "over": "items", "row": row}, st.integers(1, 24).map(lambda number: f"I{number}")),
)  # fmt: skip
corners = st.sampled_from(
    [
        {"kind": "cope"}, {"kind": "butt"}, {"kind": "gap"}, {"kind": "block", "size": 60.0, "proud": 5.0}, {"kind": "transition"},
        {"kind": "squared"}, {"kind": "mitre", "beside_curves": "true"}, {"kind": "mitre", "raked": "members"},
    ]
)  # fmt: skip
curves = st.sampled_from(
    [{"kind": "faceted", "number": 3}, {"kind": "faceted", "number": 4, "fit": "fitted"}, {"kind": "sawn", "board": 300.0}]
)
settings_of_runs = st.one_of(
    st.fixed_dictionaries({"last_end": ends}),
    st.fixed_dictionaries({"first_end": ends, "opening_ends": ends}),
    st.fixed_dictionaries({"joints": joints}),
    st.fixed_dictionaries({"corners": corners}),
    st.fixed_dictionaries({"curves": curves}),
)
edits = st.one_of(
    edit("set_run", run=runs, changes=settings_of_runs),
    edit("set_run", run=runs, changes=settings_of_runs),
    edit("add_typical", typical=typical),
    edit("add_typical", typical=typical),
    edit("set_typical", typical=typicals, changes=st.fixed_dictionaries({"base": points, "laid": laid})),
    edit("add_places", typical=typicals, places=st.lists(stands, min_size=1, max_size=2)),
    edit("set_places", typical=typicals, places=spots, changes=st.fixed_dictionaries({"turn": st.floats(-180, 180), "own": own})),
    edit("cut_loose", typical=typicals, places=spots),
    edit("add_lines", lines=st.lists(st.builds(body, st.lists(points, min_size=2, max_size=6), st.booleans()), min_size=1, max_size=2)),
    edit("move_vertex", line=lines, point=st.integers(0, 6), to=points),
    edit("insert_vertex", line=lines, after=st.integers(0, 6), at=points),
    edit("remove_vertex", line=lines, point=st.integers(0, 6)),
    edit("set_closed", line=lines, closed=st.booleans()),
    edit("set_line", line=lines, changes=st.sampled_from([{"frame": "upright"}, {"frame": "carried"}, {"frame": "auto"}, {"wall": None}])),
    edit("add_section", section=st.sampled_from([entry.section.model_dump() for entry in library()])),
    edit(
        "set_section",
        section=ids,
        changes=st.sampled_from([{"width": 30.0}, {"height": 500.0}, {"wall": 2.0}, {"bed": {"kind": "edge", "edge": 2}}]),
    ),
    edit(
        "add_runs",
        section=ids,
        lines=st.lists(lines, min_size=1, max_size=2, unique=True),
        placing=st.fixed_dictionaries({"facing": facings, "roll": st.sampled_from([0.0, 30.0, -90.0]), "lift": places}),
    ),
    edit("set_placing", runs=st.lists(ids, min_size=1, max_size=2), changes=st.fixed_dictionaries({"facing": facings})),
    edit(
        "add_row",
        row=st.fixed_dictionaries(
            {
                "name": st.just("Posts"),
                "line": lines,
                "spacing": spacings,
                "item": st.just({"kind": "round", "diameter": 60, "height": 900}),
            }
        ),
    ),
    edit("set_row", row=ids, changes=st.fixed_dictionaries({"spacing": spacings})),
    edit("bend_leg", line=lines, leg=st.integers(0, 5), radius=st.floats(200, 9000), side=st.sampled_from(["left", "right"])),
    edit("set_leg", line=lines, leg=st.integers(0, 5), changes=legs),
    edit("turn_leg", line=lines, leg=st.integers(0, 5), turn=st.sampled_from([90.0, -200.0, 720.0])),
    edit("make_tangent", line=lines, leg=st.integers(0, 5)),
    edit("round_corners", line=lines, points=st.none() | st.lists(st.integers(0, 5), max_size=2), radius=st.none() | st.floats(5, 900)),
    edit("add_openings", line=lines, openings=st.lists(openings, min_size=1, max_size=2)),
    edit("set_opening", line=lines, opening=parts, changes=st.fixed_dictionaries({"at": lengths})),
    edit("remove_openings", line=lines, openings=st.lists(parts, min_size=1, max_size=2)),
    edit(
        "add_marks",
        line=lines,
        marks=st.lists(st.fixed_dictionaries({"name": st.sampled_from("ABC"), "at": lengths}), min_size=1, max_size=2),
    ),
    edit("remove_marks", line=lines, marks=st.lists(parts, min_size=1, max_size=2)),
    edit("shape_leg", line=lines, leg=st.integers(0, 5), point=st.integers(0, 2), to=st.tuples(places, st.none(), st.none())),
    edit("split_line", line=lines, at=lengths),
    edit("join_lines", lines=st.lists(lines, min_size=2, max_size=3), tolerance=st.sampled_from([1.0, 500.0])),
    edit("reverse_lines", lines=st.lists(lines, min_size=1, max_size=2)),
    edit("start_line_at", line=lines, at=lengths),
    edit("add_made", name=st.just("Made"), made=made, follows=st.booleans()),
    edit("mirror_lines", lines=st.lists(lines, min_size=1, max_size=2), a=points, b=points, copies=st.booleans()),
    edit("copy_lines", lines=st.lists(lines, min_size=1, max_size=2), by=points, turn=st.floats(-180, 180), copies=st.booleans()),
    edit("simplify_lines", lines=st.lists(lines, min_size=1, max_size=2), tolerance=st.floats(0.1, 900)),
    edit("add_region", name=st.just("Region"), point=st.tuples(places, places)),
    edit(
        "set_measures",
        measures=st.lists(st.fixed_dictionaries({"name": st.sampled_from(["a", "b"]), "text": texts}), min_size=1, max_size=2),
    ),
    edit("bind", formula=st.fixed_dictionaries({"thing": ids, "field": fields, "text": texts})),
    edit("set_group", ids=st.lists(ids, min_size=1, max_size=3), group=st.sampled_from(["Hall", ""])),
    edit("remove", ids=st.lists(ids, min_size=1, max_size=2), with_dependents=st.booleans()),
)


@settings(max_examples=examples(35))
@given(st.sampled_from(["empty", "demo"]), st.lists(edits, max_size=14))
def test_any_edits_leave_a_job_that_holds_together(begin: str, sequence: list[dict[str, Any]]) -> None:
    job, solver, solved = Job(name="Any") if begin == "empty" else ferry_house(), Solver(), None
    for plain in sequence:
        wanted = read(plain)
        # It may be made in another process, where it is too heavy for this one.
        assert pickle.loads(pickle.dumps(wanted)) == wanted
        before = job.model_dump_json()
        try:
            answer, changed = wanted.describe(job), apply(job, wanted)
        except Refused as refused:
            check_refusal(refused)
            assert job.model_dump_json() == before
            continue
        assert answer
        by_itself = wanted.apply(job)
        assert {name for name in Job.model_fields if getattr(by_itself, name) != getattr(job, name)} <= {*wanted.touches, "last_number"}
        job = changed
        check_job(job)
        solved = solver.solve(job, solved)
        for run in solved.runs.values():
            assert np.isfinite(run.cuts.long_points).all()
            assert np.isfinite(run.surface().vertices).all()
        assert sum(row.quantity for row in cutting_list(solved)) == schedule(solved).job.pieces
    # What was remembered from edit to edit is what solving from nothing gives, and the file brings it all back.
    opened = job_from_text(job_to_text(job))
    assert opened == job
    fresh, kept = solve(opened), solver.solve(job, solved)
    for id, run in fresh.runs.items():
        assert kept.runs[id].key == run.key
        assert kept.runs[id].checks == run.checks
        assert (kept.runs[id].cuts.long_points == run.cuts.long_points).all()
    for id, row in fresh.rows.items():
        assert (kept.rows[id].out.positions == row.out.positions).all()
    assert [typical.key for typical in typicals_of(fresh)] == [typical.key for typical in typicals_of(kept)]
    assert cutting_csv(fresh) == cutting_csv(kept)


DEMO = json.loads(job_to_text(ferry_house()))


def mutated(data: Any, draw: Any) -> Any:
    """Return plain data with one place in it changed to something else."""
    strange = [None, "", "x", -1, 0, 1e300, [], {}, True, math.pi, "L1", ["L1"], {"kind": "arc"}]
    if isinstance(data, dict) and data and draw(st.integers(0, 6)):
        key = draw(st.sampled_from(sorted(data)))
        if draw(st.integers(0, 9)) == 0:
            return {name: value for name, value in data.items() if name != key}
        return {**data, key: mutated(data[key], draw)}
    if isinstance(data, list) and data and draw(st.integers(0, 6)):
        at = draw(st.integers(0, len(data) - 1))
        return [*data[:at], mutated(data[at], draw), *data[at + 1 :]]
    return draw(st.sampled_from(strange))


@settings(max_examples=examples(300))
@given(st.data())
def test_mutilated_job_files_are_opened_or_refused_at_a_place(data: Any) -> None:
    plain = mutated(DEMO, data.draw)
    try:
        job = job_from_text(json.dumps(plain))
    except Refused as refused:
        check_refusal(refused)
        return
    solve(job)


@pytest.mark.parametrize("kind", ["move_vertex", "set_placing", "add_row", "remove", "add_section"])
def test_edits_with_unknown_fields_are_refused(kind: str) -> None:
    with pytest.raises(ValidationError):
        read({"kind": kind, "colour": "blue"})
