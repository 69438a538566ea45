"""Rows of the cutting list: equal pieces of a run, with their lengths, their cuts at the saw and how they are held.

Terms
-----
group
    pieces of one run that are equal: one can be laid on the other (see ``congruence``).
cut
    how an end is sawn: mitre (table turned) and bevel (blade tilted), degrees, for the
    section's bed on the table. Signs are explained in ``docs/cutting-list.md``.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from slow_ribbon.core.cutting.saw_orientation import left_and_right, pictures_of, reaches, side_views_of
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.runs.end_surfaces.fibres import fibre_lengths
from slow_ribbon.core.runs.pieces.congruence import equal_pieces
from slow_ribbon.core.runs.pieces.quantities import painted_areas, weights
from slow_ribbon.core.runs.pieces.saw_angles import saw_settings
from slow_ribbon.core.runs.treatments.bend_table import Bend, bends_of_path
from slow_ribbon.core.runs.treatments.curves.base import Curvature
from slow_ribbon.core.sections.document.section import EdgeBed, Section
from slow_ribbon.core.solve.results import SolvedRun


@dataclass(frozen=True)
class Cut:
    """One end's saw setting in degrees; where the end is shaped after it is sawn, what to; and at a joint, its words."""

    mitre: float
    bevel: float
    shaped: str = ""
    joint: str = ""

    @property
    def square(self) -> bool:
        return abs(self.mitre) < 5e-3 and abs(self.bevel) < 5e-3


def cut_of(run: SolvedRun, index: int, end: bool) -> Cut:
    """Return how a piece of a run is sawn at its beginning or its end."""
    surface = run.cuts.shaped.get((index, end))
    side = int(end)
    finish = run.cuts.finishing.ways.get((index, end)) if run.cuts.finishing is not None else None
    shaped = surface.words if surface is not None else "" if finish is None else finish.after
    at_joint = run.cuts.joints is not None and run.cuts.jointed[(index + side) % run.pieces]
    joint = run.cuts.joints.words if run.cuts.joints is not None and at_joint else ""
    return Cut(mitre=float(run.mitres[index, side]), bevel=float(run.bevels[index, side]), shaped=shaped, joint=joint)


@dataclass(frozen=True)
class HeldAtFence:
    """How pieces are cut where they are held against the fence, not on their section's bed; fields as those of a row.

    Their back is at the fence. Where it is on their right as the line goes they lie end for end: ``begin`` is where they end on the line.
    """

    begin: Cut
    end: Cut
    left: str
    right: str
    picture: tuple[Array, Array]
    across: float
    thick: float


@dataclass(frozen=True)
class CutRow:
    """A row of the cutting list: equal pieces of one run. Lengths in mm.

    ``left`` and ``right`` are the edges of the section that lie to the left and right of travel
    as the pieces lie on the saw. ``picture`` is the piece seen from above as it lies there:
    polygons of the side on the table and of the upper side, (4, 2) each, or more where it
    bends, x along travel; ``side_view`` is the piece seen from its right, where it leaves the
    plane of the table. ``centroid_length`` is how long a piece that bends is along its section's centroid, developed; None for a
    straight one. ``part`` says what it is where it is no length of the run: a return. ``quantity`` is how many there are of them
    in all; ``places`` name where, where they stand in the places of a typical, ``each`` how many in each of them;
    ``mirrored`` where there they are the mirror image of
    the run as it is drawn, and ``tags`` say so.
    ``section`` is the one they are of: the run's own, or a second one that members with it. ``curvature``: what it is made of, where it
    bends and is not bent in one. ``across`` and ``thick``: the section's size to the sides
    on the table and out of it, mm. ``sprung``: the same for what lies on a slanting edge, held with its head on the table.
    ``weight`` of each piece, kg, and how much of it is ``painted``, mm² (``pieces.quantities``).
    """

    run: str
    tags: tuple[str, ...]
    pieces: tuple[int, ...]
    long_point: float
    short_point: float
    line_length: float
    begin: Cut
    end: Cut
    left: str
    right: str
    picture: tuple[Array, Array]
    side_view: Array | None
    bends: tuple[Bend, ...]
    section: Section
    centroid_length: float | None = None
    part: str = ""
    quantity: int = 1
    places: tuple[str, ...] = ()
    each: tuple[int, ...] = ()
    mirrored: bool = False
    curvature: Curvature | None = None
    across: float = 0.0
    thick: float = 0.0
    sprung: HeldAtFence | None = None
    weight: float = 0.0
    painted: float = 0.0


