"""What the interface is shown of a job: the document and everything that follows from it.

Figures are plain data, written as they are. Lengths go out to a ten-thousandth of a millimetre and
what is only drawn to a tenth: finer than any saw or screen, and a fraction of what else would travel.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Literal

import numpy as np
from pydantic import BaseModel
from typing_extensions import TypedDict

from slow_ribbon.core.cutting import (
    NOTHING,
    AtSaw,
    Cut,
    CutRow,
    Schedule,
    Setting,
    Total,
    as_held,
    at_the_saw,
    bends_of,
    cut_of,
    describe_cut,
    part_of,
)
from slow_ribbon.core.kernel import WELD, Check, Mend, Saw, kept_with, plain
from slow_ribbon.core.lines import Line, course_of
from slow_ribbon.core.rows import Row
from slow_ribbon.core.runs import Bend, Curvature, Kind
from slow_ribbon.core.sections import (
    Arc,
    Curve,
    NamedDatum,
    PointDatum,
    Section,
    SectionBody,
    Shape,
    beds,
    datum_point,
    flattened,
    in_row,
    named_points,
    section_shape,
)
from slow_ribbon.core.solve import SolvedRow, SolvedRun, drawn_as
from slow_ribbon.service.views.desk import SectionDrawn, section_drawn
from slow_ribbon.service.views.lines import Drawn, Flat, Place, drawn, drawn_together, figure, flats, place
from slow_ribbon.service.views.sentences import Told, told_parts

#: Pictures of pieces, a few hundred pixels wide, stray from what they draw by so much of their size.
_OF_PICTURE = 1 / 2000


class RowOfRange(TypedDict):
    """A row of a section's range: its size, mm, and its outline as an SVG path likewise."""

    name: str
    width: float
    height: float
    wall: float | None
    path: str


class SectionFigures(TypedDict):
    """A section's figures. ``path`` is its outline as an SVG path, y up, its box from the origin."""

    id: str
    path: str
    area: float
    perimeter: float
    datums: dict[str, Flat]
    datum: Flat
    beds: list[int]
    drawn: SectionDrawn
    range: list[RowOfRange]


class BendOfPiece(TypedDict):
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


class PieceFigures(TypedDict):
    """A piece: ``part`` says what it is where it is no length of the run, as in the cutting list."""

    tag: str
    part: str
    begin: float
    end: float
    length: float
    long_point: float
    short_point: float
    begin_cut: Told
    end_cut: Told
    footprint: list[Drawn]
    bends: list[BendOfPiece]


class CornerFigures(TypedDict):
    chainage: float
    point: Place
    angle: float
    kind: Kind
    mismatch: float
    made: str
    vertex: int | None
    own: bool


class RunFigures(TypedDict):
    """A run solved. ``key`` names its mesh, and runs whose ``drawn_as`` is the same have the same one; ``matrix`` and ``shift`` take
    section points to (right, up) of the line.

    ``strays`` is how far facets are off the line, where its curves are made so.
    """

    id: str
    key: str
    drawn_as: str
    origin: Place
    length: float
    closed: bool
    right: bool
    mirrored: bool
    matrix: tuple[Flat, Flat]
    shift: Flat
    pieces: list[PieceFigures]
    corners: list[CornerFigures]
    joints: list[float]
    strays: float | None


class StretchFigures(TypedDict):
    length: float
    bays: int
    centres: float
    left_start: float
    left_end: float
    closing: float | None
    gap: float | None


class RowFigures(TypedDict):
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


class CutFigures(TypedDict):
    """An end as it is, and as it is set at the saw, in ``words`` too; ``off`` how far that is from it, mm; ``long`` where it is longest."""

    mitre: float
    bevel: float
    words: Told
    set_mitre: float
    set_bevel: float
    off: float
    long: str


class CurvatureFigures(TypedDict):
    """What a piece whose curve is not bent in one is made of, as ``Curvature``; ``kerfs`` are how many and at what centres."""

    leaves: list[float]
    leaf: float
    form: float | None
    kerfs: list[tuple[int, float]]
    depth: float
    board: Flat | None


class CutRowFigures(TypedDict):
    run: str
    section: str
    tags: list[str]
    pieces: list[int]
    quantity: int
    part: str
    centroid_length: float | None
    long_point: float
    short_point: float
    line_length: float
    stop: float
    begin: CutFigures
    end: CutFigures
    left: str
    right: str
    under: Drawn
    upper: Drawn
    side_view: Drawn | None
    bends: list[BendOfPiece]
    places: list[str]
    each: list[int]
    mirrored: bool
    curvature: CurvatureFigures | None


class TotalFigures(TypedDict):
    pieces: int
    line_length: float
    bar: float
    from_stock: float


class FittingFigures(TypedDict):
    """What closes ends or stands in corners, by its name, and how many there are of it."""

    name: Told
    number: int


class Totals(TypedDict):
    runs: dict[str, TotalFigures]
    sections: dict[str, TotalFigures]
    sizes: dict[str, dict[str, TotalFigures]]
    job: TotalFigures
    items: int
    fittings: list[FittingFigures]


