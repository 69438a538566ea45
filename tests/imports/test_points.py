"""Lists of points as surveys are handed on in Europe: whatever way they are written, they are read as what they say."""

from __future__ import annotations

import csv
import io
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.imports.drawing import Drawing
from slow_ribbon.imports.isolated import read_data_apart
from slow_ribbon.imports.options import Options
from slow_ribbon.imports.points.column_names import column_of
from slow_ribbon.imports.points.read_points import read_points

#: Headers of number, east, north, height and code, and letters that only an old encoding of the language has in one byte.
HEADERS = {
    "de": (["Punktnr.", "Rechtswert", "Hochwert", "Höhe", "Bemerkung"], "cp1252", "Stützmauer außen"),
    "de2": (["Punkt", "Ordinate", "Abszisse", "Höhe", "Kode"], "cp850", "Böschung"),
    "en": (["Point", "Easting", "Northing", "Elev", "Desc"], "utf-8", "kerb"),
    "fr": (["Matricule", "X", "Y", "Altitude", "Nature"], "iso8859_15", "clôture extérieure"),
    "it": (["Punto", "Est", "Nord", "Quota", "Codice"], "mac_roman", "più in là"),
    "es": (["Punto", "Este", "Norte", "Cota", "Descripción"], "cp1252", "señal"),
    "pl": (["Nr punktu", "X", "Y", "Rzędna", "Kod"], "cp1250", "krawężnik górny"),
    "sv": (["Punkt", "Öst", "Nord", "Höjd", "Kod"], "utf-16", "häck"),
    "nl": (["Puntnummer", "Oost", "Noord", "Hoogte", "Omschrijving"], "utf-8-sig", "gevel"),
}
ORDER = ("number", "east", "north", "height", "code")


def read(data: bytes, tmp_path: Path, **options: Any) -> Drawing:
    path = tmp_path / "list.txt"
    path.write_bytes(data)
    return read_points(path, Options(**options))


def grouped(value: float, decimal: str, group: str) -> str:
    whole, _, part = f"{value:.3f}".partition(".")
    sign, digits = ("-", whole[1:]) if whole.startswith("-") else ("", whole)
    if group and len(digits) > 3:
        digits = f"{int(digits):,}".replace(",", group)
    return f"{sign}{digits}{decimal}{part}"


@settings(max_examples=examples(150))
@given(st.data())
def test_a_list_is_read_as_what_it_says_however_it_is_written(tmp_path_factory: pytest.TempPathFactory, data: st.DataObject) -> None:
    language = data.draw(st.sampled_from(sorted(HEADERS)))
    names, encoding, word = HEADERS[language]
    decimal = data.draw(st.sampled_from(".,"))
    delimiter = data.draw(st.sampled_from(["\t", ";", "|", " ", ","]))
    # Thousands are set apart by what can be nothing else, and, where cells are quoted, by commas.
    group = data.draw(st.sampled_from(["", "'", " " if delimiter != " " else "", "." if decimal == "," else ","]))
    places = st.integers(-9_999_999_000, 9_999_999_000).map(lambda value: value / 1000)
    # As many as a survey has at least, so that its ways can be seen; the first beyond a thousand, to show what parts thousands.
    points = data.draw(
        st.lists(st.tuples(places, places, st.integers(-900_000, 9_000_000).map(lambda v: v / 1000)), min_size=4, max_size=9)
    )
    points[0] = (2_600_450.125, 5_400_100.5, 412.25)
    columns = list(data.draw(st.permutations(ORDER))) if data.draw(st.booleans()) else list(ORDER)
    if delimiter == " " and "code" in columns:
        columns = [column for column in columns if column != "code"] + ["code"]
    east, north = columns.index("east"), columns.index("north")
    if "X" in names and north < east:
        # Y before X means something else, and is asked.
        columns[east], columns[north] = "north", "east"
    unit = data.draw(st.sampled_from(["", " [m]", " (m)"]))
    rows = [
        {"number": str(index + 1), "east": grouped(e, decimal, group), "north": grouped(n, decimal, group),
         "height": grouped(z, decimal, group), "code": word}
        for index, (e, n, z) in enumerate(points)
    ]  # fmt: skip
    heads = dict(zip(ORDER, names, strict=True))
    heads = {key: head + (unit if key in ("east", "north", "height") else "") for key, head in heads.items()}
    out = io.StringIO()
    table = [[heads[column] for column in columns], *([row[column] for column in columns] for row in rows)]
    if delimiter == " ":
        table[0] = [head.replace(" ", "") for head in table[0]]
        out.write("\n".join("   ".join(row) for row in table) + "\n")
    else:
        csv.writer(
            out, delimiter=delimiter, quoting=data.draw(st.sampled_from([csv.QUOTE_MINIMAL, csv.QUOTE_ALL])), lineterminator="\n"
        ).writerows(table)
    above = data.draw(st.sampled_from(["", "Survey of the hall\n\n", f"{len(points)}\n", "# made on 3 May\nSite: north; sheet 2\n"]))
    text = (above + out.getvalue()).replace("\n", data.draw(st.sampled_from(["\n", "\r\n", "\r"])))
    drawing = read(text.encode(encoding), tmp_path_factory.mktemp("lists"))
    assert drawing.question is None, drawing.question
    assert np.allclose(np.array(drawing.points), np.array(points) * 1000, atol=1e-3)
    # Every language's letters are read as what they are, by one of the encodings that have them.
    assert drawing.layers == (word,)
    assert drawing.unit_known == bool(unit)


