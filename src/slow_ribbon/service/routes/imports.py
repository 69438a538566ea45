"""Routes of files imported: reading, looking at the lines joining makes, adding them to a job; pictures; items."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from fastapi import APIRouter, Depends, Path, Query, Request, Response, UploadFile
from pydantic import BaseModel, Field, ValidationError
from starlette.background import BackgroundTask
from starlette.concurrency import run_in_threadpool

from slow_ribbon.core.job.edits import AddLines, Edit
from slow_ribbon.core.kernel import Refused
from slow_ribbon.imports.drawing import Drawing, site_origin, unread_words
from slow_ribbon.imports.isolated import LARGEST
from slow_ribbon.imports.line_finding import Found, to_add
from slow_ribbon.imports.options import Options, Unit, Upright
from slow_ribbon.service.drawings import Joining
from slow_ribbon.service.routes.request import FOR_EVER, AtBench, AtTasks, By, JobId, Revision, TaskName, written
from slow_ribbon.service.views.change import JobChange
from slow_ribbon.service.views.faces import faces_json, faces_written
from slow_ribbon.service.views.imports import (
    BroughtFigures,
    DrawingRead,
    LayerFigures,
    LinesFound,
    PictureFigures,
    TableFigures,
    TaskFigures,
    _sizes,
    brought_shown,
    lines_shown,
)
from slow_ribbon.service.views.sentences import sentence_parts
from slow_ribbon.service.work.heavy import worked
from slow_ribbon.service.workspace import Bench
from slow_ribbon.store.events import tell_to_stop
from slow_ribbon.store.records import Author

router = APIRouter()

Content = Annotated[str, Path(pattern=r"^[0-9a-f]{64}$")]
"""The SHA-256 of a file that was imported."""


TaskPath = Annotated[str, Path(pattern=r"^[A-Za-z0-9._-]{1,64}$")]
OptionsText = Annotated[str | None, Query(max_length=4000)]


class ReadRequest(BaseModel):
    options: Options = Options()
    task: Annotated[str, Field(pattern=r"^[A-Za-z0-9._-]{1,64}$")] | None = None


class LinesRequest(ReadRequest):
    joining: Joining = Joining()


class ImportRequest(LinesRequest):
    """Which lines of a file to add: ``lines`` are numbers from the list of lines found; all where left out."""

    base: Revision
    lines: Annotated[list[int], Field(max_length=100_000)] | None = None
    request: Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{8,64}$")] | None = None


@router.post("/imports", status_code=201)
async def read_drawing(
    request: Request, file: UploadFile, bench: AtBench, tasks: AtTasks, task: TaskName = None, options: OptionsText = None
) -> DrawingRead:
    """Read a drawing, a model or a list of points that is sent, and keep the original. ``options`` are JSON."""
    data = await run_in_threadpool(_data, file)
    name = _name(file, "drawing.dxf")
    try:
        how = Options() if options is None else Options.model_validate_json(options)
    except ValidationError as error:
        raise Refused(f"The options are wrong: {error.errors()[0]['msg']}.", "options", "invalid") from error
    content, drawing = await tasks.work(request, task, lambda going: bench.drawings.take_in(name, data, how, going))
    return await run_in_threadpool(_read, content, name, drawing)


@router.post("/imports/{content}/read")
async def read_again(request: Request, content: Content, wanted: ReadRequest, bench: AtBench, tasks: AtTasks) -> DrawingRead:
    """Read an original again, in another way."""
    file, drawing = await tasks.work(request, wanted.task, lambda going: bench.drawings.drawing(content, wanted.options, going))
    return await run_in_threadpool(_read, content, file, drawing)


def _name(file: UploadFile, otherwise: str) -> str:
    """Return a file's name as it can be kept."""
    return "".join(letter for letter in file.filename or "" if letter.isprintable())[-255:] or otherwise


def _data(file: UploadFile) -> bytes:
    data = file.file.read(LARGEST + 1)
    if len(data) > LARGEST:
        raise Refused(
            "The file is over 50 MB, the most that can be imported. Save the part you need as a file of its own.", "file", "too-large"
        )
    if not data:
        raise Refused("The file is empty.", "file", "damaged")
    return data


def _read(content: Content, name: str, drawing: Drawing) -> DrawingRead:
    curved = np.zeros(len(drawing.layers), dtype=int)
    for number in drawing.curves:
        curved[drawing.layer[number]] += 1
    layers = [
        LayerFigures(
            name=layer,
            edges=count,
            curves=int(curves),
            hidden=layer in drawing.hidden,
            colour=drawing.colours.get(layer),
            group=drawing.groups.get(layer),
        )
        for layer, count, curves in zip(drawing.layers, drawing.layer_counts(), curved, strict=True)
    ]
    return DrawingRead(
        content=content,
        file=name,
        kind=name.rsplit(".", 1)[-1].lower() if "." in name else "",
        unit=drawing.unit,
        unit_known=drawing.unit_known,
        edges=len(drawing.begins),
        curves=len(drawing.curves),
        layers=layers,
        unread=unread_words(drawing),
        notes=[sentence_parts(note) for note in drawing.notes],
        openings=len(drawing.openings),
        far_away=site_origin(drawing) != (0.0, 0.0, 0.0),
        sizes=_sizes(drawing),
        table=TableFigures(**vars(drawing.table)) if drawing.table else None,
        question=drawing.question.what if drawing.question else None,
        faces=faces_json(drawing.faces) if drawing.faces else None,
        rises=len(drawing.begins) > 0 and bool(np.ptp(np.concatenate([drawing.begins[:, 2], drawing.ends[:, 2]])) > 1),
    )


