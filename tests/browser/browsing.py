"""Debian's Chromium without a window, and pages in it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from playwright.sync_api import Browser, BrowserContext, Page, sync_playwright

FLAGS = [
    "--headless",
    "--no-sandbox",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--disable-gpu-rasterization",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@contextmanager
def chromium() -> Iterator[Browser]:
    """Yield a browser."""
    with sync_playwright() as player:
        found = player.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield found
        found.close()


@contextmanager
def opened(browser: Browser, address: str, questions: str = "all", **more: Any) -> Iterator[Page]:
    """Yield a page at 1280 × 800 that fails its test where the interface logs an error or asks anyone else for anything.

    The questions of cards are open, all of them, unless they are to be at rest.
    """
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address, accept_downloads=True, **more)
    context.set_default_timeout(90_000)
    at_home(context, questions)
    found = context.new_page()
    troubles: list[str] = []
    found.on("pageerror", lambda error: troubles.append(str(error)))
    found.on("request", lambda request: troubles.append(request.url) if _elsewhere(request, address) else None)
    yield found
    context.close()
    assert troubles == []


def at_home(context: BrowserContext, questions: str = "all") -> None:
    """Let the pages of a context be those of somebody who has met every part of the window, and has the questions of cards open."""
    if questions == "all":
        context.add_init_script("localStorage['slow-ribbon-met'] = 'rod desk cut'")
    context.add_init_script(f"localStorage['slow-ribbon-open-questions'] ??= '{questions}'")


def _elsewhere(request: Any, address: str) -> bool:
    return not request.url.startswith((address, "blob:", "data:"))
