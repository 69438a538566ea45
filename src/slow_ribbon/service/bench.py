"""What the service keeps at hand between requests: the store, the solver, drawings just read."""

from __future__ import annotations

import hashlib
import tempfile
import threading
from collections import OrderedDict
from pathlib import Path

from slow_ribbon.core.apply import apply_all
from slow_ribbon.core.edits import Edit
from slow_ribbon.core.faults import Refused
from slow_ribbon.core.job import Job
from slow_ribbon.core.solve import Solved, SolvedRow, SolvedRun, Solver, solve_wall
from slow_ribbon.formats.apart import read_apart
from slow_ribbon.formats.drawing import Drawing
from slow_ribbon.service.shown import JobShown, job_shown, wall_key
from slow_ribbon.store.jobs import Jobs, Opened


class Bench:
    """One server's working state. Safe to use from several threads."""

    def __init__(self, jobs: Jobs) -> None:
        self.jobs = jobs
        self.solver = Solver()
        self._lock = threading.Lock()
        self._drawings: OrderedDict[str, Drawing] = OrderedDict()

    def solve(self, job: Job) -> Solved:
        """Return a job solved, from what is remembered where it can be."""
        with self._lock:
            return self.solver.solve(job)

    def shown(self, opened: Opened) -> JobShown:
        """Return what the interface is shown of a job."""
        return job_shown(opened, self.solve(opened.job))

    def edit(self, id: str, base: int, edits: list[Edit], confirmed: bool) -> Opened:
        """Save edits as one revision. Raises as ``Jobs.change`` and ``apply`` do."""

        def change(job: Job) -> tuple[Job, list[object], list[str]]:
            changed, said = apply_all(job, edits, confirmed)
            self.solve(changed)
            return changed, [edit.model_dump(mode="json") for edit in edits], said

        return self.jobs.change(id, base, change)

    def preview(self, id: str, base: int, edits: list[Edit]) -> JobShown:
        """Return what edits would make of a revision, saving nothing. Large rows are taken as confirmed by nobody."""
        job, _ = apply_all(self.jobs.at(id, base), edits)
        return self.shown(Opened(id, base, job, None, None))

    def run_mesh(self, id: str, key: str) -> SolvedRun:
        """Return the run, or the backdrop wall, whose mesh has this key. Raises ``Refused`` where it is of another time."""
        found = self.solver.run_with_key(key)
        if found is not None:
            return found
        job = self.jobs.open(id).job
        for line in job.lines:
            if line.wall is not None and wall_key(line) == key:
                return solve_wall(line)
        self.solve(job)
        found = self.solver.run_with_key(key)
        if found is None:
            raise Refused("This mesh belongs to another revision of the job: look at the job again.", "key", "unknown-id")
        return found

    def row_places(self, id: str, key: str) -> SolvedRow:
        """Return the row whose places have this key. Raises ``Refused`` where it is of another time."""
        found = self.solver.row_with_key(key)
        if found is None:
            self.solve(self.jobs.open(id).job)
            found = self.solver.row_with_key(key)
        if found is None:
            raise Refused("These items belong to another revision of the job: look at the job again.", "key", "unknown-id")
        return found

    def take_in(self, file: str, data: bytes) -> tuple[str, Drawing]:
        """Read a drawing that was sent, keep its original, and return its content hash and the drawing."""
        content = hashlib.sha256(data).hexdigest()
        drawing = self._drawings.get(content) or self._read(content, data)
        self.jobs.keep_original(content, file, data)
        return content, drawing

    def drawing(self, content: str) -> tuple[str, Drawing]:
        """Return the file name and the drawing of an original. Raises ``Unknown``."""
        file, data = self.jobs.original(content)
        return file, self._drawings.get(content) or self._read(content, data)

    def _read(self, content: str, data: bytes) -> Drawing:
        with tempfile.NamedTemporaryFile(suffix=".dxf", prefix="slow-ribbon-") as kept:
            kept.write(data)
            kept.flush()
            drawing = read_apart(Path(kept.name))
        with self._lock:
            self._drawings[content] = drawing
            while len(self._drawings) > 4:
                self._drawings.popitem(last=False)
        return drawing
