"""Routes of the list of jobs: what there is, and jobs started, opened from a file, copied, archived and restored."""

from __future__ import annotations

import datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Query, Request, Response
from pydantic import BaseModel

from slow_ribbon.core.job import Job, files_from_text, job_from_text
from slow_ribbon.core.kernel import Name
from slow_ribbon.service.guard import check_type
from slow_ribbon.service.routes.request import FOR_EVER, AtBench, By, JobId, Revision
from slow_ribbon.service.views.small_plan import small_plan
from slow_ribbon.service.work.heavy import apart, worked

router = APIRouter()


class JobSummary(BaseModel):
    """A line of the list of jobs: ``said`` and ``author`` describe its last change; ``faults`` are unknown until it was worked out."""

    id: str
    name: str
    put_away: bool
    changes: int
    lines: int
    runs: int
    rows: int
    changed_at: datetime.datetime
    revision: int
    said: str
    author: str | None
    faults: int | None
    warnings: int | None


class NewJob(BaseModel):
    name: Name


class JobMade(BaseModel):
    id: str


class PutAway(BaseModel):
    put_away: bool


@router.get("/jobs")
def list_jobs(bench: AtBench) -> list[JobSummary]:
    """Return all jobs, the one changed last first."""
    return [JobSummary(**vars(summary)) for summary in bench.jobs.summaries()]


@router.post("/jobs", status_code=201)
def new_job(new: NewJob, bench: AtBench, by: By) -> JobMade:
    """Start an empty job."""
    return JobMade(id=bench.jobs.add(Job(name=new.name), "started the job", by=by))


async def whole_body(request: Request) -> bytes:
    """Return the body as it came: a job file is checked as a whole by the core, not field by field here."""
    check_type(request.headers.get("content-type"), "application/json")
    return await request.body()


#: Bytes of a job file that are checked at hand.
_AT_HAND = 500_000
_JOB_FILE = {"requestBody": {"required": True, "content": {"application/json": {"schema": {"type": "object"}}}}}


def job_and_files(data: bytes) -> tuple[Job, dict[str, bytes]]:
    """Return the job in a job file, checked, and the files in it."""
    return job_from_text(data), files_from_text(data)


@router.post("/jobs/file", status_code=201, openapi_extra=_JOB_FILE)
def open_job_file(bench: AtBench, by: By, data: Annotated[bytes, Depends(whole_body)]) -> JobMade:
    """Open a job file (``*.ribbon.json``) as a new job."""
    # A large one is checked as a whole in a process of its own: nothing can be done beside that here.
    job, files = (apart if len(data) > _AT_HAND else worked)(job_and_files, data)
    names = job.files()
    for content, file in files.items():
        bench.jobs.originals.keep(content, names.get(content, content), file)
    return JobMade(id=bench.jobs.add(job, "opened from a job file", by=by))


@router.post("/jobs/{id}/copy", status_code=201)
def copy_job(id: JobId, bench: AtBench, by: By) -> JobMade:
    """Copy a job as it stands."""
    job = bench.jobs.open(id).job
    copied = job.model_copy(update={"name": f"{job.name[:110]}, copy"})
    return JobMade(id=bench.jobs.add(copied, f"copied from {job.name}", by=by))


@router.put("/jobs/{id}/put-away")
def put_away(id: JobId, wanted: PutAway, bench: AtBench) -> PutAway:
    """Put a job away, or bring it back."""
    bench.jobs.set_put_away(id, wanted.put_away)
    return wanted


@router.get("/jobs/{id}/plan.svg", response_class=Response)
def plan(id: JobId, revision: Annotated[Revision, Query()], bench: AtBench) -> Response:
    """Return a small plan of a job as it stood at a revision, SVG."""
    drawn = worked(small_plan, bench.jobs.at(id, revision))
    return Response(drawn, media_type="image/svg+xml", headers=FOR_EVER)
