"""Routes of jobs: the list, a job as it stands, edits, undo and redo, meshes, and what is handed over."""

from __future__ import annotations

import datetime
import re
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Request, Response
from pydantic import BaseModel, Field

from slow_ribbon.core.edits import Edit
from slow_ribbon.core.job import Job, files_from_text, job_from_text, job_to_text
from slow_ribbon.core.library import library
from slow_ribbon.core.model import Name
from slow_ribbon.core.section import section_shape
from slow_ribbon.formats.gltf import surface_glb
from slow_ribbon.formats.lists import CUTTING_COLUMNS, SCHEDULE_COLUMNS, cutting_rows, schedule_rows, to_csv
from slow_ribbon.formats.model import job_glb
from slow_ribbon.service.bench import Bench
from slow_ribbon.service.shown import JobShown, LibraryEntry, row_numbers, svg_path
from slow_ribbon.store.jobs import Opened

router = APIRouter()

#: A mesh is named by the hash of what it is made from, so it never changes.
FOR_EVER = {"Cache-Control": "public, max-age=31536000, immutable"}


def the_bench(request: Request) -> Bench:
    """Return the server's bench."""
    bench: Bench = request.app.state.bench
    return bench


AtBench = Annotated[Bench, Depends(the_bench)]


class JobSummary(BaseModel):
    """A line of the list of jobs."""

    id: str
    name: str
    put_away: bool
    changes: int
    lines: int
    runs: int
    rows: int
    changed_at: datetime.datetime


class NewJob(BaseModel):
    name: Name


class JobMade(BaseModel):
    id: str


class PutAway(BaseModel):
    put_away: bool


class EditRequest(BaseModel):
    """Edits made against revision ``base``; ``confirmed`` allows rows of 100,000 items or more."""

    base: int
    edits: Annotated[list[Edit], Field(min_length=1, max_length=1000)]
    confirmed: bool = False


class PreviewRequest(BaseModel):
    base: int
    edits: Annotated[list[Edit], Field(min_length=1, max_length=1000)]


class StepRequest(BaseModel):
    base: int


class PastRevision(BaseModel):
    number: int
    said: str
    made_at: datetime.datetime
    current: bool
    undone: bool


def _json(shown: JobShown) -> Response:
    # Written once by pydantic; going through FastAPI's own check would write it twice.
    return Response(shown.model_dump_json(), media_type="application/json", headers={"Cache-Control": "no-store"})


@router.get("/health")
def health(bench: AtBench) -> dict[str, str]:
    """Tell whether the service and its database answer."""
    bench.jobs.summaries()
    return {"status": "well"}


@router.get("/jobs")
def list_jobs(bench: AtBench) -> list[JobSummary]:
    """Return all jobs, the one changed last first."""
    return [JobSummary(**vars(summary)) for summary in bench.jobs.summaries()]


@router.post("/jobs", status_code=201)
def new_job(new: NewJob, bench: AtBench) -> JobMade:
    """Start an empty job."""
    return JobMade(id=bench.jobs.add(Job(name=new.name), "started the job"))


async def whole_body(request: Request) -> bytes:
    """Return the body as it came: a job file is checked as a whole by the core, not field by field here."""
    return await request.body()


_JOB_FILE = {"requestBody": {"required": True, "content": {"application/json": {"schema": {"type": "object"}}}}}


@router.post("/jobs/file", status_code=201, openapi_extra=_JOB_FILE)
def open_job_file(bench: AtBench, data: Annotated[bytes, Depends(whole_body)]) -> JobMade:
    """Open a job file (``*.ribbon.json``) as a new job."""
    job = job_from_text(data)
    for content, file in files_from_text(data).items():
        name = next((picture.name for picture in job.pictures if picture.content == content), content)
        bench.jobs.keep_original(content, name, file)
    return JobMade(id=bench.jobs.add(job, "opened from a job file"))


@router.post("/jobs/{id}/copy", status_code=201)
def copy_job(id: str, bench: AtBench) -> JobMade:
    """Copy a job as it stands."""
    job = bench.jobs.open(id).job
    copied = job.model_copy(update={"name": f"{job.name[:110]}, copy"})
    return JobMade(id=bench.jobs.add(copied, f"copied from {job.name}"))


@router.put("/jobs/{id}/put-away")
def put_away(id: str, wanted: PutAway, bench: AtBench) -> PutAway:
    """Put a job away, or bring it back."""
    bench.jobs.set_put_away(id, wanted.put_away)
    return wanted


@router.get("/jobs/{id}", response_model=JobShown)
def show_job(id: str, bench: AtBench) -> Response:
    """Return a job as it stands and all that follows from it."""
    return _json(bench.shown(bench.jobs.open(id)))


