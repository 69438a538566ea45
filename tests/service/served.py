"""The application served as a process of its own, on a database that its environment names."""

from __future__ import annotations

import os
import re
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from fresh import copy_demo_into

ROOT = Path(__file__).parents[2]
COMMAND = str(ROOT / ".venv" / "bin" / "slow-ribbon")


def at(database: str) -> dict[str, str]:
    """Return the environment that names a database."""
    return {**os.environ, "SLOW_RIBBON_DATABASE": database}


def load_demo(database: str) -> None:
    """Put the demo into a fresh database: a copy of one into which the command loaded it."""
    copy_demo_into(database, load_demo_by_command)


def load_demo_by_command(database: str) -> None:
    """Put the demo into any database, by the command."""
    subprocess.run([COMMAND, "load-demo"], check=True, env=at(database))


@contextmanager
def served(database: str, *more: str) -> Iterator[tuple[str, subprocess.Popen[str]]]:
    """Serve the application on a database; yield its address and process, and end it however the caller left it."""
    process = subprocess.Popen([COMMAND, "serve", "--no-request-log", *more], stdout=subprocess.PIPE, text=True, env=at(database))
    try:
        assert process.stdout is not None
        answer = process.stdout.readline()
        found = re.search(r"http://[\d.:]+", answer)
        assert found, answer
        yield found.group(), process
    finally:
        process.kill()
        process.communicate()