class CheckFigures(TypedDict):
    """A check; ``key`` is what it is accepted by, ``keys`` all that it may have been; ``said`` what it says in millimetres."""

    key: str
    keys: list[str]
    said: str
    kind: str
    severity: Literal["fault", "warning"]
    what: Told
    remedy: Told
    thing: str
    piece: int | None
    chainage: float
    point: Place
    mends: list[Mend]


class LibraryEntry(BaseModel):
    """A section of the starting library; ``standard`` is what its size is of, empty for our own."""

    key: str
    family: str
    standard: str
    section: SectionBody
    path: str


@kept_with
def section_shown(section: Section) -> SectionFigures:
    """Return a section's figures."""
    shape = section_shape(section)

    def flat(datum: NamedDatum | PointDatum) -> Flat:
        at = datum_point(shape, datum)
        return figure(at[0]), figure(at[1])

    return SectionFigures(
        id=section.id,
        path=svg_path(shape),
        area=shape.area,
        perimeter=shape.perimeter,
        datums={name: flat(NamedDatum.model_validate({"name": name})) for name in named_points()},
        datum=flat(section.datum),
        beds=list(beds(section)),
        drawn=section_drawn(section),
        range=[_row_of_range(row.name, in_row(section, row.name)) for row in section.range],
    )


def _row_of_range(name: str, made: Section) -> RowOfRange:
    return RowOfRange(name=name, width=made.width, height=made.height, wall=made.wall, path=svg_path(section_shape(made)))


def how_it_looks(section: SectionBody) -> str:
    """Return a section at its size as the ``d`` of an SVG path."""
    return svg_path(section_shape(section))


def svg_path(shape: Shape) -> str:
    """Return a shape as the ``d`` of an SVG path, y up; curves as they are, arcs finely flattened."""
    parts = []
    for loop in shape.loops:
        start = loop[0].begin
        parts.append(f"M{start[0]:.4f} {start[1]:.4f}")
        for edge in loop:
            if isinstance(edge, Curve):
                parts.append("C" + " ".join(f"{x:.4f} {y:.4f}" for x, y in edge.points[1:].tolist()))
            elif isinstance(edge, Arc):
                points, _ = flattened(edge, 0.01)
                parts.extend(f"L{point[0]:.4f} {point[1]:.4f}" for point in points[1:])
            else:
                parts.append(f"L{edge.end[0]:.4f} {edge.end[1]:.4f}")
        parts.append("Z")
    return "".join(parts)


def run_shown(run: SolvedRun) -> RunFigures:
    """Return a run's figures."""
    course, cuts = run.course, run.cuts
    ends = course.begins + course.lengths
    if course.closed:
        ends = np.where(ends > course.length + WELD, ends - course.length, ends)
    footprints = drawn_together(run.footprints)
    pieces = [
        PieceFigures(
            tag=run.tags[i],
            part=part_of(run, i),
            begin=figure(course.begins[i]),
            end=figure(ends[i]),
            length=figure(cuts.line_lengths[i]),
            long_point=figure(cuts.long_points[i]),
            short_point=figure(cuts.short_points[i]),
            begin_cut=told_parts(describe_cut(cut_of(run, i, False))),
            end_cut=told_parts(describe_cut(cut_of(run, i, True))),
            footprint=footprints[i],
            bends=_bends(bends_of(run, i)),
        )
        for i in range(course.count)
    ]
    matrix, shift = cuts.placed.matrix, cuts.placed.shift
    return RunFigures(
        id=run.id,
        key=run.key,
        drawn_as=drawn_as(run),
        origin=place(run.origin),
        length=figure(course.length),
        closed=course.closed,
        right=cuts.placed.right,
        mirrored=cuts.placed.mirrored,
        matrix=((float(matrix[0, 0]), float(matrix[0, 1])), (float(matrix[1, 0]), float(matrix[1, 1]))),
        shift=(float(shift[0]), float(shift[1])),
        pieces=pieces,
        corners=[
            CornerFigures(
                chainage=figure(c.chainage),
                point=place(c.point),
                angle=figure(c.angle),
                kind=c.kind,
                mismatch=figure(c.mismatch),
                made=c.made,
                vertex=c.vertex,
                own=c.own,
            )
            for c in run.corners
        ],
        joints=[figure(at) for at in run.joints],
        strays=None if run.strays is None else figure(run.strays),
    )


def row_shown(row: Row, solved: SolvedRow, line: Line) -> RowFigures:
    """Return a row's figures."""
    out = solved.out
    item = row.item
    if item.circle is None:
        a, b = item.sides[0] / 2, item.sides[1] / 2
        footprint: list[Flat] = [(-a, -b), (a, -b), (a, b), (-a, b)]
    else:
        angles = np.linspace(0, 2 * np.pi, 25)[:-1]
        footprint = flats(np.column_stack([np.cos(angles), np.sin(angles)]) * item.circle / 2)
    return RowFigures(
        id=row.id,
        key=solved.key,
        origin=place(solved.origin),
        length=figure(course_of(line).length),
        closed=line.closed,
        ring=out.ring,
        count=len(out.chainages),
        left_over=figure(sum(stretch.left_start + stretch.left_end for stretch in out.stretches)),
        stretches=[
            StretchFigures(
                length=figure(length),
                bays=s.bays,
                centres=figure(s.centres),
                left_start=figure(s.left_start),
                left_end=figure(s.left_end),
                closing=None if s.closing is None else figure(s.closing),
                gap=None if s.gap is None else figure(s.gap),
            )
            for s, length in zip(out.stretches, out.lengths, strict=True)
        ],
        footprint=footprint,
        height=item.height,
    )


