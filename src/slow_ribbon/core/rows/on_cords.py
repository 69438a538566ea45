"""Rows on cords: what the weights of their items do to the cords that they hang on."""

from __future__ import annotations

import numpy as np

from slow_ribbon.core.geometry.catenary import CordSpan
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.fillets import line_parts
from slow_ribbon.core.lines.legs.cord import CordLeg
from slow_ribbon.core.lines.legs.loaded_cord import LoadedCord, loaded_cord
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.rows.row_set_out import RowSetOut


def loaded_cords(row: Row, out: RowSetOut, line: Line) -> list[tuple[int, LoadedCord | None]]:
    """Return how each leg of a row's line that is a cord hangs with the row's items on it, by the leg's number; None if that is not found.

    Legs whose own weight is not known are left out, and so is a row without the weight of its items. An item over an end hangs on the
    support.
    """
    if row.weight_each is None or row.filling is not None:
        return []
    found: list[tuple[int, LoadedCord | None]] = []
    at = 0.0
    for part in line_parts(line):
        leg, span = line.legs[part.leg], part.span
        if isinstance(span, CordSpan) and isinstance(leg, CordLeg) and leg.weight is not None:
            places = np.sort(out.chainages - at)
            places = places[(places > WELD) & (places < span.length - WELD)]
            if len(places):
                found.append((part.leg, loaded_cord(span, leg.weight, places.tolist(), row.weight_each)))
        at += span.length
    return found
