"""Routes that only answer: what a typed length says, where a walk goes, dimensions, how far a simpler line would stray."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Annotated, Final, Literal

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from slow_ribbon.core.job import Figure, Spot, dimensions, place_on
from slow_ribbon.core.kernel import Coordinate, Distance, Id, Point3, Refused, System, look_up, parse_length, work_out
from slow_ribbon.core.lines import Line, LineBody, course_of, simplified, walk
from slow_ribbon.core.solve import Clash, Solved, clash_checks, clashes, cut_across
from slow_ribbon.exports.across import across_dxf, across_svg
from slow_ribbon.service.routes.request import AtBench, JobId, attached
from slow_ribbon.service.views.checks import CheckFigures, check_shown
from slow_ribbon.service.views.cut_across import CutShown, cut_shown
from slow_ribbon.service.views.elevation import RunSeen, run_seen
from slow_ribbon.service.views.lines import Coordinates, LegFigures, legs_shown, path_shown
from slow_ribbon.service.work.heavy import worked

router = APIRouter()


class LengthRequest(BaseModel):
    """A typed length. In a job its measures are known."""

    text: Annotated[str, Field(max_length=400)]
    system: System = "mm"
    job: Annotated[str, Field(max_length=64)] | None = None


class LengthFigures(BaseModel):
    """What a text says, mm, and the measures it uses."""

    mm: float
    uses: list[str]


class WalkRequest(BaseModel):
    """A walk to look at, from ``start``."""

    text: Annotated[str, Field(max_length=20_000)]
    start: Point3 = (0.0, 0.0, 0.0)


class WalkShown(BaseModel):
    """Where a walk goes: the line it makes, drawn, its end and its heading there, degrees clockwise from north."""

    line: LineBody
    length: float
    path: list[Coordinates]
    chainages: list[float]
    legs: list[LegFigures]
    end: Point3
    heading: float
    uses: list[str]


class DimensionRequest(BaseModel):
    a: Spot
    b: Spot


class PlaceRequest(BaseModel):
    """A place on a line: at a chainage, or near it where a straight from a point touches the line on plan."""

    line: Id
    chainage: Distance
    touched_from: Point3 | None = None


class PlaceFound(BaseModel):
    """A place on a line, exact, with its chainage."""

    chainage: float
    point: Point3


class ElevationRequest(BaseModel):
    """The plane through two places on plan, looked at with the first on the left; and the keys of runs."""

    a: tuple[Coordinate, Coordinate]
    b: tuple[Coordinate, Coordinate]
    keys: Annotated[list[Annotated[str, Field(max_length=64)]], Field(max_length=50_000)]


class CutRequest(BaseModel):
    """A place on a line to look at the job across the line."""

    line: Id
    chainage: Distance = 0.0


class SimplerRequest(BaseModel):
    lines: Annotated[list[Id], Field(min_length=1, max_length=10_000)]
    tolerance: Annotated[float, Field(gt=0, le=10_000)]


class Simpler(BaseModel):
    """What simplifying would leave: points before and after, and how far the lines would stray at most, mm."""

    before: int
    after: int
    strays: float


@router.post("/lengths")
def read_length(wanted: LengthRequest, bench: AtBench) -> LengthFigures:
    """Return the length that a typed text says."""
    if wanted.job is None:
        return LengthFigures(mm=parse_length(wanted.text, wanted.system), uses=[])
    lengths = bench.jobs.open(wanted.job).job.lengths()
    try:
        return LengthFigures(mm=parse_length(wanted.text, wanted.system), uses=[])
    except Refused as refused:
        # What is no plain length may be worked out with measures; an empty field is only empty.
        if not wanted.text.strip():
            raise
        try:
            worked = work_out(wanted.text, lengths, wanted.system)
        except Refused as other:
            if other.code == "unknown-measure":
                found = re.search(r"no measure ('[^']*')", str(other))
                also = f" Nor is there a measure {found.group(1)} in this job." if found else ""
                raise Refused(refused.what + also, other.where, refused.code) from None
            raise other if any(letter.isalpha() or letter in "*(" for letter in wanted.text) else refused from None
    return LengthFigures(mm=worked.length, uses=sorted(worked.uses))


@router.post("/jobs/{id}/walk")
def look_at_walk(id: JobId, wanted: WalkRequest, bench: AtBench) -> WalkShown:
    """Return where a walk goes, with the job's measures."""
    job = bench.jobs.open(id).job
    return worked(walk_shown, wanted.text, wanted.start, job.lengths(), job.units.system)


