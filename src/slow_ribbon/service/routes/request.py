"""What routes take from a request, and the answers that they have in common."""

from __future__ import annotations

import re
from typing import Annotated
from urllib.parse import quote, unquote

from fastapi import Depends, Header, Path, Query, Request, Response
from pydantic import Field

from slow_ribbon.service.work.tasks import Tasks
from slow_ribbon.service.workspace import Bench
from slow_ribbon.store.records import Author

#: A mesh is named by the hash of what it is made from, so it never changes.
FOR_EVER = {"Cache-Control": "public, max-age=31536000, immutable"}


async def the_bench(request: Request) -> Bench:
    """Return the server's bench."""
    bench: Bench = request.app.state.bench
    return bench


AtBench = Annotated[Bench, Depends(the_bench)]


Revision = Annotated[int, Field(ge=0, lt=2**31)]
"""The number of a revision."""

JobId = Annotated[str, Path(pattern=r"^[A-Za-z0-9-]{1,64}$")]
"""The id of a job in an address."""

MeshKey = Annotated[str, Path(pattern=r"^[0-9a-f]{32}$")]
"""The key of a mesh, or of a row's places."""

Window = Annotated[str | None, Header(alias="X-Window", pattern=r"^[A-Za-z0-9-]{1,64}$")]
"""The name a window gives itself, so that it is not notified of its own changes."""

NamedBy = Annotated[str | None, Header(alias="X-Author", max_length=400)]
"""The name somebody gave themselves in this browser, percent-encoded, for the history."""


async def the_author(window: Window = None, name: NamedBy = None) -> Author:
    """Return who sends a request, as far as they say."""
    message = " ".join("".join(letter if letter.isprintable() else " " for letter in unquote(name or "")).split())[:60]
    return Author(window, message or None)


By = Annotated[Author, Depends(the_author)]

TaskName = Annotated[str | None, Query(pattern=r"^[A-Za-z0-9._-]{1,64}$")]
"""The name that a window gives long work, to watch and to stop it."""


async def the_tasks(request: Request) -> Tasks:
    """Return the server's tasks."""
    tasks: Tasks = request.app.state.tasks
    return tasks


AtTasks = Annotated[Tasks, Depends(the_tasks)]


def written(answer: bytes) -> Response:
    """Return an answer that is written already; FastAPI's own check would read and write it again."""
    return Response(answer, media_type="application/json", headers={"Cache-Control": "no-store"})


def attached(name: str) -> dict[str, str]:
    """Return the headers of an answer that is saved as a file of a name, in letters that any system takes besides its own."""
    plain = re.sub(r"[^A-Za-z0-9._-]+", "-", name).strip("-") or "file"
    return {"Content-Disposition": f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(name)}", "Cache-Control": "no-store"}
