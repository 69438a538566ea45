"""The job document: the whole state of a job as plain data, and its open file format.

A job file (``*.ribbon.json``) is this model with ``format`` and ``version``; see
``docs/job-format.md``. Everything measurable follows from it by ``solve``; nothing computed
is kept in it.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from functools import lru_cache
from itertools import count
from operator import attrgetter
from typing import Annotated, Any, Final, Literal

from pydantic import Field

from slow_ribbon.core.job.document.kinds import (
    GROUPS,
    KINDS,
    LINES,
    PICTURES,
    ROWS,
    RUNS,
    SECTIONS,
    TYPICALS,
    AnyThing,
    Kind,
    Thing,
    kind_of,
)  # fmt: skip
from slow_ribbon.core.job.document.underlay import Picture
from slow_ribbon.core.job.document.upgrade import VERSION
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.expressions import Lengths
from slow_ribbon.core.kernel.fields import UNKNOWN, Accepted, Model, Name, Point3
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.measures import Formula, Measure, work_out_all
from slow_ribbon.core.kernel.saw import Saw
from slow_ribbon.core.kernel.units import System, Units
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.typicals.typical import Typical
from slow_ribbon.core.rows.items.brought import BroughtItem
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.rows.row_rule import RowRule
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.placement.run_rule import RunRule
from slow_ribbon.core.sections.document.draft import Draft
from slow_ribbon.core.sections.document.section import Section

FORMAT: Final = "slow-ribbon-job"

_id_of = attrgetter("id")


@kept_with
def _places_in(_: object) -> dict[str, dict[str, int]]:
    return {}


class Job(Model):
    """One job. ``origin`` is where its local zero lies on the site, mm; ``last_number`` the last id given out."""

    format: Literal["slow-ribbon-job"] = FORMAT
    version: Literal[4] = VERSION
    name: Name
    units: Units = Units()
    origin: Point3 = (0.0, 0.0, 0.0)
    notes: Annotated[str, Field(max_length=20_000)] = ""
    lines: Annotated[tuple[Line, ...], Field(max_length=100_000, fail_fast=True)] = ()
    sections: Annotated[tuple[Section, ...], Field(max_length=5000, fail_fast=True)] = ()
    runs: Annotated[tuple[Run, ...], Field(max_length=50_000, fail_fast=True)] = ()
    rows: Annotated[tuple[Row, ...], Field(max_length=50_000, fail_fast=True)] = ()
    pictures: Annotated[tuple[Picture, ...], Field(max_length=100, fail_fast=True)] = ()
    rules: Annotated[tuple[RunRule, ...], Field(max_length=1000, fail_fast=True)] = ()
    row_rules: Annotated[tuple[RowRule, ...], Field(max_length=1000, fail_fast=True)] = ()
    drafts: Annotated[tuple[Draft, ...], Field(max_length=1000, fail_fast=True)] = ()
    typicals: Annotated[tuple[Typical, ...], Field(max_length=1000, fail_fast=True)] = ()
    measures: Annotated[tuple[Measure, ...], Field(max_length=2000, fail_fast=True)] = ()
    formulas: Annotated[tuple[Formula, ...], Field(max_length=20_000, fail_fast=True)] = ()
    saw: Saw = Saw()
    accepted: Annotated[tuple[Accepted, ...], Field(max_length=20_000, fail_fast=True)] = ()
    last_number: Annotated[int, Field(ge=0, lt=10**9)] = 0

    def things(self) -> Iterator[Thing]:
        """Yield every thing of every kind."""
        for group in GROUPS:
            yield from getattr(self, group)

    def some(self, group: str, ids: Collection[str]) -> list[Any]:
        """Return the things of a group that have one of some ids, in the order of the group."""
        if not ids:
            return []
        things, places = getattr(self, group), self._places(group)
        return [things[place] for place in sorted({places[id] for id in ids if id in places})]

    def thing(self, id: str) -> Thing:
        """Return a thing of any kind by its id. Raises ``Refused`` if it does not exist."""
        for thing in self.things():
            if thing.id == id:
                return thing
        raise Refused(f"There is nothing with the id {id} in this job: it may have been removed.", "thing", "unknown-id")

    def _places(self, group: str) -> dict[str, int]:
        """Return the place of each thing in its group by its id, looked through once."""
        places = _places_in(self)
        if group not in places:
            places[group] = dict(zip(map(_id_of, getattr(self, group)), count(), strict=False))
        return places[group]

    def line(self, id: str) -> Line:
        """Return a line by its id. Raises ``Refused`` if it does not exist."""
        return self.get(LINES, id)

    def section(self, id: str) -> Section:
        """Return a section by its id. Raises ``Refused`` if it does not exist."""
        return self.get(SECTIONS, id)

    def run(self, id: str) -> Run:
        """Return a run by its id. Raises ``Refused`` if it does not exist."""
        return self.get(RUNS, id)

    def row(self, id: str) -> Row:
        """Return a row by its id. Raises ``Refused`` if it does not exist."""
        return self.get(ROWS, id)

    def picture(self, id: str) -> Picture:
        """Return a picture by its id. Raises ``Refused`` if it does not exist."""
        return self.get(PICTURES, id)

    def typical(self, id: str) -> Typical:
        """Return a typical by its id. Raises ``Refused`` if it does not exist."""
        return self.get(TYPICALS, id)

    def files(self) -> dict[str, str]:
        """Return the names of the files that it refers to, by the SHA-256 of their bytes."""
        items = (use.item for row in self.rows for use in row.uses())
        meshes = {item.content: f"{item.called}.glb" for item in items if isinstance(item, BroughtItem)}
        return meshes | {picture.content: picture.name for picture in self.pictures}

    def rows_on(self, lines: Collection[str]) -> set[str]:
        """Return the ids of the rows on some lines."""
        return {row.id for row in self.rows if row.line in lines}

    def typical_of(self, line: str) -> Typical | None:
        """Return the typical that a line belongs to, by the line's id, if any."""
        return next((typical for typical in self.typicals if line in typical.lines), None)

    def find(self, kind: Kind[AnyThing], id: str) -> AnyThing | None:
        """Return a thing of a kind by its id; None if it does not exist."""
        things: tuple[AnyThing, ...] = getattr(self, kind.group)
        place = self._places(kind.group).get(id)
        return None if place is None else things[place]

    def get(self, kind: Kind[AnyThing], id: str) -> AnyThing:
        """Return a thing of a kind by its id. Raises ``Refused`` if it does not exist."""
        thing = self.find(kind, id)
        if thing is not None:
            return thing
        raise Refused(f"There is no {kind.word} {id} in this job: it may have been removed.", kind.word, "unknown-id")

    def put(self, thing: Thing) -> Job:
        """Return the job with a thing as it is now in place of the one with its id."""
        group = kind_of(thing).group
        things = list(getattr(self, group))
        if thing.id in (ids := list(map(_id_of, things))):
            things[ids.index(thing.id)] = thing
        return self.model_copy(update={group: tuple(things)})

    def added(self, kind: Kind[Any], fields: Mapping[str, Any]) -> Job:
        """Return the job with a new thing of a kind, at the end of its group and with the next id."""
        number = self.last_number + 1
        thing = kind.model(id=f"{kind.letter}{number}", **fields)
        return self.model_copy(update={kind.group: (*getattr(self, kind.group), thing), "last_number": number})

    def lengths(self) -> Lengths:
        """Return the job's measures in mm by their keys. Raises ``Refused`` as ``work_out_all`` does."""
        return _lengths(self.measures, self.units.system)


