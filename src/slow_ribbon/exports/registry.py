"""Every writer there is: what a solved job can be handed over as."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final, get_args

from slow_ribbon.core.solve import Solved
from slow_ribbon.exports.csv import cutting_csv, items_csv, schedule_csv
from slow_ribbon.exports.glb import job_glb
from slow_ribbon.exports.paper import ListColumn, Paper, Printed
from slow_ribbon.exports.patterns import patterns_svg
from slow_ribbon.exports.points import points_csv
from slow_ribbon.exports.svg import lines_svg
from slow_ribbon.sandbox import Report


@dataclass(frozen=True, kw_only=True)
class Exporter:
    """A writer. ``key`` is its name and the end of its files' names; ``about`` is for whoever chooses among them.

    ``papers``: those that it writes on, the usual one first, and the ``columns`` that can be left out there; none where it writes no
    pages. ``write`` takes then how it is ``Printed``, and what is given the share done.
    """

    key: str
    title: str
    about: str
    media_type: str
    write: Callable[..., bytes]
    papers: tuple[Paper, ...] = ()
    columns: tuple[ListColumn, ...] = ()

    def written(self, solved: Solved, printed: Printed | None = None, report: Report | None = None) -> bytes:
        """Return a job as it is written, printed so where it has pages; ``report`` is given the share done then."""
        return self.write(solved, printed or Printed(), report) if self.papers else self.write(solved)


def _cutting_xlsx(solved: Solved) -> bytes:
    """Return the cutting list as a workbook; what writes it is loaded when it is needed first."""
    from slow_ribbon.exports import xlsx

    return xlsx.cutting_xlsx(solved)


def _cutting_pdf(solved: Solved, printed: Printed, report: Report | None) -> bytes:
    from slow_ribbon.exports import pdf

    return pdf.cutting_pdf(solved, printed, report)


def _patterns_dxf(solved: Solved) -> bytes:
    from slow_ribbon.exports import patterns

    return patterns.patterns_dxf(solved)


def lines_dxf(solved: Solved) -> bytes:
    """Return the lines as DXF. Its library is large, and loaded when it is needed first."""
    from slow_ribbon.exports import dxf

    return dxf.lines_dxf(solved)


WRITERS: Final = (
    Exporter(
        key="cutting-list.csv",
        title="Cutting list",
        about="CSV: every piece with its lengths and saw settings",
        media_type="text/csv; charset=utf-8",
        write=cutting_csv,
    ),
    Exporter(
        key="cutting-list.pdf",
        title="On paper",
        about="PDF: the cutting list and the schedule, to be taken to the saw",
        media_type="application/pdf",
        write=_cutting_pdf,
        papers=get_args(Paper),
        columns=get_args(ListColumn),
    ),
    Exporter(
        key="cutting-list.xlsx",
        title="Workbook",
        about="XLSX: all pieces, a sheet for each section, totals, bends, items in their places; figures as numbers",
        media_type="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        write=_cutting_xlsx,
    ),
    Exporter(
        key="schedule.csv",
        title="Schedule",
        about="CSV: totals for each run and section, item counts for each row",
        media_type="text/csv; charset=utf-8",
        write=schedule_csv,
    ),
    Exporter(
        key="items.csv",
        title="Items",
        about="CSV: every item with its chainage, place on the site, bearing and tilt",
        media_type="text/csv; charset=utf-8",
        write=items_csv,
    ),
    Exporter(key="model.glb", title="3D", about="binary glTF, in metres: runs and items", media_type="model/gltf-binary", write=job_glb),
    Exporter(
        key="lines.dxf",
        title="Lines, DXF",
        about="in mm, where they lie on the site: a layer for each line, true curves",
        media_type="image/vnd.dxf",
        write=lines_dxf,
    ),
    Exporter(key="lines.svg", title="Lines, SVG", about="on plan, to scale, north up", media_type="image/svg+xml", write=lines_svg),
    Exporter(
        key="patterns.svg",
        title="Patterns, SVG",
        about="the shaped ends of coped pieces at full size: printed without scaling, they are laid on the piece",
        media_type="image/svg+xml",
        write=patterns_svg,
    ),
    Exporter(
        key="patterns.dxf",
        title="Patterns, DXF",
        about="the same in mm: a layer each for the cut on the face, the cut on the back, the piece and its grain",
        media_type="image/vnd.dxf",
        write=_patterns_dxf,
    ),
    Exporter(
        key="points.csv",
        title="Points",
        about="CSV in metres: the points of every line and the place of every item, to be set out on the site",
        media_type="text/csv; charset=utf-8",
        write=points_csv,
    ),
)
WRITER_OF: Final = {writer.key: writer for writer in WRITERS}


def written_as(key: str, solved: Solved, printed: Printed | None, report: Report) -> bytes:
    """Return a job as the writer of a key writes it."""
    return WRITER_OF[key].written(solved, printed, report)
