"""Server-sent events: windows are notified that a job stands on another revision, by whichever process that came about."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import contextmanager
from typing import Annotated, Any, Final

from fastapi import APIRouter, Depends, Request
from fastapi.responses import StreamingResponse
from starlette.concurrency import run_in_threadpool

from slow_ribbon.service.routes.request import AtBench, JobId
from slow_ribbon.store.events import Event, Listening

router = APIRouter()

#: Seconds between signs of life on a quiet stream, so that both ends notice one that broke.
_QUIET: Final = 15.0
#: Events that wait for a window; one that takes none for so long is only notified that anything may have happened.
_WAITING: Final = 200


class Hub:
    """Hands events on from the database to the windows that listen to this process."""

    def __init__(self) -> None:
        self._loop: asyncio.AbstractEventLoop | None = None
        self._listening: Listening | None = None
        self._windows: dict[asyncio.Queue[Event | None], str | None] = {}
        self._ended = False

    def start(self, listening: Listening) -> None:
        """Begin to hand on what is heard; called in the event loop."""
        self._loop = asyncio.get_running_loop()
        self._listening = listening
        listening.start()

    def publish(self, event: Event) -> None:
        """Take an event from another thread."""
        if self._loop is not None and not self._loop.is_closed():
            self._loop.call_soon_threadsafe(self._spread, event)

    def end(self) -> None:
        """Let all streams end, so that a server that stops need not wait for the windows that listen."""
        self._ended = True
        for queue in self._windows:
            _put(queue, None)

    def stop(self) -> None:
        """End listening."""
        self.end()
        if self._listening is not None:
            self._listening.stop()

    @property
    def windows(self) -> int:
        """How many windows listen."""
        return len(self._windows)

    def _spread(self, event: Event) -> None:
        for queue, job in self._windows.items():
            if job is None or event.job is None or job == event.job:
                _put(queue, event)

    @contextmanager
    def listener(self, job: str | None) -> Any:
        """Give a queue of the events of a job, or of all, for as long as somebody listens; nothing in it is the end."""
        queue: asyncio.Queue[Event | None] = asyncio.Queue(_WAITING)
        self._windows[queue] = job
        if self._ended:
            _put(queue, None)
        try:
            yield queue
        finally:
            del self._windows[queue]


def _put(queue: asyncio.Queue[Event | None], event: Event | None) -> None:
    if queue.full():
        while not queue.empty():
            queue.get_nowait()
        queue.put_nowait(Event(None) if event is not None else None)
    else:
        queue.put_nowait(event)


async def the_hub(request: Request) -> Hub:
    """Return the server's hub."""
    hub: Hub = request.app.state.hub
    return hub


AtHub = Annotated[Hub, Depends(the_hub)]

_STREAM: Final[dict[int | str, dict[str, Any]]] = {
    200: {"content": {"text/event-stream": {"schema": {"type": "string"}}}, "description": "Events"}
}


@router.get("/jobs/{id}/events", response_class=StreamingResponse, responses=_STREAM)
async def job_events(id: JobId, bench: AtBench, hub: AtHub) -> StreamingResponse:
    """Tell of a job's revisions as they become current: first where it stands now, then each as it comes (server-sent events)."""
    # Before the stream begins, so that a job that is not there is answered as such.
    await run_in_threadpool(bench.jobs.current, id)
    return _stream(hub, id, lambda: run_in_threadpool(bench.jobs.current, id))


@router.get("/events", response_class=StreamingResponse, responses=_STREAM)
async def all_events(hub: AtHub) -> StreamingResponse:
    """Tell of every job that changes, for the list of jobs (server-sent events)."""
    return _stream(hub, None)


def _stream(hub: Hub, job: str | None, current: Callable[[], Awaitable[int]] | None = None) -> StreamingResponse:
    async def events() -> AsyncIterator[str]:
        with hub.listener(job) as queue:
            # Asked only now that it listens: what happens in between is sent twice rather than never.
            yield _written(Event(job, await current() if current else 0))
            while True:
                try:
                    event = await asyncio.wait_for(queue.get(), _QUIET)
                except TimeoutError:
                    yield ": all is well\n\n"
                    continue
                if event is None:
                    return
                yield _written(event)

    return StreamingResponse(events(), media_type="text/event-stream", headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"})


def _written(event: Event) -> str:
    return f"data: {json.dumps({'job': event.job, 'revision': event.revision, 'by': event.by})}\n\n"