@router.post("/imports/{content}/lines", response_model=LinesFound)
async def lines_found(request: Request, content: Content, wanted: LinesRequest, bench: AtBench, tasks: AtTasks) -> Response:
    """Return the lines that joining makes of the chosen layers within a tolerance in mm."""
    file, found = await tasks.work(request, wanted.task, lambda going: bench.drawings.found(content, wanted.options, wanted.joining, going))
    answer = written(await run_in_threadpool(worked, lines_shown, found))
    # Very many lines are made ready while they are looked at.
    answer.background = BackgroundTask(bench.bodies.make, found, file, content)
    return answer


@router.post("/imports/{content}/faces", response_class=Response)
async def faces_seen(request: Request, content: Content, wanted: ReadRequest, bench: AtBench, tasks: AtTasks) -> Response:
    """Return the faces of a mesh as binary glTF, mm from the lines' origin, each a stretch of triangles, with the edges around them."""
    _, drawing = await tasks.work(request, wanted.task, lambda going: bench.drawings.drawing(content, wanted.options, going))
    packed = await run_in_threadpool(faces_written, drawing)
    return Response(packed, media_type="model/gltf-binary", headers={"Content-Encoding": "gzip"})


@router.post("/jobs/{id}/imports/{content}", response_model=JobChange)
async def add_lines(
    request: Request, id: JobId, content: Content, wanted: ImportRequest, bench: AtBench, tasks: AtTasks, by: By
) -> Response:
    """Add chosen lines of a file to a job, in one edit."""
    file, found = await tasks.work(request, wanted.task, lambda going: bench.drawings.found(content, wanted.options, wanted.joining, going))
    return await run_in_threadpool(_add, id, content, wanted, bench, by, file, found)


def _add(id: str, content: str, wanted: ImportRequest, bench: Bench, by: Author, file: str, found: Found) -> Response:
    job = bench.jobs.open(id).job
    fresh = not job.lines
    origin = site_origin(found.drawing) if fresh else job.origin
    bodies = bench.bodies.take(found, wanted.lines, origin, file, content)
    lines, notices = worked(to_add, bodies)
    edits: list[Edit] = [AddLines(lines=lines, origin=origin if fresh else None)]
    return written(bench.edit(id, wanted.base, edits, False, wanted.request, by, notices))


@router.get("/tasks/{task}")
def task_figures(task: TaskPath, tasks: AtTasks) -> TaskFigures:
    """Return how far long work has come."""
    known = tasks.get(task)
    if known is None:
        return TaskFigures(going=False, doing="", share=None)
    return TaskFigures(going=not known.stopped, doing=known.doing, share=known.share)


@router.delete("/tasks/{task}", status_code=204)
def stop_task(task: TaskPath, tasks: AtTasks, request: Request) -> None:
    """Stop long work, whichever process does it."""
    tasks.stop(task)
    tell_to_stop(request.app.state.engine, task)


@router.post("/pictures", status_code=201)
async def read_picture(
    request: Request, file: UploadFile, bench: AtBench, tasks: AtTasks, page: Annotated[int, Query(ge=0, le=10_000)] = 0
) -> PictureFigures:
    """Read a picture to lie under the plan, PNG, JPEG or a page of a PDF, and keep the original."""
    name = _name(file, "picture")
    data = await run_in_threadpool(_data, file)
    content, picture = await tasks.work(request, None, lambda going: bench.drawings.take_picture(name, data, page, going))
    return PictureFigures(
        content=content,
        file=name,
        page=page,
        pages=picture.pages,
        across=picture.across,
        high=picture.high,
        scale=picture.scale,
        note=picture.note,
    )


def how_it_stands(unit: Annotated[Unit | None, Query()] = None, upright: Annotated[Upright | None, Query()] = None) -> Options:
    """Return how an item is read that has a unit, and an axis that is up; what is left out is as usual for its kind of file."""
    return Options(unit=unit, upright=upright)


@router.post("/items", status_code=201)
async def read_item(
    request: Request,
    file: UploadFile,
    bench: AtBench,
    tasks: AtTasks,
    how: Annotated[Options, Depends(how_it_stands)],
) -> BroughtFigures:
    """Read the mesh of an item to be set out, glTF, OBJ, STL or PLY, and keep the original."""
    name = _name(file, "item")
    data = await run_in_threadpool(_data, file)
    return brought_shown(*await tasks.work(request, None, lambda going: bench.drawings.take_item(name, data, how, going)))


@router.post("/items/{content}")
async def read_item_again(
    request: Request,
    content: Content,
    bench: AtBench,
    tasks: AtTasks,
    how: Annotated[Options, Depends(how_it_stands)],
) -> BroughtFigures:
    """Read the original of an item again, in another unit or with another axis up."""
    return brought_shown(*await tasks.work(request, None, lambda going: bench.drawings.item(content, how, going)))


@router.get("/items/{content}.glb", response_class=Response)
def item_mesh(content: Content, bench: AtBench) -> Response:
    """Return the mesh of an item, binary glTF, mm, z up."""
    return Response(bench.jobs.originals.get(content)[1], media_type="model/gltf-binary", headers=FOR_EVER)


@router.get("/pictures/{content}/{page}.png", response_class=Response)
async def picture_png(
    request: Request, content: Content, page: Annotated[int, Path(ge=0, le=10_000)], bench: AtBench, tasks: AtTasks
) -> Response:
    """Return a picture as it is drawn."""
    picture = bench.drawings.known_picture(content, page)
    if picture is None:
        picture = await tasks.work(request, None, lambda going: bench.drawings.picture(content, page, going))
    return Response(picture.png, media_type="image/png", headers=FOR_EVER)
