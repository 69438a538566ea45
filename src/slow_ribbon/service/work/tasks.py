"""Long work that can be watched and stopped, by a name that the window gives it; a few at a time, the rest in line.

Nobody waits in a thread: however many files are sent, the threads are there for everything else.
"""

from __future__ import annotations

import asyncio
import threading
import time
from collections.abc import AsyncIterator, Callable, Iterator
from contextlib import asynccontextmanager, contextmanager
from dataclasses import dataclass, field
from typing import Final, TypeVar

import anyio
import anyio.to_thread
from fastapi import Request

from slow_ribbon.sandbox import Stopped
from slow_ribbon.service.metrics import READERS

#: A task nobody has asked about for this long, seconds, is forgotten.
FORGOTTEN: Final = 600.0
#: Files worked on at once by one server process; each takes a processor.
AT_ONCE: Final = 2
#: Tasks in line at most; who comes later is asked to come again.
MOST_WAITING: Final = 200
#: Seconds between looks at whether the one who waits has left.
_LOOK: Final = 0.25

_T = TypeVar("_T")


@dataclass
class Task:
    """Work that goes on: what it does now, and the share done where that is known."""

    doing: str = "waiting"
    share: float | None = None
    stopped: bool = False
    made_at: float = field(default_factory=time.monotonic)

    def begin(self, doing: str) -> None:
        """Go over to another part of the work. Raises ``Stopped`` where it is to stop."""
        self.tell(None)
        self.doing = doing

    def tell(self, share: float | None) -> None:
        """Take in the share done. Raises ``Stopped`` where the work is to stop."""
        if self.stopped:
            raise Stopped
        self.share = share

    def is_stopped(self) -> bool:
        """Return whether the work is to stop."""
        return self.stopped


class TooMany(Exception):
    """More wait in line than can be served before they give up."""


class Tasks:
    """The tasks of one server process. What is named here is known from any thread; the line is kept in the event loop."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._tasks: dict[str, Task] = {}
        self._line: list[Task] = []
        self._working = 0
        self._limiter: anyio.CapacityLimiter | None = None

    @contextmanager
    def going(self, name: str | None) -> Iterator[Task]:
        """Let work go on under a name; one stopped before it began does not begin."""
        task = Task()
        if name is not None:
            with self._lock:
                now = time.monotonic()
                self._tasks = {key: one for key, one in self._tasks.items() if now - one.made_at < FORGOTTEN}
                known = self._tasks.get(name)
                if known is not None and known.stopped:
                    raise Stopped
                self._tasks[name] = task
        try:
            yield task
        finally:
            if name is not None:
                with self._lock:
                    self._tasks.pop(name, None)

    async def work(self, request: Request, name: str | None, work: Callable[[Task], _T]) -> _T:
        """Do heavy work in its turn, and return what it gives. One whose client leaves is stopped.

        Raises ``Stopped``, ``TooMany``, and whatever the work raises.
        """
        if self._limiter is None:
            self._limiter = anyio.CapacityLimiter(AT_ONCE)
        with self.going(name) as task:
            async with self._turn(request, task):
                done = asyncio.create_task(anyio.to_thread.run_sync(work, task, limiter=self._limiter))
                while not done.done():
                    await asyncio.wait([done], timeout=_LOOK)
                    task.stopped = task.stopped or (not done.done() and await request.is_disconnected())
                return done.result()

    @asynccontextmanager
    async def _turn(self, request: Request, task: Task) -> AsyncIterator[None]:
        if len(self._line) >= MOST_WAITING:
            raise TooMany
        self._line.append(task)
        self._notify()
        try:
            while self._working >= AT_ONCE or self._line[0] is not task:
                await asyncio.sleep(_LOOK / 5)
                if task.stopped or await request.is_disconnected():
                    raise Stopped
        except BaseException:
            self._line.remove(task)
            self._notify()
            raise
        self._line.remove(task)
        self._working += 1
        self._notify()
        try:
            yield
        finally:
            self._working -= 1
            self._notify()

    def _notify(self) -> None:
        READERS.labels("working").set(self._working)
        READERS.labels("waiting").set(len(self._line))
        for place, task in enumerate(self._line):
            before = place + self._working
            task.doing = "waiting" if before < AT_ONCE else f"waiting in line, {before - AT_ONCE + 1} before it"

    def get(self, name: str) -> Task | None:
        """Return a task that goes on, or nothing."""
        with self._lock:
            return self._tasks.get(name)

    def stop(self, name: str) -> None:
        """Let a task stop; one that has not begun yet will not begin."""
        with self._lock:
            now = time.monotonic()
            self._tasks = {key: one for key, one in self._tasks.items() if now - one.made_at < FORGOTTEN}
            self._tasks.setdefault(name, Task("stopped")).stopped = True
