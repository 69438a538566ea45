"""The cutting list on paper, read back by pypdf: every row, whole on one sheet, under the head of its run."""

from __future__ import annotations

import io
from collections import defaultdict
from itertools import groupby
from pathlib import Path
from typing import Any

import pytest
from fontTools.ttLib import TTFont
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter
from pypdf import PdfReader
from pypdf._page import PageObject

from slow_ribbon.core.cutting.cutting_list import cutting_list
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits import AnyEdit, apply
from slow_ribbon.core.kernel.units import Units, format_length
from slow_ribbon.core.sections.library import from_library
from slow_ribbon.core.solve import Solved, solve
from slow_ribbon.demo import ferry_house
from slow_ribbon.exports import pdf
from slow_ribbon.exports.paper import Paper, Printed
from slow_ribbon.exports.pdf import PAPERS, cutting_pdf

read = TypeAdapter(AnyEdit).validate_python
#: Sizes of sheets, mm: ISO 216, and ANSI/ASME Y14.1 in inches.
SIZES = {"a4": (297, 210), "a3": (420, 297), "letter": (11 * 25.4, 8.5 * 25.4), "tabloid": (17 * 25.4, 11 * 25.4)}


def plain(text: str) -> str:
    """Return a text with the spaces that set thousands apart as any other."""
    return text.replace("\u2009", " ").replace("\u00a0", " ")


def fragments(page: PageObject) -> list[tuple[float, float, str]]:
    """Return the texts of a page with where they begin: how far from the top, and from the left, points."""
    found: list[tuple[float, float, str]] = []

    def visit(text: str, cm: Any, tm: Any, _: Any, __: Any) -> None:
        if text.strip():
            x, y = tm[4] * cm[0] + tm[5] * cm[2] + cm[4], tm[4] * cm[1] + tm[5] * cm[3] + cm[5]
            found.append((round(float(page.mediabox.height) - y, 1), x, plain(text.strip())))

    page.extract_text(visitor_text=visit)
    return found


def rows_on(page: PageObject) -> list[tuple[str, ...]]:
    """Return the figures of each row of the list on a page: how many, long point, short point, on the line."""
    width = float(page.mediabox.width)
    lines: dict[float, list[tuple[float, str]]] = defaultdict(list)
    for top, x, text in fragments(page):
        # After the tags, before the picture.
        if 0.125 * width < x < 0.335 * width:
            lines[top].append((x, text))
    return [tuple(text for _, text in sorted(lines[top])) for top in sorted(lines) if len(lines[top]) == 4]


def expected(solved: Solved) -> list[tuple[str, ...]]:
    units = solved.job.units
    return [
        (str(row.quantity), *(plain(format_length(length, units)) for length in (row.long_point, row.short_point, row.line_length)))
        for row in cutting_list(solved)
    ]


def read_back(solved: Solved, paper: Paper = "a4") -> tuple[PdfReader, list[tuple[str, ...]]]:
    reader = PdfReader(io.BytesIO(cutting_pdf(solved, Printed(paper))))
    heads = ("×", "Long point", "Short point", "On the line")
    return reader, [row for page in reader.pages for row in rows_on(page) if row != heads and row[0].isdigit()]


@pytest.mark.parametrize("paper", ["a4", "tabloid"])
def test_the_demo_is_on_paper_row_by_row(paper: Paper) -> None:
    solved = solve(ferry_house())
    reader, rows = read_back(solved, paper)
    assert rows[: len(expected(solved))] == expected(solved)
    for number, page in enumerate(reader.pages, start=1):
        text = page.extract_text()
        assert f"sheet {number} of {len(reader.pages)}" in text
        assert "Kestrel Slip ferry house" in text
    # Every tag is there, and every run's name, as the list has them.
    whole = " ".join(" ".join(page.extract_text() for page in reader.pages).split())
    for row in cutting_list(solved):
        assert all(tag in whole for tag in row.tags)
    assert "One fault is still open in this job" in whole
    assert "Newel at the deck" in whole


def job_of(points: list[tuple[int, int]], name: str, units: Units, runs: int, changes: dict[str, Any] | None = None) -> Job:
    legs = [{"kind": "straight", "to": [x, y, 0]} for x, y in points[1:]]
    edits: list[dict[str, Any]] = [
        {"kind": "add_lines", "lines": [{"name": f"{name} {i}", "start": [*points[0], i], "legs": legs} for i in range(runs)]},
        {"kind": "add_section", "section": from_library("skirting-chamfered").model_dump()},
        {"kind": "add_runs", "section": f"S{runs + 1}", "lines": [f"L{i + 1}" for i in range(runs)]},
        {"kind": "set_units", "units": units.model_dump()},
        *([{"kind": "set_run", "run": f"R{runs + 2}", "changes": changes}] if changes else []),
    ]
    job = Job(name=name)
    for edit in edits:
        job = apply(job, read(edit))
    return job


