"""The schedule of a solved job: totals of pieces and lengths, items and fittings counted. Every total is the sum of unrounded values."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any, Literal

from slow_ribbon.core.cutting.bars import bars_needed
from slow_ribbon.core.cutting.cut_rows import CutRow
from slow_ribbon.core.cutting.cutting_list import cutting_list
from slow_ribbon.core.cutting.item_list import items_by_kind
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.saw import Saw
from slow_ribbon.core.lines.construction import FramePane
from slow_ribbon.core.lines.fillets import line_parts
from slow_ribbon.core.lines.legs import CordLeg
from slow_ribbon.core.lines.made.panes import PaneLaid, pane_laid
from slow_ribbon.core.lines.made.strips import strip_laid
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.treatments.joints import Bars
from slow_ribbon.core.solve.instances import typicals_of
from slow_ribbon.core.solve.results import Solved, SolvedRow, SolvedRun


@dataclass(frozen=True)
class Total:
    """Totals over pieces, mm: ``bar`` is the sum of long points, what must be cut from stock before kerf."""

    pieces: int
    line_length: float
    bar: float

    def from_stock(self, saw: Saw) -> float:
        """Return the length to be cut from stock, mm: long points with what is trimmed later at both ends, and a kerf for every piece."""
        return self.bar + self.pieces * (saw.kerf + 2 * saw.trim)

    def __mul__(self, times: int) -> Total:
        return Total(self.pieces * times, self.line_length * times, self.bar * times)

    def __add__(self, other: Total) -> Total:
        return Total(self.pieces + other.pieces, self.line_length + other.line_length, self.bar + other.bar)


NOTHING = Total(0, 0.0, 0.0)


@dataclass(frozen=True)
class RowCount:
    """Items of a row: how many wherever it stands, at what actual centres, and what is left over at the ends of its stretches, mm."""

    row: str
    count: int
    centres: tuple[float, ...]
    left_over: float


@dataclass(frozen=True)
class Schedule:
    """Totals for each run, each section and the job, and item counts for each row.

    ``sizes`` are those of each row of a section's range that runs are made in, by the section's id. ``fittings`` are how many there are of
    each, by their names: caps of ends, and what stands in corners.
    """

    runs: dict[str, Total]
    sections: dict[str, Total]
    sizes: dict[str, dict[str, Total]]
    job: Total
    rows: dict[str, RowCount]
    fittings: dict[str, int]


def schedule(solved: Solved) -> Schedule:
    """Return the totals of a job. Every total is the sum of unrounded values."""
    runs: dict[str, Total] = {}
    sections: dict[str, Total] = {}
    sizes: dict[str, dict[str, Total]] = {}
    places = _times(solved)
    for run in solved.job.runs:
        stands = places.get(run.id)
        total = run_total(solved.runs[run.id]) if stands is None else sum((run_total(one) * times for one, times in stands), NOTHING)
        runs[run.id] = total
        for one, times in stands or [(solved.runs[run.id], 1)]:
            for section, part in section_totals(one).items():
                sections[section] = sections.get(section, NOTHING) + part * times
                if run.size is not None and section == run.section:
                    made = sizes.setdefault(run.section, {})
                    made[run.size] = made.get(run.size, NOTHING) + part * times
    rows = {}
    for row in solved.job.rows:
        stands = places.get(row.id)
        count = row_count(solved.rows[row.id])
        rows[row.id] = count if stands is None else replace(count, count=sum(row_count(one).count * times for one, times in stands))
    fittings: Counter[str] = Counter()
    for found in solved.runs.values():
        for one, times in places.get(found.id, [(found, 1)]):
            for name in fittings_of(one):
                fittings[name] += times
    return Schedule(
        runs, sections, sizes, sum(runs.values(), NOTHING), rows, {name: fittings[name] for name in sorted(fittings) if fittings[name]}
    )


@dataclass(frozen=True)
class ScheduleEntry:
    """A line of the schedule, with what there is of what its ``kind`` says.

    ``total``: its pieces, None where it has none, with their ``weight``, kg, and how much of them is ``painted``, mm²; ``items``: how many
    are counted, of a strip its joints; ``row``: of a row of items, its centres and left-over; ``area``: of a field or a strip its ground,
    of panes their faces, mm²; ``of``: the id of its run, row, section or line.
    """

    kind: Literal["run", "section", "size", "bar", "row", "item", "cord", "strip", "pane", "board", "fitting", "job"]
    name: str
    total: Total | None = None
    items: int | None = None
    row: RowCount | None = None
    weight: float | None = None
    painted: float | None = None
    area: float | None = None
    of: str = ""


def schedule_entries(solved: Solved) -> Iterator[ScheduleEntry]:
    """Yield the lines of the schedule: runs, sections with their sizes and bars, rows, items by kind, strips, panes, fittings, the job."""
    job, totals, sums = solved.job, schedule(solved), _Sums()
    for cut in cutting_list(solved):
        sums.add(cut, job.run(cut.run))

    def of(kind: Literal["run", "section", "size", "job"], name: str, total: Total, id: str, size: str | None = None) -> ScheduleEntry:
        weight, painted = sums.of.get((kind, id, size), (0.0, 0.0))
        return ScheduleEntry(kind, name, total, weight=weight, painted=painted, of=id)

    for run in job.runs:
        yield of("run", run.name, totals.runs[run.id], run.id)
    for section in job.sections:
        if section.id in totals.sections:
            yield of("section", section.name, totals.sections[section.id], section.id)
        for size, total in totals.sizes.get(section.id, {}).items():
            yield of("size", f"{section.name}, {size}", total, section.id, size)
        yield from _bars(section.id, section.name, sums, job.saw)
    for row in job.rows:
        count, area = totals.rows[row.id], solved.rows[row.id].out.area
        yield ScheduleEntry("row", row.name, items=count.count, row=count if area is None else None, area=area, of=row.id)
    for name, number in items_by_kind(solved).items():
        yield ScheduleEntry("item", name, items=number)
    for line in job.lines:
        cords = [(part.span.length, leg) for part in line_parts(line) if isinstance(leg := line.legs[part.leg], CordLeg)]
        if cords:
            # What is cut of it is as long as it hangs, with what it is fastened by.
            hung = sum(length for length, _ in cords)
            whole = Total(len(cords), hung, hung + sum(2 * leg.allowance for _, leg in cords))
            yield ScheduleEntry("cord", line.name, whole, of=line.id)
    for line in job.lines:
        if line.strip is not None:
            laid = strip_laid(line)
            yield ScheduleEntry("strip", line.name, items=len(laid.joints), area=float(laid.region.area), of=line.id)
    yield from _panes(solved)
    for name, number in totals.fittings.items():
        yield ScheduleEntry("fitting", name, items=number)
    together = of("job", job.name, totals.job, "")
    yield replace(together, items=sum(count.count for count in totals.rows.values()))


def _panes(solved: Solved) -> Iterator[ScheduleEntry]:
    """Yield the panes in lines, those of a frame that are alike together: glass and mesh by their sides, boards by number and length."""
    alike: dict[tuple[str, str], list[tuple[PaneLaid, int]]] = {}
    for line, times in _line_times(solved):
        laid = pane_laid(line)
        if laid is not None:
            frame = line.made.line if isinstance(line.made, FramePane) else line.id
            alike.setdefault((frame, laid.name), []).append((laid, times))
    for (frame, name), panes in alike.items():
        area = sum(float(one.outline.area) * times for one, times in panes)
        whole, count = f"{solved.job.line(frame).name}, {name}", sum(times for _, times in panes)
        if panes[0][0].pane.of == "boards":
            length = sum(sum(one.lengths) * times for one, times in panes)
            boards = Total(sum(len(one.lengths) * times for one, times in panes), length, length)
            yield ScheduleEntry("board", whole, boards, area=area, of=frame)
        else:
            yield ScheduleEntry("pane", whole, items=count, area=area, of=frame)


def _line_times(solved: Solved) -> Iterator[tuple[Line, int]]:
    """Yield the lines of a job as they stand, each with in how many places it does."""
    variants = [variant for typical in typicals_of(solved) for variant in typical.variants]
    within = {line.id for variant in variants for line in variant.lines}
    yield from ((line, 1) for line in solved.job.lines if line.id not in within)
    yield from ((line, len(variant.places)) for variant in variants if variant.places for line in variant.lines)


class _Sums:
    """Weights and painted areas of pieces summed up, by the kind of entry, id and size, and lengths that are sawn from bars."""

    def __init__(self) -> None:
        self.of: dict[tuple[str, str, str | None], tuple[float, float]] = {}
        self.sawn: dict[tuple[str, str | None, Bars], list[tuple[float, int]]] = {}

    def add(self, row: CutRow, run: Run) -> None:
        section = row.section.id
        keys = [("run", run.id, None), ("section", section, None), ("job", "", None)]
        size = run.size if section == run.section else None
        for key in [*keys, ("size", section, size)] if size is not None else keys:
            weight, painted = self.of.get(key, (0.0, 0.0))
            self.of[key] = weight + row.quantity * row.weight, painted + row.quantity * row.painted
        if run.joints is not None:
            self.sawn.setdefault((section, size, run.joints.bars), []).append((row.long_point, row.quantity))


def _bars(section: str, name: str, sums: _Sums, saw: Saw) -> Iterator[ScheduleEntry]:
    """Yield the bars that the pieces of a section are sawn from, where they are made from bars."""
    for (of, size, bars), sawn in sums.sawn.items():
        if of != section:
            continue
        counted = bars_needed([(length + 2 * saw.trim, number) for length, number in sawn], bars, saw.kerf)
        whole = name if size is None else f"{name}, {size}"
        for length, number in counted.bars.items():
            yield ScheduleEntry("bar", f"{whole}: bars of {figure(length)}, a first count", items=number, of=section)
        if counted.too_long:
            yield ScheduleEntry("bar", f"{whole}: pieces longer than any bar", items=counted.too_long, of=section)


def _times(solved: Solved) -> dict[str, list[tuple[Any, int]]]:
    """Return, of runs and rows that stand in several places, each as it is there and in how many of them."""
    found: dict[str, list[tuple[Any, int]]] = {}
    for typical in typicals_of(solved):
        for variant in typical.variants:
            for thing in variant.things:
                found.setdefault(thing.id, []).append((thing, len(variant.places)))
    return found


def fittings_of(run: SolvedRun) -> list[str]:
    """Return the names of what closes a run's ends and stands in its corners, each as often as it is needed."""
    ways = run.cuts.finishing.ways.values() if run.cuts.finishing is not None else ()
    return [way.fitting for way in ways if way.fitting] + [corner.fitting for corner in run.corners if corner.fitting]


@kept_with
def run_total(run: SolvedRun) -> Total:
    """Return the totals over a run's pieces."""
    return Total(run.pieces, float(run.cuts.line_lengths.sum()), float(run.cuts.long_points.sum()))


@kept_with
def section_totals(run: SolvedRun) -> dict[str, Total]:
    """Return the totals over a run's pieces by the id of the section that they are of; of one that the job has none of, its first's."""
    if not run.sections:
        return {run.section.id: run_total(run)}
    found: dict[str, Total] = {}
    for sort, section in enumerate(run.sections):
        of = run.cuts.sorts == sort
        part = Total(int(of.sum()), float(run.cuts.line_lengths[of].sum()), float(run.cuts.long_points[of].sum()))
        found[section.id] = found.get(section.id, NOTHING) + part
    return {id: part for id, part in found.items() if part.pieces}


@kept_with
def row_count(row: SolvedRow) -> RowCount:
    """Return the items of a row, counted."""
    out = row.out
    centres = sorted({round(one, 9) for stretch in out.stretches for one in stretch.all_centres})
    left_over = sum(stretch.left_start + stretch.left_end for stretch in out.stretches)
    return RowCount(row.id, out.count, tuple(centres), left_over)
