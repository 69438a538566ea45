"""The cutting list and the schedule of a solved job.

Terms
-----
group
    pieces of one run that are equal: one can be laid on the other. Mirror images are not equal.
cut
    how an end is sawn: mitre (table turned) and bevel (blade tilted), degrees, for the
    section's bed on the table. Signs are explained in ``docs/cutting-list.md``.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from slow_ribbon.core.frames import angle_between
from slow_ribbon.core.section import Section, bed_up
from slow_ribbon.core.shape import CHORD_HEIGHT, Array
from slow_ribbon.core.solve import Solved, SolvedRun
from slow_ribbon.core.spans import ScrewSpan

#: Pieces whose lengths differ by less, mm, and whose slopes by less, are equal.
_SAME_LENGTH, _SAME_SLOPE = 0.01, 1e-5


@dataclass(frozen=True)
class Cut:
    """One end's saw setting in degrees."""

    mitre: float
    bevel: float

    @property
    def square(self) -> bool:
        return abs(self.mitre) < 5e-3 and abs(self.bevel) < 5e-3


@dataclass(frozen=True)
class Bend:
    """A part of a piece: a straight, or what it is bent to. ``radius`` in mm where it is an arc; ``turn`` in degrees."""

    kind: str
    length: float
    radius: float | None
    turn: float


@dataclass(frozen=True)
class CutRow:
    """A row of the cutting list: equal pieces of one run. Lengths in mm.

    ``picture`` is the piece seen from above as it lies on the saw: polygons of the side on the
    table and of the upper side, (4, 2) each, or more where it bends, x along travel.
    """

    run: str
    tags: tuple[str, ...]
    pieces: tuple[int, ...]
    long_point: float
    short_point: float
    line_length: float
    begin: Cut
    end: Cut
    picture: tuple[Array, Array]
    bends: tuple[Bend, ...]

    @property
    def quantity(self) -> int:
        return len(self.pieces)


@dataclass(frozen=True)
class Total:
    """Totals over pieces, mm: ``bar`` is the sum of long points, what must be cut from stock before kerf."""

    pieces: int
    line_length: float
    bar: float

    def __add__(self, other: Total) -> Total:
        return Total(self.pieces + other.pieces, self.line_length + other.line_length, self.bar + other.bar)


NOTHING = Total(0, 0.0, 0.0)


@dataclass(frozen=True)
class RowCount:
    """Items of a row: how many, at what actual centres, and what is left over at the ends of its stretches, mm."""

    row: str
    count: int
    centres: tuple[float, ...]
    left_over: float


@dataclass(frozen=True)
class Schedule:
    """Totals for each run, each section and the job, and item counts for each row."""

    runs: dict[str, Total]
    sections: dict[str, Total]
    job: Total
    rows: dict[str, RowCount]


def cutting_list(solved: Solved) -> list[CutRow]:
    """Return the cutting list of a job: run after run, equal pieces grouped, in order of travel."""
    tags = {run.id: run.tag for run in solved.job.runs}
    sections = {run.id: solved.job.section(run.section) for run in solved.job.runs}
    return [row for id, run in solved.runs.items() for row in _listed(run, tags[id], sections[id])]


def _listed(run: SolvedRun, tag: str, section: Section) -> list[CutRow]:
    """Return a run's rows, made once for as long as the run stays as it is."""
    known: tuple[str, Section, list[CutRow]] | None = run.listed[0] if run.listed else None
    if known is None or known[:2] != (tag, section):
        known = (tag, section, _run_rows(run, tag, section))
        run.listed[:] = [known]
    return known[2]


def _run_rows(run: SolvedRun, tag: str, section: Section) -> list[CutRow]:
    cuts = run.cuts
    pictures = _pictures(run, section)
    rows = []
    for group in _groups(cuts.congruence()):
        i = group[0]
        rows.append(
            CutRow(
                run.id,
                tuple(f"{tag}{j + 1}" for j in group),
                tuple(group),
                float(cuts.long_points[i]),
                float(cuts.short_points[i]),
                float(cuts.line_lengths[i]),
                Cut(float(run.mitres[i, 0]), float(run.bevels[i, 0])),
                Cut(float(run.mitres[i, 1]), float(run.bevels[i, 1])),
                pictures[i],
                bends_of(run, i),
            )
        )
    return rows


