"""Runs that are in one another's place: boxes first, then exactly, solid by solid (manifold3d).

What only touches is no clash: a part that is thinner than ``THIN`` in some direction is left out, as faces that lie on one another
differ by rounding, and curves by their chords.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

import manifold3d
import numpy as np
import shapely

from slow_ribbon.core.job.document import Job
from slow_ribbon.core.job.variants import Standing
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.check import Check
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.memo import kept_with
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.runs.solids import Solid
from slow_ribbon.core.solve.solved import Solved, SolvedRun
from slow_ribbon.core.solve.standing import standing_runs

#: Thinner than this, mm, two solids only touch.
THIN: Final = 0.05
#: No more parts than this are told of two runs.
_MOST: Final = 50


@dataclass(frozen=True)
class Clash:
    """Two runs in one another's place: their ids and where each stands, the middle of what both take up, how large that is, mm and mm³."""

    first: str
    second: str
    places: tuple[str, str]
    middle: tuple[float, float, float]
    size: tuple[float, float, float]
    volume: float


@dataclass(frozen=True)
class _Standing:
    run: SolvedRun
    place: str
    vertices: Array
    solid: Solid
    over: bool

    def body(self, origin: Array) -> manifold3d.Manifold:
        faces = self.solid.faces[:, ::-1] if self.over else self.solid.faces
        mesh = manifold3d.Mesh64(vert_properties=self.vertices - origin, tri_verts=np.ascontiguousarray(faces.astype(np.uint64)))
        return manifold3d.Manifold(mesh)


@kept_with
def clashes(solved: Solved) -> list[Clash]:
    """Return the places where two runs of a job are in one another's place, wherever they stand, largest first."""
    standing = [_standing(run, place) for run, place in standing_runs(solved)]
    standing = [one for one in standing if len(one.vertices)]
    if len(standing) < 2:
        return []
    lows = np.array([one.vertices.min(axis=0) for one in standing])
    highs = np.array([one.vertices.max(axis=0) for one in standing])
    tree = shapely.STRtree(shapely.box(lows[:, 0], lows[:, 1], highs[:, 0], highs[:, 1]))
    pairs = np.asarray(tree.query(tree.geometries, predicate="intersects")).T
    found: list[Clash] = []
    for a, b in pairs.tolist():
        if a >= b or lows[a, 2] > highs[b, 2] - THIN or lows[b, 2] > highs[a, 2] - THIN:
            continue
        look_up()
        low, high = np.maximum(lows[a], lows[b]), np.minimum(highs[a], highs[b])
        if (high - low < THIN).any():
            continue
        found.extend(_between(standing[a], standing[b], low))
    return sorted(found, key=lambda clash: -clash.volume)


def _standing(run: SolvedRun, place: Standing) -> _Standing:
    solid = run.solid()
    return _Standing(run, place.name, place.carriage.points(solid.vertices + run.origin), solid, place.carriage.over)


def _between(one: _Standing, other: _Standing, origin: Array) -> Iterator[Clash]:
    bodies = [each.body(origin) for each in (one, other)]
    if any(body.status() != manifold3d.Error.NoError or body.volume() <= 0 for body in bodies):
        # What is swallowed or pinched has no solid to be cut; it is a fault of its own.
        return
    common = bodies[0] ^ bodies[1]
    for part in common.decompose()[:_MOST]:
        x0, y0, z0, x1, y1, z1 = part.bounding_box()
        size = (x1 - x0, y1 - y0, z1 - z0)
        area = part.surface_area()
        # Twice the volume over the surface is about the thickness of what is thin.
        if part.volume() <= 0 or 2 * part.volume() / area < THIN:
            continue
        x, y, z = (origin + np.array([x0 + x1, y0 + y1, z0 + z1]) / 2).tolist()
        yield Clash(one.run.id, other.run.id, (one.place, other.place), (x, y, z), size, part.volume())


def clash_checks(job: Job, found: list[Clash]) -> list[Check]:
    """Return clashes as checks of the first of the two runs."""
    return [_check(job, clash) for clash in found]


def _check(job: Job, clash: Clash) -> Check:
    names = [
        job.run(id).name + (f" in {place}" if place else "") for id, place in zip((clash.first, clash.second), clash.places, strict=True)
    ]
    size = " × ".join(figure(part) for part in clash.size)
    return Check(
        kind="clash", severity="warning", what=f"{names[0]} and {names[1]} are in one another's place here, over {size}.",
        remedy="Let one stop or break there, stand off or lie higher; or say that the one is cut round the other on site.",
        thing=clash.first, piece=None, chainage=0.0, point=clash.middle,
    )  # fmt: skip
