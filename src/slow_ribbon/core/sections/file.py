"""The open file of sections, ``*.section.json``: one section or several, with all that is said of them."""

from __future__ import annotations

import json
from typing import Annotated, Any, Final, Literal

from pydantic import Field, ValidationError

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Model
from slow_ribbon.core.sections.document.section import Section, SectionBody, bed_up, section_shape
from slow_ribbon.core.sections.operations.parametric_sizes import check_sizes

FORMAT: Final = "slow-ribbon-section"
VERSION: Final = 1


class SectionFile(Model):
    """A file of sections. Lengths are mm, angles degrees, as in the job file."""

    format: Literal["slow-ribbon-section"] = FORMAT
    version: Literal[1] = VERSION
    sections: Annotated[tuple[SectionBody, ...], Field(min_length=1, max_length=2000, fail_fast=True)]


def sections_to_text(sections: tuple[SectionBody, ...]) -> str:
    """Return the file of sections: JSON, one space a level."""
    bodies = tuple(SectionBody(**{name: getattr(one, name) for name in SectionBody.model_fields}) for one in sections)
    return json.dumps(SectionFile(sections=bodies).model_dump(mode="json"), indent=1, ensure_ascii=False) + "\n"


def sections_from_text(text: str | bytes) -> tuple[SectionBody, ...]:
    """Return the sections in a file, each checked throughout.

    Raises ``Refused``, with the place, for what is no such file, one of a newer version, or a section that does not hold together.
    """
    try:
        data: Any = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise Refused(f"This is not a file of sections: it is not valid JSON ({error}).", "", "not-sections") from error
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise Refused(f'This is not a file of sections: its "format" is not "{FORMAT}".', "format", "not-sections")
    version = data.get("version")
    if isinstance(version, int) and version > VERSION:
        raise Refused(
            f"This file of sections is of version {version}, written by a newer Slow Ribbon; this one reads up to {VERSION}. "
            "Nothing was taken from it.",
            "version",
            "sections-newer",
        )
    try:
        sections = SectionFile.model_validate(data).sections
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        where = ".".join(str(part) for part in first["loc"])
        raise Refused(f"The file of sections is wrong at {where}: {first['msg']}.", where, "section-field") from error
    for index, section in enumerate(sections):
        try:
            section_shape(section)
            bed_up(section)
            check_sizes(Section(id="S1", **{name: getattr(section, name) for name in SectionBody.model_fields}))
        except Refused as refused:
            raise Refused(f"{section.name}: {refused.what}", f"sections.{index}.{refused.where}", refused.code) from refused
    return sections
