"""Bézier curves and B-splines by their control points."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import Annotated, Any, Final, Literal, Self

import numpy as np
from pydantic import Field
from scipy.interpolate import BSpline

from slow_ribbon.core.geometry.cubics import cubic_spans, surely_smooth
from slow_ribbon.core.geometry.curves import Curve, Evaluation
from slow_ribbon.core.geometry.parametric import ParametricSpan
from slow_ribbon.core.geometry.splines import end_directions, halts, points_of, settled, sub_spline
from slow_ribbon.core.kernel.arrays import Array, Indices
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import ROUNDING, TINIEST
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.legs.base import LegBase, Move, place
from slow_ribbon.core.lines.legs.of_span import leg_of

#: Weights further apart than this pull a curve together into points and leave nothing of its arithmetic.
_MOST_WEIGHT: Final = 1e6


_CUBIC: Final = np.array([0.0] * 4 + [1.0] * 4)


class CurveLeg(LegBase):
    """A Bézier curve or B-spline, rational where it has weights.

    Its controls are the leg's beginning, ``controls`` and ``to``. Without ``knots`` it is a
    single Bézier curve of as many controls as there are where ``degree`` is left out, and else
    a B-spline clamped at its ends with knots spaced evenly. ``weights`` are for all controls,
    both ends included.
    """

    words = "a spline by control points"

    kind: Literal["curve"] = "curve"
    controls: Annotated[tuple[Point3, ...], Field(min_length=1, max_length=5000, fail_fast=True)]
    degree: Annotated[int, Field(ge=1, le=15)] | None = None
    knots: Annotated[tuple[float, ...], Field(max_length=5100, fail_fast=True)] | None = None
    weights: Annotated[tuple[float, ...], Field(max_length=5002, fail_fast=True)] | None = None

    def spans(self, begin: Point3, where: str = "") -> list[Curve]:
        """Return the smooth spans of the curve: one, or several where its direction may change at once."""
        return _spline(self, np.array(begin, dtype=float), where)

    @property
    def plain(self) -> bool:
        """Whether it is a cubic Bézier curve with nothing more said, as nearly all curves of drawings are."""
        return len(self.controls) == 2 and self.degree is None and self.knots is None and self.weights is None

    def carried(self, move: Move, direct: Move, grow: float, over: bool) -> dict[str, Any]:
        return {"controls": tuple(move(point) for point in self.controls)}

    def backward(self) -> dict[str, Any]:
        changes: dict[str, Any] = {"controls": self.controls[::-1]}
        if self.knots is not None:
            changes["knots"] = tuple(self.knots[0] + self.knots[-1] - knot for knot in reversed(self.knots))
        if self.weights is not None:
            changes["weights"] = self.weights[::-1]
        return changes

    def shape_points(self) -> list[Point3]:
        return list(self.controls)

    def with_shape_point(self, index: int, at: Point3, sharp: bool | None) -> Self:
        return self.model_copy(update={"controls": (*self.controls[:index], at, *self.controls[index + 1 :])})

    def without_shape_point(self, index: int) -> Self | None:
        controls = self.controls[:index] + self.controls[index + 1 :]
        if self.knots is not None or self.weights is not None or not controls:
            return None
        degree = None if self.degree is None else min(self.degree, len(controls) + 1)
        return self.model_copy(update={"controls": controls, "degree": degree})

    def halfway(self, other: LegBase, half: Callable[[Point3, Point3], Point3]) -> dict[str, Any] | None:
        if not isinstance(other, CurveLeg) or len(self.controls) != len(other.controls):
            return None
        if (self.knots, self.weights, self.degree) != (other.knots, other.weights, other.degree):
            return None
        return {"controls": tuple(half(p, q) for p, q in zip(self.controls, other.controls, strict=True))}


@leg_of.register
def _(span: ParametricSpan, low: float, high: float) -> CurveLeg:
    first, last = (float(value) for value in span.parameters(np.array([low, high])))
    return spline_leg(span.spline, first, last)[1]


def spline_leg(spline: BSpline, first: float, last: float) -> tuple[Point3, CurveLeg]:
    """Return where a B-spline is at one parameter, and the leg that is its part from there to another."""
    part = sub_spline(spline, first, last)
    degree, knots, controls = part.k, part.t, part.c
    weights = None
    if controls.shape[1] == 4:
        weights = tuple(float(w) for w in controls[:, 3])
        controls = controls[:, :3] / controls[:, 3:]
    leg = CurveLeg(
        to=place(controls[-1]),
        controls=tuple(place(point) for point in controls[1:-1]) or (place((controls[0] + controls[-1]) / 2),),
        degree=degree,
        knots=tuple(float(knot) for knot in knots),
        weights=weights,
    )
    if len(controls) == 2:
        # A straight stretch of degree 1 still has one control between its ends.
        leg = leg.model_copy(update={"degree": 2, "knots": None, "weights": None})
    return place(controls[0]), leg


def plain_controls(start: Point3, legs: Sequence[LegBase]) -> tuple[Indices, Array]:
    """Return a mask (n,) of a line's legs that are ``plain`` cubic Bézier curves, and their controls, (n, 4, 3)."""
    begins = [start, *(leg.to for leg in legs)]
    plain = [number for number, leg in enumerate(legs) if isinstance(leg, CurveLeg) and leg.plain]
    controls = [(begins[number], *legs[number].shape_points(), legs[number].to) for number in plain]
    return np.array(plain, dtype=np.int64), np.array(controls, dtype=float).reshape(-1, 4, 3)


