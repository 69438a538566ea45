"""Routes of the shop's own library of sections, and sections as files."""

from __future__ import annotations

import datetime
from typing import Annotated

from fastapi import APIRouter, File, Path, Response, UploadFile
from pydantic import BaseModel, Field

from slow_ribbon.core.kernel import GroupName, Refused
from slow_ribbon.core.sections import SectionBody, section_shape, sections_from_text, sections_to_text
from slow_ribbon.exports.sections import section_dxf, section_svg
from slow_ribbon.service.routes.request import AtBench, By, attached
from slow_ribbon.service.views.sections import svg_path
from slow_ribbon.service.work.heavy import worked
from slow_ribbon.store.shop import ShopSection, ShopVersion

router = APIRouter()

ShopId = Annotated[str, Path(pattern=r"^[0-9a-f]{32}$")]
"""The id of a section of the shop's library."""
VersionNumber = Annotated[int, Path(ge=1, lt=2**31)]
Said = Annotated[str, Field(max_length=200)]
#: The largest file of sections, bytes.
_LARGEST = 20_000_000


class KeptVersion(BaseModel):
    """A version of a section of the shop's library, with what was said of it, by whom and when."""

    number: int
    said: str
    author: str | None
    made_at: datetime.datetime
    section: SectionBody
    path: str


class KeptSection(BaseModel):
    """A section of the shop's library in its newest version."""

    id: str
    folder: str
    version: KeptVersion


class NewKept(BaseModel):
    folder: GroupName = ""
    section: SectionBody
    said: Said = ""


class NewVersion(BaseModel):
    """A new version, made of the version ``base``."""

    base: Annotated[int, Field(ge=1, lt=2**31)]
    section: SectionBody
    said: Said = ""


class KeptChange(BaseModel):
    """What is changed of a section of the library itself; what is left out stays."""

    folder: GroupName | None = None
    removed: bool | None = None


class SectionsMade(BaseModel):
    ids: list[str]


def _version(one: ShopVersion) -> KeptVersion:
    path = svg_path(section_shape(one.section))
    return KeptVersion(number=one.number, said=one.said, author=one.author, made_at=one.made_at, section=one.section, path=path)


def _section(one: ShopSection) -> KeptSection:
    return KeptSection(id=one.id, folder=one.folder, version=_version(one.version))


@router.get("/shop", response_model=list[KeptSection])
def list_shop(bench: AtBench) -> Response:
    """Return the shop's library, each section in its newest version."""
    return Response(bench.shop.listed(), media_type="application/json")


@router.post("/shop", status_code=201)
def keep_section(new: NewKept, bench: AtBench, by: By) -> KeptSection:
    """Keep a section in the shop's library."""
    worked(section_shape, new.section)
    (id,) = bench.shop.keep(new.folder, [new.section], new.said or "kept", by)
    return _section(bench.shop.section(id))


@router.post("/shop/files", status_code=201)
def keep_file(bench: AtBench, by: By, file: Annotated[UploadFile, File()], folder: GroupName = "") -> SectionsMade:
    """Keep all sections of a file in the shop's library, or none where one does not hold together."""
    data = file.file.read(_LARGEST + 1)
    if len(data) > _LARGEST:
        raise Refused("A file of sections may be up to 20 MB.", "file", "too-large")
    sections = worked(sections_from_text, data)
    return SectionsMade(ids=bench.shop.keep(folder, sections, f"from {(file.filename or 'a file')[:150]}", by))


@router.get("/shop/{id}")
def show_kept(id: ShopId, bench: AtBench) -> KeptSection:
    """Return a section of the shop's library in its newest version."""
    return _section(bench.shop.section(id))


@router.get("/shop/{id}/versions")
def list_versions(id: ShopId, bench: AtBench) -> list[KeptVersion]:
    """Return all versions of a section, the newest first."""
    return [_version(one) for one in bench.shop.versions(id)]


@router.post("/shop/{id}/versions", status_code=201)
def keep_version(id: ShopId, new: NewVersion, bench: AtBench, by: By) -> KeptSection:
    """Keep a new version of a section; 409 where somebody has kept another since ``base``."""
    worked(section_shape, new.section)
    bench.shop.keep_version(id, new.base, new.section, new.said or "changed", by)
    return _section(bench.shop.section(id))


@router.patch("/shop/{id}", status_code=204)
def change_kept(id: ShopId, change: KeptChange, bench: AtBench) -> None:
    """Put a section into another folder, take it out of the list, or bring it back."""
    if change.folder is not None:
        bench.shop.put(id, change.folder)
    if change.removed is not None:
        bench.shop.remove(id, change.removed)


@router.get("/shop/{id}/versions/{number}/section.json", response_class=Response)
def kept_file(id: ShopId, number: VersionNumber, bench: AtBench) -> Response:
    """Return a version of a section as a file of sections."""
    section = bench.shop.version(id, number).section
    return _download(sections_to_text((section,)).encode(), "application/json", f"{section.name}.section.json")


@router.post("/sections/file/{kind}", response_class=Response)
def section_file(kind: Annotated[str, Path(pattern="^(json|dxf|svg)$")], section: SectionBody) -> Response:
    """Return a section as it stands as a file: ``json`` with all that is said of it, ``dxf`` or ``svg`` its outline at 1:1."""
    if kind == "json":
        return _download(sections_to_text((section,)).encode(), "application/json", f"{section.name}.section.json")
    writer, media = (section_dxf, "image/vnd.dxf") if kind == "dxf" else (section_svg, "image/svg+xml")
    return _download(worked(writer, section), media, f"{section.name}.{kind}")


def _download(content: bytes, media: str, name: str) -> Response:
    return Response(content, media_type=media, headers=attached(name))
