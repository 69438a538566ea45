"""The solver of constraints: an outline is moved until all of them hold.

Points, handles and arcs are looked for that keep all that is held and stay as near to where they are wanted as can
be (``settled``): the constrained least squares problem  min |w·(x − g)|²  where  c(x) = 0,  solved by going again and
again to its solution with c made linear (Gauss and Newton; Nocedal and Wright, Numerical Optimization, ch. 18).
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any, Final

import numpy as np
from scipy.linalg import lstsq

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.sections.document.conditions import Condition, OutlinePlace
from slow_ribbon.core.sections.document.constraints import Figured
from slow_ribbon.core.sections.edges import EDGE_OF
from slow_ribbon.core.sections.sketch.sketch_variables import SketchVariables

#: Steps after which nothing more is to be hoped for.
_MOST: Final = 60
#: Steps in which it must have come twice as near.
_STUCK: Final = 8
#: How much more a point that is dragged counts than those that follow.
_DRAGGED: Final = 1e4
#: How much more than these points count that are to stay where they are.
_PINNED: Final = 1e6
#: Parts into which a change is divided that cannot be made at once.
_PARTS: Final = (1, 4, 16)


class _Numbers:
    """A drawing's numbers, as constraints ask for them (``OutlineNumbers``)."""

    def __init__(self, drawn: SketchVariables) -> None:
        self.drawn = drawn

    @property
    def x(self) -> Array:
        return self.drawn.x

    def counts(self) -> list[int]:
        return [self.drawn.count(loop) for loop in range(len(self.drawn.loops))]

    def sense(self, loop: int) -> int:
        return self.drawn.sense(loop)

    def is_round(self, place: OutlinePlace) -> bool:
        self.check(place)
        return EDGE_OF[self.drawn.kind(*place)].round

    def straight(self, place: OutlinePlace) -> tuple[int, ...]:
        """Return the numbers of an edge's ends. Raises ``Refused`` where it is not straight."""
        self.check(place)
        if not EDGE_OF[self.drawn.kind(*place)].straight:
            raise Refused(f"Edge {place[1] + 1} is not straight: only straight edges can be held so.", "held", "held-edge")
        return self.ends(place)

    def check(self, place: OutlinePlace) -> None:
        loop, index = place
        if loop >= len(self.drawn.loops) or index >= self.drawn.count(loop):
            raise Refused(f"The outline has no point or edge {index + 1} there.", "held", "held-place")

    def point(self, place: OutlinePlace) -> tuple[int, int]:
        self.check(place)
        at = self.drawn.number_of_point(*place)
        return at, at + 1

    def ends(self, place: OutlinePlace) -> tuple[int, ...]:
        loop, edge = place
        return (*self.point(place), *self.point((loop, (edge + 1) % self.drawn.count(loop))))

    def direction(self, place: OutlinePlace, sense: int) -> tuple[tuple[int, ...], Callable[[Any], Any]]:
        """Return the numbers that an edge's direction hangs on at its begin (−1) or end (1), and the direction of them."""
        own = self.drawn.numbers_of_edge(*place)
        numbers = (*self.ends(place), *range(own.start, own.stop))
        return numbers, EDGE_OF[self.drawn.kind(*place)].direction(self.drawn.x[own], sense)

    def around(self, place: OutlinePlace) -> tuple[tuple[int, ...], Callable[[Any], tuple[Any, Any]]]:
        """Return the numbers that the directions into and out of a point hang on, and the two of them."""
        loop, point = place
        self.check(place)
        into, d_in = self.direction((loop, (point - 1) % self.drawn.count(loop)), 1)
        out, d_out = self.direction(place, -1)
        return (*into, *out), lambda x: (d_in(x[: len(into)]), d_out(x[len(into) :]))

    def arc(self, place: OutlinePlace) -> tuple[int, ...]:
        self.check(place)
        if not EDGE_OF[self.drawn.kind(*place)].round:
            raise Refused(f"Edge {place[1] + 1} is not an arc: only an arc has a radius.", "held", "held-edge")
        return (*self.ends(place), self.drawn.number_of_edge(*place))

    def mirrored(self, edge: OutlinePlace, mate: OutlinePlace, across: int, along: int) -> list[Condition]:
        kind = self.drawn.kind(*edge)
        if kind != self.drawn.kind(*mate):
            raise Refused(
                f"Edges {edge[1] + 1} and {mate[1] + 1} are of different kinds: they cannot be mirror images.", "held", "held-edge"
            )
        a, b = self.drawn.number_of_edge(*edge), self.drawn.number_of_edge(*mate)
        return [
            Condition((a + i, b + j), (lambda x: x[0] - x[1]) if sign > 0 else (lambda x: x[0] + x[1]))
            for i, j, sign in EDGE_OF[kind].mirror_pairs(across, along)
            # Of an edge that is its own mirror image each pair is there both ways round, and some of a number with itself.
            if edge != mate or i < j
        ]


