"""Edits of the sizes of sections, and of the range that one is made in."""

from __future__ import annotations

from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import RUNS, SECTIONS
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.expressions import MeasureName, MeasureText, key, work_out
from slow_ribbon.core.kernel.fields import Id, Index, Model, Name, Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.measures import in_place_of
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.kernel.units import System
from slow_ribbon.core.sections.document.constraints import Apart, Radius
from slow_ribbon.core.sections.document.section import Section
from slow_ribbon.core.sections.document.sizes import OWN, NamedSize, RangeRow
from slow_ribbon.core.sections.operations.parametric_sizes import resized, size_values
from slow_ribbon.core.sections.outline.profile import loop_of, outline_shape
from slow_ribbon.core.sections.outline.stretch import free_bands
from slow_ribbon.core.sections.sketch.sketch import drawing_of


class SizeChange(Model):
    """A size added or changed. ``was`` is the name of the one to be changed; left out, that of ``name``, or a new one.

    ``text`` is a length, or what it follows; limits that are left out stay, and go where they are set to nothing.
    """

    was: MeasureName | None = None
    name: MeasureName | None = None
    text: MeasureText | None = None
    system: System | None = None
    least: Size | None = None
    most: Size | None = None
    remove: bool = False


class SetSizes(Edit):
    """Add, change and remove sizes of a section together; its outline follows, and every run of it."""

    touches = frozenset({SECTIONS.group, "formulas"})

    kind: Literal["set_sizes"] = "set_sizes"
    section: Id
    sizes: Annotated[tuple[SizeChange, ...], Field(min_length=1, max_length=100)]

    def apply(self, job: Job) -> Job:
        section, given = job.section(self.section), dict[str, float]()
        for index, change in enumerate(self.sizes):
            section = self._changed(job, section, change, f"sizes.{index}", given)
        job = job.put(resized(section, given, job.lengths()))
        # What follows the section's own sizes follows no measure by a formula of the job as well.
        own = {change.was or change.name for change in self.sizes if change.text is not None}
        kept = tuple(one for one in job.formulas if not (one.thing == section.id and one.field in own))
        return job if len(kept) == len(job.formulas) else job.model_copy(update={"formulas": kept})

    def _changed(self, job: Job, section: Section, change: SizeChange, where: str, given: dict[str, float]) -> Section:
        wanted = change.was or change.name
        if wanted is None:
            raise Refused("A size needs a name.", f"{where}.name", "size-name")
        at = next((i for i, one in enumerate(section.sizes) if key(one.name) == key(wanted)), None)
        if change.remove:
            return _removed(section, at, wanted, where)
        own = key(wanted) in OWN
        if at is None and change.was is not None and not own:
            raise Refused(f"{section.name} has no size {wanted}: it may have been removed.", where, "unknown-size")
        if own and change.name is not None and key(change.name) != key(wanted):
            raise Refused(f"{wanted.capitalize()} keeps its name.", f"{where}.name", "size-name")
        size = section.sizes[at] if at is not None else NamedSize(name=wanted)
        update: dict[str, Any] = {name: getattr(change, name) for name in ("least", "most") if name in change.model_fields_set}
        if change.name is not None and change.was is not None:
            update["name"] = change.name
        if change.text is not None:
            system = change.system or job.units.system
            worked = work_out(change.text, {**job.lengths(), **size_values(section), **given}, system)
            if worked.length <= 0:
                message = f"{change.text} comes out as {figure(worked.length, 3)}: a size must be more than zero."
                raise Refused(message, f"{where}.text", "size-value")
            update |= {"text": change.text, "system": system} if worked.uses else {"text": None, "system": None}
            given[key(change.name or wanted)] = worked.length
            if not own:
                update["value"] = worked.length
        size = size.model_copy(update=update)
        sizes = (*section.sizes, size) if at is None else (*section.sizes[:at], size, *section.sizes[at + 1 :])
        section = section.model_copy(update={"sizes": sizes})
        return _renamed(section, wanted, change.name) if update.get("name") else section

    def describe(self, job: Job) -> str:
        names = [one.name or one.was or "" for one in self.sizes if not one.remove]
        gone = [one.was or one.name or "" for one in self.sizes if one.remove]
        done = [*([f"set {', '.join(names)}"] if names else []), *([f"removed {', '.join(gone)}"] if gone else [])]
        return f"{' and '.join(done)} of {job.section(self.section).name}"[:200]


def _removed(section: Section, at: int | None, name: str, where: str) -> Section:
    if at is None:
        raise Refused(f"{section.name} has no size {name}: it may have been removed.", where, "unknown-size")
    left = section.model_copy(update={"sizes": (*section.sizes[:at], *section.sizes[at + 1 :])})
    if key(name) in OWN:
        return left
    known = size_values(left)
    for words, text in _texts(left):
        if _names(text, name, size_values(section)):
            raise Refused(f"{name.capitalize()} is still used by {words}: {text}. Change that first.", where, "size-used")
    rows = tuple(
        row.model_copy(update={"values": {one: value for one, value in row.values.items() if key(one) in known}}) for row in left.range
    )
    return left.model_copy(update={"range": tuple(row for row in rows if row.values)})


def _texts(section: Section) -> list[tuple[str, str]]:
    """Return the texts in a section that may name its sizes, with what they are of in words."""
    sizes = [(size.name, size.text) for size in section.sizes if size.text is not None]
    return sizes + [("something held", one.text) for one in section.held if isinstance(one, Apart | Radius) and one.text is not None]


