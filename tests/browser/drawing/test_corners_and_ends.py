"""Corners made in ways of their own, and ends finished, on the rod, in the drawing and on the card."""

from __future__ import annotations

import re

from acting import card, choose, middle_of, pick, rod, saved, sheet
from playwright.sync_api import Page, expect


def test_single_corners_are_picked_and_made_in_their_own_way(demo: Page) -> None:
    pick(demo, "Picture rail 19")
    answer = card(demo)
    corners = rod(demo).get_by_role("button", name=re.compile("^Corner "))
    third = rod(demo).get_by_role("button", name=re.compile("^Corner 3, "))
    third.click()
    expect(answer).to_contain_text("The corner, external, 90°")
    rod(demo).get_by_role("button", name=re.compile("^Corner 5, ")).click(modifiers=["Shift"])
    expect(answer).to_contain_text("2 corners")
    choose(answer, "Picked corners", "at a block")
    saved(demo, 1)
    expect(corners.filter(has_text="at a block")).to_have_count(2)
    answer.get_by_label("… as wide as").fill("140")
    answer.get_by_label("… as wide as").press("Enter")
    saved(demo, 2)
    answer.get_by_label("… called").fill("Turned block")
    answer.get_by_label("… called").press("Enter")
    saved(demo, 3)
    # What stands in corners is counted.
    demo.get_by_role("button", name="Cutting list", exact=True).click()
    expect(demo.get_by_role("region", name="Schedule").get_by_role("row", name="Turned block")).to_contain_text("2")
    demo.get_by_role("button", name="Drawing", exact=True).click()
    # In the drawing one is picked by a click on its point, by keys on the rod.
    answer.get_by_role("button", name="Done").click()
    expect(answer.get_by_role("button", name="2 corners are made otherwise")).to_be_visible()
    x, y = middle_of(demo.locator("rect[data-point='0']").first)
    demo.mouse.click(x, y)
    expect(answer).to_contain_text("90°, at 0")
    third.focus()
    demo.keyboard.press("Enter")
    choose(answer, "Picked corners", "like the others")
    saved(demo, 4)
    expect(corners.filter(has_text="at a block")).to_have_count(1)
    demo.get_by_role("button", name="Undo", exact=True).click()
    expect(corners.filter(has_text="at a block")).to_have_count(2)


def test_ends_are_finished_and_what_cannot_be_says_why(demo: Page) -> None:
    pick(demo, "Dado rail 15")
    answer = card(demo)
    # A closed line has no ends but beside its doors.
    expect(answer.get_by_role("button", name=re.compile("^Where it begins"))).to_have_count(0)
    choose(answer, "Beside openings", "returned")
    saved(demo, 1)
    expect(sheet(demo).get_by_role("button", name="Dado rail")).to_contain_text("19 pieces")
    expect(rod(demo)).to_contain_text("90° returned")
    demo.get_by_role("button", name="Cutting list", exact=True).click()
    returns = demo.get_by_role("row").filter(has_text="return")
    expect(returns.first).to_contain_text("45.0°")
    demo.get_by_role("button", name="Drawing", exact=True).click()
    pick(demo, "Fence, upper rail")
    choose(answer, "Where it begins", "level")
    saved(demo, 2)
    expect(answer).to_contain_text("it is too flat there for a level cut")
    choose(answer, "Where it begins", "at an angle")
    answer.get_by_label("Front longer by").fill("22.5")
    answer.get_by_label("Front longer by").press("Enter")
    saved(demo, 4)
    answer.get_by_label("Let past by").fill("-30")
    answer.get_by_label("Let past by").press("Enter")
    saved(demo, 5)
    demo.get_by_role("button", name="Cutting list", exact=True).click()
    expect(demo.get_by_role("row").filter(has_text="22.5°").first).to_be_visible()
