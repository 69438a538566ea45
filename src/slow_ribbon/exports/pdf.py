"""The cutting list and the schedule on paper: PDF, to be taken to the saw.

A table for each run, its head and the heads of its columns at the top of every sheet that it goes on to; a row is never parted. Lengths
are in the job's units, angles in degrees.
"""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache, partial
from html import escape
from itertools import groupby, zip_longest
from pathlib import Path
from typing import Any, Final

import numpy as np
from reportlab import rl_config
from reportlab.lib import colors
from reportlab.lib.enums import TA_RIGHT
from reportlab.lib.pagesizes import A3, A4, TABLOID, landscape, letter
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import BaseDocTemplate, Flowable, Frame, LongTable, PageTemplate, Paragraph, Spacer, TableStyle

from slow_ribbon.core.cutting import Cut, CutRow, as_held, cutting_list, describe_cut, notes_of, schedule_entries, section_named
from slow_ribbon.core.kernel import Array, Units, area_unit, format_area, format_length, format_weight, in_units, look_up, weight_unit
from slow_ribbon.core.runs import Run
from slow_ribbon.core.solve import Solved
from slow_ribbon.exports.paper import ListColumn, Printed
from slow_ribbon.sandbox import Report

#: The paper that there is, the usual one first; all of it lies on its long side.
PAPERS: Final = {"a4": A4, "a3": A3, "letter": letter, "tabloid": (TABLOID[0], TABLOID[1])}

# Pages are kept as the bytes they are compressed to: as letters (ASCII base 85) they would be a quarter longer and slower to write.
rl_config.useA85 = 0

_FONTS: Final = Path(__file__).parent / "fonts"
_MARGIN: Final = 11 * mm
_INK: Final = colors.HexColor("#22302e")
_PENCIL: Final = colors.HexColor("#5c6764")
_RULE: Final = colors.HexColor("#cfc8ba")
_TIMBER: Final = colors.HexColor("#ecdcbf")
_RED: Final = colors.HexColor("#a3302a")
_SHADE: Final = colors.HexColor("#f4f0e6")


@dataclass(frozen=True)
class _Cells:
    """What the cells of a row are made of: the row as it is held at the saw, in a job."""

    solved: Solved
    row: CutRow
    tags: str
    besides: str
    drawn: Callable[[], None]

    def length(self, millimetres: float) -> str:
        return _length(millimetres, self.solved.job.units)

    def cut(self, cut: Cut) -> str:
        return in_units(describe_cut(cut), self.solved.job.units)


@dataclass(frozen=True)
class _Column:
    """A column of the list: its head, its share of the width, whether figures stand in it, and what does.

    ``key``: the name of one that may be left out.
    """

    head: str
    share: int
    figures: bool
    cell: Callable[[_Cells], str | Flowable]
    key: ListColumn | None = None


#: How many rows go by between two reports.
_REPORTED_EVERY: Final = 20


class _Progress:
    """How far the rows of a list have come: each is made ready, then drawn."""

    def __init__(self, rows: int, report: Report) -> None:
        self._steps, self._done, self._report = 2 * rows, 0, report

    def step(self) -> None:
        """Take in that a row was made ready or drawn."""
        self._done += 1
        if self._done % _REPORTED_EVERY == 0 or self._done == self._steps:
            self._report(self._done / self._steps)


