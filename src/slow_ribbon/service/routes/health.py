"""Routes about the service itself: whether all is well, and metrics."""

from __future__ import annotations

import shutil
import tempfile
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, Request, Response
from prometheus_client import CONTENT_TYPE_LATEST, generate_latest
from pydantic import BaseModel
from sqlalchemy import Engine
from starlette.exceptions import HTTPException

from slow_ribbon.service.guard import is_loopback
from slow_ribbon.service.metrics import POOL, REGISTRY, WINDOWS
from slow_ribbon.service.routes.events import AtHub
from slow_ribbon.store.database import newest_migration, state_of

router = APIRouter()
metrics_router = APIRouter()

#: Less room than this, bytes, for files in passing is a fault.
_LEAST_ROOM = 500 * 1024**2


async def the_engine(request: Request) -> Engine:
    """Return the server's engine."""
    engine: Engine = request.app.state.engine
    return engine


AtEngine = Annotated[Engine, Depends(the_engine)]


class Health(BaseModel):
    """Whether the service can do its work. ``writable``: the database takes changes; ``room`` bytes free for files in passing."""

    status: Literal["well", "unwell"]
    database: str
    writable: bool
    migration: str
    migration_wanted: str
    room: int


@router.get("/health", responses={503: {"model": Health, "description": "Not well"}})
def health(engine: AtEngine, response: Response) -> Health:
    """Return whether the database answers and takes changes, its tables are this program's, and there is room on the disk."""
    state = state_of(engine)
    room = shutil.disk_usage(tempfile.gettempdir()).free
    wanted = newest_migration()
    well = state.writable and state.migration == wanted and room > _LEAST_ROOM
    response.status_code = 200 if well else 503
    return Health(
        status="well" if well else "unwell",
        database=state.version,
        writable=state.writable,
        migration=state.migration,
        migration_wanted=wanted,
        room=room,
    )


@metrics_router.get("/metrics", include_in_schema=False)
def metrics(request: Request, engine: AtEngine, hub: AtHub) -> Response:
    """Return metrics in Prometheus' text format, to this machine alone."""
    if request.client is None or not (is_loopback(request.client.host) or request.client.host == "testclient"):
        raise HTTPException(404)
    pool: Any = engine.pool
    POOL.labels("in use").set(pool.checkedout())
    POOL.labels("idle").set(pool.checkedin())
    WINDOWS.set(hub.windows)
    return Response(generate_latest(REGISTRY), media_type=CONTENT_TYPE_LATEST)
