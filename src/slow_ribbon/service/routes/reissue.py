"""Routes of a drawing imported again: what is the same, moved, new and gone is shown, then it takes the place of what came from it."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool

from slow_ribbon.core.job import Job, RenewedLine, stood_on
from slow_ribbon.core.job.edits import AddLines, Edit, RenewLines
from slow_ribbon.core.kernel import Id, Refused
from slow_ribbon.core.lines import Line, LineBody, Match, Outcome, compared, course_of
from slow_ribbon.imports.line_finding import Found, left_out, line_bodies, sound_lines
from slow_ribbon.service.routes.imports import Content, LinesRequest
from slow_ribbon.service.routes.request import AtBench, AtTasks, By, JobId, Revision, written
from slow_ribbon.service.views.change import JobChange
from slow_ribbon.service.views.imports import Point2
from slow_ribbon.service.work.heavy import worked
from slow_ribbon.service.workspace import Bench
from slow_ribbon.store.records import Author

router = APIRouter()

FileName = Annotated[str, Field(min_length=1, max_length=255)]


class CompareRequest(LinesRequest):
    """``instead``: the name of the file whose lines the drawing is compared with."""

    instead: FileName


class RenewRequest(CompareRequest):
    """``left``: lines of the job that stay as they are though the drawing shows them otherwise, or no longer has them.

    ``without``: lines found that are new and not wanted, by number.
    """

    base: Revision
    left: Annotated[tuple[Id, ...], Field(max_length=100_000)] = ()
    without: Annotated[tuple[int, ...], Field(max_length=100_000)] = ()
    request: Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{8,64}$")] | None = None


class LineMet(BaseModel):
    """What has become of a line: ``line`` is its id in the job, ``number`` that among the lines found.

    ``by`` is how far it has moved at most, mm; ``worked_on`` whether it was worked on in the job since it came. ``stands``
    names what stands on it; ``drawn`` is how it lies in the job, on plan, where that is not as it is found.
    """

    way: Outcome
    line: str | None
    number: int | None
    name: str
    by: float
    worked_on: bool
    stands: list[str]
    closed: bool
    drawn: list[Point2]


class Comparison(BaseModel):
    lines: list[LineMet]


def lines_of(job: Job, file: str) -> list[Line]:
    """Return the lines of a job that came from a file. Raises ``Refused`` where there are none."""
    found = [line for line in job.lines if line.source is not None and line.source.file == file]
    if not found:
        raise Refused(f"No line of this job came from {file}.", "instead", "unknown-file")
    return found


@router.post("/jobs/{id}/imports/{content}/compare")
async def compare_drawing(
    request: Request, id: JobId, content: Content, wanted: CompareRequest, bench: AtBench, tasks: AtTasks
) -> Comparison:
    """Compare the lines that joining makes of a drawing with those of a job that came from a file."""
    file, found = await tasks.work(request, wanted.task, lambda going: bench.drawings.found(content, wanted.options, wanted.joining, going))

    def work() -> Comparison:
        job = bench.jobs.open(id).job
        return worked(comparison, job, wanted.instead, found, file, content)

    return await run_in_threadpool(work)


def comparison(job: Job, instead: str, found: Found, file: str, content: str) -> Comparison:
    """Return the lines that came from a file, compared with the newer issue, as they are shown."""
    old = lines_of(job, instead)
    lines = {line.id: line for line in old}
    standing = stood_on(job)
    shown = []
    for met in met_again(old, line_bodies(found, None, job.origin, file, content))[0]:
        line = lines.get(met.line or "")
        drawn = line is not None and met.way in ("moved", "gone")
        shown.append(
            LineMet(
                way=met.way,
                line=met.line,
                number=met.number,
                name=line.name if line is not None else found.names[met.number or 0],
                by=round(met.by, 4),
                worked_on=met.worked_on,
                stands=standing.get(met.line or "", []),
                closed=line is not None and line.closed,
                drawn=[(float(x), float(y)) for x, y, _ in course_of(line).flattened(1.0)[1]] if drawn and line is not None else [],
            )
        )
    return Comparison(lines=shown)


@router.post("/jobs/{id}/imports/{content}/renew", response_model=JobChange)
async def renew_lines(
    request: Request, id: JobId, content: Content, wanted: RenewRequest, bench: AtBench, tasks: AtTasks, by: By
) -> Response:
    """Let a drawing take the place of what came from a file, in one edit."""
    file, found = await tasks.work(request, wanted.task, lambda going: bench.drawings.found(content, wanted.options, wanted.joining, going))
    return await run_in_threadpool(_renew, id, content, wanted, bench, by, file, found)


def _renew(id: str, content: str, wanted: RenewRequest, bench: Bench, by: Author, file: str, found: Found) -> Response:
    job = bench.jobs.open(id).job
    edits, notices = worked(renewing, job, wanted, found, file, content)
    return written(bench.edit(id, wanted.base, edits, False, wanted.request, by, notices))


def met_again(old: list[Line], bodies: list[LineBody]) -> tuple[list[Match], tuple[str, ...]]:
    """Return the comparison of lines with those found that are sound, and notices of what is left out."""
    sound, wrong = sound_lines(bodies)
    found = compared(old, [bodies[number] for number in sound])
    return [met if met.number is None else replace(met, number=sound[met.number]) for met in found], left_out(wrong)


def renewing(job: Job, wanted: RenewRequest, found: Found, file: str, content: str) -> tuple[list[Edit], tuple[str, ...]]:
    """Return the edits by which a drawing takes the place of what came from a file, and notices of what is left out."""
    old = lines_of(job, wanted.instead)
    bodies = line_bodies(found, None, job.origin, file, content)
    all_met, notices = met_again(old, bodies)
    left, without = set(wanted.left), set(wanted.without)
    taken = [met for met in all_met if met.line is not None and met.number is not None]
    gone = [met.line for met in all_met if met.way == "gone" and met.line is not None and met.line not in left]
    added = [bodies[met.number] for met in all_met if met.way == "new" and met.number is not None and met.number not in without]
    renewed = tuple(_renewed(met, bodies, left) for met in taken)
    edits: list[Edit] = [RenewLines(file=file[-255:], renewed=renewed, gone=tuple(gone))]
    if added:
        edits.append(AddLines(lines=tuple(added)))
    return edits, notices


def _renewed(met: Match, bodies: list[LineBody], left: set[str]) -> RenewedLine:
    assert met.line is not None  # met in both
    assert met.number is not None
    body = bodies[met.number]
    assert body.source is not None  # it has just been read
    takes = met.way == "moved" and met.line not in left
    return RenewedLine(line=met.line, source=body.source, body=body if takes else None)
