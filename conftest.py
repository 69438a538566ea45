"""What tests share: a database of their own, a service on it, small sections and lines."""

from __future__ import annotations

import os
from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient
from fresh import fresh_database
from hypothesis import HealthCheck, settings

from slow_ribbon.core.sections.document.section import Section
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.sandbox import keep_warm
from slow_ribbon.service.app import LOADED_APART, create_app

# The same examples every time, so that a change is judged by what it changes; new ones where they are asked for, and at night.
for name, count in (("ci", 20), ("whole", 60), ("nightly", 600)):
    settings.register_profile(
        name,
        max_examples=count,
        deadline=None,
        suppress_health_check=[HealthCheck.too_slow],
        derandomize=name != "nightly" and "SLOW_RIBBON_NEW_EXAMPLES" not in os.environ,
    )


@pytest.fixture(scope="session", autouse=True)
def warm() -> None:
    """Load what readers need once, as a server does: else every process that reads a file in a test loads it again."""
    keep_warm(*LOADED_APART)


@pytest.fixture(scope="session")
def cluster() -> str:
    """The address of the tests' own PostgreSQL cluster."""
    address = os.environ.get("SLOW_RIBBON_TEST_DATABASE")
    if not address:
        pytest.exit("Start the tests with script/test, which starts their database.", 1)
    return address


@pytest.fixture
def database(cluster: str) -> Iterator[str]:
    """The address of a fresh database, its tables made."""
    with fresh_database(cluster) as address:
        yield address


@pytest.fixture(scope="session")
def shared_database(cluster: str) -> Iterator[str]:
    """The address of a database that tests share, each with jobs of its own in it."""
    with fresh_database(cluster) as address:
        yield address


@pytest.fixture
def client(database: str) -> Iterator[TestClient]:
    """A client of a service on a fresh database."""
    with TestClient(create_app(database), "http://127.0.0.1", raise_server_exceptions=False) as found:
        yield found


@pytest.fixture
def skirting() -> Section:
    """The plain skirting of the published check: 18 × 120."""
    return Section(id="S1", name="Skirting", outline=rectangle(18, 120), width=18, height=120)
