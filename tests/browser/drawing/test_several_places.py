"""Lines drawn once that stand in several places: picked, changed, laid, listed, cut loose, in the running application."""

from __future__ import annotations

import re

from acting import card, pick, plan, saved, sheet
from playwright.sync_api import Locator, Page, expect


def piece(page: Page, tag: str) -> Locator:
    return page.get_by_role("row").filter(has=page.get_by_role("button", name=f"Piece {tag}", exact=True))


def test_six_windows_are_drawn_once_and_listed_once(demo: Page) -> None:
    pick(demo, "Hall windows")
    answer = card(demo)
    expect(answer).to_contain_text("stands in 6 places, 2 of them mirrored")
    # One is picked in the drawing, and left out.
    demo.locator("[data-place=W6]").last.dispatch_event("pointerdown", {"button": 0, "pointerId": 1})
    places = answer.get_by_role("list", name="Places")
    places.get_by_role("button", name="W6").click()
    answer.get_by_label("Left out").check()
    saved(demo, 1)
    expect(answer).to_contain_text("stands in 5 places, 1 of them mirrored")
    demo.get_by_role("button", name="Cutting list", exact=True).click()
    demo.get_by_placeholder("Find a tag, run or section").fill("architrave")
    expect(piece(demo, "WI1")).to_contain_text("in W1, W2, W4, W5")
    expect(piece(demo, "WI1").get_by_role("cell").nth(1)).to_have_text("4")
    expect(piece(demo, "WI1M").get_by_role("cell").nth(1)).to_have_text("1")
    demo.get_by_role("button", name="Undo", exact=True).click()
    expect(piece(demo, "WI1M").get_by_role("cell").nth(1)).to_have_text("2")
    demo.get_by_role("button", name="Drawing", exact=True).click()
    # A window wider than the others: its head alone is another.
    pick(demo, "Hall windows")
    places.get_by_role("button", name="W2").click()
    answer.get_by_label("window width is there").fill("1400")
    answer.get_by_label("window width is there").press("Enter")
    expect(places.get_by_role("button", name="W2")).to_contain_text("own measure")
    demo.get_by_role("button", name="Cutting list", exact=True).click()
    expect(piece(demo, "WI2-W2")).to_contain_text("1 400")
    expect(piece(demo, "WI1")).to_contain_text("in W1, W2, W4, W5")
    demo.get_by_role("button", name="Drawing", exact=True).click()
    # Edited where it is drawn, all follow.
    answer.get_by_role("button", name="W1 as drawn").click()
    expect(answer).to_contain_text("Stands in 6 places")
    # Cut loose it is lines and runs of its own.
    pick(demo, "Hall windows")
    places.get_by_role("button", name="W5").click()
    answer.get_by_role("button", name="Cut loose").click()
    expect(answer).to_contain_text("stands in 5 places")
    expect(sheet(demo).get_by_role("button", name="Hall window, W5")).to_be_visible()
    demo.get_by_role("button", name="Undo", exact=True).click()
    expect(answer).to_contain_text("stands in 6 places")


def test_places_are_laid_clicked_and_listed(demo: Page) -> None:
    pick(demo, "Landing rail")
    answer = card(demo)
    answer.get_by_role("button", name="Let it stand in several places").click()
    dialog = demo.get_by_role("dialog")
    dialog.get_by_label("The place where it is drawn").fill("A1")
    dialog.get_by_role("radio", name="Grid").click()
    dialog.get_by_label("How many, east").fill("3")
    dialog.get_by_label("Centres, east").fill("4 m")
    dialog.get_by_role("button", name="Add the places").click()
    saved(demo, 1)
    expect(answer).to_contain_text("stands in 3 places")
    expect(sheet(demo).get_by_role("button", name=re.compile("^Landing rail 3 places"))).to_be_visible()
    # A thousand or more are asked about first.
    answer.get_by_role("button", name="More places").click()
    dialog.get_by_label("How many, east").fill("50")
    dialog.get_by_label("How many, north").fill("40")
    dialog.get_by_label("How many, north").press("Enter")
    dialog.get_by_label("Centres, north").fill("4 m")
    dialog.get_by_role("button", name="Add the places").click()
    expect(demo.get_by_text("would stand in 2,000 places")).to_be_visible()
    demo.get_by_role("dialog").filter(has_text="Before this is done").get_by_role("button", name="Cancel").click()
    expect(answer).to_contain_text("stands in 3 places")
    # From a list, whose second row is wrong: it says so, and nothing is lost of what was typed.
    answer.get_by_role("button", name="More places").click()
    dialog.get_by_role("radio", name="List").click()
    rows = dialog.get_by_label("A place in each row")
    rows.fill("North; 0; 12 m\nSouth; here; 0")
    dialog.get_by_role("button", name="Add the places").click()
    expect(dialog.get_by_role("alert")).to_contain_text("Row 2 of the list, South")
    expect(rows).to_have_value("North; 0; 12 m\nSouth; here; 0")
    rows.fill("North; 0; 12 m\nSouth; 0; -12 m; ; 180; mirrored")
    dialog.get_by_role("button", name="Add the places").click()
    saved(demo, 2)
    expect(answer).to_contain_text("stands in 5 places, 1 of them mirrored")
    # By clicking, one after another, until that is cancelled.
    answer.get_by_role("button", name="More places").click()
    dialog.get_by_role("radio", name="Click").click()
    dialog.get_by_role("button", name="Click the places").click()
    expect(demo.get_by_text("Click where its base point stands")).to_be_visible()
    box = plan(demo).bounding_box()
    assert box
    for number, (x, y) in enumerate(((0.3, 0.5), (0.6, 0.55)), start=6):
        expect(demo.get_by_text("Click where its base point stands")).to_be_visible()
        demo.mouse.click(box["x"] + box["width"] * x, box["y"] + box["height"] * y)
        expect(answer).to_contain_text(f"stands in {number} places")
    demo.get_by_role("button", name="Cancel", exact=True).click()
    expect(answer.get_by_role("list", name="Places").get_by_role("button")).to_have_count(6)
    # What stands in them is drawn in 3D from one mesh: nothing is fetched that was not fetched for what is drawn.
    fetched: list[str] = []
    demo.on("request", lambda request: fetched.append(request.url) if "/meshes" in request.url else None)
    demo.keyboard.press("o")
    expect(demo.locator("canvas")).to_be_visible()
    demo.wait_for_timeout(1500)
    keys = [key for url in fetched for key in re.split(r"keys=|,|%2C|/|\.glb", url) if re.fullmatch("[0-9a-f]{32}", key)]
    assert keys
    assert len(keys) == len(set(keys))
    answer.get_by_role("button", name="Keep it only where it is drawn").click()
    expect(sheet(demo).get_by_role("button", name=re.compile("^Landing rail 3 places"))).to_have_count(0)
