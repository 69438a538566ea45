"""What is set out: a file for each family of items, all of them listed here."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Final, Union

from pydantic import Field

from slow_ribbon.core.rows.items.base import ItemBase
from slow_ribbon.core.rows.items.brought import BroughtItem
from slow_ribbon.core.rows.items.hung import LampItem
from slow_ribbon.core.rows.items.parts import Level, Part
from slow_ribbon.core.rows.items.plain import BoxItem, PanelItem, RoundItem
from slow_ribbon.core.rows.items.planting import PlanterItem, TreeItem
from slow_ribbon.core.rows.items.posts import BalusterItem, BollardItem, BracketItem, PostItem
from slow_ribbon.core.rows.items.turned import TurnedItem
from slow_ribbon.core.rows.items.typical import TypicalItem

#: Every kind of item.
ITEMS: Final[tuple[type[ItemBase], ...]] = (
    BoxItem, RoundItem, PostItem, BalusterItem, BollardItem, BracketItem, LampItem, PanelItem, PlanterItem, TreeItem,
    TurnedItem, TypicalItem, BroughtItem,
)  # fmt: skip

if TYPE_CHECKING:
    Item = ItemBase
else:
    Item = Annotated[Union[ITEMS], Field(discriminator="kind")]  # noqa: UP007  # made of the registry

__all__ = [
    "ITEMS",
    "BalusterItem",
    "BollardItem",
    "BoxItem",
    "BracketItem",
    "BroughtItem",
    "Item",
    "ItemBase",
    "LampItem",
    "Level",
    "PanelItem",
    "Part",
    "PlanterItem",
    "PostItem",
    "RoundItem",
    "TreeItem",
    "TurnedItem",
    "TypicalItem",
]
