"""Pieces of curves: what they are made of, and checks of those that cannot be made as is meant."""

from __future__ import annotations

from functools import partial

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.check import Check
from slow_ribbon.core.runs.end_surfaces.fibres import fibre_lengths
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.treatments.curves.base import Curvature, CurvedPiece


def curvature_of(run: Run, cuts: Cuts, index: int) -> Curvature | None:
    """Return the leaves, kerfs or boards of a piece whose curve is made of such; None for one that is straight, or bent in one."""
    return run.curves.fabrication(_piece(cuts, index)) if index in cuts.plain.paths else None


def curve_checks(run: Run, cuts: Cuts) -> list[Check]:
    """Return a check for every piece whose curve cannot be made as it is meant."""
    found: list[Check] = []
    for i, path in cuts.plain.paths.items():
        fault = run.curves.fault(_piece(cuts, i))
        if fault is None:
            continue
        middle = float(cuts.course.begins[i]) + path.length / 2
        x, y, z = cuts.course.at(np.array([middle])).points[0].tolist()
        found.append(
            Check(
                kind="tight" if fault.impossible else "uncurved", severity="fault" if fault.impossible else "warning",
                what=f"Piece {run.tag_of(i)}: {fault.what}", remedy=fault.remedy, thing=run.id, piece=i,
                chainage=middle % cuts.course.length, point=(x, y, z),
            )
        )  # fmt: skip
    return found


def _piece(cuts: Cuts, index: int) -> CurvedPiece:
    return CurvedPiece(cuts.plain.paths[index], cuts.lying(index), partial(_fibres, cuts, index))


def _fibres(cuts: Cuts, index: int, points: Array) -> Array:
    own = cuts.own(index, points)
    begin, end = cuts.piece_fibres(index, own)
    return fibre_lengths(cuts.course.paths[index], own, begin, end)
