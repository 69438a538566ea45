"""Properties of a section: second moments, moduli, torsion, weight, inscribed circle and enclosing rectangle.

Terms
-----
second moments
    Ix = ∬y² dA, Iy = ∬x² dA and Ixy = ∬xy dA about the centroid, mm⁴.
principal
    the axes through the centroid about which the product of inertia is zero; the first is that of
    the greatest second moment, its angle measured anticlockwise from x.
section modulus
    the second moment by the distance of the outermost fibre, mm³: the lesser of both sides.
torsion constant
    what the polar second moment is for a round section, mm⁴.

Second moments are summed along the edges by Green's theorem, ∬f dA = ¼∮ f (x dy − y dx) for f of second degree, and
so are exact to rounding for arcs and curves too. Principal moments are the eigenvalues of the tensor of inertia
(any text on strength of materials).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from operator import itemgetter
from typing import Any, Final

import numpy as np
import shapely
from scipy.spatial import HalfspaceIntersection

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.tolerances import SAME_PLACE, SAME_SHARE
from slow_ribbon.core.sections.document.constraints import Hidden
from slow_ribbon.core.sections.document.materials import DENSITIES
from slow_ribbon.core.sections.document.section import SectionBody, datum_point, scaling_of, section_shape
from slow_ribbon.core.sections.edges.base import Loop
from slow_ribbon.core.sections.outline.edge_arrays import Together
from slow_ribbon.core.sections.outline.minimum_thickness import CHORDS, narrowest_of
from slow_ribbon.core.sections.outline.profile import Shape, loop_of

#: How near the largest circle is found, as a share of the section's size; chords near it are as near to their curves.
_FINE: Final = 1e-6
#: How near it is looked for first.
_ROUGH: Final = 1e-3
#: Circles that differ by less, as a share of their radius, are as large as one another; nor are rounds refined further for it.
_SAME_CIRCLE: Final = 2e-5
_ROUND: Final = 128
#: At no more places than this it is looked for a larger one.
_PLACES: Final = 4
#: In how many parts a chord near the largest circle is made finer: its height is less by the square of that.
_FINER: Final = 10
#: Directions first looked in for the smallest rectangle.
_LOOKS: Final = 180


@dataclass(frozen=True, kw_only=True)
class Facts:
    """A section's facts. Lengths in mm, areas mm², second moments mm⁴, moduli mm³, angles in degrees, weight kg/m.

    ``ix``, ``iy``, ``ixy`` about axes through the centroid; ``greatest`` and ``least`` about the principal axes, the
    first ``principal_angle`` anticlockwise from x. ``torsion`` only where a closed form holds: rods, round tubes, and tubes
    of one wall. ``painted`` is m² a metre, without the edges that are hidden. ``narrowest`` is how wide the section is at its
    narrowest, and between which two places.
    ``circle`` is the largest that lies in the section: centre x, y and radius. ``rectangle`` is the smallest
    round it: its sides, the longer first, and the angle of that. ``bend_left``, ``bend_right``: the tightest radius on the line of a bend
    to each side, with the section on its datum.
    """

    area: float
    perimeter: float
    centroid: tuple[float, float]
    ix: float
    iy: float
    ixy: float
    greatest: float
    least: float
    principal_angle: float
    modulus_x: float
    modulus_y: float
    torsion: float | None
    weight: float
    painted: float
    narrowest: tuple[float, tuple[float, float], tuple[float, float]]
    circle: tuple[float, float, float]
    rectangle: tuple[float, float, float]
    bend_left: float
    bend_right: float


@kept_with
def facts_of(section: SectionBody) -> Facts:
    """Return a section's facts at its size. Raises ``Refused`` as ``section_shape`` does, and for one too small to be there.

    >>> from slow_ribbon.core.sections.library import rectangle
    >>> batten = facts_of(SectionBody(name="Batten", outline=rectangle(30, 60), width=30, height=60))
    >>> round(batten.ix), round(batten.iy), round(batten.modulus_x)  # b·h³/12, h·b³/12, b·h²/6
    (540000, 135000, 18000)
    """
    shape = section_shape(section)
    if min(section.width, section.height) < SAME_PLACE:
        message = "It is too small to be measured: give it a width and a height of a thousandth of a millimetre at least."
        raise Refused(message, "width", "outline-flat")
    ix, iy, ixy = _second_moments(shape)
    middle, half = (ix + iy) / 2, math.hypot((ix - iy) / 2, ixy)
    # Of a section that has no axis of its own, every one is principal: x is reported then.
    angle = 0.0 if half <= SAME_SHARE * middle else _half_turn(math.degrees(0.5 * math.atan2(-2 * ixy, ix - iy)))
    left, low, right, high = shape.box
    x, y = shape.centroid
    at = datum_point(shape, section.datum)[0]
    hidden = hidden_edges(section)
    return Facts(
        area=shape.area,
        perimeter=shape.perimeter,
        centroid=(float(shape.centroid[0]), float(shape.centroid[1])),
        ix=ix,
        iy=iy,
        ixy=ixy,
        greatest=middle + half,
        least=middle - half,
        principal_angle=angle,
        modulus_x=ix / max(high - y, y - low),
        modulus_y=iy / max(x - left, right - x),
        torsion=_torsion(section, shape, ix + iy),
        weight=shape.area * 1e-6 * DENSITIES[section.material].mean,
        painted=(shape.perimeter - (0.0 if hidden is None else float(hidden.lengths.sum()))) * 1e-3,
        narrowest=narrowest_of(shape),
        circle=_largest_circle(shape),
        rectangle=_smallest_rectangle(shape),
        bend_left=max(0.0, at - left),
        bend_right=max(0.0, right - at),
    )


@kept_with
def hidden_edges(section: SectionBody) -> Together | None:
    """Return the edges of the outline that are hidden, and not painted, at the section's size; None where none is."""
    numbers = {held.edge[1] for held in section.held if isinstance(held, Hidden) and held.edge[0] == 0}
    if not numbers:
        return None
    scaling = scaling_of(section)
    edges = scaling.edges(loop_of(section.outline))
    hidden = [edges[number].mapped(np.eye(2), -np.array(scaling.box[:2])) for number in sorted(numbers) if number < len(edges)]
    return Together.of(hidden) if hidden else None


