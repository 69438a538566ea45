"""How a run is finished where it ends freely: a file for each way, all of them listed here."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Final, Union

from pydantic import Field

from slow_ribbon.core.runs.treatments.ends.angled import Angled
from slow_ribbon.core.runs.treatments.ends.base import LEAST_MEETING, Finish, FreeEnd, NoCut
from slow_ribbon.core.runs.treatments.ends.capped import Capped
from slow_ribbon.core.runs.treatments.ends.level import LevelEnd
from slow_ribbon.core.runs.treatments.ends.plumb import Plumb
from slow_ribbon.core.runs.treatments.ends.posted import Posted
from slow_ribbon.core.runs.treatments.ends.returned import Returned
from slow_ribbon.core.runs.treatments.ends.rounded import Rounded
from slow_ribbon.core.runs.treatments.ends.scribed import ScribedTo
from slow_ribbon.core.runs.treatments.ends.square import SquareEnd

#: Every way of finishing an end.
FINISHES: Final[tuple[type[Finish], ...]] = (SquareEnd, Angled, Plumb, LevelEnd, Returned, Capped, Posted, Rounded, ScribedTo)

if TYPE_CHECKING:
    Finished = Finish
else:
    Finished = Annotated[Union[FINISHES], Field(discriminator="kind")]  # noqa: UP007  # made of the registry

__all__ = [
    "FINISHES",
    "LEAST_MEETING",
    "Angled",
    "Capped",
    "Finish",
    "Finished",
    "FreeEnd",
    "LevelEnd",
    "NoCut",
    "Plumb",
    "Posted",
    "Returned",
    "Rounded",
    "ScribedTo",
    "SquareEnd",
]
