"""Parts of the window by their names, and things a person does in it that Playwright has no word for."""

from __future__ import annotations

import re
from typing import Literal

from playwright.sync_api import FloatRect, Locator, Page, expect

from slow_ribbon.demo import ferry_house

_demo = ferry_house()
# What the window calls the next line and section drawn in the demo.
NEW_LINE = f"Line {len(_demo.lines) + 1}"
NEW_SECTION = f"Section {len(_demo.sections) + 1}"
RUNS = len(_demo.runs)
#: How many pieces the demo has.
PIECES = 370


def plan(page: Page) -> Locator:
    return page.get_by_label("Plan", exact=True)


def sheet(page: Page) -> Locator:
    return page.get_by_role("navigation", name="Job sheet")


def card(page: Page) -> Locator:
    return page.get_by_role("complementary", name="Card")


def rod(page: Page) -> Locator:
    return page.get_by_role("region", name="Rod")


def pick(page: Page, name: str, *modifiers: Literal["Control", "Shift"]) -> None:
    button = sheet(page).get_by_role("button", name=name).first
    expect(sheet(page).get_by_role("button", name="Draw a line")).to_be_attached()
    page.wait_for_timeout(200)
    # Rows far down a long list are there only when they are looked for.
    far = not button.count()
    if far:
        look_for(page, name.rstrip("0123456789 "))
    button.click(modifiers=list(modifiers))
    if far:
        look_for(page, "")


def look_for(page: Page, words: str) -> None:
    """Look for words in the job sheet, which lists what has them, and leave its field, so that keys mean what they do elsewhere."""
    finding = sheet(page).get_by_role("textbox", name="Find")
    finding.fill(words)
    finding.blur()


def choose(answer: Locator, label: str, way: str) -> None:
    """Choose one of many ways in a list of the card."""
    answer.get_by_role("button", name=re.compile(f"^{re.escape(label)}: ")).click()
    answer.page.get_by_role("option", name=way, exact=True).click()


def ask_for_card(page: Page) -> None:
    """Have the card beside the cutting list."""
    page.get_by_role("button", name="Card", exact=True).click()


def saved(page: Page, changes: int) -> None:
    expect(page.get_by_role("banner")).to_contain_text(f"saved · {changes} change")


def middle_of(mark: Locator) -> tuple[float, float]:
    """Move the pointer to the middle of a mark once it stands still, and return where that is.

    A sheet that makes room for the card moves its marks; hovering waits until they rest.
    """
    mark.hover()
    box = mark.bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def box_of(mark: Locator) -> FloatRect:
    """Return where a mark lies once it stands still, also one under something that takes the pointer."""
    before = None
    for _ in range(100):
        box = mark.bounding_box()
        if box is not None and box == before:
            return box
        before = box
        mark.page.wait_for_timeout(100)
    raise AssertionError(f"{mark} does not come to rest")


def behind(page: Page) -> None:
    """Let a window no longer hear of what others do, as on a line that breaks just then."""
    page.route("**/events", lambda route: route.abort())
    page.reload()
    expect(page.get_by_role("navigation", name="Job sheet")).to_be_visible()
