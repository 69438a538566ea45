"""Edits of typicals: lines drawn once that stand in several places."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.job.derived.row_obstacles import with_obstacles_of
from slow_ribbon.core.job.derived.run_dependencies import with_references
from slow_ribbon.core.job.derived.typical_variants import check_places, drawn_on, with_own
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, ROW_RULES, ROWS, RULES, RUNS, TYPICALS
from slow_ribbon.core.job.document.labels import free_tag
from slow_ribbon.core.job.document.named_places import NamedPlace, both_ends
from slow_ribbon.core.job.edits.base import Edit, changed_words, fields_of
from slow_ribbon.core.job.edits.changes import NULLABLE, Changes, PointChange, changed
from slow_ribbon.core.job.edits.lines import lines_added
from slow_ribbon.core.job.edits.transform import moved_lines
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Angle, Id, Model, Name, Point3, Some
from slow_ribbon.core.lines.model import LineBody
from slow_ribbon.core.lines.typicals.carriage import carriage, heading_of
from slow_ribbon.core.lines.typicals.placement_table import places_listed
from slow_ribbon.core.lines.typicals.typical import MOST_PLACES, Layout, OwnMeasure, Place, PlaceBody, Typical, place_names
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.placement.stretches import Between

_TOUCHES = frozenset({TYPICALS.group})
_Listed = Annotated[str, Field(max_length=1_000_000)]


class NewPlace(Model):
    """A place to be added, as ``PlaceBody``; without a name it is named on from where the typical is drawn: W2 after W1."""

    name: Name | None = None
    at: Point3
    turn: Angle = 0.0
    mirrored: bool = False
    own: Annotated[tuple[OwnMeasure, ...], Field(max_length=20)] = ()


class NewTypical(Model):
    """A typical to be made of some lines; its base point is where the first of them starts, and its heading theirs, unless said.

    ``listed`` are places as ``ListPlaces`` takes them.
    """

    name: Name
    lines: Some
    base: Point3 | None = None
    heading: Angle | None = None
    here: Name = "1"
    here_stands: bool = True
    places: Annotated[tuple[NewPlace, ...], Field(max_length=MOST_PLACES, fail_fast=True)] = ()
    laid: Layout | None = None
    listed: _Listed = ""


class AddTypical(Edit):
    """Let lines with all that is on them stand in several places."""

    touches = _TOUCHES

    kind: Literal["add_typical"] = "add_typical"
    typical: NewTypical

    def apply(self, job: Job) -> Job:
        lines = [job.line(id) for id in self.typical.lines]
        fields = fields_of(self.typical)
        places, listed = fields.pop("places"), fields.pop("listed")
        fields["base"] = self.typical.base if self.typical.base is not None else lines[0].start
        fields["heading"] = self.typical.heading if self.typical.heading is not None else heading_of(lines)
        job = job.added(TYPICALS, fields)
        typical = job.typicals[-1]
        if listed:
            places = (*places, *_listed(job, typical, listed, "typical.listed"))
        return _with_places(job, typical, places)

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return both_ends(self.typical.laid.follows) if self.typical.laid is not None and self.typical.laid.follows is not None else ()

    def describe(self, job: Job) -> str:
        return f"let {self.typical.name} stand in several places"


class TypicalChanges(Changes):
    name: Name | None = None
    lines: Some | None = None
    base: PointChange | None = None
    heading: Angle | None = None
    here: Name | None = None
    here_stands: bool | None = None
    laid: Layout | None = None


class SetTypical(Edit):
    """Change a typical; with another base point its places stand where they stood."""

    touches = _TOUCHES

    kind: Literal["set_typical"] = "set_typical"
    typical: Id
    changes: TypicalChanges

    def apply(self, job: Job) -> Job:
        was = job.typical(self.typical)
        now = changed(was, self.changes, nullable=NULLABLE | {"laid"})
        if was.laid is not None and now.laid is None:
            now = now.model_copy(update={"places": tuple(place.model_copy(update={"laid": None}) for place in now.places)})
        elif now.laid is None and (now.base, now.heading) != (was.base, was.heading):
            now = now.model_copy(update={"places": tuple(_rebased(was, now, place) for place in now.places)})
        return job.put(now)

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        return both_ends(self.changes.laid.follows) if self.changes.laid is not None and self.changes.laid.follows is not None else ()

    def describe(self, job: Job) -> str:
        return f"changed {changed_words(self.changes)} of {job.typical(self.typical).name}"


def _rebased(was: Typical, now: Typical, place: Place) -> Place:
    """Return a place of a typical with another base point or heading so that what stands in it stands where it stood."""
    turn = place.turn + 2 * (was.heading - now.heading) if place.mirrored else place.turn
    turn = (turn + 180) % 360 - 180
    x, y, z = carriage(was, place).points(np.array(now.base, dtype=float)).tolist()
    return place.model_copy(update={"at": (x, y, z), "turn": turn})


class AddPlaces(Edit):
    """Let a typical stand in more places."""

    touches = _TOUCHES

    kind: Literal["add_places"] = "add_places"
    typical: Id
    places: Annotated[tuple[NewPlace, ...], Field(min_length=1, max_length=MOST_PLACES, fail_fast=True)]

    def apply(self, job: Job) -> Job:
        return _with_places(job, job.typical(self.typical), self.places)

    def describe(self, job: Job) -> str:
        name, places = job.typical(self.typical).name, self.places
        return f"put {name} in {len(places)} more places" if len(places) > 1 else f"put {name} in {places[0].name or 'one more place'}"


class ListPlaces(Edit):
    """Let a typical stand in the places of a list, as ``places_listed`` reads it."""

    touches = _TOUCHES

    kind: Literal["list_places"] = "list_places"
    typical: Id
    text: Annotated[_Listed, Field(min_length=1)]

    def apply(self, job: Job) -> Job:
        typical = job.typical(self.typical)
        return _with_places(job, typical, _listed(job, typical, self.text, "text"))

    def describe(self, job: Job) -> str:
        return f"put {job.typical(self.typical).name} in the places of a list"


def _listed(job: Job, typical: Typical, text: str, where: str) -> list[PlaceBody]:
    lengths, system = job.lengths(), job.units.system
    try:
        return places_listed(text, typical.base, lambda cell: lengths.work_out(cell, system).length)
    except Refused as refused:
        raise Refused(refused.what, refused.where.replace("text", where, 1), refused.code) from refused


def _with_places(job: Job, typical: Typical, new: Sequence[NewPlace | PlaceBody]) -> Job:
    if not new:
        return job
    free = iter(place_names(typical.here, len(new), [one.name for one in (*typical.places, *new) if one.name is not None]))
    places = [PlaceBody(**{**fields_of(place), "name": next(free) if place.name is None else place.name}) for place in new]
    number = job.last_number
    if len(typical.places) + len(places) > MOST_PLACES:
        what = f"{typical.name} would stand in {len(typical.places) + len(places) + 1:,} places; {MOST_PLACES:,} is the most."
        raise Refused(what, "places", "too-many")
    check_places(job, typical, places)
    named = [Place(**fields_of(place), id=f"{TYPICALS.parts['places']}{number + at}") for at, place in enumerate(places, start=1)]
    job = job.model_copy(update={"last_number": number + len(named)})
    return job.put(typical.model_copy(update={"places": (*typical.places, *named)}))


class PlaceChanges(Changes):
    name: Name | None = None
    at: PointChange | None = None
    turn: Angle | None = None
    mirrored: bool | None = None
    stands: bool | None = None
    own: Annotated[tuple[OwnMeasure, ...], Field(max_length=20)] | None = None


class SetPlaces(Edit):
    """Change places of a typical: where they are, turned, mirrored, left out, or a measure of their own."""

    touches = _TOUCHES

    kind: Literal["set_places"] = "set_places"
    typical: Id
    places: Some
    changes: PlaceChanges

    def apply(self, job: Job) -> Job:
        typical = job.typical(self.typical)
        chosen = _chosen(typical, self.places)
        now = {id: changed(place, self.changes) for id, place in chosen.items()}
        check_places(job, typical, list(now.values()))
        moved = any(place.laid is not None and (place.at, place.turn) != (now[id].at, now[id].turn) for id, place in chosen.items())
        places = tuple(now.get(place.id or "", place) for place in typical.places)
        update: dict[str, object] = {"places": places}
        if moved:
            # What is moved by hand lies there no longer because of a grid or a line, and the others with it.
            update = {"places": tuple(place.model_copy(update={"laid": None}) for place in places), "laid": None}
        return job.put(typical.model_copy(update=update))

    def describe(self, job: Job) -> str:
        typical = job.typical(self.typical)
        name = f"{_several(typical, self.places)} of {typical.name}"
        if self.changes.model_fields_set == {"stands"}:
            return f"{'put back' if self.changes.stands else 'left out'} {name}"
        return f"changed {changed_words(self.changes).replace('own', 'measures')} of {name}"

    def notices(self, before: Job, after: Job) -> tuple[str, ...]:
        was, now = before.typical(self.typical), after.typical(self.typical)
        if was.laid is not None and now.laid is None:
            return (f"The places of {now.name} no longer follow what they were laid by: one was moved by hand.",)
        return ()


def _chosen(typical: Typical, ids: Collection[str]) -> dict[str, Place]:
    """Return places of a typical by their ids. Raises ``Refused`` for one that it has not."""
    known = {place.id: place for place in typical.places}
    for index, id in enumerate(ids):
        if id not in known:
            raise Refused(f"{typical.name} has no place {id}: it may have been removed.", f"places.{index}", "unknown-id")
    return {id: known[id] for id in ids}


def _several(typical: Typical, ids: Sequence[str]) -> str:
    known = {place.id: place.name for place in typical.places}
    return known.get(ids[0], ids[0]) if len(ids) == 1 else f"{len(ids)} places"


class RemovePlaces(Edit):
    """Take a typical out of places; one laid out by a grid or along a line is left out there."""

    touches = _TOUCHES

    kind: Literal["remove_places"] = "remove_places"
    typical: Id
    places: Some

    def apply(self, job: Job) -> Job:
        typical = job.typical(self.typical)
        return job.put(_without(typical, _chosen(typical, self.places)))

    def describe(self, job: Job) -> str:
        typical = job.typical(self.typical)
        return f"took {typical.name} out of {_several(typical, self.places)}"


def _without(typical: Typical, ids: Collection[str]) -> Typical:
    places = [place for place in typical.places if place.id not in ids or place.laid is not None]
    out = tuple(place.model_copy(update={"stands": False}) if place.id in ids else place for place in places)
    return typical.model_copy(update={"places": out})


class CutLoose(Edit):
    """Make what stands in places of a typical lines, runs and rows of their own, that no longer follow it."""

    touches = frozenset({TYPICALS.group, LINES.group, RUNS.group, ROWS.group})

    kind: Literal["cut_loose"] = "cut_loose"
    typical: Id
    places: Some

    def apply(self, job: Job) -> Job:
        typical = job.typical(self.typical)
        chosen = _chosen(typical, self.places)
        for place in chosen.values():
            job = _loose(job, typical, place)
        return job.put(_without(typical, chosen))

    def describe(self, job: Job) -> str:
        typical = job.typical(self.typical)
        return f"cut {_several(typical, self.places)} loose from {typical.name}"


def _loose(job: Job, typical: Typical, place: Place) -> Job:
    """Return the job with what stands in a place as things of their own."""
    part = with_own(job, typical, place.own, place.name)
    lines = [part.line(id) for id in typical.lines]
    bodies = [
        LineBody(
            **{
                **{field: getattr(line, field) for field in LineBody.model_fields},
                "name": f"{line.name}, {place.name}"[:120], "made": None, "source": None, "undrawn": "",
            }
        )
        for line in lines
    ]  # fmt: skip
    job = lines_added(job, bodies)
    copies = job.lines[-len(lines) :]
    to = {line.id: copy for line, copy in zip(lines, copies, strict=True)}
    parts = {
        old.id: new.id
        for line, copy in zip(lines, copies, strict=True)
        for group in LINES.parts
        for old, new in zip(getattr(line, group), getattr(copy, group), strict=True)
    }
    runs, rows = drawn_on(part, typical.lines)
    copied: dict[str, str] = {}
    for run in part.some(RUNS.group, runs):
        job = job.added(RUNS, _run_fields(job, run, to[run.line].id, place.name, parts))
        copied[run.id] = job.runs[-1].id
    for row in part.some(ROWS.group, rows):
        job = job.added(ROWS, _row_fields(job, row, to[row.line].id, place.name, parts))
        copied[row.id] = job.rows[-1].id
    for run in job.some(RUNS.group, set(copied.values())):
        job = job.put(with_references(run, copied))
    instead = {**copied, **{old: copy.id for old, copy in to.items()}}
    for row in job.some(ROWS.group, set(copied.values())):
        job = job.put(with_obstacles_of(row, instead))
    return moved_lines(job, [copy.id for copy in copies], carriage(typical, place).motion())


def _run_fields(job: Job, run: Run, line: str, place: str, parts: dict[str | None, str | None]) -> dict[str, object]:
    stretches = run.stretches
    if stretches is not None:
        stretches = tuple(Between(after=parts.get(one.after), before=parts.get(one.before)) for one in stretches)
    more = {"line": line, "stretches": stretches, "rule": _rule_there(job, run, line)}
    return {**_own(job, run, place), **more}


def _row_fields(job: Job, row: Row, line: str, place: str, parts: dict[str | None, str | None]) -> dict[str, object]:
    held = tuple(one.model_copy(update={"mark": parts[one.mark]}) for one in row.held if parts.get(one.mark) is not None)
    marks = {"from_mark": parts.get(row.from_mark), "to_mark": parts.get(row.to_mark), "held": held}
    return {**_own(job, row, place), **marks, "line": line, "rule": _rule_there(job, row, line)}


def _rule_there(job: Job, thing: Run | Row, line: str) -> str | None:
    """Return the rule that made a thing where it is for another line too: a copy of the thing there is what it makes."""
    id = thing.rule or ""
    rule = job.find(RULES, id) if isinstance(thing, Run) else job.find(ROW_RULES, id)
    return thing.rule if rule is not None and rule.lines.has(job.line(line)) else None


def _own(job: Job, thing: Run | Row, place: str) -> dict[str, object]:
    fields = {name: value for name, value in fields_of(thing).items() if name != "id"}
    return {**fields, "name": f"{thing.name}, {place}"[:120], "tag": free_tag(job, thing.name)}
