"""Surveyed points as text: number, east, north, height and code in columns that are recognised and can be changed.

Points are joined in the order of the file, all together or those of one code; a code that ends
where it began is closed by the joining itself.
"""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from pathlib import Path
from typing import Final

import numpy as np

from slow_ribbon.core.kernel import Point3, Refused
from slow_ribbon.imports.drawing import Drawing, Question, TableSeen
from slow_ribbon.imports.edges import Edges
from slow_ribbon.imports.geojson import placed_on_the_ground
from slow_ribbon.imports.options import ENCODING_NAMES, UNIT_NAMES, UNITS, Column, Options
from slow_ribbon.imports.points.column_names import are_degrees, column_of, unit_of
from slow_ribbon.imports.points.text_table import TextTable, decoded, read_table
from slow_ribbon.imports.progress import in_shares

#: More points than this are no survey that is worked with line by line.
MOST: Final = 500_000
#: What surveys write where they have no height.
_NONE: Final = frozenset(("", "-", "--", "---", "?", "*", "na", "n/a", "nan", "none", "null", "-9999", "-99999", "-9999.0", "-9999.000"))
#: Rows of a table that are shown.
_SHOWN: Final = 6
_SET_APART: Final = {",": "commas", ";": "semicolons", "tab": "tabs", "space": "spaces", "|": "vertical bars"}


@dataclass(frozen=True)
class Surveyed:
    """A point of a survey: mm, its height nothing where the row gives none."""

    number: str
    code: str
    east: float
    north: float
    height: float | None


def read_points(path: Path, options: Options) -> Drawing:
    """Return the edges between surveyed points, in mm.

    What must be said before there are any, which column is which say, or a row that does not
    fit, is a ``Question`` of the drawing, and the table is there to answer it. Raises ``Refused``
    where the file is no text.
    """
    text, encoding = decoded(path.read_bytes(), options.encoding)
    table = read_table(text, encoding, options.delimiter, options.decimal, options.header)
    columns = options.columns or _columns(table)
    edges = Edges()
    units = _units(table, columns, options)
    degrees = options.degrees if options.degrees is not None else options.unit is None and are_degrees(table.header or ())
    if degrees:
        units = {**units, "east": "degrees", "north": "degrees"}
    try:
        if options.columns is None:
            columns = _geodetic(table, columns)
        points = _points(table, columns, units)
        if degrees:
            points = _projected(points, edges)
    except Refused as refused:
        points, edges.question = [], Question(refused.what, refused.where, refused.code)
    edges.points = _joined(points, options, edges)
    edges.table = TableSeen(
        encoding=table.encoding,
        delimiter=table.delimiter,
        decimal=table.decimal,
        header=table.header is not None,
        columns=columns,
        names=table.header or (),
        rows=tuple(row for _, row in table.rows[:_SHOWN]),
        count=len(table.rows),
        without_height=sum(point.height is None for point in points) if "height" in columns else 0,
    )
    if points:
        edges.notes[:0] = _notes(table, columns, points)
    said = degrees or options.unit is not None or any(unit_of(name) for name in table.header or ())
    return edges.drawing("degrees" if degrees else UNIT_NAMES[units.get("east", "m")], said)


def _projected(points: Sequence[Surveyed], edges: Edges) -> list[Surveyed]:
    """Return points whose east and north are longitude and latitude, degrees, as mm on the ground."""
    rows = np.array([(point.east, point.north, 0.0) for point in points], dtype=float).reshape(-1, 3)
    if not len(rows):
        return []
    way = placed_on_the_ground(rows)
    edges.notes.append(way.note)
    return [replace(point, east=x, north=y) for point, (x, y, _) in zip(points, way.placed(rows).tolist(), strict=True)]


def _geodetic(table: TextTable, columns: tuple[Column, ...]) -> tuple[Column, ...]:
    """Return the meaning of columns headed Y and X: in geodetic lists Y goes east and X north, shown by six and seven digits.

    Raises ``Refused`` where Y stands before X, as it does in such lists, and the figures do not show which.
    """
    heads = [re.sub(r"[^a-z]", "", re.sub(r"[(\[].*", "", head.lower())) for head in table.header or ()]
    if heads.count("x") != 1 or heads.count("y") != 1:
        return columns
    x, y = heads.index("x"), heads.index("y")
    digits = [_digits([table.number(row[index]) for _, row in table.rows if index < len(row)]) for index in (x, y)]
    if digits == [7, 6]:
        turned = list(columns)
        turned[x], turned[y] = "north", "east"
        return tuple(turned)
    if digits != [6, 7] and y < x:
        raise Refused(
            "The columns are headed Y and then X, as in geodetic lists, where Y goes east and X north; elsewhere it is the other way "
            "about. Say which column is east and which is north.",
            "columns",
            "axes",
        )
    return columns