def _names(text: str, name: str, known: dict[str, float]) -> bool:
    try:
        return key(name) in work_out(text, dict.fromkeys(known, 1.0)).uses
    except Refused:
        return False


def _renamed(section: Section, was: str, name: str | None) -> Section:
    """Return a section with another name for one of its sizes wherever it is named."""
    if name is None or key(name) == key(was):
        return section
    known = {**size_values(section), key(was): 1.0}

    def text(old: str | None) -> str | None:
        return old if old is None or not _names(old, was, known) else in_place_of(old, was, name)

    sizes = tuple(size.model_copy(update={"text": text(size.text)}) for size in section.sizes)
    held = tuple(one.model_copy(update={"text": text(one.text)}) if isinstance(one, Apart | Radius) else one for one in section.held)
    rows = tuple(
        row.model_copy(update={"values": {name if key(one) == key(was) else one: value for one, value in row.values.items()}})
        for row in section.range
    )
    return section.model_copy(update={"sizes": sizes, "held": held, "range": rows})


class RowChange(Model):
    """A row of the range added or changed. ``was`` names the one to be changed; values that are left out stay."""

    was: Name | None = None
    name: Name | None = None
    values: dict[MeasureName, Size | None] | None = None
    remove: bool = False


class SetRange(Edit):
    """Add, change and remove rows of the range that a section is made in; runs made in one follow it."""

    touches = frozenset({SECTIONS.group, RUNS.group})

    kind: Literal["set_range"] = "set_range"
    section: Id
    rows: Annotated[tuple[RowChange, ...], Field(min_length=1, max_length=200)]

    def apply(self, job: Job) -> Job:
        for index, change in enumerate(self.rows):
            job = self._changed(job, change, f"rows.{index}")
        return job

    def _changed(self, job: Job, change: RowChange, where: str) -> Job:
        section = job.section(self.section)
        wanted = change.was or change.name
        at = next((i for i, row in enumerate(section.range) if row.name == wanted), None)
        if wanted is None or (at is None and (change.was is not None or change.remove)):
            raise Refused(f"{section.name} is not made in {wanted}: it may have been removed.", where, "unknown-size")
        users = [run for run in job.runs if run.section == section.id and run.size == wanted]
        if change.remove:
            if users:
                names = ", ".join(run.name for run in users[:3]) + (f" and {len(users) - 3} more" if len(users) > 3 else "")
                raise Refused(f"{wanted} is still used by {names}: give them another size first.", where, "in-use")
            return job.put(section.model_copy(update={"range": tuple(row for row in section.range if row.name != wanted)}))
        before = section.range[at].values if at is not None else {}
        known = {key(one): one for one in before}
        values = dict(before)
        for name, value in (change.values or {}).items():
            values.pop(known.get(key(name), name), None)
            if value is not None:
                values[name] = value
        if not values:
            raise Refused(f"{change.name or wanted} sets no size yet: give it one at least.", f"{where}.values", "size-value")
        row = RangeRow(name=change.name or wanted, values=values)
        rows = (*section.range, row) if at is None else (*section.range[:at], row, *section.range[at + 1 :])
        job = job.put(section.model_copy(update={"range": rows}))
        for run in users if row.name != wanted else ():
            job = job.put(run.model_copy(update={"size": row.name}))
        return job

    def describe(self, job: Job) -> str:
        names = ", ".join(row.name or row.was or "" for row in self.rows)
        return f"changed {names} in the range of {job.section(self.section).name}"[:200]


class StretchEdge(Edit):
    """Let the part of an outline that a level or an upright edge lies in be what stretches, and keep the corners of the rest."""

    touches = frozenset({SECTIONS.group})

    kind: Literal["stretch_edge"] = "stretch_edge"
    section: Id
    loop: Index = 0
    edge: Index

    def apply(self, job: Job) -> Job:
        section = job.section(self.section)
        drawing_of(section).check(self.loop, self.edge, "edge")
        outlines = (section.outline, *section.holes)
        loops = [loop_of(one) for one in outlines]
        edges = loops[self.loop]
        # At its size it may have more edges than as it is drawn.
        edge = edges[min(self.edge, len(edges) - 1)]
        along = np.abs(edge.end - edge.begin)
        axis = int(along[1] > along[0])
        middle = float((edge.begin + edge.end)[axis]) / 2
        low, high = sorted((float(edge.begin[axis]), float(edge.end[axis])))
        shape = outline_shape(section.outline)
        bands = free_bands(loops, axis, shape.box[axis], shape.box[axis + 2])
        there = [band for band in bands if band[0] <= middle <= band[1]] or [band for band in bands if band[0] < high and band[1] > low]
        if not edge.straight or float(along[1 - axis]) > SAME_PLACE or not there:
            message = "Only a part with nothing but level, or nothing but upright, straights in it can stretch: pick another edge."
            raise Refused(message, "edge", "section-stretch")
        band = max(there, key=lambda one: one[1] - one[0])
        stretching = section.stretching.model_copy(update={("across", "up")[axis]: band[0]})
        return job.put(section.model_copy(update={"grows": "kept", "stretching": stretching}))

    def describe(self, job: Job) -> str:
        return f"let edge {self.edge + 1} of {job.section(self.section).name} stretch"