_LIST: Final = (
    _Column("Tags", 12, False, lambda of: of.tags),
    _Column("×", 6, True, lambda of: str(of.row.quantity)),
    _Column("Long point", 9, True, lambda of: of.length(of.row.long_point)),
    _Column("Short point", 9, True, lambda of: of.length(of.row.short_point), "short"),
    _Column("On the line", 9, True, lambda of: of.length(of.row.line_length), "line"),
    _Column("As it lies on the saw", 17, False, lambda of: _Picture(of.row.picture, of.drawn)),
    _Column("Begins", 15, False, lambda of: of.cut(of.row.begin), "begins"),
    _Column("Ends", 15, False, lambda of: of.cut(of.row.end), "ends"),
    _Column("Left", 7, False, lambda of: of.row.left),
    _Column("Besides", 17, False, lambda of: of.besides),
    _Column("Weight", 7, True, lambda of: format_weight(of.row.weight, of.solved.job.units), "weight"),
    _Column("Painted", 7, True, lambda of: format_area(of.row.painted, of.solved.job.units), "painted"),
    _Column("Sawn", 5, True, lambda _: _Box()),
)
_SCHEDULE: Final = (
    ("", 8, False), ("Name", 34, False), ("Pieces", 8, True), ("On the line", 12, True), ("Long points", 12, True),
    ("From stock", 12, True),
    ("Weight", 9, True), ("Painted", 9, True), ("Items", 8, True), ("Centres", 14, True), ("Left over, ground", 12, True),
)  # fmt: skip
#: What cells are written in, points, and how much of a cell's width is kept free.
_FACE: Final = "Commissioner-Regular"
_SIZE: Final = 8
_PADDING: Final = 7
#: Size of the picture of a piece, points.
_PICTURE: Final = (44 * mm, 6.5 * mm)
#: No cell holds more letters than this: a row that were higher than a sheet could stand on none.
_MOST_LETTERS: Final = 500
#: Of a row of items no more different centres than this are written out.
_MOST_CENTRES: Final = 8


@lru_cache(1)
def _styles() -> dict[str, ParagraphStyle]:
    for face in ("Regular", "Bold"):
        pdfmetrics.registerFont(TTFont(f"Commissioner-{face}", str(_FONTS / f"Commissioner-{face}.ttf")))
    base = ParagraphStyle("cell", fontName=_FACE, fontSize=_SIZE, leading=1.2 * _SIZE, textColor=_INK, splitLongWords=True)
    return {
        "cell": base,
        "figure": ParagraphStyle("figure", base, alignment=TA_RIGHT),
        "head": ParagraphStyle("head", base, fontSize=7, leading=8.4, textColor=_PENCIL),
        "head-figure": ParagraphStyle("head-figure", base, fontSize=7, leading=8.4, textColor=_PENCIL, alignment=TA_RIGHT),
        "group": ParagraphStyle("group", base, fontName="Commissioner-Bold", fontSize=9.5, leading=12),
        "total": ParagraphStyle("total", base, fontName="Commissioner-Bold", alignment=TA_RIGHT),
        "fault": ParagraphStyle("fault", base, textColor=_RED),
        "title": ParagraphStyle("title", base, fontName="Commissioner-Bold", fontSize=13, leading=17),
    }


def cutting_pdf(solved: Solved, printed: Printed | None = None, report: Report | None = None) -> bytes:
    """Return the cutting list and the schedule of a job as PDF; ``report`` is given the share done of it, now and then."""
    printed = printed or Printed()
    out = io.BytesIO()
    page = landscape(PAPERS[printed.paper])
    width = page[0] - 2 * _MARGIN
    document = BaseDocTemplate(
        out, pagesize=page, leftMargin=_MARGIN, rightMargin=_MARGIN, topMargin=_MARGIN + 7 * mm, bottomMargin=_MARGIN + 5 * mm,
        title=f"{solved.job.name}: cutting list", author="Slow Ribbon", lang="en",
    )  # fmt: skip
    frame = Frame(_MARGIN, document.bottomMargin, width, page[1] - document.topMargin - document.bottomMargin, 0, 0, 0, 0)
    document.addPageTemplates([PageTemplate(id="sheet", frames=[frame])])
    document.build(
        list(_story(solved, printed.without, width, report or _ignored)), canvasmaker=partial(_Sheets, solved.job.name, _footer(solved))
    )
    return out.getvalue()


def _ignored(_: float) -> None:
    """Take no notice of how far it has come."""


def _footer(solved: Solved) -> str:
    unit = {"mm": "Lengths in mm", "m": "Lengths in metres", "ft-in": "Lengths in feet and inches"}[solved.job.units.system]
    units = f"{unit}, weights in {weight_unit(solved.job.units)}, painted faces in {area_unit(solved.job.units)}, of each piece"
    return f"{units}; saw angles are from square. × is how many. Long and short point: the longest and the shortest edge of the piece."


