"""A supplier's catalogue in a process of its own: slow, down, or answering nonsense, what was fetched is given with its date."""

from __future__ import annotations

import re
import subprocess
from collections.abc import Iterator

import httpx
import pytest
from served import COMMAND, served


@pytest.fixture
def supplier() -> Iterator[str]:
    """The address of the simulated supplier."""
    process = subprocess.Popen([COMMAND, "supplier"], stdout=subprocess.PIPE, text=True)
    try:
        assert process.stdout is not None
        found = re.search(r"http://[\d.:]+", process.stdout.readline())
        assert found
        yield found.group()
    finally:
        process.kill()
        process.communicate()


def test_the_catalogue_is_shown_and_what_was_fetched_stays_when_the_supplier_is_in_trouble(database: str, supplier: str) -> None:
    with served(database, "--supplier", supplier) as (address, _), httpx.Client(base_url=address, timeout=60) as client:
        assert client.get("/api/supplier").json() == {"there": True}
        # Nothing was fetched yet: that it is down is reported.
        assert httpx.put(f"{supplier}/trouble/down", timeout=60).status_code == 200
        answer = client.get("/api/supplier/catalogue")
        assert (answer.status_code, answer.json()["code"]) == (422, "supplier")
        assert "answers with an error (503)" in answer.json()["detail"]
        httpx.put(f"{supplier}/trouble/none", timeout=60)
        first = client.get("/api/supplier/catalogue").json()
        assert (first["supplier"], first["page"], first["trouble"]) == ("Skerry & Holm", 1, "")
        assert first["pages"] > 1
        goods = first["goods"][0]
        assert goods["price"] > 0
        assert goods["path"].startswith("M")
        for trouble, words in (
            ("down", "answers with an error (503)"),
            ("page", "something other than a catalogue (text/html)"),
            ("nonsense", "something that is not a catalogue (at goods.0.code)"),
            ("slow", "does not answer in time"),
        ):
            httpx.put(f"{supplier}/trouble/{trouble}", timeout=60)
            kept = client.get("/api/supplier/catalogue").json()
            assert words in kept["trouble"]
            assert (kept["goods"], kept["fetched_at"]) == (first["goods"], first["fetched_at"])
            # Meanwhile all else is answered.
            assert client.get("/api/health").status_code == 200
        httpx.put(f"{supplier}/trouble/none", timeout=60)
        again = client.get("/api/supplier/catalogue").json()
        assert again["trouble"] == ""
        assert again["fetched_at"] > first["fetched_at"]


def test_without_a_supplier_there_is_none_and_a_dead_address_is_reported(database: str) -> None:
    with served(database) as (address, _):
        assert httpx.get(f"{address}/api/supplier", timeout=60).json() == {"there": False}
        assert httpx.get(f"{address}/api/supplier/catalogue", timeout=60).json()["code"] == "no-supplier"
    with served(database, "--supplier", "http://127.0.0.1:9") as (address, _):
        answer = httpx.get(f"{address}/api/supplier/catalogue", timeout=60)
        assert "cannot be reached" in answer.json()["detail"]
