"""The solver of constraints: an outline is moved until all of them hold.

Points, handles and arcs are looked for that keep all that is held and stay as near to where they are wanted as can
be (``settled``): the constrained least squares problem  min |w·(x − g)|²  where  c(x) = 0,  solved by going again and
again to its solution with c made linear (Gauss and Newton; Nocedal and Wright, Numerical Optimization, ch. 18).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

import numpy as np
from scipy.linalg import lstsq

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import TINIEST
from slow_ribbon.core.sections.document.constraints import (
    Apart,
    CornerAngle,
    Equal,
    Figured,
    Halfway,
    Hidden,
    Level,
    OutlinePlace,
    Parallel,
    Radius,
    Square,
    Symmetric,
    Tangent,
    Upright,
    words_of,
)
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
#: Step of the derivatives; by complex numbers they lose no digits however small it is.
_NUDGE: Final = 1e-30


@dataclass(frozen=True)
class _Condition:
    """A condition on some of the numbers of a drawing: ``of`` gives what must be zero of them, in mm."""

    numbers: tuple[int, ...]
    of: Callable[[Any], Any]

    def rates(self, x: Array) -> tuple[Array, Array]:
        """Return the values (m,) and their derivatives by the condition's numbers (m, k)."""
        # All nudges at once, a column each, the first without any.
        nudged = np.repeat(x[list(self.numbers)].astype(complex)[:, None], len(self.numbers) + 1, axis=1)
        index = np.arange(len(self.numbers))
        nudged[index, index + 1] += 1j * _NUDGE
        found: Any = np.atleast_2d(np.asarray(self.of(nudged)))
        return found[:, 0].real, found[:, 1:].imag / _NUDGE


def _cross(a: Any, b: Any) -> Any:
    return a[0] * b[1] - a[1] * b[0]


def _dot(a: Any, b: Any) -> Any:
    return a[0] * b[0] + a[1] * b[1]


def _size(a: Any) -> Any:
    return np.sqrt(_dot(a, a) + TINIEST)


class _Reader:
    """Writes conditions on a drawing's numbers."""

    def __init__(self, drawn: SketchVariables) -> None:
        self.drawn = drawn

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

    def condition(self, held: Any) -> list[_Condition]:
        """Return the conditions of something held. Raises ``Refused`` where it cannot be said of this outline."""
        match held:
            case Level(a=a, b=b):
                return [_Condition((self.point(a)[1], self.point(b)[1]), lambda x: x[0] - x[1])]
            case Upright(a=a, b=b):
                return [_Condition((self.point(a)[0], self.point(b)[0]), lambda x: x[0] - x[1])]
            case Square(a=a, b=b) | Parallel(a=a, b=b):
                part = _dot if isinstance(held, Square) else _cross
                return [_Condition((*self.straight(a), *self.straight(b)), lambda x: _between(part, x[2:4] - x[:2], x[6:8] - x[4:6]))]
            case Equal(a=a, b=b):
                return [self._equal(a, b)]
            case Tangent(point=point):
                numbers, both = self.around(point)
                return [_Condition(numbers, lambda x: _between(_cross, *both(x)))]
            case Halfway(point=point, a=a, b=b):
                return [_Condition((*self.point(point), *self.point(a), *self.point(b)), lambda x: x[:2] - (x[2:4] + x[4:6]) / 2)]
            case Apart(a=a, b=b, way=way, value=value):
                return [self._length((*self.point(a), *self.point(b)), way, value)]
            case Radius(edge=edge, value=value):
                return [_Condition(self._arc(edge), lambda x: _radius(x) - value)]
            case CornerAngle(point=point, value=value):
                numbers, both = self.around(point)
                angle = math.radians(value) * self.drawn.sense(point[0])
                return [_Condition(numbers, lambda x: _off(*both(x), angle))]
            case Hidden(edge=edge):
                self.check(edge)
                return []
            case Symmetric():
                return self._symmetric(held)
        raise AssertionError(held)

    def _arc(self, place: OutlinePlace) -> tuple[int, ...]:
        self.check(place)
        if not EDGE_OF[self.drawn.kind(*place)].round:
            raise Refused(f"Edge {place[1] + 1} is not an arc: only an arc has a radius.", "held", "held-edge")
        return (*self.ends(place), self.drawn.number_of_edge(*place))

    def _equal(self, a: OutlinePlace, b: OutlinePlace) -> _Condition:
        self.check(a)
        if EDGE_OF[self.drawn.kind(*a)].round:
            return _Condition((*self._arc(a), *self._arc(b)), lambda x: _radius(x[:5]) - _radius(x[5:]))
        return _Condition((*self.straight(a), *self.straight(b)), lambda x: _size(x[2:4] - x[:2]) - _size(x[6:8] - x[4:6]))

    def _length(self, numbers: tuple[int, ...], way: str, value: float) -> _Condition:
        if way == "straight":
            return _Condition(numbers, lambda x: _size(x[2:4] - x[:2]) - value)
        axis = 0 if way == "across" else 1
        sense = 1 if self.drawn.x[numbers[2 + axis]] >= self.drawn.x[numbers[axis]] else -1
        return _Condition((numbers[axis], numbers[2 + axis]), lambda x: sense * (x[1] - x[0]) - value)

    def _symmetric(self, held: Symmetric) -> list[_Condition]:
        if len(held.through) != len(self.drawn.loops):
            raise Refused("It cannot be held symmetric: a hole has come or gone.", "held", "held-place")
        across, along = (0, 1) if held.axis == "upright" else (1, 0)
        found: list[_Condition] = []
        middle: tuple[int, int] | None = None
        for loop, through in enumerate(held.through):
            count = self.drawn.count(loop)
            for i in range(count):
                j = (through - i) % count
                edge, mate = (loop, i), (loop, (j - 1) % count)
                if i <= j:
                    a, b = self.point((loop, i)), self.point((loop, j))
                    if i != j:
                        found.append(_Condition((a[along], b[along]), lambda x: x[0] - x[1]))
                    # All pairs have one middle: that of the first.
                    if middle is None:
                        middle = (a[across], b[across])
                    else:
                        found.append(_Condition((a[across], b[across], *middle), lambda x: (x[0] + x[1] - x[2] - x[3]) / 2))
                if edge <= mate:
                    found.extend(self._mirrored(edge, mate, across, along))
        return found

    def _mirrored(self, edge: OutlinePlace, mate: OutlinePlace, across: int, along: int) -> list[_Condition]:
        kind = self.drawn.kind(*edge)
        if kind != self.drawn.kind(*mate):
            raise Refused(
                f"Edges {edge[1] + 1} and {mate[1] + 1} are of different kinds: they cannot be mirror images.", "held", "held-edge"
            )
        a, b = self.drawn.number_of_edge(*edge), self.drawn.number_of_edge(*mate)
        return [
            _Condition((a + i, b + j), (lambda x: x[0] - x[1]) if sign > 0 else (lambda x: x[0] + x[1]))
            for i, j, sign in EDGE_OF[kind].mirror_pairs(across, along)
            # Of an edge that is its own mirror image each pair is there both ways round, and some of a number with itself.
            if edge != mate or i < j
        ]


