"""A newer issue of a drawing imported over the first, as a detailer does it."""

from __future__ import annotations

import re
from pathlib import Path

import ezdxf
from acting import card, pick, sheet
from playwright.sync_api import Page, expect
from served import ROOT

SECOND = ROOT / "docs" / "examples" / "waiting-hall-issue-2.dxf"


def bring(page: Page, file: Path) -> None:
    page.keyboard.press("b")
    page.get_by_label("Drawing file").set_input_files(file)


def test_of_a_newer_issue_the_layers_are_taken_that_lines_came_from(page: Page, tmp_path: Path) -> None:
    page.goto("/job/kestrel-slip-hall")
    expect(sheet(page)).to_be_visible()
    document = ezdxf.readfile(SECOND)
    document.modelspace().add_line((0, -5000), (4000, -5000), dxfattribs={"layer": "Notes"})
    document.saveas(tmp_path / "waiting-hall-issue-3.dxf")
    bring(page, tmp_path / "waiting-hall-issue-3.dxf")
    main = page.get_by_role("main")
    expect(main).to_contain_text("3 moved, 1 new, 1 gone")
    expect(main.get_by_role("checkbox", name="Notes")).not_to_be_checked()
    main.get_by_role("checkbox", name="Notes").check()
    expect(main).to_contain_text("3 moved, 2 new, 1 gone")
    main.get_by_label("Replaces").click()
    page.get_by_role("option", name="No: add its lines").click()
    expect(main.get_by_role("button", name="Add 7 lines")).to_be_enabled()


def test_a_newer_issue_is_looked_at_over_the_first_and_takes_its_place(page: Page) -> None:
    page.goto("/job/kestrel-slip-hall")
    expect(sheet(page)).to_be_visible()
    # The bench is worked on here before the newer issue comes, which no longer has it; so is the counter.
    pick(page, "Counter 3")
    card(page).get_by_label("Closed").get_by_role("radio", name="Closed").click()
    expect(page.get_by_role("banner")).to_contain_text("saved · 1 change")
    bring(page, SECOND)
    main = page.get_by_role("main")
    expect(main.get_by_label("Replaces")).to_contain_text("waiting-hall-issue-1.dxf")
    moved, gone = main.get_by_role("group", name="Moved 3"), main.get_by_role("group", name="Gone 1")
    expect(moved).to_contain_text("by up to 300")
    expect(moved).to_contain_text("worked on here since: left as it is")
    expect(gone).to_contain_text("Bench edge on it: it stays, with a check")
    expect(main).to_contain_text("2 moved, 1 new, 1 gone")
    moved.get_by_role("checkbox", name="Counter").check()
    expect(moved).to_contain_text("worked on here since: that is lost")
    main.get_by_role("group", name="New 1").get_by_role("checkbox", name="Column 2").uncheck()
    expect(main).to_contain_text("3 moved, 1 gone")
    # A line in the drawing says the same as its tick: the column goes where it was.
    main.locator("g", has_text="Column: moved").last.dispatch_event("click")
    expect(moved.get_by_role("checkbox", name="Column", exact=True)).not_to_be_checked()
    expect(main).to_contain_text("2 moved, 1 gone")
    main.get_by_role("button", name="Replace the lines").click()
    expect(page.get_by_role("banner")).to_contain_text("saved · 2 changes")
    expect(page.get_by_text(re.compile("has taken the place of waiting-hall-issue-1.dxf"))).to_be_visible()
    # What is left hanging says so on the line's card until somebody says that it stays.
    pick(page, "Bench 2")
    expect(card(page)).to_contain_text("It is not in waiting-hall-issue-2.dxf")
    card(page).get_by_role("button", name="It stays").click()
    expect(card(page)).not_to_contain_text("It is not in")
    # The same file once more changes nothing, and all of it can be undone.
    bring(page, SECOND)
    expect(main.get_by_label("Replaces")).to_contain_text("waiting-hall-issue-2.dxf")
    expect(main.get_by_role("button", name="Replace the lines")).to_be_enabled()
    main.get_by_label("Replaces").click()
    page.get_by_role("option", name="No: add its lines").click()
    expect(main.get_by_role("button", name="Add 6 lines")).to_be_enabled()
