"""A field kept clear of a path, frames set out along a line, lamps down to one level: as somebody makes them in the window."""

from __future__ import annotations

import re

from acting import PIECES, card, choose, pick, saved, sheet
from playwright.sync_api import Page, expect


def test_a_bed_is_filled_and_kept_clear_of_the_path(demo: Page) -> None:
    pick(demo, "Planting bed")
    card(demo).get_by_role("button", name="Set items out").click()
    dialog = demo.get_by_role("dialog")
    dialog.get_by_role("radio", name="On the ground within it").click()
    choose(dialog, "What", "Bollard")
    choose(dialog, "How the ground is filled", "On a square grid")
    apart = dialog.get_by_label("Apart")
    apart.fill("2 m")
    demo.keyboard.press("Enter")
    dialog.get_by_role("button", name="Set them out").click()
    saved(demo, 1)
    came_out = card(demo).get_by_role("status", name="What came out")
    # Nine rows of two metres would be too deep for the bed's narrow end: what lies within is counted.
    expect(came_out).to_contain_text("m²")
    whole = int(re.findall(r"\d+", came_out.inner_text())[0])
    assert whole > 20
    choose(card(demo), "Keep clear of", "Garden path")
    expect(card(demo).get_by_role("list", name="Kept clear of")).to_contain_text("the strip along it")
    saved(demo, 2)
    expect(came_out).not_to_contain_text(f"{whole} items")
    assert int(re.findall(r"\d+", came_out.inner_text())[0]) < whole
    card(demo).get_by_role("radio", name="By chance").click()
    saved(demo, 3)
    card(demo).get_by_role("button", name="Draw again").click()
    saved(demo, 4)
    demo.keyboard.press("Control+z")
    demo.keyboard.press("Control+z")
    demo.keyboard.press("Control+z")
    expect(came_out).to_contain_text(f"{whole} items")


def test_a_frame_is_made_and_set_out(demo: Page) -> None:
    sheet(demo).get_by_role("button", name="Make a frame").click()
    dialog = demo.get_by_role("dialog")
    choose(dialog, "Shape of the frame", "Gable")
    bars = dialog.get_by_label("Upright bars")
    bars.fill("2")
    demo.keyboard.press("Enter")
    choose(dialog, "Section of the members", "Walk frame")
    dialog.get_by_role("button", name="Make it").click()
    saved(demo, 1)
    card(demo).get_by_role("button", name="Cut it by a plane").click()
    saved(demo, 2)
    pick(demo, "Quay edge")
    card(demo).get_by_role("button", name="Set items out").click()
    choose(dialog, "What", "A typical of this job")
    choose(dialog, "Typical", "Frame")
    dialog.get_by_role("button", name="Set them out").click()
    saved(demo, 3)
    came_out = card(demo).get_by_role("status", name="What came out")
    count = int(re.findall(r"\d+", came_out.inner_text())[0])
    # The cut lies below the eaves: a foot, two sides, a level top, and two bars, for every frame.
    expect(sheet(demo)).to_contain_text(f"{PIECES + 6 * count} pieces")


def test_a_frame_is_cut_by_the_underside_of_a_run(demo: Page) -> None:
    pick(demo, "Wind screen")
    card(demo).get_by_role("button", name="Cut it by a plane").click()
    saved(demo, 1)
    cuts = card(demo).get_by_role("list", name="Cuts of the frame")
    expect(cuts.get_by_label("At the height")).to_have_value("2025")
    choose(cuts, "What cuts the frame", "Underside of Cornice")
    expect(demo.get_by_text("Cornice does not pass over the frame: it is")).to_be_visible()
    expect(cuts.get_by_label("At the height")).to_have_value("2025")
    # Moved to where that lies, it is cut by it, and higher than by the plane.
    east = card(demo).get_by_label("Middle of its foot, east")
    east.fill("0")
    demo.keyboard.press("Enter")
    saved(demo, 2)
    choose(cuts, "What cuts the frame", "Underside of Cornice")
    saved(demo, 3)
    expect(cuts.get_by_label("At the height")).to_have_count(0)


def test_a_frame_is_filled(demo: Page) -> None:
    pick(demo, "Wind screen")
    filled = card(demo).get_by_role("status", name="What fills a frame")
    expect(filled).to_have_text("3 panes, 5.835 m² in each frame")
    card(demo).get_by_role("radio", name="Boards").click()
    saved(demo, 1)
    expect(filled).to_contain_text("3 panes, 21 boards")
    card(demo).get_by_role("radio", name="Level", exact=True).click()
    saved(demo, 2)
    expect(filled).not_to_contain_text("21 boards")
    width = card(demo).get_by_label("Width of a board")
    width.fill("0.5")
    demo.keyboard.press("Enter")
    expect(card(demo).get_by_role("alert")).to_contain_text("5")
    width.fill("200")
    demo.keyboard.press("Enter")
    saved(demo, 3)
    demo.get_by_role("button", name="Cutting list", exact=True).click()
    schedule = demo.get_by_role("region", name="Schedule")
    expect(schedule).to_contain_text("Wind screen, boards 200 mm × 18 mm")
    demo.get_by_role("button", name="Drawing", exact=True).click()
    for _ in range(3):
        demo.keyboard.press("Control+z")
    expect(filled).to_have_text("3 panes, 5.835 m² in each frame")
    # One of them by itself; taken out it leaves its bay open, and the others as they are.
    pick(demo, "Wind screen, pane 2")
    expect(card(demo).get_by_role("status", name="Size of the pane")).to_contain_text(re.compile(r"860 × 2\s475, 2\.073 m²"))
    card(demo).get_by_role("radio", name="Nothing").click()
    saved(demo, 4)
    pick(demo, "Wind screen")
    expect(filled).to_contain_text("3.762 m²")


def test_lamps_hang_down_to_one_level(demo: Page) -> None:
    sheet(demo).get_by_role("textbox", name="Find").fill("Lamps")
    pick(demo, "Lamps of the festoon")
    cords = card(demo).get_by_role("list", name="Cords with their items").get_by_role("listitem")
    expect(cords).to_have_count(3)
    expect(cords.first).to_contain_text("pulls 119 N at its lowest, 123 N and 123 N at its ends")
    level = card(demo).get_by_label("Their feet at the level")
    level.fill("3.6 m")
    demo.keyboard.press("Enter")
    saved(demo, 1)
    expect(card(demo)).to_contain_text("The line is too low here for an item that hangs at the level asked")
    demo.keyboard.press("Escape")
    demo.keyboard.press("Control+z")
    expect(card(demo)).not_to_contain_text("too low here")


def test_items_are_set_out_along_several_lines_at_once(demo: Page) -> None:
    pick(demo, "Bench")
    pick(demo, "Goods ramp", "Control")
    card(demo).get_by_role("button", name="Set items out").click()
    dialog = demo.get_by_role("dialog")
    expect(dialog).to_contain_text("Along each of 2 lines: Bench, Goods ramp")
    dialog.get_by_role("button", name="Set them out").click()
    saved(demo, 1)
    find = sheet(demo).get_by_role("textbox", name="Find")
    find.fill("Posts,")
    expect(sheet(demo).get_by_role("button", name="Posts, Bench")).to_be_visible()
    expect(sheet(demo).get_by_role("button", name="Posts, Goods ramp")).to_be_visible()
    demo.keyboard.press("Escape")
    demo.get_by_role("button", name="Undo").click()
    expect(sheet(demo).get_by_role("button", name="Posts, Bench")).to_have_count(0)
