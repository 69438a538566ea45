"""The legs a line can have: a file for each kind, all of them listed here.

Terms
-----
straight, arc, curve, through, helix, cord
    a straight; a circular arc by a point on it; a Bézier curve or B-spline by its controls; a
    smooth curve through picked points; a screw line about an axis; a cord hanging between two
    points.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Final, Union

from pydantic import Field

from slow_ribbon.core.lines.legs.arc import ArcLeg
from slow_ribbon.core.lines.legs.base import Direction, LegBase, Move, RadiusOfArc, Turn, place
from slow_ribbon.core.lines.legs.cord import CordLeg, Hanging, hanging
from slow_ribbon.core.lines.legs.curve import CurveLeg, spline_leg
from slow_ribbon.core.lines.legs.helix import HelixLeg, helix_end
from slow_ribbon.core.lines.legs.of_span import leg_of
from slow_ribbon.core.lines.legs.straight import StraightLeg, straight
from slow_ribbon.core.lines.legs.through import PassPoint, ThroughLeg

#: Every kind of leg.
LEGS: Final[tuple[type[LegBase], ...]] = (StraightLeg, ArcLeg, CurveLeg, ThroughLeg, HelixLeg, CordLeg)

AnyLeg = LegBase
if TYPE_CHECKING:
    Leg = LegBase
else:
    Leg = Annotated[Union[LEGS], Field(discriminator="kind")]  # noqa: UP007  # made of the registry

__all__ = [
    "LEGS",
    "AnyLeg",
    "ArcLeg",
    "CordLeg",
    "CurveLeg",
    "Direction",
    "Hanging",
    "HelixLeg",
    "Leg",
    "LegBase",
    "Move",
    "PassPoint",
    "RadiusOfArc",
    "StraightLeg",
    "ThroughLeg",
    "Turn",
    "hanging",
    "helix_end",
    "leg_of",
    "place",
    "spline_leg",
    "straight",
]
