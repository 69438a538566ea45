"""Answers about jobs, written from figures that are kept as they are sent.

The figures of a line, section, run or row are worked out and written once, for as long as it
stays as it is; an answer is put together from those parts.
"""

from __future__ import annotations

import gzip
from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import islice
from typing import TypeVar

from pydantic_core import to_json

from slow_ribbon.core.cutting import schedule
from slow_ribbon.core.job import LINES, Job, Touched, delta, touched, written
from slow_ribbon.core.kernel import Saw, kept_with
from slow_ribbon.core.lines import only_straight
from slow_ribbon.core.solve import Solved, SolvedThing, with_what_they_stand_on
from slow_ribbon.service.solver_cache import Desk
from slow_ribbon.service.views.cutting import totals_shown
from slow_ribbon.service.views.sentences import sentence_parts
from slow_ribbon.service.views.view_cache import TELLINGS, checks_json, cut_key, rows_json
from slow_ribbon.service.work.turns import TURN
from slow_ribbon.store.records import Opened

_T = TypeVar("_T")

#: New lines whose figures come with the answer to what made them; of a line of straights they take a millisecond.
_MOST_AT_ONCE = 500
#: Things in one part of a stream of figures.
PART = 50


@kept_with
def _job(job: Job) -> bytes:
    return job.model_dump_json().encode()


def opened(found: Opened) -> bytes:
    """Return the first answer of opening a job, a ``JobOpened``: the document, from which the plan can be drawn."""
    return _object({**_standing(found), "job": _job(found.job)})


@kept_with
def _packings(_: Job) -> dict[bytes, bytes]:
    return {}


def opened_packed(found: Opened) -> bytes:
    """Return the first answer of opening a job compressed with gzip, once for as long as the job stands there."""
    standing = _object(_standing(found))
    packings = _packings(found.job)
    packed = packings.get(standing)
    if packed is None:
        packings.clear()
        packed = packings[standing] = gzip.compress(opened(found), 5)
    return packed


def prepare(before: Job, solved: Solved) -> None:
    """Work out, and keep, the figures of what changed, so that what is too heavy is refused before it is saved."""
    with TURN:
        _figures(solved, _at_once(before, solved.job)[0])


def _at_once(before: Job, after: Job) -> tuple[Touched, bool]:
    """Return the things whose figures are reported at once, and whether those of many new lines follow later."""
    change = touched(before, after)
    if len(change["lines"]) > _MOST_AT_ONCE:
        known = {line.id for line in before.lines}
        old = [id for id in change["lines"] if id in known]
        if len(change["lines"]) - len(old) > _MOST_AT_ONCE:
            return Touched({**change, "lines": old}), True
    return change, False


def changed(found: Opened, solved: Solved, before: Job, since: int, made: Sequence[str] = (), notices: Sequence[str] = ()) -> bytes:
    """Return the change of a job since a revision, a ``JobChange``."""
    with TURN:
        change, later = _at_once(before, solved.job)
        figures = _figures(solved, change)
        if before.saw != solved.job.saw:
            figures["cuts"] = _all_cuts(solved)
        return _object(
            {
                **_standing(found),
                "later": to_json(later),
                "since": to_json(since),
                "job": written(found.change if found.change is not None and before is found.parent else delta(before, solved.job)),
                **figures,
                "totals": _totals(solved, change, before),
                "made": to_json(made),
                "notices": to_json([sentence_parts(notice) for notice in notices]),
            }
        )


def figures_in_parts(job: Job, revision: int, desk: Desk) -> Iterator[bytes]:
    """Yield the figures of a whole job in parts, ``FiguresPart``, a line each.

    Lines come first, the curved ones of them before all others, since without their figures they
    cannot be drawn; then things of other kinds, each part solved as it is asked for.
    """
    curved = [line.id for line in job.lines if not only_straight(line)]
    known = set(curved)
    lines = [*curved, *(line.id for line in job.lines if line.id not in known)]
    of = sum(len(getattr(job, telling.kind.group)) for telling in TELLINGS)
    done = 0

    def part(change: Touched, solved: Solved, totals: bytes = b"null") -> bytes:
        nonlocal done
        done += sum(len(ids) for ids in change.values())
        head = {"revision": to_json(revision), "done": to_json(done), "of": to_json(of)}
        with TURN:
            return _object({**head, **_figures(solved, change), "totals": totals}) + b"\n"

    for some in _batched(lines, 2 * PART):
        yield part(Touched(lines=some), Solved(job))
    for group in (telling.kind.group for telling in TELLINGS if telling.kind is not LINES):
        for some in _batched([thing.id for thing in getattr(job, group)], PART):
            wanted = Touched({group: some})
            yield part(wanted, desk.some(job, wanted))
    solved = desk.solved(job, revision)
    yield part(Touched(), solved, to_json(totals_shown(totals := schedule(solved), job.saw, totals.runs, totals.sections)))


