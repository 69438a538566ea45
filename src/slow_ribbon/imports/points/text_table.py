"""Tables in text files, as surveys are handed on: their encoding, what sets columns apart, decimal marks, what stands above.

Terms
-----
number
    a cell that is one with the table's decimal mark, with or without thousands marks.
row
    a line with two numbers at least, and every line after the first of these but for remarks.
header
    the line above the rows that names the columns.
"""

from __future__ import annotations

import csv
import re
from collections import Counter
from dataclasses import dataclass
from typing import Final

import charset_normalizer

from slow_ribbon.core.kernel import Refused
from slow_ribbon.imports.options import Decimal, Delimiter
from slow_ribbon.imports.points.column_names import column_of

#: Lines that are looked at to find out how a table is written.
LOOKED_AT: Final = 400
#: In the order in which they are taken where several would do.
_DELIMITERS: Final[dict[Delimiter, str]] = {"tab": "\t", ";": ";", ",": ",", "|": "|", "space": " "}
#: Fewer letters beyond ASCII than this do not identify a language; the commonest encoding is taken, and another can be said.
_FEW: Final = 40
#: A line that begins so is a remark.
_REMARKS: Final = ("#", "//", "%", "!", "*")
#: Encodings of old files with Latin letters that are tried, by the names that Python has for them.
_OLD: Final = ["cp1252", "cp1250", "cp1257", "cp1254", "iso8859_15", "iso8859_2", "cp850", "cp852", "mac_roman"]

_GROUPS = {".": "[,'’\u00a0\u202f ]", ",": "[.'’\u00a0\u202f ]"}
_NUMBERS: Final[dict[Decimal, re.Pattern[str]]] = {
    mark: re.compile(
        rf"[+-]?(?:(?:\d+(?:{re.escape(mark)}\d*)?|{re.escape(mark)}\d+)(?:[eE][+-]?\d+)?"
        rf"|\d{{1,3}}({_GROUPS[mark]})\d{{3}}(?:\1\d{{3}})*(?:{re.escape(mark)}\d*)?)"
    )
    for mark in (".", ",")
}


@dataclass(frozen=True)
class TextTable:
    """A table: its ``rows`` with the numbers of their lines, the ``header`` where there is one, how many lines were left out."""

    encoding: str
    delimiter: Delimiter
    decimal: Decimal
    header: tuple[str, ...] | None
    rows: tuple[tuple[int, tuple[str, ...]], ...]
    left_out: int

    def number(self, cell: str) -> float | None:
        """Return the number in a cell, or nothing.

        >>> TextTable("utf-8", ";", ",", None, (), 0).number("2.600.450,125")
        2600450.125
        """
        return number(cell, self.decimal)


def number(cell: str, decimal: Decimal) -> float | None:
    """Return the number in a cell written with a decimal mark, or nothing."""
    cell = cell.strip().replace("\u2212", "-")
    if _NUMBERS[decimal].fullmatch(cell) is None:
        return None
    return float(re.sub(_GROUPS[decimal], "", cell).replace(",", "."))


def decoded(data: bytes, encoding: str | None = None) -> tuple[str, str]:
    """Return the text in bytes, and the name of its encoding. Raises ``Refused`` where they are no text."""
    if encoding is not None:
        try:
            return data.decode(encoding), encoding
        except (UnicodeDecodeError, LookupError) as error:
            raise Refused(f"The list is not written in {encoding}: choose another encoding.", "encoding", "encoding") from error
    for mark, name in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return _strictly(data, name)
    nulls = data[:4000].count(0)
    if nulls:
        # Text in two bytes a letter, without a mark that says so: half of the bytes of Latin letters are zero.
        if nulls * 2.5 < len(data[:4000]):
            raise Refused("The list of points is not plain text.", "file", "damaged")
        return _strictly(data, "utf-16-be" if data[:1] == b"\0" else "utf-16-le")
    try:
        return data.decode("utf-8"), "utf-8"
    except UnicodeDecodeError:
        if re.search(rb"[\x00-\x08\x0e-\x1a\x1c-\x1f]", data[:4000]):
            raise Refused("The list of points is not plain text.", "file", "damaged") from None
        return _strictly(data, _old_encoding(data[:200_000]))


def _old_encoding(data: bytes) -> str:
    """Return the encoding of one byte a letter in which data make most sense."""
    odd = {name: _oddness(data.decode(name, errors="replace")) for name in _OLD}
    same = [name for name in _OLD if odd[name] == min(odd.values())]
    if sum(byte > 127 for byte in data) < _FEW:
        return same[0]
    # Among several the one that a language's letters speak for; the first where they speak for none.
    likeliest = [found.encoding for found in charset_normalizer.from_bytes(data, cp_isolation=_OLD)]
    return next((name for name in likeliest if name in same), same[0])


