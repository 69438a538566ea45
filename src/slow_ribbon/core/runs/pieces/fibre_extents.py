"""Long and short points of pieces, and mismatches at their corners."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial
from typing import Any

import numpy as np

from slow_ribbon.core.kernel.arrays import Array, Flags
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import ROUNDING
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.runs.end_surfaces.fibres import fibre_lengths
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.placement.placed_section import Placed


def measured(cuts: Cuts, square: Flags) -> Cuts:
    """Return pieces, known so far as if they were straight and ended in planes, with their true long and short points and mismatches.

    ``square`` (m,): where there is no mitre at a piece's beginning.
    """
    extents = _Extents(cuts.short_points.copy(), cuts.long_points.copy(), cuts.mismatches.copy())
    if cuts.course.paths:
        _measure_paths(cuts, square, extents)
    _measure_shaped(cuts, extents)
    added = cuts.added.sum(axis=1)
    extents.short += added
    extents.long += added
    if cuts.joints is not None and cuts.joints.leans:
        # The slopes at both ends of a part may be parallel: it is sawn from as long a piece as it is from its first point to its last.
        scarfed = cuts.jointed | np.roll(cuts.jointed, -1)
        first, last = cuts.beyond()
        extents.long[scarfed] = np.maximum(extents.long, cuts.course.lengths + first + last)[scarfed]
    return replace(cuts, short_points=extents.short, long_points=extents.long, mismatches=extents.mismatches)


@dataclass
class _Extents:
    """Short and long points, and mismatches, (m,) each, mm, while they are measured."""

    short: Array
    long: Array
    mismatches: Array


def _measure_shaped(cuts: Cuts, extents: _Extents) -> None:
    """Put in the long and short points of pieces with ends that are no planes; those alike but for their length are asked once."""
    points: Array | None = None
    known: dict[Any, tuple[float, float]] = {}
    for i in {index for index, _ in cuts.shaped}:
        look_up()
        length = float(cuts.course.lengths[i])
        ends = tuple(
            cuts.shaped.get((i, end)) or (float(offsets[i]), *slopes[i].round(9).tolist())
            for end, offsets, slopes in (
                (False, cuts.offsets_begin, cuts.slopes_begin),
                (True, cuts.offsets_end, cuts.slopes_end),
            )
        )
        if i in cuts.course.paths or not cuts.placed.constant or ends not in known:
            if points is None:
                points = cuts.flat().points
            # Where the surface bends between the ends of an edge, or within the section, there are points.
            there = _fibre(cuts, i, points)
            least, most = cuts.on(i).shape.extremes(partial(_fibre, cuts, i))
            known[ends] = min(least, float(there.min())) - length, max(most, float(there.max())) - length
        extents.short[i], extents.long[i] = (length + more for more in known[ends])


def _fibre(cuts: Cuts, index: int, points: Array) -> Array:
    """Return how long fibres of a piece are at the section's own points (k, 2), mm."""
    inside = cuts.on(index).points(points)
    begin, end = cuts.piece_fibres(index, inside)
    path = cuts.course.paths.get(index)
    return end - begin if path is None else fibre_lengths(path, inside, begin, end)


def _measure_paths(cuts: Cuts, square: Flags, extents: _Extents) -> None:
    """Put in the long and short points of pieces that bend, and the mismatches at their corners.

    Where all fibres meet a cut in the straight that a piece ends with, they do so as those of a straight piece.
    """
    course, placed = cuts.course, cuts.placed
    for i, path in course.paths.items():
        if path.turning is not None and cuts.ends_straight(i, False) and cuts.ends_straight(i, True):
            # So much longer is the fibre at p: more·p.
            more = cuts.slopes_end[i] - cuts.slopes_begin[i] - path.turning
            least, most = cuts.on(i).furthest(np.array([-more, more])).tolist()
            length = course.lengths[i] + cuts.offsets_end[i] - cuts.offsets_begin[i]
            extents.short[i], extents.long[i] = length - least, length + most
            continue

        if cuts.joints is not None and cuts.joints.leans and cuts.jointed[[i, (i + 1) % course.count]].any():
            # It is sawn from its first point to its last, which is looked for apart: points of the rim give the rest nearly enough.
            flat = cuts.flat()
            lengths = _fibre(cuts, i, flat.points[: flat.rim])
            extents.short[i], extents.long[i] = lengths.min(), lengths.max()
            continue
        extents.short[i], extents.long[i] = cuts.on(i).shape.extremes(partial(_fibre, cuts, i))
    # Where a piece goes on as the one before it there is nothing that could miss.
    for i in np.flatnonzero(~square & (course.turns > 0)).tolist():
        before = (i - 1) % course.count
        shaped = (i, False) in cuts.shaped
        if shaped or not (cuts.ends_straight(i, False) and cuts.ends_straight(before, True)):

            def apart(points: Array, i: int = i, before: int = before) -> Array:
                inside = placed.points(points)
                across = cuts.images(i, inside, end=False) - cuts.images(before, inside, end=True)
                return np.asarray(np.sqrt(np.einsum("ij,ij->i", across, across)))

            extents.mismatches[i] = placed.shape.extremes(apart)[1]


def mismatches(course: Course, placed: Placed, planes: Array, square: Flags) -> Array:
    """Return the greatest distance between the two images of the section on each mitre plane, (m,) in mm, between straights."""
    found = np.zeros(course.count)
    mitred = np.flatnonzero(~square)
    after = _images(course.rights[mitred], course.ups[mitred], course.tangents[mitred], planes[mitred])
    before = _images(course.rights_end[mitred - 1], course.ups_end[mitred - 1], course.tangents_end[mitred - 1], planes[mitred])
    apart = after - before
    doubtful = np.flatnonzero(np.abs(apart).max(axis=(1, 2), initial=0.0, keepdims=False) > ROUNDING) if len(mitred) else mitred
    if len(doubtful):
        for number in doubtful.tolist():
            square_form = apart[number].T @ apart[number]

            def away(points: Array, square_form: Array = square_form) -> Array:
                inside = placed.points(points)
                return np.asarray(np.sqrt(np.maximum(np.einsum("ij,jk,ik->i", inside, square_form, inside), 0.0)))

            found[mitred[number]] = placed.shape.extremes(away)[1]
    return found


def _images(rights: Array, ups: Array, tangents: Array, planes: Array) -> Array:
    """Return matrices (m, 3, 2) that take a section point along the leg onto the mitre plane."""
    frame = np.stack([rights, ups], axis=2)
    lean = np.einsum("ij,ijk->ik", planes, frame) / np.einsum("ij,ij->i", planes, tangents)[:, None]
    return np.asarray(frame - tangents[:, :, None] * lean[:, None, :])
