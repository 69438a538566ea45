"""The turns and reflections that lay a section on itself.

Terms
-----
turn, reflection
    an isometry of the plane about the section's centroid that maps the section onto itself; a
    turn keeps its sense, a reflection reverses it.
round
    a section that every turn and every reflection lays on itself: a rod, a tube.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

import numpy as np
import shapely

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.sections.document.section import SectionBody, section_shape
from slow_ribbon.core.sections.edges.base import Loop
from slow_ribbon.core.sections.outline.edge_arrays import Together

#: How finely curves are flattened to see whether a section laid on itself is the same, mm.
_FINE: Final = 1e-4


@dataclass(frozen=True)
class Symmetry:
    """The symmetries of a section: matrices (2, 2) of its ``turns``, the first by nothing, and ``reflections``; ``round`` for all."""

    turns: tuple[Array, ...]
    reflections: tuple[Array, ...]
    round: bool = False


@kept_with
def symmetry_of(section: SectionBody) -> Symmetry:
    """Return the symmetries of a section about its centroid."""
    shape = section_shape(section)
    centre = shape.centroid
    if all(_is_circle(loop, centre) for loop in shape.loops):
        return Symmetry((np.eye(2),), (np.diag([1.0, -1.0]),), round=True)
    features = np.array([feature for loop in shape.loops for feature in _features(loop)]) - centre
    radii = np.hypot(features[:, 0], features[:, 1])
    furthest = float(radii.max())
    outer = features[radii > furthest - WELD]
    angles = np.arctan2(outer[:, 1], outer[:, 0])
    boundary = shapely.MultiLineString([_closed(loop) - centre for loop in shape.loops])
    shapely.prepare(boundary)
    samples = shape.together.flattened(0.05).points - centre
    middles = [(edge.begin + edge.end) / 2 - centre for loop in shape.loops for edge in loop if edge.straight]
    samples = np.concatenate([samples, np.array(middles).reshape(-1, 2)])

    # Most wrong guesses are seen in a few of them.
    few = samples[:: max(1, len(samples) // 16)]

    def holds(matrix: Array) -> bool:
        look_up()
        return all(bool(shapely.dwithin(boundary, shapely.points(some @ matrix.T), WELD).all()) for some in (few, samples))

    # The turns are the multiples of the least one, and the reflections one of them after every turn (a cyclic or dihedral group).
    found = np.unique(np.round(angles, 9))
    count = 1
    for by in np.sort((found - found[0]) % (2 * math.pi)).tolist():
        times = round(2 * math.pi / by) if by * furthest > 10 * WELD else 0
        if 1 < times <= len(found) and abs(by * times - 2 * math.pi) * furthest < times * WELD and holds(_turn(2 * math.pi / times)):
            count = times
            break
    turns = [_turn(2 * math.pi * number / count) for number in range(count)]
    for angle in found.tolist():
        # The reflection that takes the first feature to this one is that in the line half way between.
        mirror = _turn(angle + float(found[0])) @ np.diag([1.0, -1.0])
        if holds(mirror):
            return Symmetry(tuple(turns), tuple(turn @ mirror for turn in turns))
    return Symmetry(tuple(turns), ())


def _turn(angle: float) -> Array:
    return np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])


def _closed(loop: Loop) -> Array:
    points = Together.of(loop).flattened(_FINE).ring
    return np.vstack([points, points[:1]])


def _is_circle(loop: Loop, centre: Array) -> bool:
    radii = []
    for edge in loop:
        circle = edge.circle()
        if circle is None or np.abs(circle[0] - centre).max() > WELD / 10:
            return False
        radii.append(circle[1])
    return max(radii) - min(radii) < WELD / 10


def _features(loop: Loop) -> list[Array]:
    """Return points of a loop that any symmetry takes to such points: its true corners, and those of its edges."""
    return [
        point
        for index, edge in enumerate(loop)
        for point in (*(() if edge.continues(loop[index - 1]) else (edge.begin,)), *edge.features())
    ]