def row_numbers(row: SolvedRow) -> bytes:
    """Return a row's places as little-endian float32: x, y, z from the row's origin (mm), heading (rad), chainage (mm)."""
    out = row.out
    return np.column_stack([out.positions - row.origin, out.headings, out.chainages]).astype("<f4").tobytes()


def cut_rows_shown(rows: Sequence[CutRow], saw: Saw) -> list[CutRowFigures]:
    """Return rows of the cutting list, as they are held and set at a saw."""
    rows = [as_held(row, saw) for row in rows]
    sides = iter(drawn([side for row in rows for side in row.picture], _OF_PICTURE))
    views = iter(drawn([row.side_view for row in rows if row.side_view is not None], _OF_PICTURE))
    return [_cut_row(row, at_the_saw(row, saw), next(sides), next(sides), None if row.side_view is None else next(views)) for row in rows]


def _cut_row(row: CutRow, at_saw: AtSaw, under: Drawn, upper: Drawn, side_view: Drawn | None) -> CutRowFigures:
    def cut(end: Cut, setting: Setting) -> CutFigures:
        return CutFigures(
            mitre=figure(end.mitre),
            bevel=figure(end.bevel),
            words=told_parts(setting.words),
            set_mitre=figure(setting.mitre),
            set_bevel=figure(setting.bevel),
            off=figure(setting.off),
            long=setting.long,
        )

    return CutRowFigures(
        run=row.run,
        section=row.section.id,
        tags=list(row.tags),
        pieces=list(row.pieces),
        quantity=row.quantity,
        part=row.part,
        centroid_length=None if row.centroid_length is None else figure(row.centroid_length),
        long_point=figure(row.long_point),
        short_point=figure(row.short_point),
        line_length=figure(row.line_length),
        stop=figure(at_saw.stop),
        begin=cut(row.begin, at_saw.begin),
        end=cut(row.end, at_saw.end),
        left=row.left,
        right=row.right,
        under=under,
        upper=upper,
        side_view=side_view,
        bends=_bends(row.bends),
        places=list(row.places),
        each=list(row.each),
        mirrored=row.mirrored,
        curvature=None if row.curvature is None else _curvature(row.curvature),
    )


def _curvature(found: Curvature) -> CurvatureFigures:
    return CurvatureFigures(
        leaves=[figure(leaf) for leaf in found.leaves],
        leaf=figure(found.leaf),
        form=None if found.form is None else figure(found.form),
        kerfs=[(number, figure(centres)) for number, centres in found.kerfs],
        depth=figure(found.depth),
        board=None if found.board is None else (figure(found.board[0]), figure(found.board[1])),
    )


def _bends(bends: tuple[Bend, ...]) -> list[BendOfPiece]:
    return [
        BendOfPiece(
            kind=bend.kind,
            length=figure(bend.length),
            radius=None if bend.radius is None else figure(bend.radius),
            turn=figure(bend.turn),
            side=bend.side,
            plane=None if bend.plane is None else figure(bend.plane),
        )
        for bend in bends
    ]


def checks_shown(checks: Sequence[Check]) -> list[CheckFigures]:
    """Return the checks of a run or row."""
    return [
        CheckFigures(
            key=check.key,
            keys=list(check.keys),
            said=plain(check.what),
            kind=check.kind,
            severity=check.severity,
            what=told_parts(check.what),
            remedy=told_parts(check.remedy),
            thing=check.thing,
            piece=check.piece,
            chainage=figure(check.chainage),
            point=place(check.point),
            mends=list(check.mends),
        )
        for check in checks
    ]


def _total(total: Total, saw: Saw) -> TotalFigures:
    stock = figure(total.from_stock(saw))
    return TotalFigures(pieces=total.pieces, line_length=figure(total.line_length), bar=figure(total.bar), from_stock=stock)


def totals_shown(totals: Schedule, saw: Saw, runs: Collection[str], sections: Collection[str]) -> Totals:
    """Return totals of the job, and of some of its runs and sections."""
    return Totals(
        runs={id: _total(totals.runs[id], saw) for id in runs},
        sections={id: _total(totals.sections.get(id, NOTHING), saw) for id in sections},
        sizes={id: {size: _total(total, saw) for size, total in totals.sizes.get(id, {}).items()} for id in sections},
        job=_total(totals.job, saw),
        items=sum(row.count for row in totals.rows.values()),
        fittings=[FittingFigures(name=told_parts(name), number=number) for name, number in totals.fittings.items()],
    )
