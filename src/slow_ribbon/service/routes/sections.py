"""Routes about sections apart from a job: the starting library, the facts of a section as it stands, and a sample of it."""

from __future__ import annotations

from fastapi import APIRouter, Response

from slow_ribbon.core.sections import Facts, SectionBody, facts_of, library, section_shape
from slow_ribbon.service.heavy import worked
from slow_ribbon.service.meshes import mesh
from slow_ribbon.service.sample import sample_run
from slow_ribbon.service.views.job import LibraryEntry, svg_path

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
def look_at_sample(section: SectionBody) -> Response:
    """Return a sample piece of a section with an internal and an external mitred corner, as binary glTF in mm, z up."""
    return Response(mesh(worked(sample_run, section)), media_type="model/gltf-binary", headers={"Cache-Control": "no-store"})
