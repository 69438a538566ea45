"""Solids of runs and pieces: watertight, outward normals, corners mitred.

Vertices are mm in float64, relative to a given origin so that a site far from zero loses
nothing when a picture is made in float32.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.kernel.arrays import CHORD_HEIGHT, Array, Flags, Indices, Result
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import TINIEST
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.drawn_pieces import carried, drawn_shares
from slow_ribbon.core.sections.outline.triangulation import FlatShape


@dataclass(frozen=True)
class Solid(Result):
    """A triangulated solid: ``vertices`` (n, 3) in mm and ``faces`` (f, 3), anticlockwise from outside."""

    vertices: Array
    faces: Indices


@dataclass(frozen=True)
class Surface(Result):
    """A solid's skin for drawing, with a normal at each vertex, smooth along curves and crisp at arrises.

    ``pieces`` (p + 1,) are offsets into ``faces``: those of piece i are ``pieces[i]:pieces[i + 1]``.
    """

    vertices: Array
    normals: Array
    faces: Indices
    pieces: Indices


def _rings(places: Array, rights: Array, ups: Array, tangents: Array, slopes: Array, points: Array) -> Array:
    """Return the outline as cut, (m, n, 3): at each of m places, section points (n, 2) pushed along by the cut's slope.

    The point (x, y) lies at place + x·(r + t·slopeₓ) + y·(n + t·slope_y), which is one matrix a cut.
    """
    leaning = np.stack([rights + tangents * slopes[:, :1], ups + tangents * slopes[:, 1:]], axis=1)
    found = np.matmul(points, leaning)
    found += places[:, None, :]
    return np.asarray(found)


def _end_rings(cuts: Cuts, points: Array, origin: Array) -> Array:
    course = cuts.course
    places = course.ends + course.tangents_end * cuts.offsets_end[:, None]
    rings = _rings(places - origin, course.rights_end, course.ups_end, course.tangents_end, cuts.slopes_end, points)
    for index in [index for index, end in cuts.shaped if end]:
        rings[index] = cuts.images(index, points, end=True) - origin
    return rings


def _begin_rings(cuts: Cuts, points: Array, origin: Array, which: Indices) -> Array:
    course = cuts.course
    frames = (course.rights[which], course.ups[which], course.tangents[which])
    places = course.starts[which] + course.tangents[which] * cuts.offsets_begin[which, None]
    rings = _rings(places - origin, *frames, cuts.slopes_begin[which], points)
    for place, index in enumerate(which.tolist()):
        if (index, False) in cuts.shaped:
            rings[place] = cuts.images(index, points, end=False) - origin
    return rings


def _path_rings(cuts: Cuts, index: int, points: Array, origin: Array, chord_height: float) -> tuple[Array, Array, Array]:
    """Return the outline along a piece that bends, (r, n, 3), from cut to cut, with the rights and ups at each of its points."""
    found = carried(cuts, index, points, drawn_shares(cuts, index, points, chord_height))
    return found.points - origin, found.rights, found.ups


def run_solid(cuts: Cuts, origin: Array | None = None, chord_height: float = CHORD_HEIGHT) -> Solid:
    """Return the whole run as one solid; where sections do not meet, the pieces end in faces of their own.

    Pieces that meet share one ring of vertices to the last bit, so that the solid is watertight.
    """
    flat = cuts.flat(chord_height)
    points, at = cuts.placed.points(flat.points), _origin(cuts, origin)
    size = len(points)
    opens = cuts.open_begin()
    paths = {i: _path_rings(cuts, i, points, at, chord_height)[0] for i in cuts.course.paths}
    # Ring numbers: a piece that joins the one before uses that one's end ring.
    own = opens.astype(np.int64) + 1
    for i, rings in paths.items():
        own[i] += len(rings) - 2
    low = np.concatenate([[0], np.cumsum(own)])
    ends = low[1:] - 1
    begins = np.where(opens, low[:-1], np.roll(ends, 1))
    vertices = np.empty((int(low[-1]), size, 3))
    vertices[ends] = _end_rings(cuts, points, at)
    vertices[begins[opens]] = _begin_rings(cuts, points, at, np.flatnonzero(opens))
    firsts, seconds, others = [begins], [ends], [np.zeros(len(begins), dtype=bool)]
    for i, rings in paths.items():
        vertices[ends[i]] = rings[-1]
        if opens[i]:
            vertices[begins[i]] = rings[0]
        if len(rings) > 2:
            inside = ends[i] - np.arange(len(rings) - 2, 0, -1)
            vertices[inside] = rings[1:-1]
            # The piece's one pair of rings becomes a chain of them.
            firsts.append(inside)
            # The first of its sides stands in the place of the piece's only one.
            others.append(_every_other(cuts.course.paths[i], len(rings))[1:])
            seconds.append(np.append(inside[1:], ends[i]))
            seconds[0] = seconds[0].copy()
            seconds[0][i] = inside[0]
    chain = np.concatenate(firsts) * size, np.concatenate(seconds) * size
    faces = [_sides(flat, *chain, cuts.placed.mirrored, np.concatenate(others))]
    closing = np.roll(opens, -1)
    caps = flat.triangles[:, ::-1] if cuts.placed.mirrored else flat.triangles
    faces.append((begins[opens][:, None, None] * size + caps[None]).reshape(-1, 3))
    faces.append((ends[closing][:, None, None] * size + caps[None, :, ::-1]).reshape(-1, 3))
    return Solid(vertices.reshape(-1, 3), np.concatenate(faces))


def piece_solid(cuts: Cuts, index: int, origin: Array | None = None, chord_height: float = CHORD_HEIGHT) -> Solid:
    """Return one piece of a run as a solid of its own."""
    flat = cuts.flat(chord_height)
    other: Flags | None = None
    if index in cuts.course.paths:
        rings = _path_rings(cuts, index, cuts.placed.points(flat.points), _origin(cuts, origin), chord_height)[0]
        other = _every_other(cuts.course.paths[index], len(rings))
    else:
        rings = _both_rings(cuts, flat, _origin(cuts, origin))[index]
    size = rings.shape[1]
    steps = np.arange(len(rings) - 1) * size
    caps = flat.triangles[:, ::-1] if cuts.placed.mirrored else flat.triangles
    faces = [_sides(flat, steps, steps + size, cuts.placed.mirrored, other), caps, (len(rings) - 1) * size + caps[:, ::-1]]
    return Solid(rings.reshape(-1, 3), np.concatenate(faces))


def _both_rings(cuts: Cuts, flat: FlatShape, origin: Array) -> Array:
    """Return the outline at both cuts of every piece, (m, 2, n, 3); where two pieces meet, the same to the last bit."""
    points = cuts.placed.points(flat.points)
    ends = _end_rings(cuts, points, origin)
    begins = np.roll(ends, 1, axis=0)
    opens = np.flatnonzero(cuts.open_begin())
    begins[opens] = _begin_rings(cuts, points, origin, opens)
    return np.stack([begins, ends], axis=1)


def run_surface(cuts: Cuts, origin: Array | None = None, chord_height: float = CHORD_HEIGHT) -> Surface:
    """Return a run's skin for drawing: every piece apart, so that mitres are crisp."""
    flat = cuts.flat(chord_height)
    # Positions and normals at both ends of every piece, and two triangles between.
    look_up(18 * cuts.course.count * len(flat.skin_points))
    both = _both_rings(cuts, flat, _origin(cuts, origin))
    course, placed = cuts.course, cuts.placed
    count = course.count
    skin = len(flat.skin_points)
    normals2 = flat.skin_normals @ placed.matrix.T
    outward = _outward(cuts, normals2)
    normals = course.rights[:, None, :] * outward[:, :, :1] + course.ups[:, None, :] * outward[:, :, 1:]
    vertices = [both[:, :, flat.skin_points].reshape(-1, 3)]
    all_normals = [np.repeat(normals[:, None], 2, axis=1).reshape(-1, 3)]
    first, second = flat.segments[:, 0], flat.segments[:, 1]
    bases = (np.arange(count) * 2 * skin)[:, None]
    sides = _quads(bases + first, bases + second, bases + skin + first, bases + skin + second, placed.mirrored)
    parts = [[block] for block in sides]
    at = count * 2 * skin
    points = placed.points(flat.points)
    for i in course.paths:
        look_up()
        rings, rights, ups = _path_rings(cuts, i, points, _origin(cuts, origin), chord_height)
        steps = (at + np.arange(len(rings) - 1) * skin)[:, None]
        around = (rings[:, flat.skin_points], rights[:, flat.skin_points], ups[:, flat.skin_points])
        vertices.append(around[0].reshape(-1, 3))
        out = outward[i if len(outward) > 1 else 0]
        all_normals.append((around[1] * out[None, :, :1] + around[2] * out[None, :, 1:]).reshape(-1, 3))
        other = _every_other(course.paths[i], len(rings))
        bent = _quads(steps + first, steps + second, steps + skin + first, steps + skin + second, placed.mirrored, other)
        parts[i] = [bent.reshape(-1, 3)]
        at += len(rings) * skin
        both[i, 0], both[i, 1] = rings[0], rings[-1]
    # A plane end needs no points but the section's own, however fine it is drawn for the ends that are shaped.
    own = placed.shape.flat(chord_height)
    ends = both if own is flat else _both_rings(cuts, own, _origin(cuts, origin))
    opens = cuts.open_begin()
    for index in range(count):
        look_up()
        for which, shows in ((0, opens[index]), (1, opens[(index + 1) % count])):
            if shows:
                whole = (index, bool(which)) in cuts.shaped or index in course.paths
                fill = (flat if whole else own).triangles
                # Mirrored, and at an end, a section is seen the other way round.
                looking = fill if placed.mirrored == bool(which) else fill[:, ::-1]
                points3, normals3, cap = _cap(cuts, index, bool(which), (both if whole else ends)[index, which], looking)
                vertices.append(points3)
                all_normals.append(normals3)
                parts[index].append(at + cap)
                at += len(points3)
    offsets = np.concatenate([[0], np.cumsum([sum(len(block) for block in part) for part in parts])])
    faces = np.concatenate([block for part in parts for block in part])
    return Surface(np.concatenate(vertices), np.concatenate(all_normals), faces, offsets)


