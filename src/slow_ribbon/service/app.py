"""The application: the service under ``/api`` and the built interface beside it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request, Response
from fastapi.responses import FileResponse
from starlette.exceptions import HTTPException
from starlette.middleware.base import RequestResponseEndpoint

from slow_ribbon import __version__
from slow_ribbon.service import asking, imports, jobs
from slow_ribbon.service.bench import Bench
from slow_ribbon.service.problems import Problem, add_problems
from slow_ribbon.store.database import connect
from slow_ribbon.store.jobs import Jobs

#: Everything ships with the application; a page may load from nowhere else.
_POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; connect-src 'self' blob: data:; "
    "object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)


def create_app(database: str, web: Path | None = None) -> FastAPI:
    """Return the application on a database; ``web`` is the folder of the built interface."""
    app = FastAPI(title="Slow Ribbon", version=__version__, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json")
    app.state.bench = Bench(Jobs(connect(database)))
    add_problems(app)
    problems: dict[int | str, dict[str, Any]] = {
        status: {"model": Problem, "description": "A problem"} for status in (404, 409, 413, 422, 503)
    }
    app.include_router(jobs.router, prefix="/api", responses=problems)
    app.include_router(imports.router, prefix="/api", responses=problems)
    app.include_router(asking.router, prefix="/api", responses=problems)

    @app.middleware("http")
    async def policy(request: Request, call_next: RequestResponseEndpoint) -> Response:
        response = await call_next(request)
        response.headers["Content-Security-Policy"] = _POLICY
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        return response

    if web is not None:
        _serve_web(app, web.resolve())
    return app


def _serve_web(app: FastAPI, web: Path) -> None:
    index = web / "index.html"

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        if path.startswith("api/"):
            raise HTTPException(404, "There is no such address in the service.")
        wanted = (web / path).resolve()
        if wanted.is_file() and wanted.is_relative_to(web):
            for_ever = path.startswith("assets/")
            return FileResponse(wanted, headers={"Cache-Control": "public, max-age=31536000, immutable" if for_ever else "no-cache"})
        if path.startswith("assets/"):
            raise HTTPException(404, "There is no such file.")
        return FileResponse(index, headers={"Cache-Control": "no-cache"})
