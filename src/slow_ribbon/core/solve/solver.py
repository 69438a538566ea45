"""From a job to its pieces, items and checks.

``Solver.solve`` is pure in what it returns; it keeps the results of things it has met, keyed by
a hash of their inputs, so that an edit solves again only what it touches. What is the same
object as in the state solved before is not even hashed.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Collection, Iterable, Mapping
from functools import partial
from typing import Any, Final

from cachetools import LRUCache
from pydantic_core import to_json

from slow_ribbon.core.job.derived.dependencies import touched
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import KINDS, TYPICALS, Kind, Thing
from slow_ribbon.core.kernel.fields import Model
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.rows.model import RowBody
from slow_ribbon.core.sections.document.constraints import Hidden
from slow_ribbon.core.sections.document.section import SectionBody
from slow_ribbon.core.solve.instances import stand
from slow_ribbon.core.solve.results import Solved, SolvedThing
from slow_ribbon.core.solve.solve_kinds import SOLVING, Solving

#: What is remembered of a kind weighs at most as much as this many pieces.
_MOST: Final = 100_000

#: Part of every key, to be raised when the same inputs give another result than before: what is
#: fetched under a key is cached for ever, beyond the life of this version of the program.
_WAY: Final = b"10"


def key_of(*parts: Model | str) -> str:
    """Return a hash of inputs and of the way of solving, 32 hexadecimal digits."""
    digest = hashlib.sha256(_WAY)
    for part in parts:
        digest.update(part.encode() if isinstance(part, str) else _written(part))
        digest.update(b"\0")
    return digest.hexdigest()[:32]


@kept_with
def _written(model: Model) -> bytes:
    left_out = {"id", "name", "tag", "source", "material", "group", "held", "rule", "shop", "stock", "notes", "numbered", "next_point"}
    if isinstance(model, SectionBody):
        # Pieces weigh what it is made of, and are not painted where it is hidden.
        hidden = [held.model_dump_json() for held in model.held if isinstance(held, Hidden)]
        return b"".join([model.model_dump_json(exclude=left_out).encode(), model.material.encode(), *(one.encode() for one in hidden)])
    if isinstance(model, RowBody):
        # Its items are held where they stand, and are shown in what they are made of.
        left_out -= {"held", "material"}
    # What a thing takes from others is written nowhere else, and counts here.
    derived = [getattr(model, name) for name, field in type(model).model_fields.items() if field.exclude]
    return b"".join([model.model_dump_json(exclude=left_out).encode(), *(to_json(part) for part in derived)])


class _Kept(LRUCache[str, SolvedThing]):
    """Results by key, the ones used last staying; together they weigh at most ``most``, but for one that is heavier, which stays alone."""

    def __init__(self, most: int) -> None:
        super().__init__(most, getsizeof=lambda thing: min(thing.weight, most))
        self.made = 0

    def get_or_make(self, key: str, work: Callable[[], SolvedThing]) -> SolvedThing:
        if key in self:
            return self[key]
        self[key] = found = work()
        self.made += 1
        return found


def _itself(thing: SolvedThing) -> SolvedThing:
    return thing


def _go_on() -> None:
    """Do nothing: nobody waits."""


_SOLVING_OF: Final = {solving.kind.group: solving for solving in SOLVING}
#: The ids of things, by group.
Wanted = Mapping[str, Collection[str]]
#: Things that were solved elsewhere, by key.
Given = Mapping[str, SolvedThing]
NOTHING_GIVEN: Final[Given] = {}


class Solver:
    """Solves jobs and remembers the results of their things."""

    def __init__(self, most: int = _MOST) -> None:
        self._kept = {group: _Kept(most) for group in (*(solving.kind.group for solving in SOLVING), TYPICALS.group)}

    @property
    def weight(self) -> int:
        """About how much memory it takes, in pieces."""
        return sum(int(kept.currsize) for kept in self._kept.values())

    @property
    def made(self) -> Mapping[str, int]:
        """How many things of each group were really solved."""
        return {group: kept.made for group, kept in self._kept.items()}

    def solve(self, job: Job, before: Solved | None = None, between: Callable[[], None] = _go_on, given: Given = NOTHING_GIVEN) -> Solved:
        """Return the job solved; what is as it was in the state ``before`` is taken from there.

        ``between`` is called between one thing and the next, for others to have their turn.
        ``given`` are things that were solved elsewhere, by key.
        """
        anew = self.some(job, touched(before.job if before is not None else None, job), between, given).results
        if before is None:
            return Solved(job, anew)
        results = {}
        for group, fresh in anew.items():
            old = before.results.get(group, {})
            results[group] = {thing.id: fresh.get(thing.id) or old[thing.id] for thing in getattr(job, group)}
        return Solved(job, results)

    def some(self, job: Job, wanted: Wanted, between: Callable[[], None] = _go_on, given: Given = NOTHING_GIVEN) -> Solved:
        """Return some things of a job solved; ``between`` and ``given`` as in ``solve``."""
        results: dict[str, dict[str, SolvedThing]] = {}
        for solving in SOLVING:
            group = solving.kind.group
            found = results[group] = {}
            for thing, on in with_what_they_stand_on(job, solving.kind, wanted.get(group, ())):
                look_up()
                found[thing.id] = self._solved(solving, thing, on, given)
                between()

        def solve(job: Job, kind: Kind[Any], ids: Collection[str]) -> list[SolvedThing]:
            things = []
            for thing, on in with_what_they_stand_on(job, kind, ids):
                look_up()
                things.append(self._solved(_SOLVING_OF[kind.group], thing, on, given))
                between()
            return things

        results[TYPICALS.group] = {}
        for typical in job.some(TYPICALS.group, wanted.get(TYPICALS.group, ())):
            stands = stand(job, typical, solve, key_of)
            # Put together again it is the same as long as all is that it is made of.
            results[TYPICALS.group][typical.id] = self._kept[TYPICALS.group].get_or_make(stands.key, partial(_itself, stands))
        return Solved(job, results)

    def _solved(self, solving: Solving, thing: Thing, on: tuple[Thing, ...], given: Given) -> SolvedThing:
        key = _key(solving.kind, thing, on)
        return self._kept[solving.kind.group].get_or_make(key, lambda: given.get(key) or solving.solve(thing, *on, key))

    def unsolved(self, job: Job, wanted: Wanted, given: Given = NOTHING_GIVEN) -> Job:
        """Return a job of those of some things that are neither remembered nor given, with what they stand on."""
        left: dict[str, dict[str, Thing]] = {kind.group: {} for kind in KINDS}
        for solving in SOLVING:
            kind, kept = solving.kind, self._kept[solving.kind.group]
            for thing, on in with_what_they_stand_on(job, kind, wanted.get(kind.group, ())):
                key = _key(kind, thing, on)
                if key not in given and kept.get(key) is None:
                    left[kind.group][thing.id] = thing
                    for other, of in zip(on, kind.refers_to, strict=True):
                        left[of][other.id] = other
        groups = {group: tuple(things.values()) for group, things in left.items()}
        return job.model_copy(update={**groups, "measures": (), "formulas": ()})

    def with_key(self, key: str) -> SolvedThing | None:
        """Return the result remembered under a key."""
        return next((found for kept in self._kept.values() if (found := kept.get(key)) is not None), None)


def with_what_they_stand_on(job: Job, kind: Kind[Any], ids: Collection[str]) -> Iterable[tuple[Thing, tuple[Thing, ...]]]:
    """Yield some things of a kind, in the order of the job, each with what it refers to."""
    things = job.some(kind.group, ids)
    references = [tuple(kind.references(thing)) for thing in things]
    # One look through each group that is referred to.
    known = [{thing.id: thing for thing in job.some(group, {of[i] for of in references})} for i, group in enumerate(kind.refers_to)]
    for thing, of in zip(things, references, strict=True):
        yield thing, tuple(known[i][id] for i, id in enumerate(of))


def _key(kind: Kind[Any], thing: Thing, on: tuple[Thing, ...]) -> str:
    tag = (thing.tag,) if kind.tagged else ()  # type: ignore[union-attr]  # what is tagged has a tag
    return key_of(thing.id, *tag, *on, thing)


def solve(job: Job) -> Solved:
    """Return a job solved from nothing."""
    return Solver().solve(job)
