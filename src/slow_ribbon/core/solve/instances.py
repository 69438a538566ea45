"""What stands in the places of a typical: runs and rows as they are drawn, carried there; or solved again with a place's own measures."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from slow_ribbon.core.job.derived.typical_variants import VariantPlace, drawn_on, standings, with_own
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import ROWS, RUNS
from slow_ribbon.core.kernel.check import Check, CheckKind, Severity
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.lines.typicals.carriage import HERE
from slow_ribbon.core.lines.typicals.typical import OwnMeasure, Typical
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.solve.results import Solved, SolvedRow, SolvedRun, SolvedThing

#: Solves some runs, or some rows, of a job.
Solve = Callable[[Job, Any, list[str]], list[Any]]


@dataclass(frozen=True)
class Variant:
    """What stands alike in some places: ``lines``, ``runs`` and ``rows`` as they are before they are carried there;
    ``set_out`` are the rows as they are said.

    ``label`` is added to the tags of its pieces: nothing for what is as it is drawn. ``own`` are the measures it differs by.
    """

    label: str
    own: tuple[OwnMeasure, ...]
    places: tuple[VariantPlace, ...]
    lines: tuple[Line, ...]
    runs: tuple[SolvedRun, ...]
    rows: tuple[SolvedRow, ...]
    set_out: tuple[Row, ...]

    @property
    def things(self) -> tuple[SolvedThing, ...]:
        """Its runs and rows."""
        return (*self.runs, *self.rows)

    @property
    def straight(self) -> list[VariantPlace]:
        """The places where it is not mirrored."""
        return [one for one in self.places if not one.carriage.over]

    @property
    def mirrored(self) -> list[VariantPlace]:
        """The places where it is mirrored."""
        return [one for one in self.places if one.carriage.over]


@dataclass(frozen=True)
class SolvedTypical:
    """A typical solved. The first of its variants is as it is drawn; its runs and rows are the job's own. ``order`` names its places."""

    id: str
    key: str
    variants: tuple[Variant, ...]
    order: tuple[str, ...]
    checks: tuple[Check, ...] = ()

    @property
    def weight(self) -> int:
        """About how much memory it takes, in pieces; what is drawn is counted where it is drawn."""
        return sum(thing.weight for variant in self.variants[1:] for thing in variant.things)


def stand(job: Job, typical: Typical, solve: Solve, key: Callable[..., str]) -> SolvedTypical:
    """Return a typical solved; ``solve`` takes a job, a kind and ids, ``key`` makes a hash of texts and models."""
    runs, rows = drawn_on(job, typical.lines)
    drawn = Variant(
        "", (), (), _lines(job, typical), tuple(solve(job, RUNS, runs)), tuple(solve(job, ROWS, rows)), tuple(job.some(ROWS.group, rows))
    )
    keys = _keys(drawn)
    variants = [drawn]
    checks: list[Check] = []
    for own, places in standings(typical).items():
        look_up()
        if not own:
            variants[0] = replace(drawn, places=tuple(places))
            continue
        try:
            part = with_own(job, typical, own, places[0].name)
            solved = tuple(solve(part, RUNS, runs)), tuple(solve(part, ROWS, rows)), tuple(part.some(ROWS.group, rows))
        except Refused as refused:
            remedy = "Give the place another measure, or remove it."
            checks.append(_check(typical, places[0], "no-place", "fault", refused.what, remedy))
            continue
        other = Variant(f"-{places[0].name}", own, tuple(places), _lines(part, typical), *solved)
        if _keys(other) == keys and other.lines == drawn.lines:
            # Nothing of it differs: it stands there as it is drawn.
            variants[0] = replace(variants[0], places=(*variants[0].places, *places))
        else:
            variants.append(other)
            checks.extend(replace(check, thing=typical.id, what=f"In {places[0].name}: {check.what}") for check in _found(other))
    checks.extend(_on_one_another(typical))
    whole = key(typical, *(one for variant in variants for one in (*_keys(variant), *variant.lines)))
    order = (typical.here, *(place.name for place in typical.places))
    return SolvedTypical(typical.id, whole, tuple(variants), order, tuple(checks))


def _lines(job: Job, typical: Typical) -> tuple[Line, ...]:
    return tuple(job.line(id) for id in typical.lines)


def _keys(variant: Variant) -> list[str]:
    return [thing.key for thing in variant.things]


def _found(variant: Variant) -> Iterator[Check]:
    for thing in variant.things:
        yield from thing.checks


@kept_with
def _on_one_another(typical: Typical) -> list[Check]:
    """Return checks of places in which the same stands twice."""
    spots: dict[tuple[float, ...], list[VariantPlace]] = defaultdict(list)
    every = [one for places in standings(typical).values() for one in places]
    if not every:
        return []
    matrices, shifts = np.stack([one.carriage.matrix for one in every]), np.stack([one.carriage.shift for one in every])
    at = np.round((matrices @ np.array(typical.base) + shifts) / WELD)
    ways = np.round(matrices[:, :2, :2].reshape(-1, 4), 6) + 0.0
    for one, spot in zip(every, np.hstack([at, ways]).tolist(), strict=True):
        spots[tuple(spot)].append(one)
    return [
        _check(
            typical, same[0], "same-place", "warning",
            f"{' and '.join(one.name for one in same[:3])}{' and more' if len(same) > 3 else ''} coincide.",
            "Move or remove one of them: what stands there is counted for each.",
        )
        for same in spots.values()
        if len(same) > 1
    ]  # fmt: skip


def _check(typical: Typical, place: VariantPlace, kind: CheckKind, severity: Severity, what: str, remedy: str) -> Check:
    x, y, z = place.carriage.points(np.array(typical.base)).tolist()
    return Check(kind=kind, severity=severity, what=what, remedy=remedy, thing=typical.id, piece=None, chainage=0.0, point=(x, y, z))


def standing_runs(solved: Solved) -> Iterator[tuple[SolvedRun, VariantPlace]]:
    """Yield every run of a job wherever it stands, with its place; the place of what belongs to no typical has no name."""
    yield from _everywhere(solved, "runs", solved.results.get("runs", {}).values())


def standing_rows(solved: Solved) -> Iterator[tuple[SolvedRow, VariantPlace]]:
    """Yield every row of a job wherever it stands, as ``standing_runs``."""
    yield from _everywhere(solved, "rows", solved.results.get("rows", {}).values())


def standing_lines(solved: Solved) -> Iterator[tuple[Line, VariantPlace]]:
    """Yield every line of a job wherever it stands, as ``standing_runs``."""
    yield from _everywhere(solved, "lines", solved.job.lines)


def _everywhere(solved: Solved, group: str, things: Iterable[Any]) -> Iterator[tuple[Any, VariantPlace]]:
    within = {thing.id for typical in typicals_of(solved) for thing in getattr(typical.variants[0], group)}
    alone = VariantPlace("", HERE)
    for thing in things:
        if thing.id not in within:
            yield thing, alone
    for typical in typicals_of(solved):
        for variant in typical.variants:
            for place in variant.places:
                look_up()
                for thing in getattr(variant, group):
                    yield thing, place


def typicals_of(solved: Solved) -> list[SolvedTypical]:
    """Return the typicals of a job solved."""
    things: list[SolvedThing] = list(solved.results.get("typicals", {}).values())
    return [thing for thing in things if isinstance(thing, SolvedTypical)]
