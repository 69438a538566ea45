"""Outlines that are no sections yet: what is wrong is shown while they are drawn, kept as drafts, mended, given a thickness."""

from __future__ import annotations

import re
from pathlib import Path

from acting import NEW_SECTION, box_of, card, middle_of, pick, saved, sheet
from playwright.sync_api import Page, expect

from slow_ribbon.demo.rail_picture import rail_picture


def draw(page: Page, *typed: tuple[str, str]) -> None:
    main = page.get_by_role("main")
    for first, second in typed:
        main.get_by_role("textbox").first.fill(first)
        main.get_by_role("textbox").last.fill(second)
        page.keyboard.press("Enter")
        expect(main.get_by_role("textbox").first).to_have_value("")


def test_an_outline_that_crosses_is_reported_kept_and_mended(demo: Page) -> None:
    sheet(demo).get_by_role("button", name="Draw one").click()
    main = demo.get_by_role("main")
    # A bow: its fourth edge crosses the second.
    draw(demo, ("0", "0"), ("40", "0"), ("42.4264", "135"), ("20", "0"))
    demo.keyboard.press("Enter")
    wrong = main.get_by_role("list", name="What is wrong")
    expect(main.get_by_role("alert")).to_contain_text("crosses")
    main.get_by_role("button", name="Keep as a draft").click()
    saved(demo, 1)
    answer = card(demo)
    kept = sheet(demo).get_by_role("button", name=f"{NEW_SECTION} draft")
    expect(kept).to_be_visible()
    expect(answer).to_contain_text("cannot be run")
    expect(answer).to_contain_text("It is open")
    expect(answer.get_by_role("button", name="Make it a section")).to_be_disabled()
    answer.get_by_role("button", name="Close it").click()
    saved(demo, 2)
    expect(answer).to_contain_text("crosses or touches itself")
    expect(wrong).not_to_be_attached()
    answer.get_by_role("button", name="Keep the larger part").click()
    saved(demo, 3)
    expect(answer.get_by_role("list", name="What is wrong")).not_to_be_attached()
    demo.get_by_role("button", name="Undo").click()
    expect(answer).to_contain_text("crosses or touches itself")
    demo.get_by_role("button", name="Redo").click()
    answer.get_by_role("button", name="Make it a section").click()
    expect(answer.get_by_label("Width", exact=True)).to_have_value("40")
    expect(kept).not_to_be_attached()


def test_an_open_outline_is_given_a_thickness(demo: Page) -> None:
    """A channel of sheet 3 thick, drawn by its outside, its corners rounded."""
    sheet(demo).get_by_role("button", name="Draw one").click()
    draw(demo, ("0", "40"), ("40", "-90"), ("60", "0"), ("40", "90"))
    demo.get_by_role("main").get_by_role("button", name="Keep as a draft").click()
    saved(demo, 1)
    answer = card(demo)
    answer.get_by_role("button", name="Give it a thickness").click()
    # To the right it lies outside, to the left inside; too thick is reported.
    answer.get_by_role("radio", name="left").click()
    answer.get_by_label("Thickness", exact=True).fill("45")
    demo.keyboard.press("Tab")
    expect(answer.get_by_role("alert")).to_contain_text("too short")
    answer.get_by_label("Thickness", exact=True).fill("3")
    demo.keyboard.press("Tab")
    expect(answer.get_by_role("alert")).not_to_be_attached()
    answer.get_by_role("button", name="Apply the thickness").click()
    saved(demo, 2)
    answer.get_by_role("button", name="Make it a section").click()
    expect(answer.get_by_label("Width", exact=True)).to_have_value("60")
    # (60 + 40 + 40)·3 − 2·3² = 402.
    expect(answer).to_contain_text(re.compile("402|4.02"))


def test_a_drag_that_cannot_be_is_reported_at_its_place_and_may_be_kept(demo: Page) -> None:
    pick(demo, "Skirting, chamfered")
    x, y = middle_of(demo.locator("[data-point='0 1']"))
    demo.mouse.move(x, y)
    demo.mouse.down()
    # Its front foot is dragged far behind its back: the outline crosses itself.
    demo.mouse.move(x - 160, y - 90, steps=5)
    demo.mouse.move(x - 170, y - 100, steps=5)
    demo.mouse.up()
    bar = demo.get_by_role("status").filter(has_text="The section stays as it was")
    expect(bar).to_contain_text("crosses")
    bar.get_by_role("button", name="Keep it as a draft").click()
    answer = card(demo)
    expect(answer).to_contain_text("It is meant for Skirting, chamfered")
    # Its point is dragged back: it is sound, and becomes the section's outline.
    x, y = middle_of(demo.locator("[data-point='1']"))
    demo.mouse.move(x, y)
    demo.mouse.down()
    demo.mouse.move(x + 150, y + 60, steps=5)
    demo.mouse.move(x + 300, y + 80, steps=5)
    demo.mouse.up()
    expect(answer.get_by_role("list", name="What is wrong")).not_to_be_attached()
    answer.get_by_role("button", name="Make it the outline of Skirting, chamfered").click()
    expect(answer).to_contain_text("a change here changes them all")
    expect(sheet(demo).get_by_role("button", name="Skirting, chamfered draft")).not_to_be_attached()


def test_an_outline_is_traced_over_a_picture_set_to_scale(demo: Page, tmp_path: Path) -> None:
    (tmp_path / "end grain.png").write_bytes(rail_picture())
    with demo.expect_file_chooser() as chooser:
        sheet(demo).get_by_role("button", name="Trace a picture").click()
    chooser.value.set_files(tmp_path / "end grain.png")
    answer = card(demo)
    expect(answer.get_by_label("Name of the draft")).to_have_value("end grain")
    desk = demo.get_by_role("application", name="Draft outline")
    picture = desk.locator("image")
    expect(picture).to_be_attached()
    # The dimension drawn in it is 22 mm between its two ends, 220 pixels of 920.
    answer.get_by_role("button", name="Set it to scale").click()
    answer.get_by_label("A length known in it").fill("22 mm")
    answer.get_by_role("button", name="Pick its two ends").click()
    box = box_of(picture)
    across, high = box["width"] / 920, box["height"] / 720
    for pixel, asked in ((352, "the first …"), (572, "and the second")):
        expect(desk).to_contain_text(asked)
        demo.mouse.click(box["x"] + pixel * across, box["y"] + 650 * high)
    saved(demo, 3)
    answer.get_by_role("button", name="Done").click()
    expect(answer).not_to_contain_text("Width of the whole")
    # Three places of its foot are traced; it is closed and made a section about as wide as the dimension says.
    now = box_of(picture)
    across, high = now["width"] / 920, now["height"] / 720
    for number, (x, y) in enumerate(((352, 578), (572, 578), (572, 488))):
        demo.mouse.click(now["x"] + x * across, now["y"] + y * high)
        expect(desk.locator("[data-point]")).to_have_count(number + 1)
    saved(demo, 5)
    answer.get_by_role("button", name="Close it").click()
    answer.get_by_role("button", name="Make it a section").click()
    width = answer.get_by_label("Width", exact=True)
    expect(width).to_be_visible()
    assert abs(float(width.input_value()) - 22) < 1
    expect(answer).to_contain_text("end grain.png")
