"""Measures, formulas, walks, lines that follow others: what is written is what comes out, and circles are refused by name."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from making import check_refusal
from pydantic import TypeAdapter

from slow_ribbon.core.job.document.document import Job, check_job
from slow_ribbon.core.job.edits.apply import apply_all
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.job.job_file import job_from_text, job_to_text
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.expressions import work_out
from slow_ribbon.core.kernel.measures import Measure, work_out_all
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.made.walk import walk
from slow_ribbon.demo import ferry_house

read = TypeAdapter(AnyEdit).validate_python
KNOWN = {"hall width": 6000.0, "upstand": 150.0, "rise": 175.0}


def tried(work: Callable[[], Any]) -> Any:
    """Return what work gives, or nothing where it is refused in words, at a place in the text."""
    try:
        return work()
    except Refused as refused:
        if not refused.where.isdigit():
            raise
        check_refusal(refused)
        return None


def edited(job: Job, *edits: dict[str, Any]) -> Job:
    found = apply_all(job, [read(edit) for edit in edits]).job
    check_job(found)
    assert job_from_text(job_to_text(found)) == found
    return found


@pytest.mark.parametrize(
    ("text", "system", "mm"),
    [
        ("hall width / 2 - 18", "mm", 2982.0),
        ("Hall_Width / 2 - 0.018", "m", 2982.0),
        ("2 * (upstand + 10 mm)", "mm", 320.0),
        ("4' 3-1/2\" + upstand", "ft-in", 1458.1),
        ("1/2 * hall width", "m", 3000.0),
        ("max(upstand, 200)", "mm", 200.0),
        ("sqrt(hall width * hall width + upstand * upstand)", "mm", math.hypot(6000, 150)),
        ("round(hall width / 7, 5)", "mm", 855.0),
        ("-upstand + 1.2 m", "mm", 1050.0),
    ],
)
def test_lengths_are_worked_out(text: str, system: Any, mm: float) -> None:
    assert work_out(text, KNOWN, system).length == pytest.approx(mm, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("hall width * upstand", "measure-kind"),
        ("hall width / upstand", "measure-kind"),
        ("hall width + upstand * upstand", "measure-kind"),
        ("wall + 1", "unknown-measure"),
        ("__import__('os').system('true')", "unknown-measure"),
        ("upstand ** upstand", "measure"),
        ("(1 +", "measure"),
        ("upstand / 0", "measure"),
        ("upstand.real", "measure"),
        ("[upstand]", "measure"),
        ("9" * 400, "length"),
        ("(" * 300 + "1" + ")" * 300, "measure"),
    ],
)
def test_what_is_no_length_is_refused(text: str, code: str) -> None:
    with pytest.raises(Refused) as refused:
        work_out(text, KNOWN)
    assert refused.value.code == code
    check_refusal(refused.value)


@given(st.text(alphabet="abhw 0123456789.+-*/()'\"mftin,_$", max_size=40))
def test_any_text_is_a_length_or_refused_in_words(text: str) -> None:
    length = tried(lambda: work_out(text, KNOWN).length)
    assert length is None or math.isfinite(length)


def test_measures_depend_on_one_another_in_any_order_but_not_in_a_circle() -> None:
    measures = [Measure(name="depth", text="width / 3"), Measure(name="width", text="900")]
    assert work_out_all(measures, "mm") == {"depth": 300, "width": 900}
    circle = [Measure(name="a", text="b + 1"), Measure(name="b", text="c * 2"), Measure(name="c", text="a")]
    with pytest.raises(Refused, match="a depends on b depends on c depends on a") as refused:
        work_out_all(circle, "mm")
    assert (refused.value.code, refused.value.where) == ("measure-circle", "measures.0.text")
    with pytest.raises(Refused, match="cannot be negative"):
        work_out_all([Measure(name="a", text="1 - 2")], "mm")
    with pytest.raises(Refused, match="Two measures are named"):
        work_out_all([Measure(name="Hall width", text="1"), Measure(name="hall  WIDTH", text="2")], "mm")


def measures(**texts: str) -> dict[str, Any]:
    return {"kind": "set_measures", "measures": [{"name": name.replace("_", " "), "text": text} for name, text in texts.items()]}


def test_a_portal_follows_its_width_depth_and_height() -> None:
    walked = "up height, depth, heading 0, width, heading 270, depth, down height"
    job = edited(
        Job(name="portal"),
        measures(width="900", height="2 * width + 300", depth="450"),
        {"kind": "add_made", "name": "Portal", "made": {"kind": "walk", "text": walked}},
    )
    assert course_of(job.lines[0]).length == pytest.approx(2 * 2100 + 2 * 450 + 900)
    wider = edited(job, measures(width="1 m", height="2 * width + 300", depth="450"))
    assert course_of(wider.lines[0]).length == pytest.approx(2 * 2300 + 2 * 450 + 1000)
    assert wider.lines[0].made == job.lines[0].made
    # Other units for the job change nothing: what was written in millimetres stays so.
    feet = edited(wider, {"kind": "set_units", "units": {"system": "ft-in", "fineness": 0.0625}})
    assert feet.lines[0].legs == wider.lines[0].legs
    # Changed by hand it follows no more, and a measure it used changes nothing of it.
    by_hand = edited(wider, {"kind": "move_vertex", "line": "L1", "point": 0, "to": (0, 0, -100)})
    assert by_hand.lines[0].made is None
    with pytest.raises(Refused, match="no measure 'height'"):
        edited(job, {"kind": "set_measures", "measures": [{"was": "height", "remove": True}]})


def test_fields_follow_their_formulas_until_they_are_changed_by_hand() -> None:
    job = edited(
        ferry_house(),
        measures(gate_width="2.4 m", gate_height="2250", ramp_rise="300", dado="900"),
        {"kind": "bind", "formula": {"thing": "R30", "field": "placing.lift", "text": "dado + 12"}},
        {"kind": "bind", "formula": {"thing": "L4", "field": "points.0.0", "text": "0 - dado * 6"}},
        {"kind": "bind", "formula": {"thing": "L3", "field": "openings.O34.width", "text": "dado * 2"}},
        {"kind": "bind", "formula": {"thing": "S7", "field": "height", "text": "dado / 6"}},
    )
    assert job.run("R30").placing.lift == 912
    assert job.section("S7").height == 150
    higher = edited(job, measures(gate_width="2.4 m", gate_height="2250", ramp_rise="300", dado="840"))
    assert (higher.run("R30").placing.lift, higher.line("L4").start[0], higher.section("S7").height) == (852, -5040, 140)
    assert higher.line("L3").openings[0].width == 1680
    by_hand = edited(higher, {"kind": "set_placing", "runs": ["R30"], "changes": {"lift": 850}})
    assert "placing.lift" not in {formula.field for formula in by_hand.formulas}
    # Three, and two of the hall's windows.
    assert len(by_hand.formulas) == 3 + 2
    gone = edited(by_hand, {"kind": "remove", "ids": ["L3"], "with_dependents": True})
    assert {formula.thing for formula in gone.formulas} == {"L4", "S7", "L53"}
    for field, code in (("placing.roll", "unknown-field"), ("name", "unknown-field"), ("placing.nowhere", "unknown-field")):
        with pytest.raises(Refused) as refused:
            edited(job, {"kind": "bind", "formula": {"thing": "R30", "field": field, "text": "dado"}})
        assert refused.value.code == code
    with pytest.raises(Refused, match="comes out as 0 mm, which .* cannot take"):
        edited(job, measures(gate_width="2.4 m", gate_height="2250", ramp_rise="300", dado="0"))


def test_lines_that_follow_others_do_and_circles_are_refused() -> None:
    job = ferry_house()
    moved = edited(job, {"kind": "move_vertex", "line": "L4", "point": 0, "to": (-6000, -7000, 0)})
    assert moved.line("L5").made == job.line("L5").made
    away = course_of(moved.line("L5")).points_at(np.array([500.0]))[0]
    from slow_ribbon.core.job.dimensions import Spot, dimensions

    figures = {one.name: one.value for one in dimensions(moved, Spot(line="L4", chainage=0.0), Spot(line="L5", chainage=500.0))}
    assert figures["lines apart at least"] == pytest.approx(1700, abs=1e-3)
    assert np.isfinite(away).all()
    with pytest.raises(Refused, match="Quay edge follows Lamp line follows Quay edge|Lamp line follows Quay edge follows Lamp line"):
        edited(job, {"kind": "set_made", "line": "L4", "changes": {"kind": "offset", "line": "L5", "distance": 10}})
    free = edited(job, {"kind": "set_made", "line": "L5"}, {"kind": "move_vertex", "line": "L4", "point": 0, "to": (0, 0, 0)})
    assert free.line("L5").legs == job.line("L5").legs


def test_a_walk_goes_where_it_says() -> None:
    square = walk("6 m, right 90, 4000, right 90, 6 m, right 90, 4 m, close")
    assert (square.closed, len(square.legs)) == (True, 4)
    assert square.end == pytest.approx((0, 0, 0), abs=1e-9)
    quarter = walk("1000, arc right 90 radius 600 rise 150, 500")
    assert quarter.end == pytest.approx((1600, -1100, 150), abs=1e-9)
    assert quarter.bearing == pytest.approx(180)
    mixed = walk("hall width, round 150, left 90, 2 * upstand\nup rise, arc to (5000; 2000), home", measures=KNOWN)
    assert mixed.legs[0].round == 150
    assert mixed.uses == {"hall width", "upstand", "rise"}
    assert mixed.closed
    # A measure named as a word of the notation is read where a length stands.
    assert walk("hall width rise rise", measures=KNOWN).end == pytest.approx((6000, 0, 175))
    assert walk("4 m", system="ft-in").end[0] == pytest.approx(4000)
    assert walk("10", system="ft-in").end[0] == pytest.approx(254)


@pytest.mark.parametrize(
    ("text", "place", "words"),
    [
        ("6 m, right 90, 4000, right 90, 6 m, right 90, 3.9 m, close", 54, "ends 100 mm from its start, 100 mm too far south"),
        ("3000, wright 90", 7, "no measure 'wright'"),
        ("3000, right x", 12, "not an angle"),
        ("3000,\n arc right 90 radius foo", 28, "no measure 'foo'"),
        ("arc to (100; 100) through (50; 50)", 1, "do not lie on one straight"),
        ("to (5)", 5, "A point is written"),
        ("round 20", 1, "no corner here"),
        ("cord 5200 length 5000", 1, "make it longer"),
        ("cord 5200", 1, "its sag or its length"),
        ("-200", 1, "is positive"),
        ("1000, home, 500", 13, "closed already"),
        ("", 1, "goes nowhere"),
        ("right 90, close", 11, "nothing to close"),
        ("curve (1; 2) then (3; 4)", 13, "written by its points"),
    ],
)
def test_errors_of_a_walk_point_at_their_place(text: str, place: int, words: str) -> None:
    with pytest.raises(Refused, match="step") as refused:
        walk(text)
    assert words in str(refused.value)
    assert int(refused.value.where) == place


PAGE = (Path(__file__).parents[3] / "docs" / "walks.md").read_text()
STEPS = [step for row in re.findall(r"^\| (`.*?) \|", PAGE, re.MULTILINE) for step in re.findall(r"`([^`]+)`", row)]


def test_the_page_on_walks_is_true() -> None:
    """Every step on it is walked, some after a corner to stand on, and so are its examples."""
    assert len(STEPS) > 15
    for step in STEPS:
        lead = (
            "3000, left 90, 10, "
            if step.split()[0] in ("round", "home")
            else "500, "
            if step.split()[0] in ("right", "left", "heading")
            else ""
        )
        if step == "close":
            lead = "3000, left 90, 10, left 90, 3000, left 90, 10, "
        assert walk(lead + step).legs
    measures = {"portal height": 2100.0, "portal width": 900.0}
    portal, room = (walk(text, measures=measures) for text in re.findall(r"(?:^    .+\n)+", PAGE, re.MULTILINE))
    assert portal.end == pytest.approx((900, 0, 0))
    assert [leg.round for leg in portal.legs] == [80, 80, None]
    assert room.closed
    assert len(room.legs) == 8


@given(st.lists(st.sampled_from(STEPS), max_size=12).map(", ".join))
def test_any_steps_in_any_order_are_walked_or_refused(text: str) -> None:
    assert tried(lambda: walk(text, measures=KNOWN).legs) != ()


@given(st.text(alphabet="arcto right left 0123456789,;().homeclsvu\n", max_size=60))
def test_any_walk_is_walked_or_refused(text: str) -> None:
    end = tried(lambda: walk(text, measures=KNOWN).end)
    assert end is None or all(math.isfinite(value) for value in end)


@given(
    st.lists(
        st.tuples(st.integers(0, 40), st.integers(0, 40), st.sampled_from(["+", "-", "*"]), st.integers(1, 9)), min_size=1, max_size=40
    ),
    st.randoms(),
)
def test_measures_in_any_order_come_to_what_python_makes_of_them(rows: list[tuple[int, int, str, int]], random: Any) -> None:
    """Each of two before it; names that begin alike; against Python's own arithmetic."""
    names, values, texts = ["bay"], [900.0], ["900"]
    for first, second, operator, factor in rows:
        a, b = first % len(names), second % len(names)
        term = f"{names[b].replace(' ', random.choice([' ', '  ', '_']))} / {factor}" if operator != "*" else str(factor)
        value = {"+": values[a] + values[b] / factor, "-": values[a] - values[b] / factor, "*": values[a] * factor}[operator]
        if not 0 <= value < 1e9:
            continue
        values.append(value)
        texts.append(f"{names[a].upper()} {operator} {term}")
        names.append(f"bay {len(names)}" if len(names) % 2 else f"{names[-1]} wide"[-50:])
    measures = [Measure(name=name, text=text) for name, text in zip(names, texts, strict=True)]
    expected = dict(zip(names, values, strict=True))
    random.shuffle(measures)
    found = work_out_all(measures, "mm")
    assert {name: found[name] for name in names} == pytest.approx(expected)


def test_a_thousand_measures_in_a_row_are_worked_out() -> None:
    chain = [Measure(name=f"m {i}", text="900" if i == 0 else f"m {i - 1} + 1") for i in range(1500)]
    assert work_out_all(reversed(chain), "mm")["m 1499"] == 900 + 1499
    with pytest.raises(Refused, match=r"m 1 depends on m 0 depends on m 1: measures cannot depend on one another in a circle"):
        work_out_all([Measure(name="m 0", text="m 1"), Measure(name="m 1", text="m 0")][::-1], "mm")
