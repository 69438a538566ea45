"""Long work that can be watched and stopped, by a name that the window gives it."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from slow_ribbon.formats.apart import Stopped

#: A task nobody has asked about for this long, seconds, is forgotten.
FORGOTTEN = 600.0


@dataclass
class Task:
    """Work that goes on: what it does now, and the share done where that is known."""

    doing: str = "waiting"
    share: float | None = None
    stopped: bool = False
    made_at: float = field(default_factory=time.monotonic)

    def tell(self, share: float) -> None:
        """Take in the share done. Raises ``Stopped`` where the work is to stop."""
        if self.stopped:
            raise Stopped
        self.share = share

    def is_stopped(self) -> bool:
        """Tell whether the work is to stop."""
        return self.stopped


class Tasks:
    """The tasks going on. Safe to use from several threads."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._tasks: dict[str, Task] = {}

    @contextmanager
    def going(self, name: str | None, doing: str) -> Iterator[Task]:
        """Let work go on under a name; one stopped before it began does not begin."""
        task = Task(doing)
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

    def get(self, name: str) -> Task | None:
        """Return a task that goes on, or nothing."""
        with self._lock:
            return self._tasks.get(name)

    def stop(self, name: str) -> None:
        """Let a task stop; one that has not begun yet will not begin."""
        with self._lock:
            self._tasks.setdefault(name, Task("stopped")).stopped = True
