"""Asking a supplier's catalogue over HTTP: with limits, again after growing pauses, and keeping what it answered last.

What a supplier says is looked at before it is believed. When it is slow, down or answers nonsense, what was fetched last is
given instead, with the time it was fetched and what went wrong.
"""

from __future__ import annotations

import asyncio
import datetime
import logging
from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated, Any, Final

import anyio.to_thread
from pydantic import BaseModel, Field, ValidationError
from sqlalchemy import Engine
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.sections import SectionBody, section_shape
from slow_ribbon.store.tables import SupplierAnswerRow

if TYPE_CHECKING:
    import httpx

log = logging.getLogger("slow_ribbon")

#: Seconds to connect, and for the whole of an answer.
CONNECT: Final = 1.5
ANSWER: Final = 3.0
#: Seconds between one try and the next.
PAUSES: Final = (0.2, 0.6)
#: The most that an answer may hold, bytes.
LARGEST: Final = 5_000_000


class Goods(BaseModel):
    """A section as the supplier sells it: code, stock lengths (mm), price a metre, and days until it comes."""

    code: Annotated[str, Field(min_length=1, max_length=60)]
    section: SectionBody
    lengths: Annotated[list[Annotated[float, Field(gt=0, le=100_000)]], Field(min_length=1, max_length=50)]
    price: Annotated[float, Field(ge=0, le=1e6)]
    currency: Annotated[str, Field(min_length=3, max_length=3)]
    days: Annotated[int, Field(ge=0, le=3650)]


class CataloguePage(BaseModel):
    """A page of a supplier's catalogue."""

    supplier: Annotated[str, Field(min_length=1, max_length=120)]
    page: Annotated[int, Field(ge=1)]
    pages: Annotated[int, Field(ge=1, le=10_000)]
    goods: Annotated[list[Goods], Field(max_length=500)]


@dataclass(frozen=True)
class Asked:
    """A page, when it was fetched, and what keeps the supplier from answering now; None where it has just answered."""

    page: CataloguePage
    fetched_at: datetime.datetime
    trouble: str


class Supplier:
    """A supplier's catalogue at an address; without one, no page is fetched."""

    def __init__(self, engine: Engine, address: str | None) -> None:
        self._engine = engine
        self._address = address

    @property
    def there(self) -> bool:
        """Whether a supplier's catalogue was named."""
        return bool(self._address)

    async def page(self, number: int) -> Asked:
        """Return a page of the catalogue. Raises ``Refused`` if it does not exist, kept or new."""
        if not self._address:
            raise Refused("No supplier's catalogue is connected. Name one with --supplier when the service is started.", "", "no-supplier")
        address = f"{self._address.rstrip('/')}/catalogue?page={number}"
        found, trouble = await _asked(address)
        if found is not None:
            now = datetime.datetime.now(datetime.UTC)
            await anyio.to_thread.run_sync(self._keep, address, found, now)
            return Asked(found, now, "")
        log.warning("the supplier at %s: %s", self._address, trouble)
        kept = await anyio.to_thread.run_sync(self._kept, address)
        if kept is None:
            raise Refused(f"The supplier's catalogue {trouble}, and none of it was fetched before. Try again later.", "", "supplier")
        return Asked(kept[0], kept[1], trouble)

    def _keep(self, address: str, page: CataloguePage, at: datetime.datetime) -> None:
        values = {"address": address, "answer": page.model_dump(mode="json"), "fetched_at": at}
        with Session(self._engine) as session, session.begin():
            session.execute(
                insert(SupplierAnswerRow)
                .values(values)
                .on_conflict_do_update(index_elements=["address"], set_={name: values[name] for name in ("answer", "fetched_at")})
            )

    def _kept(self, address: str) -> tuple[CataloguePage, datetime.datetime] | None:
        with Session(self._engine) as session:
            row = session.get(SupplierAnswerRow, address)
            return None if row is None else (CataloguePage.model_validate(row.answer), row.fetched_at)


async def _asked(address: str) -> tuple[CataloguePage | None, str]:
    """Return the answer of an address, or a sentence that says why it gave no answer; it is asked again where another try may help."""
    import httpx

    trouble = ""
    limits = httpx.Timeout(ANSWER, connect=CONNECT)
    async with httpx.AsyncClient(timeout=limits, follow_redirects=False, trust_env=False) as client:
        for pause in (*PAUSES, None):
            try:
                async with asyncio.timeout(ANSWER):
                    found, trouble, again = await _once(client, address)
            except (TimeoutError, httpx.TimeoutException):
                found, trouble, again = None, "does not answer in time", True
            except httpx.HTTPError:
                found, trouble, again = None, "cannot be reached", True
            if found is not None or not again or pause is None:
                return found, trouble
            await asyncio.sleep(pause)
    return None, trouble


async def _once(client: httpx.AsyncClient, address: str) -> tuple[CataloguePage | None, str, bool]:
    async with client.stream("GET", address, headers={"Accept": "application/json"}) as answer:
        if answer.status_code != 200:
            return None, f"answers with an error ({answer.status_code})", answer.status_code >= 500
        kind = answer.headers.get("content-type", "")
        if "json" not in kind:
            return None, f"answers with something other than a catalogue ({kind.partition(';')[0] or 'nothing named'})", False
        parts, size = [], 0
        async for part in answer.aiter_bytes():
            parts.append(part)
            size += len(part)
            if size > LARGEST:
                return None, "answers with more than a page of a catalogue can be", False
    return _believed(b"".join(parts))


def _believed(data: bytes) -> tuple[CataloguePage | None, str, bool]:
    """Return a page that holds together; a section of it that does not makes all of it doubtful."""
    try:
        page = CataloguePage.model_validate_json(data)
        for one in page.goods:
            section_shape(one.section)
    except (ValidationError, Refused) as error:
        first: Any = error.errors(include_url=False)[0] if isinstance(error, ValidationError) else {"loc": (error.where,)}
        where = ".".join(str(part) for part in first["loc"]) or "its beginning"
        return None, f"answers with something that is not a catalogue (at {where})", False
    return page, "", False
