"""Sizes and ranges on the desk, and runs placed in the cut across their line."""

from __future__ import annotations

import re

from acting import NEW_LINE, card, choose, middle_of, pick, rod, saved, sheet
from playwright.sync_api import Page, expect


def found(page: Page, name: str) -> None:
    """Find something in the job sheet by its name and select it."""
    page.get_by_placeholder("Find").fill(name)
    sheet(page).get_by_role("button", name=re.compile(f"^{name}")).first.click()


def test_a_range_is_made_and_a_run_is_made_in_one_of_its_sizes(demo: Page) -> None:
    found(demo, "Architrave, drawn here")
    answer = card(demo)
    expect(answer.get_by_label("height of 120")).to_have_value("120")
    # A size by name follows another, and shows its value.
    answer.get_by_role("button", name="Name a size").click()
    answer.get_by_label("Name of the size").fill("reveal")
    answer.get_by_label("What the size is").fill("board / 2")
    answer.get_by_label("What the size is").press("Enter")
    saved(demo, 1)
    expect(answer.get_by_label("Reveal", exact=True)).to_have_value("board / 2")
    expect(answer).to_contain_text("= 8")
    # A row more, and its height.
    answer.get_by_role("button", name="Add a size to the range").click()
    saved(demo, 2)
    answer.get_by_label("height of 145").fill("140")
    answer.get_by_label("height of 145").press("Enter")
    saved(demo, 3)
    # Beyond its limits it is refused with them.
    answer.get_by_label("height of 145").fill("400")
    answer.get_by_label("height of 145").press("Enter")
    expect(answer.get_by_role("alert").filter(has_text="at most 150").first).to_be_visible()
    expect(answer.get_by_label("height of 145")).to_have_value("140")
    # A run of the skirting becomes one of the architrave, in a size.
    found(demo, "Skirting, south-east")
    choose(answer, "Section", "Architrave, drawn here")
    saved(demo, 4)
    choose(answer, "Size", "120")
    saved(demo, 5)
    expect(answer).to_contain_text("Architrave, drawn here, 120 20 × 120")
    demo.get_by_role("button", name="Cutting list").first.click()
    expect(demo.get_by_role("main")).to_contain_text("in 120")


def test_a_run_is_moved_about_its_line_in_the_cut_across_it(demo: Page) -> None:
    found(demo, "Skirting, south-east")
    demo.get_by_role("button", name="Cut", exact=True).click()
    answer = card(demo)
    across = demo.get_by_role("application", name="Cut across Hall floor, south-east")
    run = across.locator("[data-run]").first
    expect(run).to_be_visible()
    box = run.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    # Up a good way: the preview follows, and its release is one change.
    demo.mouse.move(x, y)
    demo.mouse.down()
    demo.mouse.move(x, y - 20)
    demo.mouse.move(x, y - 60, steps=4)
    demo.mouse.up()
    saved(demo, 1)
    expect(answer.get_by_label("Lift", exact=True)).not_to_have_value("0")
    across.focus()
    demo.keyboard.press("]")
    saved(demo, 2)
    expect(answer.get_by_label("Roll", exact=True)).to_have_value("-1")
    demo.keyboard.press("ArrowRight")
    saved(demo, 3)
    # Said of its top, it stays where it is; typed, its top is there.
    before = answer.get_by_label("Lift", exact=True).input_value()
    choose(answer, "Measured up to", "its top")
    saved(demo, 4)
    expect(answer.get_by_label("Lift", exact=True)).not_to_have_value(before)
    answer.get_by_label("Lift", exact=True).fill("900")
    answer.get_by_label("Lift", exact=True).press("Enter")
    saved(demo, 5)
    demo.get_by_text("All that stands here").click()
    expect(across).to_contain_text("Picture rail")
    # Away from the wall behind its line is the side it faces already.
    expect(rod(demo)).to_contain_text("faces left of travel")
    answer.get_by_role("radio", name="Away from the wall").click()
    saved(demo, 6)
    expect(rod(demo)).to_contain_text("faces left of travel")
    # A hand on the rod leads the cut along, and near the corner what is cut there is seen beside the section as it is drawn.
    lath = rod(demo).get_by_label(re.compile("^Rod of")).bounding_box()
    assert lath is not None
    demo.mouse.move(lath["x"] + 200, lath["y"] + 40)
    demo.mouse.down()
    demo.mouse.move(lath["x"] + 120, lath["y"] + 40, steps=4)
    demo.mouse.up()
    expect(demo.get_by_label("Chainage")).not_to_have_value("300")
    expect(across.locator("[data-cut]")).to_have_count(0)
    demo.get_by_label("Chainage").fill("895")
    demo.get_by_label("Chainage").press("Enter")
    expect(across.locator("[data-cut]").first).to_be_visible()
    with demo.expect_download() as saved_as:
        demo.get_by_role("link", name="DXF").click()
    assert saved_as.value.suggested_filename == "Hall floor, south-east at 895.dxf"


