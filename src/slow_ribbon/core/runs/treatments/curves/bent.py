"""Curves bent in one piece."""

from __future__ import annotations

from typing import Literal

import numpy as np

from slow_ribbon.core.kernel.fields import Distance
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import NEARLY_SAME, SEARCH_DEVIATION
from slow_ribbon.core.runs.treatments.curves.base import Curved, CurvedPiece, CurveFault


class Bent(Curved):
    """Bent in one piece. ``least``: no radius of the line may be smaller, mm; 0 where the material says nothing."""

    kind: Literal["bent"] = "bent"
    least: Distance = 0.0

    def fault(self, piece: CurvedPiece) -> CurveFault | None:
        if not self.least:
            return None
        marks = piece.path.flattened(SEARCH_DEVIATION)
        sharpest = float(np.hypot(*piece.path.at((marks[1:] + marks[:-1]) / 2).bends.T).max())
        if sharpest * self.least <= 1 + NEARLY_SAME:
            return None
        what = f"it bends to a radius of {figure(1 / sharpest)}, less than the {figure(self.least)} that its material takes."
        return CurveFault(True, what, "Round the corner or draw the curve to a larger radius, or make it another way (run card, curves).")
