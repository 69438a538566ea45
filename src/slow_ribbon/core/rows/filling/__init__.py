"""How a closed line is filled with items: a file for each way, all of them listed here."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Final, Union

from pydantic import Field

from slow_ribbon.core.rows.filling.base import FillingBase, Ground
from slow_ribbon.core.rows.filling.chance import ChanceFilling
from slow_ribbon.core.rows.filling.grid import GridFilling

#: Every way of filling.
FILLINGS: Final[tuple[type[FillingBase], ...]] = (GridFilling, ChanceFilling)

if TYPE_CHECKING:
    Filling = FillingBase
else:
    Filling = Annotated[Union[FILLINGS], Field(discriminator="kind")]  # noqa: UP007  # made of the registry

__all__ = ["FILLINGS", "ChanceFilling", "Filling", "FillingBase", "GridFilling", "Ground"]
