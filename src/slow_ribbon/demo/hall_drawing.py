"""Two issues of a drawing of the ferry house's waiting hall, invented, as DXF: the second is imported over the first.

In the second the counter has moved and is longer, the partition is further south, a bench is gone
and a column is new; the walls are as they were.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Final, Literal, NamedTuple

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddMarks, AddOpenings, AddRow, AddRuns, AddSection, Edit, apply_all
from slow_ribbon.core.lines import LineBody, Mark, Opening
from slow_ribbon.core.rows import BoxItem, FixedCentres, RowBody, Spacing
from slow_ribbon.core.runs import FacingSide, Placing
from slow_ribbon.core.sections import from_library

#: The id in the store of the job of what the first issue holds.
HALL_ID: Final = "kestrel-slip-hall"

Point2 = tuple[float, float]

#: The bulge of a quarter of a circle, to the left of travel: the tangent of a quarter of its angle.
_QUARTER: Final = math.tan(math.radians(90 / 4))


class DrawnPolyline(NamedTuple):
    """A polyline of a drawing: its handle, layer, points in mm and whether it is closed; ``bulges`` by the point they begin at."""

    handle: str
    layer: str
    points: tuple[Point2, ...]
    closed: bool
    bulges: dict[int, float]


def _box(handle: str, layer: str, low: Point2, high: Point2) -> DrawnPolyline:
    return DrawnPolyline(handle, layer, (low, (high[0], low[1]), high, (low[0], high[1])), True, {})


def _round(handle: str, centre: Point2, radius: float) -> DrawnPolyline:
    x, y = centre
    around = ((x + radius, y), (x, y + radius), (x - radius, y), (x, y - radius))
    return DrawnPolyline(handle, "Column", around, True, dict.fromkeys(range(4), _QUARTER))


_WALLS: Final = DrawnPolyline(
    "5A", "Walls",
    ((0, 0), (8600, 0), (8600, 1200), (12400, 1200), (12400, 8000), (2200, 8000), (0, 6600)), True, {3: 1.0},
)  # fmt: skip

_FIRST: Final = (
    _WALLS,
    DrawnPolyline("5B", "Partition", ((8600, 5200), (5400, 5200), (5400, 8000)), False, {}),
    DrawnPolyline("5C", "Counter", ((6200, 5200), (6200, 4300), (7800, 4300), (8600, 3500)), False, {}),
    _box("5D", "Bench", (600, 1500), (1100, 4700)),
    _box("5E", "Bench", (2600, 2300), (3100, 4700)),
    _round("5F", (8600, 5200), 160),
)
_SECOND: Final = (
    _WALLS,
    DrawnPolyline("5B", "Partition", ((8600, 4900), (5400, 4900), (5400, 8000)), False, {}),
    DrawnPolyline("5C", "Counter", ((5800, 4900), (5800, 3900), (7900, 3900), (8600, 3200)), False, {}),
    _box("5D", "Bench", (600, 1500), (1100, 4700)),
    _round("5F", (8600, 4900), 160),
    _round("63", (5400, 4900), 160),
)


def hall_drawing(issue: Literal[1, 2]) -> bytes:
    """Return an issue of the drawing, in mm."""
    drawn = _FIRST if issue == 1 else _SECOND
    parts = ["0\nSECTION\n2\nHEADER\n9\n$ACADVER\n1\nAC1015\n9\n$INSUNITS\n70\n4\n0\nENDSEC", "0\nSECTION\n2\nENTITIES"]
    for one in drawn:
        parts.append(f"0\nLWPOLYLINE\n5\n{one.handle}\n100\nAcDbEntity\n8\n{one.layer}\n100\nAcDbPolyline")
        parts.append(f"90\n{len(one.points)}\n70\n{int(one.closed)}")
        for index, (x, y) in enumerate(one.points):
            parts.append(f"10\n{x}\n20\n{y}" + (f"\n42\n{one.bulges[index]:.12f}" if index in one.bulges else ""))
    parts.append("0\nENDSEC\n0\nEOF\n")
    return "\n".join(parts).encode("ascii")


def hall_file(issue: Literal[1, 2]) -> str:
    """Return the name of an issue's file."""
    return f"waiting-hall-issue-{issue}.dxf"


def hall_job(lines: Sequence[LineBody]) -> Job:
    """Return the job of the hall with the lines of the drawing's first issue, in the order of the drawing, and what runs along them."""
    walls, partition, counter, _, bench, _ = (f"L{number}" for number in range(1, 7))
    inside = Placing(facing=FacingSide(kind="left"))
    edits: list[Edit] = [
        AddLines(lines=tuple(lines)),
        AddSection(section=from_library("skirting-ogee")),
        AddSection(section=from_library("handrail-round")),
        AddOpenings(line=walls, openings=(Opening(name="South door", at=3000, width=1800),)),
        AddRuns(section="S7", lines=(walls,), placing=inside, name="Hall skirting"),
        AddRuns(section="S7", lines=(partition,), placing=inside, name="Partition skirting"),
        AddRuns(section="S8", lines=(counter,), placing=inside.model_copy(update={"lift": 900}), name="Counter rail"),
        AddRuns(section="S8", lines=(bench,), placing=inside.model_copy(update={"lift": 420}), name="Bench edge"),
        AddMarks(line=counter, marks=(Mark(name="Till", at=1500),)),
        AddRow(
            row=RowBody(
                name="Counter lights", line=counter, item=BoxItem(along=180, across=60, height=40),
                spacing=Spacing(rule=FixedCentres(centres=600, origin="centred"), inset_start=150, inset_end=150),
                lift=2300, material="brass",
            )
        ),
    ]  # fmt: skip
    return apply_all(Job(name="Kestrel Slip waiting hall"), edits).job
