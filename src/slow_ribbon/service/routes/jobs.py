"""Routes of jobs: the list, a job as it stands, edits, undo and redo, meshes, and what is handed over."""

from __future__ import annotations

import datetime
import re
import struct
from collections.abc import Callable, Iterator
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import StreamingResponse
from isal import isal_zlib
from pydantic import BaseModel, Field
from starlette.background import BackgroundTask

from slow_ribbon.core.job import job_to_text
from slow_ribbon.core.job.edits import AnyEdit
from slow_ribbon.core.kernel import Refused
from slow_ribbon.exports.paper import ListColumn, Paper, Printed
from slow_ribbon.exports.registry import WRITERS, Exporter, written_as
from slow_ribbon.imports.registry import READERS
from slow_ribbon.service.meshes import mesh as mesh_of
from slow_ribbon.service.packing import HURRY, encoding, takes_gzip
from slow_ribbon.service.routes.request import FOR_EVER, AtBench, AtTasks, By, JobId, MeshKey, Revision, TaskName, written
from slow_ribbon.service.views.change import FiguresPart, JobChange, JobOpened
from slow_ribbon.service.views.cutting import CutRowFigures, ScheduleLine, schedule_shown
from slow_ribbon.service.views.rows import row_numbers
from slow_ribbon.service.work.heavy import watched, worked

router = APIRouter()


class EditRequest(BaseModel):
    """Edits made against revision ``base``; ``confirmed`` allows rows of 100,000 items or more.

    ``request`` is a name of the window's own, under which edits that are sent again, because no
    answer came, are made only once.
    """

    base: Revision
    edits: Annotated[list[AnyEdit], Field(min_length=1, max_length=1000)]
    confirmed: bool = False
    request: Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{8,64}$")] | None = None


class PreviewRequest(BaseModel):
    base: Revision
    edits: Annotated[list[AnyEdit], Field(min_length=1, max_length=1000)]


class StepRequest(BaseModel):
    base: Revision


class PastRevision(BaseModel):
    number: int
    said: str
    made_at: datetime.datetime
    current: bool
    undone: bool
    author: str | None


@router.get("/jobs/{id}", response_model=JobOpened)
def open_job(id: JobId, bench: AtBench, request: Request) -> Response:
    """Return a job as it stands; the figures that follow from it come from ``figures``."""
    packed = takes_gzip(request)
    answer = written(bench.opened(id, packed))
    answer.headers.update(encoding(packed))
    return answer


class Lines(StreamingResponse):
    """Parts of an answer, a line of JSON each."""

    media_type = "application/x-ndjson"


@router.get("/jobs/{id}/figures", response_model=FiguresPart, response_class=Lines)
def figures(id: JobId, bench: AtBench, revision: Annotated[Revision, Query()]) -> Response:
    """Return the figures of a revision in parts, a line of JSON each (``application/x-ndjson``)."""
    parts = bench.figures(id, revision)
    return Lines(parts, headers={"Cache-Control": "no-store"})


@router.get("/jobs/{id}/cutting", response_model=dict[str, list[CutRowFigures]])
def cutting(id: JobId, bench: AtBench, keys: Annotated[str, Query(pattern=r"^[0-9a-f]{40}(,[0-9a-f]{40}){0,63}$")]) -> Response:
    """Return rows of the cutting list by the keys that answers about the job name them by; those of another time are left out."""
    return written(bench.cut_rows(id, keys.split(",")))


@router.get("/jobs/{id}/schedule")
def schedule(id: JobId, bench: AtBench) -> list[ScheduleLine]:
    """Return the schedule of the job as it stands: its runs, sections with their bars, rows of items, fittings, and all together."""
    return worked(schedule_shown, bench.solved(bench.jobs.open(id)))


@router.get("/jobs/{id}/changes", response_model=JobChange)
def changes(id: JobId, bench: AtBench, since: Annotated[Revision, Query()]) -> Response:
    """Return the change since a revision, for a window that is behind."""
    return written(bench.changed(bench.jobs.open(id), since))


@router.get("/jobs/{id}/revision")
def revision(id: JobId, bench: AtBench) -> StepRequest:
    """Return the number of the current revision, for a window that wants to know whether it is behind."""
    return StepRequest(base=bench.jobs.current(id))


@router.post("/jobs/{id}/edits", response_model=JobChange)
def edit_job(id: JobId, wanted: EditRequest, bench: AtBench, by: By) -> Response:
    """Save edits as one revision."""
    answer = written(bench.edit(id, wanted.base, wanted.edits, wanted.confirmed, wanted.request, by))
    if bench.meshes.expected(id):
        answer.background = BackgroundTask(bench.meshes.make)
    return answer


@router.post("/jobs/{id}/preview", response_model=JobChange)
def preview(id: JobId, wanted: PreviewRequest, bench: AtBench) -> Response:
    """Return the change that edits would make to a revision, and save nothing."""
    return written(bench.preview(id, wanted.base, wanted.edits))


@router.post("/jobs/{id}/undo", response_model=JobChange)
def undo(id: JobId, wanted: StepRequest, bench: AtBench, by: By) -> Response:
    """Undo the last edit."""
    return written(bench.step(id, wanted.base, "undo", by))


