"""What the interface is shown of a job: the document and everything that follows from it."""

from __future__ import annotations

from functools import lru_cache
from typing import Literal

import numpy as np
from pydantic import BaseModel

from slow_ribbon.core.bending import Bend
from slow_ribbon.core.course import course_of
from slow_ribbon.core.cutting import Cut, CutRow, Schedule, Total, bends_of, cutting_list, describe_cut, schedule
from slow_ribbon.core.job import Job
from slow_ribbon.core.line import Line
from slow_ribbon.core.mitre import Kind
from slow_ribbon.core.row import BoxItem, Row
from slow_ribbon.core.section import NamedDatum, PointDatum, Section, SectionBody, beds, datum_point, named_points, section_shape
from slow_ribbon.core.shape import Arc, Shape
from slow_ribbon.core.solve import Solved, SolvedRow, SolvedRun
from slow_ribbon.core.units import WELD
from slow_ribbon.service.shown_lines import Flat, LineFigures, Place, flats, line_shown, place
from slow_ribbon.service.told import Told, told_parts
from slow_ribbon.store.jobs import Opened


class SectionFigures(BaseModel):
    """A section's figures. ``path`` is its outline as an SVG path, y up, its box from the origin."""

    id: str
    path: str
    area: float
    perimeter: float
    datums: dict[str, Flat]
    datum: Flat
    beds: list[int]
    runs: int


class BendOfPiece(BaseModel):
    """A part of a piece that bends. ``radius`` where it is an arc; ``turn`` in degrees.

    ``side`` is the way it bends as the piece lies on the saw, in words; ``plane`` the turn of its
    plane against the bend before, degrees anticlockwise along travel.
    """

    kind: str
    length: float
    radius: float | None
    turn: float
    side: str
    plane: float | None


class PieceFigures(BaseModel):
    tag: str
    begin: float
    end: float
    length: float
    long_point: float
    short_point: float
    begin_cut: str
    end_cut: str
    footprint: list[list[Flat]]
    bends: list[BendOfPiece]


class CornerFigures(BaseModel):
    chainage: float
    point: Place
    angle: float
    kind: Kind
    mismatch: float


class RunFigures(BaseModel):
    """A run solved. ``key`` names its mesh; ``matrix`` and ``shift`` take section points to (right, up) of the line."""

    id: str
    key: str
    origin: Place
    length: float
    closed: bool
    right: bool
    mirrored: bool
    matrix: tuple[Flat, Flat]
    shift: Flat
    pieces: list[PieceFigures]
    corners: list[CornerFigures]


class StretchFigures(BaseModel):
    length: float
    bays: int
    centres: float
    left_start: float
    left_end: float
    closing: float | None


class RowFigures(BaseModel):
    """A row set out. ``key`` names its places, fetched as numbers. ``ring``: it goes round without a first and a last."""

    id: str
    key: str
    origin: Place
    length: float
    closed: bool
    ring: bool
    count: int
    left_over: float
    stretches: list[StretchFigures]
    footprint: list[Flat]
    height: float


class CutFigures(BaseModel):
    mitre: float
    bevel: float
    words: str


class CutRowFigures(BaseModel):
    run: str
    tags: list[str]
    pieces: list[int]
    quantity: int
    long_point: float
    short_point: float
    line_length: float
    begin: CutFigures
    end: CutFigures
    left: str
    right: str
    under: list[Flat]
    upper: list[Flat]
    side_view: list[Flat] | None
    bends: list[BendOfPiece]


class TotalFigures(BaseModel):
    pieces: int
    line_length: float
    bar: float


class Totals(BaseModel):
    runs: dict[str, TotalFigures]
    sections: dict[str, TotalFigures]
    job: TotalFigures
    items: int


class CheckFigures(BaseModel):
    kind: str
    severity: Literal["fault", "warning"]
    what: Told
    remedy: Told
    thing: str
    piece: int | None
    chainage: float
    point: Place


class JobShown(BaseModel):
    """A job as it stands at a revision, and all that follows from it. Lengths in mm, angles in degrees.

    In the answer to an edit ``made`` are the ids of new things, and ``notices`` what is to be
    told of it: what no longer follows a measure, say.
    """

    id: str
    revision: int
    undo: str | None
    redo: str | None
    job: Job
    lines: list[LineFigures]
    sections: list[SectionFigures]
    runs: list[RunFigures]
    rows: list[RowFigures]
    cutting: list[CutRowFigures]
    totals: Totals
    checks: list[CheckFigures]
    made: list[str] = []
    notices: list[Told] = []


class LibraryEntry(BaseModel):
    """A section of the starting library."""

    key: str
    family: str
    section: SectionBody
    path: str


def job_shown(opened: Opened, solved: Solved) -> JobShown:
    """Return what the interface is shown of a job."""
    job = solved.job
    totals = schedule(solved)
    uses = {section.id: sum(run.section == section.id for run in job.runs) for section in job.sections}
    return JobShown(
        id=opened.id,
        revision=opened.revision,
        undo=opened.undo,
        redo=opened.redo,
        job=job,
        lines=[line_shown(line) for line in job.lines],
        sections=[_section(section, uses[section.id]) for section in job.sections],
        runs=[_run(solved.runs[run.id], run.tag, job.section(run.section)) for run in job.runs],
        rows=[_row(row, solved.rows[row.id], job.line(row.line)) for row in job.rows],
        cutting=[_cut_row(row) for row in cutting_list(solved)],
        totals=_totals(totals),
        checks=[
            CheckFigures(**{**vars(check), "what": told_parts(check.what), "remedy": told_parts(check.remedy)}) for check in solved.checks()
        ],
    )


def _section(section: Section, runs: int) -> SectionFigures:
    return _section_figures(section).model_copy(update={"runs": runs})


