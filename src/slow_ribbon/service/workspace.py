"""What the service keeps at hand between requests: the store, the solver, drawings just read."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Literal

from slow_ribbon.core.job import Job, changed_fields, new_ids, overlap
from slow_ribbon.core.job.edits import Edit, comes_elsewhere, said_by
from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.solve import Solved, SolvedRow, SolvedRun, solve_wall
from slow_ribbon.service import responses
from slow_ribbon.service.drawings import Drawings
from slow_ribbon.service.import_prefetch import BodiesAhead
from slow_ribbon.service.meshes import MeshesAhead
from slow_ribbon.service.metrics import EDITS
from slow_ribbon.service.solver_cache import Desks
from slow_ribbon.service.supplier import Supplier
from slow_ribbon.service.views.lines import wall_key
from slow_ribbon.service.views.view_cache import cut_key
from slow_ribbon.service.work.heavy import applied, worked
from slow_ribbon.store.jobs import Jobs
from slow_ribbon.store.records import NOBODY, Author, Changed, Opened
from slow_ribbon.store.shop import Shop


class Bench:
    """One server's working state. Safe to use from several threads."""

    def __init__(self, jobs: Jobs, shop: Shop, supplier: Supplier) -> None:
        self.jobs = jobs
        self.shop = shop
        self.supplier = supplier
        self.desks = Desks()
        self.drawings = Drawings(jobs)
        self.meshes = MeshesAhead()
        self.bodies = BodiesAhead()

    def opened(self, id: str, packed: bool) -> bytes:
        """Return the first answer of opening a job, a ``JobOpened``, compressed with gzip where that is wanted."""
        found = self.jobs.open(id)
        return responses.opened_packed(found) if packed else responses.opened(found)

    def figures(self, id: str, revision: int) -> Iterator[bytes]:
        """Return the figures of a revision in parts, ``FiguresPart``, a line each."""
        return self._figures(id, revision, self.jobs.at(id, revision))

    def _figures(self, id: str, revision: int, job: Job) -> Iterator[bytes]:
        desk = self.desks.of(id)
        yield from responses.figures_in_parts(job, revision, desk)
        # All of it is at hand now, and how much of it is wrong can be reported in the list of jobs.
        self.jobs.set_checks(id, revision, *desk.solved(job, revision).severities())

    def solved(self, opened: Opened) -> Solved:
        """Return a job solved as it stands."""
        return self.desks.of(opened.id).solved(opened.job, opened.revision)

    def changed(self, opened: Opened, since: int, notices: Sequence[str] = ()) -> bytes:
        """Return the change of a job since a revision, a ``JobChange``."""
        return responses.changed(opened, self.solved(opened), self.jobs.at(opened.id, since), since, (), notices)

    def edit(self, id: str, base: int, edits: list[Edit], confirmed: bool, request: str | None = None, by: Author = NOBODY,
        notices: Sequence[str] = (),
    ) -> bytes:  # fmt: skip
        """Save edits as one revision and return what changed since ``base``, a ``JobChange``; ``notices`` are reported with them.

        Edits of an older revision are carried on to the current one where what has changed
        since is other fields. Raises as ``Jobs.change`` and ``apply`` do.
        """
        desk = self.desks.of(id)
        message: tuple[Job, Solved, tuple[str, ...]] | None = None

        def change(job: Job, was: Job | None) -> Changed | None:
            nonlocal message
            if was is not None:
                wanted = applied(was, edits, confirmed).job
                theirs = changed_fields(was, job)
                if overlap(changed_fields(was, wanted) | said_by(was, edits), theirs) or comes_elsewhere(was, job, edits):
                    return None
            made = applied(job, edits, confirmed)
            solved = desk.solved(made.job)
            responses.prepare(job, solved)
            message = job, solved, (*notices, *made.notices)
            return Changed(made.job, edits, made.said, solved.severities())

        opened = self.jobs.change(id, base, change, request, by)
        if message is not None and message[1].job is opened.job:
            for edit in edits:
                EDITS.labels(edit.kind).inc()
        before = self.jobs.at(id, base)
        if message is None or message[1].job is not opened.job:
            # It had been saved before: what was new is what that revision has and its parent has not.
            return responses.changed(opened, self.solved(opened), before, base, self.jobs.new_in(id, opened.made or 0))
        job, solved, said = message
        desk.keep(opened.revision, solved)
        if self.meshes.expected(id):
            self.meshes.plan(job, solved)
        return responses.changed(opened, solved, before, base, new_ids(job, opened.job), said)

    def step(self, id: str, base: int, way: Literal["undo", "redo"], by: Author = NOBODY) -> bytes:
        """Undo or redo one revision and return what changed, a ``JobChange``."""
        opened = self.jobs.step(id, base, way, by)
        answer = self.changed(opened, base)
        self.jobs.set_checks(id, opened.revision, *self.solved(opened).severities())
        return answer

    def preview(self, id: str, base: int, edits: list[Edit]) -> bytes:
        """Return the change that edits would make to a revision, a ``JobChange``, and save nothing. Large rows are not confirmed."""
        before = self.jobs.at(id, base)
        made = applied(before, edits)
        solved = self.desks.of(id).solved(made.job)
        return responses.changed(Opened(id, base, made.job, None, None), solved, before, base, new_ids(before, made.job))

    def run_mesh(self, id: str, key: str) -> SolvedRun:
        """Return the run, or the backdrop wall, whose mesh has this key. Raises ``Refused`` where it is of another time."""
        desk = self.desks.of(id)
        found = desk.run_with_key(key)
        if found is not None:
            return found
        opened = self.jobs.open(id)
        for line in opened.job.lines:
            if line.wall is not None and wall_key(line) == key:
                return worked(solve_wall, line)
        self.solved(opened)
        found = desk.run_with_key(key)
        if found is None:
            raise Refused("This mesh belongs to another revision of the job: look at the job again.", "key", "unknown-id")
        return found

    def cut_rows(self, id: str, keys: Sequence[str]) -> bytes:
        """Return the rows of the cutting list with these keys, by key, of the job as it stands or stood lately; others are left out."""
        opened = self.jobs.open(id)
        saw = opened.job.saw
        desk = self.desks.of(id)
        # The job is solved as it stands where this process has not met what is asked for.
        if any(desk.thing_with_key(key[:32]) is None for key in keys):
            self.solved(opened)
        things = [thing for key in keys if (thing := desk.thing_with_key(key[:32])) is not None and cut_key(thing, saw) == key]
        return responses.cut_rows(things, saw)

    def known_runs(self, id: str, keys: Sequence[str]) -> list[SolvedRun]:
        """Return the runs with these keys, of the job as it stands or stood lately; those of another time are left out."""
        # Solved once, so that many keys of another time do not have the job opened for each of them.
        self.solved(self.jobs.open(id))
        desk = self.desks.of(id)
        return [run for run in map(desk.run_with_key, keys) if run is not None]

    def row_places(self, id: str, key: str) -> SolvedRow:
        """Return the row whose places have this key. Raises ``Refused`` where it is of another time."""
        desk = self.desks.of(id)
        found = desk.row_with_key(key)
        if found is None:
            self.solved(self.jobs.open(id))
            found = desk.row_with_key(key)
        if found is None:
            raise Refused("These items belong to another revision of the job: look at the job again.", "key", "unknown-id")
        return found
