"""Sections as they are shown: their outline, sizes and points, and the library's."""

from __future__ import annotations

from pydantic import BaseModel
from typing_extensions import TypedDict

from slow_ribbon.core.kernel import Array, kept_with
from slow_ribbon.core.sections import (
    Arc,
    NamedDatum,
    PointDatum,
    Section,
    SectionBody,
    Shape,
    beds,
    datum_point,
    flattened,
    in_row,
    named_points,
    section_shape,
)
from slow_ribbon.service.views.desk import SectionDrawn, section_drawn
from slow_ribbon.service.views.lines import Point2, figure


class RowOfRange(TypedDict):
    """A row of a section's range: its size, mm, and its outline as an SVG path likewise."""

    name: str
    width: float
    height: float
    wall: float | None
    path: str


class SectionFigures(TypedDict):
    """A section's figures. ``path`` is its outline as an SVG path, y up, its box from the origin."""

    id: str
    path: str
    area: float
    perimeter: float
    datums: dict[str, Point2]
    datum: Point2
    beds: list[int]
    drawn: SectionDrawn
    range: list[RowOfRange]


class LibraryEntry(BaseModel):
    """A section of the starting library; ``standard`` is what its size is of, empty for our own."""

    key: str
    family: str
    standard: str
    section: SectionBody
    path: str


@kept_with
def section_shown(section: Section) -> SectionFigures:
    """Return a section's figures."""
    shape = section_shape(section)

    def flat(datum: NamedDatum | PointDatum) -> Point2:
        at = datum_point(shape, datum)
        return figure(at[0]), figure(at[1])

    return SectionFigures(
        id=section.id,
        path=svg_path(shape),
        area=shape.area,
        perimeter=shape.perimeter,
        datums={name: flat(NamedDatum.model_validate({"name": name})) for name in named_points()},
        datum=flat(section.datum),
        beds=list(beds(section)),
        drawn=section_drawn(section),
        range=[_row_of_range(row.name, in_row(section, row.name)) for row in section.range],
    )


def _row_of_range(name: str, made: Section) -> RowOfRange:
    return RowOfRange(name=name, width=made.width, height=made.height, wall=made.wall, path=svg_path(section_shape(made)))


def how_it_looks(section: SectionBody) -> str:
    """Return a section at its size as the ``d`` of an SVG path."""
    return svg_path(section_shape(section))


class _PathPen:
    """Draws edges as the ``d`` of an SVG path, y up; curves as they are, arcs finely flattened."""

    def __init__(self, begin: Array) -> None:
        self.path = f"M{_place(begin)}"

    def straight_to(self, end: Array) -> None:
        self.path += f"L{_place(end)}"

    def arc_along(self, centre: Array, u: Array, v: Array, first: float, last: float) -> None:
        points, _ = flattened(Arc(centre, u, v, first, last), 0.01)
        self.path += "".join(f"L{_place(point)}" for point in points[1:])

    def curve_by(self, points: Array) -> None:
        self.path += "C" + " ".join(_place(point) for point in points[1:])


def _place(point: Array) -> str:
    return f"{point[0]:.4f} {point[1]:.4f}"


def svg_path(shape: Shape) -> str:
    """Return a shape as the ``d`` of an SVG path, y up; curves as they are, arcs finely flattened."""
    parts = []
    for loop in shape.loops:
        pen = _PathPen(loop[0].begin)
        for edge in loop:
            edge.draw(pen)
        parts.append(f"{pen.path}Z")
    return "".join(parts)
