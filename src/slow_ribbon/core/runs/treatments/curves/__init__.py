"""How the curves of a run are made: bent in one piece, of straight facets, laminated, kerfed, or sawn from boards; a file each."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Final, Union

from pydantic import Field

from slow_ribbon.core.runs.treatments.curves.base import Curved
from slow_ribbon.core.runs.treatments.curves.bent import Bent
from slow_ribbon.core.runs.treatments.curves.faceted import Faceted
from slow_ribbon.core.runs.treatments.curves.kerfed import Kerfed
from slow_ribbon.core.runs.treatments.curves.laminated import Laminated
from slow_ribbon.core.runs.treatments.curves.sawn import Sawn

__all__ = ["CURVES", "Bent", "CurvesMade", "Faceted", "Kerfed", "Laminated", "Sawn"]

CURVES: Final[tuple[type[Curved], ...]] = (Bent, Faceted, Laminated, Kerfed, Sawn)
if TYPE_CHECKING:
    CurvesMade = Curved
else:
    CurvesMade = Annotated[Union[CURVES], Field(discriminator="kind")]  # noqa: UP007  # made of the list
