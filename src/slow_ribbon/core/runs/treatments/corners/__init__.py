"""How corners are made: a file for each treatment, all of them listed here."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Final, Union

from pydantic import Field

from slow_ribbon.core.runs.treatments.corners.base import Carry, Ends, Meetings, Treatment
from slow_ribbon.core.runs.treatments.corners.block import Block
from slow_ribbon.core.runs.treatments.corners.butt import Butt
from slow_ribbon.core.runs.treatments.corners.cope import Cope
from slow_ribbon.core.runs.treatments.corners.gap import Gap
from slow_ribbon.core.runs.treatments.corners.mitre import Mitre
from slow_ribbon.core.runs.treatments.corners.squared import Squared
from slow_ribbon.core.runs.treatments.corners.transition import Transition

#: Every way of making corners.
TREATMENTS: Final[tuple[type[Treatment], ...]] = (Mitre, Butt, Cope, Gap, Block, Transition, Squared)

if TYPE_CHECKING:
    CornersMade = Treatment
else:
    CornersMade = Annotated[Union[TREATMENTS], Field(discriminator="kind")]  # noqa: UP007  # made of the registry

__all__ = [
    "TREATMENTS",
    "Block",
    "Butt",
    "Carry",
    "Cope",
    "CornersMade",
    "Ends",
    "Gap",
    "Meetings",
    "Mitre",
    "Squared",
    "Transition",
    "Treatment",
]
