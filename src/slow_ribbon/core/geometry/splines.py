"""B-splines taken apart: a part of one as a spline of its own, and where one has no single direction.

Splines are scipy's, with controls of three coordinates, or four where they are rational:
(weight · x, weight · y, weight · z, weight).
"""

from __future__ import annotations

from typing import Final

import numpy as np
from scipy.interpolate import BSpline
from scipy.optimize import minimize_scalar

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import ROUNDING, SAME_SHARE, TINIEST
from slow_ribbon.core.kernel.units import WELD

#: A curve stands still where its speed falls below this share of its greatest.
_STILL: Final = 1e-7
#: Places on each knot interval where the speed is looked at.
_LOOKS: Final = 17


def sub_spline(spline: BSpline, first: float, last: float) -> BSpline:
    """Return the part of a B-spline between two parameters, clamped at both ends.

    Knots are put in at both ends until the curve meets its controls there (W. Boehm, 1980).
    """
    degree = spline.k
    inside = float(spline.t[degree]), float(spline.t[-degree - 1])
    size = inside[1] - inside[0]
    for parameter in (first, last):
        near = np.abs(spline.t - parameter) < ROUNDING * size
        if near.any():
            parameter = float(spline.t[near][0])
        missing = degree - int(near.sum())
        if missing > 0:
            spline = spline.insert_knot(min(max(parameter, inside[0]), inside[1]), missing)
    begin = int(np.searchsorted(spline.t, first - ROUNDING * size, side="left"))
    end = int(np.searchsorted(spline.t, last + ROUNDING * size, side="right"))
    knots = spline.t[begin:end]
    # Inside the curve a full knot is met ``degree`` times; at its ends it stands once more.
    inner = knots[(knots > knots[0]) & (knots < knots[-1])]
    offset = int(np.searchsorted(spline.t, knots[0], side="right")) - degree - 1
    knots = np.concatenate([[knots[0]] * (degree + 1), inner, [knots[-1]] * (degree + 1)])
    return BSpline(knots, spline.c[offset : offset + len(knots) - degree - 1], degree)


def points_of(controls: Array) -> Array:
    """Return controls (n, 3 or 4) as places, (n, 3)."""
    return controls if controls.shape[1] == 3 else np.asarray(controls[:, :3] / controls[:, 3:])


def settled(spline: BSpline) -> BSpline:
    """Return a clamped spline whose controls within ``WELD`` of one of its ends lie in it, as they were meant to.

    Without that a handle a micrometre from its end would turn the curve within that micrometre.
    """
    controls = np.array(spline.c, dtype=float)
    places = points_of(controls)
    for order in (range(1, len(controls) - 1), range(len(controls) - 2, 0, -1)):
        at = order.start - order.step
        for i in order:
            if float(np.linalg.norm(places[i] - places[at])) > WELD:
                break
            controls[i] = controls[at] if controls.shape[1] == 3 else controls[at] * (controls[i, 3] / controls[at, 3])
    return BSpline(spline.t, controls, spline.k)


def end_directions(spline: BSpline) -> tuple[Array, Array]:
    """Return the unit tangents (3,) at both ends of a settled clamped spline: toward the nearest control that is not the end itself.

    Where handles lie in the end, so that the curve stands still there, this is the limit of its tangents.
    """
    places = points_of(spline.c)
    found = []
    for line in (places, places[::-1]):
        away = line - line[0]
        sizes = np.linalg.norm(away, axis=1)
        far = int(np.argmax(sizes > WELD)) if (sizes > WELD).any() else len(line) - 1
        found.append(away[far] / max(float(sizes[far]), TINIEST))
    return found[0], -found[1]


def halts(spline: BSpline) -> list[float]:
    """Return the parameters inside a clamped spline where its direction may change at once, in order.

    Those are where it stands still (at a cusp, a fold, a doubled or tripled control) and knots
    as manifold as its degree.
    """
    rates = spline.derivative(1)
    rational = spline.c.shape[1] == 4

    def velocities(t: Array) -> Array:
        velocity = rates(t)
        if rational:
            place = spline(t)
            velocity = (velocity[:, :3] - place[:, :3] / place[:, 3:] * velocity[:, 3:]) / place[:, 3:]
        return np.asarray(velocity)

    def speeds(t: Array) -> Array:
        return np.asarray(np.linalg.norm(velocities(t), axis=1))

    bounds, counts = np.unique(spline.t[spline.k : len(spline.t) - spline.k], return_counts=True)
    shares = (1 - np.cos(np.linspace(0, np.pi, _LOOKS))) / 2
    places = bounds[:-1, None] + np.diff(bounds)[:, None] * shares
    ways = velocities(places.ravel()).reshape(*places.shape, 3)
    looks = np.linalg.norm(ways, axis=2)
    top = float(looks.max(initial=0.0))
    found = {float(knot) for knot, count in zip(bounds[1:-1], counts[1:-1], strict=True) if count >= spline.k}
    found |= {float(knot) for knot in bounds[1:-1][looks[1:, 0] <= _STILL * top]}
    # A dip between its neighbours is where it may stand still.
    dips = (looks[:, 1:-1] <= looks[:, :-2]) & (looks[:, 1:-1] <= looks[:, 2:]) & (looks[:, 1:-1] < 0.5 * top)
    # Where it stands still over a whole stretch of its parameter both ends of that are known.
    dips &= (looks[:, :-2] > _STILL * top) | (looks[:, 2:] > _STILL * top)
    spots = [(places[i, look], places[i, look + 2]) for i, look in zip(*np.nonzero(dips), strict=True)]
    # So it may where it goes backward from one look to the next, however fast it is at both.
    back = np.einsum("ijk,ijk->ij", ways[:, :-1], ways[:, 1:]) < 0
    spots += [(places[i, look], places[i, look + 1]) for i, look in zip(*np.nonzero(back), strict=True)]
    for low, high in spots:
        least = minimize_scalar(
            lambda t: float(speeds(np.array([t]))[0]) ** 2,
            bounds=(float(low), float(high)),
            method="bounded",
            options={"xatol": 1e-14 * max(1.0, abs(high))},
        )
        at = float(least.x)
        if float(speeds(np.array([at]))[0]) <= 10 * _STILL * top and not any(
            abs(at - one) < 1e-6 * (bounds[-1] - bounds[0]) for one in found
        ):
            found.add(at)
    size = float(bounds[-1] - bounds[0])
    return sorted(at for at in found if bounds[0] + SAME_SHARE * size < at < bounds[-1] - SAME_SHARE * size)
