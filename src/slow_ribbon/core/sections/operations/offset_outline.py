"""Thickness given to an outline that is open, or closed into a ring: sheet folded, bar bent, a lip drawn by its middle.

Straights and arcs stay what they are; the offset of a Bézier curve is not one, and is approximated by several within a micron.

Terms
-----
left, right
    as it is drawn, from its start on.
mitred, rounded
    outer corners run on to where their faces meet, or turn about the drawn point with the thickness beside it. One that turns by
    more than 150° is cut straight across instead of mitred, for its point would stand out four times the thickness.
square, round
    ends are cut square to the drawn path, or closed by half a circle.
"""

from __future__ import annotations

import math
from typing import Final, Literal

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import FLAT, SAME_PLACE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.sections.edges.arc import Arc
from slow_ribbon.core.sections.edges.base import Edge, Loop, TooTight
from slow_ribbon.core.sections.edges.straight import Straight
from slow_ribbon.core.sections.outline.edge_arrays import Together
from slow_ribbon.core.sections.outline.outline import Outline
from slow_ribbon.core.sections.outline.profile import path_of, shape_of
from slow_ribbon.core.sections.outline.split_edges import crossing_of
from slow_ribbon.core.sections.sketch.sketch import outline_of_loop

Beside = Literal["left", "right", "both"]
Turned = Literal["mitred", "rounded"]
Ended = Literal["square", "round"]

#: Corners that turn more than this, radians, are not mitred.
_SHARPEST: Final = math.radians(150)
#: How far the curves beside a curve may stray, mm.
_DEVIATION: Final = 1e-3


def thickened(
    outline: Outline, thickness: float, beside: Beside = "both", corners: Turned = "mitred", ends: Ended = "square"
) -> tuple[Outline, tuple[Outline, ...]]:
    """Return the outline, and its hole where the drawn one is closed, of something so thick along an outline, mm.

    Raises ``Refused`` where a bend is tighter than the thickness on its inside, a corner's edges are too short for it, or what
    comes out crosses itself; with the place.
    """
    path = path_of(outline)
    closed = math.dist(outline.start, outline.edges[-1].to) <= WELD
    left, right = {"left": (thickness, 0.0), "right": (0.0, -thickness), "both": (thickness / 2, -thickness / 2)}[beside]
    one, other = (_path_beside(path, away, closed, corners) for away in (right, left))
    if closed:
        outer, inner = sorted((tuple(one), tuple(other)), key=lambda loop: -abs(float(Together.of(loop).areas.sum())))
        loops: tuple[Loop, ...] = (outer, inner)
    else:
        back = [edge.reversed() for edge in reversed(other)]
        loops = ((*one, _cap(one[-1].end, back[0].begin, ends), *back, _cap(back[-1].end, one[0].begin, ends)),)
    made, *holes = (outline_of_loop(loop) for loop in loops)
    try:
        shape_of(made, holes)
    except Refused as refused:
        message = f"With a thickness of {figure(thickness, 3)} it meets itself. {refused.what} Make it thinner."
        raise Refused(message, "thickness", "thickness") from None
    return made, tuple(holes)


def _cap(begin: Array, end: Array, ends: Ended) -> Edge:
    if ends == "square":
        return Straight(begin, end)
    middle, half = (begin + end) / 2, (begin - end) / 2
    radius, first = float(np.hypot(*half)), math.atan2(half[1], half[0])
    return Arc(middle, np.array([radius, 0.0]), np.array([0.0, radius]), first, first + math.pi)


def _path_beside(path: Loop, away: float, closed: bool, corners: Turned) -> list[Edge]:
    """Return the offset of a path, ``away`` to its left, with its corners made."""
    if away == 0:
        return list(path)
    besides = [_edge_beside(edge, away) for edge in path]
    count = len(path)
    between: list[list[Edge]] = [[] for _ in path]
    together = Together.of(path)
    numbers = np.arange(count)
    leaving, coming = together.tangents(numbers, np.zeros(count)), together.tangents(numbers, np.ones(count))
    for i in range(count if closed else count - 1):
        after = (i + 1) % count
        into, out = coming[i], leaving[after]
        turn = math.atan2(float(into[0] * out[1] - into[1] * out[0]), float(into @ out))
        if abs(turn) <= FLAT:
            continue
        if (turn > 0) == (away > 0):
            _trim(besides, i, after, path[i].end, away)
        else:
            between[i] = _outer(besides, i, after, path[i].end, away, turn, corners)
    return [edge for edges, corner in zip(besides, between, strict=True) for edge in (*edges, *corner)]


def _trim(besides: list[list[Edge]], i: int, after: int, at: Array, away: float) -> None:
    """Let two edges end where they meet on the inside of a corner."""
    one, two = besides[i][-1], besides[after][0]
    s, t, place = crossing_of(one, two, 1.0, 0.0)
    near = float(np.hypot(*(one.at_shares(np.array([min(s, 1.0)]))[0] - place)))
    if not (0 < s <= 1 + SAME_PLACE and -SAME_PLACE <= t < 1 and near <= WELD):
        raise Refused(
            f"At ({at[0]:.1f}, {at[1]:.1f}) the edges are too short for a thickness of {figure(abs(away), 3)} on the inside of the "
            "corner: make it thinner, or give it to the other side.",
            "thickness",
            "thickness",
        )
    besides[i][-1] = one.part(0.0, min(s, 1.0))
    besides[after][0] = two.part(max(t, 0.0), 1.0)


def _outer(besides: list[list[Edge]], i: int, after: int, at: Array, away: float, turn: float, corners: Turned) -> list[Edge]:
    """Return the edges round the outside of a corner; straights that run on to its point are made longer."""
    begin, end = besides[i][-1].end, besides[after][0].begin
    if corners == "rounded":
        first, radius = math.atan2(*(begin - at)[::-1]), abs(away)
        return [Arc(at, np.array([radius, 0.0]), np.array([0.0, radius]), first, first + turn)]
    if abs(turn) > _SHARPEST:
        return [Straight(begin, end)]
    normals = (begin - at + end - at) / away
    point = at + normals * away / (1 + math.cos(turn))
    made: list[Edge] = []
    one, two = besides[i][-1], besides[after][0]
    if one.straight:
        besides[i][-1] = Straight(one.begin, point)
    else:
        made.append(Straight(begin, point))
    if two.straight:
        # A path of one edge that closes on itself was made longer at its other end already.
        besides[after][0] = Straight(point, besides[after][0].end)
    else:
        made.append(Straight(point, end))
    return made


def _edge_beside(edge: Edge, away: float) -> list[Edge]:
    """Return the offset of an edge, ``away`` to its left. Raises ``Refused`` where it bends too tightly for that."""
    try:
        return list(edge.beside(away, _DEVIATION))
    except TooTight as tight:
        raise _too_tight(tight.at, tight.radius, away) from tight


def _too_tight(at: Array, radius: float, away: float) -> Refused:
    message = (
        f"At ({at[0]:.1f}, {at[1]:.1f}) it bends to a radius of {figure(radius, 3)}, tighter than the {figure(abs(away), 3)} it "
        "would be thick on the inside: make it thinner, or give it to the other side."
    )
    return Refused(message, "thickness", "thickness")
