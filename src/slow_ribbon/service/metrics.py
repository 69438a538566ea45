"""What the service reports of itself: a line of JSON for each request, and metrics."""

from __future__ import annotations

import json
import logging
import re
import sys
import time
import uuid
from contextvars import ContextVar
from typing import Any, Final

from prometheus_client import CollectorRegistry, Counter, Gauge, Histogram
from prometheus_client.process_collector import ProcessCollector
from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

requests_log = logging.getLogger("slow_ribbon.requests")

#: The id of the request that is being answered, reported in problems and in the log.
request_id: ContextVar[str] = ContextVar("request_id", default="")

REGISTRY: Final = CollectorRegistry()
ProcessCollector(registry=REGISTRY)
_TIMES: Final = (0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30, 120)
REQUESTS: Final = Counter("slow_ribbon_requests", "Requests answered.", ("method", "path", "status"), registry=REGISTRY)
REQUEST_TIME: Final = Histogram(
    "slow_ribbon_request_seconds", "Time from a request to its answer.", ("path",), registry=REGISTRY, buckets=_TIMES
)
EDITS: Final = Counter("slow_ribbon_edits", "Edits saved, by kind.", ("kind",), registry=REGISTRY)
SOLVE_TIME: Final = Histogram("slow_ribbon_solve_seconds", "Time to solve a job after a change.", registry=REGISTRY, buckets=_TIMES)
READERS: Final = Gauge("slow_ribbon_readers", "Files being read, and waiting to be.", ("state",), registry=REGISTRY)
HEAVY: Final = Gauge("slow_ribbon_heavy", "Heavy work in processes of its own, and waiting for one.", ("state",), registry=REGISTRY)
POOL: Final = Gauge("slow_ribbon_database_connections", "Connections to the database.", ("state",), registry=REGISTRY)
WINDOWS: Final = Gauge("slow_ribbon_windows", "Windows that listen to events.", registry=REGISTRY)

_GIVEN: Final = re.compile(r"^[A-Za-z0-9-]{8,64}$")


class Observed:
    """Counts and logs every request, under an id that its answer carries; a caller may give the id in ``X-Request-Id``."""

    def __init__(self, app: ASGIApp, application: Any) -> None:
        self._app = app
        self._state = application.state

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        given = next((value.decode("latin-1") for name, value in scope["headers"] if name == b"x-request-id"), "")
        id = given if _GIVEN.match(given) else uuid.uuid4().hex[:16]
        token = request_id.set(id)
        begin, status, size, took = time.perf_counter(), 0, 0, 0.0
        collecting = self._state.collecting
        stream = scope["path"].endswith("/events")
        collecting.busy += not stream

        async def noted(message: Message) -> None:
            nonlocal status, size, took
            if message["type"] == "http.response.start":
                status = message["status"]
                MutableHeaders(scope=message)["X-Request-Id"] = id
            else:
                size += len(message.get("body", b""))
                if not message.get("more_body", False):
                    # What is done after the answer is no part of it.
                    took = time.perf_counter() - begin
            await send(message)

        try:
            await self._app(scope, receive, noted)
        finally:
            request_id.reset(token)
            took = took or time.perf_counter() - begin
            collecting.busy -= not stream
            collecting.answered += 1
            route = scope.get("route")
            path = str(getattr(route, "path", "")) or "other"
            method = scope["method"] if scope["method"] in ("GET", "HEAD", "POST", "PUT", "DELETE") else "other"
            REQUESTS.labels(method, path, status).inc()
            if not stream:
                REQUEST_TIME.labels(path).observe(took)
            requests_log.info(
                "",
                extra={
                    "request": id, "method": scope["method"], "path": scope["path"], "status": status,
                    "milliseconds": round(took * 1000, 1), "bytes": size,
                },
            )  # fmt: skip


_OWN: Final = frozenset(vars(logging.makeLogRecord({}))) | {"message", "asctime", "taskName"}


class JsonLines(logging.Formatter):
    """Writes a log record as one line of JSON: when, how grave, of what part, what, and what else is known of it."""

    def format(self, record: logging.LogRecord) -> str:
        """Return the line."""
        when = time.strftime("%Y-%m-%dT%H:%M:%S", time.gmtime(record.created)) + f".{int(record.msecs):03d}Z"
        line: dict[str, Any] = {"at": when, "level": record.levelname.lower(), "from": record.name}
        if record.getMessage():
            line["what"] = record.getMessage()
        line.update((name, value) for name, value in vars(record).items() if name not in _OWN)
        if "request" not in line and (id := request_id.get()):
            line["request"] = id
        if record.exc_info:
            line["traceback"] = self.formatException(record.exc_info)
        return json.dumps(line, default=str, ensure_ascii=False)


def log_as_json(requests: bool) -> None:
    """Write all logs to standard error as lines of JSON; each request too where that is wanted, else only what went wrong."""
    handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(JsonLines())
    logging.basicConfig(level=logging.WARNING, handlers=[handler], force=True)
    logging.getLogger("slow_ribbon").setLevel(logging.INFO)
    requests_log.setLevel(logging.INFO if requests else logging.CRITICAL)
