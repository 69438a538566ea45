"""The cutting list and the schedule as CSV (RFC 4180, UTF-8) and as plain data.

Columns are documented in ``docs/cutting-list.md`` and stable: new ones are only added at the
end. Lengths are millimetres with three decimals and angles degrees with three, unrounded to
any workshop step, with a point whatever the machine's language.
"""

from __future__ import annotations

import csv
import io
from typing import Any

from slow_ribbon.core.cutting import (
    CutRow,
    Setting,
    as_held,
    at_the_saw,
    cutting_list,
    item_places,
    notes_of,
    schedule_entries,
    section_named,
)
from slow_ribbon.core.kernel import in_units, plain
from slow_ribbon.core.runs import Curvature
from slow_ribbon.core.solve import Solved

CUTTING_COLUMNS = (
    "run", "tags", "section", "width_mm", "height_mm", "quantity", "long_point_mm", "short_point_mm", "line_length_mm",
    "begin_mitre_deg", "begin_bevel_deg", "end_mitre_deg", "end_bevel_deg", "bend", "lies",
    "begin_shaped", "end_shaped", "begin_joint", "end_joint", "part",
    "centroid_length_mm", "places", "mirrored", "curve",
    "stop_mm", "begin_set", "end_set", "off_mm", "notes",
    "weight_kg", "painted_m2",
)  # fmt: skip
SCHEDULE_COLUMNS = (
    "kind", "name", "pieces", "line_length_mm", "bar_length_mm", "items", "centres_mm", "left_over_mm", "from_stock_mm",
    "weight_kg", "painted_m2", "area_m2",
)  # fmt: skip

#: Columns of names that people give.
_GIVEN = frozenset({"run", "section", "name", "code", "places", "tags", "notes", "number"})
#: What a formula begins with, in one spreadsheet or another; nothing at all does not.
_RUN = tuple("=+-@|%\t\r\n＝＋－＠")


def _number(value: float) -> str:
    return f"{value + 0.0:.3f}".replace("-0.000", "0.000")


def _area(square_millimetres: float) -> str:
    return f"{square_millimetres * 1e-6 + 0.0:.4f}"


def cutting_rows(solved: Solved) -> list[dict[str, str]]:
    """Return the cutting list as rows of text, a column for each of ``CUTTING_COLUMNS``."""
    runs = {run.id: run for run in solved.job.runs}
    rows = []
    for listed in cutting_list(solved):
        row = as_held(listed, solved.job.saw)
        run = runs[row.run]
        at_saw = at_the_saw(row, solved.job.saw)
        section = row.section
        name = section_named(solved, row) if run.size is None else f"{section_named(solved, row)}, {run.size}"
        values = (
            run.name, " ".join(row.tags), name, _number(section.width), _number(section.height), str(row.quantity),
            _number(row.long_point), _number(row.short_point), _number(row.line_length),
            _number(row.begin.mitre), _number(row.begin.bevel), _number(row.end.mitre), _number(row.end.bevel),
            _bend(row), f"{row.left} left", plain(row.begin.shaped), plain(row.end.shaped), row.begin.joint, row.end.joint, row.part,
            "" if row.centroid_length is None else _number(row.centroid_length),
            "; ".join(row.places), "mirrored" if row.mirrored else "",
            _curve(row.curvature), _number(at_saw.stop), _set(at_saw.begin), _set(at_saw.end),
            _number(max(at_saw.begin.off, at_saw.end.off)), "; ".join(notes_of(solved, row)),
            _number(row.weight), _area(row.painted),
        )  # fmt: skip
        rows.append(dict(zip(CUTTING_COLUMNS, values, strict=True)))
    return rows


def _bend(row: CutRow) -> str:
    """Return the bends of a piece, part after part in order of travel; empty for a straight one."""
    parts = []
    for part in row.bends:
        words = [part.kind, _number(part.length)]
        if part.side:
            words += ["bends", _number(part.turn)]
        if part.radius is not None:
            words += ["at R", _number(part.radius)]
        if part.side:
            words.append(part.side.replace("°", "").replace(",", ""))
        if part.plane is not None:
            words += ["plane turned", _number(part.plane)]
        parts.append(" ".join(words))
    return "; ".join(parts)


def _set(setting: Setting) -> str:
    """Return how an end is set at the saw: mitre and bevel in degrees, and where the piece is longest there."""
    return " ".join(word for word in (_number(setting.mitre), _number(setting.bevel), setting.long) if word)


