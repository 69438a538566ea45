"""Items of a row by hand: several in turn, one of them held, moved and let go again, on the rod and by the keyboard."""

from __future__ import annotations

import re
import time

from acting import card, pick
from playwright.sync_api import Page, Route, expect


def test_an_item_is_dragged_on_the_rod_and_held_there(demo: Page) -> None:
    pick(demo, "Bollard lights")

    def slowly(route: Route) -> None:
        time.sleep(0.4)
        route.continue_()

    # What is dragged stays under the hand while the places of the others are still on their way.
    demo.route("**/places/*", slowly)
    rod = demo.get_by_role("region", name="Rod")
    third = rod.locator("[data-item='2']")
    box = third.bounding_box()
    assert box
    begin = (box["x"] + box["width"] / 2, box["y"] + 50)
    demo.mouse.move(*begin)
    demo.mouse.down()
    demo.mouse.move(begin[0] + 40, begin[1], steps=8)
    demo.mouse.up()
    held = card(demo).get_by_role("list", name="Held items").get_by_role("listitem")
    expect(held).to_have_count(1)
    expect(rod.locator("[data-item='2'] title")).to_contain_text("held")
    # Before it stand three at 2800, and those after it go on from it at the same centres.
    expect(card(demo).get_by_role("status", name="What came out")).to_contain_text("2 800")
    demo.get_by_role("button", name="Undo").click()
    expect(held).to_have_count(0)
    demo.get_by_role("button", name="Redo").click()
    expect(held).to_have_count(1)
    card(demo).get_by_role("button", name="let go").click()
    expect(held).to_have_count(0)


def test_an_item_is_picked_moved_exchanged_and_left_out_by_the_keyboard(demo: Page) -> None:
    pick(demo, "Bollard lights")
    rod = demo.get_by_role("application", name=re.compile("Rod of Bollard lights"))
    rod.focus()
    demo.keyboard.press("ArrowRight")
    demo.keyboard.press("ArrowRight")
    expect(card(demo)).to_contain_text("Item 2 of 9 items")
    rod.focus()
    demo.keyboard.press("Shift+ArrowRight")
    expect(card(demo)).to_contain_text("held here")
    card(demo).get_by_role("button", name=re.compile("^Which item: ")).click()
    demo.get_by_role("option", name="A", exact=True).click()
    items = card(demo).get_by_role("list", name="Items of the row").get_by_role("listitem")
    expect(items.nth(0)).to_contain_text("× 6")
    expect(items.nth(1)).to_contain_text("× 3")
    card(demo).get_by_role("button", name="Leave it out").click()
    expect(card(demo)).to_contain_text("8 items along Lamp line")
    expect(card(demo).get_by_role("list", name="Held items")).to_contain_text("left out")


def test_either_figure_of_the_spacing_is_held(demo: Page) -> None:
    pick(demo, "Lanterns on the cord")
    what = card(demo).get_by_role("status", name="What came out")
    expect(what).to_contain_text("15 items")
    card(demo).get_by_label("Items", exact=True).fill("9")
    card(demo).get_by_label("Items", exact=True).press("Enter")
    expect(what).to_contain_text("9 items")
    expect(card(demo).get_by_role("button", name="held: the number")).to_have_attribute("aria-pressed", "true")
    card(demo).get_by_label("Centres", exact=True).fill("1000")
    card(demo).get_by_label("Centres", exact=True).press("Enter")
    # 9578 without 400 at both ends, in bays of nearly 1000.
    expect(what).to_contain_text("10 items")
    expect(card(demo).get_by_role("button", name="held: the distance")).to_have_attribute("aria-pressed", "true")
    card(demo).get_by_role("button", name="follows: hold the number").click()
    expect(card(demo).get_by_role("button", name="held: the number")).to_be_visible()
    expect(what).to_contain_text("10 items")


def test_another_item_is_added_and_comes_in_turn(demo: Page) -> None:
    pick(demo, "Fence posts")
    card(demo).get_by_role("button", name="Add another item").click()
    items = card(demo).get_by_role("list", name="Items of the row").get_by_role("listitem")
    expect(items).to_have_count(2)
    card(demo).get_by_role("button", name=re.compile("^Kind of B: ")).click()
    demo.get_by_role("option", name="Bollard", exact=True).click()
    expect(items.nth(1)).to_contain_text("bollard")
    expect(items.nth(1)).to_contain_text("× 8")
    turns = card(demo).get_by_label("In turn")
    turns.fill("a b b")
    turns.press("Enter")
    expect(items.nth(1)).to_contain_text("× 11")
    turns.fill("A C")
    turns.press("Enter")
    expect(card(demo).get_by_text("Type the letters of this row’s items")).to_be_visible()
    turns.press("Escape")
    card(demo).get_by_role("button", name="Remove B").click()
    expect(items).to_have_count(0)


def test_an_item_is_turned_from_a_section(demo: Page) -> None:
    pick(demo, "Fence posts")
    card(demo).get_by_role("button", name=re.compile("^Kind: ")).click()
    demo.get_by_role("option", name="Turned from a section", exact=True).click()
    card(demo).get_by_role("button", name=re.compile("^Taken from: ")).click()
    demo.get_by_role("option", name="Fence capping", exact=True).click()
    # The capping is 70 wide and 23 high: turned about its left side it is 140 across.
    expect(card(demo).get_by_label("Height", exact=True)).to_have_value("23")
    expect(card(demo)).to_contain_text("Taken from")
    demo.get_by_role("button", name="Cutting list", exact=True).click()
    expect(demo.get_by_role("region", name="Schedule")).to_contain_text("Fence capping, turned, ⌀ 140")