def test_a_section_is_joined_hidden_kept_for_other_jobs_and_taken_in_a_newer_version(demo: Page) -> None:
    found(demo, "Hall crown, built up")
    answer = card(demo)
    expect(answer.get_by_text("Narrowest place")).to_be_visible()
    # A rebate: seen on the desk before it is cut.
    answer.get_by_role("button", name="Join or cut").click()
    desk = demo.get_by_role("application", name="Section Hall crown, built up")
    before = desk.locator("[data-point]").count()
    answer.get_by_label("Its bottom, up").fill("20")
    answer.get_by_label("Its bottom, up").press("Enter")
    expect(desk.locator("[data-point]")).not_to_have_count(before)
    answer.get_by_role("button", name="Cut it away").click()
    saved(demo, 1)
    # What would leave nothing is refused in words.
    answer.get_by_role("button", name="Join or cut").click()
    answer.get_by_role("radio", name="In common").click()
    answer.get_by_label("Its back, across").fill("300")
    answer.get_by_label("Its back, across").press("Enter")
    answer.get_by_role("button", name="Keep what is common").click()
    expect(answer.get_by_role("alert").filter(has_text="nothing in common").first).to_be_visible()
    answer.get_by_role("button", name="Not now").click()
    # Kept, changed, and kept again: two versions, each by somebody.
    answer.get_by_label("Folder in the shop's library").fill("Crowns")
    answer.get_by_role("button", name="Keep in the shop's library").click()
    expect(answer).to_contain_text("Version 1 of the shop's library.")
    answer.get_by_label("Height", exact=True).fill("140")
    answer.get_by_label("Height", exact=True).press("Enter")
    expect(answer).to_contain_text("changed here since")
    answer.get_by_label("What was changed").fill("ten higher")
    answer.get_by_label("What was changed").press("Enter")
    expect(answer).to_contain_text("Version 2 of the shop's library.")
    # Back to the first: that there is a newer one is shown with what it would change.
    answer.get_by_role("button", name="Its 2 versions").click()
    answer.get_by_role("button", name="Take it").last.click()
    expect(answer).to_contain_text("Version 2 is there: ten higher")
    expect(answer).to_contain_text("No run is made of it here.")
    answer.get_by_role("button", name="Take it").first.click()
    expect(answer).to_contain_text("Version 2 of the shop's library.")
    # And it is there for every job.
    demo.get_by_role("button", name="Pick a section").click()
    demo.get_by_role("radio", name="The shop's own").click()
    expect(demo.get_by_role("main")).to_contain_text("Crowns")
    kept = demo.get_by_role("main").get_by_role("button", name=re.compile("Hall crown, built up"))
    kept.click()
    demo.get_by_label("Folder", exact=True).fill("Old crowns")
    demo.keyboard.press("Enter")
    expect(demo.get_by_role("heading", name="Old crowns")).to_be_visible()
    # Of one that is run the pieces that are cut differently are listed.
    found(demo, "Skirting, chamfered")
    answer.get_by_role("button", name="Keep in the shop's library").click()
    expect(answer).to_contain_text("Version 1 of the shop's library.")
    answer.get_by_label("Scale width and height together").uncheck()
    answer.get_by_label("Width", exact=True).fill("24")
    answer.get_by_label("Width", exact=True).press("Enter")
    answer.get_by_label("What was changed").fill("thicker")
    answer.get_by_label("What was changed").press("Enter")
    expect(answer).to_contain_text("Version 2 of the shop's library.")
    answer.get_by_role("button", name="Its 2 versions").click()
    answer.get_by_role("button", name="Take it").last.click()
    expect(answer).to_contain_text(re.compile("It would change 2 runs, 15 pieces: .*Cut differently: S"))


def test_a_rule_runs_a_section_along_lines_that_come_later(demo: Page) -> None:
    sheet(demo).get_by_role("button", name="By rule").click()
    dialog = demo.get_by_role("dialog")
    dialog.get_by_role("radio", name="Name").click()
    dialog.get_by_label("Lines of which name").fill(NEW_LINE.lower())
    choose(dialog, "Section of the new rule", "Tube 60.3, as it is sold")
    choose(dialog, "New rule faces", "right of travel")
    dialog.get_by_role("button", name="Run it along them").click()
    # While it is open the rest of the window is not there for anybody.
    expect(dialog.get_by_role("region", name="Tube 60.3, as it is sold")).to_contain_text("0 runs")
    dialog.get_by_role("button", name="Close").click()
    demo.keyboard.press("w")
    demo.get_by_role("textbox", name="Walk").fill("2000, right 90, 1000")
    demo.get_by_role("button", name="Make the line").click()
    saved(demo, 2)
    expect(sheet(demo).get_by_role("button", name="1 rule")).to_be_visible()
    found(demo, f"Tube 60.3, as it is sold, {NEW_LINE}")
    expect(card(demo)).to_contain_text(f"By rule: every line with “{NEW_LINE.lower()}” in its name")


