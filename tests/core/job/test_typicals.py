"""Lines drawn once that stand in several places: against what stands there when each is a line of its own, mirrored by other code."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from examples import examples
from hypothesis import given, reject, settings
from hypothesis import strategies as st
from making import bent_lines, placings, sections

from slow_ribbon.core.cutting import CutRow, cutting_list, patterns_of, schedule
from slow_ribbon.core.cutting.cut_rows import run_rows
from slow_ribbon.core.cutting.rows_of_typicals import mirrored_row
from slow_ribbon.core.job import Job
from slow_ribbon.core.job.document.document import check_job
from slow_ribbon.core.job.edits import (
    AddLines,
    AddMarks,
    AddOpenings,
    AddRow,
    AddRuns,
    AddSection,
    Remove,
    RunChanges,
    SetMeasures,
    SetRun,
    apply,
    apply_all,
)
from slow_ribbon.core.job.edits.measures import Bind
from slow_ribbon.core.job.edits.points import MoveVertex
from slow_ribbon.core.job.edits.rows import SetRow
from slow_ribbon.core.job.edits.split_join import SplitLine
from slow_ribbon.core.job.edits.transform import MirrorLines
from slow_ribbon.core.job.edits.typicals import (
    AddPlaces,
    AddTypical,
    CutLoose,
    ListPlaces,
    NewPlace,
    NewTypical,
    RemovePlaces,
    SetPlaces,
    SetTypical,
)
from slow_ribbon.core.job.job_file import job_from_text, job_to_text
from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.kernel.measures import Formula, MeasureChange
from slow_ribbon.core.lines import LineBody, Mark, Opening, line_body
from slow_ribbon.core.lines.typicals.carriage import carriage
from slow_ribbon.core.lines.typicals.typical import Grid, OwnMeasure, PlacesAlong, place_names
from slow_ribbon.core.rows import BoxItem, EqualBays, RowBody, Spacing
from slow_ribbon.core.runs import Placing
from slow_ribbon.core.sections import SectionBody
from slow_ribbon.core.sections.library import library, rectangle
from slow_ribbon.core.solve import Solver, cut_across, solve, standing_rows, standing_runs, typicals_of

TRIM = next(one.section for one in library() if one.section.width != one.section.height and "ovolo" in one.section.name.lower())
#: An architrave: up one jamb, over the head, and down to a sill that stands higher.
JAMBS = line_body([(0, 0, 0), (0, 0, 2100), (1200, 0, 2100), (1200, 0, 600)], False, "Window")


def job_with(
    body: LineBody, section: Any = TRIM, *edits: Any, places: tuple[NewPlace, ...] = (), placing: Placing | None = None, **typical: Any
) -> Job:
    adding = (AddLines(lines=(body,)), AddSection(section=section), AddRuns(section="S2", lines=("L1",), placing=placing or Placing()))
    standing = AddTypical(typical=NewTypical(name="Window", lines=("L1",), here="W1", places=places, **typical))
    return apply_all(Job(name="Windows"), [*adding, *edits, standing]).job


def figures(row: CutRow) -> tuple[Any, ...]:
    cuts = [angle for cut in (row.begin, row.end) for angle in (cut.mitre, cut.bevel)]
    bends = [
        figure for bend in row.bends for figure in (bend.length, bend.radius or 0.0, bend.turn, math.cos(math.radians(bend.plane or 0.0)))
    ]
    return (row.long_point, row.short_point, row.line_length, *cuts, *bends)


motions = st.builds(
    NewPlace,
    name=st.just("W2"),
    at=st.tuples(*[st.integers(-20_000, 20_000).map(float)] * 3),
    turn=st.one_of(st.sampled_from([0.0, 90.0, -90.0, 180.0]), st.floats(-180, 180)),
    mirrored=st.booleans(),
)


@settings(max_examples=examples(25))
@given(bent_lines(), sections(), placings(), motions, st.floats(-180, 180))
def test_a_place_is_the_line_that_it_becomes_when_cut_loose(
    path: Any, section: Any, placing: Placing, place: NewPlace, heading: float
) -> None:
    """Its solid lies where that of the loose run lies, which is solved from a line moved or mirrored by itself; its pieces are those."""
    body = LineBody(**{field: getattr(path, field) for field in LineBody.model_fields})
    shape = SectionBody(**{field: getattr(section, field) for field in SectionBody.model_fields})
    try:
        job = job_with(body, shape, places=(place,), placing=placing, heading=heading)
    except Refused:
        reject()
    solved = solve(job)
    (typical,) = job.typicals
    loose = solve(apply(job, CutLoose(typical=typical.id, places=(typical.places[0].id or "",))))
    (drawn,), there = typicals_of(solved)[0].variants[0].runs, carriage(typical, typical.places[0])
    alone = loose.runs[loose.job.runs[-1].id]
    mine, its = there.points(drawn.solid().vertices + drawn.origin), alone.solid().vertices + alone.origin
    size = np.abs(mine).max()
    assert len(mine) == len(its)
    if place.mirrored:
        # The vertices come in another order; where several are near one another sorting may part them.
        assert np.sort(mine, axis=0) == pytest.approx(np.sort(its, axis=0), abs=1e-9 * size + 1e-6)
    else:
        assert mine == pytest.approx(its, abs=1e-9 * size + 1e-6)
    rows, other = run_rows(drawn), run_rows(alone)
    rows = [mirrored_row(row) for row in rows] if place.mirrored else rows
    assert [row.pieces for row in rows] == [row.pieces for row in other]
    for row, its_row in zip(rows, other, strict=True):
        assert (row.left, row.right, row.part) == (its_row.left, its_row.right, its_row.part)
        assert figures(row) == pytest.approx(figures(its_row), abs=2e-3)
        for bend, its_bend in zip(row.bends, its_row.bends, strict=True):
            if bend.toward is not None and its_bend.toward is not None:
                assert math.cos(math.radians(bend.toward - its_bend.toward)) == pytest.approx(1, abs=1e-6)
    # As many pieces, as long, whatever they are listed with.
    together, apart = schedule(solved).job, schedule(loose).job
    assert (together.pieces, together.bar, together.line_length) == pytest.approx((apart.pieces, apart.bar, apart.line_length), rel=1e-9)
    assert sum(row.quantity for row in cutting_list(solved)) == together.pieces


def test_mirror_images_are_distinguished_unless_they_are_equal() -> None:
    """A batten's mirrored pieces are pieces of the others; those of a moulded trim that ends at a sill are not, and say so."""
    mirrored = (NewPlace(name="W2", at=(3000, 0, 0), mirrored=True), NewPlace(name="W3", at=(6000, 0, 0)))
    batten = SectionBody(name="Batten", outline=rectangle(20, 70), width=20, height=70)
    plain = cutting_list(solve(job_with(JAMBS, batten, places=mirrored)))
    assert [(row.quantity, row.places, row.mirrored) for row in plain] == [(3, ("W1", "W2", "W3"), False)] * 3
    moulded = cutting_list(solve(job_with(JAMBS, places=mirrored)))
    # The head is its own mirror image; the two jambs are of different lengths.
    assert [(row.tags, row.quantity, row.places) for row in moulded] == [
        (("S1",), 2, ("W1", "W3")), (("S2",), 3, ("W1", "W2", "W3")), (("S3",), 2, ("W1", "W3")),
        (("S1M",), 1, ("W2",)), (("S3M",), 1, ("W2",)),
    ]  # fmt: skip
    # What a joiner would see: the mirrored jamb has its mitre on the other hand.
    assert moulded[3].end.mitre == pytest.approx(-moulded[0].end.mitre)
    assert moulded[3].end.bevel == pytest.approx(moulded[0].end.bevel)
    assert (moulded[3].left, moulded[3].right) == (moulded[0].right, moulded[0].left)


