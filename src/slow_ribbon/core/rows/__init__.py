"""Rows: items set out along a line."""

from __future__ import annotations

from slow_ribbon.core.rows.items import BoxItem, RoundItem
from slow_ribbon.core.rows.model import Row, RowBody, Seat
from slow_ribbon.core.rows.spacing import ClearGap, EqualBays, FixedCentres, NearestBays, SetNumber, Spacing

__all__ = [
    "BoxItem",
    "ClearGap",
    "EqualBays",
    "FixedCentres",
    "NearestBays",
    "RoundItem",
    "Row",
    "RowBody",
    "Seat",
    "SetNumber",
    "Spacing",
]
