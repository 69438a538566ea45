"""Garbage collection between answers, not during them."""

from __future__ import annotations

import asyncio
import gc
from typing import Final

#: Seconds without an answer after which the collector may work.
_PAUSE: Final = 0.25


class Collecting:
    """Cyclic garbage collected while nothing is answered; what is there at the start is never looked at again."""

    def __init__(self) -> None:
        self._task: asyncio.Task[None] | None = None
        self.busy = 0
        self.answered = 0

    def start(self) -> None:
        """Leave collecting to pauses; called in the event loop."""
        gc.collect()
        gc.freeze()
        # What piles up without a pause is still collected, late and all at once.
        gc.set_threshold(50_000, 20, 1000)
        self._task = asyncio.get_running_loop().create_task(self._in_pauses())

    def stop(self) -> None:
        """Go back to collecting at any time."""
        if self._task is not None:
            self._task.cancel()
        gc.set_threshold(700, 10, 10)
        gc.unfreeze()

    async def _in_pauses(self) -> None:
        last, collected = 0, 0
        while True:
            await asyncio.sleep(_PAUSE)
            if self.busy == 0 and self.answered == last and self.answered != collected:
                collected = self.answered
                gc.collect()
            last = self.answered
