"""The application: the service under ``/api`` and the built interface beside it."""

from __future__ import annotations

import os
from collections.abc import AsyncIterator, Collection
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any, Final

import anyio.to_thread
from fastapi import FastAPI, Response
from fastapi.responses import FileResponse
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.types import ASGIApp

from slow_ribbon import __version__
from slow_ribbon.sandbox import keep_warm
from slow_ribbon.service.gc_pauses import Collecting
from slow_ribbon.service.guard import BodyLimit, Guard, SecurityHeaders
from slow_ribbon.service.metrics import Observed
from slow_ribbon.service.problems import Problem, add_problems
from slow_ribbon.service.routes import events, health, imports, inspect, job_list, jobs, reissue, sections, shop, suppliers
from slow_ribbon.service.routes.events import Hub
from slow_ribbon.service.supplier import Supplier
from slow_ribbon.service.views.sections import how_it_looks
from slow_ribbon.service.work.tasks import Tasks
from slow_ribbon.service.workspace import Bench
from slow_ribbon.store.backup import Nightly
from slow_ribbon.store.database import THREADS, connect
from slow_ribbon.store.events import Event, Listening
from slow_ribbon.store.jobs import Jobs
from slow_ribbon.store.shop import Shop

#: The environment's name for the address of a supplier's catalogue.
SUPPLIER: Final = "SLOW_RIBBON_SUPPLIER"
#: What is loaded once by the process that readers and heavy work are forked from.
LOADED_APART: Final = ("slow_ribbon.imports.preload", "slow_ribbon.service.routes.jobs")
_SCHEMA: Final = "#/components/schemas/{model}"


class Application(FastAPI):
    """The application with its guard around everything, the answers to its own failures included."""

    def __init__(self, hosts: Collection[str], **more: Any) -> None:
        super().__init__(**more)
        self._hosts = hosts

    def build_middleware_stack(self) -> ASGIApp:
        """Return the middleware that a request passes, from outside in."""
        inner = GZipMiddleware(super().build_middleware_stack(), minimum_size=1000, compresslevel=5)
        return SecurityHeaders(Observed(Guard(BodyLimit(inner), self._hosts), self))

    def openapi(self) -> dict[str, Any]:
        """Return the description of the service, that of a problem included, which its routes point at."""
        if self.openapi_schema is None:
            schemas = super().openapi()["components"]["schemas"]
            problem = Problem.model_json_schema(ref_template=_SCHEMA)
            schemas |= {**problem.pop("$defs", {}), "Problem": problem}
        assert self.openapi_schema is not None  # it has been described
        return self.openapi_schema


def create_app(
    database: str, web: Path | None = None, hosts: Collection[str] = (), backups: Path | None = None, supplier: str | None = None
) -> FastAPI:
    """Return the application on a database; ``web`` is the folder of the built interface.

    ``hosts`` are the names it answers under besides those of this machine itself; ``backups`` the
    folder that a nightly backup goes to.
    """
    engine = connect(database)
    bench, hub, collecting, tasks = (
        Bench(Jobs(engine), Shop(engine, how_it_looks), Supplier(engine, supplier or os.environ.get(SUPPLIER))),
        Hub(),
        Collecting(),
        Tasks(),
    )

    def heard(event: Event) -> None:
        if event.stop is not None:
            tasks.stop(event.stop)
        else:
            if event.job is not None:
                bench.jobs.documents.heard(event.job, event.revision)
            hub.publish(event)

    @asynccontextmanager
    async def running(app: FastAPI) -> AsyncIterator[None]:
        anyio.to_thread.current_default_thread_limiter().total_tokens = THREADS
        hub.start(Listening(engine, heard))
        nightly = Nightly(engine, backups) if backups is not None else None
        if nightly is not None:
            nightly.start()
        # Before anything is frozen or asked: the process that readers and heavy work are forked from.
        keep_warm(*LOADED_APART)
        collecting.start()
        try:
            yield
        finally:
            if nightly is not None:
                nightly.stop()
            collecting.stop()
            await anyio.to_thread.run_sync(hub.stop)
            engine.dispose()

    app = Application(
        hosts, title="Slow Ribbon", version=__version__, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json", lifespan=running
    )
    app.state.bench, app.state.hub, app.state.collecting, app.state.engine, app.state.tasks = bench, hub, collecting, engine, tasks
    add_problems(app)
    # Sentence by where it is written, and not as a model: of that each route would keep its own copy for each status, 2 MB together.
    problems: dict[int | str, dict[str, Any]] = {
        status: {"description": "A problem", "content": {"application/problem+json": {"schema": {"$ref": _SCHEMA.format(model="Problem")}}}}
        for status in (400, 403, 404, 408, 409, 413, 415, 421, 422, 503, 507)
    }
    for routes in (job_list, jobs, imports, reissue, inspect, sections, shop, suppliers, events, health):
        app.include_router(routes.router, prefix="/api", responses=problems)
    app.include_router(health.metrics_router)
    if web is not None:
        _serve_web(app, web.resolve())
    return app


def _serve_web(app: FastAPI, web: Path) -> None:
    index = web / "index.html"

    @app.api_route("/{path:path}", methods=["GET", "HEAD"], include_in_schema=False)
    def page(path: str) -> Response:
        if path.startswith("api/"):
            raise HTTPException(404, "There is no such address in the service.")
        try:
            wanted = (web / path).resolve()
            there = wanted.is_file() and wanted.is_relative_to(web)
        except (ValueError, OSError):
            # No name of a file: too long, or with what no name has in it.
            raise HTTPException(404, "There is no such file.") from None
        if there:
            for_ever = path.startswith("assets/")
            return FileResponse(wanted, headers={"Cache-Control": "public, max-age=31536000, immutable" if for_ever else "no-cache"})
        if path.startswith("assets/"):
            raise HTTPException(404, "There is no such file.")
        return FileResponse(index, headers={"Cache-Control": "no-cache"})