@pytest.mark.parametrize("entry", library()[::6], ids=lambda entry: entry.key)
def test_mirrored_places_come_to_what_a_mirrored_job_comes_to(entry: Any) -> None:
    """Every piece of a mirrored place is, listed with the drawn or by itself, a piece of the job in which the line was mirrored."""
    job = job_with(JAMBS, entry.section, places=(NewPlace(name="W2", at=(0, 0, 0), mirrored=True),), here_stands=False)
    rows = cutting_list(solve(job))
    whole = apply_all(job, [Remove(ids=(job.typicals[0].id,)), MirrorLines(lines=("L1",), a=(0, 0, 0), b=(0, 1, 0), copies=False)]).job
    other = cutting_list(solve(whole))
    assert sum(row.quantity for row in rows) == sum(row.quantity for row in other) == 3

    def sizes(all_rows: list[CutRow]) -> list[Any]:
        return sorted(
            [round(row.long_point, 4), round(row.short_point, 4), *sorted(round(abs(cut.mitre), 3) for cut in (row.begin, row.end))]
            for row in all_rows
            for _ in range(row.quantity)
        )

    assert sizes(rows) == sizes(other)


WIDE = (
    SetMeasures(measures=(MeasureChange(name="Width", text="1200"),)),
    *(Bind(formula=Formula(thing="L1", field=f"points.{index}.0", text="Width")) for index in (2, 3)),
)