def _totals(solved: Solved, change: Touched, before: Job) -> bytes:
    """Return the totals of the job, and of runs and sections that may have others than before."""
    after = solved.job
    runs = set(change["runs"])
    # How often something stands may have changed without it.
    counted = set(change["typicals"]) | {one.id for one in before.typicals} - {one.id for one in after.typicals}
    if counted:
        lines = {line for job in (before, after) for one in job.typicals if one.id in counted for line in one.lines}
        runs |= {run.id for run in after.runs if run.line in lines}
    if after.saw != before.saw:
        # What is cut from stock is more or less for all.
        runs |= {run.id for run in after.runs}
    in_order = [run.id for run in after.runs if run.id in runs]
    return to_json(totals_shown(schedule(solved), after.saw, in_order, _sections_of(runs, before, after)))


def _sections_of(runs: set[str], before: Job, after: Job) -> set[str]:
    """Return the sections whose totals may have changed: those of some runs, now and before, and of runs that are gone."""
    there = {run.id for run in after.runs}
    looked = [run for run in after.runs if run.id in runs] + [run for run in before.runs if run.id in runs or run.id not in there]
    return {id for run in looked for id in (run.section, *(one.section for one in run.seconds))}


def _standing(found: Opened) -> dict[str, bytes]:
    return {"id": to_json(found.id), "revision": to_json(found.revision), "undo": to_json(found.undo), "redo": to_json(found.redo)}


def _figures(solved: Solved, change: Touched) -> dict[str, bytes]:
    message: dict[str, bytes] = {}
    cuts: dict[str, str] = {}
    checks: dict[str, bytes] = {}
    for telling in TELLINGS:
        group = telling.kind.group
        came = solved.results.get(group, {})
        parts = []
        for thing, on in _in_turns(list(with_what_they_stand_on(solved.job, telling.kind, change[group]))):
            parts.append(telling.written(thing, on, came.get(thing.id)))
            if thing.id in came:
                checks[thing.id] = checks_json(came[thing.id])
                if telling.cut:
                    cuts[thing.id] = cut_key(came[thing.id], solved.job.saw)
        message[group] = _array(parts)
    return {**message, "cuts": to_json(cuts), "checks": _object(checks)}


def _all_cuts(solved: Solved) -> bytes:
    """Return the keys of the rows of every run and typical: the saw is set otherwise."""
    groups = [telling.kind.group for telling in TELLINGS if telling.cut]
    things = [thing for group in groups for thing in solved.results.get(group, {}).values()]
    return to_json({thing.id: cut_key(thing, solved.job.saw) for thing in things})


def cut_rows(things: Sequence[SolvedThing], saw: Saw) -> bytes:
    """Return the rows of the cutting list of runs and typicals, by their key."""
    with TURN:
        return _object({cut_key(thing, saw): rows_json(thing, saw) for thing in _in_turns(things)})


def _in_turns(things: Sequence[_T]) -> Iterator[_T]:
    """Yield things one by one, and let others have their turn in between."""
    for thing in things:
        yield thing
        TURN.pass_on()


def _array(parts: Iterable[bytes]) -> bytes:
    return b"[" + b",".join(parts) + b"]"


def _object(parts: Mapping[str, bytes]) -> bytes:
    return b"{" + b",".join(to_json(name) + b":" + part for name, part in parts.items()) + b"}"


def _batched(ids: Sequence[str], size: int) -> Iterator[list[str]]:
    rest = iter(ids)
    while some := list(islice(rest, size)):
        yield some
