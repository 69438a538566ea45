"""How the saw of a shop is set: in which steps of angle, and to what its stop is measured."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.kernel.fields import Model

Stop = Literal["long", "short", "fence"]


class Saw(Model):
    """``step``: angles are set to whole steps of so many degrees, 0 as they are.

    ``stop``: lengths are set to the long point, to the short point, or along the edge at the ``fence``, on the upper side.
    ``sprung``: what lies on a slanting edge of its section is held against the fence instead as it will hang, its head on the table.
    """

    step: Annotated[float, Field(ge=0, le=5)] = 0.0
    stop: Stop = "long"
    sprung: bool = False
