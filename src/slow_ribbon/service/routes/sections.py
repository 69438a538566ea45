"""Routes about sections apart from a job: the starting library, facts and a sample of a section, and outlines while they are drawn."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field
from typing_extensions import TypedDict

from slow_ribbon.core.sections import (
    Beside,
    Ended,
    Facts,
    FaultKind,
    Outline,
    SectionBody,
    Turned,
    facts_of,
    faults_of,
    library,
    section_shape,
    shape_of,
    thickened,
)
from slow_ribbon.service.meshes import mesh
from slow_ribbon.service.packing import encoding, packed_in_a_hurry, takes_gzip
from slow_ribbon.service.sample import sample_run
from slow_ribbon.service.views.sections import LibraryEntry, svg_path
from slow_ribbon.service.views.sentences import Sentence, sentence_parts
from slow_ribbon.service.work.heavy import worked

router = APIRouter()


@router.get("/library")
def show_library() -> list[LibraryEntry]:
    """Return the starting library of sections."""
    return [
        LibraryEntry(
            key=entry.key, family=entry.family, standard=entry.standard, section=entry.section, path=svg_path(section_shape(entry.section))
        )
        for entry in library()
    ]


@router.post("/sections/facts")
def look_at_facts(section: SectionBody) -> Facts:
    """Return the facts of a section at its size, its datum and its material."""
    return worked(facts_of, section)


@router.post("/sections/sample", response_class=Response)
def look_at_sample(request: Request, section: SectionBody) -> Response:
    """Return a sample piece of a section with an internal and an external mitred corner, as binary glTF in mm, z up.

    The section's facts go along as the ``extras`` of its scene: the desk asks for both with every step of a drag, and each
    request takes a while of its own.
    """
    run = worked(sample_run, section)
    facts = asdict(worked(facts_of, section))
    glb, packed = mesh(run, {"facts": facts}), takes_gzip(request)
    headers = {"Cache-Control": "no-store", **encoding(packed)}
    return Response(packed_in_a_hurry(glb) if packed else glb, media_type="model/gltf-binary", headers=headers)


class DrawnOutline(BaseModel):
    """An outline as far as it is drawn, with its holes."""

    outline: Outline
    holes: Annotated[tuple[Outline, ...], Field(max_length=50)] = ()


class FaultEntry(TypedDict):
    """What is wrong with an outline: in words, at its places, with the words of what would mend it and the outline mended so."""

    kind: FaultKind
    words: Sentence
    places: list[tuple[float, float]]
    action: str
    mended: Outline | None


@router.post("/sections/faults")
def look_for_faults(drawn: DrawnOutline) -> list[FaultEntry]:
    """Return the faults of an outline as drawn; None where it can be a section."""
    return [
        FaultEntry(kind=one.kind, words=sentence_parts(one.words), places=list(one.places), action=one.action, mended=one.mended)
        for one in worked(faults_of, drawn.outline, drawn.holes)
    ]


class Thickness(BaseModel):
    """How thick something is along an outline, mm, and to which side; how its corners and its ends are."""

    outline: Outline
    thickness: Annotated[float, Field(gt=0, le=1000, allow_inf_nan=False)]
    beside: Beside = "both"
    corners: Turned = "mitred"
    ends: Ended = "square"


class Thickened(TypedDict):
    """What comes out: an outline with its hole, and how it looks (the ``d`` of an SVG path, y up)."""

    outline: Outline
    holes: list[Outline]
    path: str


@router.post("/sections/thickened")
def give_thickness(wanted: Thickness) -> Thickened:
    """Return the outline of something so thick along an outline that may be open."""
    outline, holes = worked(thickened, wanted.outline, wanted.thickness, wanted.beside, wanted.corners, wanted.ends)
    return Thickened(outline=outline, holes=list(holes), path=svg_path(shape_of(outline, holes)))
