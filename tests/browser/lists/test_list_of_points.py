"""A list of points in the window: how it was read is seen, and what is not recognised is said."""

from __future__ import annotations

import re
from typing import Any

from acting import card, saved
from playwright.sync_api import Page, expect
from served import ROOT


def bring_in(page: Page, file: Any) -> None:
    page.get_by_role("button", name="Import").click()
    page.get_by_label("Drawing file").set_input_files(file)


def test_a_survey_with_decimal_commas_comes_in_as_it_is_and_can_be_read_otherwise(demo: Page) -> None:
    bring_in(demo, ROOT / "docs" / "examples" / "quay-survey.csv")
    listed = demo.get_by_role("region", name="The list")
    expect(listed.get_by_role("row").nth(1)).to_contain_text("Rechtswert [m]")
    expect(demo.get_by_role("checkbox", name="Geländer Wasserseite").first).to_be_checked()
    expect(listed.get_by_label("Decimal mark").get_by_role("radio", name="a comma")).to_be_checked()
    # One point has no height.
    expect(listed).to_contain_text("1 point without a height")
    listed.get_by_role("radio", name="left out").click()
    expect(demo.get_by_role("main")).to_contain_text("1 point without a height left out")
    # East and north are exchanged by saying so once: the other column gives way.
    listed.get_by_label("Column 2, Rechtswert").click()
    demo.get_by_role("option", name="north").click()
    expect(listed.get_by_role("status")).to_contain_text("One column must be east")
    expect(demo.get_by_role("button", name="Add 0 lines")).to_be_disabled()
    listed.get_by_label("Column 3, Hochwert").click()
    demo.get_by_role("option", name="east").click()
    demo.get_by_role("button", name="Add 2 lines").click()
    saved(demo, 1)


def test_a_list_that_says_nothing_is_asked_about(demo: Page) -> None:
    rows = "".join(f"p{number};{number * 2},5;x;{number},25\n" for number in range(1, 6))
    bring_in(demo, {"name": "odd.txt", "mimeType": "text/plain", "buffer": ("what;this;is;unclear\n" + rows).encode()})
    listed = demo.get_by_role("region", name="The list")
    expect(listed.get_by_role("status")).to_contain_text("One column must be north")
    listed.get_by_label(re.compile("Column 4")).click()
    demo.get_by_role("option", name="north").click()
    expect(listed.get_by_role("status")).not_to_be_visible()
    expect(demo.get_by_role("main")).to_contain_text("No column holds heights")
    demo.get_by_label("Unit of the file").click()
    # The size that would come out stands beside each unit.
    demo.get_by_role("option", name="millimetres · 8 mm across").click()
    expect(demo.get_by_role("main")).to_contain_text("drawn in millimetres")
    demo.get_by_role("button", name="Add 1 line").click()
    saved(demo, 1)
    expect(card(demo)).to_contain_text("from odd.txt")