@router.post("/jobs/{id}/redo", response_model=JobChange)
def redo(id: JobId, wanted: StepRequest, bench: AtBench, by: By) -> Response:
    """Redo the edit undone last."""
    return written(bench.step(id, wanted.base, "redo", by))


@router.get("/jobs/{id}/history")
def history(id: JobId, bench: AtBench) -> list[PastRevision]:
    """Return the newest revisions, newest first."""
    return [PastRevision(**vars(past)) for past in bench.jobs.history(id)]


@router.get("/jobs/{id}/meshes/{key}.glb", response_class=Response)
def mesh(id: JobId, key: MeshKey, bench: AtBench, request: Request) -> Response:
    """Return a run's mesh as binary glTF, in mm from the run's origin, z up."""
    packed, run = takes_gzip(request), bench.run_mesh(id, key)
    body = bench.meshes.packed(id, run) if packed else mesh_of(run)
    return Response(body, media_type="model/gltf-binary", headers={**FOR_EVER, **encoding(packed)})


@router.get("/jobs/{id}/meshes", response_class=Response)
def meshes(
    id: JobId, bench: AtBench, request: Request, keys: Annotated[str, Query(pattern=r"^[0-9a-f]{32}(,[0-9a-f]{32}){0,63}$")]
) -> Response:
    """Return several meshes in one answer, in the order asked for: each its key (32 letters), its size (uint32, little-endian), itself.

    A mesh of another revision of the job comes with size 0. Each is sent as it is made.
    """

    def parts() -> Iterator[bytes]:
        for key in keys.split(","):
            try:
                glb = mesh_of(bench.run_mesh(id, key))
            except Refused:
                glb = b""
            yield key.encode() + struct.pack("<I", len(glb)) + glb

    packed = takes_gzip(request)
    sent = _packed(parts()) if packed else parts()
    return StreamingResponse(sent, media_type="application/octet-stream", headers={**FOR_EVER, **encoding(packed)})


def _packed(parts: Iterator[bytes]) -> Iterator[bytes]:
    """Yield parts compressed with gzip, each so that it can be read when it comes."""
    packing = isal_zlib.compressobj(HURRY, wbits=16 + isal_zlib.MAX_WBITS)
    for part in parts:
        yield packing.compress(part) + packing.flush(isal_zlib.Z_SYNC_FLUSH)
    yield packing.flush()


@router.get("/jobs/{id}/places/{key}", response_class=Response)
def places(id: JobId, key: MeshKey, bench: AtBench) -> Response:
    """Return a row's places as little-endian float32, eight numbers each, as ``row_numbers`` has them."""
    return Response(row_numbers(bench.row_places(id, key)), media_type="application/octet-stream", headers=FOR_EVER)


def _handed_over(writer: Exporter) -> Callable[..., Response]:
    def on_paper(
        id: JobId,
        bench: AtBench,
        tasks: AtTasks,
        paper: Paper = "a4",
        without: Annotated[list[ListColumn], Query()] = [],  # noqa: B006  # it is only read
        task: TaskName = None,
    ) -> Response:
        opened = bench.jobs.open(id)
        with tasks.going(task) as going:
            going.begin("")
            content = watched(going, written_as, writer.key, bench.solved(opened), Printed(paper, frozenset(without)))
        return _download(content, writer.media_type, opened.job.name, writer.key)

    def without_pages(id: JobId, bench: AtBench, tasks: AtTasks) -> Response:
        return on_paper(id, bench, tasks)

    hand_over: Callable[..., Response] = on_paper if writer.papers else without_pages
    hand_over.__doc__ = f"Return the job's {writer.title[0].lower()}{writer.title[1:]}: {writer.about}."
    hand_over.__name__ = re.sub(r"\W", "_", writer.key)
    return hand_over


for each in WRITERS:
    router.get(f"/jobs/{{id}}/{each.key}", response_class=Response)(_handed_over(each))


@router.get("/jobs/{id}/job.ribbon.json", response_class=Response)
def job_file(id: JobId, bench: AtBench) -> Response:
    """Return the job file, with the pictures under the job and the meshes of its items in it."""
    job = bench.jobs.open(id).job
    originals = bench.jobs.originals
    files = {content: originals.get(content)[1] for content in job.files() if originals.has(content)}
    return _download(job_to_text(job, files), "application/json", job.name, "ribbon.json")


def _download(content: str | bytes, kind: str, name: str, ending: str) -> Response:
    plain = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "job"
    return Response(
        content, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{plain}.{ending}"', "Cache-Control": "no-store"}
    )


class ReaderEntry(BaseModel):
    """What can be imported: what its files are called, and their endings."""

    words: str
    endings: list[str]


class WriterEntry(BaseModel):
    """What a job can be handed over as: the last part of its address, its title, and what it is."""

    key: str
    title: str
    about: str
    papers: list[str]
    columns: list[str]


class Formats(BaseModel):
    """The formats that are read and written."""

    imports: list[ReaderEntry]
    exports: list[WriterEntry]


@router.get("/formats")
def formats() -> Formats:
    """Return the formats that are read and written."""
    return Formats(
        imports=[ReaderEntry(words=reader.words, endings=list(reader.endings)) for reader in READERS],
        exports=[
            WriterEntry(key=writer.key, title=writer.title, about=writer.about, papers=list(writer.papers), columns=list(writer.columns))
            for writer in WRITERS
        ],
    )
