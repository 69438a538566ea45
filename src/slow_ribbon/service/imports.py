"""Routes of drawings brought in: reading, looking at the lines joining makes, adding them to a job."""

from __future__ import annotations

from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Query, Response, UploadFile
from pydantic import BaseModel

from slow_ribbon.core.edits import Edit
from slow_ribbon.core.faults import Refused
from slow_ribbon.core.line_edits import AddLines
from slow_ribbon.formats.apart import LARGEST
from slow_ribbon.formats.drawing import find_lines, line_bodies, site_origin, unread_words
from slow_ribbon.service.jobs import AtBench
from slow_ribbon.service.shown import JobShown

router = APIRouter()


class LayerFigures(BaseModel):
    name: str
    edges: int


class DrawingRead(BaseModel):
    """A drawing that was read; ``content`` names it from here on."""

    content: str
    file: str
    unit: str
    unit_known: bool
    edges: int
    layers: list[LayerFigures]
    unread: str
    far_away: bool


class LineFound(BaseModel):
    number: int
    name: str
    layer: str
    closed: bool
    length: float
    points: list[tuple[float, float]]


class LinesFound(BaseModel):
    """What joining makes of the chosen layers. Points are on plan, mm, from ``origin``."""

    lines: list[LineFound]
    origin: tuple[float, float, float]
    doubled: int
    tiny: int
    dropped_points: int
    junctions: list[tuple[float, float]]
    gaps: list[tuple[float, float, float]]


class ImportRequest(BaseModel):
    """Which lines of a drawing to add: ``lines`` are numbers from the list of lines found; all where left out."""

    base: int
    tolerance: float = 1.0
    layers: list[str] | None = None
    lines: list[int] | None = None


@router.post("/imports", status_code=201)
def read_drawing(file: UploadFile, bench: AtBench) -> DrawingRead:
    """Read a DXF drawing that is sent, and keep the original."""
    data = file.file.read(LARGEST + 1)
    if len(data) > LARGEST:
        raise Refused(
            "The file is over 50 MB, the most that can be brought in. Save the part you need as a file of its own.", "file", "too-large"
        )
    name = (file.filename or "drawing.dxf")[-255:]
    content, drawing = bench.take_in(name, data)
    return DrawingRead(
        content=content,
        file=name,
        unit=drawing.unit,
        unit_known=drawing.unit_known,
        edges=len(drawing.begins),
        layers=[LayerFigures(name=layer, edges=count) for layer, count in zip(drawing.layers, drawing.layer_counts(), strict=True)],
        unread=unread_words(drawing),
        far_away=site_origin(drawing) != (0.0, 0.0, 0.0),
    )


@router.get("/imports/{content}/lines")
def lines_found(content: str, bench: AtBench, tolerance: float = 1.0, layer: Annotated[list[str] | None, Query()] = None) -> LinesFound:
    """Return the lines that joining makes of the chosen layers within a tolerance in mm."""
    _, drawing = bench.drawing(content)
    found = find_lines(drawing, layer, tolerance)
    origin = site_origin(drawing)
    joined = found.joined
    lines = []
    for number, chain in enumerate(joined.chains):
        path = np.vstack([chain.points, chain.points[:1]]) if chain.closed else chain.points
        length = float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum())
        points = [(float(x - origin[0]), float(y - origin[1])) for x, y, _ in chain.points]
        lines.append(
            LineFound(
                number=number, name=found.names[number], layer=found.layers[number], closed=chain.closed, length=length, points=points
            )
        )
    return LinesFound(
        lines=lines,
        origin=origin,
        doubled=joined.doubled,
        tiny=joined.tiny,
        dropped_points=joined.dropped_points,
        junctions=[(float(x - origin[0]), float(y - origin[1])) for x, y, _ in joined.junctions],
        gaps=[
            (float(place[0] - origin[0]), float(place[1] - origin[1]), float(gap))
            for place, gap in zip(joined.gap_places, joined.gaps, strict=True)
        ],
    )


@router.post("/jobs/{id}/imports/{content}", response_model=JobShown)
def add_lines(id: str, content: str, wanted: ImportRequest, bench: AtBench) -> Response:
    """Add chosen lines of a drawing to a job, in one edit."""
    file, drawing = bench.drawing(content)
    found = find_lines(drawing, wanted.layers, wanted.tolerance)
    job = bench.jobs.open(id).job
    fresh = not job.lines
    origin = site_origin(drawing) if fresh else job.origin
    bodies = line_bodies(found, wanted.lines, origin, file, content)
    if not bodies:
        raise Refused("No line is chosen: choose at least one to add.", "lines", "no-lines")
    edits: list[Edit] = [AddLines(lines=tuple(bodies), origin=origin if fresh else None)]
    shown: Any = bench.shown(bench.edit(id, wanted.base, edits, False))
    return Response(shown.model_dump_json(), media_type="application/json")