def test_a_place_with_a_measure_of_its_own() -> None:
    places = (NewPlace(name="W2", at=(3000, 0, 0)), NewPlace(name="W3", at=(6000, 0, 0), own=(OwnMeasure(name="width", length=1500),)))
    job = job_with(JAMBS, TRIM, *WIDE, places=places)
    solved = solve(job)
    heads = [(row.tags, row.quantity, row.places, row.line_length) for row in cutting_list(solved) if row.pieces == (1,)]
    assert heads == [(("S2",), 2, ("W1", "W2"), 1200.0), (("S2-W3",), 1, ("W3",), 1500.0)]
    # Its jambs are those of the others, and listed with them.
    assert [(row.quantity, row.places) for row in cutting_list(solved) if row.pieces == (0,)] == [(3, ("W1", "W2", "W3"))]
    assert schedule(solved).job.line_length == pytest.approx(2 * (2100 + 1200 + 1500) + 2100 + 1500 + 1500)
    # It follows when the line is changed, and keeps its own width; the measure changed changes the others alone.
    lower = apply(job, MoveVertex(line="L1", point=3, to=(1200, 0, 900)))
    assert [round(row.line_length) for row in cutting_list(solve(lower))] == [2100, 1200, 1200, 1500]
    wider = apply(job, SetMeasures(measures=(MeasureChange(name="Width", text="1350"),)))
    assert [round(row.line_length) for row in cutting_list(solve(wider))] == [2100, 1350, 1500, 1500]
    # Cut loose it is so wide by itself.
    loose = apply(job, CutLoose(typical=job.typicals[0].id, places=(job.typicals[0].places[1].id or "",)))
    assert [point[0] for point in loose.lines[-1].points().tolist()] == pytest.approx([6000, 6000, 7500, 7500])
    assert schedule(solve(loose)).job == schedule(solved).job
    # A measure that makes a leg of no length is refused there, and in the job it changes nothing.
    with pytest.raises(Refused, match="cannot have its own measure"):
        apply(
            job,
            SetPlaces(
                typical=job.typicals[0].id, places=(job.typicals[0].places[0].id or "",), changes={"own": [{"name": "Width", "length": 0}]}
            ),
        )
    # What cannot be is refused by the place's name; what becomes impossible later is a fault, and nothing is lost.
    with pytest.raises(Refused, match="W2 has its own value for Height, and the job has no measure"):
        apply(
            job,
            SetPlaces(
                typical=job.typicals[0].id, places=(job.typicals[0].places[0].id or "",), changes={"own": [{"name": "Height", "length": 5}]}
            ),
        )
    unused = apply(job, SetMeasures(measures=(MeasureChange(name="Height", text="5"),)))
    with pytest.raises(Refused, match="Nothing in Window depends on Height"):
        apply(
            unused,
            SetPlaces(
                typical=job.typicals[0].id, places=(job.typicals[0].places[0].id or "",), changes={"own": [{"name": "Height", "length": 6}]}
            ),
        )