@kept_with
def run_rows(run: SolvedRun) -> list[CutRow]:
    """Return a run's rows of the cutting list."""
    cuts = run.cuts
    pictures, side_views = pictures_of(run), side_views_of(run)
    slanting = isinstance(run.section.bed, EdgeBed)
    sprung, settings = (pictures_of(run, sprung=True), saw_settings(cuts, sprung=True)) if slanting else ([], None)
    rows = []
    groups = equal_pieces(cuts)
    first = np.array([group[0] for group in groups], dtype=np.int64)
    each = zip(groups, weights(cuts, first).tolist(), painted_areas(cuts, first).tolist(), strict=True)
    for group, weight, painted in each:
        look_up()
        i = group[0]
        lying = cuts.lying(i)
        left, right = left_and_right(lying)
        far_left, far_right, top, foot = reaches(lying)
        rows.append(
            CutRow(
                run=run.id,
                tags=tuple(run.tags[j] for j in group),
                pieces=tuple(group),
                long_point=float(cuts.long_points[i]),
                short_point=float(cuts.short_points[i]),
                line_length=float(cuts.line_lengths[i]),
                begin=cut_of(run, i, False),
                end=cut_of(run, i, True),
                left=left,
                right=right,
                picture=pictures[i],
                side_view=side_views.get(i),
                bends=bends_of(run, i),
                centroid_length=centroid_length(run, i),
                part=part_of(run, i),
                quantity=len(group),
                curvature=run.curvatures[i] if run.curvatures else None,
                section=run.section_of(i),
                across=far_left - far_right,
                thick=top - foot,
                sprung=None if settings is None or i in cuts.course.paths else _held(run, i, settings, sprung[i]),
                weight=weight,
                painted=painted,
            )
        )
    return rows


def _held(run: SolvedRun, index: int, settings: tuple[Array, Array], picture: tuple[Array, Array]) -> HeldAtFence:
    """Return how a piece is cut where it is held against the fence with its head on the table."""
    mitres, bevels = settings
    begin, end = (
        replace(cut_of(run, index, bool(side)), mitre=float(mitres[index, side]), bevel=float(bevels[index, side])) for side in (0, 1)
    )
    lying = run.cuts.lying(index)
    left, right = left_and_right(lying, lying.sprung_up)
    far_left, far_right, top, foot = reaches(lying, lying.sprung_up)
    return back_at_fence(HeldAtFence(begin, end, left, right, picture, far_left - far_right, top - foot))


def centroid_length(run: SolvedRun, index: int) -> float | None:
    """Return how long a piece that bends is along its section's centroid, mm, from cut to cut; None for a straight one."""
    path = run.cuts.course.paths.get(index)
    if path is None:
        return None
    centroid = run.cuts.on(index).centroid[None]
    begin, end = run.cuts.piece_fibres(index, centroid)
    return float(fibre_lengths(path, centroid, begin, end)[0])


def part_of(run: SolvedRun, index: int) -> str:
    """Return a word for a piece that is no length of its run: a return; empty for others."""
    return "return" if run.cuts.returns[index] else ""


def bends_of(run: SolvedRun, index: int) -> tuple[Bend, ...]:
    """Return the parts of a piece that bends, in order of travel; empty for a straight one."""
    path = run.course.paths.get(index)
    if path is None:
        return ()
    bends = bends_of_path(path, run.cuts.lying(index).bed_up)
    # A piece that is butted stops before its corner, or runs on past it, in the straight that it ends with.
    at_joint = run.cuts.jointed[[index, (index + 1) % run.pieces]]
    for at, more in ((0, -float(run.cuts.offsets_begin[index])), (-1, float(run.cuts.offsets_end[index]))):
        if more and bends and not at_joint[at]:
            ends = list(bends)
            ends[at] = replace(ends[at], length=ends[at].length + more)
            bends = tuple(ends)
    return bends


def describe_cut(cut: Cut) -> str:
    """Return a saw setting in words: ``square``, ``45.0°`` for a mitre alone, ``bevel 45.0°``, or ``mitre / bevel``.

    An end that is shaped is listed with what it is sawn to first, one at a joint by the joint.

    >>> describe_cut(Cut(0.0, 0.0)), describe_cut(Cut(-45.0, 0.0)), describe_cut(Cut(31.62, 33.86))
    ('square', '45.0°', '31.6° / 33.9°')
    >>> describe_cut(Cut(45.0, 0.0, "scribed"))
    '45.0°, then scribed'
    """
    if cut.joint:
        return cut.joint
    if cut.square:
        words = "square"
    elif abs(cut.bevel) < 5e-3:
        words = f"{abs(cut.mitre):.1f}°"
    elif abs(cut.mitre) < 5e-3:
        words = f"bevel {abs(cut.bevel):.1f}°"
    else:
        words = f"{abs(cut.mitre):.1f}° / {abs(cut.bevel):.1f}°"
    return f"{words}, then {cut.shaped}" if cut.shaped else words


def back_at_fence(held: HeldAtFence) -> HeldAtFence:
    """Return how pieces are held with their back at the fence: end for end where it lies to the right of travel.

    The end of travel is then their first end. Seen the other way along, what leans to the left leans to the left still, and what is
    tilted forward is tilted back.
    """
    if held.left == "back":
        return held
    first, last = (replace(cut, bevel=0.0 - cut.bevel) for cut in (held.end, held.begin))
    corners = np.concatenate(held.picture)
    about = np.array([corners[:, 0].min() + corners[:, 0].max(), corners[:, 1].min() + corners[:, 1].max()])
    # The end to the left becomes the beginning to the right.
    under, upper = (about - side[[2, 3, 0, 1]] for side in held.picture)
    return replace(held, begin=first, end=last, left=held.right, right=held.left, picture=(under, upper))
