"""A drawing imported again: which lines are the same, and that all that stands on them stays where it is."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.apply import apply_all
from slow_ribbon.core.job.edits.lines import AddLines
from slow_ribbon.core.job.edits.openings import AddMarks, AddOpenings
from slow_ribbon.core.job.edits.points import MoveVertex
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.job.edits.reissue import RenewLines
from slow_ribbon.core.job.edits.runs import AddRuns
from slow_ribbon.core.job.edits.sections import AddSection
from slow_ribbon.core.job.reissue import RenewedLine, laid
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import CurveLeg
from slow_ribbon.core.lines.model import Line, LineBody, Mark, Opening, Source, line_body, with_id
from slow_ribbon.core.lines.reimport_match import _written, _written_both_ways, apart, compared, keys_kept, shape_of
from slow_ribbon.core.lines.split_join import reverse, start_at
from slow_ribbon.core.sections.library import from_library
from slow_ribbon.core.solve.solver import solve

CONTENT = "0" * 64


def drawn(points: Sequence[tuple[float, float]], closed: bool = False, keys: tuple[str, ...] = (), layer: str = "WALLS") -> LineBody:
    body = line_body([(x, y, 0.0) for x, y in points], closed, layer)
    source = Source(file="hall.dxf", content=CONTENT, layer=layer, keys=keys_kept(keys), shape=shape_of(body))
    return body.model_copy(update={"source": source})


def keys_of(body: LineBody) -> tuple[str, ...]:
    return body.source.keys if body.source else ()


def in_job(bodies: list[LineBody]) -> list[Line]:
    return [with_id(body, f"L{number}") for number, body in enumerate(bodies, 1)]


def rooms(seed: int, count: int, keys: bool) -> list[LineBody]:
    """Return rooms that lie apart, each of another size."""
    random = np.random.default_rng(seed)
    found = []
    for number in range(count):
        x, y = number % 5 * 9000.0, number // 5 * 9000.0
        w, h = (float(size) for size in random.integers(2000, 7000, 2))
        found.append(drawn([(x, y), (x + w, y), (x + w, y + h), (x, y + h)], True, (f"{number + 160:X}",) if keys else ()))
    return found


@given(st.integers(0, 10**6), st.booleans(), st.randoms(use_true_random=False))
def test_every_line_is_found_again_whatever_its_order_start_and_way(seed: int, keys: bool, random: Any) -> None:
    before = rooms(seed, 12, keys)
    order = list(range(12))
    random.shuffle(order)
    shift = {number: (random.choice([0.0, 40.0, 250.0]), random.choice([0.0, 90.0])) for number in order}
    after = []
    for number in order:
        dx, dy = shift[number]
        line = with_id(before[number], "L1")
        points = [(x + dx, y + dy) for x, y, _ in line.points().tolist()]
        start = random.randrange(4)
        points = points[start:] + points[:start]
        after.append(drawn(points[::-1] if random.random() < 0.5 else points, True, keys_of(before[number])))
    met = compared(in_job(before), after)
    assert [order[one.number] for one in met if one.number is not None] == list(range(12))
    for number, one in enumerate(met):
        dx, dy = shift[number]
        assert one.way == ("moved" if dx or dy else "same")
        # A rectangle moved aside lies nowhere further off than it was moved, and somewhere as far as it was moved either way.
        assert max(dx, dy) - 1e-6 <= one.by <= math.hypot(dx, dy) + 1e-6


def test_lines_that_are_gone_and_new_are_reported_and_those_in_place_of_another_are_not_taken_for_it() -> None:
    before = in_job([drawn([(0, 0), (4000, 0)], keys=("2A",)), drawn([(0, 3000), (4000, 3000)], keys=("2B",))])
    after = [drawn([(0, 3000), (4000, 3000)], keys=("2B",)), drawn([(0, 9000), (500, 9000)], keys=("2C",))]
    assert [(one.way, one.line, one.number) for one in compared(before, after)] == [
        ("gone", "L1", None),
        ("same", "L2", 0),
        ("new", None, 1),
    ]


def test_handles_tell_lines_apart_where_these_have_changed_places_unless_all_were_numbered_anew() -> None:
    still = [drawn([(0, 20_000 + 1000 * n), (3000, 20_000 + 1000 * n)], keys=(f"F{n}",)) for n in range(3)]
    one, other = [(0, 0), (4000, 0)], [(0, 400), (4000, 400)]
    before = in_job([drawn(one, keys=("A1",)), drawn(other, keys=("B1",)), *still])
    # Each has moved to about where the other was.
    moved = [drawn([(0, 390), (4000, 390)], keys=("A1",)), drawn([(0, 10), (4000, 10)], keys=("B1",)), *still]
    assert [met.number for met in compared(before, moved)] == [0, 1, 2, 3, 4]
    anew = [drawn([(x, y) for x, y, _ in with_id(body, "L1").points().tolist()], keys=(f"{n}",)) for n, body in enumerate(moved)]
    assert [met.number for met in compared(before, anew)] == [1, 0, 2, 3, 4]


def test_a_global_id_is_the_same_thing_wherever_it_lies_now() -> None:
    id = "2O2Fr$t4X7Zf8NOew3FNr2"
    before = in_job([drawn([(0, 0), (4000, 0)], keys=(id,), layer="wall A")])
    after = [drawn([(0, 0), (100, 0)], layer="wall B"), drawn([(90_000, 0), (94_000, 0)], keys=(id,), layer="wall A")]
    assert [(one.way, one.number) for one in compared(before, after)] == [("moved", 1), ("new", 0)]


def test_what_was_worked_on_here_stays_where_the_drawing_is_as_it_was() -> None:
    body = drawn([(0, 0), (4000, 0), (4000, 3000)])
    job = apply_all(Job(name="Hall"), [AddLines(lines=(body,)), MoveVertex(line="L1", point=2, to=(None, 3500.0, None))]).job
    (met,) = compared(job.lines, [body])
    assert (met.way, met.worked_on, met.drawn_anew) == ("same", True, False)
    (met,) = compared(job.lines, [drawn([(0, 0), (4200, 0), (4200, 3000)])])
    assert (met.way, met.worked_on, met.drawn_anew) == ("moved", True, True)


@given(
    st.sampled_from([False, True]),
    st.floats(-400, 400),
    st.floats(-400, 400),
    st.lists(st.floats(0.02, 0.93), min_size=1, max_size=3, unique_by=lambda share: round(share * 8)),
    st.integers(0, 3),
    st.booleans(),
)
def test_openings_and_marks_stay_where_they_are_on_a_line_that_moved(
    closed: bool, dx: float, dy: float, shares: list[float], start: int, turned: bool
) -> None:
    points = [(0.0, 0.0), (9000.0, 0.0), (9000.0, 7000.0), (0.0, 7000.0)]
    line = with_id(drawn(points, closed), "L1")
    length = course_of(line).length
    openings = tuple(Opening(name=f"Door {n}", at=share * length, width=0.01 * length) for n, share in enumerate(shares))
    line = line.model_copy(update={"openings": openings, "marks": (Mark(name="Post", at=shares[0] * length),)})
    moved = with_id(drawn([(x + dx, y + dy) for x, y in points], closed), "L1")
    shape = reverse(moved) if turned else moved
    shape = start_at(shape, start * 1000.0) if closed and start else shape
    new = laid(line, LineBody(**{name: getattr(shape, name) for name in LineBody.model_fields}))
    assert apart(*(_looked(one) for one in (new, moved)))[1] < 1e-6
    before, after = course_of(line), course_of(new)
    pairs: list[tuple[Any, Any]] = list(zip(sorted(openings, key=lambda one: one.at), new.openings, strict=True))
    pairs += zip(line.marks, new.marks, strict=True)
    for old, now in pairs:
        middle = old.width / 2 if isinstance(old, Opening) else 0.0
        was = before.points_at(np.array([(old.at + middle) % length]))[0]
        now_at = after.points_at(np.array([(now.at + middle) % length]))[0]
        # Nearest to where it was: on the same wall, which has moved, or round its corner.
        assert np.linalg.norm(now_at - was) <= math.hypot(dx, dy) + 1e-6
        assert not now.unsettled or math.hypot(dx, dy) > 100


def _looked(line: Line) -> tuple[Any, float]:
    course = course_of(line)
    return course.flattened(1.0)[1], course.length


def test_what_is_left_hanging_is_checked_until_somebody_says_it_is_right() -> None:
    bodies = (drawn([(0, 0), (6000, 0), (6000, 4000)], keys=("1",)), drawn([(0, 9000), (5000, 9000)]), drawn([(0, 12_000), (5000, 12_000)]))
    job = apply_all(
        Job(name="Hall"),
        [
            AddLines(lines=bodies),
            AddSection(section=from_library("batten")),
            AddOpenings(line="L1", openings=(Opening(name="Door", at=7000, width=900),)),
            AddMarks(line="L1", marks=(Mark(name="Post", at=500),)),
            AddRuns(section="S4", lines=("L1", "L2")),
        ],
    ).job
    after = drawn([(0, 0), (6000, 0)], keys=("1",))
    assert after.source is not None
    renew = RenewLines(file="hall 2.dxf", renewed=(RenewedLine(line="L1", source=after.source, body=after),), gone=("L2", "L3"))
    made = apply_all(job, [renew])
    assert made.said == ["imported hall 2.dxf again: 1 moved, 2 gone"]
    # What nothing stands on is gone; runs keep their ids, names and tags.
    assert [line.id for line in made.job.lines] == ["L1", "L2"]
    assert [(run.id, run.name, run.tag, run.line) for run in made.job.runs] == [(run.id, run.name, run.tag, run.line) for run in job.runs]
    line = made.job.line("L1")
    assert line.openings[0].at + line.openings[0].width <= 6000 + 1e-6
    checks = solve(made.job).checks()
    assert sorted((check.kind, check.chainage) for check in checks) == [("undrawn", 0.0), ("unsettled", 5100.0)]
    assert any("hall 2.dxf" in check.what for check in checks)
    # As a window says it.
    said = {"kind": "set_opening", "line": "L1", "opening": line.openings[0].id, "changes": {"at": line.openings[0].at}}
    kept = {"kind": "set_line", "line": "L2", "changes": {"undrawn": ""}}
    edits = TypeAdapter(list[AnyEdit]).validate_python([said, kept])
    assert solve(apply_all(made.job, edits).job).checks() == []


def test_openings_that_a_shorter_line_pushes_together_lie_beside_one_another() -> None:
    openings = tuple(Opening(name=name, at=at, width=900.0) for name, at in (("A", 500.0), ("B", 6000.0), ("C", 8000.0)))
    line = with_id(drawn([(0, 0), (10_000, 0)]), "L1").model_copy(update={"openings": openings})
    new = laid(line, drawn([(0, 0), (5000, 0)]))
    assert [(one.name, one.at, one.unsettled) for one in new.openings] == [("A", 500, False), ("B", 3200, True), ("C", 4100, True)]


@pytest.mark.parametrize("where", ["renewed", "gone"])
def test_lines_that_are_not_there_are_refused(where: str) -> None:
    body = drawn([(0, 0), (1, 0)])
    assert body.source is not None
    wrong: dict[str, Any] = {"renewed": (RenewedLine(line="L9", source=body.source),)} if where == "renewed" else {"gone": ("L9",)}
    with pytest.raises(Refused, match="no line L9"):
        apply_all(Job(name="Hall"), [RenewLines(file="hall.dxf", **wrong)])


@given(st.integers(0, 10_000), st.data())
def test_lines_that_did_not_move_are_the_same_from_whatever_end_they_are_drawn(seed: int, data: st.DataObject) -> None:
    """Handles renumbered, so that each is another line's; directions and starts changed."""
    random = np.random.default_rng(seed)
    walls = [[(x, 0.0), (x + 1200, 0.0), (x + 1200, float(random.integers(300, 900)))] for x in np.arange(11) * 1500.0]
    numbers = random.permutation(22)
    before = [drawn(points, keys=(f"{number:X}",)) for points, number in zip(walls, numbers, strict=False)] + rooms(seed, 6, False)
    others = random.permutation(22)
    after = []
    for body, number in zip(before, [*others[:11], *[None] * 6], strict=True):
        line = with_id(body, "L1")
        line = reverse(line) if data.draw(st.booleans()) else line
        line = start_at(line, data.draw(st.sampled_from(course_of(line).begins.tolist()))) if line.closed else line
        body = LineBody(**{name: getattr(line, name) for name in LineBody.model_fields})
        source = Source(
            file="hall.dxf", content=CONTENT, layer="WALLS", keys=() if number is None else (f"{number:X}",), shape=shape_of(body)
        )
        after.append(body.model_copy(update={"source": source}))
    order = random.permutation(len(after))
    found = compared(in_job(before), [after[number] for number in order])
    assert [(one.way, one.by, one.worked_on) for one in found] == [("same", 0.0, False)] * len(before)
    assert [order[one.number] for one in found] == list(range(len(before)))


