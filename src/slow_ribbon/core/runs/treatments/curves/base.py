"""How the curves of a run are made: bent in one piece, of straight facets, laminated, kerfed, or sawn from boards.

Terms
-----
facet
    a straight piece in place of a part of a curve: a chord of the line, mitred to its neighbours.
deviation
    how far the line is from its chord at most: the sagitta, R(1 - cos(φ/2)) on an arc of radius R over an angle φ.
leaf
    a thin board; several, bent together over a form and glued, make a laminated piece.
web
    what a kerf leaves uncut of the thickness, on the outside of the bend.
"""

from __future__ import annotations

from abc import ABC
from collections.abc import Callable
from typing import TYPE_CHECKING, Annotated, ClassVar, Final, Literal, Union

import numpy as np
from pydantic import Field, model_validator

from slow_ribbon.core.geometry.curves import Curve
from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Distance, Model, Size
from slow_ribbon.core.kernel.units import WELD

#: No curve is made of more facets, and no piece sawn from more boards.
MOST_FACETS: Final = 500
#: Places on a chord at which the curve's distance from it is looked at.
_LOOKS: Final = 33
#: Leaves bend to this many times their thickness without steam (common practice, no source).
DRY: Final = 100.0


class Curved(Model, ABC):
    """How the curves of a run are made."""

    kind: str
    #: What it needs and is not said where it takes the place of another.
    usual: ClassVar[dict[str, float]] = {}


class Bent(Curved):
    """Bent in one piece. ``least``: no radius of the line may be smaller, mm; 0 where the material says nothing."""

    kind: Literal["bent"] = "bent"
    least: Distance = 0.0


class Faceted(Curved):
    """Of straight pieces: this many a curve (``number``), or as many as keep to a ``deviation``, mm; all facets of a curve alike.

    They are *equal* along the line, with their corners on it; or *fitted* to the corners: they touch the line, with half a facet at both
    ends of a curve in line with what comes before and after it, so that all its corners turn alike. Then ``number`` is that of corners.
    """

    usual: ClassVar[dict[str, float]] = {"deviation": 5.0}

    kind: Literal["faceted"] = "faceted"
    number: Annotated[int, Field(ge=1, le=MOST_FACETS)] | None = None
    deviation: Size | None = None
    fit: Literal["equal", "fitted"] = "equal"

    @model_validator(mode="after")
    def _said(self) -> Faceted:
        if self.number is None and self.deviation is None:
            raise ValueError("say how many facets a curve has, or how far they may be off it")
        return self


class Laminated(Curved):
    """Of leaves no thicker than ``leaf``, mm, glued together over a form; each longer by ``allowance`` at both ends, for the clamps.

    ``ratio``: a leaf bends to this many times its thickness.
    """

    usual: ClassVar[dict[str, float]] = {"leaf": 4.0}

    kind: Literal["laminated"] = "laminated"
    leaf: Annotated[Size, Field(le=100)]
    allowance: Distance = 50.0
    ratio: Annotated[float, Field(ge=1, le=1000)] = DRY


class Kerfed(Curved):
    """Sawn into from the inside, so that it bends till the kerfs close: with a saw so wide (``kerf``), but for a ``web``, mm."""

    usual: ClassVar[dict[str, float]] = {"kerf": 3.2, "web": 3.0}

    kind: Literal["kerfed"] = "kerfed"
    kerf: Annotated[Size, Field(le=50)]
    web: Annotated[Size, Field(le=100)]


class Sawn(Curved):
    """Cut out of boards so wide, mm, as segments that meet square to the line."""

    usual: ClassVar[dict[str, float]] = {"board": 200.0}

    kind: Literal["sawn"] = "sawn"
    board: Annotated[Size, Field(le=10_000)]


CURVES: Final[tuple[type[Curved], ...]] = (Bent, Faceted, Laminated, Kerfed, Sawn)
if TYPE_CHECKING:
    CurvesMade = Curved
else:
    CurvesMade = Annotated[Union[CURVES], Field(discriminator="kind")]  # noqa: UP007  # made of the list


def marks_on(path: Path, number: Callable[[float, float, Curve], int]) -> list[float]:
    """Return the distances along a path where its curves are divided, each into this many alike, both ends included."""
    marks = [0.0]
    at = 0.0
    for low, high, span in path.ranges():
        size = high - low
        count = 1 if span.straight else number(at, at + size, span)
        marks.extend(np.linspace(at, at + size, count + 1)[1:].tolist())
        at += size
    marks[-1] = path.length
    return [mark for k, mark in enumerate(marks) if k == 0 or mark - marks[k - 1] > WELD]


def fewest(enough: Callable[[int], bool]) -> int:
    """Return the smallest number that is enough, where more always are. Raises ``Refused`` above ``MOST_FACETS``."""
    high = 1
    while not enough(high):
        high *= 2
        if high > 2 * MOST_FACETS:
            what = f"A curve would need more than {MOST_FACETS} pieces: allow it to be further off, or take wider boards."
            raise Refused(what, "curves", "too-many-facets")
    low = high // 2
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if enough(middle) else (middle, high)
    if high > MOST_FACETS:
        raise Refused(f"A curve would need {high} pieces; {MOST_FACETS} is the most.", "curves", "too-many-facets")
    return high