def _second_moments(shape: Shape) -> tuple[float, float, float]:
    """Return (∬y² dA, ∬x² dA, ∬xy dA) about the centroid."""
    points, rates, _ = shape.together.quadrature
    x, y = (points - shape.centroid).T
    spin = (x * rates[:, 1] - y * rates[:, 0]) / 4
    return float(spin @ (y * y)), float(spin @ (x * x)), float(spin @ (x * y))


def _torsion(section: SectionBody, shape: Shape, polar: float) -> float | None:
    """Return the torsion constant, mm⁴; None where no closed form holds.

    A rod or a round tube has its polar second moment. A tube of one wall has h·t³/3 + 4·A²·t/h, with h the length of the
    middle of the wall and A the area in it (EN 10219-2 and EN 10210-2, annex on properties; from memory).
    """
    if all(_round_about(loop, shape.centroid) for loop in shape.loops):
        return polar
    if section.wall is None or len(shape.loops) != 2 or not _smooth_and_convex(shape.loops[0]):
        return None
    wall = section.wall
    outer = Shape(shape.loops[:1])
    # A curve that turns once round, moved inward by d, is 2π·d shorter and has P·d − π·d² less area (Steiner).
    middle, within = outer.perimeter - math.pi * wall, outer.area - outer.perimeter * wall / 2 + math.pi * wall**2 / 4
    return middle * wall**3 / 3 + 4 * within**2 * wall / middle


def _round_about(loop: Loop, centre: Array) -> bool:
    """Return whether all edges of a loop are arcs of one circle about a centre."""
    radius = float(np.hypot(*(loop[0].begin - centre)))
    circles = [edge.circle() for edge in loop]
    return all(
        circle is not None
        and float(np.abs(circle[0] - centre).max()) <= SAME_SHARE * radius
        and abs(circle[1] - radius) <= SAME_SHARE * radius
        for circle in circles
    )


