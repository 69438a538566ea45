"""The solved jobs of one process: a desk for each job, of which those used last are kept."""

from __future__ import annotations

import threading
from collections import OrderedDict
from typing import Final

from cachetools import LRUCache

from slow_ribbon.core.job import Job, Touched, touched
from slow_ribbon.core.kernel import TooLong, renew
from slow_ribbon.core.lines import Line
from slow_ribbon.core.solve import SOLVING, Solved, SolvedRow, SolvedRun, SolvedThing, Solver, Wanted, solve, with_what_they_stand_on
from slow_ribbon.service.metrics import SOLVE_TIME
from slow_ribbon.service.views.view_cache import heavy_json, keep_json
from slow_ribbon.service.work.heavy import apart, at_hand
from slow_ribbon.service.work.turns import TURN

#: Solved states of one job at hand; they share what they have in common.
_STATES: Final = 8
#: Legs of lines on which things are solved in one go apart; what comes back is taken in while others wait.
_LEGS_APART: Final = 2000
#: A solver that has solved nothing.
_NOBODY: Final = Solver()
#: All desks together hold at most this many pieces, an item counting for a tenth; a piece takes about 4 kB with its figures.
MOST: Final = 150_000


class Desk:
    """One job's solved states. Safe to use from several threads: one at a time works on a job, others on other jobs."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._solver = Solver()
        self._states: LRUCache[int, Solved] = LRUCache(_STATES)
        self._last: Solved | None = None

    def solved(self, job: Job, revision: int | None = None) -> Solved:
        """Return a job solved, from the state solved last where it is the same; kept under a revision, once it has one.

        What turns out heavy is solved apart, while others may have the desk. Raises as ``heavy.apart``.
        """
        given: dict[str, SolvedThing] = {}
        hurry = True
        while True:
            with self._lock:
                known = self._states.get(revision) if revision is not None else None
                if known is not None and known.job is job:
                    return known
                last = self._last
                try:
                    with TURN, SOLVE_TIME.time(), at_hand(hurry):
                        found = self._solver.solve(job, last, _next, given)
                except TooLong:
                    left = self._solver.unsolved(job, touched(last.job if last is not None else None, job), given)
                else:
                    if revision is not None:
                        self._keep(revision, found)
                    return found
            hurry = _solve_apart(left, given)

    def keep(self, revision: int, solved: Solved) -> None:
        """Keep a solved state under its revision."""
        with self._lock:
            self._keep(revision, solved)

    def _keep(self, revision: int, solved: Solved) -> None:
        self._states[revision] = self._last = solved

    def some(self, job: Job, wanted: Wanted) -> Solved:
        """Return a few things of a job solved; in between others have their turn. Raises as ``solved``."""
        given: dict[str, SolvedThing] = {}
        hurry = True
        while True:
            with self._lock:
                try:
                    with TURN, at_hand(hurry):
                        return self._solver.some(job, wanted, _next, given)
                except TooLong:
                    left = self._solver.unsolved(job, wanted, given)
            hurry = _solve_apart(left, given)

    def run_with_key(self, key: str) -> SolvedRun | None:
        """Return a remembered run by its key."""
        found = self.thing_with_key(key)
        return found if isinstance(found, SolvedRun) else None

    def thing_with_key(self, key: str) -> SolvedThing | None:
        """Return a remembered thing by its key."""
        with self._lock:
            return self._solver.with_key(key)

    def row_with_key(self, key: str) -> SolvedRow | None:
        """Return a remembered row by its key."""
        found = self.thing_with_key(key)
        return found if isinstance(found, SolvedRow) else None

    @property
    def weight(self) -> int:
        """About how many pieces it holds."""
        return self._solver.weight


def _next() -> None:
    """Let others have their turns between one run or row and the next, which has patience of its own."""
    TURN.pass_on()
    renew()


def _solve_apart(left: Job, given: dict[str, SolvedThing]) -> bool:
    """Solve the things of a job apart, some at a time, and put them in ``given``; return whether there were any."""
    things = [
        (solving.kind.group, thing.id, sum(len(one.legs) for one in on if isinstance(one, Line)))
        for solving in SOLVING
        for thing, on in with_what_they_stand_on(left, solving.kind, [thing.id for thing in getattr(left, solving.kind.group)])
    ]
    any_left = bool(things)
    while things:
        wanted, legs = Touched(), 0
        while not legs or (things and legs + things[-1][2] < _LEGS_APART):
            group, id, more = things.pop()
            wanted.setdefault(group, []).append(id)
            legs += more
        for thing, message in apart(_solved, _NOBODY.unsolved(left, wanted)):
            keep_json(thing, message)
            given[thing.key] = thing
    return any_left


def _solved(job: Job) -> list[tuple[SolvedThing, tuple[bytes, bytes] | None]]:
    return [(thing, heavy_json(thing)) for thing in solve(job).things()]


class Desks:
    """The desks of jobs. Safe to use from several threads."""

    def __init__(self, most: int = MOST) -> None:
        self._lock = threading.Lock()
        self._most = most
        self._desks: OrderedDict[str, Desk] = OrderedDict()

    def of(self, id: str) -> Desk:
        """Return a job's desk; those of the jobs used longest ago go where all together hold too much."""
        with self._lock:
            desk = self._desks.get(id)
            if desk is None:
                desk = self._desks[id] = Desk()
            self._desks.move_to_end(id)
            while len(self._desks) > 1 and sum(1 + one.weight for one in self._desks.values()) > self._most:
                self._desks.popitem(last=False)
            return desk

    def forget(self) -> None:
        """Forget everything that was worked out."""
        with self._lock:
            self._desks.clear()
