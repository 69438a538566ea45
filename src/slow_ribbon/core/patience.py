"""Patience: work that turns out heavier than can be waited for gives itself up, so that it can be done elsewhere.

How long a curve, a cut or a list of edits takes cannot be told before. Inner steps of long work
``look_up`` now and then; where the thread has been given patience and has used it up, the work
ends with ``TooLong``. Nothing is half done by that: what the core works out it returns, and
keeps only when it is whole. Without patience, as in tests and on the command line, work takes
what it takes.
"""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Final

#: Numbers that work with patience may hold in one array, 8 bytes each.
MOST_NUMBERS: Final = 8_000_000


class TooLong(Exception):
    """The work would take longer, or more memory, than the one who asked has patience for."""


class _Patience(threading.local):
    #: Processor time of the thread, s, up to which it has patience, and the time of day before which it cannot be used up.
    until: float = math.inf
    not_before: float = math.inf


_here: Final = _Patience()


@contextmanager
def patience(seconds: float) -> Iterator[None]:
    """Let this thread's work take so much processor time, s, and no longer; ``TooLong`` is raised where it does."""
    before = _here.until, _here.not_before
    _here.until = min(before[0], time.thread_time() + seconds)
    _here.not_before = min(before[1], time.monotonic() + seconds)
    try:
        yield
    finally:
        _here.until, _here.not_before = before


def look_up(numbers: int = 0) -> None:
    """Raise ``TooLong`` where this thread's patience is used up, or would be by an array of so many numbers."""
    if numbers > MOST_NUMBERS and _here.until < math.inf:
        raise TooLong
    # Asking for the time of day is cheap, for a thread's own it is not.
    if time.monotonic() > _here.not_before and time.thread_time() > _here.until:
        raise TooLong
