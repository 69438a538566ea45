"""Surveyed points as text: number, east, north, height and code in columns that are recognised and can be changed.

Points are joined in the order of the file, all together or those of one code; a code that ends
where it began is closed by the joining itself.
"""

from __future__ import annotations

import csv
import io
import math
import re
from itertools import pairwise
from pathlib import Path

from slow_ribbon.core.faults import Refused
from slow_ribbon.core.model import Point3
from slow_ribbon.formats.drawing import Drawing, Edges
from slow_ribbon.formats.options import UNIT_NAMES, UNITS, Column, Options

#: More points than this are no survey that is worked with line by line.
MOST = 500_000
_WORDS: dict[str, Column] = {
    "number": "number", "no": "number", "nr": "number", "point": "number", "pt": "number", "id": "number", "name": "number",
    "east": "east", "easting": "east", "e": "east", "x": "east", "north": "north", "northing": "north", "n": "north", "y": "north",
    "height": "height", "elevation": "height", "level": "height", "z": "height", "h": "height",
    "code": "code", "feature": "code", "description": "code", "string": "code", "layer": "code",
}  # fmt: skip
_DELIMITERS = {",": ",", ";": ";", "tab": "\t", "space": " "}


def read_points(path: Path, options: Options) -> Drawing:
    """Return the edges between surveyed points, in mm.

    Raises ``Refused`` where the text has no columns, a row has a wrong number of them, or a
    coordinate is no number; row and column are named.
    """
    try:
        text = path.read_bytes().decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise Refused(f"The list of points is no plain text (byte {error.start + 1}).", "file", "damaged") from error
    if "\0" in text:
        raise Refused("The list of points is no plain text.", "file", "damaged")
    delimiter = options.delimiter or _delimiter(text)
    rows = _rows(text, delimiter)
    if not rows:
        raise Refused("The list holds no points.", "file", "no-edges")
    first = rows[0][1]
    header = options.header if options.header is not None else not any(_is_number(cell) for cell in first)
    columns = options.columns or _columns(first if header else None, len(first), rows[1:] if header else rows)
    if "east" not in columns or "north" not in columns:
        raise Refused("Two columns must be east and north: say which they are.", "columns", "columns")
    edges = Edges()
    factor = UNITS[options.unit or "m"]
    points: list[tuple[str, Point3]] = []
    for number, cells in rows[1:] if header else rows:
        if len(cells) != len(columns):
            raise Refused(
                f"Row {number} has {len(cells)} columns where {len(columns)} are expected: {' | '.join(cells)[:80]}. "
                "Put the row right, or choose another delimiter.",
                f"row {number}",
                "columns",
            )
        points.append(_point(number, cells, columns, factor))
    if len(points) > MOST:
        raise Refused(f"The list holds {len(points):,} points; {MOST:,} is the most.", "file", "too-many-edges")
    edges.points = [point for _, point in points]
    groups: dict[str, list[Point3]] = {}
    for code, point in points:
        groups.setdefault(code if options.order == "code" else "points", []).append(point)
    for code, line in groups.items():
        if len(line) < 2:
            edges.unread["single points of their code"] += 1
        for a, b in pairwise(line):
            if math.dist(a, b) > 0:
                edges.straight(a, b, code or "no code")
    named = {",": "commas", ";": "semicolons", "tab": "tabs", "space": "spaces"}[delimiter]
    edges.notes.append(f"{len(points):,} points in columns set apart by {named}: {', '.join(columns)}.")
    return edges.drawing(UNIT_NAMES[options.unit or "m"], options.unit is not None)


def _delimiter(text: str) -> str:
    """Return what sets columns apart: what most rows have the same number of."""
    lines = [line for line in text.splitlines() if line.strip() and not line.lstrip().startswith("#")][:200]
    best, most = "space", 0
    for name, character in _DELIMITERS.items():
        counts = [len(line.split()) - 1 if name == "space" else line.count(character) for line in lines]
        usual = max(set(counts), key=counts.count, default=0)
        alike = counts.count(usual) if usual else 0
        if alike > most or (alike == most and alike and name != "space" and best == "space"):
            best, most = name, alike
    return best


def _rows(text: str, delimiter: str) -> list[tuple[int, list[str]]]:
    """Return the rows with their numbers in the file; empty ones and remarks are left out."""
    found = []
    if delimiter == "space":
        found = [(number, line.split()) for number, line in enumerate(text.splitlines(), start=1)]
    else:
        try:
            reader = csv.reader(io.StringIO(text), delimiter=_DELIMITERS[delimiter], strict=True)
            found = [(reader.line_num, [cell.strip() for cell in row]) for row in reader]
        except csv.Error as error:
            raise Refused(f"The list cannot be read: {error}.", "file", "damaged") from error
    return [(number, row) for number, row in found if any(row) and not row[0].startswith("#")]


def _columns(header: list[str] | None, count: int, rows: list[tuple[int, list[str]]]) -> tuple[Column, ...]:
    """Return what each column holds, by its name or by the order that surveys are written in: number, east, north, height, code."""
    if header is not None:
        named = [_WORDS.get(re.sub(r"[^a-z]", "", re.sub(r"\(.*|\[.*", "", cell.lower())), "leave") for cell in header]
        # A name twice is taken once.
        return tuple(name if name not in named[:index] else "leave" for index, name in enumerate(named))
    numeric = [all(_is_number(cells[i]) for _, cells in rows[:50] if i < len(cells)) for i in range(count)]
    order: list[Column] = ["number", "east", "north", "height", "code"]
    if count == 2 or (count >= 3 and numeric[0] and all(numeric[:3]) and count == 3):
        order = ["east", "north", "height"]
    elif count == 4 and numeric[0] and not numeric[3]:
        order = ["east", "north", "height", "code"]
    return tuple((order + ["leave"] * count)[:count])


def _is_number(cell: str) -> bool:
    return re.fullmatch(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?", cell.strip()) is not None


def _point(row: int, cells: list[str], columns: tuple[Column, ...], factor: float) -> tuple[str, Point3]:
    values = {"east": 0.0, "north": 0.0, "height": 0.0}
    code = ""
    for index, (column, cell) in enumerate(zip(columns, cells, strict=True)):
        if column == "code":
            code = cell
        elif column in values and (cell or column != "height"):
            if not _is_number(cell):
                where = f"row {row}, column {index + 1}"
                raise Refused(f"{where.capitalize()} ({column}) holds {cell[:40]!r}, which is no number.", where, "cell")
            values[column] = float(cell) * factor
    return code, (values["east"], values["north"], values["height"])