@router.get("/jobs/{id}/revision")
def revision(id: str, bench: AtBench) -> StepRequest:
    """Return the number of the current revision, for a window that wants to know whether it is behind."""
    return StepRequest(base=bench.jobs.current(id))


@router.post("/jobs/{id}/edits", response_model=JobShown)
def edit_job(id: str, wanted: EditRequest, bench: AtBench) -> Response:
    """Save edits as one revision."""
    return _json(bench.edit(id, wanted.base, wanted.edits, wanted.confirmed))


@router.post("/jobs/{id}/preview", response_model=JobShown)
def preview(id: str, wanted: PreviewRequest, bench: AtBench) -> Response:
    """Return what edits would make of a revision, saving nothing."""
    return _json(bench.preview(id, wanted.base, wanted.edits))


@router.post("/jobs/{id}/undo", response_model=JobShown)
def undo(id: str, wanted: StepRequest, bench: AtBench) -> Response:
    """Undo the last edit."""
    return _step(id, wanted, "undo", bench)


@router.post("/jobs/{id}/redo", response_model=JobShown)
def redo(id: str, wanted: StepRequest, bench: AtBench) -> Response:
    """Redo the edit undone last."""
    return _step(id, wanted, "redo", bench)


def _step(id: str, wanted: StepRequest, way: Literal["undo", "redo"], bench: Bench) -> Response:
    opened: Opened = bench.jobs.step(id, wanted.base, way)
    return _json(bench.shown(opened))


@router.get("/jobs/{id}/history")
def history(id: str, bench: AtBench) -> list[PastRevision]:
    """Return the newest revisions, newest first."""
    return [PastRevision(**vars(past)) for past in bench.jobs.history(id)]


@router.get("/jobs/{id}/meshes/{key}.glb", response_class=Response)
def mesh(id: str, key: str, bench: AtBench) -> Response:
    """Return a run's mesh as binary glTF, in mm from the run's origin, z up."""
    run = bench.run_mesh(id, key)
    return Response(surface_glb(run.surface(), run.id), media_type="model/gltf-binary", headers=FOR_EVER)


@router.get("/jobs/{id}/places/{key}", response_class=Response)
def places(id: str, key: str, bench: AtBench) -> Response:
    """Return a row's places as little-endian float32, five numbers each: x, y, z, heading, chainage."""
    return Response(row_numbers(bench.row_places(id, key)), media_type="application/octet-stream", headers=FOR_EVER)


@router.get("/jobs/{id}/cutting-list.csv", response_class=Response)
def cutting_csv(id: str, bench: AtBench) -> Response:
    """Return the cutting list as CSV."""
    opened = bench.jobs.open(id)
    text = to_csv(CUTTING_COLUMNS, cutting_rows(bench.solve(opened.job)))
    return _download(text, "text/csv; charset=utf-8", opened.job.name, "cutting-list.csv")


@router.get("/jobs/{id}/schedule.csv", response_class=Response)
def schedule_csv(id: str, bench: AtBench) -> Response:
    """Return the schedule as CSV."""
    opened = bench.jobs.open(id)
    text = to_csv(SCHEDULE_COLUMNS, schedule_rows(bench.solve(opened.job)))
    return _download(text, "text/csv; charset=utf-8", opened.job.name, "schedule.csv")


@router.get("/jobs/{id}/model.glb", response_class=Response)
def model(id: str, bench: AtBench) -> Response:
    """Return the job in 3D as binary glTF, in metres, y up."""
    opened = bench.jobs.open(id)
    return _download(job_glb(bench.solve(opened.job)), "model/gltf-binary", opened.job.name, "glb")


@router.get("/jobs/{id}/job.ribbon.json", response_class=Response)
def job_file(id: str, bench: AtBench) -> Response:
    """Return the job file, with the pictures under the job in it."""
    job = bench.jobs.open(id).job
    pictures = {picture.content: bench.jobs.original(picture.content)[1] for picture in job.pictures if bench.jobs.has(picture.content)}
    return _download(job_to_text(job, pictures), "application/json", job.name, "ribbon.json")


def _download(content: str | bytes, kind: str, name: str, ending: str) -> Response:
    plain = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "job"
    return Response(
        content, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{plain}.{ending}"', "Cache-Control": "no-store"}
    )


@router.get("/library")
def show_library() -> list[LibraryEntry]:
    """Return the starting library of sections."""
    return [
        LibraryEntry(key=entry.key, family=entry.family, section=entry.section, path=svg_path(section_shape(entry.section)))
        for entry in library()
    ]