class _Sheets(Canvas):  # type: ignore[misc]  # it has no types
    """A canvas that numbers its sheets and says of each how many there are, once it knows."""

    def __init__(self, name: str, footer: str, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        self._name, self._footer = name, footer
        self._kept: list[dict[str, Any]] = []

    def showPage(self) -> None:  # noqa: N802  # the name that it has there
        look_up()
        self._kept.append(dict(self.__dict__))
        self._startPage()

    def save(self) -> None:
        for number, kept in enumerate(self._kept, start=1):
            self.__dict__.update(kept)
            self._dress(number, len(self._kept))
            super().showPage()
        super().save()

    def _dress(self, number: int, count: int) -> None:
        width, height = self._pagesize
        self.setFillColor(_INK)
        self.setFont("Commissioner-Bold", 9)
        self.drawString(_MARGIN, height - _MARGIN - 2 * mm, self._name[:90])
        self.setFont("Commissioner-Regular", 8)
        self.setFillColor(_PENCIL)
        self.drawRightString(width - _MARGIN, height - _MARGIN - 2 * mm, f"sheet {number} of {count}")
        self.drawString(_MARGIN, _MARGIN - 1 * mm, self._footer)
        self.setStrokeColor(_RULE)
        self.line(_MARGIN, height - _MARGIN - 4 * mm, width - _MARGIN, height - _MARGIN - 4 * mm)


def _story(solved: Solved, without: frozenset[ListColumn], width: float, report: Report) -> Iterator[Flowable]:
    styles, job = _styles(), solved.job
    runs = {run.id: run for run in job.runs}
    rows = [as_held(row, job.saw) for row in cutting_list(solved)]
    progress = _Progress(len(rows), report)
    yield Paragraph("Cutting list", styles["title"])
    faults, _ = solved.severities()
    if faults:
        still = "One fault is" if faults == 1 else f"{faults} faults are"
        them = "it" if faults == 1 else "them"
        yield Paragraph(f"! {still} still open in this job: see to {them} before anything is sawn.", styles["fault"])
    yield Spacer(0, 2 * mm)
    if not rows:
        yield Paragraph("Nothing is cut in this job yet: give a line a section, and its pieces are listed here.", styles["cell"])
    for (id, _), group in groupby(rows, key=lambda row: (row.run, row.section.id)):
        yield _run_table(solved, runs[id], list(group), without, width, progress)
        yield Spacer(0, 4 * mm)
    entries = list(schedule_entries(solved))
    if len(entries) > 1:
        yield Paragraph("Schedule", styles["title"])
        yield Spacer(0, 2 * mm)
        yield _schedule_table(solved, width)


def _run_table(
    solved: Solved, run: Run, rows: Sequence[CutRow], without: frozenset[ListColumn], width: float, progress: _Progress
) -> LongTable:
    styles, units, section = _styles(), solved.job.units, rows[0].section
    columns = [column for column in _LIST if column.key is None or column.key not in without]
    size = f"{_length(section.width, units)} × {_length(section.height, units)}" + (f", {run.size}" if run.size else "")
    pieces = sum(row.quantity for row in rows)
    head = f"{run.name} · {section_named(solved, rows[0])} {size} · {section.material} · {pieces} {'piece' if pieces == 1 else 'pieces'}"
    heads = [(column.head, column.share, column.figures) for column in columns]
    body: list[list[Any]] = [[Paragraph(escape(head), styles["group"])] + [""] * (len(columns) - 1), _heads(heads)]
    widths = _widths(heads, width)
    for row in rows:
        look_up()
        progress.step()
        tags, besides = _parted(row.tags, " "), _parted(_besides(solved, row, without), "; ")
        # What there is no room for goes on below, in the columns that it stands in.
        for number, (some, others) in enumerate(zip_longest(tags, besides, fillvalue="")):
            cells = _Cells(solved, row, some, others, progress.step)
            there = [column if not number or column.head in ("Tags", "Besides") else None for column in columns]
            body.append([_cell(column, cells, wide) if column else "" for column, wide in zip(there, widths, strict=True)])
    together = {
        "Tags": Paragraph("together", styles["head"]),
        "Long point": Paragraph(_length(sum(row.long_point * row.quantity for row in rows), units), styles["total"]),
        "On the line": Paragraph(_length(sum(row.line_length * row.quantity for row in rows), units), styles["total"]),
        "Weight": Paragraph(format_weight(sum(row.weight * row.quantity for row in rows), units), styles["total"]),
        "Painted": Paragraph(format_area(sum(row.painted * row.quantity for row in rows), units), styles["total"]),
    }
    body.append([together.get(column.head, "") for column in columns])
    table = LongTable(body, widths, repeatRows=2, hAlign="LEFT")
    figures = [("ALIGN", (at, 2), (at, -1), "RIGHT") for at, column in enumerate(columns) if column.figures]
    table.setStyle(TableStyle([*_LOOK, *figures, ("SPAN", (0, 0), (-1, 0)), ("LINEBELOW", (0, -2), (-1, -2), 0.6, _INK)]))
    return table


def _cell(column: _Column, cells: _Cells, wide: float) -> str | Flowable:
    """Return what stands in a cell: a text as it is where there is room for it, which is drawn much faster than what may be parted."""
    found = column.cell(cells)
    if isinstance(found, Flowable) or stringWidth(found, _FACE, _SIZE) <= wide - _PADDING:
        return found
    return (_figure if column.figures else _words)(found)


#: How every table looks: a head on a shade, a rule below each row, all in the middle of its row.
_LOOK: Final = (
    ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
    ("FONT", (0, 0), (-1, -1), _FACE, _SIZE, 1.2 * _SIZE),
    ("TEXTCOLOR", (0, 0), (-1, -1), _INK),
    ("BACKGROUND", (0, 0), (-1, 0), _SHADE),
    ("LINEBELOW", (0, 1), (-1, -1), 0.3, _RULE),
    ("LEFTPADDING", (0, 0), (-1, -1), 3),
    ("RIGHTPADDING", (0, 0), (-1, -1), 4),
    ("TOPPADDING", (0, 0), (-1, -1), 1.6),
    ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
)


def _schedule_table(solved: Solved, width: float) -> LongTable:
    units, saw = solved.job.units, solved.job.saw
    body: list[list[Any]] = [_heads(_SCHEDULE)]
    for entry in schedule_entries(solved):
        look_up()
        total, row = entry.total, entry.row
        figures = ["", "", "", ""]
        if total is not None:
            lengths = (total.line_length, total.bar, total.from_stock(saw))
            figures = [str(total.pieces), *(_length(length, units) for length in lengths)]
        spaced = ["", "" if entry.area is None else format_area(entry.area, units)]
        if row is not None:
            written = [_length(centres, units) for centres in row.centres[:_MOST_CENTRES]]
            others = len(row.centres) - len(written)
            spaced = [", ".join(written) + (f" and {others} others" if others else ""), _length(row.left_over, units)]
        weight = "" if entry.weight is None else format_weight(entry.weight, units)
        painted = "" if entry.painted is None else format_area(entry.painted, units)
        cells = [*figures, weight, painted, "" if entry.items is None else str(entry.items), *spaced]
        body.append([_words(entry.kind), _words(in_units(entry.name, units)), *(_figure(text) for text in cells)])
    table = LongTable(body, _widths(_SCHEDULE, width), repeatRows=1, hAlign="LEFT")
    table.setStyle(TableStyle([*_LOOK, ("LINEABOVE", (0, -1), (-1, -1), 0.6, _INK)]))
    return table


def _length(millimetres: float, units: Units) -> str:
    """Return a length whose thousands stay on its line."""
    return format_length(millimetres, units).replace("\u2009", "\u00a0")


def _heads(columns: Sequence[tuple[str, int, bool]]) -> list[Paragraph]:
    styles = _styles()
    return [Paragraph(escape(head), styles["head-figure" if figures else "head"]) for head, _, figures in columns]


def _widths(columns: Sequence[tuple[str, int, bool]], width: float) -> list[float]:
    whole = sum(share for _, share, _ in columns)
    return [width * share / whole for _, share, _ in columns]


def _figure(text: str) -> Paragraph:
    return Paragraph(escape(text), _styles()["figure"])


def _words(text: str) -> Paragraph:
    return Paragraph(escape(text), _styles()["cell"])


def _parted(words: Sequence[str], between: str) -> list[str]:
    """Return words joined into texts of no more than ``_MOST_LETTERS`` each, one at least; a longer word is a text by itself."""
    texts = [""]
    for word in words:
        longer = f"{texts[-1]}{between}{word}" if texts[-1] else word
        if len(longer) <= _MOST_LETTERS or not texts[-1]:
            texts[-1] = longer
        else:
            texts.append(word)
    return texts


def _besides(solved: Solved, row: CutRow, without: frozenset[ListColumn]) -> list[str]:
    """Return what else is to be known of the pieces of a row: their part, hand and places, how they bend, their notes where wanted."""
    units = solved.job.units
    words = [row.part, "mirrored" if row.mirrored else "", *row.places]
    if row.centroid_length is not None:
        words.append(f"{_length(row.centroid_length, units)} along the centroid")
    for bend in row.bends:
        if bend.toward is not None:
            radius = "" if bend.radius is None else f" at R {_length(bend.radius, units)}"
            words.append(f"bends {bend.turn:.1f}°{radius}, {bend.side}")
    return [word for word in (*words, *(() if "notes" in without else notes_of(solved, row))) if word]


class _Box(Flowable):  # type: ignore[misc]  # it has no types
    """A box to be ticked."""

    def wrap(self, width: float, height: float) -> tuple[float, float]:
        self.width, self.height = width, 3.4 * mm
        return width, self.height

    def draw(self) -> None:
        self.canv.setStrokeColor(_PENCIL)
        self.canv.setLineWidth(0.6)
        self.canv.rect(self.width - self.height, 0, self.height, self.height)


class _Picture(Flowable):  # type: ignore[misc]  # it has no types
    """A piece as it lies on the saw, its lower side to the front of the table; long ones are shortened in their middle.

    Its ends are to one scale in both directions, so that their angles are true; what bends is drawn whole.
    """

    def __init__(self, picture: tuple[Array, Array], drawn: Callable[[], None]) -> None:
        super().__init__()
        self._sides, self._drawn = picture, drawn

    def wrap(self, width: float, height: float) -> tuple[float, float]:
        self.width, self.height = min(width, _PICTURE[0]), _PICTURE[1]
        return self.width, self.height

    def draw(self) -> None:
        self._drawn()
        corners = np.concatenate(self._sides)
        (left, low), (right, high) = corners.min(axis=0), corners.max(axis=0)
        across, along = max(float(high - low), 1e-6), max(float(right - left), 1e-6)
        scale = self.height / across
        if all(len(side) == 4 for side in self._sides):
            over = max(0.0, along * scale - self.width)
        else:
            scale, over = min(scale, self.width / along), 0.0
        middle = (left + right) / 2
        self.canv.setStrokeColor(_INK)
        self.canv.setLineWidth(0.5)
        for side, fill in zip(self._sides, (_RULE, _TIMBER), strict=True):
            x = (side[:, 0] - left) * scale - np.where(side[:, 0] > middle, over, 0.0)
            y = (side[:, 1] - low) * scale + (self.height - across * scale) / 2
            path = self.canv.beginPath()
            path.moveTo(float(x[0]), float(y[0]))
            for px, py in zip(x[1:].tolist(), y[1:].tolist(), strict=True):
                path.lineTo(px, py)
            path.close()
            self.canv.setFillColor(fill)
            self.canv.drawPath(path, stroke=1, fill=1)
        if over:
            # A break in the middle: what is left out.
            at = self.width / 2
            self.canv.setStrokeColor(colors.white)
            self.canv.setLineWidth(2.2)
            self.canv.line(at - 1.2, -0.5, at + 1.2, self.height + 0.5)
