"""What one process has worked out of jobs: a desk for each job, and the desks used last kept."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Collection
from typing import Final

from slow_ribbon.core.job.delta import touched
from slow_ribbon.core.job.document import Job
from slow_ribbon.core.kernel.patience import TooLong, renew
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.runs.model import Run
from slow_ribbon.core.solve.solver import Solved, SolvedRow, SolvedRun, Solver, solve
from slow_ribbon.service.heavy import apart, at_hand
from slow_ribbon.service.observing import SOLVE_TIME
from slow_ribbon.service.turns import TURN
from slow_ribbon.service.views.kept import cutting_told, keep_told, run_told

#: Solved states of one job at hand; they share what they have in common.
_STATES: Final = 8
#: Legs of lines whose runs and rows are solved in one go apart; what comes back is taken in while others wait.
_LEGS_APART: Final = 2000
#: A solver that has solved nothing.
_NOBODY: Final = Solver()
#: All desks together hold at most so many pieces, an item counting for a tenth; a piece takes about 4 kB with what is told of it.
MOST: Final = 150_000


class Desk:
    """One job's solved states. Safe to use from several threads: one at a time works on a job, others on other jobs."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._solver = Solver()
        self._states: OrderedDict[int, Solved] = OrderedDict()

    def solved(self, job: Job, revision: int | None = None) -> Solved:
        """Return a job solved, from the state solved last where it is the same; kept under a revision, once it has one.

        What turns out heavy is solved apart, while others may have the desk. Raises as ``heavy.apart``.
        """
        given: dict[str, SolvedRun | SolvedRow] = {}
        hurry = True
        while True:
            with self._lock:
                known = self._states.get(revision) if revision is not None else None
                if known is not None and known.job is job:
                    return known
                last = next(reversed(self._states.values())) if self._states else None
                try:
                    with TURN, SOLVE_TIME.time(), at_hand(hurry):
                        found = self._solver.solve(job, last, _next, given)
                except TooLong:
                    again = touched(last.job if last is not None else None, job)
                    left = self._solver.unsolved(job, set(again["runs"]), set(again["rows"]), given)
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
        self._states[revision] = solved
        self._states.move_to_end(revision)
        while len(self._states) > _STATES:
            self._states.popitem(last=False)

    def some(self, job: Job, runs: Collection[str], rows: Collection[str]) -> Solved:
        """Return a few runs and rows of a job solved; in between others have their turn. Raises as ``solved``."""
        given: dict[str, SolvedRun | SolvedRow] = {}
        hurry = True
        while True:
            with self._lock:
                try:
                    with TURN, at_hand(hurry):
                        return self._solver.some(job, runs, rows, _next, given)
                except TooLong:
                    left = self._solver.unsolved(job, runs, rows, given)
            hurry = _solve_apart(left, given)

    def run_with_key(self, key: str) -> SolvedRun | None:
        """Return a remembered run by its key."""
        with self._lock:
            return self._solver.run_with_key(key)

    def row_with_key(self, key: str) -> SolvedRow | None:
        """Return a remembered row by its key."""
        with self._lock:
            return self._solver.row_with_key(key)

    @property
    def weight(self) -> int:
        """About how many pieces it holds."""
        return self._solver.weight


def _next() -> None:
    """Let others have their turns between one run or row and the next, which has patience of its own."""
    TURN.pass_on()
    renew()


def _solve_apart(left: Job, given: dict[str, SolvedRun | SolvedRow]) -> bool:
    """Solve the runs and rows of a job apart, some at a time, and put them in ``given``; tell whether there were any."""
    lines = {line.id: len(line.legs) for line in left.lines}
    things: list[Run | Row] = [*left.runs, *left.rows]
    while things:
        some, legs = [things.pop()], 0
        while things and (legs := legs + lines[things[-1].line]) < _LEGS_APART:
            some.append(things.pop())
        runs, rows = ({one.id for one in some if isinstance(one, kind)} for kind in (Run, Row))
        solved_runs, solved_rows = apart(_solved, _NOBODY.unsolved(left, runs, rows))
        for run, told in solved_runs:
            keep_told(run, told)
            given[run.key] = run
        given.update((row.key, row) for row in solved_rows)
    return bool(left.runs or left.rows)


def _solved(job: Job) -> tuple[list[tuple[SolvedRun, tuple[bytes, bytes]]], list[SolvedRow]]:
    found = solve(job)
    # What is told of a run is as heavy as the run: it comes along.
    return [(run, (run_told(run), cutting_told(run))) for run in found.runs.values()], list(found.rows.values())


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
