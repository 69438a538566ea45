"""A served application with the demo, and a page in headless Chromium to drive it."""

from __future__ import annotations

from collections.abc import Iterator
from hashlib import sha256

import pytest
from browsing import chromium, opened
from playwright.sync_api import Browser, Page, expect
from served import load_demo, served

from slow_ribbon.core.job import Job
from slow_ribbon.demo import demo_files, ferry_house
from slow_ribbon.store.database import connect
from slow_ribbon.store.jobs import Jobs

# A busy machine may take its time; what is right in the end is right.
expect.set_options(timeout=90_000)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """Debian's Chromium, without a window."""
    with chromium() as found:
        yield found


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


@pytest.fixture(scope="session")
def shelf(shared_database: str) -> Iterator[tuple[Jobs, Job]]:
    """The jobs of the shared database, which has the files of the demo, and the demo, made once."""
    engine = connect(shared_database)
    jobs = Jobs(engine)
    for name, data in demo_files().items():
        jobs.originals.keep(sha256(data).hexdigest(), name, data)
    yield jobs, ferry_house()
    engine.dispose()


@pytest.fixture
def demo(browser: Browser, shelf: tuple[Jobs, Job], shared_address: str) -> Iterator[Page]:
    """A page with a fresh copy of the demo open in plan."""
    jobs, job = shelf
    id = jobs.add(job, "loaded the demo")
    with opened(browser, shared_address) as found:
        found.goto(f"/job/{id}")
        expect(found.locator("svg[aria-label=Plan] path[data-pick]").first).to_be_attached()
        yield found
