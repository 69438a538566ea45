"""Rows: items set out along a line."""

from __future__ import annotations

from slow_ribbon.core.rows.filling import ChanceFilling, GridFilling
from slow_ribbon.core.rows.items import (
    BalusterItem,
    BollardItem,
    BoxItem,
    BracketItem,
    BroughtItem,
    ItemBase,
    LampItem,
    PanelItem,
    Part,
    PlanterItem,
    PostItem,
    RoundItem,
    TreeItem,
    TypicalItem,
)
from slow_ribbon.core.rows.model import Row, RowBody, Use
from slow_ribbon.core.rows.obstacles import ClearOf
from slow_ribbon.core.rows.on_cords import loaded_cords
from slow_ribbon.core.rows.orientation import TurnBearing, TurnToward, TurnWithLine
from slow_ribbon.core.rows.pattern import ItemPattern, OtherItem, Seat
from slow_ribbon.core.rows.row_set_out import RowSetOut
from slow_ribbon.core.rows.spacing import ClearGap, EqualBays, FixedCentres, NearestBays, SetNumber, Spacing

__all__ = [
    "BalusterItem",
    "BollardItem",
    "BoxItem",
    "BracketItem",
    "BroughtItem",
    "ChanceFilling",
    "ClearGap",
    "ClearOf",
    "EqualBays",
    "FixedCentres",
    "GridFilling",
    "ItemBase",
    "ItemPattern",
    "LampItem",
    "NearestBays",
    "OtherItem",
    "PanelItem",
    "Part",
    "PlanterItem",
    "PostItem",
    "RoundItem",
    "Row",
    "RowBody",
    "RowSetOut",
    "Seat",
    "SetNumber",
    "Spacing",
    "TreeItem",
    "TurnBearing",
    "TurnToward",
    "TurnWithLine",
    "TypicalItem",
    "Use",
    "loaded_cords",
]