def test_what_has_no_height_takes_it_along_the_line_or_is_left_out_or_lies_at_a_level(tmp_path: Path) -> None:
    text = b"id,e,n,z,code\n1,0,0,10,wall\n2,3,4,,wall\n3,6,8,14,wall\n4,9,12,-9999,wall\n5,0,0,,hedge\n6,1,0,n/a,hedge\n"
    along = read(text, tmp_path)
    assert [round(z) for _, _, z in along.points] == [10_000, 12_000, 14_000, 14_000]
    assert any("2 points without a height take one along the line" in note for note in along.notes)
    assert any("2 points without a height left out" in note for note in along.notes)
    out = read(text, tmp_path, no_height="out")
    assert [z for _, _, z in out.points] == [10_000, 14_000]
    level = read(text, tmp_path, no_height="level", no_height_level=5.0)
    assert [z for _, _, z in level.points] == [10_000, 5, 14_000, 5, 5, 5]
    assert level.table is not None
    assert level.table.without_height == 4


def test_what_cannot_be_recognised_is_asked_and_can_be_said(tmp_path: Path) -> None:
    text = b"alpha;beta;gamma\nda,1;1.000;2.000\ndb,2;1.500;2.500\ndc,3;1.750;9.500\n"
    asked = read(b"alpha;beta\none;two\n", tmp_path)
    assert asked.question is not None
    assert asked.table is not None
    assert (asked.table.delimiter, asked.table.rows) == (";", (("alpha", "beta"), ("one", "two")))
    with pytest.raises(Refused, match="One column must be east"):
        read_data_apart(b"alpha;beta\none;two\n", "csv")
    said = read(text, tmp_path, delimiter=";", decimal=",", header=True, columns=("code", "east", "north"))
    # Three digits after a point are thousands where the decimal mark is said to be the comma.
    assert said.points[0] == (1_000_000.0, 2_000_000.0, 0.0)
    plain = read(text, tmp_path, columns=("leave", "east", "north"))
    assert plain.points[0] == (1000.0, 2000.0, 0.0)
    assert "No column holds heights" in " ".join(plain.notes)
    wrong = read(b"1,5.0,6.0\n2,x,7.0\n3,5.0,8.0\n", tmp_path, columns=("number", "east", "north"))
    assert wrong.question is not None
    assert (wrong.question.where, wrong.begins.shape) == ("row 2, column 2", (0, 3))
    for data in (b"\0\1\2\3 binary" * 40, b"\x89PNG\r\n\x1a\n\0\0\0"):
        with pytest.raises(Refused, match="not plain text"):
            read(data, tmp_path)


def test_codes_are_of_several_words_or_none_and_rows_end_as_they_please(tmp_path: Path) -> None:
    text = b"P1 1.5 2.5 3.5\nP2 2.5 2.5\nP3 3.5 2.5 3.5 WALL outer\nP4 4.5 2.5 3.5 WALL outer\n"
    drawing = read(text, tmp_path)
    assert drawing.layers == ("no code", "WALL outer")
    assert drawing.table is not None
    assert drawing.table.columns == ORDER
    padded = read(b"no;e;n;z;;;\n1;1,5;2,5;3,5;;;\n2;2,5;2,5;3,5;;;\n\nSum: 2\n", tmp_path)
    assert len(padded.points) == 2
    # Three figures that count nothing are a place; with a fourth that is no whole number too.
    assert read(b"1.0 2.0 3.0 100\n2.0 2.0 3.0 90\n", tmp_path).points[0] == (1000.0, 2000.0, 3000.0)


@pytest.mark.parametrize(("cell", "column"), [("E", "east"), ("N coord", "north"), ("Z/mm", "height"), ("Pt. No", "number"), ("", None)])
def test_headers_are_known_by_their_words(cell: str, column: str | None) -> None:
    assert column_of(cell) == column
