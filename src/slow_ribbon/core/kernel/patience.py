"""Time budgets: work that exceeds its budget stops, so that it can be done in a process of its own.

How long a curve, a cut or a list of edits takes cannot be known beforehand. Inner steps of long work
``look_up`` now and then; where the thread has been given patience and has used it up, the work
ends with ``TooLong``. Nothing is half done by that: what the core works out it returns, and
keeps only when it is whole. Without patience, as in tests and on the command line, work takes
what it takes.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Final

#: Numbers that work with patience may hold in one array, 8 bytes each.
MOST_NUMBERS: Final = 8_000_000


class TooLong(Exception):
    """The work would take longer, or more memory, than the one who asked has patience for."""


@dataclass
class _Patience:
    """Patience for some seconds: until ``late`` by the time of day or, where others had the processor, ``until`` by the thread's own."""

    seconds: float
    late: float
    until: float | None = None

    def is_over(self) -> bool:
        # The time of day is asked for at once; a thread's own takes ten times as long, and matters only to those who are late.
        if time.monotonic() <= self.late:
            return False
        if self.until is None:
            self.until = time.thread_time() + self.seconds / 2
        return time.thread_time() > self.until


class _Here(threading.local):
    patience: _Patience | None = None


_here: Final = _Here()


@contextmanager
def patience(seconds: float) -> Iterator[None]:
    """Let this thread's work take about this much processor time, s, and no longer; ``TooLong`` is raised where it does."""
    before = _here.patience
    late = time.monotonic() + seconds
    if before is None or late < before.late:
        _here.patience = _Patience(seconds, late)
    try:
        yield
    finally:
        _here.patience = before


def renew() -> None:
    """Begin another piece of work with patience of its own: what comes one after another is not heavy by being much."""
    now = _here.patience
    if now is not None:
        now.late, now.until = time.monotonic() + now.seconds, None


def look_up(numbers: int = 0) -> None:
    """Raise ``TooLong`` where this thread's patience is used up, or would be by an array of this many numbers."""
    if (now := _here.patience) is not None and (numbers > MOST_NUMBERS or now.is_over()):
        raise TooLong
