"""Points to be set out on the site, as CSV in metres: the points of every line and the places of every item.

Numbers are those on the drawing: a line's id and the point's number, a row's letters and the
item's; in the places of a typical they are led by the place's name.
Coordinates are the site's, with a point whatever the machine's language.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from slow_ribbon.core.cutting import item_places
from slow_ribbon.core.kernel import Array, look_up
from slow_ribbon.core.lines import Line, line_parts
from slow_ribbon.core.solve import Solved, typicals_of
from slow_ribbon.exports.csv import to_csv

POINT_COLUMNS = ("number", "east", "north", "height", "code")


def points_csv(solved: Solved) -> bytes:
    """Return the points of lines, where their smooth parts meet, and of items, at the middle of their foot; codes are names."""
    job = solved.job
    origin = np.array(job.origin)
    rows: list[dict[str, str]] = []
    for line in job.lines:
        look_up()
        rows.extend(_row(f"{line.id}.{number}", point + origin, line.name) for number, point in enumerate(_points(line), start=1))
    for typical in typicals_of(solved):
        for variant in typical.variants:
            for place in variant.places:
                if place.name == job.typical(typical.id).here:
                    continue
                look_up()
                for line in variant.lines:
                    points = (place.carriage.points(point) + origin for point in _points(line))
                    rows.extend(_row(f"{place.name} {line.id}.{number}", point, line.name) for number, point in enumerate(points, start=1))
    names = {row.id: row.name for row in job.rows}
    rows.extend(_row(one.number, np.array(one.point), names[one.row]) for one in item_places(solved))
    return to_csv(POINT_COLUMNS, rows).encode("utf-8")


def _points(line: Line) -> Iterator[Array]:
    parts = line_parts(line)
    for part in parts:
        yield part.span.at(np.zeros(1))[0][0]
    if not line.closed:
        last = parts[-1].span
        yield last.at(np.array([last.length]))[0][0]


def _row(number: str, point: Array, code: str) -> dict[str, str]:
    east, north, height = (f"{value / 1000 + 0.0:.6f}" for value in point)
    return dict(zip(POINT_COLUMNS, (number, east, north, height, code), strict=True))
