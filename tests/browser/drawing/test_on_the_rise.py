"""A rail whose line rises where it turns: what the check offers, done there and then, and what comes of it."""

from __future__ import annotations

import re

from acting import card, pick, rod, saved, sheet
from playwright.sync_api import Page, expect


def test_what_does_not_meet_is_mended_in_each_of_three_ways(demo: Page) -> None:
    pick(demo, "Ramp handrail")
    answer = card(demo)
    expect(answer).to_contain_text("miss each other by up to 4.92 mm")
    expect(answer).to_contain_text("by 4.9° along the rise")
    answer.get_by_role("button", name="Make a second section").click()
    saved(demo, 1)
    expect(answer).not_to_contain_text("miss each other")
    second = sheet(demo).get_by_role("button", name="Handrail, moulded, on the rise 2")
    expect(second).to_contain_text("57 × 42.1")
    # Its pieces are listed under it, and counted.
    demo.get_by_role("button", name="Cutting list", exact=True).click()
    schedule = demo.get_by_role("region", name="Schedule")
    expect(schedule.get_by_role("row", name=re.compile("on the rise 2"))).to_contain_text("2")
    demo.get_by_role("button", name="Drawing", exact=True).click()
    # It is drawn after the first: its card says so, and the desk has nothing of it to take hold of.
    second.click()
    expect(answer).to_contain_text("It members with Handrail, moulded")
    expect(demo.locator("[data-point]")).to_have_count(0)
    demo.get_by_role("button", name="Undo", exact=True).click()
    expect(sheet(demo)).to_contain_text("1 fault")
    expect(second).to_have_count(0)
    pick(demo, "Ramp handrail")
    answer.get_by_role("button", name="Turn the section").click()
    expect(answer).not_to_contain_text("miss each other")
    demo.get_by_role("button", name="Undo", exact=True).click()
    expect(answer).to_contain_text("miss each other")
    answer.get_by_role("button", name="Put a piece in the corner").click()
    expect(rod(demo)).to_contain_text("at a transition piece")
    demo.get_by_role("button", name="Cutting list", exact=True).click()
    expect(schedule.get_by_role("row", name=re.compile("Transition piece, 100 mm × 100 mm"))).to_contain_text("1")


def test_a_second_section_follows_until_it_is_let_stand(demo: Page) -> None:
    pick(demo, "Handrail, moulded, on the rise")
    answer = card(demo)
    answer.get_by_role("button", name="Handrail, moulded", exact=True).click()
    height = answer.get_by_label("Height", exact=True)
    height.fill("60")
    height.press("Enter")
    saved(demo, 1)
    second = sheet(demo).get_by_role("button", name="Handrail, moulded, on the rise")
    expect(second).not_to_contain_text("44.2")
    second.click()
    answer.get_by_role("button", name="Detach it").click()
    saved(demo, 2)
    # The run is of another one then, which follows.
    expect(sheet(demo).get_by_role("button", name="Handrail, moulded, on the rise 2")).to_have_count(1)
    expect(answer).not_to_contain_text("What does it follow?")
