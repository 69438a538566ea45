"""From a job to its pieces, items and checks.

``Solver.solve`` is pure in what it returns; it keeps the results of runs and rows it has
met, keyed by a hash of their inputs, so that an edit solves again only what it touches. What
is the same object as in the state solved before is not even hashed.
"""

from __future__ import annotations

import hashlib
import math
from collections import Counter, OrderedDict
from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field
from typing import Final, Generic, TypeVar

import numpy as np
import shapely

from slow_ribbon.core.job.delta import touched
from slow_ribbon.core.job.document import Job
from slow_ribbon.core.job.orphans import hanging_checks
from slow_ribbon.core.kernel.arrays import CHORD_HEIGHT, Array
from slow_ribbon.core.kernel.check import Check
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Model
from slow_ribbon.core.kernel.memo import kept_with
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.lines.alignment import Course, course_of
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.checks import row_checks
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.rows.setting_out import SetOut, set_row_out
from slow_ribbon.core.runs.checks import run_checks
from slow_ribbon.core.runs.corners import Mitre
from slow_ribbon.core.runs.mitre import Cuts, Kind, corner_kinds, cut
from slow_ribbon.core.runs.model import FacingSide, Placed, Placing, Run, run_course
from slow_ribbon.core.runs.solids import Solid, Surface, run_solid, run_surface
from slow_ribbon.core.sections.model import Section, bed_up
from slow_ribbon.core.sections.outline import OutlinePen


@dataclass(frozen=True)
class Corner:
    """A corner of a run: where it is, the wall corner in degrees, what kind it is as seen from the face."""

    chainage: float
    point: tuple[float, float, float]
    angle: float
    kind: Kind
    mismatch: float
    made: str


@dataclass(frozen=True)
class SolvedRun:
    """A run solved. ``footprints`` holds each piece's outline on plan, (k, 2); of a ring its outer and inner edge.

    ``tag`` and ``section`` are what it was solved with; the section may since have another name.
    """

    id: str
    key: str
    cuts: Cuts
    corners: tuple[Corner, ...]
    checks: tuple[Check, ...]
    mitres: Array
    bevels: Array
    footprints: tuple[tuple[Array, ...], ...]
    origin: Array
    tag: str
    section: Section

    @property
    def course(self) -> Course:
        return self.cuts.course

    def surface(self) -> Surface:
        """Return the run's skin for drawing, relative to ``origin``."""
        return run_surface(self.cuts, self.origin)

    @property
    def pieces(self) -> int:
        return self.course.count

    def solid(self) -> Solid:
        """Return the run's solid, relative to ``origin``."""
        return run_solid(self.cuts, self.origin)


@dataclass(frozen=True)
class SolvedRow:
    """A row solved; positions are in job coordinates."""

    id: str
    key: str
    out: SetOut
    origin: Array
    checks: tuple[Check, ...] = ()


@dataclass(frozen=True)
class Solved:
    """A job solved."""

    job: Job
    runs: dict[str, SolvedRun]
    rows: dict[str, SolvedRow]

    @property
    def weight(self) -> int:
        """Return about how much memory it takes: pieces and items, an item for a tenth."""
        return sum(run.pieces for run in self.runs.values()) + sum(len(row.out.chainages) for row in self.rows.values()) // 10

    def checks(self) -> list[Check]:
        """Return all checks of the job, faults first."""
        solved: list[SolvedRun | SolvedRow] = [*self.runs.values(), *self.rows.values()]
        found = [check for thing in solved for check in thing.checks]
        return sorted(found, key=lambda check: check.severity != "fault")

    def severities(self) -> tuple[int, int]:
        """Return how many faults and how many warnings the job has."""
        solved: list[SolvedRun | SolvedRow] = [*self.runs.values(), *self.rows.values()]
        counts = Counter(check.severity for thing in solved for check in thing.checks)
        return counts["fault"], counts.total() - counts["fault"]


#: Part of every key, to be raised when the same inputs give another result than before: what is
#: fetched under a key is cached for ever, beyond the life of this version of the program.
_WAY: Final = b"4"


