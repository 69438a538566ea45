"""Runs that overlap: found by their boxes first, then exactly, solid by solid (manifold3d).

What only touches is no clash: a part that is thinner than ``CONTACT`` in some direction is left out, as faces that lie on one another
differ by rounding, and curves by their chords.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Final

import manifold3d
import numpy as np
import shapely

from slow_ribbon.core.geometry.bodies import body_of
from slow_ribbon.core.job.derived.typical_variants import VariantPlace
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.kernel.arrays import CHORD_HEIGHT, Array, Indices
from slow_ribbon.core.kernel.check import Check
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import CONTACT
from slow_ribbon.core.lines.typicals.carriage import HERE, Carriage
from slow_ribbon.core.solve.instances import standing_runs
from slow_ribbon.core.solve.results import Solved, SolvedRun

#: No more parts than this are compared of two runs.
_MOST: Final = 50


@dataclass(frozen=True)
class Clash:
    """Two runs in one another's place: their ids and where each stands, the middle of what both take up, how large that is, mm and mm³.

    The size is along the axes in which both were drawn where they stand in one place, else along those of the job.
    """

    first: str
    second: str
    places: tuple[str, str]
    middle: tuple[float, float, float]
    size: tuple[float, float, float]
    volume: float


@dataclass(frozen=True)
class _Standing:
    """A run where it stands: its solid as it is drawn, with the corners (8, 3) of the box around that."""

    run: SolvedRun
    place: VariantPlace
    vertices: Array
    faces: Indices
    corners: Array

    def body(self, carriage: Carriage, origin: Array) -> manifold3d.Manifold:
        faces = self.faces[:, ::-1] if carriage.over else self.faces
        return body_of(carriage.points(self.vertices) - origin, faces)


@kept_with
def clashes(solved: Solved) -> list[Clash]:
    """Return the places where two runs of a job are in one another's place, wherever they stand, largest first."""
    standing = list(_all_standing(solved))
    if len(standing) < 2:
        return []
    # Around the box of what is drawn: the least there is to be carried, and never too small.
    boxes = np.stack([one.place.carriage.points(one.corners) for one in standing])
    lows, highs = boxes.min(axis=1), boxes.max(axis=1)
    tree = shapely.STRtree(shapely.box(lows[:, 0], lows[:, 1], highs[:, 0], highs[:, 1]))
    pairs = np.asarray(tree.query(tree.geometries, predicate="intersects")).T
    pairs = pairs[pairs[:, 0] < pairs[:, 1]]
    shared = np.minimum(highs[pairs[:, 0]], highs[pairs[:, 1]]) - np.maximum(lows[pairs[:, 0]], lows[pairs[:, 1]])
    found: list[Clash] = []
    # What is shaped to a bend lies on it, and both are drawn in chords.
    shaped = {frozenset((run.id, met.run)) for run in solved.job.runs for met in run.near.met if met.bent}
    # Two runs that stand in the same place lie to one another as they are drawn: they are looked at once, however many places there are.
    as_drawn: dict[tuple[str, str], list[Clash]] = {}
    for a, b in pairs[(shared >= CONTACT).all(axis=1)].tolist():
        look_up()
        one, other = standing[a], standing[b]
        thin = 2 * CHORD_HEIGHT if frozenset((one.run.id, other.run.id)) in shaped else CONTACT
        if one.place.carriage is not other.place.carriage:
            found.extend(_between(one, other, one.place.carriage, other.place.carriage, lows[a], thin))
            continue
        keys = one.run.key, other.run.key
        if keys not in as_drawn:
            as_drawn[keys] = list(_between(one, other, HERE, HERE, one.corners[0], thin))
        found.extend(_carried(clash, one.place, other.place) for clash in as_drawn[keys])
    return sorted(found, key=lambda clash: -clash.volume)


def _all_standing(solved: Solved) -> Iterator[_Standing]:
    drawn: dict[str, tuple[Array, Indices, Array]] = {}
    for run, place in standing_runs(solved):
        if run.key not in drawn:
            look_up()
            solid = run.solid()
            vertices = solid.vertices + run.origin
            bounds = np.stack([vertices.min(axis=0), vertices.max(axis=0)]) if len(vertices) else np.zeros((2, 3))
            corners = np.array(np.meshgrid(*bounds.T, indexing="ij")).reshape(3, -1).T
            drawn[run.key] = vertices, solid.faces, corners
        if len(drawn[run.key][0]):
            yield _Standing(run, place, *drawn[run.key])


def _carried(clash: Clash, place: VariantPlace, other: VariantPlace) -> Clash:
    x, y, z = place.carriage.points(np.array(clash.middle)).tolist()
    return replace(clash, places=(place.name, other.name), middle=(x, y, z))


def _between(one: _Standing, other: _Standing, carriage: Carriage, other_carriage: Carriage, origin: Array, thin: float) -> Iterator[Clash]:
    bodies = [one.body(carriage, origin), other.body(other_carriage, origin)]
    if any(body.status() != manifold3d.Error.NoError or body.volume() <= 0 for body in bodies):
        # What is swallowed or pinched has no solid to be cut; it is a fault of its own.
        return
    common = bodies[0] ^ bodies[1]
    for part in common.decompose()[:_MOST]:
        x0, y0, z0, x1, y1, z1 = part.bounding_box()
        size = (x1 - x0, y1 - y0, z1 - z0)
        area = part.surface_area()
        # Twice the volume over the surface is about the thickness of what is thin.
        if part.volume() <= 0 or 2 * part.volume() / area < thin:
            continue
        x, y, z = (origin + np.array([x0 + x1, y0 + y1, z0 + z1]) / 2).tolist()
        yield Clash(one.run.id, other.run.id, (one.place.name, other.place.name), (x, y, z), size, part.volume())


def clash_checks(job: Job, found: list[Clash]) -> list[Check]:
    """Return clashes as checks of the first of the two runs."""
    return [_check(job, clash) for clash in found]


def _check(job: Job, clash: Clash) -> Check:
    names = [
        job.run(id).name + (f" in {place}" if place else "") for id, place in zip((clash.first, clash.second), clash.places, strict=True)
    ]
    size = " × ".join(figure(part) for part in clash.size)
    return Check(
        kind="clash", severity="warning", what=f"{names[0]} and {names[1]} overlap here, over {size}.",
        remedy="End or break one of them there, or change its stand-off or lift; accept the check if one is cut round the other on site.",
        thing=clash.first, piece=None, chainage=0.0, point=clash.middle,
    )  # fmt: skip
