"""Parts of edges, and where two edges meet: edges stay what they are."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import ROUNDING
from slow_ribbon.core.sections.outline.edges import Arc, BezierEdge, Edge, Straight
from slow_ribbon.core.sections.outline.outline import ArcEdge, CurveEdge, OutlineEdge, StraightEdge


def crossing_of(one: Edge, two: Edge, s: float, t: float) -> tuple[float, float, Array]:
    """Return the shares of two edges where they cross, near two shares of them, and the place (2,), by Newton's method."""
    for _ in range(40):
        p, q = one.at_shares(np.array([s]))[0], two.at_shares(np.array([t]))[0]
        off = q - p
        rates = np.column_stack([_rate(one, s), -_rate(two, t)])
        step, *_ = np.linalg.lstsq(rates, off, rcond=1e-9)
        s, t = s + float(step[0]), t + float(step[1])
        if float(np.abs(step).max()) < ROUNDING:
            break
    # Straights and arcs may be carried on past their ends: where two edges lie on one another, one stands for both.
    s, t = (min(max(share, 0.0), 1.0) if isinstance(edge, BezierEdge) else share for edge, share in ((one, s), (two, t)))
    place = (one.at_shares(np.array([s]))[0] + two.at_shares(np.array([t]))[0]) / 2
    return s, t, np.asarray(place)


def _rate(edge: Edge, share: float) -> Array:
    step = 1e-6
    low, high = max(0.0, share - step), min(1.0, share + step)
    a, b = edge.at_shares(np.array([low, high]))
    return np.asarray((b - a) / (high - low))


def part_of(edge: Edge, first: float, last: float, to: Array) -> list[OutlineEdge]:
    """Return the part of an edge between two shares, the later first where it is gone backward, ending at a place (2,)."""
    end = (float(to[0]), float(to[1]))
    if isinstance(edge, Straight):
        return [StraightEdge(to=end)]
    if isinstance(edge, Arc):
        # In parts of no more than half a turn, so that three places say which arc each is.
        count = max(1, math.ceil(abs(edge.last - edge.first) * abs(last - first) / math.pi - 1e-9))
        bounds = np.linspace(first, last, 2 * count + 1)
        places = edge.at_shares(bounds)
        found: list[OutlineEdge] = [
            ArcEdge(to=(float(places[i + 1][0]), float(places[i + 1][1])), via=(float(places[i][0]), float(places[i][1])))
            for i in range(1, 2 * count, 2)
        ]
        found[-1] = found[-1].model_copy(update={"to": end})
        return found
    assert isinstance(edge, BezierEdge)
    p = _sub_curve(edge.points, first, last)
    return [CurveEdge(to=end, controls=((float(p[1][0]), float(p[1][1])), (float(p[2][0]), float(p[2][1]))))]


def trimmed(edge: Edge, first: float, last: float) -> Edge:
    """Return the part of an edge between two shares, gone forward; a straight and an arc may go on past their ends."""
    if isinstance(edge, Straight):
        begin, end = edge.at_shares(np.array([first, last]))
        return Straight(begin, end)
    if isinstance(edge, Arc):
        turn = edge.last - edge.first
        return replace(edge, first=edge.first + first * turn, last=edge.first + last * turn)
    assert isinstance(edge, BezierEdge)
    return BezierEdge(_sub_curve(edge.points, first, last))


def _sub_curve(points: Array, first: float, last: float) -> Array:
    """Return the control points (4, 2) of a part of a Bézier curve of third degree, by its blossom."""

    def blossom(a: float, b: float, c: float) -> Array:
        found = points
        for t in (a, b, c):
            found = (1 - t) * found[:-1] + t * found[1:]
        return np.asarray(found[0])

    return np.array([blossom(first, first, first), blossom(first, first, last), blossom(first, last, last), blossom(last, last, last)])