def key_of(*parts: Model | str) -> str:
    """Return a hash of inputs and of the way of solving, 32 hexadecimal digits."""
    digest = hashlib.sha256(_WAY)
    for part in parts:
        digest.update(part.encode() if isinstance(part, str) else _written(part))
        digest.update(b"\0")
    return digest.hexdigest()[:32]


@kept_with
def _written(model: Model) -> bytes:
    return model.model_dump_json(exclude={"id", "name", "tag", "source", "material", "group"}).encode()


_S = TypeVar("_S")


@dataclass
class _Kept(Generic[_S]):
    """Results by key, the ones used last staying; together they weigh at most ``most`` (legs, or items)."""

    most: int
    weigh: Callable[[_S], int]
    made: int = 0
    weight: int = 0
    _results: OrderedDict[str, _S] = field(default_factory=OrderedDict)

    def get(self, key: str) -> _S | None:
        return self._results.get(key)

    def get_or_make(self, key: str, work: Callable[[], _S]) -> _S:
        found = self._results.get(key)
        if found is not None:
            self._results.move_to_end(key)
            return found
        found = self._results[key] = work()
        self.made += 1
        self.weight += self.weigh(found)
        # The newest always stays, however heavy.
        while self.weight > self.most and len(self._results) > 1:
            _, dropped = self._results.popitem(last=False)
            self.weight -= self.weigh(dropped)
        return found


def _go_on() -> None:
    """Do nothing: nobody waits."""


#: Runs and rows that were solved elsewhere, by key.
Given = Mapping[str, SolvedRun | SolvedRow]
NOTHING_GIVEN: Final[Given] = {}


class Solver:
    """Solves jobs and remembers runs and rows; ``solved_runs`` and ``solved_rows`` count real work done."""

    def __init__(self, most_legs: int = 100_000, most_items: int = 1_000_000) -> None:
        self._runs: _Kept[SolvedRun] = _Kept(most_legs, lambda run: run.course.count)
        self._rows: _Kept[SolvedRow] = _Kept(most_items, lambda row: len(row.out.chainages))

    @property
    def weight(self) -> int:
        """About how many pieces it remembers, ten items counting for one."""
        return self._runs.weight + self._rows.weight // 10

    @property
    def solved_runs(self) -> int:
        return self._runs.made

    @property
    def solved_rows(self) -> int:
        return self._rows.made

    def solve(self, job: Job, before: Solved | None = None, between: Callable[[], None] = _go_on, given: Given = NOTHING_GIVEN) -> Solved:
        """Return the job solved; what is as it was in the state ``before`` is taken from there.

        ``between`` is called between one run or row and the next, for others to have their turn.
        ``given`` are runs and rows that were solved elsewhere, by key.
        """
        if before is None:
            return self.some(job, {run.id for run in job.runs}, {row.id for row in job.rows}, between, given)
        again = touched(before.job, job)
        anew = self.some(job, set(again["runs"]), set(again["rows"]), between, given)
        return Solved(
            job,
            {run.id: anew.runs.get(run.id) or before.runs[run.id] for run in job.runs},
            {row.id: anew.rows.get(row.id) or before.rows[row.id] for row in job.rows},
        )

    def some(
        self, job: Job, runs: Collection[str], rows: Collection[str], between: Callable[[], None] = _go_on, given: Given = NOTHING_GIVEN
    ) -> Solved:
        """Return some runs and rows of a job solved; ``between`` and ``given`` as in ``solve``."""
        found = Solved(job, {}, {})
        if not runs and not rows:
            return found
        wanted_runs, wanted_rows = job.some("runs", runs), job.some("rows", rows)
        lines, sections = _under(job, wanted_runs, wanted_rows)
        for run in wanted_runs:
            look_up()
            found.runs[run.id] = self.run(run, lines[run.line], sections[run.section], given)
            between()
        for row in wanted_rows:
            look_up()
            found.rows[row.id] = self.row(row, lines[row.line], given)
            between()
        return found

    def unsolved(self, job: Job, runs: Collection[str], rows: Collection[str], given: Given = NOTHING_GIVEN) -> Job:
        """Return a job of those of some runs and rows that are neither remembered nor given, with what they stand on."""
        wanted_runs, wanted_rows = job.some("runs", runs), job.some("rows", rows)
        lines, sections = _under(job, wanted_runs, wanted_rows)

        def unknown(key: str) -> bool:
            return key not in given and not self._runs.get(key) and not self._rows.get(key)

        left = [run for run in wanted_runs if unknown(_run_key(run, lines[run.line], sections[run.section]))]
        set_out = [row for row in wanted_rows if unknown(_row_key(row, lines[row.line]))]
        lines, sections = _under(job, left, set_out)
        return job.model_copy(
            update={
                "lines": tuple(lines.values()), "sections": tuple(sections.values()),
                "runs": tuple(left), "rows": tuple(set_out), "pictures": (), "measures": (), "formulas": (),
            }
        )  # fmt: skip

    def run(self, run: Run, line: Line, section: Section, given: Given = NOTHING_GIVEN) -> SolvedRun:
        """Return one run solved."""
        key = _run_key(run, line, section)
        known = given.get(key)
        return self._runs.get_or_make(key, lambda: known if isinstance(known, SolvedRun) else solve_run(run, line, section, key))

    def row(self, row: Row, line: Line, given: Given = NOTHING_GIVEN) -> SolvedRow:
        """Return one row set out."""
        key = _row_key(row, line)
        known = given.get(key)

        def work() -> SolvedRow:
            course, out = course_of(line), set_row_out(row, line)
            return SolvedRow(row.id, key, out, _origin(course), (*row_checks(row, out, course), *hanging_checks(row.id, line, course)))

        return self._rows.get_or_make(key, lambda: known if isinstance(known, SolvedRow) else work())

    def run_with_key(self, key: str) -> SolvedRun | None:
        """Return a remembered run by its key."""
        return self._runs.get(key)

    def row_with_key(self, key: str) -> SolvedRow | None:
        """Return a remembered row by its key."""
        return self._rows.get(key)