def _digits(values: Sequence[float | None]) -> int | None:
    """Return how many digits numbers have before the point, where all have as many; None where they do not."""
    found = {len(str(abs(int(value)))) for value in values if value is not None}
    return found.pop() if len(found) == 1 else None


def _notes(table: TextTable, columns: Sequence[Column], points: Sequence[Surveyed]) -> list[str]:
    decimals = " with decimal commas" if table.decimal == "," else ""
    encoding = "" if table.encoding == "utf-8" else f", read as {ENCODING_NAMES.get(table.encoding, table.encoding)}"
    notes = [f"{len(points):,} points in columns set apart by {_SET_APART[table.delimiter]}{decimals}{encoding}: {', '.join(columns)}."]
    if table.left_out:
        notes.append(f"{_count(table.left_out, 'line')} of titles, counts and remarks left out.")
    if "height" not in columns:
        notes.append("No column holds heights: all points lie at level 0.")
    return notes


def _units(table: TextTable, columns: Sequence[Column], options: Options) -> dict[str, str]:
    """Return the unit of each column: what is said, else what the header gives, else metres."""
    message = {column: unit_of(name) for column, name in zip(columns, table.header or (), strict=False)}
    plan = options.unit or message.get("east") or message.get("north") or "m"
    return {"east": plan, "north": plan, "height": options.unit or message.get("height") or plan}


def _points(table: TextTable, columns: Sequence[Column], units: dict[str, str]) -> list[Surveyed]:
    """Return the points. Raises ``Refused`` for columns that do not do, or at the first row that does not fit."""
    for column, word in (("east", "east"), ("north", "north")):
        if columns.count(column) != 1:
            raise Refused(f"One column must be {word}: say which it is.", "columns", "columns")
    if len(table.rows) > MOST:
        raise Refused(f"The list holds {len(table.rows):,} points; {MOST:,} is the most.", "file", "too-many-edges")
    return [_point(table, row, cells, columns, units) for row, cells in in_shares(table.rows, 0.2, 0.8)]


def _point(table: TextTable, row: int, cells: tuple[str, ...], columns: Sequence[Column], units: dict[str, str]) -> Surveyed:
    cells = _fitted(row, cells, columns)
    values: dict[str, float | None] = {"height": None if "height" in columns else 0.0}
    code = number = ""
    for index, (column, cell) in enumerate(zip(columns, cells, strict=True)):
        if column == "code":
            code = f"{code} {cell}".strip()
        elif column == "number":
            number = cell.strip()
        elif column == "height" and cell.strip().lower() in _NONE:
            values[column] = None
        elif column in units:
            value = table.number(cell)
            if value is None:
                where = f"row {row}, column {index + 1}"
                raise Refused(f"{where.capitalize()} ({column}) holds {cell[:40]!r}, which is not a number.", where, "cell")
            values[column] = value * UNITS.get(units[column], 1.0)
    return Surveyed(number, code, values["east"] or 0.0, values["north"] or 0.0, values["height"])


def _fitted(row: int, cells: tuple[str, ...], columns: Sequence[Column]) -> tuple[str, ...]:
    """Return a row's cells, one for each column: a code may be of several words or none, and empty cells end many a row."""
    count = len(columns)
    if len(cells) < count and not set(columns[len(cells) :]) & {"east", "north"}:
        return cells + ("",) * (count - len(cells))
    if len(cells) > count and columns[-1] == "code":
        return (*cells[: count - 1], " ".join(cells[count - 1 :]).strip())
    if len(cells) > count and not any(cells[count:]):
        return cells[:count]
    if len(cells) != count:
        raise Refused(
            f"Row {row} has {len(cells)} columns where {count} are expected: {' | '.join(cells)[:80]}. "
            "Correct the row, or choose other columns or another delimiter.",
            f"row {row}",
            "columns",
        )
    return cells


