"""Edits of sections."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import SECTIONS
from slow_ribbon.core.job.edits.base import Edit, changed_words, fields_of
from slow_ribbon.core.job.edits.changes import Changes, changed, said
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.expressions import key
from slow_ribbon.core.kernel.fields import Coordinate, Id, Name, Point2, Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.outline_of_line import fewer, section_of
from slow_ribbon.core.lines.region import region
from slow_ribbon.core.sections.document.materials import Material
from slow_ribbon.core.sections.document.section import (
    Bed,
    NamedDatum,
    NamedPoint,
    PointDatum,
    Section,
    SectionBody,
    ShopLink,
    datum_point,
    section_shape,
)
from slow_ribbon.core.sections.document.sizes import OWN
from slow_ribbon.core.sections.operations.parametric_sizes import resized
from slow_ribbon.core.sections.outline.stretch import Grows

_TOUCHES = frozenset({SECTIONS.group})


class AddSection(Edit):
    """Add a section."""

    touches = _TOUCHES

    kind: Literal["add_section"] = "add_section"
    section: SectionBody
    shop: ShopLink | None = None

    def apply(self, job: Job) -> Job:
        return job.added(SECTIONS, {**fields_of(self.section), "shop": self.shop})

    def describe(self, job: Job) -> str:
        return f"added section {self.section.name}"


class SectionOfLines(Edit):
    """Make a section of what closed lines enclose on plan, the inner ones its holes; the lines stay."""

    touches = _TOUCHES

    kind: Literal["section_of_lines"] = "section_of_lines"
    lines: Annotated[tuple[Id, ...], Field(min_length=1, max_length=51)]
    name: Name

    def apply(self, job: Job) -> Job:
        return job.added(SECTIONS, fields_of(section_of([job.line(id) for id in self.lines], self.name)))

    def notices(self, before: Job, after: Job) -> tuple[str, ...]:
        message = []
        for id in self.lines:
            line = before.line(id)
            simpler, strayed = fewer(line)
            if simpler is not line:
                message.append(
                    f"{line.name} had {len(line.legs):,} edges; the section has {len(simpler.legs):,}, "
                    f"which stray by {figure(strayed, 3)} at most."
                )
        return tuple(message)

    def describe(self, job: Job) -> str:
        return f"made section {self.name} of {job.line(self.lines[0]).name}"


class SectionOfRegion(Edit):
    """Make a section of the region that holds a point on plan, with its holes, of the lines round it; all lines where left out."""

    touches = _TOUCHES

    kind: Literal["section_of_region"] = "section_of_region"
    name: Name
    point: Point2
    lines: Annotated[tuple[Id, ...], Field(min_length=1, max_length=5000)] | None = None

    def apply(self, job: Job) -> Job:
        lines = job.lines if self.lines is None else [job.line(id) for id in self.lines]
        rings = [
            Line(id=f"L{number + 1}", name=self.name, start=start, legs=legs, closed=True)
            for number, (start, legs) in enumerate(region(lines, self.point))
        ]
        return job.added(SECTIONS, fields_of(section_of(rings, self.name)))

    def describe(self, job: Job) -> str:
        return f"made section {self.name} of a region"


class TakeVersion(Edit):
    """Let a section be another version of what it is kept as in the shop's library, or only note which version it is."""

    touches = _TOUCHES

    kind: Literal["take_version"] = "take_version"
    section: Id
    shop: ShopLink
    #: The version's own; left out where the section is that already.
    body: SectionBody | None = None

    def apply(self, job: Job) -> Job:
        section = job.section(self.section)
        if self.body is None:
            return job.put(section.model_copy(update={"shop": self.shop}))
        # The group that somebody put it in is the job's.
        fields = {**fields_of(self.body), "group": section.group}
        job = job.put(section.model_copy(update={**fields, "shop": self.shop}))
        rows = {row.name for row in self.body.range}
        gone = [run for run in job.runs if run.section == section.id and run.size is not None and run.size not in rows]
        if gone:
            names = ", ".join(run.name for run in gone[:3]) + (f" and {len(gone) - 3} more" if len(gone) > 3 else "")
            raise Refused(
                f"Version {self.shop.version} does not include the size of {names}: give them another size first.",
                "body.range",
                "unknown-size",
            )
        return job

    def describe(self, job: Job) -> str:
        name = job.section(self.section).name
        return f"took version {self.shop.version} of {name}" if self.body is not None else f"noted {name} as version {self.shop.version}"


class FreeSection(Edit):
    """Let a second section follow the one it members with no more; a run that needs one gets another."""

    touches = _TOUCHES

    kind: Literal["free_section"] = "free_section"
    section: Id

    def apply(self, job: Job) -> Job:
        return job.put(job.section(self.section).model_copy(update={"member": None}))

    def describe(self, job: Job) -> str:
        return f"let {job.section(self.section).name} stand by itself"


class DatumChanges(Changes):
    kind: Literal["named", "point"] | None = None
    name: NamedPoint | None = None
    x: Coordinate | None = None
    y: Coordinate | None = None


class StretchingChanges(Changes):
    across: Coordinate | None = None
    up: Coordinate | None = None


class SectionChanges(Changes):
    name: Name | None = None
    width: Size | None = None
    height: Size | None = None
    wall: Size | None = None
    grows: Grows | None = None
    stretching: StretchingChanges | None = None
    datum: DatumChanges | None = None
    material: Material | None = None
    bed: Bed | None = None


class SetSection(Edit):
    """Change a section's size or settings; every run of it follows."""

    touches = _TOUCHES

    kind: Literal["set_section"] = "set_section"
    section: Id
    changes: SectionChanges

    def apply(self, job: Job) -> Job:
        section, changes = job.section(self.section), self.changes
        if changes.datum is not None:
            changes = changes.model_copy(update={"datum": whole_datum(changes.datum, section.datum, section)})
        own = {name: getattr(section, name) for name in OWN}
        after = changed(section, changes)
        given = {name: getattr(after, name) for name in OWN if getattr(after, name) != own[name] and getattr(after, name) is not None}
        if given and (section.held or section.sizes):
            # What is typed follows nothing any more.
            sizes = tuple(
                size.model_copy(update={"text": None, "system": None}) if key(size.name) in given else size for size in after.sizes
            )
            back = {name: own[name] for name in given if own[name] is not None}
            after = resized(after.model_copy(update={**back, "sizes": sizes}), given, job.lengths())
        return job.put(after)

    def says(self, job: Job) -> set[str]:
        return said(self.section, self.changes)

    def describe(self, job: Job) -> str:
        return f"changed {changed_words(self.changes)} of {job.section(self.section).name}"


def whole_datum(datum: DatumChanges, current: NamedDatum | PointDatum, section: Section) -> DatumChanges:
    """Return a change of a datum that has both coordinates where it becomes a point: what is not said stays where the datum was."""
    if datum.kind != "point" or isinstance(current, PointDatum):
        return datum
    shape = section_shape(section)
    left, low, _, _ = shape.box
    at = datum_point(shape, current)
    x = datum.x if datum.x is not None else float(at[0]) - left
    y = datum.y if datum.y is not None else float(at[1]) - low
    return DatumChanges(kind="point", x=x, y=y)
