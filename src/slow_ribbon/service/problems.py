"""Errors as RFC 9457 problem documents: what is wrong, at which place, what to do."""

from __future__ import annotations

import logging
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from sqlalchemy.exc import DBAPIError, InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect

from slow_ribbon.core.kernel import Refused, plain
from slow_ribbon.sandbox import Stopped
from slow_ribbon.service.metrics import request_id
from slow_ribbon.service.views.sentences import Sentence, sentence_parts
from slow_ribbon.service.work.tasks import TooMany
from slow_ribbon.store.records import Conflict, Unknown

log = logging.getLogger("slow_ribbon")


class Problem(BaseModel):
    """An ``application/problem+json`` body. ``place`` is where in the input, ``changes`` what a conflict missed.

    ``sentence`` is the detail in parts, its lengths as numbers; ``request`` the id under which it is logged.
    """

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    code: str
    place: str = ""
    changes: list[str] = []
    current: int | None = None
    sentence: Sentence = []
    request: str = ""


#: Codes of refusals that have a status of their own.
_STATUS = {"unknown-id": 404, "too-large": 413, "type": 415, "kept-newer": 409}


def problem(status: int, title: str, detail: str, code: str, headers: Mapping[str, str] | None = None, **more: Any) -> JSONResponse:
    """Return a problem response."""
    # What is quoted of a request may have half a character in it, which no answer can carry.
    detail, more = _whole(detail), {name: _whole(value) if isinstance(value, str) else value for name, value in more.items()}
    body = Problem(
        title=title, status=status, detail=plain(detail), code=code, sentence=sentence_parts(detail), request=request_id.get(), **more
    )
    return JSONResponse(body.model_dump(mode="json"), status, headers, "application/problem+json")


def _whole(text: str) -> str:
    return text.encode("utf-8", "replace").decode()


def _refused(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, Refused)
    return problem(_STATUS.get(error.code, 422), "Not possible as it stands", error.what, error.code, place=error.where)


def _invalid(request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)
    if error.errors() and all(one["loc"][0] == "path" for one in error.errors()):
        # Nothing that there is has such an address.
        return _unknown(request, LookupError(request.url.path))
    first = error.errors()[0]
    place = ".".join(str(part) for part in first["loc"] if part != "body")
    more = len(error.errors()) - 1
    message = f"{place}: {first['msg']}" + (f" ({more} more)" if more else "") + "."
    return problem(422, "The request is wrong", message, "invalid", place=place)


def _conflict(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, Conflict)
    message = "This job has changed since: " + "; ".join(error.changes[-5:]) + ". Nothing was saved; look at it again and repeat the edit."
    return problem(409, "The job has changed", message, "conflict", changes=error.changes, current=error.current)


def _stopped(_: Request, error: Exception) -> JSONResponse:
    return problem(409, "Stopped", "This was stopped, and nothing has changed.", "stopped")


def _gone(_: Request, error: Exception) -> JSONResponse:
    # Nobody reads this any more; it is no fault of the service.
    message = "The request broke off before all of it had come. None of it was done."
    return problem(400, "The request broke off", message, "broken-off")


def _too_many(_: Request, error: Exception) -> JSONResponse:
    message = "More files or heavy work are waiting than can be done just now. None of it was done; send it again in a minute."
    return problem(503, "Too many at once", message, "too-many-waiting", headers={"Retry-After": "30"})


def _unknown(_: Request, error: Exception) -> JSONResponse:
    return problem(404, "Not here", "There is nothing here under this address: it may be an old link.", "unknown-id", place=str(error))


@dataclass(frozen=True)
class _Trouble:
    """The message about a database that cannot answer, and the seconds after which it may."""

    status: int
    title: str
    detail: str
    code: str
    again: int


_SAFE = "What was saved before is safe, and nothing was saved by this request."
_AWAY = _Trouble(503, "The database does not answer", f"The database does not answer just now. {_SAFE}", "database", 2)
_READ_ONLY = f"The database can only be read just now, so nothing can be changed. {_SAFE}"
_FULL = f"The disk of the database is full, so nothing can be saved until there is room. {_SAFE}"
_HELD = f"Another program has locked this job in the database. {_SAFE}"
_TROUBLES = {
    "25006": _Trouble(503, "The database takes no changes", _READ_ONLY, "database-read-only", 10),
    "53100": _Trouble(507, "The disk is full", _FULL, "database-full", 30),
    "53200": _Trouble(503, "The database is short of memory", f"The database is short of memory just now. {_SAFE}", "database-memory", 5),
    "53300": _Trouble(503, "The database is busy", f"The database has no connection to spare just now. {_SAFE}", "database-busy", 2),
    "55P03": _Trouble(503, "Held elsewhere", _HELD, "database-locked", 3),
    "57014": _Trouble(503, "The database is slow", f"The database took too long and was stopped. {_SAFE}", "database-slow", 5),
    "40P01": _Trouble(503, "Held elsewhere", f"Two changes waited for each other, and this one was stopped. {_SAFE}", "database-locked", 1),
}


def _database(request: Request, error: Exception) -> JSONResponse:
    state = getattr(getattr(error, "orig", None), "sqlstate", None)
    if isinstance(error, DBAPIError) and not isinstance(error, OperationalError | InterfaceError) and state not in _TROUBLES:
        # Not the database's state but something it was asked: a fault of the program.
        log.error("a statement failed", exc_info=error)
        return _failed(request, error)
    trouble = _TROUBLES["53300"] if isinstance(error, PoolTimeout) else _TROUBLES.get(state or "", _AWAY)
    log.error("%s: %s", trouble.title.lower(), str(error).strip().splitlines()[0])
    return problem(trouble.status, trouble.title, trouble.detail, trouble.code, headers={"Retry-After": str(trouble.again)})


def _http(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, HTTPException)
    message = {
        404: "There is no such address in the service.",
        405: "The service does not answer this kind of request at this address.",
    }.get(error.status_code, f"The request was not understood: {error.detail}.")
    return problem(error.status_code, str(error.detail), message, "http", headers=error.headers)


def _failed(_: Request, error: Exception) -> JSONResponse:
    # Starlette logs the traceback and raises it on; the user gets words.
    message = "Something failed in the service. Nothing was saved by this request; the fault is in the service's log."
    return problem(500, "The service failed", message, "failed")


def add_problems(app: FastAPI) -> None:
    """Answer every error of an application as a problem document."""
    app.add_exception_handler(Refused, _refused)
    app.add_exception_handler(RequestValidationError, _invalid)
    app.add_exception_handler(Conflict, _conflict)
    app.add_exception_handler(Unknown, _unknown)
    app.add_exception_handler(Stopped, _stopped)
    app.add_exception_handler(TooMany, _too_many)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(ClientDisconnect, _gone)
    for kind in (DBAPIError, PoolTimeout):
        app.add_exception_handler(kind, _database)
    app.add_exception_handler(Exception, _failed)
