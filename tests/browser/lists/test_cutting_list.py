"""The cutting list in the window: found, sorted, grouped, walked by keyboard, with its heads and totals in sight."""

from __future__ import annotations

import pytest
from acting import PIECES, ask_for_card, card, choose, pick, saved, sheet
from playwright.sync_api import Locator, Page, Route, expect


def tags(table: Locator) -> list[str]:
    return [
        name.removeprefix("Piece ") for name in table.get_by_role("button").evaluate_all("all => all.map(e => e.ariaLabel ?? '')") if name
    ]


def figures(cells: Locator) -> list[float]:
    return [float(text.replace("\u2009", "")) for text in cells.all_inner_texts() if text]


def test_it_is_found_sorted_and_grouped(demo: Page) -> None:
    expect(sheet(demo)).to_contain_text(f"{PIECES} pieces")
    demo.keyboard.press("u")
    main = demo.get_by_role("main")
    table = main.get_by_role("table").first
    expect(table.get_by_role("rowheader", name=f"All · {PIECES} pieces")).to_be_in_viewport()
    main.get_by_label("Find in the cutting list").fill("skirting, south-east")
    expect(table).to_contain_text("Found · 7 pieces")
    assert tags(table) == [f"SE{number}" for number in range(1, 8)]
    table.get_by_role("button", name="Long point").click()
    lengths = figures(table.locator("tbody tr:not(:has(th)) td:nth-child(4)"))
    (total,) = figures(table.locator("thead tr:nth-child(2) th + td"))
    assert lengths == sorted(lengths, reverse=True)
    # Each is reported to the millimetre.
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
    ask_for_card(demo)
    expect(card(demo)).to_contain_text("3 runs")


def test_tags_stay_notes_are_kept_and_columns_are_chosen(demo: Page) -> None:
    pick(demo, "Boarding ramp")
    answer = card(demo)
    # The second corner taken out: one piece in the place of two, with a number that none has had; the other keeps its own.
    demo.locator("rect[data-point='2']").first.click()
    demo.keyboard.press("Delete")
    saved(demo, 1)
    pick(demo, "Ramp handrail")
    demo.keyboard.press("u")
    main = demo.get_by_role("main")
    expect(main.get_by_role("button", name="Piece R4", exact=True)).to_be_visible()
    expect(main.get_by_role("button", name="Piece R3", exact=True)).to_have_count(0)
    main.get_by_role("button", name="Piece R1", exact=True).click()
    ask_for_card(demo)
    note = answer.get_by_label("Note", exact=True)
    note.fill("Plane the foot on site")
    note.press("Enter")
    saved(demo, 2)
    table = main.get_by_role("table").first
    expect(table).to_contain_text("Plane the foot on site")
    demo.keyboard.press("Escape")
    main.get_by_role("button", name="Columns").click()
    demo.get_by_label("Short point").uncheck()
    demo.get_by_label("Notes").uncheck()
    demo.keyboard.press("Escape")
    expect(table.get_by_role("columnheader", name="Short point")).to_have_count(0)
    expect(table).not_to_contain_text("Plane the foot on site")
    # It stays so when the window is opened again.
    demo.reload()
    expect(sheet(demo)).to_contain_text(f"{PIECES - 1} pieces")
    demo.keyboard.press("u")
    expect(table.get_by_role("columnheader", name="Long point")).to_have_count(1)
    expect(table.get_by_role("columnheader", name="Short point")).to_have_count(0)
    choose(main, "The cutting list is set out", "by place")
    main.get_by_label("Find in the cutting list").fill("W3")
    expect(table).to_contain_text("Found · 3 pieces")
    expect(table.get_by_role("rowheader", name="W3").first).to_be_visible()


def test_it_and_the_schedule_are_walked_by_keyboard(demo: Page) -> None:
    expect(sheet(demo)).to_contain_text(f"{PIECES} pieces")
    demo.keyboard.press("u")
    main = demo.get_by_role("main")
    main.get_by_role("button", name="Piece S1", exact=True).focus()
    for _ in range(9):
        demo.keyboard.press("ArrowDown")
    # Over the head of the next run to its first piece, which Enter chooses.
    demo.keyboard.press("Enter")
    ask_for_card(demo)
    expect(card(demo)).to_contain_text("Piece SE1")
    schedule = main.get_by_role("region", name="Schedule")
    schedule.get_by_role("button", name="Skirting, chamfered").focus()
    for _ in range(schedule.get_by_role("button").all_inner_texts().index("Fence posts")):
        demo.keyboard.press("ArrowDown")
    demo.keyboard.press("Enter")
    expect(card(demo).get_by_label("Name of the row")).to_have_value("Fence posts")


def test_rows_come_when_the_list_is_looked_at_and_those_that_changed_alone(demo: Page) -> None:
    asked: list[int] = []
    failing = True

    def answered(route: Route) -> None:
        asked.append(len(route.request.url.partition("keys=")[2].replace("%2C", ",").split(",")))
        route.abort() if failing else route.continue_()

    demo.route("**/cutting?**", answered)
    expect(sheet(demo)).to_contain_text(f"{PIECES} pieces")
    assert asked == []
    demo.keyboard.press("u")
    main = demo.get_by_role("main")
    expect(main.get_by_role("alert")).to_contain_text("could not be fetched")
    failing = False
    main.get_by_role("button", name="Try again").click()
    expect(main.get_by_role("button", name="Piece S1", exact=True)).to_be_visible()
    expect(main.get_by_role("alert")).to_have_count(0)
    # The first rows come before the rest; all of them are there.
    expect(main.get_by_role("rowheader", name=f"All · {PIECES} pieces")).to_be_attached()
    demo.wait_for_load_state("networkidle")
    asked.clear()
    # Another placing makes other rows of that run, and of no other.
    pick(demo, "Skirting, door to door")
    ask_for_card(demo)
    field = card(demo).get_by_label("Lift")
    field.fill("5")
    with demo.expect_request("**/cutting?**"):
        field.press("Enter")
        saved(demo, 1)
    demo.wait_for_load_state("networkidle")
    assert set(asked) == {1}
