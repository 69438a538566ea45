"""Edits of outlines drawn by hand: points moved, put in and taken out, edges made straights, arcs and curves, corners cut.

Everything is done to a ``Sketch``; what is held of it stays true, and follows its points and edges as they are counted.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
from scipy.optimize import fsolve

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import FLAT, SAME_PLACE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.sections.document.conditions import OutlinePlace
from slow_ribbon.core.sections.document.constraints import Radius, Tangent
from slow_ribbon.core.sections.edges import EDGE_OF, EdgeKind
from slow_ribbon.core.sections.edges.arc import bulge_of
from slow_ribbon.core.sections.edges.base import Edge, as_point
from slow_ribbon.core.sections.outline.edge_arrays import flattened, length_of
from slow_ribbon.core.sections.sketch.constraint_solver import settled_if_it_can
from slow_ribbon.core.sections.sketch.infer_constraints import Moved, followed, mate_of_edge, mate_of_point, mirrored
from slow_ribbon.core.sections.sketch.sketch import EdgeDrawn, Sketch, directions, edge_drawn, edge_of, is_smooth

_Step = Callable[[Sketch], tuple[Sketch, Moved]]


def point_moved(drawing: Sketch, loop: int, point: int, to: Sequence[float]) -> Sketch:
    """Return the drawing with a point moved as near to a place as what is held allows. Raises ``Refused`` if it does not exist."""
    drawing.check(loop, point, "point")
    at = drawing.drawn.number_of_point(loop, point)
    return drawing.settled({at: to[0], at + 1: to[1]})


def edge_shaped(drawing: Sketch, loop: int, edge: int, kind: EdgeKind, by: Sequence[Sequence[float]], parted: bool = False) -> Sketch:
    """Return the drawing with an edge made a straight, an arc through a place, or a curve whose handles end at two places.

    Where it goes on smoothly from a neighbour it still does, if it is a curve and not ``parted`` from it: a neighbour's
    handle turns with its own. Where the whole is held symmetric its mirror image goes along. Raises ``Refused`` where there
    is no such edge, or an arc lies on its chord.
    """
    drawing.check(loop, edge, "edge")
    count = drawing.drawn.count(loop)
    points, edges = drawing.points(loop), drawing.edges(loop)
    places = {edge: by}
    mate = mate_of_edge(drawing, loop, edge)
    if mate is not None and mate != edge:
        # The other way round, as its mirror image goes.
        places[mate] = [mirrored(drawing, loop, place) for place in reversed(by)]
    for one, through in places.items():
        edges[one] = EdgeDrawn(kind, _numbers(points[one], points[(one + 1) % count], kind, through))
    joints = {i for one in places for i in (one, (one + 1) % count)} if kind == "curve" and not parted else set()
    smooth = [i for i in sorted(joints) if is_smooth(drawing, loop, i)]
    now = drawing.with_loop(loop, points, edges)
    kept = tuple(Tangent(point=(loop, i)) for i in smooth if Tangent(point=(loop, i)) not in now.held)
    pinned = [number for i in range(count) for number in (now.drawn.number_of_point(loop, i), now.drawn.number_of_point(loop, i) + 1)]
    wanted = {now.drawn.number_of_edge(loop, one) + k: number for one in places for k, number in enumerate(edges[one].numbers)}
    smoothly = settled_if_it_can(now.drawn, (*now.held, *kept), wanted, pinned)
    return now.settled(wanted, pinned) if smoothly is None else replace(now, drawn=smoothly)


def _numbers(begin: Array, end: Array, kind: EdgeKind, by: Sequence[Sequence[float]]) -> tuple[float, ...]:
    numbers = EDGE_OF[kind].numbers_through(as_point(begin), as_point(end), by)
    if EDGE_OF[kind].round and abs(numbers[0]) < FLAT:
        raise Refused("An arc through a place on its chord is a straight: take a place beside it.", "by", "outline-arc")
    return numbers


def point_put_in(drawing: Sketch, loop: int, edge: int, at: Sequence[float]) -> Sketch:
    """Return the drawing with a point put into an edge at the place of it nearest to another; the edge goes the same way as before.

    Where the whole is held symmetric its mirror image gets one too.
    """
    drawing.check(loop, edge, "edge")
    share = _nearest(edge_of(drawing, loop, edge), np.array(at, dtype=float))
    mate = mate_of_edge(drawing, loop, edge)
    if mate == edge:
        share = 0.5
    several = [(edge, share)] if mate is None or mate == edge else sorted([(edge, share), (mate, 1 - share)], reverse=True)
    steps = [_put_in_at(loop, number, where) for number, where in several]
    return _done(drawing, loop, steps, set())


def point_pulled_out(drawing: Sketch, loop: int, edge: int, at: Sequence[float], to: Sequence[float]) -> Sketch:
    """Return the drawing with a point put into an edge (``point_put_in``) and moved to a place beside it."""
    put = point_put_in(drawing, loop, edge, at)
    mate = mate_of_edge(drawing, loop, edge)
    # A mirror image that comes before it is counted first.
    return point_moved(put, loop, edge + 1 + (mate is not None and mate < edge), to)


def _nearest(edge: Edge, to: Array) -> float:
    """Return the share of an edge nearest to a place; never one of its ends."""
    low, high = 0.0, 1.0
    for _ in range(8):
        shares = np.linspace(low, high, 33)
        best = int(np.argmin(np.hypot(*(edge.at_shares(shares) - to).T)))
        low, high = float(shares[max(best - 1, 0)]), float(shares[min(best + 1, 32)])
    share, length = (low + high) / 2, length_of(edge)
    room = min(0.25, max(2 * WELD, length / 1000) / length)
    return min(max(share, room), 1 - room)


def _done(drawing: Sketch, loop: int, steps: Sequence[_Step], there: set[int]) -> Sketch:
    """Return the drawing after some steps in one loop, settled; where it was held symmetric its points are paired again.

    ``there`` are the points that the steps take out or cut, and that say nothing of the pairing.
    """
    symmetric, count = drawing.symmetric, drawing.drawn.count(loop)
    now = replace(drawing, held=tuple(one for one in drawing.held if one is not symmetric))
    places = list(range(count))
    for step in steps:
        now, moved = step(now)
        places = [moved((loop, place))[1] for place in places]
    if symmetric is not None:
        pairs = [(i, (symmetric.through[loop] - i) % count) for i in range(count)]
        sums = [places[i] + places[j] for i, j in pairs if i not in there] or [places[i] + places[j] + 1 for i, j in pairs]
        through = tuple(sums[0] % now.drawn.count(loop) if k == loop else old for k, old in enumerate(symmetric.through))
        now = replace(now, held=(*now.held, symmetric.model_copy(update={"through": through})))
    return now.settled()


def _put_in_at(loop: int, edge: int, share: float) -> _Step:
    def put_in(drawing: Sketch) -> tuple[Sketch, Moved]:
        points, edges = drawing.points(loop), drawing.edges(loop)
        first, second = _parted(edge_of(drawing, loop, edge), share)
        points.insert(edge + 1, first.end)
        edges[edge : edge + 1] = [edge_drawn(first), edge_drawn(second)]

        def moved(place: OutlinePlace) -> OutlinePlace:
            return (place[0], place[1] + 1) if place[0] == loop and place[1] > edge else place

        gone: set[OutlinePlace] = {(loop, edge)} if EDGE_OF[drawing.drawn.kind(loop, edge)].straight else set()
        held = followed(drawing.held, moved, moved, gone_edges=gone)
        return replace(drawing.with_loop(loop, points, edges), held=held), moved

    return put_in


def _parted(edge: Edge, share: float) -> tuple[Edge, Edge]:
    """Return the two parts of an edge up to a share of it and from there on."""
    return edge.part(0.0, share), edge.part(share, 1.0)


def point_taken_out(drawing: Sketch, loop: int, point: int) -> Sketch:
    """Return the drawing without a point: its two edges become one, the same as before where the point lay on a single edge.

    Where the whole is held symmetric, without its mirror image too. What was held of the point is let go. Raises
    ``Refused`` where too little would be left.
    """
    drawing.check(loop, point, "point")
    mate = mate_of_point(drawing, loop, point)
    several = sorted({point} if mate is None else {point, mate}, reverse=True)
    least = 2 if any(not EDGE_OF[kind].straight for kind in drawing.drawn.loops[loop]) else 3
    if drawing.drawn.count(loop) - len(several) < least:
        raise Refused(
            "Too few points would be left: an outline has three at least, or two with an arc or a curve.", "point", "outline-points"
        )
    return _done(drawing, loop, [_take_out_of(loop, number) for number in several], set(several))


def _take_out_of(loop: int, point: int) -> _Step:
    def take_out(drawing: Sketch) -> tuple[Sketch, Moved]:
        points, edges = drawing.points(loop), drawing.edges(loop)
        before = (point - 1) % len(points)
        edges[before] = _joined(edge_of(drawing, loop, before), edge_of(drawing, loop, point))
        del edges[point], points[point]

        def moved(place: OutlinePlace) -> OutlinePlace:
            return (place[0], place[1] - 1) if place[0] == loop and place[1] > point else place

        gone: set[OutlinePlace] = {(loop, point)}
        held = followed(drawing.held, moved, moved, gone_points=gone, gone_edges=gone | {(loop, before)})
        return replace(drawing.with_loop(loop, points, edges), held=held), moved

    return take_out


def _joined(first: Edge, second: Edge) -> EdgeDrawn:
    circles = first.circle(), second.circle()
    if circles[0] is not None and circles[1] is not None and math.dist(circles[0][0], circles[1][0]) <= SAME_PLACE:
        return EdgeDrawn("arc", (bulge_of(first.begin.tolist(), first.end.tolist(), second.end.tolist()),))
    if "curve" in (first.kind, second.kind):
        # Handles as long as if a single curve had been parted here: their parts at the point are as its share to the rest.
        out, back = first.handles, second.handles
        a, b = (float(np.hypot(*(p[1] - p[0]))) for p in (out[2:], back[:2]))
        share = a / (a + b) if a > 0 and b > 0 else 0.5
        handles = (*((out[1] - out[0]) / share).tolist(), *((back[2] - back[3]) / (1 - share)).tolist())
        return EdgeDrawn("curve", handles)
    return EdgeDrawn("straight")


def corner_cut(drawing: Sketch, loop: int, point: int, how: Literal["round", "chamfer"], size: float) -> Sketch:
    """Return the drawing with a corner rounded by a radius, or chamfered so far along both edges.

    A round stays tangent and of its radius, held so. Where the whole is held symmetric its mirror image is cut too.
    Raises ``Refused`` where the edges go on smoothly there, or have not this much room.
    """
    drawing.check(loop, point, "point")
    mate = mate_of_point(drawing, loop, point)
    several = sorted({point} if mate is None else {point, mate}, reverse=True)
    steps = [_cut_at(loop, number, how, size) for number in several]
    return _done(drawing, loop, steps, set(several))


def _cut_at(loop: int, point: int, how: Literal["round", "chamfer"], size: float) -> _Step:
    return lambda drawing: _cut(drawing, loop, point, how, size)


def _cut(drawing: Sketch, loop: int, point: int, how: Literal["round", "chamfer"], size: float) -> tuple[Sketch, Moved]:
    points, edges = drawing.points(loop), drawing.edges(loop)
    count = len(points)
    before = (point - 1) % count
    into, out = edge_of(drawing, loop, before), edge_of(drawing, loop, point)
    d_in, d_out = directions(drawing, loop, point)
    turn = math.atan2(float(d_in[0] * d_out[1] - d_in[1] * d_out[0]), float(d_in @ d_out))
    if abs(turn) < FLAT:
        raise Refused(f"The edges go on smoothly at point {point + 1}: there is no corner to cut.", "point", "outline-corner")
    s, t = _round_at(into, out, math.copysign(size, turn), turn) if how == "round" else (_back(into.reversed(), size), _back(out, size))
    if not (SAME_PLACE < s < 1 - SAME_PLACE and SAME_PLACE < t < 1 - SAME_PLACE):
        raise Refused(f"There is no room at point {point + 1} for {figure(size, 3)}: make it smaller.", "size", "outline-room")
    kept_in, kept_out = _parted(into, 1 - s)[0], _parted(out, t)[1]
    new = EdgeDrawn("straight")
    if how == "round":
        along = flattened(kept_in, WELD)[1][-1]
        chord = kept_out.begin - kept_in.end
        half = math.atan2(float(along[0] * chord[1] - along[1] * chord[0]), float(along @ chord))
        new = EdgeDrawn("arc", (math.tan(half / 2),))
    points[point : point + 1] = [kept_in.end, kept_out.begin]
    edges[before] = edge_drawn(kept_in)
    edges[point : point + 1] = [new, edge_drawn(kept_out)]

    def moved(place: OutlinePlace) -> OutlinePlace:
        return (place[0], place[1] + 1) if place[0] == loop and place[1] > point else place

    def edge_moved(place: OutlinePlace) -> OutlinePlace:
        return (place[0], place[1] + 1) if place[0] == loop and place[1] >= point else place

    here, after = (loop, point), (loop, (point + 1) % count)
    held = followed(drawing.held, moved, edge_moved, cut=(here, after))
    if how == "round":
        held = (
            *held,
            Tangent(point=(loop, point)),
            Tangent(point=(loop, (point + 1) % (count + 1))),
            Radius(edge=(loop, point), value=size),
        )
    return replace(drawing.with_loop(loop, points, edges), held=held), moved


def _back(edge: Edge, along: float) -> float:
    """Return the share of an edge at which this much of its length lies behind."""
    length = length_of(edge)
    if not edge.straight and edge.circle() is None:
        low, high = 0.0, 1.0
        for _ in range(60):
            middle = (low + high) / 2
            low, high = (middle, high) if length_of(_parted(edge, middle)[0]) < along else (low, middle)
        return (low + high) / 2 if along < length else 1.0
    return along / length


def _round_at(into: Edge, out: Edge, radius: float, turn: float) -> tuple[float, float]:
    """Return the shares, back from the corner and on from it, at which an arc of a radius (left positive) touches both edges."""

    def beside(edge: Edge, share: float) -> Array:
        point = edge.at_shares(np.array([share]))[0]
        ahead, behind = (edge.at_shares(np.array([share + step]))[0] for step in (1e-6, -1e-6))
        along = (ahead - behind) / np.hypot(*(ahead - behind))
        return np.asarray(point + radius * np.array([-along[1], along[0]]))

    def apart(shares: Array) -> Array:
        return np.asarray(beside(into, 1 - float(shares[0])) - beside(out, float(shares[1])))

    setback = abs(radius) * math.tan(abs(turn) / 2)
    if into.straight and out.straight:
        return setback / length_of(into), setback / length_of(out)
    begin = np.array([min(0.5, setback / length_of(into)), min(0.5, setback / length_of(out))])
    found, _, done, _ = fsolve(apart, begin, xtol=1e-13, full_output=True)
    return (float(found[0]), float(found[1])) if done == 1 or float(np.hypot(*apart(found))) < SAME_PLACE else (1.0, 1.0)