def _between(part: Callable[[Any, Any], Any], a: Any, b: Any) -> Any:
    """Return the cross or dot product of two directions as a length: their sine or cosine times a size of theirs."""
    return part(a, b) / np.sqrt(_size(a) * _size(b))


def _radius(x: Any) -> Any:
    sense = np.where(np.real(x[4]) >= 0, 1, -1)
    return sense * _size(x[2:4] - x[:2]) * (1 + x[4] * x[4]) / (4 * (x[4] + sense * TINIEST))


def _off(into: Any, out: Any, angle: float) -> Any:
    """Return the sine of how far the turn from ``out`` to back along ``into`` is from an angle, times a size."""
    sine, cosine = -_cross(out, into), -_dot(out, into)
    return (sine * math.cos(angle) - cosine * math.sin(angle)) / np.sqrt(_size(into) * _size(out))


def measured(drawn: SketchVariables, figured: Figured) -> float:
    """Return the value of a length, radius or angle now, mm or degrees. Raises ``Refused`` where it does not exist."""
    reader = _Reader(drawn)
    if isinstance(figured, CornerAngle):
        numbers, both = reader.around(figured.point)
        into, out = both(drawn.x[list(numbers)])
        turn = math.degrees(math.atan2(-float(_cross(out, into)), -float(_dot(out, into))))
        return (turn * drawn.sense(figured.point[0])) % 360
    (condition,) = reader.condition(figured)
    return float(condition.rates(drawn.x)[0][0]) + figured.value


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
        "What is held contradicts itself: " + "; ".join(words_of(each) for each in _against(drawn, held)) + ". Let go of one of them.",
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
    conditions = [one for each in held for one in _Reader(drawn).condition(each)]
    weights = np.ones(len(drawn.x))
    weights[list(wanted or {})] = _DRAGGED
    weights[list(pinned)] = _PINNED
    for count in parts:
        found = _step_by_step(drawn, conditions, wanted or {}, weights, count)
        if found is not None and _right_way_round(found, held):
            return found
    return None


def _step_by_step(
    drawn: SketchVariables, conditions: Sequence[_Condition], wanted: Mapping[int, float], weights: Array, parts: int
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


def _values(conditions: Sequence[_Condition], x: Array) -> Array:
    return np.concatenate([np.atleast_1d(np.real(one.of(x[list(one.numbers)]))) for one in conditions]) if conditions else np.empty(0)


def _solved(conditions: Sequence[_Condition], x: Array, goal: Array, weights: Array, left: Array) -> Array | None:
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
    reader = _Reader(drawn)
    for each in held:
        if isinstance(each, Tangent):
            numbers, both = reader.around(each.point)
            if float(_dot(*both(drawn.x[list(numbers)]))) <= 0:
                return False
        if isinstance(each, CornerAngle) and abs((measured(drawn, each) - each.value + 180) % 360 - 180) > 1:
            return False
    return True


def _against(drawn: SketchVariables, held: Sequence[Any]) -> list[Any]:
    """Return those without any one of which the rest can be held; all where no single one is in the way."""

    def alone(left_out: int) -> bool:
        rest = [each for index, each in enumerate(held) if index != left_out]
        conditions = [one for each in rest for one in _Reader(drawn).condition(each)]
        found = _step_by_step(drawn, conditions, {}, np.ones(len(drawn.x)), 4)
        return found is not None and _right_way_round(found, rest)

    return [each for index, each in enumerate(held) if alone(index)] or list(held)