def _joined(points: Sequence[Surveyed], options: Options, edges: Edges) -> list[Point3]:
    """Take the edges from point to point, those of each code in the order of the file, and return the points."""
    groups: dict[str, list[Surveyed]] = {}
    for point in points:
        groups.setdefault(point.code if options.order == "code" else "points", []).append(point)
    kept: list[Point3] = []
    along = out = 0
    for code, group in groups.items():
        heights, missing = _heights(group, options)
        numbers = [p.number for p, height in zip(group, heights, strict=True) if height is not None]
        line = [(p.east, p.north, height) for p, height in zip(group, heights, strict=True) if height is not None]
        along += missing - (len(group) - len(line))
        out += len(group) - len(line)
        kept.extend(line)
        if len(line) < 2:
            edges.unread["single points of their code"] += len(line)
        for number, (a, b) in zip(numbers, pairwise(line), strict=False):
            if math.dist(a, b) > 0:
                edges.key = number
                edges.straight(a, b, code or "no code")
    if along:
        lies = ("lies", "takes one", "its") if along == 1 else ("lie", "take one", "their")
        how = f"{lies[0]} at the level chosen" if options.no_height == "level" else f"{lies[1]} along the line from {lies[2]} neighbours"
        edges.notes.append(f"{_count(along, 'point')} without a height {how}.")
    if out:
        edges.notes.append(f"{_count(out, 'point')} without a height left out.")
    edges.unread += Counter()
    return kept


def _heights(group: Sequence[Surveyed], options: Options) -> tuple[list[float | None], int]:
    """Return the heights of a line's points, nothing where a point is left out, and how many had none."""
    missing = [point.height is None for point in group]
    if not any(missing) or options.no_height == "out":
        return [point.height for point in group], sum(missing)
    if options.no_height == "level":
        return [options.no_height_level if point.height is None else point.height for point in group], sum(missing)
    known = [index for index, none in enumerate(missing) if not none]
    if not known:
        return [None] * len(group), len(group)
    plan = np.array([(point.east, point.north) for point in group])
    at = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(plan, axis=0), axis=1))])
    found = np.interp(at, at[known], [float(group[index].height or 0.0) for index in known])
    return [float(height) for height in found], sum(missing)


def _columns(table: TextTable) -> tuple[Column, ...]:
    """Return the meaning of each column, by its name or by the usual order of surveys: number, east, north, height, code."""
    if table.header is not None:
        heads: list[Column] = [column_of(cell, table.header) or "leave" for cell in table.header]
        # A name twice is taken once.
        found: list[Column] = [name if name not in heads[:index] else "leave" for index, name in enumerate(heads)]
        widest = Counter(len(row) for _, row in table.rows).most_common(1)[0][0]
        left: list[Column] = ["leave"] * (widest - len(found))
        # Words of a code that are set apart as columns are are no columns.
        return tuple(found) if table.delimiter == "space" and found[-1] == "code" else (*found, *left)
    rows = [row for _, row in table.rows[:200]]
    count = Counter(len(row) for row in rows).most_common(1)[0][0]
    numbers = [[table.number(row[i]) for row in rows if i < len(row)] for i in range(count)]
    numeric = [sum(value is not None for value in column) >= 0.5 * len(column) for column in numbers]
    first = next((i for i, yes in enumerate(numeric) if yes), count)
    run = next((i for i in range(first, count) if not numeric[i]), count) - first
    order: tuple[Column, ...] = ("east", "north", "height")
    # A first column of whole numbers before three others names points; before two it must count them.
    whole = all(row[0].isdigit() for row in rows)
    if first == 0 and whole and (run > 3 or (run == 3 and _counting(numbers[0]))):
        order = ("number", "east", "north", "height")
    before: list[Column] = ["number" if i == 0 and first == 1 else "leave" for i in range(first)]
    further: list[Column] = ["leave"] * (run - len(order))
    named: tuple[Column, ...] = (*before, *order[:run], *further)
    if table.delimiter == "space":
        return (*named, "code") if any(len(row) > len(named) for row in rows) else named
    rest: list[Column] = ["leave"] * count
    return (*named, "code", *rest)[:count]


def _counting(values: Sequence[float | None]) -> bool:
    """Return whether a column counts its rows."""
    known = [value for value in values if value is not None]
    return len(known) > 1 and all(b - a == 1 for a, b in pairwise(known))


def _count(number: int, word: str) -> str:
    return f"{number:,} {word}{'' if number == 1 else 's'}"
