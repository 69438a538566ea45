"""Solids of runs and pieces: watertight, outward normals, corners mitred.

Vertices are mm in float64, relative to a given origin so that a site far from nought loses
nothing when a picture is made in float32.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from slow_ribbon.core.mitre import Cuts
from slow_ribbon.core.shape import CHORD_HEIGHT, Array, Flat, Indices


@dataclass(frozen=True)
class Solid:
    """A triangulated solid: ``vertices`` (n, 3) in mm and ``faces`` (f, 3), anticlockwise from outside."""

    vertices: Array
    faces: Indices


@dataclass(frozen=True)
class Surface:
    """A solid's skin for drawing, with a normal at each vertex, smooth along curves and crisp at arrises.

    ``pieces`` (p + 1,) are offsets into ``faces``: those of piece i are ``pieces[i]:pieces[i + 1]``.
    """

    vertices: Array
    normals: Array
    faces: Indices
    pieces: Indices


def rings(cuts: Cuts, flat: Flat, origin: Array) -> Array:
    """Return the outline at both cuts of every piece, (m, 2, n, 3), relative to ``origin``.

    Where two pieces meet they share one ring to the last bit, so that the solid is watertight.
    """
    course = cuts.course
    points = cuts.placed.points(flat.points)
    begin, end = cuts.fibres(points)
    across = course.rights[:, None, :] * points[None, :, :1] + course.ups[:, None, :] * points[None, :, 1:]
    base = (course.starts - origin)[:, None, :] + across
    tangents = course.tangents[:, None, :]
    both = np.stack([base + tangents * begin[:, :, None], base + tangents * end[:, :, None]], axis=1)
    shared = ~cuts.open_begin()
    both[shared, 0] = np.roll(both[:, 1], 1, axis=0)[shared]
    return both


def run_solid(cuts: Cuts, origin: Array | None = None, chord_height: float = CHORD_HEIGHT) -> Solid:
    """Return the whole run as one solid; where sections do not meet, the pieces end in faces of their own."""
    flat = cuts.placed.shape.flat(chord_height)
    both = rings(cuts, flat, _origin(cuts, origin))
    size = both.shape[2]
    opens = cuts.open_begin()
    # Ring numbers: a piece that joins the one before uses that one's end ring.
    own = np.concatenate([[0], np.cumsum(1 + opens.astype(np.int64))])
    ends = own[1:] - 1
    begins = np.where(opens, own[:-1], np.roll(ends, 1))
    vertices = np.empty((int(own[-1]), size, 3))
    vertices[ends] = both[:, 1]
    vertices[begins[opens]] = both[opens, 0]
    faces = [_sides(flat, begins * size, ends * size, cuts.placed.mirrored)]
    closing = np.roll(opens, -1)
    caps = flat.triangles[:, ::-1] if cuts.placed.mirrored else flat.triangles
    faces.append((begins[opens][:, None, None] * size + caps[None]).reshape(-1, 3))
    faces.append((ends[closing][:, None, None] * size + caps[None, :, ::-1]).reshape(-1, 3))
    return Solid(vertices.reshape(-1, 3), np.concatenate(faces))


def piece_solid(cuts: Cuts, index: int, origin: Array | None = None, chord_height: float = CHORD_HEIGHT) -> Solid:
    """Return one piece of a run as a solid of its own."""
    flat = cuts.placed.shape.flat(chord_height)
    both = rings(cuts, flat, _origin(cuts, origin))[index]
    size = both.shape[1]
    zero = np.array([0])
    caps = flat.triangles[:, ::-1] if cuts.placed.mirrored else flat.triangles
    faces = [_sides(flat, zero, zero + size, cuts.placed.mirrored), caps, size + caps[:, ::-1]]
    return Solid(both.reshape(-1, 3), np.concatenate(faces))


def run_surface(cuts: Cuts, origin: Array | None = None, chord_height: float = CHORD_HEIGHT) -> Surface:
    """Return a run's skin for drawing: every piece apart, so that mitres are crisp."""
    flat = cuts.placed.shape.flat(chord_height)
    both = rings(cuts, flat, _origin(cuts, origin))
    course, placed = cuts.course, cuts.placed
    count, _, size, _ = both.shape
    skin = len(flat.skin_points)
    normals2 = flat.skin_normals @ placed.matrix.T
    normals = course.rights[:, None, :] * normals2[None, :, :1] + course.ups[:, None, :] * normals2[None, :, 1:]
    vertices = [both[:, :, flat.skin_points].reshape(-1, 3)]
    all_normals = [np.repeat(normals[:, None], 2, axis=1).reshape(-1, 3)]
    first, second = flat.segments[:, 0], flat.segments[:, 1]
    bases = (np.arange(count) * 2 * skin)[:, None]
    sides = _quads(bases + first, bases + second, bases + skin + first, bases + skin + second, placed.mirrored)
    parts = [[block] for block in sides]
    opens = cuts.open_begin()
    caps = flat.triangles[:, ::-1] if placed.mirrored else flat.triangles
    at = count * 2 * skin
    for index in range(count):
        for which, shows in ((0, opens[index]), (1, opens[(index + 1) % count])):
            if shows:
                plane = cuts.planes_end[index] if which else -cuts.planes_begin[index]
                vertices.append(both[index, which])
                all_normals.append(np.broadcast_to(plane, (size, 3)))
                parts[index].append(at + (caps[:, ::-1] if which else caps))
                at += size
    offsets = np.concatenate([[0], np.cumsum([sum(len(block) for block in part) for part in parts])])
    faces = np.concatenate([block for part in parts for block in part])
    return Surface(np.concatenate(vertices), np.concatenate(all_normals), faces, offsets)


def _origin(cuts: Cuts, origin: Array | None) -> Array:
    return np.zeros(3) if origin is None else origin


def _quads(a: Indices, b: Indices, c: Indices, d: Indices, mirrored: bool) -> Indices:
    """Return two triangles for each side a→b at the beginning and c→d at the end, shape (m, 2s, 3)."""
    # Seen along travel the outline runs anticlockwise; seen from outside, a → c → d → b then runs clockwise.
    one, two = np.stack([a, b, d], axis=-1), np.stack([a, d, c], axis=-1)
    quads = np.concatenate([one, two], axis=1)
    return np.asarray(quads[..., ::-1] if not mirrored else quads)


def _sides(flat: Flat, begins: Indices, ends: Indices, mirrored: bool) -> Indices:
    first = np.arange(len(flat.points))
    second = first + 1
    low = 0
    for size in flat.loop_sizes:
        second[low + size - 1] = low
        low += size
    b, e = begins[:, None], ends[:, None]
    return np.asarray(_quads(b + first, b + second, e + first, e + second, mirrored).reshape(-1, 3))