def _cap(cuts: Cuts, index: int, end: bool, ring: Array, triangles: Indices) -> tuple[Array, Array, Indices]:
    """Return the face in which a piece ends: points and normals (n, 3), and triangles of these."""
    if (index, end) in cuts.shaped:
        # Its facets do not lie in one plane: each has corners and a normal of its own.
        facets = ring[triangles]
        normals = np.cross(facets[:, 1] - facets[:, 0], facets[:, 2] - facets[:, 0])
        normals /= np.maximum(np.linalg.norm(normals, axis=1), TINIEST)[:, None]
        return facets.reshape(-1, 3), np.repeat(normals, 3, axis=0), np.arange(3 * len(facets)).reshape(-1, 3)
    plane = cuts.planes_end[index] if end else -cuts.planes_begin[index]
    return ring, np.broadcast_to(plane, ring.shape), triangles


def _outward(cuts: Cuts, normals: Array) -> Array:
    """Return the normals of the outline of each piece, (m, n, 2) in its frame, or (1, n, 2) for all; ``normals`` (n, 2) as drawn.

    Where an outline is the image of the drawn one by A, what is square to it is the image by the inverse of A transposed, and that,
    in a frame that leans by A, is given by the inverse of AᵀA.
    """
    if cuts.leans is None:
        return normals[None]
    squares = np.linalg.inv(np.swapaxes(cuts.leans, 1, 2) @ cuts.leans)
    found = np.einsum("ijk,nk->inj", squares, normals)
    return np.asarray(found / np.linalg.norm(np.einsum("ijk,ink->inj", cuts.leans, found), axis=2)[:, :, None])


