"""Frames: which way is right and up at a place on a line (docs/geometry.md, section 2)."""

from __future__ import annotations

import math
from typing import Final, Literal

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import NO_LEAN, ROUNDING

#: A leg nearer to vertical than this, in radians, makes a line choose carried frames.
UPRIGHT_LIMIT: Final = math.radians(1.0)

Rule = Literal["upright", "carried"]


def angle_between(first: Array, second: Array) -> Array:
    """Return the angles in radians between unit vectors (n, 3), exact near 0 and π too.

    2·atan2(|a − b|, |a + b|), after W. Kahan, "How futile are mindless assessments of roundoff" (2006).
    """
    apart, together = first - second, first + second
    return np.asarray(2 * np.arctan2(np.sqrt(np.einsum("ij,ij->i", apart, apart)), np.sqrt(np.einsum("ij,ij->i", together, together))))


def angle(first: Array, second: Array) -> float:
    return 2 * math.atan2(math.dist(first, second), math.dist(first, -second))


_NEXT, _NEXT_BUT_ONE = np.array([1, 2, 0]), np.array([2, 0, 1])


def crossed(first: Array, second: Array) -> Array:
    """Return first × second of vectors (..., 3): as ``numpy.cross`` to the last bit, in a quarter of its time where they are few."""
    return np.asarray(
        first.take(_NEXT, axis=-1) * second.take(_NEXT_BUT_ONE, axis=-1) - first.take(_NEXT_BUT_ONE, axis=-1) * second.take(_NEXT, axis=-1)
    )


def level_rights(tangents: Array) -> Array:
    """Return the level directions to the right of travel, of unit size, for tangents (..., 3) that are not upright.

    >>> level_rights(np.array([0.0, 2.0, 5.0])).tolist()
    [1.0, -0.0, 0.0]
    """
    flat = np.hypot(tangents[..., 0], tangents[..., 1])
    rights = np.zeros(tangents.shape)
    rights[..., 0], rights[..., 1] = tangents[..., 1] / flat, -tangents[..., 0] / flat
    return rights


def upright(tangents: Array) -> tuple[Array, Array]:
    """Return the rights and ups, (n, 3) each, of frames that keep upright along tangents (n, 3): the right level, the up r × t."""
    rights, ups = level_rights(tangents), np.empty((len(tangents), 3))
    # r × t, written out.
    ups[:, 0], ups[:, 1] = rights[:, 1] * tangents[:, 2], -rights[:, 0] * tangents[:, 2]
    ups[:, 2] = rights[:, 0] * tangents[:, 1] - rights[:, 1] * tangents[:, 0]
    return rights, ups


def carried(tangents: Array, closed: bool) -> tuple[Array, Array, float]:
    right = first_right(tangents)
    rights = [right]
    count = len(tangents)
    for index in range(1, count + 1 if closed else count):
        right = carry(right, tangents[index - 1], tangents[index % count])
        rights.append(right)
    leftover = 0.0
    if closed:
        home = rights.pop()
        leftover = math.atan2(float(np.cross(rights[0], home) @ tangents[0]), float(rights[0] @ home))
        leftover = 0.0 if abs(leftover) < NO_LEAN else leftover
    stacked = np.array(rights)
    return stacked, crossed(stacked, tangents), leftover


def carry(right: Array, before: Array, after: Array) -> Array:
    """Return ``right``, square to ``before``, turned by the smallest rotation that takes before to after (unit vectors).

    Exact form of one step of the double reflection method (Wang, Jüttler, Zheng and Liu, 2008) at a corner.
    A corner that goes straight back has no smallest rotation; the frame is then kept.
    """
    cosine = float(before @ after)
    if cosine < -1 + ROUNDING:
        return right
    turned = right - (float(right @ after) / (1 + cosine)) * (before + after)
    turned -= after * float(turned @ after)
    return np.asarray(turned / np.sqrt(turned @ turned))


def first_right(tangents: Array) -> Array:
    """Return the right of the first leg: level, or, on a vertical leg, square to the plane the line begins in."""
    first = tangents[0]
    if math.hypot(first[0], first[1]) >= math.sin(UPRIGHT_LIMIT):
        return level_rights(first)
    for tangent in tangents[1:]:
        axis = np.cross(first, tangent)
        size = math.sqrt(float(axis @ axis))
        if size > NO_LEAN:
            axis /= size
            # Drawn either way round, the same side of the plane counts as up.
            if axis[1] < -NO_LEAN or (abs(axis[1]) <= NO_LEAN and axis[0] < 0):
                axis = -axis
            right = np.cross(first, axis)
            return np.asarray(right / math.sqrt(float(right @ right)))
    return np.array([1.0, 0.0, 0.0])


def reflected(points: Array, tangents: Array, rights: Array, to_points: Array, to_tangents: Array) -> Array:
    """Return frames' rights carried from places to others near by, (n, 3): one step of the double reflection method.

    Wang, Jüttler, Zheng and Liu, "Computation of rotation minimizing frames", ACM TOG 27 (2008), table I.
    """
    first = to_points - points
    size = np.einsum("ij,ij->i", first, first)
    # Places nearer than a picometre are the same.
    safe = np.where(size > 1e-18, size, 1.0)
    shift = np.where(size > 1e-18, 2 / safe, 0.0)[:, None]
    right = rights - shift * np.einsum("ij,ij->i", first, rights)[:, None] * first
    tangent = tangents - shift * np.einsum("ij,ij->i", first, tangents)[:, None] * first
    second = to_tangents - tangent
    size = np.einsum("ij,ij->i", second, second)
    safe = np.where(size > 1e-24, size, 1.0)
    shift = np.where(size > 1e-24, 2 / safe, 0.0)[:, None]
    found = right - shift * np.einsum("ij,ij->i", second, right)[:, None] * second
    found -= to_tangents * np.einsum("ij,ij->i", found, to_tangents)[:, None]
    return np.asarray(found / np.sqrt(np.einsum("ij,ij->i", found, found))[:, None])
