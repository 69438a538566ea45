"""Edits and job files: what they change, what they refuse, and that nothing else moves."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from pathlib import Path

import pytest
from pydantic import TypeAdapter, ValidationError

from slow_ribbon.core.cutting import cutting_list, schedule
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.labels import free_tag, tagged_things
from slow_ribbon.core.job.edits.apply import apply, apply_all
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.job.job_file import job_from_data, job_from_text, job_to_text
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.sections.document.section import SectionBody
from slow_ribbon.core.solve import standing_runs
from slow_ribbon.core.solve.results import Difference
from slow_ribbon.core.solve.solver import Solver, solve
from slow_ribbon.demo import ferry_house

ROOT = Path(__file__).parents[3]
read = TypeAdapter(AnyEdit).validate_python


def edited(job: Job, *edits: Mapping[str, object], confirmed: bool = False) -> Job:
    return apply_all(job, [read(edit) for edit in edits], confirmed).job


def refusal(job: Job, edit: Mapping[str, object]) -> Refused:
    before = job.model_dump()
    with pytest.raises(Refused) as caught:
        apply(job, read(edit))
    assert job.model_dump() == before
    return caught.value


def test_points_move_go_in_and_come_out() -> None:
    job = ferry_house()
    count = len(job.line("L4").points())
    moved = edited(job, {"kind": "move_vertex", "line": "L4", "point": 1, "to": (2600, -9500, 0)})
    assert moved.line("L4").points()[1].tolist() == [2600, -9500, 0]
    assert moved.line("L3") is job.line("L3")
    longer = edited(moved, {"kind": "insert_vertex", "line": "L4", "after": count - 1, "at": (24000, 0, 0)})
    assert len(longer.line("L4").points()) == count + 1
    back = edited(longer, {"kind": "remove_vertex", "line": "L4", "point": count})
    assert (back.line("L4").legs, back.line("L4").point_ids) == (moved.line("L4").legs, tuple(range(count)))
    opened = edited(job, {"kind": "set_closed", "line": "L3", "closed": False})
    assert len(opened.line("L3").legs) == len(job.line("L3").legs)
    closed = edited(job, {"kind": "move_vertex", "line": "L3", "point": 0, "to": (-100, 0, 0)})
    assert closed.line("L3").legs[-1].to == closed.line("L3").start == (-100, 0, 0)


def test_edits_that_cannot_be_made_are_refused_at_their_place() -> None:
    job = ferry_house()
    assert refusal(job, {"kind": "move_vertex", "line": "L99", "point": 0, "to": (0, 0, 0)}).code == "unknown-id"
    assert refusal(job, {"kind": "move_vertex", "line": "L4", "point": 50, "to": (0, 0, 0)}).where == "point"
    assert refusal(job, {"kind": "move_vertex", "line": "L4", "point": 1, "to": (-5200, -7200, 0)}).code == "leg-zero"
    assert refusal(job, {"kind": "remove", "ids": ["L4"]}).code == "in-use"
    assert refusal(job, {"kind": "remove", "ids": ["S999"]}).code == "unknown-id"
    assert refusal(job, {"kind": "set_run", "run": "R12", "changes": {"tag": "C"}}).code == "tag-twice"
    assert refusal(job, {"kind": "set_run", "run": "R12", "changes": {"section": None}}).code == "null"
    assert refusal(job, {"kind": "set_row", "row": "I20", "changes": {"spacing": many(0.2)}}).code == "confirm-many"
    assert refusal(job, {"kind": "add_lines", "lines": [job.lines[0].model_dump(exclude={"id"})], "origin": (1000, 0, 0)}).code == "origin"


def many(centres: float) -> dict[str, object]:
    return {"rule": {"kind": "fixed-centres", "centres": centres}}


def test_a_hundred_thousand_items_are_asked_about_first_and_two_million_are_too_many() -> None:
    job = ferry_house()
    edit = {"kind": "set_row", "row": "I20", "changes": {"spacing": many(0.2)}}
    sure = edited(job, edit, confirmed=True)
    assert schedule(solve(sure)).rows["I20"].count == math.floor((solve(sure).rows["I20"].out.lengths[0] - 1200) / 0.2 + 1e-9) + 1
    # Once confirmed, other edits of the row do not ask again.
    edited(sure, {"kind": "set_row", "row": "I20", "changes": {"lift": 10}})
    with pytest.raises(Refused, match="the most"):
        edited(job, {"kind": "set_row", "row": "I20", "changes": {"spacing": many(0.001)}}, confirmed=True)


@pytest.mark.parametrize("bad", [math.nan, math.inf, -math.inf, 1.1e10])
def test_no_number_and_too_far_are_no_coordinates(bad: float) -> None:
    with pytest.raises(ValidationError):
        read({"kind": "move_vertex", "line": "L1", "point": 0, "to": (bad, 0, 0)})


def test_what_stands_on_a_removed_line_goes_with_it_when_asked() -> None:
    job = edited(ferry_house(), {"kind": "remove", "ids": ["L4"], "with_dependents": True})
    assert {run.name for run in job.runs}.isdisjoint({"Fence, lower rail", "Fence, upper rail"})
    assert {row.name for row in job.rows} == {row.name for row in ferry_house().rows if row.line != "L4"}
    # What lay beside the removed line stays where it was, and follows nothing any more.
    assert job.line("L5").made is None


def test_one_edit_places_several_runs_and_flips_them() -> None:
    job = edited(ferry_house(), {"kind": "set_placing", "runs": ["R12", "R13"], "changes": {"facing": {"kind": "left"}, "lift": 5}})
    assert {job.run(id).placing.lift for id in ("R12", "R13")} == {5}
    assert job.run("R14").placing.lift == 2150


def test_tags_are_letters_of_the_name_and_never_used_twice() -> None:
    job = ferry_house()
    assert free_tag(job, "Picture rail") == "PI"
    assert free_tag(job, "Kerb") == "K"
    assert free_tag(job, "123") == "A"
    assert len({thing.tag for thing in tagged_things(job)}) == len(job.runs) + len(job.rows)


def test_every_edit_says_what_it_does() -> None:
    job = ferry_house()
    assert read({"kind": "move_vertex", "line": "L4", "point": 1, "to": (0, 0, 0)}).describe(job) == "moved point 2 of Quay edge"
    assert read({"kind": "set_placing", "runs": ["R12"], "changes": {"lift": 5}}).describe(job) == "changed lift of Skirting, door to door"


def test_only_what_an_edit_touches_is_solved_again() -> None:
    solver = Solver()
    job = ferry_house()
    first = solver.solve(job)
    # A window that is wider than the others is a run more.
    assert solver.made == {"runs": len(job.runs) + 1, "rows": len(job.rows), "typicals": len(job.typicals)}
    steps: list[tuple[Mapping[str, object], int, int]] = [
        ({"kind": "set_placing", "runs": ["R12"], "changes": {"lift": 5}}, 1, 0),
        # The lamp line follows the quay edge, so its row is set out again beside the posts and rings of that.
        ({"kind": "move_vertex", "line": "L4", "point": 1, "to": (2600, -9500, 0)}, 3, 3),
        ({"kind": "set_row", "row": "I20", "changes": {"lift": 5}}, 0, 1),
        ({"kind": "set_section", "section": "S7", "changes": {"height": 120}}, 2, 0),
        ({"kind": "rename_job", "name": "Other"}, 0, 0),
        ({"kind": "set_run", "run": "R12", "changes": {"name": "Other"}}, 0, 0),
    ]
    for edit, runs, rows in steps:
        before = solver.made
        after = solver.solve(edited(job, edit))
        assert {group: number - before[group] for group, number in solver.made.items()} == {"runs": runs, "rows": rows, "typicals": 0}
        # And just that is reported to differ.
        differs = after.since(first)
        assert {group: len(difference.changed) for group, difference in differs.items()} == {
            group: number for group, number in (("runs", runs), ("rows", rows)) if number
        }
        assert not any(difference.new or difference.gone for difference in differs.values())
    fewer = solver.solve(edited(job, {"kind": "remove", "ids": ["R12"]}))
    assert fewer.since(first) == {"runs": Difference(gone=("R12",))}
    assert first.since(fewer) == {"runs": Difference(new=("R12",))}


def test_equal_pieces_are_grouped_and_mirror_images_are_not() -> None:
    # The 1300 legs either side of the pilaster are mirror images; opposite walls of a rectangle are equal.
    # All mitred, and in one length.
    plain = [
        {"kind": "set_run", "run": run.id, "changes": {"corners": {"kind": "mitre"}, "joints": None}}
        for run in ferry_house().runs
        if run.name.startswith("Skirting") or run.joints
    ]
    anew = {"kind": "number_anew", "runs": [run.id for run in ferry_house().runs]}
    rows = cutting_list(solve(edited(ferry_house(), *plain, anew)))
    by_tag = {tag: row for row in rows for tag in row.tags}
    assert by_tag["S5"].line_length == by_tag["S7"].line_length == 1300
    assert by_tag["S5"] is not by_tag["S7"]
    # Symmetric to the eye, from the two ends of one wall, yet they cannot be laid on one another.
    assert by_tag["C8"].long_point == pytest.approx(by_tag["C10"].long_point)
    assert by_tag["C8"] is not by_tag["C10"]
    room: list[Mapping[str, object]] = [
        {"kind": "add_lines", "lines": [{"name": "Room", "start": (0, 0, 0), "closed": True, "legs": legs()}]}
    ]
    body = SectionBody.model_fields
    section = ferry_house().sections[0].model_dump(include=set(body))
    job = edited(
        Job(name="Room"), *room, {"kind": "add_section", "section": section}, {"kind": "add_runs", "section": "S2", "lines": ["L1"]}
    )
    assert [row.tags for row in cutting_list(solve(job))] == [("S1", "S3"), ("S2", "S4")]


def legs() -> list[dict[str, object]]:
    return [{"kind": "straight", "to": to} for to in ((4000, 0, 0), (4000, 3000, 0), (0, 3000, 0), (0, 0, 0))]


def test_totals_are_sums_of_unrounded_values() -> None:
    solved = solve(ferry_house())
    totals = schedule(solved)
    assert totals.job.line_length == pytest.approx(sum(run.cuts.line_lengths.sum() for run, _ in standing_runs(solved)))
    assert totals.job.pieces == sum(row.quantity for row in cutting_list(solved))
    assert totals.job.bar == pytest.approx(sum(row.long_point * row.quantity for row in cutting_list(solved)))
    assert sum(total.bar for total in totals.sections.values()) == pytest.approx(totals.job.bar)


def test_swallowed_pieces_are_faults_with_their_place() -> None:
    job = edited(ferry_house(), {"kind": "set_section", "section": "S9", "changes": {"width": 3000}})
    found = [check for check in solve(job).checks() if check.kind == "swallowed"]
    assert found
    assert all(check.severity == "fault" and check.thing == "R15" and check.piece is not None for check in found)


def test_a_job_file_opens_to_the_same_job() -> None:
    job = ferry_house()
    assert job_from_text(job_to_text(job)) == job


@pytest.mark.parametrize(
    ("change", "where"),
    [
        ({"version": 5}, "version"),
        ({"version": 0}, "version"),
        ({"format": "other"}, "format"),
        ({"colour": "blue"}, "colour"),
        ({"last_number": 3}, "last_number"),
        ({"lines": [{"id": "L1", "name": "x", "start": [0, 0, 0], "legs": []}]}, "lines.0.legs"),
        ({"runs": [{"id": "R1", "name": "x", "tag": "X", "line": "L77", "section": "S7"}]}, "runs.0.line"),
        (
            {"sections": [{"id": "S1", "name": "x", "outline": {"start": [0, 0], "edges": []}, "width": -1, "height": 1}]},
            "sections.0.outline.edges",
        ),
    ],
)
def test_a_wrong_job_file_is_refused_at_its_place(change: dict[str, object], where: str) -> None:
    with pytest.raises(Refused) as caught:
        job_from_data(json.loads(job_to_text(ferry_house())) | change)
    assert caught.value.where == where


@pytest.mark.parametrize("text", ["", "{", "[1]", '{"format": NaN}', "\xff", "[" * 100_000])
def test_what_is_no_job_file_is_refused(text: str) -> None:
    with pytest.raises(Refused):
        job_from_text(text)


def test_the_published_schema_takes_the_demo() -> None:
    import jsonschema

    schema = json.loads((ROOT / "docs" / "job.schema.json").read_text())
    jsonschema.validate(json.loads(job_to_text(ferry_house())), schema)


def test_only_the_runs_an_edit_touches_are_listed_again() -> None:
    job, solver = ferry_house(), Solver()
    before = {row.tags: row for row in cutting_list(solver.solve(job))}
    lifted = apply(job, read({"kind": "set_placing", "runs": ["R30"], "changes": {"roll": 3.0}}))
    after = cutting_list(solver.solve(lifted))
    again = {row.run for row in after if before.get(row.tags) is not row}
    assert again == {"R30"}
    # What is kept is what listing from nothing gives.
    assert [(row.tags, row.long_point, row.begin, row.end) for row in after] == [
        (row.tags, row.long_point, row.begin, row.end) for row in cutting_list(solve(lifted))
    ]