def test_places_laid_in_a_grid_and_along_a_line() -> None:
    grid = job_with(JAMBS, laid=Grid(counts=(4, 1, 3), centres=(2400, 0, 3200)))
    (typical,) = grid.typicals
    assert [place.name for place in typical.places] == [f"W{number}" for number in range(2, 13)]
    assert typical.places[3].at == (0.0, 0.0, 3200.0)
    assert typical.places[-1].at == (7200.0, 0.0, 6400.0)
    # Left out and renamed, a place stays so when the grid changes; a place more gets a name that is free.
    ids = [place.id or "" for place in typical.places]
    named = apply(grid, SetPlaces(typical=typical.id, places=(ids[0],), changes={"name": "Door side", "stands": False}))
    wider = apply(named, SetTypical(typical=typical.id, changes={"laid": {"kind": "grid", "counts": (13, 1, 1), "centres": (2500, 0, 0)}}))
    assert (wider.typicals[0].places[0].name, wider.typicals[0].places[0].stands, wider.typicals[0].places[0].at[0]) == (
        "Door side",
        False,
        2500.0,
    )
    assert len({place.name for place in wider.typicals[0].places}) == 12
    assert sum(row.quantity for row in cutting_list(solve(wider))) == 3 * 12
    # Along a quarter circle: turned with it, on it, and following when it is moved.
    wall = LineBody(
        name="Wall",
        start=(0, 0, 0),
        legs=({"kind": "arc", "to": (4000, 4000, 0), "via": (4000 * math.sin(math.pi / 4), 4000 - 4000 * math.cos(math.pi / 4), 0)},),
    )
    start = apply(job_with(JAMBS, TRIM), AddLines(lines=(wall,)))
    along = PlacesAlong(line=start.lines[-1].id, first=500, centres=1500, count=4)
    laid = apply(start, SetTypical(typical=start.typicals[0].id, changes={"laid": along}))
    for number, place in enumerate(laid.typicals[0].places):
        angle = (500 + 1500 * number) / 4000
        assert place.at == pytest.approx((4000 * math.sin(angle), 4000 - 4000 * math.cos(angle), 0), abs=1e-6)
        assert place.turn == pytest.approx(math.degrees(angle))
    with pytest.raises(Refused, match="Wall has room for 4 of the 5 places"):
        apply(laid, SetTypical(typical=laid.typicals[0].id, changes={"laid": along.model_copy(update={"count": 5})}))
    shorter = apply(laid, SplitLine(line=along.line, at=3000))
    assert shorter.typicals[0].places == laid.typicals[0].places
    gone = apply(laid, Remove(ids=(along.line,)))
    assert gone.typicals[0].laid is None
    assert len(gone.typicals[0].places) == 4
    # One moved by hand: none follows any more.
    moved = apply(laid, SetPlaces(typical=laid.typicals[0].id, places=(laid.typicals[0].places[0].id or "",), changes={"turn": 5}))
    assert moved.typicals[0].laid is None
    assert place_names("W1", 2, ["W2"]) == ["W3", "W4"]


def test_what_cannot_be() -> None:
    job = job_with(JAMBS, places=(NewPlace(name="W2", at=(3000, 0, 0)),))
    with pytest.raises(Refused, match="would contain itself"):
        apply(job, SetTypical(typical="T4", changes={"laid": PlacesAlong(line="L1", centres=100, count=2)}))
    with pytest.raises(Refused, match="belongs to one typical"):
        apply(job, AddTypical(typical=NewTypical(name="Again", lines=("L1",))))
    with pytest.raises(Refused, match="Two places of Window are called W2"):
        apply(job, AddPlaces(typical="T4", places=(NewPlace(name="W2", at=(1, 0, 0)),)))
    many = SetTypical(typical="T4", changes={"laid": Grid(counts=(60, 60, 1), centres=(2000, 2000, 0))})
    with pytest.raises(Refused, match="would stand in 3,601 places. Is that intended") as asked:
        apply(job, many)
    assert asked.value.code == "confirm-many"
    assert len(apply(job, many, confirmed=True).typicals[0].places) == 3600
    # Asked about once, they are not asked about again when something else of it changes.
    renamed = apply(apply(job, many, confirmed=True), SetTypical(typical="T4", changes={"name": "Lights"}))
    assert renamed.typicals[0].name == "Lights"
    # More than there may be are refused before any is made, also together with those put down by hand.
    for counts in ((10_000, 10_000, 10_000), (101, 100, 1)):
        with pytest.raises(Refused, match="10,000 is the most"):
            apply(job, SetTypical(typical="T4", changes={"laid": Grid(counts=counts, centres=(2000, 2000, 2000))}), confirmed=True)
    full = SetTypical(typical="T4", changes={"laid": Grid(counts=(100, 100, 1), centres=(2000, 2000, 0))})
    with_hand = apply(job, full, confirmed=True)
    assert len(with_hand.typicals[0].places) == 10_000
    with pytest.raises(Refused, match="10,000 is the most"):
        apply(with_hand, AddPlaces(typical="T4", places=(NewPlace(at=(1, 1, 1)),)), confirmed=True)
    # Twice in one place is reported.
    twice = apply(job, AddPlaces(typical="T4", places=(NewPlace(name="W3", at=(3000, 0, 0)),)))
    assert [check.what for check in solve(twice).checks()] == ["W2 and W3 coincide."]
    # A broken file is refused by its place.
    data = job_to_text(job).replace('"lines": [\n    "L1"', '"lines": [\n    "L77"')
    with pytest.raises(Refused, match="no line L77") as broken:
        job_from_text(data)
    assert broken.value.where.startswith("typicals.0")


