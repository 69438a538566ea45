"""From an empty job to a printed list of a skirting round a room with two doors, by keyboard alone and by mouse alone."""

from __future__ import annotations

import pypdf
from acting import card, rod
from browsing import opened
from playwright.sync_api import Browser, Download, Page, expect


def tab_to(page: Page, name: str, most: int = 90) -> None:
    """Go on with Tab until what has the focus goes by a name."""
    said = """() => {
      const e = document.activeElement;
      return e.matches('a, button, input') ? e.ariaLabel || e.labels?.[0]?.textContent || e.placeholder || e.textContent : '';
    }"""
    for _ in range(most):
        page.keyboard.press("Tab")
        if name in (page.evaluate(said) or ""):
            return
    raise AssertionError(f"Tab does not come to {name}")


def printed(download: Download) -> str:
    return "\n".join(page.extract_text() for page in pypdf.PdfReader(download.path()).pages)


def looked_through(text: str) -> None:
    """A room of four walls, two of them parted by doors, is six pieces."""
    assert "Skirting, ogee" in text
    assert "6 pieces" in text
    assert "sheet 1 of 1" in text


def test_by_keyboard_alone(browser: Browser, shared_address: str) -> None:
    with opened(browser, shared_address, questions="rest") as page:
        keys = page.keyboard
        page.goto("/")
        expect(page.get_by_placeholder("Name of a new job")).to_be_visible()
        tab_to(page, "Name of a new job")
        keys.type("Room by keys")
        keys.press("Enter")
        expect(page.get_by_role("main")).to_contain_text("Start with the lines")
        keys.press("n")
        expect(page.get_by_text("First point").or_(page.get_by_label("East")).first).to_be_visible()
        keys.type("0")
        keys.press("Enter")
        for leg, length in enumerate(("5000", "4000", "5000"), start=1):
            expect(page.get_by_text(f"Leg {leg}")).to_be_visible()
            keys.type(length)
            keys.press("Tab")
            keys.type("90")
            keys.press("Enter")
        expect(page.get_by_text("Leg 4")).to_be_visible()
        keys.press("c")
        expect(card(page)).to_contain_text("closed · 4 corners")
        # What was typed is in sight, and was brought there as it came.
        for corner in range(4):
            expect(page.locator(f"svg[aria-label=Plan] [data-point='{corner}']").first).to_be_in_viewport()
        tab_to(page, "Where is it open?")
        keys.press("Enter")
        tab_to(page, "Add an opening")
        for doors in (1, 2):
            keys.press("Enter")
            expect(card(page)).to_contain_text(f"{doors} opening")
        page.evaluate("document.activeElement.blur()")
        keys.press("k")
        expect(page.get_by_role("heading", name="Pick a section")).to_be_visible()
        tab_to(page, "Find a section", 8)
        keys.type("ogee")
        expect(page.get_by_role("status").filter(has_text=" of ")).to_be_visible()
        tab_to(page, "Skirting, ogee", 8)
        keys.press("Enter")
        tab_to(page, "Add to job", 12)
        keys.press("Enter")
        expect(card(page).get_by_label("Name of the section")).to_have_value("Skirting, ogee")
        page.evaluate("document.activeElement.blur()")
        keys.press("r")
        expect(page.get_by_role("dialog")).to_contain_text("Run a section along")
        tab_to(page, "Make 1 run", 30)
        keys.press("Enter")
        expect(rod(page)).to_contain_text("6 pieces")
        page.evaluate("document.activeElement.blur()")
        keys.press("u")
        expect(page.get_by_role("rowheader", name="All · 6 pieces")).to_be_visible()
        tab_to(page, "Hand over")
        keys.press("Enter")
        expect(page.get_by_role("dialog")).to_contain_text("On paper")
        tab_to(page, "A4", 20)
        with page.expect_download() as download:
            keys.press("Enter")
        looked_through(printed(download.value))


def test_by_mouse_alone(browser: Browser, shared_address: str) -> None:
    with opened(browser, shared_address, questions="rest") as page:
        page.goto("/")
        page.get_by_placeholder("Name of a new job").fill("Room by hand")
        page.get_by_role("button", name="Start a job").click()
        page.get_by_role("main").get_by_role("button", name="Draw a line").click()
        plan = page.get_by_label("Plan", exact=True)
        box = plan.bounding_box()
        assert box
        at = [(box["x"] + 300 + x, box["y"] + 120 + y) for x, y in ((0, 0), (300, 0), (300, 240), (0, 240))]
        for x, y in at:
            page.mouse.move(x, y)
            page.mouse.click(x, y)
        page.get_by_role("button", name="Close", exact=True).click()
        expect(card(page)).to_contain_text("closed · 4 corners")
        card(page).get_by_role("button", name="Where is it open?").click()
        for doors in (1, 2):
            card(page).get_by_role("button", name="Add an opening").click()
            expect(card(page)).to_contain_text(f"{doors} opening")
        card(page).get_by_role("button", name="Pick one").click()
        page.get_by_role("main").get_by_role("button", name="Skirting, ogee").click()
        page.get_by_role("button", name="Add to job").click()
        expect(card(page).get_by_label("Name of the section")).to_have_value("Skirting, ogee")
        page.get_by_role("navigation", name="Job sheet").get_by_role("button", name="Run a section").click()
        page.get_by_role("dialog").get_by_role("button", name="Make 1 run").click()
        expect(rod(page)).to_contain_text("6 pieces")
        page.get_by_role("button", name="Cutting list", exact=True).click()
        expect(page.get_by_role("rowheader", name="All · 6 pieces")).to_be_visible()
        page.get_by_role("button", name="Hand over").click()
        with page.expect_download() as download:
            page.get_by_role("dialog").get_by_role("button", name="A4", exact=True).click()
        looked_through(printed(download.value))
