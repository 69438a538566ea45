"""Errors as RFC 9457 problem documents: what is wrong, at which place, what to do."""

from __future__ import annotations

import logging
from collections.abc import Mapping
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from sqlalchemy.exc import InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from slow_ribbon.core.faults import Refused
from slow_ribbon.core.told import plain
from slow_ribbon.formats.apart import LARGEST, Stopped
from slow_ribbon.service.told import Told, told_parts
from slow_ribbon.store.jobs import Conflict, Unknown

log = logging.getLogger("slow_ribbon")

#: A request may be as large as the largest drawing and its wrapping.
LARGEST_BODY = LARGEST + 64 * 1024


class Problem(BaseModel):
    """An ``application/problem+json`` body. ``place`` is where in the input, ``changes`` what a conflict missed.

    ``told`` is the detail in parts, its lengths as numbers.
    """

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    code: str
    place: str = ""
    changes: list[str] = []
    current: int | None = None
    told: Told = []


def problem(status: int, title: str, detail: str, code: str, headers: Mapping[str, str] | None = None, **more: Any) -> JSONResponse:
    """Return a problem response."""
    body = Problem(title=title, status=status, detail=plain(detail), code=code, told=told_parts(detail), **more)
    return JSONResponse(body.model_dump(mode="json"), status, headers, "application/problem+json")


def _refused(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, Refused)
    status = {"unknown-id": 404, "too-large": 413}.get(error.code, 422)
    return problem(status, "Not possible as it stands", error.what, error.code, place=error.where)


def _invalid(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)
    first = error.errors()[0]
    place = ".".join(str(part) for part in first["loc"] if part != "body")
    more = len(error.errors()) - 1
    told = f"{place}: {first['msg']}" + (f" ({more} more)" if more else "") + "."
    return problem(422, "The request is wrong", told, "invalid", place=place)


def _conflict(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, Conflict)
    told = "This job has changed since: " + "; ".join(error.changes[-5:]) + ". Nothing was saved; look at it again and repeat the edit."
    return problem(409, "The job has changed", told, "conflict", changes=error.changes, current=error.current)


def _stopped(_: Request, error: Exception) -> JSONResponse:
    return problem(409, "Stopped", "This was stopped, and nothing has changed.", "stopped")


def _unknown(_: Request, error: Exception) -> JSONResponse:
    return problem(404, "Not here", "There is nothing here under this address: it may be an old link.", "unknown-id", place=str(error))


def _database(_: Request, error: Exception) -> JSONResponse:
    log.error("the database does not answer: %s", str(error).splitlines()[0])
    told = "The database does not answer, so nothing can be read or saved just now. What was saved before is safe. Try again shortly."
    return problem(503, "The database does not answer", told, "database", headers={"Retry-After": "2"})


def _http(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, HTTPException)
    told = {
        404: "There is no such address in the service.",
        405: "The service does not answer this kind of request at this address.",
    }.get(error.status_code, f"The request was not understood: {error.detail}.")
    return problem(error.status_code, str(error.detail), told, "http", headers=error.headers)


def _failed(_: Request, error: Exception) -> JSONResponse:
    # Starlette logs the traceback and raises it on; the user gets words.
    told = "Something failed in the service. Nothing was saved by this request; the fault is in the service's log."
    return problem(500, "The service failed", told, "failed")


class BodyLimit:
    """Answers 413 to a request whose body is larger than any drawing may be, without reading it all."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        declared = next((int(value) for name, value in scope["headers"] if name == b"content-length" and value.isdigit()), 0)
        if declared > LARGEST_BODY:
            await _too_large()(scope, receive, send)
            return
        read = 0

        async def limited() -> Message:
            nonlocal read
            message = await receive()
            read += len(message.get("body", b""))
            if read > LARGEST_BODY:
                raise Refused("The request is larger than 50 MB.", "file", "too-large")
            return message

        await self._app(scope, limited, send)


def _too_large() -> JSONResponse:
    told = "The file is over 50 MB, the most that can be brought in. Save the part you need as a file of its own."
    return problem(413, "Too large", told, "too-large", place="file")


def add_problems(app: FastAPI) -> None:
    """Answer every error of an application as a problem document."""
    app.add_exception_handler(Refused, _refused)
    app.add_exception_handler(RequestValidationError, _invalid)
    app.add_exception_handler(Conflict, _conflict)
    app.add_exception_handler(Unknown, _unknown)
    app.add_exception_handler(Stopped, _stopped)
    app.add_exception_handler(HTTPException, _http)
    for kind in (OperationalError, InterfaceError, PoolTimeout):
        app.add_exception_handler(kind, _database)
    app.add_exception_handler(Exception, _failed)
    app.add_middleware(BodyLimit)