def test_what_becomes_of_a_typical_when_its_lines_are_worked_on() -> None:
    job = job_with(JAMBS, places=(NewPlace(name="W2", at=(3000, 0, 0)),))
    split = apply(job, SplitLine(line="L1", at=2100))
    assert split.typicals[0].lines == ("L1", split.lines[-1].id)
    assert sum(row.quantity for row in cutting_list(solve(split))) == 6
    made = apply_all(job, [Remove(ids=("L1",), with_dependents=True)])
    assert made.job.typicals == ()
    assert "Window was removed with the last of its lines." in made.notices
    out = apply(job, RemovePlaces(typical="T4", places=("W5",)))
    assert out.typicals[0].places == ()
    assert job_from_text(job_to_text(split)) == split
    check_job(split)


def test_openings_marks_and_rows_go_along() -> None:
    """Items, stretches between openings and rows between marks stand in every place, and are the loose line's own afterwards."""
    wall = line_body([(0, 0, 0), (6000, 0, 0), (6000, -3000, 0)], False, "Bay")
    row = RowBody(name="Lamps", line="L1", item=BoxItem(along=40, across=40, height=90), spacing=Spacing(rule=EqualBays(most=500)))
    edits = (
        AddOpenings(line="L1", openings=(Opening(name="Door", at=1000, width=900),)),
        AddMarks(line="L1", marks=(Mark(name="A", at=2500), Mark(name="B", at=5000))),
        AddRow(row=row),
    )
    places = (NewPlace(name="W2", at=(0, 9000, 0), turn=30, mirrored=True), NewPlace(name="W3", at=(0, 20_000, 500)))
    job = job_with(wall, TRIM, *edits, places=places)
    lamps = next(one for one in job.rows)
    job = apply_all(job, [_between(job, lamps.id)]).job
    solved = solve(job)
    count = len(solved.rows[lamps.id].out.chainages)
    assert schedule(solved).rows[lamps.id].count == 3 * count
    (typical,) = job.typicals
    loose = solve(apply(job, CutLoose(typical=typical.id, places=tuple(place.id or "" for place in typical.places))))
    assert schedule(loose).job == schedule(solved).job

    def spots(of: Any) -> Any:
        return np.sort(np.concatenate([place.carriage.points(found.out.positions) for found, place in standing_rows(of)]), axis=0)

    assert spots(loose) == pytest.approx(spots(solved), abs=1e-6)
    names = {opening.id for line in loose.job.lines for opening in line.openings}
    assert len(names) == 3
    # Where a plane cuts what stands in a place is where it cuts the loose one.
    across = line_body([(3000, 25_000, 0), (3000, -5000, 0)], False, "Cut")
    with_plane = [solve(apply(of.job, AddLines(lines=(across,)))) for of in (solved, loose)]
    cuts = [cut_across(of, of.job.lines[-1], 4000.0) for of in with_plane]
    for one, other in zip(
        *[sorted((ring for cut in found.others for ring in cut.rings), key=lambda ring: float(ring[:, 0].min())) for found in cuts],
        strict=True,
    ):
        assert np.sort(one, axis=0) == pytest.approx(np.sort(other, axis=0), abs=1e-3)


