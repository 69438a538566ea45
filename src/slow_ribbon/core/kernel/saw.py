"""How the saw of a shop is set: in which steps of angle, to what its stop is measured, and what it takes and leaves."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.kernel.fields import Distance, Model

Stop = Literal["long", "short", "fence"]


class Saw(Model):
    """``step``: angles are set to whole steps of this many degrees, 0 as they are.

    ``stop``: lengths are set to the long point, to the short point, or along the edge at the ``fence``, on the upper side.
    ``kerf``: this much of the stock a cut takes, mm. ``trim``: this much longer pieces are sawn at either end, mm, to be trimmed when they
    are fitted: the stop is set to that; long and short points are those of the piece as it is in its place.
    ``sprung``: what lies on a slanting edge of its section is held against the fence instead as it will hang, its head on the table.
    """

    step: Annotated[float, Field(ge=0, le=5)] = 0.0
    stop: Stop = "long"
    sprung: bool = False
    kerf: Annotated[Distance, Field(le=50)] = 0.0
    trim: Annotated[Distance, Field(le=1000)] = 0.0