def _smooth_and_convex(loop: Loop) -> bool:
    chords = Together.of(loop).flattened(0.1)
    along, after = chords.tangents, np.roll(chords.tangents, -1, axis=0)
    inner = chords.edge == np.roll(chords.edge, -1)
    smooth = np.einsum("ij,ij->i", along, after)[~inner] >= 1 - 1e-6
    turns = (along[:, 0] * after[:, 1] - along[:, 1] * after[:, 0])[inner]
    return bool(smooth.all() and turns.min(initial=0.0) >= -SAME_SHARE)


def _largest_circle(shape: Shape) -> tuple[float, float, float]:
    """Return centre x, y and radius of the largest circle that lies within a shape.

    A circle that grows till it is held may be smaller than one elsewhere: what is further from the outline than its radius is what is left
    of the shape when that is taken off all round.
    """
    left, low, right, high = shape.box
    size = max(right - left, high - low)
    polygon = shape.polygon(CHORDS * size)
    centre = shapely.get_coordinates(shapely.maximum_inscribed_circle(polygon, _ROUGH * size))[0]
    best = _grown(shape, centre, size)
    for _ in range(_PLACES):
        left_over = polygon.buffer(-best[2] * (1 + _SAME_CIRCLE), quad_segs=_ROUND)
        elsewhere = [_grown(shape, shapely.get_coordinates(part.representative_point())[0], size) for part in _parts(left_over)]
        larger = max(elsewhere, key=itemgetter(2), default=best)
        if larger[2] <= best[2] * (1 + _SAME_CIRCLE / 2):
            break
        best = larger
    return best


def _parts(left_over: Any) -> list[Any]:
    """Return the largest parts of what is left of a shape."""
    found = [part for part in shapely.get_parts(left_over) if not part.is_empty]
    return sorted(found, key=lambda part: -part.area)[:_PLACES]


def _grown(shape: Shape, centre: Array, size: float) -> tuple[float, float, float]:
    """Return centre x, y and radius of the circle that grows within a shape of some size from about a centre, till it is held."""
    # What may become the nearest is looked at in finer chords.
    reach = 4 * _ROUGH * size
    begins, ends, edge, shares = shape.chords(CHORDS * size).straights
    radius, _ = _clear(centre, begins, ends)
    close = np.flatnonzero(radius < radius.min() + 6 * reach)
    parts = shares[close, :1] + (shares[close, 1:] - shares[close, :1]) * np.linspace(0, 1, _FINER + 1)
    points = shape.together.at(np.repeat(edge[close], _FINER + 1), parts.ravel()).reshape(-1, _FINER + 1, 2)
    begins, ends = points[:, :-1].reshape(-1, 2), points[:, 1:].reshape(-1, 2)
    radius, away = _clear(centre, begins, ends)
    # Nearer and nearer: a step that takes it away from what is nearest, as far as that goes.
    # A distance grows at least as its linear part, so that no step is too hopeful.
    while reach > _FINE * size / 10:
        # Of the parts of a chord, which look nearly the same way, the nearest speaks for all.
        near = np.argmin(radius.reshape(-1, _FINER), axis=1) + _FINER * np.arange(len(close))
        near = near[radius[near] < radius.min() + 3 * reach]
        units = away[near] / radius[near][:, None]
        step, gain = _furthest_step(units, (radius[near] - radius.min()) / reach)
        # What gains nothing now gains nothing in shorter steps either, for the same distances bound them.
        if gain * reach < _FINE * size / 100:
            break
        moved = centre + step * reach
        after = _clear(moved, begins, ends)
        reach /= 3
        if after[0].min() > radius.min():
            centre, (radius, away) = moved, after
            # What is left to go is little beside the last step: distances are nearly linear.
            reach = min(reach, 3 * reach * float(np.abs(step).max()))
    return float(centre[0]), float(centre[1]), float(radius.min())


def _furthest_step(units: Array, spare: Array) -> tuple[Array, float]:
    """Return the step s (2,), at most 1 each way, for which the least of spare + units·s is the greatest, and that.

    The steps and what they gain no more than are a body between planes: its highest corner.
    """
    sides = np.array([[1.0, 0, 0, -1], [-1, 0, 0, -1], [0, 1, 0, -1], [0, -1, 0, -1], [0, 0, -1, -2]])
    planes = np.concatenate([np.column_stack([-units, np.ones(len(units)), -spare]), sides])
    corners = HalfspaceIntersection(planes, np.array([0.0, 0.0, -1.0])).intersections
    best = corners[np.argmax(np.where(np.isfinite(corners[:, 2]), corners[:, 2], -np.inf))]
    return best[:2], float(best[2])


