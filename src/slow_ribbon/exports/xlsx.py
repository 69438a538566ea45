"""The cutting list as a workbook (Office Open XML): a sheet for each section, one of totals and one of bends, figures as numbers."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator, Sequence
from typing import Any, Final

import xlsxwriter

from slow_ribbon.core.cutting import (
    CutRow,
    Setting,
    as_held,
    at_the_saw,
    cutting_list,
    describe_cut,
    item_places,
    items_by_kind,
    notes_of,
    schedule_entries,
)
from slow_ribbon.core.kernel import look_up, plain
from slow_ribbon.core.runs import Run
from slow_ribbon.core.solve import Solved

_Column = tuple[str, int, str]
#: Heads of a section's sheet, their widths in characters, and how the figures under them are written.
_PIECES: Final = (
    ("Tags", 22, ""), ("Run", 26, ""), ("Size, mm", 12, ""), ("Quantity", 9, "0"), ("Long point, mm", 14, "0.0"),
    ("Short point, mm", 14, "0.0"), ("On the line, mm", 14, "0.0"), ("Begins: mitre, °", 14, "0.00"), ("Begins: bevel, °", 14, "0.00"),
    ("Begins", 22, ""), ("Ends: mitre, °", 14, "0.00"), ("Ends: bevel, °", 14, "0.00"), ("Ends", 22, ""), ("Left on the saw", 14, ""),
    ("Part", 10, ""), ("At the centroid, mm", 14, "0.0"), ("Stands in", 30, ""), ("Hand", 10, ""),
    ("Stop, mm", 12, "0.0"), ("Begins, set", 26, ""), ("Ends, set", 26, ""), ("Off, mm", 9, "0.00"),
    ("Notes", 40, ""), ("Weight, kg", 12, "0.00"), ("Painted, m²", 12, "0.000"),
)  # fmt: skip
_TOTALS: Final = (
    ("What", 10, ""), ("Name", 34, ""), ("Pieces", 9, "0"), ("On the line, mm", 16, "0.0"), ("Long points, mm", 16, "0.0"),
    ("Items", 9, "0"), ("From stock, mm", 16, "0.0"), ("Weight, kg", 12, "0.00"), ("Painted, m²", 12, "0.000"),
    ("Ground, m²", 12, "0.000"),
)  # fmt: skip
_BENDS: Final = (
    ("Tags", 22, ""), ("Run", 26, ""), ("Part", 6, "0"), ("Kind", 10, ""), ("Length, mm", 12, "0.0"), ("Bends, °", 10, "0.00"),
    ("At R, mm", 12, "0.0"), ("Which way", 36, ""), ("Plane turned, °", 14, "0.00"),
)  # fmt: skip
_ITEMS: Final = (
    ("Number", 12, ""), ("Row", 26, ""), ("Item", 36, ""), ("Size", 8, "0.000"), ("Chainage, mm", 14, "0.0"),
    ("East, m", 14, "0.0000"), ("North, m", 14, "0.0000"),
    ("Level, m", 12, "0.0000"), ("Bearing, °", 12, "0.00"), ("Tilt, °", 10, "0.00"), ("Hanger, mm", 12, "0.0"),
)  # fmt: skip
#: More items than this are a list for a machine, and would take a workbook minutes to open.
_MOST_ITEMS: Final = 100_000
#: What a sheet's name may not hold, and how long it may be (ECMA-376, part 1, 18.2.19, and common readers).
_NOT_IN_NAMES: Final = re.compile(r"[\[\]:*?/\\]")
_LONGEST: Final = 31


def cutting_xlsx(solved: Solved) -> bytes:
    """Return the cutting list of a job as a workbook."""
    out = io.BytesIO()
    # What people call things is never run as a formula, nor made a link.
    options = {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False}
    with xlsxwriter.Workbook(out, options) as book:
        book.set_properties({"title": f"{solved.job.name}: cutting list"})
        sheets = _Sheets(book)
        runs = {run.id: run for run in solved.job.runs}
        rows = [as_held(row, solved.job.saw) for row in cutting_list(solved)]
        for section in solved.job.sections:
            own = [row for row in rows if row.section.id == section.id]
            if own:
                sheets.add(section.name, _PIECES, [_piece(solved, runs[row.run], row) for row in own], "Long point, mm", "Quantity")
        sheets.add("Totals", _TOTALS, list(_totals(solved)))
        bends = [line for row in rows for line in _bends(runs[row.run], row)]
        if bends:
            sheets.add("Bends", _BENDS, bends)
        items = list(_items(solved))
        if items:
            sheets.add("Items", _ITEMS, items)
    return out.getvalue()


class _Sheets:
    """The sheets of a workbook, each with heads that stay in sight and can be sorted and filtered by."""

    def __init__(self, book: Any) -> None:
        self._book = book
        self._head = book.add_format({"bold": True, "text_wrap": True, "valign": "top", "bottom": 1})
        self._bold = book.add_format({"bold": True, "top": 1})
        self._names: set[str] = set()

    def add(self, name: str, columns: Sequence[_Column], rows: Sequence[Sequence[Any]], summed: str = "", by: str = "") -> None:
        sheet = self._book.add_worksheet(self._name(name))
        sheet.freeze_panes(1, 1)
        sheet.set_landscape()
        sheet.fit_to_pages(1, 0)
        sheet.repeat_rows(0)
        for at, (head, width, form) in enumerate(columns):
            sheet.set_column(at, at, width, self._book.add_format({"num_format": form} if form else {}))
            sheet.write_string(0, at, head, self._head)
        for down, row in enumerate(rows, start=1):
            look_up()
            for at, value in enumerate(row):
                if value is None:
                    continue
                write = sheet.write_string if isinstance(value, str) else sheet.write_number
                write(down, at, value)
        if rows:
            sheet.autofilter(0, 0, len(rows), len(columns) - 1)
        if summed:
            heads = [head for head, _, _ in columns]
            figure, times = heads.index(summed), heads.index(by)
            total = sum(row[figure] * row[times] for row in rows)
            sheet.write_string(len(rows) + 2, 0, f"{summed.split(',')[0]}s together, mm", self._bold)
            first, second = (xlsxwriter.utility.xl_col_to_name(at) for at in (figure, times))
            last = len(rows) + 1
            sheet.write_formula(len(rows) + 2, figure, f"=SUMPRODUCT({first}2:{first}{last},{second}2:{second}{last})", self._bold, total)

    def _name(self, wanted: str) -> str:
        """Return a name for a sheet, none of them twice, whatever the case of its letters."""
        plain = _NOT_IN_NAMES.sub("-", wanted).strip("' ") or "Section"
        name, number = plain[:_LONGEST], 1
        while name.lower() in self._names or name.lower() == "history":
            number += 1
            name = f"{plain[: _LONGEST - len(str(number)) - 3]} ({number})"
        self._names.add(name.lower())
        return name


def _piece(solved: Solved, run: Run, row: CutRow) -> list[Any]:
    section = row.section
    size = f"{section.width:g} × {section.height:g}" + (f", {run.size}" if run.size else "")
    found: list[Any] = [", ".join(row.tags), run.name, size, row.quantity, row.long_point, row.short_point, row.line_length]
    for cut in (row.begin, row.end):
        found += [cut.mitre, cut.bevel, plain(describe_cut(cut))]
    more: list[Any] = [", ".join(row.places) or None, "mirrored" if row.mirrored else None]
    at_saw = at_the_saw(row, solved.job.saw)
    notes = "; ".join(notes_of(solved, row)) or None
    more += [at_saw.stop, _set(at_saw.begin), _set(at_saw.end), max(at_saw.begin.off, at_saw.end.off)]
    return [*found, f"{row.left} left", row.part, row.centroid_length, *more, notes, row.weight, row.painted * 1e-6]


def _set(setting: Setting) -> str:
    return ", ".join(word for word in (f"{setting.mitre:.2f}° / {setting.bevel:.2f}°", setting.long) if word)


def _totals(solved: Solved) -> Iterator[list[Any]]:
    for entry in schedule_entries(solved):
        total = entry.total
        pieces = [None] * 3 if total is None else [total.pieces, total.line_length, total.bar]
        stock = None if total is None else total.from_stock(solved.job.saw)
        painted = None if entry.painted is None else entry.painted * 1e-6
        area = None if entry.area is None else entry.area * 1e-6
        yield [entry.kind, plain(entry.name), *pieces, entry.items, stock, entry.weight, painted, area]


def _bends(run: Run, row: CutRow) -> Iterator[list[Any]]:
    for number, part in enumerate(row.bends, start=1):
        turn = part.turn if part.side else None
        yield [", ".join(row.tags), run.name, number, part.kind, part.length, turn, part.radius, part.side, part.plane]
    yield from _made_of(run, row)


def _items(solved: Solved) -> Iterator[list[Any]]:
    count = sum(items_by_kind(solved).values())
    if count > _MOST_ITEMS:
        yield [f"{count:,} items: they are listed in items.csv"]
        return
    for one in item_places(solved):
        look_up()
        east, north, level = (value / 1000 for value in one.point)
        name = solved.job.row(one.row).name
        yield [one.number, name, plain(one.name), one.size, one.chainage, east, north, level, one.bearing, one.tilt, one.hanger]


def _made_of(run: Run, row: CutRow) -> Iterator[list[Any]]:
    """Yield the leaves of a laminated piece, its kerfs, or the board that it is sawn from, a row each."""
    found, begin = row.curvature, [", ".join(row.tags), run.name]
    if found is None:
        return
    for number, leaf in enumerate(found.leaves, start=1):
        yield [*begin, number, "leaf", leaf, None, found.form, f"{found.leaf:.2f} thick"]
    for number, (count, centres) in enumerate(found.kerfs, start=1):
        yield [*begin, number, "kerfs", centres, None, None, f"{count} kerfs {found.depth:.1f} deep, centres"]
    if found.board is not None:
        yield [*begin, 1, "board", found.board[0], None, None, f"{found.board[1]:.1f} wide"]
