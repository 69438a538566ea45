"""What the window shows of a file that is imported: its layers, its tables, the lines found in it, and how far reading has come."""

from __future__ import annotations

from typing import Any

import numpy as np
from pydantic import BaseModel
from pydantic_core import to_json

from slow_ribbon.core.geometry import flattening
from slow_ribbon.core.kernel import NO_LENGTH, Array
from slow_ribbon.core.lines import place
from slow_ribbon.imports.drawing import Drawing, site_origin
from slow_ribbon.imports.line_finding import Found, at_level
from slow_ribbon.imports.options import UNIT_NAMES, UNITS, Column, Decimal, Delimiter, Unit, Upright
from slow_ribbon.imports.results import ItemRead
from slow_ribbon.service.views.faces import FacesFigures
from slow_ribbon.service.views.sentences import Sentence

Point2 = tuple[float, float]


class LayerFigures(BaseModel):
    """A layer or group of the file. ``hidden``: off or frozen there; ``colour`` is only a hint; ``group``: the storey it is of, say."""

    name: str
    edges: int
    curves: int
    hidden: bool
    colour: str | None
    group: str | None


class TableFigures(BaseModel):
    """How a list of points was read: what its columns hold and are named, and its first rows of ``count``."""

    encoding: str
    delimiter: Delimiter
    decimal: Decimal
    header: bool
    columns: list[Column]
    names: list[str]
    rows: list[list[str]]
    count: int
    without_height: int


class DrawingRead(BaseModel):
    """A file that was read; ``content`` names it from here on.

    ``sizes`` says how far across it is, mm, if its figures are in a unit or another. With a
    ``question`` must be answered before the file can be read.
    """

    content: str
    file: str
    kind: str
    unit: str
    unit_known: bool
    edges: int
    curves: int
    layers: list[LayerFigures]
    unread: str
    notes: list[Sentence]
    openings: int
    far_away: bool
    sizes: dict[str, float]
    table: TableFigures | None
    question: str | None
    faces: FacesFigures | None
    rises: bool


class LineFound(BaseModel):
    """A line that joining makes. ``points`` are on plan; ``rising`` are their heights where it is not level."""

    number: int
    name: str
    layer: str
    closed: bool
    curved: bool
    length: float
    heights: tuple[float, float]
    points: list[Point2]
    rising: list[float] | None


class JunctionFound(BaseModel):
    """A place where three or more edges meet: the directions on plan of the ways on, and which go on into which."""

    place: Point2
    ways: list[Point2]
    pairs: list[tuple[int, int]]


class LinesFound(BaseModel):
    """What joining makes of the chosen layers. Points are on plan, mm, from ``origin``; heights the least and greatest."""

    lines: list[LineFound]
    origin: tuple[float, float, float]
    doubled: int
    overlaps: int
    tiny: int
    apart: int
    dropped_points: int
    junctions: list[JunctionFound]
    gaps: list[tuple[float, float, float]]
    points: list[Point2]


class TaskFigures(BaseModel):
    """Long work: ``going`` says whether it goes on, ``share`` how much is done where that is known."""

    going: bool
    doing: str
    share: float | None


class PictureFigures(BaseModel):
    """A picture that was read. ``scale`` is mm a pixel where the file says so."""

    content: str
    file: str
    page: int
    pages: int
    across: int
    high: int
    scale: float | None
    note: str


class BroughtFigures(BaseModel):
    """The mesh of an item that was read: the ``original`` it came from, the ``content`` by which it is drawn, and its ``own`` size, mm.

    ``filled`` is the share of the box around it that it fills; None where its faces do not close. ``sizes`` are how large its largest side
    would be, mm, in each unit. Of its ``triangles`` as many are ``drawn``.
    """

    original: str
    content: str
    own: tuple[float, float, float]
    filled: float | None
    unit: Unit
    unit_known: bool
    upright: Upright
    triangles: int
    drawn: int
    sizes: dict[str, float]


def brought_shown(original: str, content: str, item: ItemRead) -> BroughtFigures:
    """Return the figures of an item that was read."""
    about = {name: value for name, value in vars(item).items() if name != "glb"}
    largest = max(item.own) / UNITS[item.unit]
    sizes = {unit: largest * factor for unit, factor in UNITS.items()}
    return BroughtFigures(original=original, content=content, sizes=sizes, **about)


def _sizes(drawing: Drawing) -> dict[str, float]:
    """Return how far across a drawing is, mm, if its figures were in each unit; None where they are in none of them."""
    taken = next((UNITS[unit] for unit, name in UNIT_NAMES.items() if name == drawing.unit), None)
    if taken is None or not len(drawing.begins):
        return {}
    points = np.concatenate([drawing.begins, drawing.ends])[:, :2]
    across = float(np.ptp(points, axis=0).max())
    return {unit: across / taken * factor for unit, factor in UNITS.items()}


def lines_shown(found: Found) -> bytes:
    """Return the lines found, a ``LinesFound``, written as they are gone through: there may be very many."""
    drawing, joined = found.drawing, found.joined
    origin = site_origin(drawing)
    lines = []
    for number, chain in enumerate(joined.chains):
        points, length = _drawn(found, number)
        lowest, highest = float(points[:, 2].min()), float(points[:, 2].max())
        lines.append(
            to_json(
                {
                    "number": number,
                    "name": found.names[number],
                    "layer": found.layers[number],
                    "closed": chain.closed,
                    "curved": chain.bent,
                    "length": length,
                    "heights": (lowest, highest),
                    "points": (points[:, :2] - origin[:2]).tolist(),
                    "rising": (points[:, 2] - origin[2]).tolist() if highest - lowest > NO_LENGTH else None,
                }
            )
        )
    junctions = [{"place": _flat(one.place - origin), "ways": one.ways[:, :2].tolist(), "pairs": one.pairs} for one in joined.junctions]
    gaps = [(*_flat(place - origin), float(gap)) for place, gap in zip(joined.gap_places, joined.gaps, strict=True)]
    counts = {name: getattr(joined, name) for name in ("doubled", "overlaps", "tiny", "apart", "dropped_points")}
    points = [_flat(np.subtract(point, origin)) for point in drawing.points[:20_000]]
    rest = to_json({"origin": origin, "junctions": junctions, "gaps": gaps, "points": points, **counts})
    return b'{"lines":[' + b",".join(lines) + b"]," + rest[1:]


def _flat(point: Array) -> Point2:
    return float(point[0]), float(point[1])


def _drawn(found: Found, number: int) -> tuple[Any, float]:
    """Return a chain's points (n, 3) for drawing, and its length in mm."""
    chain = found.joined.chains[number]
    path = np.vstack([chain.points, chain.points[:1]]) if chain.closed else chain.points
    if not chain.bent:
        return chain.points, float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum())
    points, length = [path[:1]], 0.0
    for index, (edge, forward) in enumerate(zip(chain.edges, chain.forward, strict=True)):
        at = int(found.edges[edge])
        leg = found.drawing.curves.get(at)
        if leg is None:
            length += float(np.linalg.norm(path[index + 1] - path[index]))
        else:
            flats = []
            begin = place(found.drawing.begins[at])
            if found.level is not None:
                leg, begin = at_level(leg, found.level), (begin[0], begin[1], found.level)
            for span in leg.spans(begin):
                flats.append(span.at(flattening(span, 1.0))[0])
                length += span.length
            flat = np.concatenate(flats)
            points.append((flat if forward else flat[::-1])[1:-1])
        points.append(path[index + 1 : index + 2])
    drawn = np.concatenate(points)
    return drawn[:-1] if chain.closed else drawn, length