@given(st.floats(600, 3000), st.floats(0.05, 0.95))
def test_a_new_doorway_in_a_long_outline_is_no_small_thing(wide: float, share: float) -> None:
    """40 m round, with a gap that was not there: moved, by half its width at least."""
    outline = [(0.0, 0.0), (12_000.0, 0.0), (12_000.0, 8000.0), (0.0, 8000.0)]
    at = share * (12_000 - wide)
    opened = [(at + wide, 0.0), *outline[1:], (0.0, 0.0), (at, 0.0)]
    for before, after in ((drawn(outline, True), drawn(opened)), (drawn(opened), drawn(outline, True))):
        (met,) = compared(in_job([before]), [after])
        assert (met.way, met.drawn_anew) == ("moved", True)
        assert met.by >= wide / 2 - 100


def test_a_line_of_an_earlier_program_is_known_by_the_way_it_went() -> None:
    """What was kept of lines then was the hash of their points from their start on, to 0.01 mm."""
    points = [(0.0, 0.0), (3000.0, 0.0), (3000.0, 2000.0)]
    body = drawn(points)
    earlier = hashlib.sha256(np.array([(x, y, 0.0) for x, y in points]).astype("<f8").tobytes()).hexdigest()[:16]
    assert body.source is not None
    kept = body.model_copy(update={"source": body.source.model_copy(update={"shape": earlier})})
    for again in (drawn(points), drawn(points[::-1])):
        (met,) = compared(in_job([kept]), [again])
        assert (met.way, met.by, met.worked_on) == ("same", 0.0, False)


@given(*[st.tuples(*[st.floats(-1e5, 1e5)] * 3)] * 4)
def test_a_plain_curve_is_reported_as_any_leg_is(begin: Point3, first: Point3, second: Point3, end: Point3) -> None:
    leg = CurveLeg(to=end, controls=(first, second))
    assert _written_both_ways(begin, leg) == (_written(begin, leg), _written(end, leg.reversed(begin)))
