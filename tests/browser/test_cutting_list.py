"""The cutting list in the window: found, sorted, grouped, walked by keyboard, with its heads and totals in sight."""

from __future__ import annotations

import pytest
from acting import card, sheet
from playwright.sync_api import Locator, Page, expect


def tags(table: Locator) -> list[str]:
    return [
        name.removeprefix("Piece ") for name in table.get_by_role("button").evaluate_all("all => all.map(e => e.ariaLabel ?? '')") if name
    ]


def figures(cells: Locator) -> list[float]:
    return [float(text.replace("\u2009", "")) for text in cells.all_inner_texts() if text]


def test_it_is_found_sorted_and_grouped(demo: Page) -> None:
    expect(sheet(demo)).to_contain_text("120 pieces")
    demo.keyboard.press("u")
    main = demo.get_by_role("main")
    table = main.get_by_role("table").first
    expect(table.get_by_role("rowheader", name="All · 120 pieces")).to_be_in_viewport()
    main.get_by_label("Find in the cutting list").fill("skirting, south-east")
    expect(table).to_contain_text("Found · 7 pieces")
    assert tags(table) == [f"SE{number}" for number in range(1, 8)]
    table.get_by_role("button", name="Long point").click()
    lengths = figures(table.locator("tbody tr:not(:has(th)) td:nth-child(4)"))
    (total,) = figures(table.locator("thead tr:nth-child(2) th + td"))
    assert lengths == sorted(lengths, reverse=True)
    # Each is told to the millimetre.
    assert total == pytest.approx(sum(lengths), abs=len(lengths) / 2 + 0.5)
    table.get_by_role("button", name="Long point").click()
    expect(table.get_by_role("columnheader", name="Long point")).to_have_attribute("aria-sort", "ascending")
    main.get_by_label("Find in the cutting list").fill("S2")
    assert tags(table) == ["S2"]
    table.get_by_role("button", name="Show all").click()
    main.get_by_label("The cutting list is set out").click()
    demo.get_by_role("option", name="by section").click()
    main.get_by_label("What is in the cutting list").click()
    demo.get_by_role("option", name="Picture rail").click()
    expect(table).to_contain_text("Found · 41 pieces")
    table.get_by_role("button", name="Picture rail", exact=True).first.click()
    expect(card(demo)).to_contain_text("3 runs")


def test_it_and_the_schedule_are_walked_by_keyboard(demo: Page) -> None:
    expect(sheet(demo)).to_contain_text("120 pieces")
    demo.keyboard.press("u")
    main = demo.get_by_role("main")
    main.get_by_role("button", name="Piece S1", exact=True).focus()
    for _ in range(9):
        demo.keyboard.press("ArrowDown")
    # Over the head of the next run to its first piece, which Enter chooses.
    demo.keyboard.press("Enter")
    expect(card(demo)).to_contain_text("Piece SE1")
    schedule = main.get_by_role("region", name="Schedule")
    schedule.get_by_role("button", name="Skirting, chamfered").focus()
    for _ in range(10):
        demo.keyboard.press("ArrowDown")
    demo.keyboard.press("Enter")
    expect(card(demo).get_by_label("Name of the row")).to_have_value("Fence posts")
