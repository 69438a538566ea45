"""Templates of whole pieces at full size: of those that are sawn from boards, or laminated over a form, their outline in the plane they
bend in; of facets and of the small pieces that a run is returned by, as they are mitred."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from slow_ribbon.core.cutting.cut_rows import CutRow, run_rows
from slow_ribbon.core.cutting.cutting_list import section_named
from slow_ribbon.core.cutting.patterns import Pattern, seen_squarely
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import DRAWING_DEVIATION, FLAT, NO_LEAN
from slow_ribbon.core.runs.treatments.curves.base import bending_of
from slow_ribbon.core.solve.instances import standing_runs
from slow_ribbon.core.solve.results import Solved, SolvedRun


def templates_of(solved: Solved) -> list[Pattern]:
    """Return the templates of a job, one for equal pieces, in the order of the cutting list; what stands in several places once."""
    runs = {run.key: run for run, _ in standing_runs(solved)}
    return [template for run in runs.values() for template in _templates(solved, run)]


def _templates(solved: Solved, run: SolvedRun) -> Iterator[Pattern]:
    straight = run.facets | set(np.flatnonzero(run.cuts.returns).tolist())
    if not straight and not any(run.curvatures):
        return
    for row in run_rows(run):
        look_up()
        found = row.curvature
        if row.pieces[0] in straight:
            template = _mitred(solved, run, row)
            if template is not None:
                yield template
            continue
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
            rest=wide, height=high, whole=True, seen="its outside above",
        )  # fmt: skip


def _mitred(solved: Solved, run: SolvedRun, row: CutRow) -> Pattern | None:
    """Return the template of a straight piece, seen squarely to its mitres; None of one whose cuts lean two ways, or are shaped."""
    cuts, index = run.cuts, row.pieces[0]
    slopes = cuts.slopes_begin[index], cuts.slopes_end[index]
    steepest = max(slopes, key=lambda slope: float(np.linalg.norm(slope)))
    size, across = float(np.linalg.norm(steepest)), np.array([-steepest[1], steepest[0]])
    shaped = (index, False) in cuts.shaped or (index, True) in cuts.shaped
    if shaped or index in cuts.course.paths or size < NO_LEAN or any(abs(float(slope @ across)) > FLAT for slope in slopes):
        return None
    placed = cuts.on(index)
    view, _, right, seen = seen_squarely(steepest / size, placed.right)
    low, high = (placed.furthest(np.array([-view[1], view[1]])) * (-1, 1)).tolist()
    begin, end = cuts.piece_fibres(index, np.array([view[1] * low, view[1] * high]))
    sense = 1.0 if right else -1.0
    ring = np.array([[begin[0], low], [end[0], low], [end[1], high], [begin[1], high], [begin[0], low]]) * (sense, 1.0)
    ring -= ring.min(axis=0)
    wide, tall = np.ptp(ring, axis=0).tolist()
    words = "return, its grain turned with it" if cuts.returns[index] else "facet"
    return Pattern(
        run=solved.job.run(run.id).name, tags=row.tags, section=section_named(solved, row), end=False, words=words, face=ring, back=None,
        rest=wide, height=tall, whole=True, seen=f"seen from {seen}",
    )  # fmt: skip


def outline_of(run: SolvedRun, index: int) -> Array | None:
    """Return the outline (k, 2) of a piece that bends in a plane, closed, x along its chord and y to the outside of its bend, from zero.

    Nothing where it leaves the plane. The outside is the edge it begins with.
    """
    path, cuts = run.course.paths.get(index), run.cuts
    bending = None if path is None else bending_of(path, cuts.lying(index))
    if path is None or bending is None:
        return None
    marks = path.flattened(DRAWING_DEVIATION, max(abs(bending.inside), abs(bending.outside)))
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
