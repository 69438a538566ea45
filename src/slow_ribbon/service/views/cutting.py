"""The cutting list and the schedule as they are shown."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Final

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
    schedule_entries,
)
from slow_ribbon.core.kernel import Saw
from slow_ribbon.core.runs import Curvature
from slow_ribbon.core.solve import Solved
from slow_ribbon.service.views.lines import DrawnOutline, Point2, drawn, figure
from slow_ribbon.service.views.runs import BendOfPiece, bends_shown
from slow_ribbon.service.views.sentences import Sentence, sentence_parts

#: Pictures of pieces, a few hundred pixels wide, stray from what they draw by this much of their size.
_OF_PICTURE = 1 / 2000


class CutFigures(TypedDict):
    """An end as it is, and as it is set at the saw, in ``words`` too; ``off`` how far that is from it, mm; ``long`` where it is longest."""

    mitre: float
    bevel: float
    words: Sentence
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
    board: Point2 | None


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
    under: DrawnOutline
    upper: DrawnOutline
    side_view: DrawnOutline | None
    bends: list[BendOfPiece]
    places: list[str]
    each: list[int]
    mirrored: bool
    curvature: CurvatureFigures | None
    weight: float
    painted: float


class ScheduleLine(TypedDict):
    """A line of the schedule: its kind, and ``of`` which run, row, section or line it is.

    Its weight, kg, its painted area and that of its ground, mm², its items, and of a cord the spans and how much is cut, mm.
    """

    kind: str
    of: str
    name: Sentence
    weight: float | None
    painted: float | None
    area: float | None
    items: int | None
    spans: int | None
    cut: float | None


class TotalFigures(TypedDict):
    pieces: int
    line_length: float
    bar: float
    from_stock: float


class FittingFigures(TypedDict):
    """What closes ends or stands in corners, by its name, and how many there are of it."""

    name: Sentence
    number: int


class Totals(TypedDict):
    runs: dict[str, TotalFigures]
    sections: dict[str, TotalFigures]
    sizes: dict[str, dict[str, TotalFigures]]
    job: TotalFigures
    items: int
    fittings: list[FittingFigures]


def cut_rows_shown(rows: Sequence[CutRow], saw: Saw) -> list[CutRowFigures]:
    """Return rows of the cutting list, as they are held and set at a saw."""
    rows = [as_held(row, saw) for row in rows]
    sides = iter(drawn([side for row in rows for side in row.picture], _OF_PICTURE))
    views = iter(drawn([row.side_view for row in rows if row.side_view is not None], _OF_PICTURE))
    return [_cut_row(row, at_the_saw(row, saw), next(sides), next(sides), None if row.side_view is None else next(views)) for row in rows]


def _cut_row(row: CutRow, at_saw: AtSaw, under: DrawnOutline, upper: DrawnOutline, side_view: DrawnOutline | None) -> CutRowFigures:
    def cut(end: Cut, setting: Setting) -> CutFigures:
        return CutFigures(
            mitre=figure(end.mitre),
            bevel=figure(end.bevel),
            words=sentence_parts(setting.words),
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
        bends=bends_shown(row.bends),
        places=list(row.places),
        each=list(row.each),
        mirrored=row.mirrored,
        curvature=None if row.curvature is None else _curvature(row.curvature),
        weight=figure(row.weight),
        painted=figure(row.painted),
    )


#: Kinds of entries whose lengths are cut of something, but which are in no run.
_LENGTHS: Final = ("cord", "board")


def schedule_shown(solved: Solved) -> list[ScheduleLine]:
    """Return the schedule of a job, line after line."""
    return [
        ScheduleLine(
            kind=entry.kind,
            of=entry.of,
            name=sentence_parts(entry.name),
            weight=None if entry.weight is None else figure(entry.weight),
            painted=None if entry.painted is None else figure(entry.painted),
            items=entry.items,
            area=None if entry.area is None else figure(entry.area),
            spans=entry.total.pieces if entry.kind in _LENGTHS and entry.total is not None else None,
            cut=figure(entry.total.bar) if entry.kind in _LENGTHS and entry.total is not None else None,
        )
        for entry in schedule_entries(solved)
    ]


def _curvature(found: Curvature) -> CurvatureFigures:
    return CurvatureFigures(
        leaves=[figure(leaf) for leaf in found.leaves],
        leaf=figure(found.leaf),
        form=None if found.form is None else figure(found.form),
        kerfs=[(number, figure(centres)) for number, centres in found.kerfs],
        depth=figure(found.depth),
        board=None if found.board is None else (figure(found.board[0]), figure(found.board[1])),
    )


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
        fittings=[FittingFigures(name=sentence_parts(name), number=number) for name, number in totals.fittings.items()],
    )
