"""How curves of a drawing leave their ends, and where their middles are: what joining asks of each of thousands."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np

from slow_ribbon.core.kernel import ROUNDING, TINIEST, WELD, Array
from slow_ribbon.core.lines import AnyLeg, CurveLeg, place

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(8)
#: Parts of a Bézier curve over which its length is summed.
_PARTS: Final = 16


def looks_of(curves: Sequence[tuple[Array, AnyLeg]]) -> tuple[Array, Array]:
    """Return the directions in which curves leave their beginnings and their ends, (n, 2, 3), and the points half way along, (n, 3).

    A curve is given by where it begins and its leg. Cubic Bézier curves are looked at all at once.
    """
    leaving, middles = np.zeros((len(curves), 2, 3)), np.zeros((len(curves), 3))
    plain = [row for row, (_, leg) in enumerate(curves) if isinstance(leg, CurveLeg) and leg.plain]
    if plain:
        legs = [(curves[row][0], curves[row][1]) for row in plain]
        controls = np.array([[begin, *leg.controls, leg.to] for begin, leg in legs if isinstance(leg, CurveLeg)], dtype=float)
        leaving[plain] = np.stack([_leaving(controls), _leaving(controls[:, ::-1])], axis=1)
        middles[plain] = _middles(controls)
    known = set(plain)
    for row, (begin, leg) in enumerate(curves):
        if row not in known:
            spans = leg.spans(place(begin))
            leaving[row, 0], leaving[row, 1] = spans[0].direction(last=False), -spans[-1].direction(last=True)
            half = spans[len(spans) // 2]
            middles[row] = half.at(np.array([half.length / 2]))[0][0]
    return leaving, middles


def _leaving(controls: Array) -> Array:
    """Return the directions in which Bézier curves (n, 4, 3) leave their first control: toward the next that lies elsewhere."""
    away = controls[:, 1:] - controls[:, :1]
    sizes = np.sqrt(np.einsum("nij,nij->ni", away, away))
    which = np.argmax(sizes > WELD, axis=1)
    rows = np.arange(len(controls))
    return np.asarray(away[rows, which] / np.maximum(sizes[rows, which], TINIEST)[:, None])


def _middles(controls: Array) -> Array:
    """Return the points half way along Bézier curves (n, 4, 3), by Gauss–Legendre quadrature of their speed and Newton's method."""
    steps = np.diff(controls, axis=1) * 3

    def speeds(t: Array) -> Array:
        # The derivative is a quadratic Bézier curve (Farin, Curves and Surfaces for CAGD, section 5.3); t is (n, k).
        u = 1 - t
        weights = np.stack([u * u, 2 * u * t, t * t], axis=-1)
        rates = weights @ steps
        return np.asarray(np.sqrt(np.einsum("nki,nki->nk", rates, rates)))

    def lengths(low: Array, high: Array) -> Array:
        half = (high - low) / 2
        at = (low + half)[..., None] + half[..., None] * _NODES
        return np.asarray(half * (speeds(at.reshape(len(controls), -1)).reshape(at.shape) @ _WEIGHTS))

    bounds = np.linspace(0, 1, _PARTS + 1)
    low, high = (np.broadcast_to(one, (len(controls), _PARTS)) for one in (bounds[:-1], bounds[1:]))
    sums = np.cumsum(lengths(low, high), axis=1)
    wanted = sums[:, -1] / 2
    part = np.minimum((sums < wanted[:, None]).sum(axis=1), _PARTS - 1)
    rows = np.arange(len(controls))
    begin, end = bounds[part], bounds[part + 1]
    left = wanted - np.where(part > 0, sums[rows, part - 1], 0.0)
    found = (begin + end) / 2
    for _ in range(12):
        off = lengths(begin[:, None], found[:, None])[:, 0] - left
        # Where the curve stands still the step would lead astray; it stays within the part.
        found = np.clip(found - off / np.maximum(speeds(found[:, None])[:, 0], ROUNDING), begin, end)
    t, u = found[:, None], 1 - found[:, None]
    a, b, c, d = (controls[:, i] for i in range(4))
    return np.asarray(u**3 * a + 3 * u * u * t * b + 3 * u * t * t * c + t**3 * d)