def _curve(curvature: Curvature | None) -> str:
    """Return the leaves, kerfs or boards of a piece whose curve is not bent in one; empty for others."""
    if curvature is None:
        return ""
    if curvature.board is not None:
        return f"board {_number(curvature.board[0])} x {_number(curvature.board[1])}"
    if curvature.kerfs:
        kerfs = "; ".join(f"{number} at {_number(centres)}" for number, centres in curvature.kerfs)
        return f"kerfs {_number(curvature.depth)} deep: {kerfs}"
    leaves = " ".join(_number(leaf) for leaf in curvature.leaves)
    form = "" if curvature.form is None else f"; form radius {_number(curvature.form)}"
    return f"{len(curvature.leaves)} leaves {_number(curvature.leaf)} thick: {leaves}{form}"


def schedule_rows(solved: Solved) -> list[dict[str, str]]:
    """Return the schedule as rows of text: each run, each section with its bars, each row of items, each strip, the job."""
    rows = []
    for entry in schedule_entries(solved):
        total = entry.total
        pieces = [""] * 3 if total is None else [str(total.pieces), _number(total.line_length), _number(total.bar)]
        items = "" if entry.items is None else str(entry.items)
        spaced = ["", ""] if entry.row is None else [" ".join(map(_number, entry.row.centres)), _number(entry.row.left_over)]
        stock = "" if total is None else _number(total.from_stock(solved.job.saw))
        weight = "" if entry.weight is None else _number(entry.weight)
        painted = "" if entry.painted is None else _area(entry.painted)
        area = "" if entry.area is None else _area(entry.area)
        values = (entry.kind, plain(entry.name), *pieces, items, *spaced, stock, weight, painted, area)
        rows.append(dict(zip(SCHEDULE_COLUMNS, values, strict=True)))
    return rows


ITEM_COLUMNS = (
    "number", "row", "item", "size", "chainage mm", "east m", "north m", "level m", "bearing deg", "tilt deg", "hanger mm",
)  # fmt: skip


def items_csv(solved: Solved) -> bytes:
    """Return every item of a job with its place, as CSV."""
    rows = []
    for one in item_places(solved):
        point = [f"{value / 1000 + 0.0:.6f}" for value in one.point]
        angles = [f"{one.bearing:.4f}", f"{one.tilt:.4f}"]
        values = (
            one.number,
            solved.job.row(one.row).name,
            plain(one.name),
            f"{one.size:.4g}",
            "" if one.chainage is None else _number(one.chainage),
            *point,
            *angles,
            "" if one.hanger is None else _number(one.hanger),
        )
        rows.append(dict(zip(ITEM_COLUMNS, values, strict=True)))
    return to_csv(ITEM_COLUMNS, rows).encode("utf-8")


def to_csv(columns: tuple[str, ...], rows: list[dict[str, str]]) -> str:
    """Return rows as CSV with a header, lines ended as RFC 4180 says.

    In a column of names that people give, text that a spreadsheet might run as a formula is led by
    an apostrophe; the other columns hold figures and words of our own.
    """
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(columns)
    for row in rows:
        writer.writerow([_inert(column, row[column]) for column in columns])
    return out.getvalue()


def _inert(column: str, value: str) -> str:
    if column in _GIVEN and value.lstrip()[:1] in _RUN:
        return "'" + value
    return value


def cutting_csv(solved: Solved) -> bytes:
    """Return the cutting list as CSV."""
    return to_csv(CUTTING_COLUMNS, cutting_rows(solved)).encode("utf-8")


def schedule_csv(solved: Solved) -> bytes:
    """Return the schedule as CSV."""
    return to_csv(SCHEDULE_COLUMNS, schedule_rows(solved)).encode("utf-8")


def lists_data(solved: Solved) -> dict[str, Any]:
    """Return the cutting list, the schedule and the checks as plain data for JSON."""
    return {
        "job": solved.job.name,
        "cutting_list": cutting_rows(solved),
        "schedule": schedule_rows(solved),
        "checks": [
            {
                "kind": check.kind,
                "severity": check.severity,
                "thing": check.thing,
                "what": in_units(check.what, solved.job.units),
                "chainage_mm": check.chainage,
                "accepted": solved.reason(check),
            }
            for check in solved.checks()
        ],
    }