def _under(job: Job, runs: Collection[Run], rows: Collection[Row]) -> tuple[dict[str, Line], dict[str, Section]]:
    """Return the lines and sections that runs and rows stand on, by id."""
    lines = job.some("lines", {*(run.line for run in runs), *(row.line for row in rows)})
    return {line.id: line for line in lines}, {section.id: section for section in job.some("sections", {run.section for run in runs})}


def _run_key(run: Run, line: Line, section: Section) -> str:
    return key_of(run.id, run.tag, line, section, run)


def _row_key(row: Row, line: Line) -> str:
    return key_of(row.id, line, row)


def solve(job: Job) -> Solved:
    """Return a job solved from nothing."""
    return Solver().solve(job)


def solve_run(run: Run, line: Line, section: Section, key: str = "", course: Course | None = None) -> SolvedRun:
    """Return one run solved: cut into pieces, its corners named and checked. ``course`` is the line's unless another is given."""
    course = course or run_course(run, line)
    placed = Placed(section, run.placing, course)
    cuts = cut(course, placed, run.corners)
    kinds = corner_kinds(course, placed.right)
    mitres, bevels = cuts.saw_settings(bed_up(section))
    corners = tuple(
        Corner(
            chainage=float(course.begins[i]),
            point=_point(course.starts[i]),
            angle=180 - math.degrees(course.turns[i]),
            kind=kinds[i],
            mismatch=float(cuts.mismatches[i]),
            made=run.corners.words if cuts.butted_begin[i] else Mitre.words,
        )
        for i in np.flatnonzero(course.turns > 0).tolist()
    )
    checks = (*run_checks(run, cuts), *hanging_checks(run.id, line, course_of(line)))
    return SolvedRun(run.id, key, cuts, corners, checks, mitres, bevels, _footprints(cuts), _origin(course), run.tag, section)


