"""Pieces that bend as they are drawn: at which places along them, and their section carried there."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

import numpy as np

from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import NEARLY_SAME, NEARLY_WHOLE
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts

#: No more places than this many are put beside others where fibres begin or end elsewhere than the line.
_MOST_BESIDE: Final = 50
#: The frame of what is drawn turns by no more than this from place to place, radians: what lies between is then within a thousandth.
_MOST_TWIST: Final = math.radians(3)
#: Where between two places it is looked how fast the frame turns.
_PLACES_BETWEEN: Final = np.array([[0.0, 0.25, 0.5, 0.75, 1.0]])
#: No piece is drawn at more places for its twist.
_MOST_RINGS: Final = 20_000


@dataclass(frozen=True)
class Carried:
    """Section points carried along a piece, (r, k, 3): at each of r places from cut to cut, with the frame at each point."""

    points: Array
    rights: Array
    ups: Array
    tangents: Array


def carried(cuts: Cuts, index: int, points: Array, shares: Array | None = None) -> Carried:
    """Return section points (k, 2) carried along a piece that bends, from cut to cut, at shares of it from 0 to 1 or its ``chords``.

    Where all of them meet the cuts in straights, only what lies in the cuts leans. Else every
    fibre is divided in these shares, so that it leans the less the further it is from a cut.
    """
    path = cuts.course.paths[index]
    begin, end = cuts.path_fibres(index, points)
    if _meets_straight(path, begin, end):
        here = path.at_chords if shares is None else path.at(shares * path.length)
        look_up(3 * len(points) * len(here.points))
        found = here.points[:, None] + here.rights[:, None] * points[:, :1] + here.ups[:, None] * points[:, 1:]
        found[0] += np.outer(begin, here.tangents[0])
        found[-1] += np.outer(end - path.length, here.tangents[-1])
        rights, ups, tangents = (np.broadcast_to(one[:, None], found.shape) for one in (here.rights, here.ups, here.tangents))
        return Carried(found, rights, ups, tangents)
    places = begin + np.outer(path.chords if shares is None else shares, end - begin)
    here = path.at(places.ravel())
    shape = (*places.shape, 3)
    rights, ups, tangents = (one.reshape(shape) for one in (here.rights, here.ups, here.tangents))
    return Carried(here.points.reshape(shape) + rights * points[:, :1] + ups * points[:, 1:], rights, ups, tangents)


def drawn_shares(cuts: Cuts, index: int, points: Array, chord_height: float) -> Array:
    """Return shares of a piece that bends, from 0 to 1, between which it is drawn with chords within ``chord_height``.

    ``points`` (k, 2) are those of its section.
    """
    path, reach = cuts.course.paths[index], float(np.abs(points).max())
    shares = path.flattened(chord_height, reach) / path.length
    begin, end = cuts.path_fibres(index, points)
    if not _meets_straight(path, begin, end):
        shares = _with_shares(shares, float(max(np.abs(begin).max(), np.abs(end - path.length).max())) / path.length)
    return _with_twist(path, shares, chord_height, reach) if path.twists else shares


def _meets_straight(path: Path, begin: Array, end: Array) -> bool:
    """Return whether all fibres of a piece that bends, from where they begin to where they end, meet its cuts in straights or square."""
    first, last = path.straights
    square, square_end = not begin.any(), bool((end == path.length).all())
    return bool((square or 0 < first >= begin.max()) and (square_end or 0 < last >= path.length - end.min()))


def _with_shares(shares: Array, shift: float) -> Array:
    """Return shares of a piece, from 0 to 1, with more of them where they stand far apart beside others that are near to each other.

    A fibre that begins or ends elsewhere than the line is divided in these shares too: where that bends it needs as many, as far off as
    the fibre's own are shifted; and so it does near the ends, beyond which the piece may go on in a bend.
    """
    if not shift:
        return shares
    gaps = np.diff(shares)
    least = shift / _MOST_BESIDE
    step = max(float(gaps.min()), least)
    # As many wherever in the world it lies: not one more or less by the last bit.
    steps = np.arange(1, 1 + int(shift / step + NEARLY_SAME)) * step
    found = [shares, steps, 1 - steps]
    for i in np.flatnonzero(gaps > 0).tolist():
        for beside, sense in ((i - 1, 1.0), (i + 1, -1.0)):
            if 0 <= beside < len(gaps) and gaps[beside] < gaps[i] / 2 - NEARLY_SAME:
                step = max(float(gaps[beside]), least)
                steps = np.arange(1, 1 + int(min(shift, gaps[i]) / step + NEARLY_SAME)) * step
                found.append((shares[i] if sense > 0 else shares[i + 1]) + sense * steps)
    return np.unique(np.concatenate(found).clip(0.0, 1.0).round(9))


def _with_twist(path: Path, shares: Array, chord_height: float, reach: float) -> Array:
    """Return shares of a piece with more of them where its frame turns, in pairs of equal parts: none further from the next than it may be.

    What is ``reach`` from the line winds about it: its sagitta between two places is reach·(1 − cos(φ/2)).
    """
    step = min(_MOST_TWIST, 2 * math.acos(max(0.0, 1 - chord_height / max(reach, chord_height))))
    gaps = np.diff(shares)
    middles = shares[:-1, None] + gaps[:, None] * _PLACES_BETWEEN
    turned = np.abs(path.at(middles.ravel() * path.length).twists).reshape(middles.shape).max(axis=1) * gaps * path.length
    counts = 2 * np.maximum(1, np.ceil(turned / (2 * step) - NEARLY_WHOLE).astype(int))
    if counts.sum() > _MOST_RINGS:
        counts = 2 * np.maximum(1, (counts * (_MOST_RINGS / counts.sum()) / 2).astype(int))
    inside = [
        low + gap * np.arange(count) / count for low, gap, count in zip(shares[:-1].tolist(), gaps.tolist(), counts.tolist(), strict=True)
    ]
    return np.append(np.concatenate(inside), shares[-1])