@lru_cache(maxsize=64)
def _lengths(measures: tuple[Measure, ...], system: System) -> Lengths:
    return work_out_all(measures, system)


def check_thing(job: Job, thing: Thing, confirmed: bool = True) -> None:
    """Raise ``Refused`` where one thing of a job does not hold together with what it uses."""
    kind_of(thing).check(job, thing, confirmed)


def check_references(job: Job) -> None:
    """Raise ``Refused``, with the place, where ids or tags of a job are used twice, or a thing refers to one that is not there."""
    seen: set[str] = set()
    tags: set[str] = set()
    known = {group: {thing.id for thing in getattr(job, group)} for group in GROUPS}
    for kind in KINDS:
        for index, thing in enumerate(getattr(job, kind.group)):
            where = f"{kind.group}.{index}"
            if thing.id in seen:
                words = ", ".join(kind.word for kind in KINDS[:-1])
                what = f"The id {thing.id} is used twice: every {words} and {KINDS[-1].word} needs its own."
                raise Refused(what, f"{where}.id", "id-twice")
            if int(thing.id[1:]) > job.last_number:
                raise Refused(f"The id {thing.id} is past last_number, {job.last_number}.", "last_number", "last-number")
            if kind.tagged:
                if thing.tag in tags:
                    raise Refused(f"The tag {thing.tag} is used twice: every run and row needs its own.", f"{where}.tag", "tag-twice")
                tags.add(thing.tag)
            seen.add(thing.id)
            for group in kind.parts:
                _check_parts(thing, group, where, seen, job.last_number)
            for id, group in zip(kind.references(thing), kind.refers_to, strict=True):
                if id not in known[group] and id != UNKNOWN:
                    word = next(kind.word for kind in KINDS if kind.group == group)
                    raise Refused(f"There is no {word} {id} in this job: it may have been removed.", f"{where}.{word}", "unknown-id")


def check_job(job: Job) -> None:
    """Raise ``Refused``, with the place, where a job as a whole does not hold together."""
    check_references(job)
    job.lengths()
    for kind in KINDS:
        things = getattr(job, kind.group)
        sound = kind.sound(things)
        for index, thing in enumerate(things):
            try:
                if thing.id not in sound:
                    check_thing(job, thing)
            except Refused as refused:
                where = ".".join(part for part in (f"{kind.group}.{index}", refused.where) if part)
                raise Refused(refused.what, where, refused.code) from refused


def _check_parts(thing: Thing, group: str, where: str, seen: set[str], last_number: int) -> None:
    for index, part in enumerate(getattr(thing, group)):
        if part.id is not None and int(part.id[1:]) > last_number:
            raise Refused(f"The id {part.id} is past last_number, {last_number}.", "last_number", "last-number")
        if part.id is None or part.id in seen:
            what = f"{group[:-1].capitalize()} {part.name} of {thing.name} needs an id of its own."
            raise Refused(what, f"{where}.{group}.{index}.id", "id-twice")
        seen.add(part.id)