def test_a_rule_sets_items_out_along_lines_that_come_later(demo: Page) -> None:
    sheet(demo).get_by_role("button", name="By rule").click()
    dialog = demo.get_by_role("dialog")
    dialog.get_by_role("radio", name="Rows of items").click()
    dialog.get_by_role("radio", name="Name").click()
    dialog.get_by_label("Lines of which name").fill(NEW_LINE.lower())
    choose(dialog, "Items as in the row", "Bollard lights")
    dialog.get_by_role("button", name="Set items out along them").click()
    expect(dialog.get_by_role("region", name="Bollard lights")).to_contain_text("0 rows")
    dialog.get_by_role("button", name="Close").click()
    demo.keyboard.press("w")
    demo.get_by_role("textbox", name="Walk").fill("9000")
    demo.get_by_role("button", name="Make the line").click()
    saved(demo, 2)
    found(demo, f"Bollard lights, {NEW_LINE}")
    expect(card(demo)).to_contain_text(f"By rule: every line with “{NEW_LINE.lower()}” in its name")
    # The row that it is like says so, and takes it along.
    found(demo, "Bollard lights")
    expect(card(demo)).to_contain_text("Rows by rule are like this one")
    card(demo).get_by_label("Lift").fill("40")
    demo.keyboard.press("Enter")
    saved(demo, 3)
    found(demo, f"Bollard lights, {NEW_LINE}")
    expect(card(demo).get_by_label("Lift")).to_have_value("40")


def test_corners_are_coped_and_long_pieces_jointed(demo: Page) -> None:
    # A face that undercuts cannot be coped, and the reason is reported; that of the skirting can.
    pick(demo, "Dado rail")
    answer = card(demo)
    choose(answer, "Internal corners", "coped")
    saved(demo, 1)
    expect(answer).to_contain_text("No cope here, but a mitre: the face of the section is undercut")
    demo.get_by_role("button", name="Undo").click()
    expect(answer).not_to_contain_text("No cope here")
    pick(demo, "Skirting, door to door")
    expect(answer.get_by_role("button", name="Internal: is coped")).to_contain_text("the piece after")
    expect(rod(demo)).to_contain_text("90° coped")
    choose(answer, "Internal corners", "mitred")
    saved(demo, 2)
    expect(rod(demo)).not_to_contain_text("coped")
    answer.get_by_role("radio", name="Jointed").click()
    saved(demo, 3)
    joints = rod(demo).get_by_role("slider")
    expect(joints.first).to_be_visible()
    answer.get_by_label("From bars").fill("3000 · 3.6 m")
    demo.keyboard.press("Tab")
    saved(demo, 4)
    expect(answer.get_by_label("From bars")).to_have_value("3000 · 3600")
    choose(answer, "Joint", "scarf")
    saved(demo, 5)
    expect(demo.get_by_role("main")).to_be_visible()
    # One is moved by its keys, and by hand; by rule again all stand where they stood.
    before = joints.evaluate_all("all => all.map(one => Number(one.getAttribute('aria-valuenow')))")
    joints.nth(1).focus()
    demo.keyboard.press("ArrowLeft")
    saved(demo, 6)
    expect(joints.nth(1)).to_have_attribute("aria-valuenow", str(before[1] - 10))
    expect(answer).to_contain_text("placed by hand")
    x, y = middle_of(joints.nth(1))
    demo.mouse.move(x, y - 10)
    demo.mouse.down()
    demo.mouse.move(x - 15, y - 10, steps=4)
    expect(joints.nth(1)).not_to_have_attribute("aria-valuenow", str(before[1] - 10))
    demo.mouse.up()
    saved(demo, 7)
    answer.get_by_role("button", name="By rule again").click()
    expect(joints.nth(1)).to_have_attribute("aria-valuenow", str(before[1]))
    answer.get_by_role("radio", name="In one length").click()
    expect(joints).to_have_count(0)


def test_a_line_is_set_out_for_a_run_by_its_face(demo: Page) -> None:
    # What cannot go up says so, and nothing is changed.
    found(demo, "Upper ramp rail")
    answer = card(demo)
    answer.get_by_role("button", name="Set a line out where its datum lies").click()
    expect(demo.get_by_role("alert").filter(has_text="to its sides only")).to_be_visible()
    found(demo, "Gate hoop")
    answer.get_by_role("button", name="how far its faces lie from there").click()
    expect(answer.get_by_label("Name of the line")).to_have_value("Quay gate, set out")
    expect(answer.get_by_label("East")).to_have_value("-1175.85")
    answer.get_by_label("Stand-off").fill("-10")
    answer.get_by_label("Stand-off").press("Enter")
    saved(demo, 1)
    expect(answer.get_by_label("East")).to_have_value("-1165.85")
    # A thicker tube: its faces stay, and its line goes in.
    demo.keyboard.press("Escape")
    found(demo, "Round tube")
    answer.get_by_label("Width", exact=True).fill("60")
    answer.get_by_label("Width", exact=True).press("Enter")
    saved(demo, 2)
    found(demo, "Quay gate, set out")
    expect(answer.get_by_label("East")).to_have_value("-1160")
    answer.get_by_role("button", name="Gate hoop").first.click()
    expect(answer).to_contain_text("Its line is set out for it, from Quay gate")
