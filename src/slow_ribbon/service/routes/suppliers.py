"""The route of the supplier's catalogue."""

from __future__ import annotations

import datetime
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from slow_ribbon.core.sections import section_shape
from slow_ribbon.service.routes.request import AtBench
from slow_ribbon.service.supplier import Goods
from slow_ribbon.service.views.sections import svg_path

router = APIRouter()


class GoodsShown(Goods):
    """A section as the supplier sells it, with its outline as an SVG path."""

    path: str


class SupplierPage(BaseModel):
    """A page of the supplier's catalogue: when it was fetched, and what keeps the supplier from answering now, in words."""

    supplier: str
    page: int
    pages: int
    goods: list[GoodsShown]
    fetched_at: datetime.datetime
    trouble: str


class SupplierThere(BaseModel):
    """Whether a supplier's catalogue is connected."""

    there: bool


@router.get("/supplier")
def is_there(bench: AtBench) -> SupplierThere:
    """Return whether a supplier's catalogue is connected."""
    return SupplierThere(there=bench.supplier.there)


@router.get("/supplier/catalogue")
async def show_catalogue(bench: AtBench, page: Annotated[int, Query(ge=1, le=10_000)] = 1) -> SupplierPage:
    """Return a page of the supplier's catalogue, as it answers or as it answered last."""
    asked = await bench.supplier.page(page)
    found = asked.page
    goods = [GoodsShown(**vars(one), path=svg_path(section_shape(one.section))) for one in found.goods]
    return SupplierPage(
        supplier=found.supplier, page=found.page, pages=found.pages, goods=goods, fetched_at=asked.fetched_at, trouble=asked.trouble
    )
