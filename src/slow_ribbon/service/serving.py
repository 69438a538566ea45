"""The server process: uvicorn with what a service that many rely on needs besides.

A request whose head does not come is cut off; small answers go out at once; the collector of
cyclic garbage works between answers, not in them.
"""

from __future__ import annotations

import asyncio
import gc
import json
import os
import socket
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any, Final

import h11
import uvicorn
from uvicorn.protocols.http.h11_impl import H11Protocol
from uvicorn.supervisors import Multiprocess

from slow_ribbon.service.guard import SECURITY_HEADERS, SLOWEST
from slow_ribbon.service.observing import log_as_json

#: Seconds without an answer after which the collector may work.
_PAUSE: Final = 0.25


class Protocol(H11Protocol):
    """HTTP/1.1 that waits no longer than ``SLOWEST`` seconds for the head of a request."""

    _late: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]  # uvicorn narrows it too
        super().connection_made(transport)
        connection = transport.get_extra_info("socket")
        if connection is not None and connection.family in (socket.AF_INET, socket.AF_INET6):
            # A small answer on a kept connection must not wait for the last one to be confirmed.
            connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        self._wait()

    def data_received(self, data: bytes) -> None:
        if self._late is None and self.conn.their_state is h11.IDLE:
            self._wait()
        super().data_received(data)
        if self._late is not None and self.conn.their_state is not h11.IDLE:
            self._late.cancel()
            self._late = None

    def connection_lost(self, exc: Exception | None) -> None:
        if self._late is not None:
            self._late.cancel()
        super().connection_lost(exc)

    def shutdown(self) -> None:
        """Let the connection end: streams of events are told to, which else would go on for ever."""
        hub = getattr(getattr(self.app, "state", None), "hub", None)
        if hub is not None:
            hub.end()
        super().shutdown()

    def send_400_response(self, msg: str) -> None:
        headers = [(name.lower().encode(), value.encode()) for name, value in SECURITY_HEADERS.items()]
        headers += [(b"content-type", b"text/plain; charset=utf-8"), (b"connection", b"close")]
        response = h11.Response(status_code=400, headers=headers, reason=b"Bad Request")
        for event in (response, h11.Data(data=msg.encode("ascii", "replace")), h11.EndOfMessage()):
            self.transport.write(self.conn.send(event) or b"")
        self.transport.close()

    def _wait(self) -> None:
        self._late = self.loop.call_later(SLOWEST, self._cut_off)

    def _cut_off(self) -> None:
        self._late = None
        if self.conn.their_state is h11.IDLE and not self.transport.is_closing():
            self.transport.abort()


@dataclass(frozen=True)
class Served:
    """What is served, and how: plain data, which goes to the processes in their environment."""

    database: str
    web: str
    hosts: list[str] = field(default_factory=list)
    backups: str = ""
    log_requests: bool = True


_SERVED: Final = "SLOW_RIBBON_SERVED"


def serve(served: Served, listener: socket.socket, processes: int = 1) -> None:
    """Serve until told to stop, in this process or in several that share the listener."""
    os.environ[_SERVED] = json.dumps(asdict(served))
    workers = processes if processes > 1 else None
    config = uvicorn.Config(
        "slow_ribbon.service.serving:application",
        factory=True,
        http=Protocol,
        ws="none",
        log_config=None,
        access_log=False,
        server_header=False,
        proxy_headers=False,
        timeout_graceful_shutdown=5,
        workers=workers,
    )
    if workers is None:
        uvicorn.Server(config).run(sockets=[listener])
    else:
        Multiprocess(config, sockets=[listener]).run()


def application() -> Any:
    """Return the application that the environment names, for a process that serves it."""
    from slow_ribbon.service.app import create_app

    served = Served(**json.loads(os.environ[_SERVED]))
    log_as_json(served.log_requests)
    return create_app(served.database, Path(served.web), served.hosts, Path(served.backups) if served.backups else None)


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
