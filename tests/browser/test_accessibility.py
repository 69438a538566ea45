"""What axe-core (Deque's open rules for the Web Content Accessibility Guidelines) finds in every view: nothing serious."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
import trimesh
from acting import PIECES, ask_for_card, card, choose, pick, sheet
from playwright.sync_api import Page, expect
from served import ROOT

AXE = (ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text()
EXAMPLES = ROOT / "docs" / "examples"


def serious(page: Page) -> list[str]:
    """Return what is seriously wrong on a page: the rule and the element, a line each."""
    page.evaluate(AXE)
    found: dict[str, Any] = page.evaluate("() => axe.run(document, { resultTypes: ['violations'] })")
    return [
        f"{rule['id']}: {node['html'][:160]} {node['failureSummary'][:200]}"
        for rule in found["violations"]
        if rule["impact"] in ("serious", "critical")
        for node in rule["nodes"]
        # Guards round a popover hand the focus on as soon as they have it: nobody stays on them, and no reader reads them.
        if "headlessui-focus-sen" not in node["html"]
    ]


def key(name: str) -> Callable[[Page], None]:
    return lambda page: page.keyboard.press(name)


def chosen(name: str) -> Callable[[Page], None]:
    def act(page: Page) -> None:
        pick(page, name)
        expect(card(page)).to_be_visible()

    return act


def dialog(button: str) -> Callable[[Page], None]:
    def act(page: Page) -> None:
        page.get_by_role("button", name=button, exact=True).first.click()
        expect(page.get_by_role("dialog").get_by_role("heading").first).to_be_visible()

    return act


def brought(file: Path) -> Callable[[Page], None]:
    def act(page: Page) -> None:
        page.keyboard.press("b")
        page.get_by_label("Drawing file").set_input_files(file)
        expect(page.get_by_role("button", name=re.compile("Add .* line|Replace the lines")).first).to_be_enabled()

    return act


def item_brought(page: Page) -> None:
    """Have an item of a file in the dialog that asks how it stands."""
    pick(page, "Fence posts")
    choose(card(page), "Kind", "Brought in from a file")
    mesh = bytes(trimesh.creation.box((200, 150, 900)).export(file_type="stl"))
    file: Any = {"name": "Post.stl", "mimeType": "model/stl", "buffer": mesh}
    page.get_by_label("File of the item").set_input_files(file)
    expect(page.get_by_role("button", name="Use this item")).to_be_enabled()


def all_of(*acts: Callable[[Page], None]) -> Callable[[Page], None]:
    def act(page: Page) -> None:
        for one in acts:
            one(page)

    return act


VIEWS: dict[str, Callable[[Page], None]] = {
    "plan": lambda page: None,
    "a line": chosen("Hall walls"),
    "a run": chosen("Skirting, south-east"),
    "a row": chosen("Fence posts"),
    "several": all_of(chosen("Hall walls"), lambda page: pick(page, "Quay edge", "Shift")),
    "3D": all_of(chosen("Picture rail"), key("o"), lambda page: expect(page.locator("canvas")).to_be_visible()),
    "cutting list": all_of(chosen("Cornice"), key("u")),
    "cutting list with its card": all_of(chosen("Cornice 19 pieces"), key("u"), lambda page: ask_for_card(page)),
    "saw": all_of(key("u"), lambda page: page.get_by_role("button", name="Saw", exact=True).click()),
    "a run at rest": all_of(chosen("Cornice 19 pieces"), lambda page: page.get_by_role("button", name="Close all questions").click()),
    "cut": all_of(chosen("Dado rail"), key("x")),
    "section": chosen("Fence rail, weathered"),
    "library": key("k"),
    "door": key("b"),
    "drawing": brought(EXAMPLES / "waiting-hall-issue-1.dxf"),
    "drawing a line": key("n"),
    "keys": dialog("Shortcuts"),
    "hand over": dialog("Hand over"),
    "run a section": dialog("Run a section"),
    "set items out": dialog("Set items out"),
    "an item brought in": item_brought,
    "a walk": dialog("Type a walk"),
    "measures": dialog("4 measures"),
    "history": dialog("no changes yet"),
}


@pytest.mark.parametrize("view", VIEWS)
def test_nothing_serious_is_found(demo: Page, view: str) -> None:
    expect(sheet(demo)).to_contain_text(f"{PIECES} pieces")
    VIEWS[view](demo)
    assert serious(demo) == []


def test_nothing_serious_is_found_in_the_list_of_jobs(page: Page) -> None:
    page.goto("/")
    expect(page.get_by_role("main")).to_contain_text("Kestrel Slip")
    assert serious(page) == []