@kept_with
def solve_wall(line: Line) -> SolvedRun:
    """Return the backdrop wall of a line, solved as a run of its own. Raises ``Refused`` where it has none."""
    if line.wall is None:
        raise Refused(f"{line.name} has no wall behind it.", "wall", "no-wall")
    outline = OutlinePen(0, 0).line(1, 0).line(1, 1).line(0, 1).close()
    section = Section(id="S0", name="wall", outline=outline, width=line.wall.thickness, height=line.wall.height)
    run = Run(id="R0", name="wall", tag="W", line=line.id, section="S0", placing=Placing(facing=FacingSide(kind=line.wall.side)))
    course = run_course(run, line)
    # Bent walls come in short parts, so that those between the eye and the room can be left out of a picture one by one.
    cuts = [
        (float(course.begins[i]) + share * path.length) % course.length
        for i, path in course.paths.items()
        for share in np.linspace(0, 1, 1 + max(1, len(path.flattened(1e9)) // 3))[1:-1]
    ]
    return solve_run(run, line, section, course=course.parted(cuts) if cuts else course)


def _origin(course: Course) -> Array:
    return np.asarray(course.starts[0])


def _point(values: Array) -> tuple[float, float, float]:
    return float(values[0]), float(values[1]), float(values[2])


def _footprints(cuts: Cuts) -> tuple[tuple[Array, ...], ...]:
    """Return each piece's outline on plan: the quadrilateral of its widest reach; a hull where it rises; a strip where it bends."""
    course, placed = cuts.course, cuts.placed
    reach = placed.furthest(np.array([[-1.0, 0], [0, -1], [1, 0], [0, 1]])) * (-1, -1, 1, 1)
    left, low, right, high = (float(value) for value in reach)
    box = np.array([[left, low], [right, low], [right, high], [left, high]])
    begin, end = cuts.fibres(box)
    across = course.rights[:, None, :] * box[None, :, :1] + course.ups[:, None, :] * box[None, :, 1:]
    base = course.starts[:, None, :] + across
    # Of pieces that bend these are not used.
    near = base + course.tangents[:, None, :] * begin[:, :, None]
    far = base + course.tangents[:, None, :] * end[:, :, None]
    level = (np.abs(course.tangents[:, 2]) < 1e-9) & (course.rule == "upright")
    found: list[tuple[Array, ...]] = []
    for i in range(course.count):
        if i in course.paths:
            found.append(_strip(cuts, i, box))
        elif level[i] and abs(cuts.slopes_begin[i, 1]) + abs(cuts.slopes_end[i, 1]) < 1e-9:
            found.append((np.array([near[i, 0], far[i, 0], far[i, 1], near[i, 1]])[:, :2],))
        else:
            found.append((_hull(np.concatenate([near[i], far[i]])[:, :2]),))
    return tuple(found)


def _strip(cuts: Cuts, index: int, box: Array) -> tuple[Array, ...]:
    """Return the outline on plan of a piece that bends: along its left edge and back along its right."""
    path = cuts.course.paths[index]
    shares = path.flattened(CHORD_HEIGHT, float(np.abs(box).max())) / path.length
    here = cuts.carried(index, box, shares)
    points, along = here.points[..., :2], here.tangents[..., :2].mean(axis=1)
    # Seen from above a rising piece is as wide as its section's corners lie apart across travel.
    across = np.einsum("rkj,rj->rk", points, np.stack([along[:, 1], -along[:, 0]], axis=1))
    rows = np.arange(len(shares))
    rights, lefts = points[rows, across.argmax(axis=1)], points[rows, across.argmin(axis=1)]
    if cuts.course.count == 1 and not cuts.open_begin()[0]:
        return lefts[:-1], rights[:-1][::-1]
    return (np.concatenate([lefts, rights[::-1]]),)


def _hull(points: Array) -> Array:
    hull = shapely.convex_hull(shapely.multipoints(points))
    return np.asarray(shapely.get_coordinates(hull))