def _groups(congruence: Array) -> list[list[int]]:
    """Return indices of equal pieces together, in order of their first."""
    groups: list[list[int]] = []
    buckets: dict[int, list[int]] = {}
    for index, row in enumerate(congruence):
        place = round(float(row[0]) / (10 * _SAME_LENGTH))
        for group in (g for near in (place - 1, place, place + 1) for g in buckets.get(near, ())):
            other = congruence[groups[group][0]]
            if abs(row[0] - other[0]) < _SAME_LENGTH and np.abs(row[1:] - other[1:]).max() < _SAME_SLOPE * max(1.0, np.abs(row[1:]).max()):
                groups[group].append(index)
                break
        else:
            buckets.setdefault(place, []).append(len(groups))
            groups.append([index])
    return groups


def bends_of(run: SolvedRun, index: int) -> tuple[Bend, ...]:
    """Return the parts of a piece that bends, in order of travel; nothing for a straight one."""
    path = run.course.paths.get(index)
    if path is None:
        return ()
    found = []
    for low, high, span in path.ranges():
        radius, turn = None, 0.0
        if isinstance(span, ScrewSpan) and span.rise == 0:
            radius, turn = span.radius, math.degrees((high - low) / span.radius)
        elif span.kind != "straight":
            directions = span.at(np.linspace(low, high, 129))[1]
            turn = math.degrees(float(angle_between(directions[:-1], directions[1:]).sum()))
        found.append(Bend(span.kind, high - low, radius, turn))
    return tuple(found)


def _pictures(run: SolvedRun, section: Section) -> list[tuple[Array, Array]]:
    """Return every piece seen from above as it lies on the saw: the side on the table and the upper side, (4, 2) each.

    A piece that bends is seen in the plane of the table where it begins.
    """
    placed, cuts = run.cuts.placed, run.cuts
    up = placed.matrix @ bed_up(section)
    left = np.array([-up[1], up[0]])  # c = up × t, to the left of travel on the table
    far_left, far_right, top, foot = placed.furthest(np.array([left, -left, up, -up])) * (1, -1, 1, -1)
    sides = []
    for level in (foot, top):
        edges = np.array([left * far_right + up * level, left * far_left + up * level])
        begin, end = cuts.fibres(edges)
        along = np.stack([begin[:, 0], end[:, 0], end[:, 1], begin[:, 1]], axis=1)
        across = np.broadcast_to([far_right, far_right, far_left, far_left], along.shape)
        pictures = list(np.stack([along, across], axis=2))
        for i, path in cuts.course.paths.items():
            shares = path.flattened(CHORD_HEIGHT) / path.length
            back = np.concatenate([shares, shares[::-1]])
            which = np.repeat([0, 1], len(shares))
            here = path.at(begin[i, which] + (end[i, which] - begin[i, which]) * back)
            points = here.points + here.rights * edges[which, :1] + here.ups * edges[which, 1:] - cuts.course.starts[i]
            sideways = cuts.course.rights[i] * left[0] + cuts.course.ups[i] * left[1]
            pictures[i] = np.column_stack([points @ cuts.course.tangents[i], points @ sideways])
        sides.append(pictures)
    return list(zip(*sides, strict=True))


def schedule(solved: Solved) -> Schedule:
    """Return the totals of a job. Every total is the sum of unrounded values."""
    runs: dict[str, Total] = {}
    sections: dict[str, Total] = {}
    for run in solved.job.runs:
        cuts = solved.runs[run.id].cuts
        total = Total(cuts.course.count, float(cuts.line_lengths.sum()), float(cuts.long_points.sum()))
        runs[run.id] = total
        sections[run.section] = sections.get(run.section, NOTHING) + total
    rows = {}
    for row in solved.job.rows:
        out = solved.rows[row.id].out
        centres = sorted({round(stretch.centres, 9) for stretch in out.stretches if stretch.bays})
        left_over = sum(stretch.left_start + stretch.left_end for stretch in out.stretches)
        rows[row.id] = RowCount(row.id, len(out.chainages), tuple(centres), left_over)
    return Schedule(runs, sections, sum(runs.values(), NOTHING), rows)


def describe_cut(cut: Cut) -> str:
    """Return a saw setting in words: ``square``, ``45.0°`` for a mitre alone, ``bevel 45.0°``, or ``mitre / bevel``."""
    if cut.square:
        return "square"
    if abs(cut.bevel) < 5e-3:
        return f"{abs(cut.mitre):.1f}°"
    if abs(cut.mitre) < 5e-3:
        return f"bevel {abs(cut.bevel):.1f}°"
    return f"{abs(cut.mitre):.1f}° / {abs(cut.bevel):.1f}°"