@lru_cache(maxsize=512)
def _section_figures(section: Section) -> SectionFigures:
    shape = section_shape(section)

    def flat(datum: NamedDatum | PointDatum) -> Flat:
        at = datum_point(shape, datum)
        return float(at[0]), float(at[1])

    return SectionFigures(
        id=section.id,
        path=svg_path(shape),
        area=shape.area,
        perimeter=shape.perimeter,
        datums={name: flat(NamedDatum.model_validate({"name": name})) for name in named_points()},
        datum=flat(section.datum),
        beds=list(beds(section)),
        runs=0,
    )


def svg_path(shape: Shape) -> str:
    """Return a shape as the ``d`` of an SVG path, y up; arcs of circles as arcs, others finely flattened."""
    parts = []
    for loop in shape.loops:
        start = loop[0].begin
        parts.append(f"M{start[0]:.4f} {start[1]:.4f}")
        for edge in loop:
            if isinstance(edge, Arc):
                points, _ = edge.flattened(0.01)
                parts.extend(f"L{point[0]:.4f} {point[1]:.4f}" for point in points[1:])
            else:
                parts.append(f"L{edge.end[0]:.4f} {edge.end[1]:.4f}")
        parts.append("Z")
    return "".join(parts)


def _run(run: SolvedRun, tag: str, section: Section) -> RunFigures:
    course, cuts = run.course, run.cuts
    ends = course.begins + course.lengths
    if course.closed:
        ends = np.where(ends > course.length + WELD, ends - course.length, ends)
    pieces = [
        PieceFigures(
            tag=f"{tag}{i + 1}",
            begin=float(course.begins[i]),
            end=float(ends[i]),
            length=float(course.lengths[i]),
            long_point=float(cuts.long_points[i]),
            short_point=float(cuts.short_points[i]),
            begin_cut=describe_cut(Cut(float(run.mitres[i, 0]), float(run.bevels[i, 0]))),
            end_cut=describe_cut(Cut(float(run.mitres[i, 1]), float(run.bevels[i, 1]))),
            footprint=[flats(loop) for loop in run.footprints[i]],
            bends=_bends(bends_of(run, i, section)),
        )
        for i in range(course.count)
    ]
    matrix, shift = cuts.placed.matrix, cuts.placed.shift
    return RunFigures(
        id=run.id,
        key=run.key,
        origin=place(run.origin),
        length=course.length,
        closed=course.closed,
        right=cuts.placed.right,
        mirrored=cuts.placed.mirrored,
        matrix=((float(matrix[0, 0]), float(matrix[0, 1])), (float(matrix[1, 0]), float(matrix[1, 1]))),
        shift=(float(shift[0]), float(shift[1])),
        pieces=pieces,
        corners=[CornerFigures(chainage=c.chainage, point=c.point, angle=c.angle, kind=c.kind, mismatch=c.mismatch) for c in run.corners],
    )


def _row(row: Row, solved: SolvedRow, line: Line) -> RowFigures:
    out = solved.out
    item = row.item
    if isinstance(item, BoxItem):
        a, b = item.along / 2, item.across / 2
        footprint: list[Flat] = [(-a, -b), (a, -b), (a, b), (-a, b)]
    else:
        angles = np.linspace(0, 2 * np.pi, 25)[:-1]
        footprint = [(float(np.cos(t)) * item.diameter / 2, float(np.sin(t)) * item.diameter / 2) for t in angles]
    return RowFigures(
        id=row.id,
        key=solved.key,
        origin=place(solved.origin),
        length=course_of(line).length,
        closed=line.closed,
        ring=out.ring,
        count=len(out.chainages),
        left_over=sum(stretch.left_start + stretch.left_end for stretch in out.stretches),
        stretches=[
            StretchFigures(length=length, bays=s.bays, centres=s.centres, left_start=s.left_start, left_end=s.left_end, closing=s.closing)
            for s, length in zip(out.stretches, out.lengths, strict=True)
        ],
        footprint=footprint,
        height=item.height,
    )


def row_numbers(row: SolvedRow) -> bytes:
    """Return a row's places as little-endian float32: x, y, z from the row's origin (mm), heading (rad), chainage (mm)."""
    out = row.out
    return np.column_stack([out.positions - row.origin, out.headings, out.chainages]).astype("<f4").tobytes()


def _cut_row(row: CutRow) -> CutRowFigures:
    def cut(end: Cut) -> CutFigures:
        return CutFigures(mitre=end.mitre, bevel=end.bevel, words=describe_cut(end))

    return CutRowFigures(
        run=row.run,
        tags=list(row.tags),
        pieces=list(row.pieces),
        quantity=row.quantity,
        long_point=row.long_point,
        short_point=row.short_point,
        line_length=row.line_length,
        begin=cut(row.begin),
        end=cut(row.end),
        left=row.left,
        right=row.right,
        under=flats(row.picture[0]),
        upper=flats(row.picture[1]),
        side_view=None if row.side_view is None else flats(row.side_view),
        bends=_bends(row.bends),
    )


def _bends(bends: tuple[Bend, ...]) -> list[BendOfPiece]:
    return [
        BendOfPiece(kind=bend.kind, length=bend.length, radius=bend.radius, turn=bend.turn, side=bend.side, plane=bend.plane)
        for bend in bends
    ]


def _total(total: Total) -> TotalFigures:
    return TotalFigures(pieces=total.pieces, line_length=total.line_length, bar=total.bar)


def _totals(totals: Schedule) -> Totals:
    return Totals(
        runs={id: _total(total) for id, total in totals.runs.items()},
        sections={id: _total(total) for id, total in totals.sections.items()},
        job=_total(totals.job),
        items=sum(row.count for row in totals.rows.values()),
    )
