"""Curves of leaves bent together over a form and glued."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Final, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.kernel.fields import Distance, Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import NEARLY_SAME, NEARLY_WHOLE
from slow_ribbon.core.runs.treatments.curves.base import Curvature, Curved, CurvedPiece, CurveFault

#: Leaves bend to this many times their thickness without steam (common practice, no source).
DRY: Final = 100.0


class Laminated(Curved):
    """Of leaves no thicker than ``leaf``, mm, glued together over a form; each longer by ``allowance`` at both ends, for the clamps.

    ``ratio``: a leaf bends to this many times its thickness.
    """

    usual: ClassVar[dict[str, float]] = {"leaf": 4.0}

    kind: Literal["laminated"] = "laminated"
    leaf: Annotated[Size, Field(le=100)]
    allowance: Distance = 50.0
    ratio: Annotated[float, Field(ge=1, le=1000)] = DRY

    def fabrication(self, piece: CurvedPiece) -> Curvature | None:
        bending = piece.bending
        if bending is None:
            return None
        count = leaves_of(bending.thickness, self.leaf)
        levels = np.linspace(bending.inside, -bending.outside, count + 1)
        across = np.array([-bending.inward[1], bending.inward[0]])
        low, high = piece.section.furthest(np.array([-across, across])) * (-1, 1)
        points = np.array([bending.inward * level + across * side for level in levels for side in (low, high)])
        longest = piece.fibres(points).reshape(-1, 2).max(axis=1)
        leaves = np.maximum(longest[:-1], longest[1:]) + 2 * self.allowance
        return Curvature(leaves=tuple(leaves.tolist()), leaf=bending.thickness / count, form=bending.form)

    def fault(self, piece: CurvedPiece) -> CurveFault | None:
        bending = piece.bending
        if bending is None:
            what = "it leaves a plane, and cannot be laminated so; it is listed as bent."
            return CurveFault(False, what, "Keep its bends in one plane, or bend it in one piece (run card, curves).")
        leaf = bending.thickness / leaves_of(bending.thickness, self.leaf)
        least = leaf * self.ratio
        if bending.form >= least * (1 - NEARLY_SAME):
            return None
        what = f"its leaves of {figure(leaf, 1)} bend to {figure(least)}, and the form's radius is {figure(bending.form)}."
        thin = figure(max(0.1, math.floor(10 * bending.form / self.ratio) / 10), 1)
        return CurveFault(True, what, f"Take leaves of {thin} or thinner (run card, curves).")


def leaves_of(thickness: float, leaf: float) -> int:
    """Return how many leaves, none thicker than ``leaf``, make up a thickness.

    >>> leaves_of(20, 4), leaves_of(20.5, 4)
    (5, 6)
    """
    return max(1, math.ceil(thickness / leaf - NEARLY_WHOLE))
