"""Curves sawn into from the inside until they bend.

A kerf of width k sawn h deep closes at an angle of k/h, so that a bend of θ takes θ·h/k of them, the difference of its arcs at the
kerf's foot and at the inside over the kerf (common practice, no source): the piece turns about the foot of each kerf, so that the fibre
there keeps its length, and along it they are set out.
"""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from slow_ribbon.core.kernel.fields import Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import NEARLY_WHOLE
from slow_ribbon.core.runs.treatments.curves.base import Curvature, Curved, CurvedPiece, CurveFault


class Kerfed(Curved):
    """Sawn into from the inside, so that it bends till the kerfs close: with a saw so wide (``kerf``), but for a ``web``, mm."""

    usual: ClassVar[dict[str, float]] = {"kerf": 3.2, "web": 3.0}

    kind: Literal["kerfed"] = "kerfed"
    kerf: Annotated[Size, Field(le=50)]
    web: Annotated[Size, Field(le=100)]

    def fabrication(self, piece: CurvedPiece) -> Curvature | None:
        bending = piece.bending
        if bending is None or self.web >= bending.thickness:
            return None
        depth = bending.thickness - self.web
        kerfs = []
        for radius, angle, size, toward in bending.bends:
            count = max(1, math.ceil(angle * depth / self.kerf - NEARLY_WHOLE))
            # The piece turns about the foot of each kerf: what lies there keeps its length, and the web outside of it stretches.
            foot = (bending.outside if toward else bending.inside) - self.web
            kerfs.append((count, size * (1 + foot / radius) / count))
        return Curvature(kerfs=tuple(kerfs), depth=depth)

    def fault(self, piece: CurvedPiece) -> CurveFault | None:
        bending = piece.bending
        if bending is None:
            what = "it leaves a plane, and cannot be kerfed so; it is listed as bent."
            return CurveFault(False, what, "Keep its bends in one plane, or bend it in one piece (run card, curves).")
        if self.web < bending.thickness:
            return None
        what = f"the web of {figure(self.web)} is all of its thickness, {figure(bending.thickness)}: there is nothing to saw into."
        return CurveFault(True, what, "Leave a thinner web (run card, curves).")