def measured(drawn: SketchVariables, figured: Figured) -> float:
    """Return the value of a length, radius or angle now, mm or degrees. Raises ``Refused`` where it does not exist."""
    return figured.measured(_Numbers(drawn))


def settled(
    drawn: SketchVariables, held: Sequence[Any], wanted: Mapping[int, float] | None = None, pinned: Sequence[int] = ()
) -> SketchVariables:
    """Return the drawing in which all that is held is true and all else has moved as little as can be.

    ``wanted`` are numbers of the drawing that are to come near a value: those that are dragged; ``pinned`` numbers that
    give way last of all. Raises ``Refused``, naming what cannot be held together.
    """
    found = settled_if_it_can(drawn, held, wanted, pinned)
    if found is not None:
        return found
    raise Refused(
        "What is held contradicts itself: " + "; ".join(each.words() for each in _against(drawn, held)) + ". Let go of one of them.",
        "held",
        "held-contradiction",
    )


def settled_if_it_can(
    drawn: SketchVariables,
    held: Sequence[Any],
    wanted: Mapping[int, float] | None = None,
    pinned: Sequence[int] = (),
    parts: Sequence[int] = _PARTS,
) -> SketchVariables | None:
    """Return the same as ``settled``, or nothing where not all can be held together; ``parts`` in how many steps it may be tried."""
    conditions = [one for each in held for one in each.conditions(_Numbers(drawn))]
    weights = np.ones(len(drawn.x))
    weights[list(wanted or {})] = _DRAGGED
    weights[list(pinned)] = _PINNED
    for count in parts:
        found = _step_by_step(drawn, conditions, wanted or {}, weights, count)
        if found is not None and _right_way_round(found, held):
            return found
    return None


def _step_by_step(
    drawn: SketchVariables, conditions: Sequence[Condition], wanted: Mapping[int, float], weights: Array, parts: int
) -> SketchVariables | None:
    """Go to what is wanted in some parts; None where it cannot be reached."""
    x = drawn.x.copy()
    begin = _values(conditions, x)
    for part in range(1, parts + 1):
        share = part / parts
        goal = x.copy()
        for number, value in wanted.items():
            goal[number] = drawn.x[number] + share * (value - drawn.x[number])
        # What is not true yet may stay untrue for a while, ever less so.
        found = _solved(conditions, x, goal, weights, begin * (1 - share))
        if found is None:
            return None
        x = found
    return drawn.with_numbers(x)


def _values(conditions: Sequence[Condition], x: Array) -> Array:
    return np.concatenate([np.atleast_1d(np.real(one.of(x[list(one.numbers)]))) for one in conditions]) if conditions else np.empty(0)


def _solved(conditions: Sequence[Condition], x: Array, goal: Array, weights: Array, left: Array) -> Array | None:
    x = x.copy()
    before: list[float] = []
    for _ in range(_MOST):
        look_up()
        rows: list[Array] = []
        values: list[float] = []
        for one in conditions:
            found, rates = one.rates(x)
            for value, rate in zip(found, rates, strict=True):
                row = np.zeros(len(x))
                np.add.at(row, list(one.numbers), rate)
                rows.append(row)
                values.append(float(value))
        want = goal - x
        if rows:
            jacobian, off = np.array(rows), np.array(values) - left
            # The step nearest to what is wanted, measured by the weights, that makes the linear conditions true.
            part, *_ = lstsq(jacobian / weights, jacobian @ want + off, cond=1e-10, lapack_driver="gelsy", check_finite=False)
            step = want - part / weights
        else:
            off, step = np.empty(0), want
        before.append(float(np.abs(off).max(initial=0)))
        # What comes no nearer any more will not come nearer.
        if not np.all(np.isfinite(step)) or (len(before) > _STUCK and before[-1] > max(1e-8, 0.5 * before[-_STUCK])):
            return None
        if float(np.abs(off).max(initial=0)) < 1e-10 and float(np.abs(step).max(initial=0)) < 1e-9:
            return x
        x = x + step
    return x if float(np.abs(_values(conditions, x) - left).max(initial=0)) < 1e-8 else None


def _right_way_round(drawn: SketchVariables, held: Sequence[Any]) -> bool:
    """Return whether tangent edges run on and angles have their given values: half a turn more satisfies the equations as well."""
    numbers = _Numbers(drawn)
    return all(each.right_way_round(numbers) for each in held)


def _against(drawn: SketchVariables, held: Sequence[Any]) -> list[Any]:
    """Return those without any one of which the rest can be held; all where no single one is in the way."""

    def alone(left_out: int) -> bool:
        rest = [each for index, each in enumerate(held) if index != left_out]
        conditions = [one for each in rest for one in each.conditions(_Numbers(drawn))]
        found = _step_by_step(drawn, conditions, {}, np.ones(len(drawn.x)), 4)
        return found is not None and _right_way_round(found, rest)

    return [each for index, each in enumerate(held) if alone(index)] or list(held)
