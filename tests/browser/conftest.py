"""A served application with the demo, and a page in headless Chromium to drive it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from hashlib import sha256
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright
from served import load_demo, served

from slow_ribbon.demo import demo_files, ferry_house
from slow_ribbon.store.database import connect
from slow_ribbon.store.jobs import Jobs

# A busy machine may take its time; what is right in the end is right.
expect.set_options(timeout=90_000)

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


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """Debian's Chromium, without a window."""
    with sync_playwright() as player:
        found = player.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield found
        found.close()


@contextmanager
def opened(browser: Browser, address: str) -> Iterator[Page]:
    """Yield a page at 1280 × 800 that fails its test where the interface logs an error or asks anyone else for anything."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address, accept_downloads=True)
    context.set_default_timeout(90_000)
    found = context.new_page()
    troubles: list[str] = []
    found.on("pageerror", lambda error: troubles.append(str(error)))
    found.on("request", lambda request: troubles.append(request.url) if _elsewhere(request, address) else None)
    yield found
    context.close()
    assert troubles == []


@pytest.fixture
def address(database: str) -> Iterator[str]:
    """The address of a service with the demo, on a database of its own."""
    load_demo(database)
    with served(database) as (found, _):
        yield found


@pytest.fixture
def page(browser: Browser, address: str) -> Iterator[Page]:
    """A page on a service of its own."""
    with opened(browser, address) as found:
        yield found


@pytest.fixture(scope="session")
def shared_address(shared_database: str) -> Iterator[str]:
    """The address of a service that tests share, each with a job of its own."""
    with served(shared_database) as (found, _):
        yield found


@pytest.fixture
def demo(browser: Browser, shared_database: str, shared_address: str) -> Iterator[Page]:
    """A page with a fresh copy of the demo open in plan."""
    engine = connect(shared_database)
    jobs = Jobs(engine)
    for name, data in demo_files().items():
        jobs.keep_original(sha256(data).hexdigest(), name, data)
    id = jobs.add(ferry_house(), "loaded the demo")
    engine.dispose()
    with opened(browser, shared_address) as found:
        found.goto(f"/job/{id}")
        expect(found.locator("svg[aria-label=Plan] path[data-pick]").first).to_be_attached()
        yield found


def _elsewhere(request: Any, address: str) -> bool:
    return not request.url.startswith((address, "blob:", "data:"))
