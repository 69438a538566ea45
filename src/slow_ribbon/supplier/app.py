"""The simulated supplier's service: its catalogue, page by page, and the troubles that a real one may have."""

from __future__ import annotations

import asyncio
import tomllib
from functools import cache
from importlib.resources import files
from typing import Any, Final, Literal

from fastapi import FastAPI, HTTPException, Response

from slow_ribbon.core.sections import from_library

#: Sections on a page of the catalogue.
PAGE: Final = 6
#: How long it takes to answer when it is slow, seconds.
SLOW: Final = 60.0

Trouble = Literal["none", "slow", "down", "page", "nonsense"]


@cache
def goods() -> tuple[dict[str, Any], ...]:
    """Return the catalogue."""
    data = tomllib.loads(files("slow_ribbon.supplier").joinpath("catalogue.toml").read_text())
    return tuple(
        {
            "code": one["code"],
            "section": from_library(one["section"]).model_dump(mode="json"),
            "lengths": one["lengths"],
            "price": one["price"],
            "currency": data["currency"],
            "days": one["days"],
        }
        for one in data["goods"]
    )


def create_supplier() -> FastAPI:
    """Return the supplier's service."""
    app = FastAPI(title="Skerry & Holm", docs_url=None, redoc_url=None)
    state: dict[str, Trouble] = {"trouble": "none"}

    @app.get("/catalogue")
    async def catalogue(page: int = 1) -> Any:
        """Return a page of the catalogue."""
        trouble = state["trouble"]
        if trouble == "slow":
            await asyncio.sleep(SLOW)
        if trouble == "down":
            raise HTTPException(503, "We are taking stock")
        if trouble == "page":
            return Response("<!doctype html><title>Sign in</title><h1>Please sign in</h1>", media_type="text/html")
        if trouble == "nonsense":
            return {"supplier": "Skerry & Holm", "page": page, "pages": 1, "goods": [{"code": 7, "section": {"width": -3}}]}
        pages = max(1, -(-len(goods()) // PAGE))
        if not 1 <= page <= pages:
            raise HTTPException(404, "There is no such page")
        return {"supplier": "Skerry & Holm", "page": page, "pages": pages, "goods": goods()[(page - 1) * PAGE : page * PAGE]}

    @app.put("/trouble/{kind}")
    async def have_trouble(kind: Trouble) -> dict[str, str]:
        """Have a trouble from now on, for tests and for trying what then happens."""
        state["trouble"] = kind
        return {"trouble": kind}

    return app
