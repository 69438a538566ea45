"""Rows: items set out along a line."""

from __future__ import annotations

from slow_ribbon.core.rows.items import BoxItem, RoundItem
from slow_ribbon.core.rows.model import Row, RowBody, Seat
from slow_ribbon.core.rows.spacing import EqualBays, FixedCentres, Spacing

__all__ = ["BoxItem", "EqualBays", "FixedCentres", "RoundItem", "Row", "RowBody", "Seat", "Spacing"]
