"""What pieces weigh, and how much of them is painted.

Terms
-----
painted area
    the outer face of a piece from cut to cut, without the edges of the section that are hidden. The ends, which meet others, and
    the inside of tubes are not painted.
"""

from __future__ import annotations

import numpy as np

from slow_ribbon.core.kernel.arrays import Array, Indices
from slow_ribbon.core.runs.end_surfaces.fibres import fibre_lengths
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.sections.document.materials import DENSITIES
from slow_ribbon.core.sections.outline.edge_arrays import Together
from slow_ribbon.core.sections.section_properties import hidden_edges

#: Where an end is no plane the outline is followed in chords of about this length, mm, as near to it as this.
_STEP = 2.0
_DEVIATION = 0.02


def weights(cuts: Cuts, pieces: Indices) -> Array:
    """Return what pieces (k,) weigh, (k,) in kg: their volumes at the mean density of the section's material."""
    return np.asarray(cuts.volumes_of(pieces) * 1e-9 * DENSITIES[cuts.placed.section.material].mean)


def painted_areas(cuts: Cuts, pieces: Indices) -> Array:
    """Return how much of pieces (k,) is painted, (k,) in mm².

    ∮ L ds along the outline, L the length of the fibre there: exact for pieces that end in planes, but for what is lost in rounding. A
    fibre that runs across by a twist w for each mm sweeps √((1 − bend·p)² + (w·(p·τ))²) ds of an outline in direction τ.
    """
    shaped = {index for index, _ in cuts.shaped}
    found = np.zeros(len(pieces))
    plain = np.array([cuts.placed.constant and i not in cuts.course.paths and i not in shaped for i in pieces.tolist()], dtype=bool)
    if plain.any():
        points, steps = _outline(cuts.placed, False)
        begin, end = cuts.fibres(points, pieces[plain])
        found[plain] = np.einsum("mk,mk->m", end - begin, _sizes(cuts, steps, pieces[plain]))
    for row in np.flatnonzero(~plain).tolist():
        index = int(pieces[row])
        points, steps = _outline(cuts.on(index), index in shaped)
        begin, end = cuts.piece_fibres(index, points)
        path = cuts.course.paths.get(index)
        lengths = np.hypot(*steps[:, :2].T)
        levers = np.einsum("kj,kj->k", points, steps[:, :2]) / np.where(lengths > 0, lengths, 1.0)
        along = end - begin if path is None else fibre_lengths(path, points, begin, end, levers)
        found[row] = float(along @ _sizes(cuts, steps, pieces[row : row + 1])[0])
    return found


def _outline(placed: Placed, stepwise: bool) -> tuple[Array, Array]:
    """Return places on the outline that is painted, (q, 2), and steps there, (q, 3): their vectors, and 1, or −1 to be taken off again."""
    shape, hidden = placed.shape, hidden_edges(placed.section)
    outer = shape.together.part(np.arange(shape.starts[1]))
    parts = [(outer, 1.0), *([] if hidden is None else [(hidden, -1.0)])]
    places, steps = zip(*((_stepwise if stepwise else _nodes)(edges) for edges, _ in parts), strict=True)
    signs = np.repeat([sign for _, sign in parts], [len(some) for some in places])
    return placed.points(np.concatenate(places)), np.column_stack([np.concatenate(steps) @ placed.matrix.T, signs])


def _nodes(edges: Together) -> tuple[Array, Array]:
    places, steps, _ = edges.quadrature
    return places, steps


def _stepwise(edges: Together) -> tuple[Array, Array]:
    """Return middles of short chords along edges, (q, 2), and the chords, (q, 2): fibres change by leaps where an end is scribed."""
    begins, ends, *_ = edges.flattened(_DEVIATION).straights
    counts = np.maximum(1, np.ceil(np.hypot(*(ends - begins).T) / _STEP)).astype(np.int64)
    which = np.repeat(np.arange(len(counts)), counts)
    number = np.arange(len(which)) - np.repeat(np.cumsum(counts) - counts, counts)
    steps = ((ends - begins) / counts[:, None])[which]
    return begins[which] + steps * (number + 0.5)[:, None], steps


def _sizes(cuts: Cuts, steps: Array, pieces: Indices) -> Array:
    """Return how long steps (q, 3) along the outline are on pieces (m,), (m, q) in mm, as the section leans there."""
    if cuts.leans is None:
        return np.broadcast_to(steps[:, 2] * np.hypot(*steps[:, :2].T), (len(pieces), len(steps)))
    leaned = np.einsum("mij,qj->mqi", cuts.leans[pieces], steps[:, :2])
    return np.asarray(steps[:, 2] * np.hypot(leaned[..., 0], leaned[..., 1]))