def walk_shown(text: str, start: Point3, lengths: Mapping[str, float], system: System) -> WalkShown:
    """Return where a walk goes."""
    walked = walk(text, start, lengths, system)
    body = LineBody(name="walk", start=walked.start, legs=walked.legs, closed=walked.closed)
    line = Line(id="L0", **{name: getattr(body, name) for name in LineBody.model_fields})
    chainages, path = path_shown(line)
    return WalkShown(
        line=body,
        length=course_of(line).length,
        path=path,
        chainages=chainages,
        legs=legs_shown(line),
        end=walked.end,
        heading=walked.bearing,
        uses=sorted(walked.uses),
    )


@router.post("/jobs/{id}/dimension")
def ask_dimension(id: JobId, wanted: DimensionRequest, bench: AtBench) -> list[Figure]:
    """Return the figures between two places of a job."""
    return worked(dimensions, bench.jobs.open(id).job, wanted.a, wanted.b)


@router.post("/jobs/{id}/place")
def find_place(id: JobId, wanted: PlaceRequest, bench: AtBench) -> PlaceFound:
    """Return a place on a line, for a point that was snapped to it as it is drawn."""
    chainage, point = worked(place_on, bench.jobs.open(id).job.line(wanted.line), wanted.chainage, wanted.touched_from)
    return PlaceFound(chainage=chainage, point=point)


@router.post("/jobs/{id}/elevation", response_model=list[RunSeen])
def look_at_elevation(id: JobId, wanted: ElevationRequest, bench: AtBench) -> Response:
    """Return runs as they are seen square to an upright plane; those of another revision are left out."""
    found = [run_seen(run, wanted.a, wanted.b) for run in bench.known_runs(id, wanted.keys)]
    return Response(b"[" + b",".join(found) + b"]", media_type="application/json")


@router.post("/jobs/{id}/cut-across")
def look_across(id: JobId, wanted: CutRequest, bench: AtBench) -> CutShown:
    """Return the sections of everything that the plane square to a line at a chainage cuts."""
    solved = bench.solved(bench.jobs.open(id))
    return worked(_looked_across, solved, wanted.line, wanted.chainage)


#: Within how far of the line what stands there is handed over, mm.
_HANDED: Final = 1500.0


@router.get("/jobs/{id}/cut-across.{form}", response_class=Response)
def hand_across(
    id: JobId,
    form: Literal["svg", "dxf"],
    bench: AtBench,
    line: Annotated[Id, Query()],
    chainage: Annotated[Distance, Query()] = 0.0,
) -> Response:
    """Return the cut across a line at full size, with levels, as SVG or DXF in mm."""
    solved = bench.solved(bench.jobs.open(id))
    name = f"{solved.job.line(line).name} at {chainage:.0f}"
    written = worked(_handed_across, solved, line, chainage, form, f"{solved.job.name}: {name}")
    media = "image/svg+xml" if form == "svg" else "image/vnd.dxf"
    return Response(written, media_type=media, headers=attached(f"{name}.{form}"))


def _handed_across(solved: Solved, line: str, chainage: float, form: str, title: str) -> bytes:
    write = across_svg if form == "svg" else across_dxf
    return write(solved, cut_across(solved, solved.job.line(line), chainage), title, _HANDED)


def _looked_across(solved: Solved, line: str, chainage: float) -> CutShown:
    return cut_shown(cut_across(solved, solved.job.line(line), chainage))


@router.post("/jobs/{id}/simpler")
def how_far_simpler(id: JobId, wanted: SimplerRequest, bench: AtBench) -> Simpler:
    """Return how far simpler lines would stray from the lines as they are."""
    job = bench.jobs.open(id).job
    return worked(strays_of, [job.line(number) for number in wanted.lines], wanted.tolerance)


def strays_of(lines: Sequence[Line], tolerance: float) -> Simpler:
    """Return how far simpler lines would stray."""
    before = after = 0
    strays = 0.0
    for line in lines:
        look_up()
        simpler, strayed = simplified(line, tolerance)
        before, after, strays = before + len(line.legs) + 1, after + len(simpler.legs) + 1, max(strays, strayed)
    return Simpler(before=before, after=after, strays=strays)


@router.get("/jobs/{id}/clashes", response_model=list[CheckFigures])
def clashes_of(id: JobId, bench: AtBench) -> list[CheckFigures]:
    """Return where runs of a job, as it stands, are in one another's place, largest first."""
    opened = bench.jobs.open(id)
    solved = bench.solved(opened)
    return [check_shown(check) for check in clash_checks(opened.job, worked(_clashes, solved))]


def _clashes(solved: Solved) -> list[Clash]:
    return clashes(solved)
