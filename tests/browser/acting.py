"""Things a person does in the window that Playwright has no word for."""

from __future__ import annotations

from playwright.sync_api import Locator


def middle_of(mark: Locator) -> tuple[float, float]:
    """Move the pointer to the middle of a mark once it stands still, and return where that is.

    A sheet that makes room for the card moves its marks; hovering waits until they rest.
    """
    mark.hover()
    box = mark.bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