def _clear(point: Array, begins: Array, ends: Array) -> tuple[Array, Array]:
    """Return the distances from a point to straights, (n,), and the ways there from the nearest places on them, (n, 2)."""
    along = ends - begins
    shares = np.clip(np.einsum("ij,ij->i", point - begins, along) / np.einsum("ij,ij->i", along, along), 0, 1)
    away = point - (begins + shares[:, None] * along)
    return np.hypot(away[:, 0], away[:, 1]), away


def _smallest_rectangle(shape: Shape) -> tuple[float, float, float]:
    """Return the sides of the smallest rectangle round a shape, the longer first, and the angle of that in degrees."""

    # On an edge of its hull where that is straight (Freeman and Shapira, 1975), and else between two looks.
    corners = shapely.get_coordinates(shape.polygon(0.01).convex_hull)
    along = np.diff(corners, axis=0)
    angles = np.mod(np.arctan2(along[:, 1], along[:, 0]), math.pi / 2)
    angles = np.unique(np.concatenate([[0.0], angles]))
    # First by the hull's corners, which give every rectangle to a few hundredths; those that may be the smallest by the curves.
    c, s = np.cos(angles), np.sin(angles)
    widths, heights = np.ptp(corners @ np.array([c, s]), axis=0), np.ptp(corners @ np.array([-s, c]), axis=0)
    rough = widths * heights
    order = np.argsort(rough)[:_TRIED]
    tried = angles[order[rough[order] <= rough.min() + 0.04 * (widths + heights)[order]]]
    best = float(tried[np.argmin(_sides(shape, tried).prod(axis=0))])
    step = math.pi / _LOOKS
    # Only points that are as far out, or become so within a step, can touch its sides.
    chords = shape.chords(0.01)
    out = chords.points @ _ways(np.array([best])).T
    most = np.argmax(out, axis=0)
    aside = np.abs(out[:, [2, 2, 0, 0]] - out[most, [2, 2, 0, 0]])
    comes = (out[most, np.arange(4)] - out <= 1.1 * step * aside + 0.05).any(axis=1)
    touching = shape.together.part(np.unique(chords.edge[comes & (chords.edge < shape.starts[1])]))

    # Many at once, and closer about the least of them.
    angle, least = best, float(_sides(touching, np.array([best])).prod())
    middle = best
    while step > _TURNED:
        looks = middle + step * np.linspace(-1, 1, _AT_ONCE)
        areas = _sides(touching, looks).prod(axis=0)
        middle = float(looks[np.argmin(areas)])
        if areas.min() < least * (1 - SAME_SHARE):
            angle, least = middle, float(areas.min())
        step *= 2 / (_AT_ONCE - 1)
    first, second = _sides(shape, np.array([angle]))[:, 0].tolist()
    if second > first:
        first, second, angle = second, first, angle + math.pi / 2
    return first, second, _half_turn(math.degrees(angle))


def _ways(angles: Array) -> Array:
    """Return the directions of the sides of a rectangle at each angle, (4·a, 2): all first sides, all that face them, and so on."""
    c, s = np.cos(angles), np.sin(angles)
    return np.array([[c, s], [-c, -s], [-s, c], [s, -c]]).transpose(0, 2, 1).reshape(-1, 2)


def _sides(what: Shape | Together, angles: Array) -> Array:
    """Return both sides of the rectangle round something at each angle, (2, a)."""
    one, two, three, four = what.furthest(_ways(angles)).reshape(4, -1)
    return np.array([one + two, three + four])


#: Angles of rectangles that are looked at together, and how near to one another they are in the end, radians.
_AT_ONCE: Final = 33
_TURNED: Final = 1e-7
#: Angles of rectangles that are tried by the curves themselves; more are as good as one another, round a round section.
_TRIED: Final = 24


def _half_turn(degrees: float) -> float:
    """Return the angle of an axis, over −90 and up to 90 degrees."""
    return 90 - (90 - degrees) % 180 + 0.0
