"""Curves as they are made, the saw's steps and stop, checks accepted with a reason, and runs in one another's place."""

from __future__ import annotations

import re

from acting import card, choose, pick, rod, saved, sheet
from playwright.sync_api import Page, expect


def test_a_curve_is_made_in_one_way_or_another(demo: Page) -> None:
    pick(demo, "Bench front 9 pieces")
    answer = card(demo)
    expect(answer).to_contain_text("Off the curve by up to 18.6")
    answer.get_by_label("Facets a curve").fill("12")
    answer.get_by_label("Facets a curve").press("Enter")
    expect(rod(demo)).to_contain_text("12 pieces")
    answer.get_by_role("radio", name="How far off").click()
    answer.get_by_label("Maximum deviation").fill("2")
    answer.get_by_label("Maximum deviation").press("Enter")
    saved(demo, 3)
    expect(rod(demo)).to_contain_text("28 pieces")
    answer.get_by_role("radio", name="Fitted to it").click()
    expect(answer).to_contain_text("which all turn alike")
    saved(demo, 4)
    demo.get_by_role("button", name="Undo", exact=True).click()
    expect(rod(demo)).to_contain_text("28 pieces")
    choose(answer, "Curves", "sawn from boards")
    answer.get_by_label("Width of the boards").fill("10")
    answer.get_by_label("Width of the boards").press("Enter")
    # The board is too narrow for the section itself: reported, and nothing is lost.
    expect(answer).to_contain_text("too narrow")
    answer.get_by_label("Width of the boards").fill("150")
    answer.get_by_label("Width of the boards").press("Enter")
    expect(answer).not_to_contain_text("too narrow")
    choose(answer, "Curves", "kerfed and bent")
    demo.get_by_role("button", name="Cutting list", exact=True).click()
    demo.get_by_label("Find in the cutting list").fill("bench")
    listed = demo.get_by_role("table").first
    expect(listed).to_contain_text(re.compile("kerfs 19(\\.0)? deep: 13 at 4\\d\\d"))
    expect(listed).to_contain_text("12 leaves 5.8 thick, from 6\u2009014 to 6\u2009142 long")


def test_the_saw_is_set_in_its_steps_and_to_its_stop(demo: Page) -> None:
    demo.get_by_role("button", name="Cutting list", exact=True).click()
    demo.get_by_label("Find in the cutting list").fill("C1")
    row = demo.get_by_role("row").filter(has=demo.get_by_role("button", name="Piece C1", exact=True))
    expect(row).to_contain_text("31.6° / 33.9°")
    expect(row).to_contain_text("↑ bottom · under")
    demo.get_by_role("button", name="Saw", exact=True).click()
    choose(demo.locator("body"), "Steps of the saw", "in steps of 0.5°")
    expect(row).to_contain_text("31.5° / 34.0°")
    expect(row).to_contain_text("off 0.")
    choose(demo.locator("body"), "The stop measures", "along the fence")
    saved(demo, 2)
    demo.keyboard.press("Escape")
    expect(row.locator("[title='Along the edge at the fence']")).to_be_visible()
    demo.get_by_role("button", name="Undo", exact=True).click()
    expect(row.locator("[title='Along the edge at the fence']")).to_have_count(0)
    # What saw and trimming take is in what is cut from stock.
    schedule = demo.get_by_role("region", name="Schedule")
    expect(schedule).not_to_contain_text("From stock")
    demo.get_by_role("button", name=re.compile("^Saw")).click()
    demo.get_by_label("A cut takes").fill("3.2")
    demo.get_by_label("A cut takes").press("Enter")
    demo.get_by_label("Trimmed off each end").fill("10")
    demo.get_by_label("Trimmed off each end").press("Enter")
    expect(demo.get_by_role("button", name=re.compile("cut 3.2, trim 2 × 10"))).to_be_visible()
    demo.keyboard.press("Escape")
    expect(schedule).to_contain_text("From stock")


def test_a_check_is_accepted_with_a_reason_and_taken_back(demo: Page) -> None:
    pick(demo, "Ramp handrail")
    answer = card(demo)
    answer.get_by_role("button", name="Accept", exact=True).click()
    answer.get_by_role("button", name="Accept it").click()
    expect(answer.get_by_role("alert")).to_contain_text("Say why")
    answer.get_by_label("Why is it all right?").fill("eased by hand")
    answer.get_by_label("Why is it all right?").press("Enter")
    saved(demo, 1)
    expect(sheet(demo)).to_contain_text("accepted: eased by hand")
    expect(sheet(demo)).to_contain_text("No faults found")
    expect(sheet(demo).get_by_role("button", name="Ramp handrail")).to_contain_text("3 pieces")
    answer.get_by_role("button", name="Take back").click()
    expect(sheet(demo).get_by_role("button", name="Ramp handrail")).to_contain_text("1 fault")


def test_runs_in_one_anothers_place_are_found(demo: Page) -> None:
    sheet(demo).get_by_role("button", name="Look for clashes").click()
    dialog = demo.get_by_role("dialog")
    expect(dialog.get_by_role("status")).to_contain_text("No two runs overlap")
    dialog.get_by_role("button", name="Close").click()
    # The capping of the bench lowered into its front.
    pick(demo, "Bench capping 1 piece")
    card(demo).get_by_label("Lift").fill("420")
    card(demo).get_by_label("Lift").press("Enter")
    saved(demo, 1)
    sheet(demo).get_by_role("button", name="Look for clashes").click()
    expect(dialog.get_by_role("status")).to_contain_text("the largest first")
    expect(dialog).to_contain_text("Bench front and Bench capping overlap here")
    dialog.get_by_role("button", name="Go there").first.click()
    expect(dialog).to_have_count(0)
    expect(card(demo).get_by_label("Name of the run")).to_have_value("Bench front")