def smooth_cubics(start: Point3, legs: Sequence[LegBase]) -> dict[int, Curve]:
    """Return the spans of those of a line's legs, by number, that are cubic Bézier curves and one smooth span: worked out together."""
    plain, controls = plain_controls(start, legs)
    if not len(plain):
        return {}
    kept = surely_smooth(controls)
    directions = controls[:, [1, 3]] - controls[:, [0, 2]]
    directions /= np.maximum(np.sqrt(np.einsum("nij,nij->ni", directions, directions)), TINIEST)[:, :, None]
    for which in np.flatnonzero(~kept).tolist():
        if float(np.ptp(controls[which], axis=0).max()) > WELD:
            spline = settled(BSpline(_CUBIC, controls[which], 3))
            kept[which] = not halts(spline)
            controls[which], directions[which] = spline.c, end_directions(spline)
    return dict(zip(plain[kept].tolist(), cubic_spans(controls[kept], directions[kept]), strict=True))


def _spline(leg: CurveLeg, begin: Array, where: str) -> list[Curve]:
    """Return the smooth spans of a curve: one, or several where its direction may change at once."""
    controls = np.array([begin, *leg.controls, leg.to], dtype=float)
    count = len(controls)
    degree = leg.degree if leg.degree is not None else (count - 1 if leg.knots is None else len(leg.knots) - count - 1)
    if not 1 <= degree <= min(15, count - 1):
        raise Refused(
            f"A curve of degree {degree} needs at least {degree + 1} controls, both ends included, and at most degree 15; it has {count}.",
            f"{where}.degree",
            "curve-degree",
        )
    if leg.knots is None:
        inner = np.linspace(0, 1, count - degree + 1)[1:-1]
        knots = np.concatenate([np.zeros(degree + 1), inner, np.ones(degree + 1)])
    else:
        knots = np.array(leg.knots)
        if len(knots) != count + degree + 1:
            raise Refused(
                f"A curve of degree {degree} with {count} controls has {count + degree + 1} knots; {len(knots)} are given.",
                f"{where}.knots",
                "curve-knots",
            )
        clamped = knots[degree] - knots[0] <= ROUNDING * np.ptp(knots) and knots[-1] - knots[-degree - 1] <= ROUNDING * np.ptp(knots)
        if (np.diff(knots) < 0).any() or knots[-1] <= knots[0] or not clamped:
            raise Refused(
                f"The knots must not fall, and the first and last {degree + 1} of them must be the same, so that the curve meets its ends.",
                f"{where}.knots",
                "curve-knots",
            )
    if leg.weights is not None and (len(leg.weights) != count or min(leg.weights) <= 0 or not np.isfinite(leg.weights).all()):
        raise Refused(f"The curve needs a weight above zero for each of its {count} controls.", f"{where}.weights", "curve-weights")
    if leg.weights is not None and max(leg.weights) > _MOST_WEIGHT * min(leg.weights):
        raise Refused(
            f"The weights of the curve go from {min(leg.weights):g} to {max(leg.weights):g}: more than a million times apart "
            "they cannot be worked out.",
            f"{where}.weights",
            "curve-weights",
        )
    spread = float(np.ptp(controls, axis=0).max())
    if spread <= WELD:
        raise Refused("All controls of this curve lie in one point: it has no length.", f"{where}.controls", "leg-zero")
    if leg.weights is None or len(set(leg.weights)) == 1:
        spline = BSpline(knots, controls, degree)
    else:
        spline = BSpline(knots, np.column_stack([controls * np.array(leg.weights)[:, None], leg.weights]), degree)
    spline = settled(spline)
    bounds = [float(knots[0]), *halts(spline), float(knots[-1])]
    parts = [spline] if len(bounds) == 2 else [settled(sub_spline(spline, a, b)) for a, b in pairwise(bounds)]
    return [
        ParametricSpan(_derivatives(part), np.unique(part.t), part, directions=end_directions(part))
        for part in parts
        if float(np.ptp(points_of(part.c), axis=0).max()) > WELD
    ]


def _derivatives(spline: BSpline) -> Evaluation:
    rates, changes = spline.derivative(1), spline.derivative(2) if spline.k > 1 else None

    def plain(t: Array) -> tuple[Array, Array, Array]:
        look_up(9 * len(t))
        return spline(t), rates(t), changes(t) if changes is not None else np.zeros((len(t), 3))

    def rational(t: Array) -> tuple[Array, Array, Array]:
        look_up(12 * len(t))
        # Quotient rule on p = A/w (Piegl and Tiller, The NURBS Book, section 4.3).
        a, b = spline(t), rates(t)
        c = changes(t) if changes is not None else np.zeros_like(a)
        w, w1, w2 = a[:, 3:], b[:, 3:], c[:, 3:]
        points = a[:, :3] / w
        first = (b[:, :3] - w1 * points) / w
        return points, first, (c[:, :3] - 2 * w1 * first - w2 * points) / w

    return plain if spline.c.shape[1] == 3 else rational