def _between(job: Job, row: str) -> Any:
    marks = [mark.id for mark in job.lines[0].marks]
    return SetRow.model_validate({"kind": "set_row", "row": row, "changes": {"from_mark": marks[0], "to_mark": marks[1]}})


def test_patterns_of_mirrored_places() -> None:
    """A coped end's pattern is there for either hand, the one the mirror image of the other."""
    room = line_body([(0, 0, 0), (3000, 0, 0), (3000, 2000, 0)], False, "Corner")
    skirting = next(one.section for one in library() if "skirting" in one.family.lower())
    job = job_with(
        room,
        skirting,
        places=(NewPlace(name="W2", at=(0, 9000, 0), mirrored=True),),
        placing=Placing.model_validate({"facing": {"kind": "left"}}),
    )
    job = apply(job, SetRun(run="R3", changes=RunChanges.model_validate({"corners": {"kind": "cope"}})))
    plain, over = patterns_of(solve(job))
    assert over.tags == tuple(f"{tag}M" for tag in plain.tags)
    assert over.face * (-1, 1) == pytest.approx(plain.face)
    assert over.rest == -plain.rest


def test_forty_places_are_solved_once() -> None:
    """More places make no more of anything to be solved, and nothing is solved again when one is added."""
    job = job_with(JAMBS, laid=Grid(counts=(40, 1, 1), centres=(2400, 0, 0)))
    solver = Solver()
    solved = solver.solve(job)
    assert solver.made["runs"] == 1
    more = apply(job, AddPlaces(typical="T4", places=(NewPlace(name="X", at=(0, 5000, 0), mirrored=True),)))
    after = solver.solve(more, solved)
    assert solver.made["runs"] == 1
    assert after.runs["R3"] is solved.runs["R3"]
    assert sum(1 for _ in standing_runs(after)) == 41
    moved = solver.solve(apply(more, MoveVertex(line="L1", point=3, to=(1200, 0, 700))), after)
    assert solver.made["runs"] == 2
    assert sum(row.quantity for row in cutting_list(moved)) == 41 * 3


def test_a_list_of_places_as_it_comes_from_a_spreadsheet() -> None:
    job = job_with(JAMBS)
    listed = "W2;3,5 m;1200\r\n\nW3\t-2400\t0\t3200\t90\tmirrored\nW4, 1 m + 200, 50, , -45"
    places = apply(job, ListPlaces(typical="T4", text=listed)).typicals[0].places
    assert [(place.name, place.at, place.turn, place.mirrored) for place in places] == [
        ("W2", (3500.0, 1200.0, 0.0), 0.0, False), ("W3", (-2400.0, 0.0, 3200.0), 90.0, True), ("W4", (1200.0, 50.0, 0.0), -45.0, False),
    ]  # fmt: skip
    for text, said in (
        ("W2;3000", "Row 1 of the list is 'W2;3000': it needs a name"),
        ("W2;3000;0\nW3;here;0", "Row 2 of the list, W3: "),
        ("W2;0;0;0;0;maybe", "Row 1 of the list, W2: 'maybe' is not understood"),
        ("W2;0;0;0;9999", "Row 1 of the list, W2: turn is not valid"),
        ("W2;3,500;0", "Row 1 of the list, W2: '3,500' may have a decimal comma"),
        ("W2;1e12;0", "Row 1 of the list, W2: "),
        ("\n \n", "The list is empty"),
    ):
        with pytest.raises(Refused) as refused:
            apply(job, ListPlaces(typical="T4", text=text))
        assert refused.value.what.startswith(said)
    # Without names they are named on, leaving out those that are taken.
    named = apply(
        apply(job, ListPlaces(typical="T4", text="W3;1;1")),
        AddPlaces(typical="T4", places=(NewPlace(at=(1, 2, 3)), NewPlace(at=(3, 2, 3)))),
    )
    assert [place.name for place in named.typicals[0].places] == ["W3", "W2", "W4"]