def _oddness(text: str) -> int:
    """Count what no language writes: signs and ligatures within words, great letters after small ones, bytes that are no letter."""
    odd = 0
    for found in re.finditer(r"[^\x00-\x7f]", text):
        letter, before, after = found.group(), text[max(0, found.start() - 1) : found.start()], text[found.end() : found.end() + 1]
        if letter == "\ufffd":
            odd += 3
        elif letter in "ﬁﬂƒ" or (letter.isupper() and before.islower()):
            odd += 1
        elif not letter.isalpha():
            odd += before.isalpha() or after.isalpha()
    return odd


def _strictly(data: bytes, name: str) -> tuple[str, str]:
    try:
        return data.decode(name), name.removesuffix("-sig")
    except UnicodeDecodeError as error:
        raise Refused(f"The list of points is not plain text (byte {error.start + 1}).", "file", "damaged") from error


def read_table(text: str, encoding: str, delimiter: Delimiter | None, decimal: Decimal | None, header: bool | None) -> TextTable:
    """Return the table in a text; what is not said is what makes numbers of most of it. Raises ``Refused`` where it holds none."""
    lines = [(at, line) for at, line in enumerate(re.split(r"\r\n|\r|\n", text), start=1) if line.strip()]
    plain = [(at, line) for at, line in lines if not line.lstrip().startswith(_REMARKS)]
    if not plain:
        raise Refused("The list holds no points.", "file", "no-edges")
    delimiter, decimal = _how_written([line for _, line in plain[:LOOKED_AT]], delimiter, decimal)
    cells = [(at, _split(line, delimiter)) for at, line in plain]
    numeric = [sum(number(cell, decimal) is not None for cell in row) for _, row in cells]
    first = next((index for index, count in enumerate(numeric) if count >= 2), None)
    if first is None:
        # Nothing to go by: what there is, for a person to say what it is.
        return TextTable(
            encoding=encoding, delimiter=delimiter, decimal=decimal, header=None, rows=tuple(cells), left_out=len(lines) - len(plain)
        )
    if header is False:
        first = 0
    last = max(index for index, count in enumerate(numeric) if count >= 2)
    named = None
    if header is not False:
        named = _header([line for at, line in lines if at < cells[first][0]][-30:], delimiter, header is True)
    rows = [row for row in cells[first : last + 1] if row[1] != named]
    return TextTable(
        encoding=encoding,
        delimiter=delimiter,
        decimal=decimal,
        header=named,
        rows=tuple(rows),
        left_out=len(lines) - len(rows) - (named is not None),
    )


def _how_written(lines: list[str], delimiter: Delimiter | None, decimal: Decimal | None) -> tuple[Delimiter, Decimal]:
    """Return the delimiter and the decimal mark with which most lines hold two numbers at least."""
    best: tuple[tuple[float, ...], Delimiter, Decimal] | None = None
    for name in _DELIMITERS if delimiter is None else (delimiter,):
        rows = [_split(line, name) for line in lines]
        for mark in _NUMBERS if decimal is None else (decimal,):
            counts = [sum(number(cell, mark) is not None for cell in row) for row in rows]
            good = sum(count >= 2 for count in counts)
            # A mark that is used as what it would be: 2,600 is two and six tenths rather than two thousand six hundred.
            used = sum(mark in cell and number(cell, mark) is not None for row in rows for cell in row)
            usual = Counter(len(row) for row, count in zip(rows, counts, strict=True) if count >= 2 or not good).most_common(1)[0]
            # Where nothing is a number, what makes most columns of most lines.
            score = (good, name != "space", usual[1] if good or usual[0] > 1 else 0, used)
            if best is None or score > best[0]:
                best = score, name, mark
    assert best is not None
    return best[1], best[2]


def _split(line: str, delimiter: Delimiter) -> tuple[str, ...]:
    if delimiter == "space":
        # Quotes keep words together; one that is never closed is a letter like any other.
        found = re.findall(r'"([^"]*)"|(\S+)', line)
        return tuple((quoted or word).strip() for quoted, word in found)
    try:
        (row,) = csv.reader([line], delimiter=_DELIMITERS[delimiter], skipinitialspace=True, strict=True)
    except (csv.Error, ValueError):
        row = line.split(_DELIMITERS[delimiter])
    return tuple(cell.strip() for cell in row)


def _header(above: list[str], delimiter: Delimiter, said: bool) -> tuple[str, ...] | None:
    """Return the cells of the line that names the columns, the nearest above the rows; where one is said to, just above."""
    for line in reversed(above):
        bare = line.strip().lstrip("#%!/* ")
        # Set apart by spaces, a unit in brackets is no column of its own.
        row = _split(re.sub(r"\s+([(\[])", r"\1", bare) if delimiter == "space" else bare, delimiter)
        if said or {"east", "north"} <= {column_of(cell, row) for cell in row}:
            return row
    return None
