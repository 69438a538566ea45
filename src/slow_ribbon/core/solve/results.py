"""The results of solving a job: pieces of runs, items of rows, and checks."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Protocol, cast

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.kernel.arrays import Array, Result
from slow_ribbon.core.kernel.check import Check
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.rows.row_set_out import RowSetOut
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.fittings import UprightBlock, with_uprights
from slow_ribbon.core.runs.pieces.solids import Solid, Surface, run_solid, run_surface
from slow_ribbon.core.runs.pieces.trim_pieces import CornerKind
from slow_ribbon.core.runs.treatments.curves.base import Curvature
from slow_ribbon.core.sections.document.section import Section


@dataclass(frozen=True)
class Corner:
    """A corner of a run: where it is, the wall corner in degrees, what kind it is as seen from the face.

    ``made`` is how, in words; ``own`` where in a way of its own; ``vertex`` the point of the line there; ``fitting`` what stands in it.
    """

    chainage: float
    point: tuple[float, float, float]
    angle: float
    kind: CornerKind
    mismatch: float
    made: str
    vertex: int | None = None
    fitting: str = ""
    own: bool = False


@dataclass(frozen=True)
class SolvedRun(Result):
    """A run solved. ``joints`` are the chainages at which pieces meet along a leg.

    ``footprints`` holds each piece's outline on plan, (k, 2); of a ring its outer and inner edge.

    ``curvatures``: what each piece whose curve is made in a way of its own is made of; ``strays`` how far facets are off the line.

    ``tags`` and ``section`` are what it was solved with; the section may since have another name. ``sections`` are those that its pieces
    are of, by their sort: the section itself, and the second ones that member with it where it rises as it turns. ``uprights`` are the
    blocks and posts that stand where pieces end, ``facets`` the pieces that stand in for a part of a curve, ``line`` the id of its line.
    """

    id: str
    key: str
    cuts: Cuts
    corners: tuple[Corner, ...]
    joints: tuple[float, ...]
    checks: tuple[Check, ...]
    mitres: Array
    bevels: Array
    footprints: tuple[tuple[Array, ...], ...]
    origin: Array
    tags: tuple[str, ...]
    section: Section
    sections: tuple[Section, ...] = ()
    curvatures: tuple[Curvature | None, ...] = ()
    strays: float | None = None
    uprights: tuple[UprightBlock, ...] = ()
    facets: frozenset[int] = frozenset()
    line: str = ""

    @property
    def course(self) -> Course:
        return self.cuts.plain

    def surface(self) -> Surface:
        """Return the run's skin for drawing, with what stands where its pieces end, relative to ``origin``."""
        return with_uprights(run_surface(self.cuts, self.origin), self.uprights, self.origin)

    def section_of(self, index: int) -> Section:
        """Return the section that a piece is of."""
        return self.sections[self.cuts.sorts[index]] if self.sections else self.section

    @property
    def pieces(self) -> int:
        return self.course.count

    @property
    def weight(self) -> int:
        """About how much memory it takes, in pieces."""
        return self.pieces

    def solid(self) -> Solid:
        """Return the run's solid, relative to ``origin``."""
        return run_solid(self.cuts, self.origin)


@dataclass(frozen=True)
class SolvedRow(Result):
    """A row solved; positions are in job coordinates."""

    id: str
    key: str
    out: RowSetOut
    origin: Array
    checks: tuple[Check, ...] = ()

    @property
    def weight(self) -> int:
        """About how much memory it takes, in pieces: ten items take about as much as one."""
        return self.out.count // 10


class SolvedThing(Protocol):
    """The result of a thing of any kind that is solved."""

    @property
    def id(self) -> str: ...

    @property
    def key(self) -> str:
        """A hash of all that it was made of: what has the same is the same."""
        ...

    @property
    def checks(self) -> tuple[Check, ...]: ...

    @property
    def weight(self) -> int: ...


@dataclass(frozen=True)
class Difference:
    """How the things of one group came out otherwise: the ids of those that are new, gone, and changed."""

    new: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    changed: tuple[str, ...] = ()


@kept_with
def _reasons(job: Job) -> dict[tuple[str, str], str]:
    """Return the reasons for which checks of a job were accepted, by the thing and the check's key."""
    return {(one.thing, one.check): one.reason for one in job.accepted}


@dataclass(frozen=True)
class Solved:
    """A job solved: ``results`` by group and id, in the order of the job."""

    job: Job
    results: Mapping[str, Mapping[str, SolvedThing]] = field(default_factory=dict)

    @property
    def runs(self) -> Mapping[str, SolvedRun]:
        return cast("Mapping[str, SolvedRun]", self.results.get("runs", {}))

    @property
    def rows(self) -> Mapping[str, SolvedRow]:
        return cast("Mapping[str, SolvedRow]", self.results.get("rows", {}))

    def things(self) -> Iterator[SolvedThing]:
        """Yield the results of all things of the job."""
        for group in self.results.values():
            yield from group.values()

    @property
    def weight(self) -> int:
        """Return about how much memory it takes, in pieces."""
        return sum(thing.weight for thing in self.things())

    def checks(self) -> list[Check]:
        """Return all checks of the job, faults first."""
        found = [check for thing in self.things() for check in thing.checks]
        return sorted(found, key=lambda check: check.severity != "fault")

    def reason(self, check: Check) -> str | None:
        """Return why a check was accepted; None where it was not."""
        known = _reasons(self.job)
        # Most jobs have none, and a check's keys take longer than to see that.
        return next((known[check.thing, key] for key in check.keys if (check.thing, key) in known), None) if known else None

    def severities(self) -> tuple[int, int]:
        """Return how many faults and how many warnings the job has, those left out that were accepted."""
        counts = Counter(check.severity for thing in self.things() for check in thing.checks if self.reason(check) is None)
        return counts["fault"], counts.total() - counts["fault"]

    def since(self, before: Solved) -> dict[str, Difference]:
        """Return, by group, what came out otherwise than in another state; groups without any are left out.

        A name or a note that nothing is made of is no difference.
        """
        found = {}
        for group in {**before.results, **self.results}:
            was, now = before.results.get(group, {}), self.results.get(group, {})
            difference = Difference(
                new=tuple(id for id in now if id not in was),
                gone=tuple(id for id in was if id not in now),
                changed=tuple(id for id in now if id in was and now[id] is not was[id] and now[id].key != was[id].key),
            )
            if difference != Difference():
                found[group] = difference
        return found
