"""Turns at working something out: one thread of a process at a time, the others in order of asking.

Python runs one thread at a time anyway. Threads that work things out at once only hand the
interpreter back and forth, at every large array and every few milliseconds, and lose half their
time by it: with eight an edit took 60 ms of processor time, with one 25. Waiting for the database
or for a window takes no turn.
"""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager
from types import TracebackType
from typing import Final

#: Seconds after which work passes its turn on.
SLICE: Final = 0.03


class Turns:
    """A lock that is handed on in order of asking, and that long work can pass on in between.

    A thread that has the turn asks for nothing that another may hold while it waits for its turn.
    """

    def __init__(self, slice: float = SLICE) -> None:
        self._slice = slice
        self._lock = threading.Lock()
        self._taken = False
        self._waiting: deque[threading.Lock] = deque()
        self._holder: int | None = None
        self._since = 0.0

    def __enter__(self) -> None:
        with self._lock:
            if not self._taken:
                self._taken = True
                self._holder = threading.get_ident()
                self._since = time.perf_counter()
                return
            mine = threading.Lock()
            mine.acquire()
            self._waiting.append(mine)
        mine.acquire()
        self._holder = threading.get_ident()
        self._since = time.perf_counter()

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        with self._lock:
            self._holder = None
            if self._waiting:
                self._waiting.popleft().release()
            else:
                self._taken = False

    def pass_on(self) -> None:
        """Let those who wait have their turns before the work goes on, once it has had the turn for a while.

        What is short is done in one go: handed on at every step, many short ones would all end last.
        """
        if self._waiting and time.perf_counter() - self._since >= self._slice:
            self.__exit__(None, None, None)
            self.__enter__()

    @contextmanager
    def left(self) -> Iterator[None]:
        """Let others have their turns while this thread, whether it has the turn or not, waits for something else."""
        mine = self._holder == threading.get_ident()
        if mine:
            self.__exit__(None, None, None)
        try:
            yield
        finally:
            if mine:
                self.__enter__()


#: The turn of this process.
TURN: Final = Turns()
