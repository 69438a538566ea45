"""Templates of pieces that are sawn from boards, or laminated over a form: their outline at full size, in the plane they bend in."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

import numpy as np

from slow_ribbon.core.cutting.cutting_list import run_rows, section_named
from slow_ribbon.core.cutting.patterns import Pattern
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.runs.curve_sizes import bending_of
from slow_ribbon.core.solve.solved import Solved, SolvedRun
from slow_ribbon.core.solve.standing import standing_runs

#: How finely a template is told, mm.
_FINE: Final = 0.02


def templates_of(solved: Solved) -> list[Pattern]:
    """Return the templates of a job, one for equal pieces, in the order of the cutting list; what stands in several places once."""
    runs = {run.key: run for run, _ in standing_runs(solved)}
    return [template for run in runs.values() for template in _templates(solved, run)]


def _templates(solved: Solved, run: SolvedRun) -> Iterator[Pattern]:
    if not any(run.curvatures):
        return
    for row in run_rows(run):
        look_up()
        found = row.curvature
        if found is None or not (found.board or found.leaves):
            continue
        outline = outline_of(run, row.pieces[0])
        if outline is None:
            continue
        wide, high = np.ptp(outline, axis=0).tolist()
        words = (
            f"sawn from a board {wide:.0f} × {high:.0f} mm" if found.board else f"as it comes from the form, of {len(found.leaves)} leaves"
        )
        yield Pattern(
            run=solved.job.run(run.id).name, tags=row.tags, section=section_named(solved, row),
            end=False, words=words, face=outline, back=None,
            rest=wide, height=high, whole=True,
        )  # fmt: skip


def outline_of(run: SolvedRun, index: int) -> Array | None:
    """Return the outline (k, 2) of a piece that bends in a plane, closed, x along its chord and y to the outside of its bend, from nought.

    Nothing where it leaves the plane. The outside is the edge it begins with.
    """
    path, cuts = run.course.paths.get(index), run.cuts
    bending = None if path is None else bending_of(path, cuts.lying(index))
    if path is None or bending is None:
        return None
    marks = path.flattened(_FINE, max(abs(bending.inside), abs(bending.outside)))
    edges = []
    for level in (-bending.outside, bending.inside):
        point = bending.inward * level
        begin, end = (float(value[0]) for value in cuts.piece_fibres(index, cuts.own(index, point[None])))
        here = path.at(np.concatenate([[begin], marks[(marks > begin) & (marks < end)], [end]]))
        edges.append(here.points + here.rights * point[0] + here.ups * point[1])
    outer, inner = edges
    chord = outer[-1] - outer[0]
    chord /= np.linalg.norm(chord)
    middle = path.at(np.array([path.length / 2]))
    out = -(middle.rights[0] * bending.inward[0] + middle.ups[0] * bending.inward[1])
    out = out - chord * float(out @ chord)
    out /= np.linalg.norm(out)
    ring = np.concatenate([outer, inner[::-1], outer[:1]])
    flat = np.column_stack([ring @ chord, ring @ out])
    return np.asarray(flat - flat.min(axis=0))
