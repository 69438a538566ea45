"""What the service keeps at hand between requests: the store, the solver, drawings just read."""

from __future__ import annotations

import hashlib
import tempfile
import threading
from collections import OrderedDict
from collections.abc import Sequence
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, Field

from slow_ribbon.core.apply import apply_all
from slow_ribbon.core.conflicts import changed_fields, overlap
from slow_ribbon.core.edits import Edit
from slow_ribbon.core.faults import Refused
from slow_ribbon.core.job import Job
from slow_ribbon.core.model import Coordinate
from slow_ribbon.core.solve import Solved, SolvedRow, SolvedRun, Solver, solve_wall
from slow_ribbon.formats.apart import kind_of, read_apart, read_picture_apart
from slow_ribbon.formats.drawing import Drawing, Found, find_lines
from slow_ribbon.formats.options import Options
from slow_ribbon.formats.pictures import PictureRead
from slow_ribbon.service.shown import JobShown, job_shown
from slow_ribbon.service.shown_lines import wall_key
from slow_ribbon.service.tasks import Tasks
from slow_ribbon.service.told import told_parts
from slow_ribbon.store.jobs import Changed, Jobs, Opened


class Joining(BaseModel):
    """How edges are joined: ``layers`` left out are all; ``ways`` for junctions by number; ``level`` brings all to one height, mm."""

    tolerance: float = 1.0
    layers: list[str] | None = None
    ways: dict[str, list[tuple[Annotated[int, Field(ge=0)], Annotated[int, Field(ge=0)]]]] = {}
    level: Coordinate | None = None


class Bench:
    """One server's working state. Safe to use from several threads."""

    def __init__(self, jobs: Jobs) -> None:
        self.jobs = jobs
        self.solver = Solver()
        self._lock = threading.Lock()
        self._drawings: OrderedDict[str, Drawing] = OrderedDict()
        self._found: OrderedDict[str, Found] = OrderedDict()
        self._pictures: OrderedDict[tuple[str, int], PictureRead] = OrderedDict()
        self.tasks = Tasks()

    def solve(self, job: Job) -> Solved:
        """Return a job solved, from what is remembered where it can be."""
        with self._lock:
            return self.solver.solve(job)

    def shown(self, opened: Opened, before: Job | None = None, notices: Sequence[str] = ()) -> JobShown:
        """Return what the interface is shown of a job; after an edit with what is new against the job before, and what is told of it."""
        found = job_shown(opened, self.solve(opened.job))
        if before is not None:
            known = {thing.id for thing in before.things()}
            found.made = [thing.id for thing in opened.job.things() if thing.id not in known]
        found.notices = [told_parts(notice) for notice in notices]
        return found

    def edit(self, id: str, base: int, edits: list[Edit], confirmed: bool) -> JobShown:
        """Save edits as one revision and return what is shown of it.

        Edits of an older revision are carried on to the current one where what has changed
        since is other fields. Raises as ``Jobs.change`` and ``apply`` do.
        """
        told: tuple[Job, tuple[str, ...]] | None = None

        def change(job: Job, was: Job | None) -> Changed | None:
            nonlocal told
            if was is not None:
                wanted = apply_all(was, edits, confirmed).job
                if overlap(changed_fields(was, wanted), changed_fields(was, job)):
                    return None
            made = apply_all(job, edits, confirmed)
            self.solve(made.job)
            told = job, made.notices
            return Changed(made.job, [edit.model_dump(mode="json", exclude_unset=True) for edit in edits], made.said)

        opened = self.jobs.change(id, base, change)
        assert told is not None  # a change that was saved has been made
        return self.shown(opened, *told)

    def preview(self, id: str, base: int, edits: list[Edit]) -> JobShown:
        """Return what edits would make of a revision, saving nothing. Large rows are taken as confirmed by nobody."""
        made = apply_all(self.jobs.at(id, base), edits)
        return self.shown(Opened(id, base, made.job, None, None))

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

    def take_in(self, file: str, data: bytes, options: Options, task: str | None) -> tuple[str, Drawing]:
        """Read a file that was sent, keep its original, and return its content hash and the drawing."""
        content = hashlib.sha256(data).hexdigest()
        drawing = self._read(content, file, data, options, task)
        self.jobs.keep_original(content, file, data)
        return content, drawing

    def drawing(self, content: str, options: Options, task: str | None = None) -> tuple[str, Drawing]:
        """Return the file name and the drawing of an original. Raises ``Unknown``."""
        file, data = self.jobs.original(content)
        return file, self._read(content, file, data, options, task)

    def found(self, content: str, options: Options, wanted: Joining, task: str | None = None) -> tuple[str, Found]:
        """Return the file name and the lines joining makes of an original, remembered for when they are added."""
        key = f"{content} {options.model_dump_json()} {wanted.model_dump_json()}"
        file, drawing = self.drawing(content, options, task)
        known = self._found.get(key)
        if known is not None:
            return file, known
        with self.tasks.going(task, "joining the edges") as going:
            ways = {int(number): pairs for number, pairs in wanted.ways.items()}
            found = find_lines(drawing, wanted.layers, wanted.tolerance, ways, wanted.level, going.tell)
        with self._lock:
            self._found[key] = found
            while len(self._found) > 4:
                self._found.popitem(last=False)
        return file, found

    def _read(self, content: str, file: str, data: bytes, options: Options, task: str | None) -> Drawing:
        key = f"{content} {options.model_dump_json()}"
        known = self._drawings.get(key)
        if known is not None:
            return known
        ending = kind_of(file, data[:1000])
        with (
            self.tasks.going(task, "reading the file") as going,
            tempfile.NamedTemporaryFile(suffix=f".{ending}", prefix="slow-ribbon-") as kept,
        ):
            kept.write(data)
            kept.flush()
            drawing = read_apart(Path(kept.name), options, ending, stopped=going.is_stopped)
        with self._lock:
            self._drawings[key] = drawing
            while len(self._drawings) > 4:
                self._drawings.popitem(last=False)
        return drawing

    def take_picture(self, file: str, data: bytes, page: int) -> tuple[str, PictureRead]:
        """Read a picture that was sent, keep its original, and return its content hash and the picture."""
        content = hashlib.sha256(data).hexdigest()
        picture = self._picture(content, data, page)
        self.jobs.keep_original(content, file, data)
        return content, picture

    def picture(self, content: str, page: int) -> PictureRead:
        """Return a page of a picture by its content. Raises ``Unknown``."""
        known = self._pictures.get((content, page))
        return known or self._picture(content, self.jobs.original(content)[1], page)

    def _picture(self, content: str, data: bytes, page: int) -> PictureRead:
        with tempfile.NamedTemporaryFile(prefix="slow-ribbon-") as kept:
            kept.write(data)
            kept.flush()
            picture = read_picture_apart(Path(kept.name), page)
        with self._lock:
            self._pictures[(content, page)] = picture
            while len(self._pictures) > 4:
                self._pictures.popitem(last=False)
        return picture
