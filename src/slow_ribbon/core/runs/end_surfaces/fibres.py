"""Fibres of pieces that bend: where they meet a plane, and how long they are.

A fibre at section point p runs (1 − bend·p) along and |p|·twist across for each millimetre of the line.
"""

from __future__ import annotations

from typing import Final

import numpy as np

from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.geometry.frames import crossed
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import NO_LENGTH

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(8)
#: Most steps in which the place where a fibre meets a plane is searched.
_STEPS: Final = 30
#: The least approach of a fibre to the plane, mm for each mm along the line, at which a full step of the search is taken.
_STEEP: Final = 0.05


def fibres_meet(path: Path, at_end: bool, offset: float, place: Array, plane: Array, points: Array, slope: Array) -> Array:
    """Return the distances along a path, near an end of it, where fibres at section points (k, 2) meet a plane through ``place``."""
    found = np.full(len(points), path.length + offset if at_end else offset)
    if not slope.any():
        return found
    found += points @ slope
    begin, end = path.straights
    if (end > 0 and found.min(initial=path.length) >= path.length - end) if at_end else (begin > 0 and found.max(initial=0.0) <= begin):
        # Where the piece is straight that is where they meet.
        return found
    last = 0.0
    for _ in range(_STEPS):
        here = path.at(found)
        fibres = here.points + here.rights * points[:, :1] + here.ups * points[:, 1:]
        off = (fibres - place) @ plane
        if np.abs(off).max(initial=0.0) < NO_LENGTH:
            break
        along = 1 - np.einsum("ij,ij->i", here.bends, points)
        rate = here.tangents * along[:, None] + here.twists[:, None] * (here.ups * points[:, :1] - here.rights * points[:, 1:])
        down = rate @ plane
        # The frame turns about t × k + twist·t, and what it carries with it: a fibre's own bend, where that turn is the same all along.
        bends = here.rights * here.bends[:, :1] + here.ups * here.bends[:, 1:]
        turn = crossed(here.tangents, bends) + here.tangents * here.twists[:, None]
        within = down * down - 2 * off * (crossed(turn, rate) @ plane)
        # Where the section pinches a fibre stands still; small steps keep the search near the cut.
        steep = np.abs(down) > _STEEP
        if steep.all() and within.min(initial=1.0) > 0:
            steps = 2 * off / (down + np.copysign(np.sqrt(within), down))
        else:
            steps = off / np.where(steep, down, np.copysign(_STEEP, down))
        found -= np.clip(steps, -path.length, path.length)
        furthest = float(np.abs(steps).max(initial=0.0))
        # A step is as the square of the one before it, or less: the next would be lost in rounding.
        if furthest < last and furthest * (furthest / last) ** 2 < NO_LENGTH * _STEEP and steep.all():
            break
        last = furthest
    return found


def fibre_lengths(path: Path, points: Array, begin: Array, end: Array, levers: Array | None = None) -> Array:
    """Return the lengths of fibres at section points (k, 2) from distances ``begin`` to ``end`` (k,) along a path.

    A fibre at p runs (1 − bend·p) along and |p|·twist across for each mm of the line; where the
    section pinches it runs backward and counts so. Other ``levers`` (k,), mm, than |p| may be given: zero for the volume that is
    swept, which the part across adds nothing to; p·τ for the surface that an outline in direction τ sweeps there.
    Quadrature as ``spans.quadrature``.
    """
    squares = np.einsum("kj,kj->k", points, points) if levers is None else levers**2
    if path.turning is not None:
        total = path.length - points @ path.turning
    else:
        bends, twists, weights = path.bending
        look_up(len(points) * len(bends))
        along = 1 - points @ bends.T
        total = (_with_twist(along, twists**2, squares) if squares.any() else along) @ weights

    def over(low: Array, high: Array) -> Array:
        # Nodes crowd toward the end of the line, where a curve may bend without bound.
        shares = (1 + _NODES) / 2
        at = low[:, None] + (high - low)[:, None] * shares**2
        paces = _paces(path, at.ravel(), np.repeat(points, len(_NODES), axis=0)[None], np.repeat(squares, len(_NODES))).reshape(at.shape)
        return np.asarray((high - low) * (paces @ (_WEIGHTS * shares)))

    first, last = path.straights
    if begin.any():
        straight = first > 0 and begin.max() <= first
        total = total - (begin if straight else over(np.zeros(len(points)), begin))
    if (end != path.length).any():
        straight = last > 0 and end.min() >= path.length - last
        total = total + (end - path.length if straight else over(np.full(len(points), path.length), end))
    return np.asarray(total)


def _paces(path: Path, s: Array, points: Array, squares: Array) -> Array:
    """Return how far fibres run for each mm of the line, (k, n), at distances (n,) for section points (k, n, 2).

    ``squares`` (n,) are those of their levers.
    """
    here = path.at(s)
    along = 1 - np.einsum("knj,nj->kn", points, here.bends)
    if not (squares.any() and here.twists.any()):
        return np.asarray(along)
    return np.asarray(np.copysign(np.sqrt(along**2 + here.twists**2 * squares), along))


def _with_twist(along: Array, twists: Array, squares: Array) -> Array:
    """Return how far fibres (k,) run at each of n places, given how far along, and the squares of the twists there and of levers (k,)."""
    return np.asarray(np.copysign(np.sqrt(along**2 + squares[:, None] * twists), along))
