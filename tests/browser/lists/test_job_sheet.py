"""The job sheet: what is in it is found, kept to some, put into groups and selected together, in jobs of any size."""

from __future__ import annotations

import pytest
from acting import RUNS, card, pick, plan, saved, sheet
from playwright.sync_api import Page, expect

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.job_file import job_to_text
from slow_ribbon.core.lines.model import line_body, with_id


@pytest.fixture
def big(demo: Page, shared_address: str) -> Page:
    """A page with a job of 5,000 lines open in plan."""
    places = [(number % 100 * 700.0, number // 100 * 900.0, 3600.0 * (number // 2500)) for number in range(5000)]
    lines = [
        with_id(line_body([(x, y, z), (x + 500, y, z), (x + 500, y + 600, z)], number % 7 == 0, f"Line {number + 1}"), f"L{number + 1}")
        for number, (x, y, z) in enumerate(places)
    ]
    text = job_to_text(Job(name="Big", lines=tuple(lines), last_number=5000))
    made = demo.request.post(f"{shared_address}/api/jobs/file", data=text, headers={"Content-Type": "application/json"})
    demo.goto(f"/job/{made.json()['id']}")
    expect(sheet(demo).locator("[data-row=L1]")).to_contain_text("1\u2009881")
    return demo


def test_five_thousand_lines_are_walked_found_and_selected(big: Page) -> None:
    steps = sheet(big)
    heads = [steps.get_by_role("heading", name=name).get_by_role("button") for name in ("Lines", "Sections", "Runs and rows", "Cutting")]
    assert steps.locator("[data-row]").count() < 120
    foot = steps.bounding_box()
    assert foot
    for one in heads:
        box = one.bounding_box()
        assert box
        assert foot["y"] <= box["y"] <= foot["y"] + foot["height"] - box["height"] + 1
    # By the arrow keys, row after row, past what was in sight.
    steps.locator("[data-row=L1]").focus()
    for _ in range(45):
        big.keyboard.press("ArrowDown")
    expect(steps.locator("[data-row=L46]")).to_be_focused()
    expect(card(big).get_by_label("Name of the line")).to_have_value("Line 46")
    row, under = steps.locator("[data-row=L46]").bounding_box(), heads[1].bounding_box()
    assert row
    assert under
    assert row["y"] + row["height"] <= under["y"] + 1
    # A head whose step is out of sight brings it there; the next click folds it.
    heads[1].click()
    expect(steps.get_by_role("button", name="Pick a section")).to_be_in_viewport()
    expect(steps.get_by_role("button", name="Line 5000")).to_be_in_viewport()
    heads[0].click()
    expect(heads[0]).to_have_attribute("aria-expanded", "false")
    heads[0].click()
    steps.get_by_label("Find in the job").fill("line 432")
    # 432 of each thousand, and 4320 to 4329.
    steps.get_by_role("button", name="Select 15").click()
    expect(card(big)).to_contain_text("15 lines")
    steps.get_by_label("What is listed").click()
    big.get_by_role("option", name="Closed lines").click()
    steps.get_by_role("button", name="Select 3").click()
    expect(card(big)).to_contain_text("3 lines")
    steps.get_by_label("Find in the job").press("Escape")
    steps.get_by_label("Grouped").click()
    big.get_by_role("option", name="by storey").click()
    steps.get_by_role("button", name="Fold Level 0").click()
    steps.get_by_role("button", name="Level 3 600", exact=True).click()
    expect(card(big)).to_contain_text("2\u2009500 lines")


def test_a_line_clicked_in_the_drawing_is_brought_into_sight_in_the_sheet(big: Page) -> None:
    # A line lies wherever the sheet is clicked; the middle is far down the list.
    plan(big).click()
    chosen = sheet(big).locator("[data-row][aria-pressed=true]")
    expect(chosen).to_be_in_viewport(ratio=1)
    name = card(big).get_by_label("Name of the line").input_value()
    expect(chosen).to_contain_text(name)
    assert 1000 < int(name.removeprefix("Line ")) < 4000


def test_groups_made_by_hand_hold_what_is_put_in_them(demo: Page) -> None:
    steps = sheet(demo)
    steps.get_by_label("Grouped").click()
    demo.get_by_role("option", name="by my groups").click()
    pick(demo, "Hall walls")
    expect(steps.get_by_label("Group of it")).to_have_value("Waiting hall")
    pick(demo, "Quay gate", "Shift")
    # From the walls, the last of the last group, back to the gate, the last of the first, as the list has them.
    number = steps.locator("[data-row][aria-pressed=true]").count()
    assert number > 4
    expect(steps.get_by_label(f"Group of {number} things")).to_have_attribute("placeholder", "several")
    steps.get_by_label(f"Group of {number} things").fill("North side")
    demo.keyboard.press("Enter")
    saved(demo, 1)
    steps.get_by_role("button", name="North side", exact=True).first.click()
    expect(card(demo)).to_contain_text(f"{number} lines")
    # The runs on them have gone with them.
    expect(steps.get_by_role("button", name="Fold North side")).to_have_count(2)
    demo.keyboard.press("Control+z")
    expect(steps.get_by_role("button", name="North side", exact=True)).to_have_count(0)
    demo.reload()
    expect(sheet(demo).get_by_role("button", name="Fold Ramps and landing").first).to_be_visible()


def test_all_runs_of_a_section_are_selected_together(demo: Page) -> None:
    pick(demo, "Skirting, chamfered")
    card(demo).get_by_role("button", name="Select them").click()
    expect(card(demo)).to_contain_text("2 runs")
    sheet(demo).get_by_role("button", name="Fence, upper rail").focus()
    demo.keyboard.press("Control+a")
    expect(card(demo)).to_contain_text(f"{RUNS} runs")
