"""Patterns of ends that are shaped after they are sawn, to be laid on the piece at full size.

A pattern shows the end of a piece as one sees it who looks squarely at its face, or from above where its end is shaped along its depth:
along the piece to the right or to the left, height, or depth to the left of travel, upward. What is cut through square to the face there is
one line; where the cut leans, the line on the back is another.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from slow_ribbon.core.cutting.cut_rows import CutRow, run_rows
from slow_ribbon.core.cutting.cutting_list import section_named
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import DRAWING_DEVIATION
from slow_ribbon.core.sections.outline.profile import Shape
from slow_ribbon.core.sections.sketch.symmetry import symmetry_of
from slow_ribbon.core.solve.instances import typicals_of
from slow_ribbon.core.solve.results import Solved, SolvedRun

#: So much of the piece is shown beyond what is cut, mm.
_PIECE: Final = 60.0
#: So many places round a pattern that is wrapped round a piece.
_ROUND: Final = 181
#: Lines on the face and on the back that differ by less, mm, are one.
_ONE_LINE: Final = 0.05


@dataclass(frozen=True, kw_only=True)
class Pattern:
    """The pattern of one end of some equal pieces. Places are mm, (k, 2): x to the right as the face is seen, y up from the foot.

    ``face`` is where it is cut on the face, ``back`` where on the back if that is elsewhere. The piece lies from the cut to ``rest`` (x);
    ``height`` is the section's. ``end``: whether it is the end of the pieces as one travels, or their beginning. ``seen``: from where one
    looks at it. ``edges``: the sides of a piece that bends. ``whole``: it is a template of all of a piece, whose outline ``face`` is, on a
    board ``rest`` long and ``height`` wide.
    """

    run: str
    tags: tuple[str, ...]
    section: str
    end: bool
    words: str
    face: Array
    back: Array | None
    rest: float
    height: float
    whole: bool = False
    #: From where one looks at it, in words.
    seen: str = "the face"
    edges: tuple[Array, Array] | None = None


def patterns_of(solved: Solved) -> list[Pattern]:
    """Return the patterns of all ends that are shaped, in the order of the cutting list."""
    found: list[Pattern] = []
    typicals = typicals_of(solved)
    within = {run.id for typical in typicals for run in typical.variants[0].runs}
    for run in solved.runs.values():
        if run.id not in within:
            found.extend(_patterns(solved, run))
    for typical in typicals:
        for variant in typical.variants:
            for run in variant.runs:
                patterns = [replace(one, tags=tuple(tag + variant.label for tag in one.tags)) for one in _patterns(solved, run)]
                found.extend(patterns if variant.straight else [])
                found.extend(_mirrored(one) for one in patterns if variant.mirrored)
    return found


def _patterns(solved: Solved, run: SolvedRun) -> Iterator[Pattern]:
    if not run.cuts.shaped:
        return
    for row in run_rows(run):
        look_up()
        first = row.pieces[0]
        for end in (False, True):
            if (first, end) in run.cuts.shaped and run.cuts.shaped[first, end].bends(DRAWING_DEVIATION) is not None:
                yield _pattern(solved, run, row, end)


def _mirrored(pattern: Pattern) -> Pattern:
    """Return the pattern of the mirror image of a piece, tagged as it is in the cutting list."""
    over = np.array([-1.0, 1.0])
    back = None if pattern.back is None else pattern.back * over
    edges = None if pattern.edges is None else (pattern.edges[0] * over, pattern.edges[1] * over)
    tags = tuple(f"{tag}M" for tag in pattern.tags)
    return replace(pattern, tags=tags, face=pattern.face * over, back=back, rest=-pattern.rest, edges=edges)


def seen_squarely(up: Array, right: bool) -> tuple[Array, float, bool, str]:
    """Return how a piece is looked at that is shaped, or cut, along a unit (2,) of its section, which is upward on its pattern.

    From the face where that is upward, and else from above: a matrix (2, 2) that takes section points to what is toward the one who looks
    and upward; 1, or −1 where upward is against ``up``; whether travel goes to the right; and from where that is in words. ``right``
    says whether the run faces right.
    """
    face = bool(abs(up[1]) >= abs(up[0]))
    turned = -1.0 if (up[1] < 0 if face else up[0] > 0) else 1.0
    up = turned * up
    return np.array([[up[1], -up[0]], up]), turned, right if face else True, "the face" if face else "above"


def _wrapped(solved: Solved, run: SolvedRun, row: CutRow, end: bool) -> Pattern:
    """Return the pattern of an end of a round piece, to be wrapped round it: upward it goes from the top to the left, as one looks along
    travel, and right round."""
    cuts, piece = run.cuts, row.pieces[0]
    surface, placed = cuts.shaped[piece, end], cuts.on(piece)
    radius = float(placed.furthest(np.array([[1.0, 0.0], [-1.0, 0.0]])).sum()) / 2
    angles = np.linspace(0.0, 2 * math.pi, _ROUND)
    reached = surface.reach(placed.centroid + radius * np.column_stack([-np.sin(angles), np.cos(angles)]))
    way = -1.0 if end else 1.0
    begin = float((reached * way).min()) * way
    line = np.column_stack([reached - begin, radius * angles])
    return Pattern(
        run=solved.job.run(run.id).name, tags=row.tags, section=section_named(solved, row), end=end, words=surface.words, face=line,
        back=None, rest=float(np.ptp(reached) + _PIECE) * way, height=2 * math.pi * radius,
        seen="outside, wrapped round it from the top",
    )  # fmt: skip


def _pattern(solved: Solved, run: SolvedRun, row: CutRow, end: bool) -> Pattern:
    cuts, piece = run.cuts, row.pieces[0]
    surface, placed = cuts.shaped[piece, end], cuts.on(piece)
    if symmetry_of(placed.section).round and not surface.at_line:
        return _wrapped(solved, run, row, end)
    bends = surface.bends(DRAWING_DEVIATION)
    assert bends is not None  # _patterns has looked
    up, levels = bends
    view, turned, right, seen = seen_squarely(up, placed.right)
    levels = turned * levels
    shape = placed.framed.mapped_once(view, np.zeros(2))
    heights = np.unique(np.concatenate([shape.face(right).bends(DRAWING_DEVIATION), levels]))
    low, high = (shape.furthest(np.array([[0.0, -1.0], [0.0, 1.0]])) * (-1, 1)).tolist()
    heights = np.unique(np.clip(heights, low, high))
    out = shape.face(right).across(heights)
    behind = float(shape.furthest(np.array([[-1.0 if right else 1.0, 0.0]]))[0]) * (-1.0 if right else 1.0)
    if surface.at_line and piece in cuts.course.paths and not cuts.course.paths[piece].straights[end]:
        return _on_plan(solved, run, row, end, (shape, view, levels))
    # Travel is to the right for one who looks at a face on the right of it.
    sense = 1.0 if right else -1.0
    lines = []
    for across in (out, np.full(len(heights), behind)):
        reached = surface.reach(np.column_stack([across, heights]) @ view)
        lines.append(np.column_stack([sense * reached, heights - low]))
    # From the cut the piece lies back along travel where it ends there, and on along it where it begins.
    way = -sense if end else sense
    both = np.concatenate(lines)[:, 0]
    begin = float((both * way).min()) * way
    for line in lines:
        line[:, 0] -= begin
    rest = float(((both - begin) * way).max() + _PIECE) * way
    apart = float(np.abs(lines[0] - lines[1]).max()) > _ONE_LINE
    return Pattern(
        run=solved.job.run(run.id).name,
        tags=row.tags,
        section=section_named(solved, row),
        end=end,
        words=surface.words,
        face=lines[0],
        back=lines[1] if apart else None,
        rest=rest,
        height=high - low,
        seen=seen,
    )


def _on_plan(solved: Solved, run: SolvedRun, row: CutRow, end: bool, seen: tuple[Shape, Array, Array]) -> Pattern:
    """Return the pattern of an end of a piece that bends right up to it, in the plane it bends in, travel to the right where it is cut.

    ``seen`` are its section as it is looked at, with what bends upward, how it is turned to that, and where along it the end bends.
    """
    cuts, piece = run.cuts, row.pieces[0]
    shape, view, levels = seen
    path = cuts.course.paths[piece]
    low, high = (shape.furthest(np.array([[0.0, -1.0], [0.0, 1.0]])) * (-1, 1)).tolist()
    heights = np.unique(np.concatenate([[low, high], levels[(levels > low) & (levels < high)]]))
    fibres = np.column_stack([np.zeros(len(heights)), heights]) @ view
    sense, corner = (1.0, cuts.course.ends[piece]) if end else (-1.0, cuts.course.starts[piece])
    frame = path.at(np.array([path.length if end else 0.0]))
    up = frame.rights[0] * view[1, 0] + frame.ups[0] * view[1, 1]
    flat = np.column_stack([frame.tangents[0], up])
    reached = cuts.piece_fibres(piece, fibres)[int(end)]

    def drawn(points: Array, along: Array) -> Array:
        here = path.at(along)
        return np.asarray((here.points + here.rights * points[:, :1] + here.ups * points[:, 1:] - corner) @ flat)

    face = drawn(fibres, reached)
    edges = []
    for side in (0, -1):
        # Back along the piece for as much as is shown of it, or all of it.
        far = float(np.clip(reached[side] - sense * _PIECE, 0.0, path.length))
        along = np.linspace(reached[side], far, 1 + max(2, len(path.flattened(DRAWING_DEVIATION, float(np.abs(fibres).max())))))
        edges.append(drawn(np.broadcast_to(fibres[side], (len(along), 2)), along))
    every = np.concatenate([face, *edges])
    left, foot = float((every[:, 0] * -sense).min()) * -sense, float(every[:, 1].min())
    moved = [one - (left, foot) for one in (face, *edges)]
    wide, tall = np.ptp(every, axis=0).tolist()
    return Pattern(
        run=solved.job.run(run.id).name, tags=row.tags, section=section_named(solved, row), end=end, words=cuts.shaped[piece, end].words,
        face=moved[0], back=None, rest=-sense * wide, height=tall, seen="above" if abs(view[1, 0]) > abs(view[1, 1]) else "the face",
        edges=(moved[1], moved[2]),
    )  # fmt: skip
