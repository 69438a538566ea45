"""The server process: uvicorn with what a service that many rely on needs besides.

A request whose head does not come is cut off; small answers go out at once.
"""

from __future__ import annotations

import asyncio
import json
import os
import re
import socket
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any, Final

import uvicorn
from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol
from uvicorn.supervisors import Multiprocess

from slow_ribbon.service.guard import SECURITY_HEADERS, SLOWEST
from slow_ribbon.service.metrics import log_as_json

#: Bytes of the head of a request that is not complete.
_MOST_OF_HEAD: Final = 64 * 1024
_END_OF_HEAD: Final = re.compile(rb"\r?\n\r?\n")
_OFFER: Final = re.compile(rb"(?im)^upgrade[ \t]*:")


class Protocol(HttpToolsProtocol):
    """HTTP/1.1 that waits no longer than ``SLOWEST`` seconds for the head of a request, nor takes a larger one than ``_MOST_OF_HEAD``."""

    _late: asyncio.TimerHandle | None = None
    #: What was received of a head.
    _head = b""
    _in_body = False
    _begun = False

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]  # uvicorn narrows it too
        super().connection_made(transport)
        connection = transport.get_extra_info("socket")
        if connection is not None and connection.family in (socket.AF_INET, socket.AF_INET6):
            # A small answer on a kept connection must not wait for the last one to be confirmed.
            connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        self._wait()

    def data_received(self, data: bytes) -> None:
        if not self._in_body:
            whole = self._whole_head(data)
            if whole is None:
                return
            data = whole
        super().data_received(data)
        if self._begun and self._late is None:
            # Of the next request only a part came.
            self._wait()

    def _whole_head(self, data: bytes) -> bytes | None:
        """Return the data received once the head of a request is complete, without its offer of another protocol."""
        if self._late is None:
            self._wait()
        self._unset_keepalive_if_required()
        looked, self._head = max(0, len(self._head) - 3), self._head + data
        end = _END_OF_HEAD.search(self._head, looked)
        if (len(self._head) if end is None else end.start()) > _MOST_OF_HEAD:
            if not self.transport.is_closing():
                self.send_400_response(f"The head of a request has at most {_MOST_OF_HEAD // 1024} kB.")
            return None
        if end is None:
            return None
        if self._late is not None:
            self._late.cancel()
            self._late = None
        # The parser would end with a request that offers another protocol and never look at its body.
        whole, self._head = _OFFER.sub(b"X-Offered:", self._head[: end.end()]) + self._head[end.end() :], b""
        return whole

    def on_message_begin(self) -> None:
        self._begun = True
        super().on_message_begin()

    def on_headers_complete(self) -> None:
        self._begun, self._in_body = False, True
        super().on_headers_complete()

    def on_message_complete(self) -> None:
        self._in_body = False
        super().on_message_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        if self._late is not None:
            self._late.cancel()
        super().connection_lost(exc)

    def shutdown(self) -> None:
        """Let the connection end: streams of events are ended too, which would otherwise never end."""
        hub = getattr(getattr(self.app, "state", None), "hub", None)
        if hub is not None:
            hub.end()
        super().shutdown()

    def send_400_response(self, msg: str) -> None:
        message = msg.encode("ascii", "replace")
        headers = {
            **SECURITY_HEADERS,
            "content-type": "text/plain; charset=utf-8",
            "content-length": str(len(message)),
            "connection": "close",
        }
        head = "".join(f"{name.lower()}: {value}\r\n" for name, value in headers.items())
        self.transport.write(f"HTTP/1.1 400 Bad Request\r\n{head}\r\n".encode("ascii") + message)
        self.transport.close()

    def _wait(self) -> None:
        self._late = self.loop.call_later(SLOWEST, self._cut_off)

    def _cut_off(self) -> None:
        self._late = None
        if not self._in_body and not self.transport.is_closing():
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
    """Serve until asked to stop, in this process or in several that share the listener."""
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
        # On a busy machine a process may take long to come up; one that was replaced every few seconds never would.
        timeout_worker_healthcheck=60,
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
