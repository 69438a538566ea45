"""Rows of the cutting list as whoever stands at the saw sets it: angles in its steps, the stop, and which way each cut goes in words.

A piece lies with its beginning to the left of whoever stands before it, its left edge of travel at the fence.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from slow_ribbon.core.cutting.cut_rows import Cut, CutRow, describe_cut
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.saw import Saw
from slow_ribbon.core.kernel.tolerances import FLAT

#: Angles that lean less, degrees, are reported as square.
_SQUARE = 5e-3


@dataclass(frozen=True)
class Setting:
    """How a cut is set, degrees, and how far it then is from where it should be, mm: the most along the piece, over the whole cut.

    ``words``: the same as ``describe_cut`` writes it. ``long``: which edge the piece is longest at there; None where it is square.
    """

    mitre: float
    bevel: float
    off: float
    words: str
    long: str


@dataclass(frozen=True)
class AtSaw:
    """A row of the cutting list at the saw: how both ends are set, and how far from the ``stop`` the piece reaches, mm.

    What is trimmed off later is in that.
    """

    begin: Setting
    end: Setting
    stop: float


def as_held(row: CutRow, saw: Saw) -> CutRow:
    """Return a row of the cutting list as its pieces are held at a saw: sprung against the fence, where they are."""
    if not saw.sprung or row.sprung is None:
        return row
    return replace(row, **vars(row.sprung))


def at_the_saw(row: CutRow, saw: Saw) -> AtSaw:
    """Return how a row of the cutting list, as it is held, is set at a saw."""
    stop = row.long_point if saw.stop == "long" else row.short_point
    if saw.stop == "fence":
        stop = _at_fence(row)
    # What is trimmed off later goes square to travel: every length is more by as much.
    return AtSaw(_setting(row, row.begin, saw, False), _setting(row, row.end, saw, True), stop + 2 * saw.trim)


def _at_fence(row: CutRow) -> float:
    """Return how long a piece is along its edge at the fence, on its upper side; of one that bends the long point."""
    upper = row.picture[1]
    if row.bends or len(upper) != 4:
        return row.long_point
    return float(upper[2, 0] - upper[3, 0])


def _setting(row: CutRow, cut: Cut, saw: Saw, end: bool) -> Setting:
    mitre, bevel = (_stepped(angle, saw.step) for angle in (cut.mitre, cut.bevel))
    across, thick = row.across, row.thick
    corners = np.array([(side * across / 2, up * thick / 2) for side in (-1, 1) for up in (-1, 1)])
    strays = _reach(corners, mitre, bevel) - _reach(corners, cut.mitre, cut.bevel)
    off = float(np.ptp(strays)) if abs(mitre - cut.mitre) + abs(bevel - cut.bevel) > FLAT else 0.0
    words = describe_cut(replace(cut, mitre=mitre, bevel=bevel))
    return Setting(mitre, bevel, off, words, _longest(row, cut, end))


def _reach(points: Array, mitre: float, bevel: float) -> Array:
    """Return how far along travel a cut through the middle reaches at points (k, 2) to the left and up on the table.

    Its normal is cos β cos μ along travel, cos β sin μ to the left and sin β up.
    """
    m, b = math.radians(mitre), math.radians(bevel)
    along, left, up = math.cos(b) * math.cos(m), math.cos(b) * math.sin(m), math.sin(b)
    return np.asarray(-(points[:, 0] * left + points[:, 1] * up) / along)


def _stepped(angle: float, step: float) -> float:
    return angle if step == 0 else round(angle / step) * step + 0.0


def _longest(row: CutRow, cut: Cut, end: bool) -> str:
    """Return which edge a piece is longest at, at one end: a positive mitre lets the left edge lie back, a positive bevel the upper one."""
    words = []
    if abs(cut.mitre) >= _SQUARE:
        words.append(f"at the {row.right if (cut.mitre > 0) == end else row.left}")
    if abs(cut.bevel) >= _SQUARE:
        words.append("underneath" if (cut.bevel > 0) == end else "on its upper side")
    return f"long {' and '.join(words)}" if words else ""
