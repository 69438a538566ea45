"""Raked runs: what becomes of the section where a line turns on plan and its pitch changes, so that two upright sections would not meet.

Terms
-----
lean
    the matrix (2, 2) that takes section points, in the (right, up) frame of a piece, to where they lie on it: the unit matrix where the
    section is as drawn; a turn where it goes on as it came through a mitre; else one whose image of the section is the second section,
    which members with the first (``corners.mitre``).
sort
    pieces of a run with the same lean are of one sort; those of sort 0 are of the section as it is drawn.

On a plane through the corner with normal m the fibre at p of the piece before comes through at F₁p − t₁(m·F₁p)/(m·t₁), with F₁ the frame
(right, up) there; what lies there is the fibre at F₂ᵀ of that of the piece after (from docs/geometry.md, section 4: both images are
the same).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from slow_ribbon.core.geometry.framed_path import leaned
from slow_ribbon.core.kernel.arrays import Array, Indices
from slow_ribbon.core.kernel.tolerances import NO_LEAN, SAME_SHARE
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.runs.treatments.corners import Gap, Mitre, Treatment

#: No section is drawn through a mitre that a piece meets at less than this, as a cosine.
_GRAZES: Final = 0.05
#: No second section is this many times as large as the first, or as small.
_MOST: Final = 20.0


def leans_along(course: Course, groups: Sequence[tuple[Treatment, Indices]]) -> Array | None:
    """Return how the section leans on each piece, (m, 2, 2); None where it is as drawn on all.

    ``groups``: how corners are made, and the pieces that begin there. It is as drawn on the first level piece, else on the first, and
    from there on comes through every corner that is mitred; beyond one that is made otherwise it is as drawn again, and beyond one
    where the sections do not meet and nothing is done about it.
    """
    if course.rule != "upright" or all(not isinstance(way, Mitre) or way.raked == "told" for way, _ in groups):
        return None
    links = _links(course, groups)
    found = np.broadcast_to(np.eye(2), (course.count, 2, 2)).copy()
    level = np.maximum(np.abs(course.tangents[:, 2]), np.abs(course.tangents_end[:, 2])) < NO_LEAN
    for chain in _chains(links):
        base = next((at for at, piece in enumerate(chain) if level[piece]), 0)
        for before, piece in zip(chain[base:], chain[base + 1 :], strict=False):
            found[piece] = links[piece] @ found[before]
        for at in range(base - 1, -1, -1):
            link = links[chain[at + 1]]
            assert link is not None
            found[chain[at]] = np.linalg.solve(link, found[chain[at + 1]])
    found[np.abs(found - np.eye(2)).max(axis=(1, 2)) < SAME_SHARE] = np.eye(2)
    return found if (found != np.eye(2)).any() else None


def _links(course: Course, groups: Sequence[tuple[Treatment, Indices]]) -> list[Array | None]:
    """Return by which matrix the section comes from the piece before to each; None where it is as drawn again."""
    links: list[Array | None] = [None] * course.count
    before = np.roll(np.arange(course.count), 1)
    # Where pieces meet along a leg, and on both sides of an opening in one.
    goes_on = np.abs(course.tangents - course.tangents_end[before]).max(axis=1) < NO_LEAN
    goes_on &= ~course.free | course.closed | (np.arange(course.count) > 0)
    for i in np.flatnonzero(goes_on & (course.turns == 0)).tolist():
        links[i] = np.eye(2)
    for way, some in groups:
        if not isinstance(way, Mitre | Gap):
            continue
        tangents = course.tangents_end[before[some]], course.tangents[some]
        normals = way.normals(*tangents, True) if isinstance(way, Mitre) else sum(tangents, np.zeros(3))
        through, sound = _through(course, some, before[some], normals)
        for i, matrix, fit in zip(some.tolist(), through, sound.tolist(), strict=True):
            if np.abs(matrix - np.eye(2)).max() < SAME_SHARE:
                links[i] = np.eye(2)
            elif fit and isinstance(way, Mitre) and way.raked != "told":
                links[i] = matrix
    for i, path in course.paths.items():
        if path.twists:
            links[i] = links[(i + 1) % course.count] = None
    return links


@dataclass(frozen=True)
class WaysOut:
    """What can be done about a corner where sections do not meet: by which matrix (2, 2) a second one is the image of that before the
    corner in its frame, and by how many degrees the section turns that goes on as it comes."""

    members: Array
    turns: float


def ways_out(course: Course, index: int) -> WaysOut | None:
    """Return the remedies at a corner where the section of a piece does not meet the one before; None where there is no such corner.

    The frames of the course are square; what bends without twisting is of use too.
    """
    before = (index - 1) % course.count
    twists = any(course.paths[i].twists for i in (index, before) if i in course.paths)
    if course.rule != "upright" or twists or max(abs(course.tangents_end[before, 2]), abs(course.tangents[index, 2])) < NO_LEAN:
        return None
    after, earlier = np.array([index]), np.array([before])
    tangents = course.tangents_end[earlier], course.tangents[after]
    found = []
    for way in (Mitre(raked="members"), Mitre(raked="turned")):
        matrices, sound = _through(course, after, earlier, way.normals(*tangents, True))
        if not sound[0] or np.abs(matrices[0] - np.eye(2)).max() < SAME_SHARE:
            return None
        found.append(matrices[0])
    return WaysOut(members=found[0], turns=abs(math.degrees(math.atan2(found[1][1, 0], found[1][0, 0]))))


def _through(course: Course, after: Indices, before: Indices, normals: Array) -> tuple[Array, Array]:
    """Return the matrices (k, 2, 2) by which sections come through planes, and which of them are of use, (k,)."""
    normals = normals / np.maximum(np.linalg.norm(normals, axis=1), NO_LEAN)[:, None]
    first, t1 = np.stack([course.rights_end[before], course.ups_end[before]], axis=2), course.tangents_end[before]
    second, t2 = np.stack([course.rights[after], course.ups[after]], axis=2), course.tangents[after]
    along = np.einsum("ij,ij->i", normals, t1)
    met = (along > _GRAZES) & (np.einsum("ij,ij->i", normals, t2) > _GRAZES)
    fall = np.einsum("ij,ijk->ik", normals, first) / np.where(met, along, 1.0)[:, None]
    matrices = np.einsum("ijk,ijl->ikl", second, first - t1[:, :, None] * fall[:, None, :])
    sizes = np.abs(np.linalg.det(matrices))
    return matrices, met & (sizes < _MOST) & (sizes > 1 / _MOST)


def _chains(links: Sequence[Array | None]) -> list[list[int]]:
    """Return the pieces between which sections come through, in order of travel; the last comes round to the first where nothing parts."""
    count = len(links)
    parted = [i for i, link in enumerate(links) if link is None] or [0]
    return [[i % count for i in range(begin, end)] for begin, end in zip(parted, [*parted[1:], parted[0] + count], strict=True)]


def leaning(course: Course, leans: Array) -> Course:
    """Return a course in whose frames section points stand where they lie on each piece, which leans so (m, 2, 2)."""
    rights, ups = leaned(course.rights, course.ups, leans)
    rights_end, ups_end = leaned(course.rights_end, course.ups_end, leans)
    # One that is as drawn stays so to the last bit.
    paths = {i: path if (leans[i] == np.eye(2)).all() else replace(path, lean=leans[i]) for i, path in course.paths.items()}
    return replace(course, rights=rights, ups=ups, rights_end=rights_end, ups_end=ups_end, paths=paths)


def sorted_leans(leans: Array) -> tuple[Indices, Array]:
    """Return the sort of each piece, (m,), and the lean of each sort, (k, 2, 2), in order of travel, that of the drawn section first."""
    known = [np.eye(2)]
    sorts = np.zeros(len(leans), dtype=np.int64)
    for i, lean in enumerate(leans):
        same = [number for number, one in enumerate(known) if np.abs(lean - one).max() < 1e3 * SAME_SHARE]
        sorts[i] = same[0] if same else len(known)
        if not same:
            known.append(lean)
    return sorts, np.array(known)