def _origin(cuts: Cuts, origin: Array | None) -> Array:
    return np.zeros(3) if origin is None else origin


def _every_other(path: Path, rings: int) -> Flags:
    """Return which sides between rings of a piece that bends are parted the other way, (rings − 1,): where it twists every other one.

    A side that twists is no plane: parted from one corner to the other it bulges, and parted the other way it is as hollow.
    """
    return np.asarray((np.arange(rings - 1) % 2 == 1) & path.twists)


def _quads(a: Indices, b: Indices, c: Indices, d: Indices, mirrored: bool, other: Flags | None = None) -> Indices:
    """Return two triangles for each side a→b at the beginning and c→d at the end, shape (m, 2s, 3).

    ``other`` (m,): which of them are parted from b to c, and not from a to d.
    """
    if other is not None and other.any():
        found = _quads(a, b, c, d, mirrored)
        # Seen from the other end the two corners change about, and so does the sense.
        found[other] = _quads(c[other], d[other], a[other], b[other], not mirrored)
        return found
    count, sides = a.shape
    quads = np.empty((count, 2 * sides, 3), dtype=np.int64)
    # Seen along travel the outline runs anticlockwise; seen from outside, a → d → b turns so too.
    second, third = (1, 2) if not mirrored else (2, 1)
    quads[:, :sides, 0] = quads[:, sides:, 0] = a
    quads[:, :sides, second] = quads[:, sides:, third] = d
    quads[:, :sides, third] = b
    quads[:, sides:, second] = c
    return quads


def _sides(flat: FlatShape, begins: Indices, ends: Indices, mirrored: bool, other: Flags | None = None) -> Indices:
    first = np.arange(flat.rim)
    second = first + 1
    low = 0
    for size in flat.loop_sizes:
        second[low + size - 1] = low
        low += size
    b, e = begins[:, None], ends[:, None]
    return np.asarray(_quads(b + first, b + second, e + first, e + second, mirrored, other).reshape(-1, 3))
