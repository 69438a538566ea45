"""Limits on requests: hosts, origins, bodies that are too large or too slow, and the headers of every answer.

A page of another site can make a browser send requests to this machine, even under a name of its
own that it lets point here (DNS rebinding). So a request is only answered under a host that is
known, and one that could change something only where it comes from the application's own pages
or from no page at all.
"""

from __future__ import annotations

import asyncio
import ipaddress
import time
from collections.abc import Collection
from typing import Final
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from slow_ribbon.core.kernel import Refused
from slow_ribbon.imports.isolated import LARGEST
from slow_ribbon.service.problems import problem

#: Everything ships with the application; a page may load from nowhere else.
POLICY: Final = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; connect-src 'self' blob: data:; "
    "object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)

#: On every answer, of whatever status.
SECURITY_HEADERS: Final = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
}

#: A request may be as large as the largest drawing and its wrapping.
LARGEST_BODY: Final = LARGEST + 64 * 1024
#: And as large as this where it is no file.
LARGEST_REQUEST: Final = 1_000_000
#: Seconds within which something of a body must come, and after which it must have come at this rate, bytes a second.
SLOWEST: Final = 20.0
LEAST_RATE: Final = 1000

_WRITES: Final = frozenset({"POST", "PUT", "PATCH", "DELETE"})


class SecurityHeaders:
    """Gives every answer the security headers."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in SECURITY_HEADERS.items():
                    headers[name] = value
            await send(message)

        await self._app(scope, receive, with_headers)


class Guard:
    """Answers only under known hosts, and writes only for the application's own pages or no page.

    Loopback addresses and ``localhost`` are always known; ``hosts`` are further names.
    """

    def __init__(self, app: ASGIApp, hosts: Collection[str] = ()) -> None:
        self._app = app
        self._hosts = {host.lower() for host in hosts}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        hosts = headers.getlist("host")
        if len(hosts) != 1 or not self._known(hosts[0]):
            wording = (
                "The service does not answer under this name. Use the address it was started with, or start it with "
                "--allow-host and the name."
            )
            await problem(421, "Not under this name", wording, "host")(scope, receive, send)
            return
        if scope["method"] in _WRITES and not _own(headers, hosts[0], scope["scheme"]):
            wording = "This request comes from a page of another site, which must not change anything here."
            await problem(403, "From another site", wording, "origin")(scope, receive, send)
            return
        await self._app(scope, receive, send)

    def _known(self, host: str) -> bool:
        try:
            name = urlsplit(f"//{host}").hostname or ""
        except ValueError:
            return False
        return name in self._hosts or is_loopback(name)


def is_loopback(name: str) -> bool:
    """Return whether a host name or address is this machine's own."""
    try:
        return ipaddress.ip_address(name).is_loopback
    except ValueError:
        return name == "localhost"


def _own(headers: Headers, host: str, scheme: str) -> bool:
    if headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
        return False
    origins = headers.getlist("origin")
    if not origins:
        return True
    try:
        origin = urlsplit(origins[0])
        return len(origins) == 1 and (origin.scheme, origin.netloc.lower()) == (scheme, host.lower())
    except ValueError:
        return False


class BodyLimit:
    """Answers 413 to a body larger than any drawing may be, without reading it all, and 408 to one that hardly comes."""

    def __init__(self, app: ASGIApp, slowest: float = SLOWEST) -> None:
        self._app = app
        self._slowest = slowest

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        most, wording = _most_of(scope)
        declared = next((int(value) for name, value in scope["headers"] if name == b"content-length" and value.isdigit()), 0)
        if declared > most:
            await _too_large(wording)(scope, receive, send)
            return
        read, whole, begun = 0, False, time.monotonic()
        answered = False

        async def limited() -> Message:
            nonlocal read, whole
            if whole:
                return await receive()
            try:
                message = await asyncio.wait_for(receive(), self._slowest)
            except TimeoutError:
                raise _TooSlow from None
            read += len(message.get("body", b""))
            whole = not message.get("more_body", False)
            if read > most:
                raise _TooLarge
            took = time.monotonic() - begun
            if not whole and took > self._slowest and read < LEAST_RATE * took:
                raise _TooSlow
            return message

        async def noted(message: Message) -> None:
            nonlocal answered
            answered = True
            await send(message)

        try:
            await self._app(scope, limited, noted)
        except (_TooLarge, _TooSlow) as error:
            if not answered:
                await (_too_large(wording) if isinstance(error, _TooLarge) else _too_slow())(scope, receive, send)


class _TooLarge(BaseException):
    """Goes past every handler of the application, none of which could answer it."""


class _TooSlow(BaseException):
    """Likewise."""


_FILE_TOO_LARGE: Final = "The file is over 50 MB, the most that can be imported. Save the part you need as a file of its own."
_REQUEST_TOO_LARGE: Final = (
    f"The request is over {LARGEST_REQUEST // 1_000_000} MB, more than any edits need. Send them in parts, or import a large drawing "
    "as a file."
)


def _most_of(scope: Scope) -> tuple[int, str]:
    """Return the largest body that a request may have, and the message about a larger one: files are large, all else is small.

    What is not a file is read and checked as a whole while nothing else can be done.
    """
    kind = Headers(scope=scope).get("content-type", "").partition(";")[0].strip().lower()
    if kind == "application/json" and not scope["path"].endswith("/file"):
        return LARGEST_REQUEST, _REQUEST_TOO_LARGE
    return LARGEST_BODY, _FILE_TOO_LARGE


def _too_large(wording: str) -> ASGIApp:
    return problem(413, "Too large", wording, "too-large", place="file", headers={"Connection": "close"})


def _too_slow() -> ASGIApp:
    wording = "The request did not arrive in time. Check the connection, then send it again."
    return problem(408, "Too slow", wording, "too-slow", headers={"Connection": "close"})


def check_type(given: str | None, wanted: str) -> None:
    """Raise ``Refused`` where what is sent is not said to be of the type it must be: a page can send others without asking."""
    if (given or "").partition(";")[0].strip().lower() != wanted:
        raise Refused(f"This must be sent as {wanted}.", "Content-Type", "type")
