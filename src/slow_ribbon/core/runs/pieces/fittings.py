"""Fittings where pieces end: blocks and upright pieces in corners, posts at ends; as boxes where they are upright."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Final

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.solids import Surface
from slow_ribbon.core.runs.treatments.corners import Block, Transition, Treatment
from slow_ribbon.core.runs.treatments.ends import Finish, Posted

#: A piece that goes up more steeply than this, as the part of a millimetre it goes on plan, ends on no upright face.
_LEVEL: Final = 0.1
#: The corners of a box and its faces, anticlockwise from outside.
_CORNERS: Final = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (0, 1)], dtype=float)
_FACES: Final = np.array([[0, 1, 3, 2], [4, 6, 7, 5], [0, 4, 5, 1], [2, 3, 7, 6], [0, 2, 6, 4], [1, 5, 7, 3]])


@dataclass(frozen=True)
class UprightBlock:
    """A box that stands upright: the middle of its ``foot`` (3,), how wide it is both ways and how high, mm; it faces ``along`` (2,)."""

    foot: Array
    size: float
    high: float
    along: Array

    def corners(self) -> Array:
        """Return its corners, (8, 3)."""
        half = self.size / 2 * _CORNERS[:, :2] @ np.array([self.along, [-self.along[1], self.along[0]]])
        return np.asarray(self.foot + np.column_stack([half, self.high * _CORNERS[:, 2]]))


def in_corner(cuts: Cuts, index: int, way: Treatment | Finish) -> UprightBlock | None:
    """Return the block in the corner where a piece begins; None where there is no upright block."""
    if not isinstance(way, Block | Transition) or not cuts.butted_begin[index]:
        return None
    before = (index - 1) % cuts.course.count
    return _upright(cuts, [(before, True), (index, False)], cuts.plain.starts[index], way.size, way.proud)


def at_end(cuts: Cuts, index: int, end: bool, way: Finish) -> UprightBlock | None:
    """Return the post that a piece ends in, as high as it is there; None where it ends in none, or not upright."""
    if not isinstance(way, Posted) or not way.counted:
        return None
    return _upright(cuts, [(index, end)], cuts.plain.ends[index] if end else cuts.plain.starts[index], way.size, 0.0)


def _upright(cuts: Cuts, ends: Sequence[tuple[int, bool]], place: Array, size: float, proud: float) -> UprightBlock | None:
    course = cuts.plain
    tangents = [course.tangents_end[piece] if end else course.tangents[piece] for piece, end in ends]
    if min(float(np.hypot(*tangent[:2])) for tangent in tangents) < _LEVEL:
        return None
    # All that ends on its faces: from the lowest point to the highest.
    levels = [cuts.on(piece).shape.extremes(partial(_heights, cuts, piece, end)) for piece, end in ends]
    low, high = min(least for least, _ in levels) - proud, max(most for _, most in levels) + proud
    along = tangents[0][:2] / float(np.hypot(*tangents[0][:2]))
    return UprightBlock(np.array([place[0], place[1], low]), size, high - low, along)


def _heights(cuts: Cuts, index: int, end: bool, points: Array) -> Array:
    """Return how high section points (k, 2) lie where a piece is cut at its beginning or its end, (k,) mm."""
    return cuts.images(index, cuts.on(index).points(points), end)[:, 2]


def fitting_at(cuts: Cuts, index: int, way: Treatment | Finish) -> str:
    """Return the name of what stands in the corner where a piece begins, with its size; None where nothing does."""
    if not isinstance(way, Treatment):
        return ""
    upright = in_corner(cuts, index, way)
    if upright is None:
        return way.fitting
    # Those that differ by less than can be sawn are counted together.
    return f"{way.fitting}, {figure(upright.size)} × {figure(upright.size)} × {figure(round(upright.high, 1))}"


def with_uprights(surface: Surface, uprights: Sequence[UprightBlock], origin: Array) -> Surface:
    """Return a run's skin with what stands where its pieces end, after all pieces; ``origin`` (3,) is zero there."""
    if not uprights:
        return surface
    vertices, normals, faces = [surface.vertices], [surface.normals], [surface.faces]
    count = len(surface.vertices)
    for one in uprights:
        quads = (one.corners() - origin)[_FACES]
        across = np.cross(quads[:, 1] - quads[:, 0], quads[:, 2] - quads[:, 0])
        vertices.append(quads.reshape(-1, 3))
        normals.append(np.repeat(across / np.linalg.norm(across, axis=1)[:, None], 4, axis=0))
        faces.append(count + (4 * np.arange(6)[:, None, None] + np.array([[0, 1, 2], [0, 2, 3]])[None]).reshape(-1, 3))
        count += 24
    return replace(surface, vertices=np.concatenate(vertices), normals=np.concatenate(normals), faces=np.concatenate(faces))