UNITS = st.sampled_from([Units(), Units(system="m"), Units(system="ft-in", fineness=1 / 16)])
#: Corners of a zigzag that goes on to the east, none of them sharp.
ZIGZAG = st.lists(st.tuples(st.integers(300, 2000), st.integers(-250, 250)), min_size=2, max_size=45).map(
    lambda steps: [(sum(x for x, _ in steps[:i]), y) for i, (_, y) in enumerate([*steps, (0, 0)])]
)


@settings(max_examples=12, deadline=None)
@given(ZIGZAG, st.sampled_from(["Hall", "Sälen <b>&", "Зал 3", "Ελλάδα"]), UNITS, st.integers(1, 3))
def test_what_is_on_paper_is_the_list_over_any_number_of_sheets(points: list[tuple[int, int]], name: str, units: Units, runs: int) -> None:
    solved = solve(job_of(points, name, units, runs))
    reader, rows = read_back(solved)
    assert rows[: len(expected(solved))] == expected(solved)
    # On each sheet that a run goes on to its head stands again.
    pages = [page.extract_text() for page in reader.pages]
    assert all(name in text for text in pages)
    heads = sum(text.count("Long point") for text in pages)
    listed = [len(rows_on(page)) for page in reader.pages]
    assert heads >= max(runs, sum(1 for count in listed if count))


def test_a_row_of_more_pieces_than_a_sheet_has_room_for_goes_on_below() -> None:
    """A thousand equal pieces of one run are one row, with a thousand tags; all are there, and the figures once."""
    solved = solve(job_of([(0, 0), (1_000_000, 0)], "Long", Units(), 1, {"joints": {"bars": [1000]}}))
    (row,) = [row for row in cutting_list(solved) if row.quantity == 1000]
    reader, rows = read_back(solved)
    assert rows[: len(expected(solved))] == expected(solved)
    there = {word for page in reader.pages for word in page.extract_text().split()}
    assert set(row.tags) <= there


def test_figures_of_a_column_end_below_one_another() -> None:
    """By the widths of the face's glyphs, read with fontTools: right edges of a column agree to a twentieth of a millimetre."""
    reader, _ = read_back(solve(job_of([(0, 0), (900, 0), (900, 1250), (14_000, 1250)], "Wall", Units(), 1)))
    page = reader.pages[0]
    width = float(page.mediabox.width)
    # The last of them is the total, in bold.
    *figures, _ = [(x, text) for _, x, text in fragments(page) if 0.165 * width < x < 0.222 * width and text[0].isdigit()]
    assert len(figures) == 3
    edges = [x + width_of(text) for x, text in figures]
    assert max(edges) - min(edges) < 72 / 25.4 / 20


def width_of(text: str) -> float:
    """Return how wide a text of the list's size is, points."""
    face = TTFont(str(Path(pdf.__file__).parent / "fonts" / "Commissioner-Regular.ttf"))
    glyphs: Any = face.getBestCmap()
    widths: Any = face["hmtx"]
    units: Any = face["head"].unitsPerEm
    return float(sum(widths[glyphs[ord(letter)]][0] for letter in text) / units * 8)


@pytest.mark.parametrize("paper", PAPERS)
def test_a_sheet_is_of_its_size(paper: Paper) -> None:
    (page,) = PdfReader(io.BytesIO(cutting_pdf(solve(Job(name="Empty")), Printed(paper)))).pages
    size = float(page.mediabox.width) * 25.4 / 72, float(page.mediabox.height) * 25.4 / 72
    assert size == pytest.approx(SIZES[paper], abs=0.5)


def test_an_empty_job_says_what_to_do() -> None:
    reader = PdfReader(io.BytesIO(cutting_pdf(solve(Job(name="Empty")))))
    assert "give a line a section" in reader.pages[0].extract_text()


def test_rows_are_grouped_by_their_runs() -> None:
    solved = solve(ferry_house())
    text = " ".join(" ".join(page.extract_text() for page in PdfReader(io.BytesIO(cutting_pdf(solved))).pages).split())
    for id, _ in groupby(cutting_list(solved), key=lambda row: row.run):
        assert solved.job.run(id).name in text


def test_progress_rises_to_the_whole() -> None:
    shares: list[float] = []
    cutting_pdf(solve(ferry_house()), None, shares.append)
    assert shares == sorted(set(shares))
    assert len(shares) > 5
    assert shares[-1] == 1
