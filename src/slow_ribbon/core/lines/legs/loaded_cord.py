"""A cord with items hanging on it: a funicular polygon whose sides hang under the cord's own weight.

Between two loads a cord under its own weight w, with the level pull H and the upright pull V at its beginning, goes over a length s by
H/w·(asinh((V + w·s)/H) − asinh(V/H)) to the side and (√(H² + (V + w·s)²) − √(H² + V²))/w up (the elastic catenary's equations without
stretch; H. M. Irvine, "Cable Structures", 1981, chapter 1, from memory). At a load V grows by it. H and V are such that its ends meet.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import root

from slow_ribbon.core.geometry.catenary import CordSpan
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import ROUNDING
from slow_ribbon.core.lines.legs.cord import CordPulls

#: Millimetres in a metre.
_MM = 1000.0


@dataclass(frozen=True)
class LoadedCord:
    """A cord with loads: its pulls, N; its ``sag``, mm, below the straight between its ends at its loads, at most.

    ``strays`` is how far a load hangs from where it would on the cord alone, mm, at most; ``points`` (n, 2) are where the loads hang, to
    the side and up from its beginning, mm.
    """

    pulls: CordPulls
    sag: float
    strays: float
    points: Array


def loaded_cord(span: CordSpan, weight: float, places: Sequence[float], load: float) -> LoadedCord | None:
    """Return how a cord hangs of the length that it has with a load, N, at each of some places along it, mm, in order.

    ``weight`` is the cord's own, N a metre. None if no state is found in which its ends meet.
    """
    ends = span.at(np.array([0.0, span.length]))[0]
    across = ends[1] - ends[0]
    level, height = float(across @ span.level), float(across[2])
    lengths = np.diff(np.array([0.0, *places, span.length]))
    w, loads = weight / _MM, np.array([0.0, *([load] * len(places))])

    def hung(pull: float, upright: float) -> Array:
        """Return the corners (n, 2) of the cord from its beginning on."""
        begins = upright + np.cumsum(loads) + w * np.concatenate([[0.0], np.cumsum(lengths)[:-1]])
        after = begins + w * lengths
        # √(H² + b²) − √(H² + a²) without its digits cancelling.
        sums = np.hypot(pull, after) + np.hypot(pull, begins)
        steps = np.column_stack([pull / w * (np.arcsinh(after / pull) - np.arcsinh(begins / pull)), lengths * (after + begins) / sums])
        return np.cumsum(steps, axis=0)

    def off(guess: Array) -> Array:
        return np.asarray((hung(math.exp(guess[0]), float(guess[1])) - (level, height))[-1])

    # As though all of it were spread evenly: the catenary of its whole weight.
    spread = w + load * len(places) / span.length
    first = spread * span.parameter
    begin = np.array([math.log(first), first * math.sinh(-span.lowest / span.parameter)])
    found = root(off, begin, method="hybr", tol=1e-14)
    if not np.abs(off(found.x)).max() <= 1e-6 * span.length:
        return None
    pull, upright = math.exp(found.x[0]), float(found.x[1])
    points = hung(pull, upright)[:-1]
    alone = span.at(np.asarray(places, dtype=float))[0] - span.begin
    plain = np.column_stack([alone @ span.level, alone[:, 2]])
    last = upright + load * len(places) + w * span.length
    return LoadedCord(
        pulls=CordPulls(pull, math.hypot(pull, upright), math.hypot(pull, last)),
        sag=float((height * points[:, 0] / max(level, ROUNDING) - points[:, 1]).max(initial=0.0)),
        strays=float(np.hypot(*(points - plain).T).max(initial=0.0)),
        points=points,
    )
