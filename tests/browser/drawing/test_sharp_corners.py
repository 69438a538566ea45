"""A needle is reported, and its points cut off square there and then; a corner is bent to a radius from the card."""

from __future__ import annotations

import re

from acting import card, pick, rod, saved, sheet
from playwright.sync_api import Page, expect


def test_a_needle_is_squared_off_and_a_corner_bent(demo: Page) -> None:
    pick(demo, "Boarding ramp")
    mark = demo.locator("rect[data-point='2']").first
    box = mark.bounding_box()
    assert box
    # The foot of the ramp is carried back beside it: less than 30° are left.
    far = demo.locator("rect[data-point='3']").first.bounding_box()
    assert far
    demo.mouse.move(far["x"] + 3.5, far["y"] + 3.5)
    demo.mouse.down()
    demo.mouse.move(box["x"] + 20, box["y"] - 50, steps=6)
    demo.mouse.up()
    saved(demo, 1)
    pick(demo, "Ramp handrail")
    answer = card(demo)
    expect(answer).to_contain_text("A needle mitre")
    answer.get_by_role("button", name="Cut the points off square").click()
    saved(demo, 2)
    expect(answer).not_to_contain_text("A needle mitre")
    expect(rod(demo)).to_contain_text("squared off")
    # A corner that is picked on the rod can be bent: the line is rounded there.
    pick(demo, "Picture rail 19")
    rod(demo).get_by_role("button", name=re.compile("^Corner 3, ")).click()
    radius = answer.get_by_label("Or bent to a radius")
    radius.fill("150")
    radius.press("Enter")
    saved(demo, 3)
    expect(sheet(demo).get_by_role("button", name="Hall walls")).to_contain_text("2 curves")
