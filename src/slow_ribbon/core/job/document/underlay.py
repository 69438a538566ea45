"""Pictures laid under the plan, or under a section on its desk, to be traced."""

from __future__ import annotations

import math
from typing import Annotated

from pydantic import Field

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Coordinate, GroupName, Id, Model, Name, Sha256
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import SAME_PLACE


class PictureBody(Model):
    """What a picture is, before it has an id.

    ``content`` is the hash of the file it came from, ``page`` the page of a PDF, from 0.
    ``across`` and ``high`` are its size in pixels, ``scale`` mm a pixel, ``east`` and ``north``
    where its lower left corner lies, ``turn`` degrees anticlockwise about that corner. ``on`` is
    the section or the draft under whose drawing it lies; it is the plan where left out, and on a
    desk *east* is to the right and *north* up.
    """

    name: Name
    content: Sha256
    page: Annotated[int, Field(ge=0, le=10_000)] = 0
    across: Annotated[int, Field(ge=1, le=20_000)]
    high: Annotated[int, Field(ge=1, le=20_000)]
    scale: Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)]
    east: Coordinate = 0.0
    north: Coordinate = 0.0
    turn: Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)] = 0.0
    strength: Annotated[float, Field(ge=0.05, le=1, allow_inf_nan=False)] = 0.5
    locked: bool = False
    shown: bool = True
    group: GroupName = ""
    on: Id | None = None


class Picture(PictureBody):
    """A picture of a job."""

    id: Id


def scaled(picture: Picture, a: tuple[float, float], b: tuple[float, float], length: float) -> Picture:
    """Return a picture whose places a and b, as they lie in the job now, are ``length`` mm apart; a stays where it is.

    Raises ``Refused`` where the two are the same or the scale cannot be.
    """
    apart = math.dist(a, b)
    if apart < SAME_PLACE:
        raise Refused("The two points are the same: pick two places whose distance you know.", "b", "scale")
    times = length / apart
    if not 1e-9 < picture.scale * times <= 1e6:
        raise Refused(f"At that length a pixel would be {figure(picture.scale * times, 3)} wide: check the length.", "length", "scale")
    east = a[0] + (picture.east - a[0]) * times
    north = a[1] + (picture.north - a[1]) * times
    return picture.model_copy(update={"scale": picture.scale * times, "east": east, "north": north})
